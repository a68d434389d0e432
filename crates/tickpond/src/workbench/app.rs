//! The workbench's state, and the only code that changes it: an input or a snapshot goes in,
//! requests to the simulation and to the files come out. No terminal here.

use std::path::PathBuf;
use std::sync::Arc;

use ratatui::layout::Rect;
use tickpond_lab::moved::Moved;
use tickpond_sim::Who;

use super::arena::looks::Looks;
use super::command::Command;
use super::controls::Controls;
use super::held::{ArenaLook, Bands, Drawer, Guide, Known, OpenFile, Over};
use super::history::History;
use super::keys::Place;
use super::layout::{self, Areas, body};
use super::menu::{Menu, Opening};
use super::one::One;
use super::prompt::After;
use super::recovery::Left;
use super::script::Script;
use super::script::draw::gutter_width;
use super::settings::Settings;
use super::snapshot::{Seen, Snapshot, Story};
use super::waiting::Waiting;
use super::wish::Wish;
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

/// What the simulation and the surroundings have said, and what is to be said to them.
#[derive(Default)]
pub struct Said {
    /// What the status line says, and whether it is trouble.
    pub message: Option<(String, bool)>,
    /// What the next word of the simulation comes behind, since it is about the same.
    pub first: Option<String>,
    /// What came up while a snapshot was taken in.
    pub outbox: Vec<Effect>,
    seen_notice: u64,
    seen_page: u64,
    /// The branch that was gone back to last, by its count.
    seen_back: u64,
    seen_tape: Option<String>,
    told_wish: Option<Wish>,
    told_tapes: bool,
}

/// Everything the screen shows.
pub struct App {
    pub file: OpenFile,
    pub script: Script,
    pub known: Known,
    pub snapshot: Arc<Snapshot>,
    pub bands: Bands,
    pub drawer: Drawer,
    pub arena: ArenaLook,
    /// The selected entity, alive or not.
    pub focus: Option<One>,
    pub waiting: Waiting,
    pub said: Said,
    pub over: Over,
    pub controls: Controls,
    pub settings: Settings,
    pub history: History,
    /// The guide through the pond, while there is one.
    pub guide: Option<Guide>,
}

/// Said of a text that could not be saved as it is.
const MIXED: &str = "lines end in two ways in this file; saving ends all of them with \\r\\n";

/// Whether some lines end with `\r\n` and others with `\n` alone.
fn is_mixed(text: &str) -> bool {
    let with = text.matches("\r\n").count();
    with > 0 && with < text.matches('\n').count()
}

impl App {
    pub fn new(document: Document, reports_release: bool) -> App {
        let is_lesson = App::is_lesson(&document.text);
        let message = is_mixed(&document.text).then(|| (MIXED.to_string(), true));
        App {
            script: Script::new(&document.text.replace("\r\n", "\n")),
            file: OpenFile {
                on_disk: document.path.as_ref().map(|_| document.text.clone().into_bytes()),
                ends_with_crlf: document.text.contains("\r\n"),
                path: document.path,
                name: document.name,
                number: 0,
            },
            known: Known::default(),
            snapshot: Arc::new(Snapshot::default()),
            bands: Bands::default(),
            drawer: Drawer { overlay: 1, ..Drawer::default() },
            arena: ArenaLook::default(),
            focus: None,
            waiting: Waiting::default(),
            said: Said { message, ..Said::default() },
            over: Over::default(),
            controls: Controls::new(reports_release),
            settings: Settings::default(),
            history: History::default(),
            guide: is_lesson.then(Guide::default),
        }
    }

    pub fn areas(&self) -> Option<Areas> {
        let shown = if self.bands.peeks { Place::Script } else { self.bands.place };
        let rows = self.guide_rows();
        let screen = self.bands.screen;
        let room = Rect { height: screen.height.saturating_sub(rows), ..screen };
        let mut areas = layout::layout(room, shown, self.bands.zoomed)?;
        // The guide stands between the bands and the status line.
        areas.guide = Rect { height: rows, ..areas.status };
        areas.status.y += rows;
        Some(areas)
    }

    /// The line on the screen, from 0, of a line of the newest text that plays, from 1. They differ while the text
    /// has errors, or has been changed and not played yet.
    pub fn line_here(&self, line: u32) -> Option<usize> {
        let line = self.known.moved.0.line(line)? as usize - 1;
        (line < self.script.buffer.line_count()).then_some(line)
    }

