//! What becomes of the answers to the questions at the bottom of the screen.

use std::path::Path;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use tickpond_lang::units::{Dim, parted};

use super::app::{App, Effect};
use super::command::Command;
use super::keys::Place;
use super::views::DrawerView;

use super::offer::SETTLES;
use super::prompt::{After, Ask, Asked, Prompt, RECORDING};

impl App {
    /// Asks for a line.
    pub(super) fn ask(&mut self, ask: Ask, typed: impl Into<String>) {
        self.over.prompt = Some(Prompt::Line(ask, typed.into()));
    }

    pub(super) fn answer(&mut self, key: KeyEvent) -> Vec<Effect> {
        let Some(prompt) = self.over.prompt.take() else { return Vec::new() };
        let plain = key.modifiers.difference(KeyModifiers::SHIFT).is_empty();
        if prompt.is_choice() && key.code != KeyCode::Esc {
            return self.choose_answer(prompt, key);
        }
        match (prompt, key.code) {
            (Prompt::Line(ask, _), KeyCode::Esc) => {
                // Leaving the question shows all again.
                match ask {
                    Ask::Filter => self.drawer.filter.clear(),
                    Ask::FeedFilter => self.drawer.feed_filter.clear(),
                    _ => {}
                }
                Vec::new()
            }
            (_, KeyCode::Esc) => Vec::new(),
            (Prompt::Layers, KeyCode::Char(c)) => {
                self.arena.layers.switch(c);
                self.over.prompt = Some(Prompt::Layers);
                Vec::new()
            }
            (Prompt::Layers, _) => Vec::new(),
            (Prompt::SaveAs(name, after), KeyCode::Enter) if !name.trim().is_empty() => {
                let path = Path::new(name.trim()).to_path_buf();
                vec![Effect::Save { path, over: false, after }]
            }
            (Prompt::SaveAs(mut name, after), code) => {
                type_into(&mut name, code, plain);
                self.over.prompt = Some(Prompt::SaveAs(name, after));
                Vec::new()
            }
            (Prompt::Line(ask, typed), KeyCode::Enter) => self.answered(ask, typed.trim()),
            (Prompt::Line(ask, mut typed), code) => {
                type_into(&mut typed, code, plain);
                self.live(&ask, &typed);
                self.over.prompt = Some(Prompt::Line(ask, typed));
                Vec::new()
            }
            (prompt, _) => {
                self.over.prompt = Some(prompt);
                Vec::new()
            }
        }
    }

    /// Puts a question that one key answers.
    pub(super) fn put_prompt(&mut self, prompt: Prompt) {
        self.over.asked = Asked { since: self.waiting.now, ..Asked::default() };
        self.over.prompt = Some(prompt);
    }

    /// One key is the answer, if it was not on its way already when the question came up; what loses something holds
    /// only behind Enter.
    fn choose_answer(&mut self, prompt: Prompt, key: KeyEvent) -> Vec<Effect> {
        let chosen = self.over.asked.chosen.take();
        let is_settled = self.waiting.now - self.over.asked.since >= SETTLES;
        self.over.asked.unheard = false;
        if key.modifiers.is_empty() && is_settled {
            match (prompt, key.code, chosen) {
                (Prompt::Unsaved(after), KeyCode::Char('s'), _) => return self.save(after),
                (Prompt::Unsaved(after), KeyCode::Enter, Some('d')) => return self.end_run(after),
                (Prompt::LoseRun(_, after), KeyCode::Enter, Some('d')) => return App::after(after),
                (Prompt::Over(path, after), KeyCode::Enter, Some('o')) => {
                    return vec![Effect::Save { path, over: true, after }];
                }
                (Prompt::Over(path, after), KeyCode::Char('n'), _) => {
                    self.put_prompt(Prompt::SaveAs(path.display().to_string(), after));
                    return Vec::new();
                }
                (prompt, KeyCode::Char(c), _) if prompt.loses(c) => {
                    self.over.asked.chosen = Some(c);
                    self.over.prompt = Some(prompt);
                    return Vec::new();
                }
                (prompt, ..) => self.over.prompt = Some(prompt),
            }
        } else {
            self.over.prompt = Some(prompt);
        }
        self.over.asked.unheard = true;
        Vec::new()
    }

    /// What is to be done next.
    fn after(after: After) -> Vec<Effect> {
        vec![match after {
            After::Stay => return Vec::new(),
            After::Quit => Effect::Quit,
            After::Open(what) => Effect::Open(what),
            After::Restart(seeds_on) => Effect::Tell(Command::Restart(seeds_on)),
            After::Tape(name) => Effect::Tell(Command::PlayTape(name)),
        }]
    }

