//! The workbench's state, and the only code that changes it: an input or a snapshot goes in,
//! requests to the simulation and to the files come out. No terminal here.

use std::path::PathBuf;
use std::sync::Arc;

use ratatui::layout::Rect;
use tickpond_lab::moved::Moved;
use tickpond_lang::program::Program;
use tickpond_sim::Who;

use super::arena::{Camera, Layers};
use super::command::Command;
use super::controls::Controls;
use super::history::History;
use super::keys::Place;
use super::layout::{self, Areas, body};
use super::menu::{Menu, Opening};
use super::one::One;
use super::prompt::{After, Prompt};
use super::recovery::Left;
use super::script::Script;
use super::script::draw::gutter_width;
use super::settings::Settings;
use super::snapshot::{Seen, Snapshot, Story};
use super::views::list::DrawerView;
use super::waiting::Waiting;
use super::wish::{Sort, Trend, Wish};
use tickpond_ide::tunables::{Tunable, tunables};

/// The text the workbench is opened on.
#[derive(Clone, Debug)]
pub struct Document {
    /// The file; `None` for a shipped pond that has not been saved.
    pub path: Option<PathBuf>,
    pub name: String,
    pub text: String,
}

/// What the surroundings are asked to do.
#[derive(Clone, Debug)]
pub enum Effect {
    Tell(Command),
    /// Writes the text to a file; over what is there only if that is wanted. Then goes on.
    Save {
        path: PathBuf,
        over: bool,
        after: After,
    },
    /// Hands a text to the terminal's clipboard.
    Clipboard(String),
    /// Opens another pond.
    Open(Opening),
    /// A text that was left behind has been taken up: its new window keeps it.
    Taken(Left),
    /// A text that was left behind is not wanted.
    SetAside(Left),
    /// Writes the settings to their file.
    KeepSettings,
    /// Writes a view as it stands on the screen.
    Picture(Place, [PathBuf; 2]),
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
    /// Whether the script is shown in place of where the keys go, until the next key.
    pub peeks: bool,
    pub drawer: DrawerView,
    /// The selected entity, alive or not.
    pub focus: Option<One>,
    pub(super) waiting: Waiting,
    /// The time of what came last, in seconds.
    pub(super) now: f64,
    /// Where the lines of the text that plays are in the one on the screen, and between which these were looked for.
    moved: (Moved, Option<(Arc<str>, u64)>),
    /// What came up while a snapshot was taken in.
    pub outbox: Vec<Effect>,
    /// How many documents were opened before this one.
    pub document: u64,
    /// Distance of the chosen feed line from the newest; `None` follows the newest.
    pub feed_back: Option<usize>,
    pub controls: Controls,
    pub prompt: Option<Prompt>,
    pub menu: Option<Menu>,
    pub settings: Settings,
    pub history: History,
    /// What narrows the roster and the lifelines.
    pub filter: String,
    /// What narrows the feed.
    pub feed_filter: String,
    pub sort: Sort,
    pub reversed: bool,
    pub trend: Trend,
    /// The series of the chart that is looked at alone; 0 for all.
    pub series: usize,
    /// How many earlier runs are drawn beneath the charts.
    pub overlay: usize,
    /// Which of the lines that made or ended something at the chart's cursor was gone to last, and where
    /// that was.
    pub here_at: ((u64, u64), usize),
    /// The chosen row of checks and of knobs.
    pub check_at: usize,
    pub knob_at: usize,
    /// First line of lifelines and anatomy.
    pub drawer_top: usize,
    /// What the text on the screen means; none while it has errors, or is not compiled yet.
    pub program: Option<Arc<Program>>,
    /// The numbers of the text that can be turned; those of the last text that compiled.
    pub tunables: Vec<Tunable>,
    pub camera: Camera,
    pub layers: Layers,
    /// The cross in the arena, in u.
    pub cross: Option<(f64, f64)>,
    /// Where a measured distance begins, in u.
    pub measured_from: Option<(f64, f64)>,
    /// What was searched last.
    pub searched: String,
    /// First line of the help page, if that is open.
    pub help: Option<usize>,
    pub message: Option<(String, bool)>,
    pub screen: Rect,
    /// What is in the file, as far as it was read from here or written.
    pub on_disk: Option<Vec<u8>>,
    /// Whether the file ends its lines with two characters; they are kept when it is saved.
    ends_with_crlf: bool,
    pub(super) clipboard: String,
    seen_notice: u64,
    /// What the next word of the simulation comes behind, since it is about the same.
    pub(super) said_first: Option<String>,
    seen_tape: Option<String>,
    told_wish: Option<Wish>,
    paused_by_size: bool,
}

