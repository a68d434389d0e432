//! The workbench's state, and the only code that changes it: an input or a snapshot goes in,
//! requests to the simulation and to the files come out. No terminal here.

use std::path::PathBuf;
use std::sync::Arc;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::layout::Rect;
use tickpond_sim::Who;

use super::controls::Controls;
use super::keys::{Action, Place, action_of};
use super::layout::{self, Areas, body};
use super::script::Script;
use super::script::buffer::Move;
use super::script::draw::GUTTER;
use super::sim::Command;
use super::snapshot::Snapshot;

/// The text the workbench is opened on.
#[derive(Clone, Debug)]
pub struct Document {
    /// The file; `None` for a shipped pond that has not been saved.
    pub path: Option<PathBuf>,
    pub name: String,
    pub text: String,
}

/// What the drawer shows.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum DrawerView {
    Roster,
    Feed,
}

/// A question at the bottom of the screen.
#[derive(Clone, Debug, PartialEq)]
pub enum Prompt {
    /// Under which name to save; `true` if to quit then.
    SaveAs(String, bool),
    /// Unsaved text: save, discard or stay.
    Quit,
}

/// What the surroundings are asked to do.
#[derive(Clone, Debug)]
pub enum Effect {
    Tell(Command),
    /// Writes the text to a file.
    Save(PathBuf),
    /// Hands a text to the terminal's clipboard.
    Clipboard(String),
    Quit,
}

/// Everything the screen shows.
pub struct App {
    pub path: Option<PathBuf>,
    pub name: String,
    pub script: Script,
    pub snapshot: Arc<Snapshot>,
    pub place: Place,
    pub zoomed: bool,
    pub drawer: DrawerView,
    /// The selected entity, alive or not.
    pub focus: Option<Who>,
    /// Distance of the chosen feed line from the newest; `None` follows the newest.
    pub feed_back: Option<usize>,
    pub controls: Controls,
    pub prompt: Option<Prompt>,
    /// First line of the help page, if that is open.
    pub help: Option<usize>,
    pub message: Option<(String, bool)>,
    pub screen: Rect,
    /// Whether the file ends its lines with two characters; they are kept when it is saved.
    ends_with_crlf: bool,
    clipboard: String,
    seen_notice: u64,
    paused_by_size: bool,
}

impl App {
    pub fn new(document: Document, reports_release: bool) -> App {
        App {
            path: document.path,
            name: document.name,
            ends_with_crlf: document.text.contains("\r\n"),
            script: Script::new(&document.text.replace("\r\n", "\n")),
            snapshot: Arc::new(Snapshot::default()),
            place: Place::Arena,
            zoomed: false,
            drawer: DrawerView::Roster,
            focus: None,
            feed_back: None,
            controls: Controls::new(reports_release),
            prompt: None,
            help: None,
            message: None,
            screen: Rect::default(),
            clipboard: String::new(),
            seen_notice: 0,
            paused_by_size: false,
        }
    }

    pub fn areas(&self) -> Option<Areas> {
        layout::layout(self.screen, self.place, self.zoomed)
    }

    pub fn is_playing(&self) -> bool {
        self.snapshot.playing
    }

    /// The text as it belongs into its file.
    pub fn file_text(&self) -> String {
        let text = self.script.buffer.text();
        if self.ends_with_crlf { text.replace('\n', "\r\n") } else { text }
    }

    /// Takes in a snapshot.
    pub fn observe(&mut self, snapshot: Arc<Snapshot>) {
        if let Some(notice) = &snapshot.notice
            && notice.number != self.seen_notice
        {
            self.seen_notice = notice.number;
            self.message = Some((notice.words.clone(), notice.is_trouble));
        }
        if let Some(stopped) = &snapshot.stopped
            && self.snapshot.stopped.as_ref() != Some(stopped)
        {
            let line = stopped.line.map(|l| format!(", line {l}")).unwrap_or_default();
            self.message = Some((format!("paused: {}{line}", stopped.words), true));
        }
        if let Some(story) = &snapshot.story {
            self.focus = Some(story.who);
        }
        self.snapshot = snapshot;
    }