    fn look_for_lines(&mut self) {
        let now = (self.snapshot.script.text.clone(), self.script.buffer.version());
        if self.known.moved.1.as_ref() != Some(&now) {
            let moved = Moved::between(&now.0, &self.script.buffer.text());
            self.known.moved = (moved, Some(now));
        }
    }

    pub fn is_playing(&self) -> bool {
        self.snapshot.play.playing
    }

    pub(super) fn set_line_ends(&mut self, text: &str) {
        self.file.ends_with_crlf = text.contains("\r\n");
        if is_mixed(text) {
            self.said.message = Some((MIXED.into(), true));
        }
    }

    /// The text as it belongs into its file.
    pub fn file_text(&self) -> String {
        let text = self.script.buffer.text();
        if self.file.ends_with_crlf { text.replace('\n', "\r\n") } else { text }
    }

    /// Takes in a snapshot.
    pub fn observe(&mut self, snapshot: Arc<Snapshot>) {
        if snapshot.document != self.file.number {
            // It is of the pond that was open before.
            return;
        }
        if let Some(notice) = &snapshot.notice
            && notice.number != self.said.seen_notice
        {
            self.said.seen_notice = notice.number;
            let words = match self.said.first.take() {
                Some(first) => format!("{first}; {}", notice.words),
                None => notice.words.clone(),
            };
            self.said.message = Some((words, notice.is_trouble));
        }
        if let Some(page) = &snapshot.page
            && page.number != self.said.seen_page
        {
            self.said.seen_page = page.number;
            let (title, lines) = (page.title.clone(), page.lines.clone());
            self.over.menu = Some(Menu::page(title, lines));
        }
        if let Some(gone) = &snapshot.gone_back
            && gone.number != self.said.seen_back
        {
            self.said.seen_back = gone.number;
            // What plays and what stands here are one; Ctrl+Z leads to the text of before.
            if *gone.text != *self.script.buffer.text() {
                self.script.buffer.put_all(&gone.text);
            }
        }
        if let Some(stopped) = &snapshot.stopped
            && self.snapshot.stopped.as_ref() != Some(stopped)
        {
            self.said.message = Some((format!("paused: {}", stopped.told()), true));
        }
        if snapshot.play.tape != self.said.seen_tape {
            self.said.seen_tape.clone_from(&snapshot.play.tape);
            if let Some(tape) = &snapshot.play.tape {
                self.take_tape(tape);
            }
        }
        self.snapshot = snapshot;
        self.tick_off();
        self.look_ahead();
        self.look_for_lines();
        self.follow();
        let effects = self.go_on();
        self.said.outbox.extend(effects);
    }

    /// Keeps the selected one in the middle, if that is wished for.
    pub(super) fn follow(&mut self) {
        if self.arena.camera.follows
            && let Some(seen) = self.seen_focus()
        {
            self.arena.camera.centre = Some(seen.at);
        }
    }

    /// Whether somebody alive at the present tick is the selected one.
    pub fn is_focus(&self, who: Who) -> bool {
        let cast = self.snapshot.cast.as_ref();
        self.focus.as_ref().zip(cast).is_some_and(|(one, cast)| one.is(cast, who))
    }

    /// The selected one, if it lives at the present tick.
    pub fn seen_focus(&self) -> Option<&Seen> {
        self.focus.as_ref()?;
        self.snapshot.scene.entities.iter().find(|seen| self.is_focus(seen.who))
    }