impl App {
    pub fn new(document: Document, reports_release: bool) -> App {
        App {
            on_disk: document.path.as_ref().map(|_| document.text.clone().into_bytes()),
            path: document.path,
            name: document.name,
            ends_with_crlf: document.text.contains("\r\n"),
            script: Script::new(&document.text.replace("\r\n", "\n")),
            snapshot: Arc::new(Snapshot::default()),
            place: Place::Arena,
            zoomed: false,
            peeks: false,
            moved: (Moved::default(), None),
            drawer: DrawerView::Roster,
            focus: None,
            waiting: Waiting::default(),
            now: 0.0,
            outbox: Vec::new(),
            document: 0,
            feed_back: None,
            controls: Controls::new(reports_release),
            prompt: None,
            menu: None,
            settings: Settings::default(),
            history: History::default(),
            filter: String::new(),
            feed_filter: String::new(),
            sort: Sort::default(),
            reversed: false,
            trend: Trend::default(),
            series: 0,
            overlay: 1,
            here_at: ((0, 0), 0),
            check_at: 0,
            knob_at: 0,
            drawer_top: 0,
            program: None,
            tunables: Vec::new(),
            camera: Camera::default(),
            layers: Layers::default(),
            cross: None,
            measured_from: None,
            searched: String::new(),
            help: None,
            message: None,
            screen: Rect::default(),
            clipboard: String::new(),
            seen_notice: 0,
            said_first: None,
            seen_tape: None,
            told_wish: None,
            paused_by_size: false,
        }
    }

    pub fn areas(&self) -> Option<Areas> {
        let shown = if self.peeks { Place::Script } else { self.place };
        layout::layout(self.screen, shown, self.zoomed)
    }

    /// The line on the screen, from 0, of a line of the newest text that plays, from 1. They differ while the text
    /// has errors, or has been changed and not played yet.
    pub fn line_here(&self, line: u32) -> Option<usize> {
        let line = self.moved.0.line(line)? as usize - 1;
        (line < self.script.buffer.line_count()).then_some(line)
    }

    fn look_for_lines(&mut self) {
        let now = (self.snapshot.text.clone(), self.script.buffer.version());
        if self.moved.1.as_ref() != Some(&now) {
            let moved = Moved::between(&now.0, &self.script.buffer.text());
            self.moved = (moved, Some(now));
        }
    }

    pub fn is_playing(&self) -> bool {
        self.snapshot.playing
    }

    pub(super) fn set_line_ends(&mut self, text: &str) {
        self.ends_with_crlf = text.contains("\r\n");
    }

    /// The text as it belongs into its file.
    pub fn file_text(&self) -> String {
        let text = self.script.buffer.text();
        if self.ends_with_crlf { text.replace('\n', "\r\n") } else { text }
    }

    /// Takes in a snapshot.
    pub fn observe(&mut self, snapshot: Arc<Snapshot>) {
        if snapshot.document != self.document {
            // It is of the pond that was open before.
            return;
        }
        if let Some(notice) = &snapshot.notice
            && notice.number != self.seen_notice
        {
            self.seen_notice = notice.number;
            let words = match self.said_first.take() {
                Some(first) => format!("{first}; {}", notice.words),
                None => notice.words.clone(),
            };
            self.message = Some((words, notice.is_trouble));
        }
        if let Some(stopped) = &snapshot.stopped
            && self.snapshot.stopped.as_ref() != Some(stopped)
        {
            self.message = Some((format!("paused: {}", stopped.told()), true));
        }
        if snapshot.tape != self.seen_tape {
            self.seen_tape.clone_from(&snapshot.tape);
            if let Some(tape) = &snapshot.tape {
                self.take_tape(tape);
            }
        }
        self.snapshot = snapshot;
        self.look_for_lines();
        self.follow();
        let effects = self.go_on();
        self.outbox.extend(effects);
    }