    /// Compiles the text if it changed and hands a sound program on.
    pub fn compile(&mut self) -> Vec<Effect> {
        match self.script.compile() {
            Some(Some(program)) => vec![Effect::Tell(Command::Take(program))],
            _ => Vec::new(),
        }
    }

    /// Takes in the size of the screen. Too small a screen pauses the play.
    pub fn resize(&mut self, screen: Rect) -> Vec<Effect> {
        self.screen = screen;
        let Some(areas) = self.areas() else {
            if !self.paused_by_size && self.is_playing() {
                self.paused_by_size = true;
                return vec![Effect::Tell(Command::Play(false))];
            }
            return Vec::new();
        };
        self.scroll();
        let mut effects = Vec::new();
        if std::mem::take(&mut self.paused_by_size) {
            self.message = Some(("paused while the screen was too small".into(), false));
        }
        let columns = layout::strip_columns(areas.strip).width;
        if columns > 0 {
            effects.push(Effect::Tell(Command::StripWidth(usize::from(columns))));
        }
        effects
    }

    pub(super) fn scroll(&mut self) {
        // A band that is not shown has no size to scroll by.
        if let Some(areas) = self.areas().filter(|a| !a.script.is_empty()) {
            let text = body(areas.script);
            let width = usize::from(text.width.saturating_sub(GUTTER));
            self.script.follow_cursor(width, usize::from(text.height));
        }
    }

    // Keys.

    /// Takes in a key.
    pub fn key(&mut self, key: KeyEvent, now: f64) -> Vec<Effect> {
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
        if self.prompt.is_some() {
            return self.answer(key);
        }
        if self.help.is_some() {
            self.turn_help(key);
            return Vec::new();
        }
        self.message = None;
        if self.controls.on {
            if let Some(commands) = self.controls.press(key, now, &self.snapshot) {
                return commands.into_iter().map(Effect::Tell).collect();
            }
            if key.code == KeyCode::Esc {
                return self.let_go();
            }
        }
        let effects = match action_of(key, self.place) {
            // A selection is left before the script is.
            Some(Action::Arena)
                if key.code == KeyCode::Esc && self.script.buffer.selection().is_some() =>
            {
                let (line, column) = self.script.buffer.cursor();
                self.script.buffer.go_to(line, column);
                Vec::new()
            }
            Some(action) => self.act(action),
            None if self.place == Place::Script => self.type_key(key),
            None if self.place == Place::Arena => self.point(key),
            None => Vec::new(),
        };
        self.scroll();
        effects
    }

    /// Releases the keys that a terminal without release reports leaves down.
    pub fn tick(&mut self, now: f64) -> Vec<Effect> {
        self.controls.tick(now).into_iter().map(Effect::Tell).collect()
    }

    fn let_go(&mut self) -> Vec<Effect> {
        self.controls.on = false;
        self.controls.release_all().into_iter().map(Effect::Tell).collect()
    }

    fn turn_help(&mut self, key: KeyEvent) {
        let top = self.help.unwrap_or(0);
        self.help = match key.code {
            KeyCode::Down | KeyCode::Char('j') => Some(top + 1),
            KeyCode::Up | KeyCode::Char('k') => Some(top.saturating_sub(1)),
            KeyCode::PageDown | KeyCode::Char(' ') => Some(top + 10),
            KeyCode::PageUp => Some(top.saturating_sub(10)),
            _ => None,
        };
    }

