//! What the keys do while a question stands that came up by itself.

use crossterm::event::{KeyCode, KeyEvent};

use super::app::{App, Effect};
use super::command::Command;
use super::menu::Menu;
use super::offer::{Asks, Offer, SETTLES};
use super::recovery::{Left, fingerprint};

impl App {
    /// The question that is shown.
    pub fn offer(&self) -> Option<&Offer> {
        self.over.offers.first()
    }

    /// Whether a choice waits for its Enter.
    pub(super) fn holds_choice(&self) -> bool {
        self.offer().is_some_and(|offer| !offer.held.is_empty())
    }

    /// Asks, in place of what was asked of that sort before.
    pub(super) fn put_offer(&mut self, asks: Asks) {
        if self.over.offers.iter().any(|offer| offer.asks == asks) {
            return;
        }
        self.drop_offers(std::mem::discriminant(&asks));
        self.over.offers.push(Offer::new(asks, self.waiting.now));
    }

    /// The file is no longer what was asked about.
    pub(super) fn drop_disk_offer(&mut self) {
        self.drop_offers(std::mem::discriminant(&Asks::Disk(String::new())));
    }

    fn drop_offers(&mut self, sort: std::mem::Discriminant<Asks>) {
        if self.holds_choice() {
            self.close_difference();
        }
        self.over.offers.retain(|offer| std::mem::discriminant(&offer.asks) != sort);
    }

    /// Takes in a key if it is for the question; none if it is for somebody else.
    pub(super) fn answer_offer(&mut self, key: KeyEvent) -> Option<Vec<Effect>> {
        let now = self.waiting.now;
        let offer = self.over.offers.first_mut()?;
        let is_settled = now - offer.since >= SETTLES && key.modifiers.is_empty();
        let is_plain = key.modifiers.is_empty();
        match (key.code, offer.held.is_empty()) {
            (KeyCode::Enter, false) if is_plain => return Some(self.take_offer()),
            (KeyCode::Esc, false) => {
                offer.held.clear();
                offer.since = now;
                self.close_difference();
                return Some(Vec::new());
            }
            (KeyCode::Esc, true) if is_settled && matches!(offer.asks, Asks::Recover(_)) => {
                self.over.offers.remove(0);
                let words = "it stays kept, and is offered at the next start";
                self.said.message = Some((words.into(), false));
                return Some(Vec::new());
            }
            (code, _) if is_settled && offer.chooses(code) => {
                offer.held.push(key);
                offer.since = now;
                if let (Asks::Disk(theirs), KeyCode::Char('d')) = (&offer.asks, code) {
                    let theirs = theirs.clone();
                    self.show_difference(&theirs);
                }
                return Some(Vec::new());
            }
            // What lies over the screen turns its page.
            (code, false) if self.over.menu.is_some() && is_turn(code) => return None,
            _ => offer.since = now,
        }
        // It was no choice: what was held is what it would have been, and then this key is.
        let held = std::mem::take(&mut offer.held);
        if held.is_empty() {
            return None;
        }
        self.close_difference();
        let mut effects = Vec::new();
        for key in held.into_iter().chain([key]) {
            effects.extend(self.key(key, now));
        }
        Some(effects)
    }

    /// Lets go of a choice that waits, as any other key would: what was typed for it is typed.
    pub(super) fn let_go_of_choice(&mut self) -> Vec<Effect> {
        let now = self.waiting.now;
        let Some(offer) = self.over.offers.first_mut() else { return Vec::new() };
        let held = std::mem::take(&mut offer.held);
        offer.since = now;
        if held.is_empty() {
            return Vec::new();
        }
        self.close_difference();
        held.into_iter().flat_map(|key| self.key(key, now)).collect()
    }

    fn close_difference(&mut self) {
        if matches!(&self.over.menu, Some(Menu::Page { is_difference: true, .. })) {
            self.over.menu = None;
        }
    }

    /// Does what was chosen.
    fn take_offer(&mut self) -> Vec<Effect> {
        self.close_difference();
        let offer = self.over.offers.remove(0);
        match (offer.asks, offer.held.last().map(|key| key.code)) {
            (Asks::Recover(left), Some(KeyCode::Delete)) => vec![Effect::SetAside(left)],
            (Asks::Recover(left), _) => {
                self.script.buffer.put_all(&left.text);
                self.said.message =
                    Some(("the text is as it was; Ctrl+Z takes that back".into(), false));
                if let Some(theirs) = self.changed_since(&left) {
                    // It was typed into another text than the one that is in the file now.
                    self.file.on_disk = None;
                    self.script.buffer.mark_unsaved();
                    self.put_offer(Asks::Disk(theirs));
                }
                let branches = left.branches.iter().map(|recipe| recipe.as_ref().clone()).collect();
                vec![Effect::Tell(Command::Branches(branches)), Effect::Taken(left)]
            }
            (Asks::Disk(theirs), Some(KeyCode::Char('t'))) => {
                self.take_theirs(&theirs);
                let words = "the file's text is here; Ctrl+Z brings yours back";
                self.said.message = Some((words.into(), false));
                Vec::new()
            }
            (Asks::Disk(theirs), Some(KeyCode::Char('k'))) => {
                self.file.on_disk = Some(theirs.into_bytes());
                self.script.buffer.mark_unsaved();
                let words = "your text is kept; saving puts it in place of the file's";
                self.said.message = Some((words.into(), false));
                Vec::new()
            }
            // Having looked at what differs is no answer.
            (asks, _) => {
                self.over.offers.insert(0, Offer::new(asks, self.waiting.now));
                Vec::new()
            }
        }
    }

    /// What is in the file, if that is not what a text that was left behind was typed into.
    fn changed_since(&self, left: &Left) -> Option<String> {
        let theirs = self.file.on_disk.as_ref()?;
        if left.base == Some(fingerprint(theirs)) {
            return None;
        }
        String::from_utf8(theirs.clone()).ok()
    }
}

fn is_turn(code: KeyCode) -> bool {
    matches!(code, KeyCode::Up | KeyCode::Down | KeyCode::PageUp | KeyCode::PageDown)
}