    /// Does what ends a run, unless a recording would be lost: then that is asked about first.
    pub(super) fn end_run(&mut self, after: After) -> Vec<Effect> {
        if self.snapshot.play.recording.is_none() {
            return App::after(after);
        }
        self.put_prompt(Prompt::LoseRun(RECORDING.into(), after));
        Vec::new()
    }

    /// What is narrowed follows the typing.
    fn live(&mut self, ask: &Ask, typed: &str) {
        match ask {
            Ask::Filter => self.drawer.filter = typed.to_string(),
            Ask::FeedFilter => self.drawer.feed_filter = typed.to_string(),
            _ => {}
        }
    }

    /// Takes in a text pasted into a question.
    pub(super) fn paste_into_prompt(&mut self, text: &str) -> bool {
        let line = text.lines().next().unwrap_or("");
        match &mut self.over.prompt {
            Some(Prompt::SaveAs(name, _)) => name.push_str(line),
            Some(Prompt::Line(ask, typed)) => {
                typed.push_str(line);
                let (ask, typed) = (ask.clone(), typed.clone());
                self.live(&ask, &typed);
            }
            Some(_) => {}
            None => return false,
        }
        true
    }

    fn answered(&mut self, ask: Ask, typed: &str) -> Vec<Effect> {
        // What is changed is the text as it is now.
        let mut effects = self.compile();
        effects.extend(self.carry_out(ask, typed));
        effects
    }

    fn carry_out(&mut self, ask: Ask, typed: &str) -> Vec<Effect> {
        match ask {
            Ask::Time => match self.moment(typed) {
                Ok(tick) => {
                    self.leave();
                    return vec![
                        Effect::Tell(Command::Play(false)),
                        Effect::Tell(Command::PlayTo(tick)),
                    ];
                }
                Err(words) => self.said.message = Some((words, true)),
            },
            Ask::PauseWhen if !typed.is_empty() => {
                self.drawer.view = DrawerView::Checks;
                return vec![Effect::Tell(Command::PauseWhen(typed.to_string()))];
            }
            Ask::PauseWhen => {}
            Ask::Filter => self.drawer.filter = typed.to_string(),
            Ask::FeedFilter => self.drawer.feed_filter = typed.to_string(),
            Ask::Find => {
                self.known.searched = typed.to_string();
                self.find_next();
            }
            Ask::ReplaceBy(what) => self.replace_all(&what, typed),
            Ask::Rename => self.rename(typed),
            Ask::KnobValue => self.set_knob(typed),
            Ask::Pin => return vec![Effect::Tell(Command::Pin(typed.to_string()))],
            Ask::TapeName => {
                let name = if typed.is_empty() { "by hand" } else { typed };
                return vec![Effect::Tell(Command::Tape(Some(name.to_string())))];
            }
            Ask::PlaceWhat(at) => return self.place_at(typed, at),
        }
        Vec::new()
    }

    /// The tick a typed moment stands for.
    fn moment(&self, typed: &str) -> Result<u64, String> {
        let rate = self.snapshot.cast.as_ref().map_or(60.0, |p| p.rate);
        let wrong = || format!("`{typed}` is no time: type 12.5 s, 740 ticks, 1 min or +2 s");
        let (sign, rest) = match typed.chars().next() {
            Some('+') => (1.0, &typed[1..]),
            Some('-') => (-1.0, &typed[1..]),
            _ => (0.0, typed),
        };
        let rest = rest.trim();
        let written = parted(rest);
        let number = written.number().ok_or_else(wrong)?;
        let ticks = match (written.unit, written.in_base(rate)) {
            ("", _) => number * rate,
            ("t", _) => number,
            (_, Some((seconds, Dim::TIME))) => seconds * rate,
            _ => return Err(wrong()),
        };
        let now = self.snapshot.travel.tick as f64;
        let tick = if sign == 0.0 { ticks } else { now + sign * ticks };
        if tick.is_finite() && tick <= 1.0e9 {
            Ok(tick.max(0.0).round() as u64)
        } else {
            Err(wrong())
        }
    }

    /// Where a person stands goes into the history, before a jump.
    pub(super) fn leave(&mut self) {
        let stand = self.stand();
        self.history.leave(stand);
    }

    pub(super) fn go_to_drawer(&mut self, view: DrawerView) {
        self.drawer.view = view;
        self.bands.place = Place::Drawer;
        self.drawer.top = 0;
    }
}

/// Types a key into a line, or takes from it; whether the key was one for that.
pub(super) fn type_into(line: &mut String, code: KeyCode, plain: bool) -> bool {
    match code {
        KeyCode::Char('u') if !plain => line.clear(),
        KeyCode::Char(c) if plain => line.push(c),
        KeyCode::Backspace => {
            line.pop();
        }
        _ => return false,
    }
    true
}