    /// Carries out a command.
    pub fn act(&mut self, action: Action) -> Vec<Effect> {
        let second = self.snapshot.program.as_ref().map_or(60, |p| p.rate as i64);
        let tell = |command| vec![Effect::Tell(command)];
        match action {
            Action::PlayPause => return tell(Command::Play(!self.is_playing())),
            Action::StepOn => return tell(Command::Step(1)),
            Action::StepBack => return tell(Command::Step(-1)),
            Action::SecondOn => return tell(Command::Step(second)),
            Action::SecondBack => return tell(Command::Step(-second)),
            Action::ToStart => return tell(Command::Seek(0)),
            Action::ToHead => return tell(Command::Seek(u64::MAX)),
            Action::Faster => return self.change_speed(2.0),
            Action::Slower => return self.change_speed(0.5),
            Action::Restart => return self.restart(0),
            Action::NextSeed => return self.restart(1),
            Action::Script => self.place = Place::Script,
            Action::Arena => self.place = Place::Arena,
            Action::Drawer => self.place = Place::Drawer,
            Action::NextBand => self.place = next(self.place),
            Action::PreviousBand => self.place = next(next(self.place)),
            Action::Zoom => self.zoomed = !self.zoomed,
            Action::Roster => self.show(DrawerView::Roster),
            Action::Feed => self.show(DrawerView::Feed),
            Action::Controls => return self.take_controls(),
            Action::Previous => return self.choose(-1),
            Action::Next => return self.choose(1),
            Action::PageUp => return self.choose(-10),
            Action::PageDown => return self.choose(10),
            Action::Choose => return self.follow_choice(),
            Action::BirthLine => {
                self.go_to_line(self.snapshot.story.as_ref().and_then(|s| s.born_line))
            }
            Action::EndLine => {
                self.go_to_line(self.snapshot.story.as_ref().and_then(|s| s.end_line))
            }
            Action::Unselect => {
                self.focus = None;
                return tell(Command::Focus(None));
            }
            Action::Save => return self.save(false),
            Action::SaveAs => self.ask_name(false),
            Action::Undo => self.history(true),
            Action::Redo => self.history(false),
            Action::Copy => return self.copy(),
            Action::Cut => {
                self.clipboard = self.script.buffer.cut();
                return vec![Effect::Clipboard(self.clipboard.clone())];
            }
            Action::Paste => {
                let text = self.clipboard.clone();
                self.script.buffer.insert(&text);
            }
            Action::SelectAll => self.script.buffer.select_all(),
            Action::Export => return self.export(),
            Action::Help => self.help = Some(0),
            Action::Quit => return self.quit(),
        }
        Vec::new()
    }

    fn change_speed(&mut self, factor: f64) -> Vec<Effect> {
        let speed = (self.snapshot.speed * factor).clamp(1.0 / 16.0, 64.0);
        self.message = Some((format!("speed {speed} x"), false));
        vec![Effect::Tell(Command::Speed(speed))]
    }

    fn restart(&mut self, seeds_on: u64) -> Vec<Effect> {
        let seed = self.snapshot.seed.wrapping_add(seeds_on);
        vec![Effect::Tell(Command::Restart(Some(seed)))]
    }

    fn show(&mut self, view: DrawerView) {
        self.drawer = view;
        self.place = Place::Drawer;
    }

    fn take_controls(&mut self) -> Vec<Effect> {
        if self.controls.on {
            return self.let_go();
        }
        let inputs = self.snapshot.program.as_ref().map_or(0, |p| p.inputs.len());
        if inputs == 0 {
            let words = "this pond has no inputs: add `input fire = key f`";
            self.message = Some((words.into(), false));
        } else {
            self.controls.on = true;
            if self.place == Place::Script {
                self.place = Place::Arena;
            }
        }
        Vec::new()
    }

    // Choosing.

    pub(super) fn choose(&mut self, by: isize) -> Vec<Effect> {
        if self.place == Place::Drawer && self.drawer == DrawerView::Feed {
            let count = self.snapshot.feed.len();
            let back = self.feed_back.unwrap_or(0).saturating_add_signed(-by);
            // One below the newest follows again.
            let follows = by > 0 && self.feed_back.is_none_or(|b| (b as isize) < by);
            self.feed_back = (!follows && count > 0).then(|| back.min(count - 1));
            return Vec::new();
        }
        let entities = &self.snapshot.entities;
        if entities.is_empty() {
            return Vec::new();
        }
        let now = self.focus.and_then(|who| entities.iter().position(|s| s.who.id == who.id));
        let to = match now {
            Some(at) => at.saturating_add_signed(by).min(entities.len() - 1),
            None => 0,
        };
        self.select(entities[to].who)
    }

