//! Keys and pasted texts, and where they go.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use super::app::{App, Effect};
use super::command::Command;
use super::commands::action_of;
use super::keys::{Action, Place};
use super::layout::body;
use super::script::buffer::Move;
use super::waiting::Came;

impl App {
    /// Takes in a key.
    pub fn key(&mut self, key: KeyEvent, now: f64) -> Vec<Effect> {
        self.waiting.now = now;
        if key.kind != crossterm::event::KeyEventKind::Release && self.queue(Came::Key(key, now)) {
            return Vec::new();
        }
        if self.areas().is_none() {
            let quits = key.code == KeyCode::Char('q') && key.modifiers == KeyModifiers::CONTROL;
            return if quits { self.quit() } else { Vec::new() };
        }
        if key.kind == crossterm::event::KeyEventKind::Release {
            return self
                .controls
                .release(key, &self.snapshot)
                .into_iter()
                .map(Effect::Tell)
                .collect();
        }
        if self.holds_choice()
            && self.over.prompt.is_none()
            && let Some(effects) = self.answer_offer(key)
        {
            self.scroll();
            return effects;
        }
        if self.over.prompt.is_some() {
            self.said.message = None;
            let effects = self.answer(key);
            self.scroll();
            return effects;
        }
        if self.over.menu.is_some() {
            self.said.message = None;
            let effects = self.menu_key(key);
            self.scroll();
            return effects;
        }
        if self.over.help.is_some() {
            self.turn_help(key);
            return Vec::new();
        }
        if !self.holds_choice()
            && let Some(effects) = self.answer_offer(key)
        {
            self.scroll();
            return effects;
        }
        self.said.message = None;
        self.said.first = None;
        self.bands.peeks = false;
        if self.controls.on && !matches!(key.code, KeyCode::F(_)) {
            return self.play_key(key, now);
        }
        if key.code == KeyCode::Esc
            && self.snapshot.travel.goal.is_some_and(|to| to != self.snapshot.travel.tick)
        {
            return vec![Effect::Tell(Command::Halt)];
        }
        let crosses = self.bands.place == Place::Arena && self.arena.cross.is_some();
        if crosses && matches!(key.code, KeyCode::Up | KeyCode::Down) && key.modifiers.is_empty() {
            self.move_cross(0.0, if key.code == KeyCode::Up { -1.0 } else { 1.0 });
            return Vec::new();
        }
        let effects = match action_of(key, self.bands.place, self.drawer.view) {
            // A selection is left before the script is.
            Some(Action::Arena)
                if key.code == KeyCode::Esc && self.script.buffer.selection().is_some() =>
            {
                let (line, column) = self.script.buffer.cursor();
                self.script.buffer.go_to(line, column);
                Vec::new()
            }
            Some(action) => self.act(action),
            None if self.bands.place == Place::Script => self.type_key(key),
            None if self.bands.place == Place::Arena => self.point(key),
            None => Vec::new(),
        };
        self.scroll();
        effects
    }

    /// Releases the keys that a terminal without release reports leaves down.
    pub fn tick(&mut self, now: f64) -> Vec<Effect> {
        self.waiting.now = now;
        let mut effects: Vec<Effect> =
            self.controls.tick(now).into_iter().map(Effect::Tell).collect();
        effects.extend(self.give_up_waiting(now));
        effects
    }

    /// While the play has the keys all are its own, but Esc and those with a number.
    fn play_key(&mut self, key: KeyEvent, now: f64) -> Vec<Effect> {
        if key.code == KeyCode::Esc {
            return self.let_go();
        }
        match self.controls.press(key, now, &self.snapshot) {
            Some(commands) => commands.into_iter().map(Effect::Tell).collect(),
            // Esc and a key right behind it look like one with Alt.
            None if key.modifiers.contains(KeyModifiers::ALT) => {
                let mut effects = self.let_go();
                let alone = KeyEvent { modifiers: key.modifiers - KeyModifiers::ALT, ..key };
                effects.extend(self.key(alone, now));
                effects
            }
            None => {
                let words = "no input of the pond has this key; Esc gives the keys back";
                self.said.message = Some((words.into(), false));
                Vec::new()
            }
        }
    }

    pub(super) fn let_go(&mut self) -> Vec<Effect> {
        self.controls.on = false;
        self.controls.release_all().into_iter().map(Effect::Tell).collect()
    }

    fn turn_help(&mut self, key: KeyEvent) {
        let top = self.over.help.unwrap_or(0);
        self.over.help = match key.code {
            KeyCode::Down | KeyCode::Char('j') => Some(top + 1),
            KeyCode::Up | KeyCode::Char('k') => Some(top.saturating_sub(1)),
            KeyCode::PageDown | KeyCode::Char(' ') => Some(top + 10),
            KeyCode::PageUp => Some(top.saturating_sub(10)),
            _ => None,
        };
    }

    pub(super) fn type_key(&mut self, key: KeyEvent) -> Vec<Effect> {
        let selects = key.modifiers.contains(KeyModifiers::SHIFT);
        let by_word = key.modifiers.contains(KeyModifiers::CONTROL);
        let page = self.areas().map_or(10, |a| usize::from(body(a.script).height).max(2) - 1);
        let way = match key.code {
            KeyCode::Left if by_word => Some(Move::WordLeft),
            KeyCode::Right if by_word => Some(Move::WordRight),
            KeyCode::Left => Some(Move::Left),
            KeyCode::Right => Some(Move::Right),
            KeyCode::Up => Some(Move::Up(1)),
            KeyCode::Down => Some(Move::Down(1)),
            KeyCode::PageUp => Some(Move::Up(page)),
            KeyCode::PageDown => Some(Move::Down(page)),
            KeyCode::Home if by_word => Some(Move::Start),
            KeyCode::End if by_word => Some(Move::End),
            KeyCode::Home => Some(Move::LineStart),
            KeyCode::End => Some(Move::LineEnd),
            _ => None,
        };
        let buffer = &mut self.script.buffer;
        if let Some(way) = way {
            buffer.step(way, selects);
            let downwards =
                matches!(way, Move::Down(_) | Move::Right | Move::WordRight | Move::End);
            self.script.leave_folds(downwards);
            return Vec::new();
        }
        let plain = key.modifiers.difference(KeyModifiers::SHIFT).is_empty();
        match key.code {
            KeyCode::Char('}') if plain => buffer.close_brace(),
            KeyCode::Char(c) if plain => buffer.insert(&c.to_string()),
            KeyCode::Enter => buffer.new_line(),
            KeyCode::Tab => buffer.insert("    "),
            KeyCode::Backspace => buffer.backspace(),
            KeyCode::Delete => buffer.delete(),
            _ => {}
        }
        Vec::new()
    }

    /// Takes in a text pasted by the terminal.
    pub fn paste(&mut self, text: &str) -> Vec<Effect> {
        if self.queue(Came::Paste(text.to_string())) {
            return Vec::new();
        }
        let effects = self.let_go_of_choice();
        let text = text.replace("\r\n", "\n").replace('\r', "\n");
        if !self.paste_into_prompt(&text) && self.bands.place == Place::Script {
            self.script.buffer.insert(&text);
            self.scroll();
        }
        effects
    }

    pub(super) fn copy(&mut self) -> Vec<Effect> {
        match self.script.buffer.selected_text() {
            Some(text) => {
                self.known.clipboard = text.clone();
                self.said.message = Some(("copied".into(), false));
                vec![Effect::Clipboard(text)]
            }
            None => {
                self.said.message =
                    Some(("select something first: Shift and arrows".into(), false));
                Vec::new()
            }
        }
    }
}
