//! Keys whose meaning hangs on what the simulation has yet to answer: they wait for it, and what comes after them waits
//! behind, so that several keys at once mean what they would mean one by one.

use super::app::{App, Effect};
use super::keys::Action;
use super::snapshot::Story;
use super::views::Filter;
use super::waiting::Came;

/// Most seconds keys wait for the simulation, which may be at a tick that takes long.
const LONGEST_WAIT: f64 = 0.5;

impl App {
    /// Does what has waited for the simulation to answer, and then what came after it.
    pub(super) fn go_on(&mut self) -> Vec<Effect> {
        let mut effects = Vec::new();
        if self.is_answered()
            && let Some(action) = self.waiting.action.take()
        {
            effects.extend(self.act(action));
        }
        while self.waiting.action.is_none() && !self.waiting.queued.is_empty() {
            effects.extend(match self.waiting.queued.remove(0) {
                Came::Key(key, now) => self.key(key, now),
                Came::Paste(text) => self.paste(&text),
                Came::Mouse(mouse) => self.mouse(mouse),
            });
        }
        effects
    }

    /// Whether the story is that of the selected one and the list is the one that is asked for.
    fn is_answered(&self) -> bool {
        self.is_listed() && self.snapshot.selected.focus == self.focus
    }

    /// Whether the list in the drawer, if it shows one, is the one that is asked for.
    pub(super) fn is_listed(&self) -> bool {
        let lists = self.drawer.view.entry().filter == Filter::Entities;
        let Some(wish) = self.snapshot.answer.wish.as_ref().filter(|_| lists) else { return true };
        let now = self.present_wish();
        (wish.view, &wish.filter, wish.sort, wish.reversed)
            == (now.view, &now.filter, now.sort, now.reversed)
    }

    /// Puts what came behind what waits; false if nothing does.
    pub(super) fn queue(&mut self, came: Came) -> bool {
        let waits = self.waiting.action.is_some();
        if waits {
            self.waiting.queued.push(came);
        }
        waits
    }

    /// Has an action wait until the simulation has answered. The keys that come meanwhile wait behind it.
    pub(super) fn wait(&mut self, action: Action) -> Vec<Effect> {
        self.waiting.action = Some(action);
        self.waiting.since = self.waiting.now;
        Vec::new()
    }

    /// Does something with the story of the selected one; as soon as it is here, if it is on its way.
    pub(super) fn with_story(
        &mut self,
        action: Action,
        then: fn(&mut App, Option<Story>) -> Vec<Effect>,
    ) -> Vec<Effect> {
        if self.focus.is_some() && self.snapshot.selected.focus != self.focus {
            return self.wait(action);
        }
        let story = self.story().cloned();
        then(self, story)
    }

    /// Does without an answer that does not come.
    pub(super) fn give_up_waiting(&mut self, now: f64) -> Vec<Effect> {
        if self.waiting.action.is_none() || now - self.waiting.since <= LONGEST_WAIT {
            return Vec::new();
        }
        self.waiting.action = None;
        let effects = self.go_on();
        let words = "the simulation is busy: what hung on its answer was left out";
        self.said.message = Some((words.into(), true));
        effects
    }
}