    /// How the arena is looked at.
    pub fn looks(&self) -> Looks<'_> {
        Looks {
            camera: &self.arena.camera,
            layers: self.arena.layers,
            focus: self.seen_focus(),
            cross: self.arena.cross.filter(|_| self.bands.place == Place::Arena),
            measured_from: self.arena.measured_from,
        }
    }

    /// The story of the selected one; `None` while it is on its way, too.
    pub fn story(&self) -> Option<&Story> {
        self.snapshot.selected.story.as_ref().filter(|_| self.snapshot.selected.focus == self.focus)
    }

    /// Says something that the simulation will add to.
    pub(super) fn say_first(&mut self, words: &str) {
        self.said.message = Some((words.to_string(), false));
        self.said.first = Some(words.to_string());
    }

    /// A recorded tape goes to the end of the text, where it can be undone and saved.
    fn take_tape(&mut self, tape: &str) {
        let text = self.script.buffer.text();
        let gap = if text.ends_with('\n') || text.is_empty() { "" } else { "\n" };
        self.script.buffer.put(text.len()..text.len(), &format!("{gap}\n{tape}"));
        let words = "the tape is at the end of the text; `tickpond run --tape NAME` plays it";
        self.said.message = Some((words.into(), false));
    }

    /// What the drawer wants to know, if that has changed.
    pub fn wish(&mut self) -> Vec<Effect> {
        let wish = self.present_wish();
        if self.said.told_wish.as_ref() == Some(&wish) {
            return Vec::new();
        }
        self.said.told_wish = Some(wish.clone());
        vec![Effect::Tell(Command::Want(Box::new(wish)))]
    }

    /// What the drawer wants to know now.
    pub fn present_wish(&self) -> Wish {
        let columns = self.areas().map_or(80, |a| self.drawer_parts(a.drawer).0.width);
        Wish {
            view: self.drawer.view,
            filter: self.drawer.filter.clone(),
            sort: self.drawer.sort,
            reversed: self.drawer.reversed,
            feed: self.drawer.feed_filter.clone(),
            trend: self.drawer.trend,
            series: self.drawer.series,
            overlay: self.drawer.overlay,
            tint: self.arena.tint.clone(),
            stretch: self.drawer.stretch,
            mark: self.drawer.mark,
            columns: usize::from(columns),
        }
    }

    /// Opens another text in place of this one.
    pub fn replace_document(&mut self, document: Document) {
        let settings = self.settings.clone();
        let (screen, clipboard) = (self.bands.screen, std::mem::take(&mut self.known.clipboard));
        let controls = Controls::new(self.controls.reports_release);
        let seen = (self.said.seen_notice, self.said.seen_tape.take());
        let (seen_page, pixels) = (self.said.seen_page, self.arena.pixels);
        let seen_back = self.said.seen_back;
        let number = self.file.number + 1;
        *self = App::new(document, controls.reports_release);
        self.file.number = number;
        self.said.outbox.push(Effect::Tell(Command::Open(number)));
        self.settings = settings;
        (self.bands.screen, self.known.clipboard) = (screen, clipboard);
        (self.said.seen_notice, self.said.seen_tape) = seen;
        (self.said.seen_page, self.said.seen_back) = (seen_page, seen_back);
        self.arena.pixels = pixels;
    }

    /// Compiles the text if it changed and hands a sound program on.
    pub fn compile(&mut self) -> Vec<Effect> {
        // A pond that was opened is told of before its text.
        let mut effects = std::mem::take(&mut self.said.outbox);
        if !std::mem::replace(&mut self.said.told_tapes, true) {
            // What comes with the program shows itself; a pond of one's own waits for its player.
            effects.push(Effect::Tell(Command::PlaysTapes(self.file.path.is_none())));
        }
        if let Some(program) = self.script.compile() {
            self.known.program = program;
            self.look_for_lines();
            if let Some(program) = &self.known.program {
                // The chosen one stays chosen, wherever it is now.
                let chosen = self.known.tunables.get(self.drawer.knob_at).map(Tunable::whose);
                self.known.tunables = tunables(program);
                let same = |at: &usize| self.known.tunables.get(*at).map(Tunable::whose) == chosen;
                let last = self.known.tunables.len().saturating_sub(1);
                let here = Some(self.drawer.knob_at).filter(same);
                let there = || (0..self.known.tunables.len()).find(same);
                self.drawer.knob_at = here.or_else(there).unwrap_or(self.drawer.knob_at).min(last);
                effects.push(Effect::Tell(Command::Take(program.clone())));
            }
        }
        effects
    }

    /// Takes in the size of the screen. Too small a screen pauses the play.
    pub fn resize(&mut self, screen: Rect) -> Vec<Effect> {
        self.bands.screen = screen;
        let Some(areas) = self.areas() else {
            if !self.bands.paused_by_size && self.is_playing() {
                self.bands.paused_by_size = true;
                return vec![Effect::Tell(Command::Play(false))];
            }
            return Vec::new();
        };
        self.scroll();
        let mut effects = Vec::new();
        if std::mem::take(&mut self.bands.paused_by_size) {
            self.said.message = Some(("paused while the screen was too small".into(), false));
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