    pub(super) fn select(&mut self, who: Who) -> Vec<Effect> {
        self.focus = Some(who);
        vec![Effect::Tell(Command::Focus(Some(who)))]
    }

    /// The chosen feed line, counted from the oldest.
    pub fn feed_choice(&self) -> Option<usize> {
        let back = self.feed_back?;
        (self.snapshot.feed.len()).checked_sub(back + 1)
    }

    fn follow_choice(&mut self) -> Vec<Effect> {
        if self.place == Place::Drawer && self.drawer == DrawerView::Feed {
            let at = self.feed_choice().or_else(|| self.snapshot.feed.len().checked_sub(1));
            let Some(line) = at.and_then(|at| self.snapshot.feed.get(at)).cloned() else {
                return Vec::new();
            };
            let mut effects = self.select(line.who);
            effects.push(Effect::Tell(Command::Play(false)));
            effects.push(Effect::Tell(Command::Seek(line.tick)));
            self.mark_line(line.line);
            // The feed now ends at that tick.
            self.feed_back = None;
            return effects;
        }
        let story = self.snapshot.story.as_ref();
        self.go_to_line(
            story.and_then(|s| if s.alive { s.born_line } else { s.end_line.or(s.born_line) }),
        );
        Vec::new()
    }

    fn go_to_line(&mut self, line: Option<u32>) {
        match line {
            Some(_) => {
                self.mark_line(line);
                self.place = Place::Script;
            }
            None if self.focus.is_none() => {
                self.message = Some(("select an entity first: arrows or a click".into(), false));
            }
            None => self.message = Some(("no line is on record for that".into(), false)),
        }
    }

    /// Puts the script's cursor on a line without going there.
    fn mark_line(&mut self, line: Option<u32>) {
        if let Some(line) = line {
            let line = line as usize - 1;
            let indent = self.script.buffer.line(line).chars().take_while(|c| *c == ' ').count();
            self.script.buffer.go_to(line, indent);
            let text_rows = self.areas().map_or(20, |a| usize::from(body(a.script).height));
            // In the middle, so that what stands around it is seen, too.
            self.script.top = line.saturating_sub(text_rows.max(12) / 2);
            self.script.left = 0;
            self.scroll();
        }
    }

    // Typing.

    fn type_key(&mut self, key: KeyEvent) -> Vec<Effect> {
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
        let text = text.replace("\r\n", "\n").replace('\r', "\n");
        if let Some(Prompt::SaveAs(name, _)) = &mut self.prompt {
            name.push_str(text.lines().next().unwrap_or(""));
        } else if self.place == Place::Script {
            self.script.buffer.insert(&text);
            self.scroll();
        }
        Vec::new()
    }

    fn history(&mut self, back: bool) {
        let changed = if back { self.script.buffer.undo() } else { self.script.buffer.redo() };
        if !changed {
            let words = if back { "nothing to undo" } else { "nothing to redo" };
            self.message = Some((words.into(), false));
        }
    }

    fn copy(&mut self) -> Vec<Effect> {
        match self.script.buffer.selected_text() {
            Some(text) => {
                self.clipboard = text.clone();
                self.message = Some(("copied".into(), false));
                vec![Effect::Clipboard(text)]
            }
            None => {
                self.message = Some(("select something first: Shift and arrows".into(), false));
                Vec::new()
            }
        }
    }
}

fn next(place: Place) -> Place {
    match place {
        Place::Script => Place::Arena,
        Place::Arena => Place::Drawer,
        Place::Drawer => Place::Script,
    }
}