    /// Keeps the selected one in the middle, if that is wished for.
    pub(super) fn follow(&mut self) {
        if self.camera.follows
            && let Some(seen) = self.seen_focus()
        {
            self.camera.centre = Some(seen.at);
        }
    }

    /// Whether somebody alive at the present tick is the selected one.
    pub fn is_focus(&self, who: Who) -> bool {
        let program = self.snapshot.program.as_ref();
        self.focus.as_ref().zip(program).is_some_and(|(one, program)| one.is(program, who))
    }

    /// The selected one, if it lives at the present tick.
    pub fn seen_focus(&self) -> Option<&Seen> {
        self.focus.as_ref()?;
        self.snapshot.entities.iter().find(|seen| self.is_focus(seen.who))
    }

    /// The story of the selected one; `None` while it is on its way, too.
    pub fn story(&self) -> Option<&Story> {
        self.snapshot.story.as_ref().filter(|_| self.snapshot.focus == self.focus)
    }

    /// Says something that the simulation will add to.
    pub(super) fn say_first(&mut self, words: &str) {
        self.message = Some((words.to_string(), false));
        self.said_first = Some(words.to_string());
    }

    /// A recorded tape goes to the end of the text, where it can be undone and saved.
    fn take_tape(&mut self, tape: &str) {
        let text = self.script.buffer.text();
        let gap = if text.ends_with('\n') || text.is_empty() { "" } else { "\n" };
        self.script.buffer.put(text.len()..text.len(), &format!("{gap}\n{tape}"));
        let words = "the tape is at the end of the text; `tickpond run --tape NAME` plays it";
        self.message = Some((words.into(), false));
    }

    /// What the drawer wants to know, if that has changed.
    pub fn wish(&mut self) -> Vec<Effect> {
        let wish = self.present_wish();
        if self.told_wish.as_ref() == Some(&wish) {
            return Vec::new();
        }
        self.told_wish = Some(wish.clone());
        vec![Effect::Tell(Command::Want(Box::new(wish)))]
    }

    /// What the drawer wants to know now.
    pub fn present_wish(&self) -> Wish {
        let columns = self.areas().map_or(80, |a| self.drawer_parts(a.drawer).0.width);
        Wish {
            view: self.drawer,
            filter: self.filter.clone(),
            sort: self.sort,
            reversed: self.reversed,
            feed: self.feed_filter.clone(),
            trend: self.trend,
            series: self.series,
            overlay: self.overlay,
            columns: usize::from(columns),
        }
    }

    /// Opens another text in place of this one.
    pub fn replace_document(&mut self, document: Document) {
        let settings = self.settings.clone();
        let (screen, clipboard) = (self.screen, std::mem::take(&mut self.clipboard));
        let controls = Controls::new(self.controls.reports_release);
        let seen = (self.seen_notice, self.seen_tape.take());
        let number = self.document + 1;
        *self = App::new(document, controls.reports_release);
        self.document = number;
        self.outbox.push(Effect::Tell(Command::Open(number)));
        self.settings = settings;
        (self.screen, self.clipboard) = (screen, clipboard);
        (self.seen_notice, self.seen_tape) = seen;
    }

    /// Compiles the text if it changed and hands a sound program on.
    pub fn compile(&mut self) -> Vec<Effect> {
        // A pond that was opened is told of before its text.
        let mut effects = std::mem::take(&mut self.outbox);
        if let Some(program) = self.script.compile() {
            self.program = program;
            self.look_for_lines();
            if let Some(program) = &self.program {
                // The chosen one stays chosen, wherever it is now.
                let chosen = self.tunables.get(self.knob_at).map(Tunable::whose);
                self.tunables = tunables(program);
                let same = |at: &usize| self.tunables.get(*at).map(Tunable::whose) == chosen;
                let last = self.tunables.len().saturating_sub(1);
                let here = Some(self.knob_at).filter(same);
                let there = || (0..self.tunables.len()).find(same);
                self.knob_at = here.or_else(there).unwrap_or(self.knob_at).min(last);
                effects.push(Effect::Tell(Command::Take(program.clone())));
            }
        }
        effects
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
            let width = usize::from(
                text.width.saturating_sub(gutter_width(self.script.buffer.line_count())),
            );
            self.script.follow_cursor(width, usize::from(text.height));
        }
    }
}
