//! Whatever is typed, turned, undone, muted, played, selected, saved, opened or changed by others, and however much of it
//! comes at once: the text on the screen is the one that plays next, the one on the disk is known, and who is selected is
//! who is shown. Held against a model of a few lines.

use std::path::{Path, PathBuf};

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use proptest::prelude::*;
use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;

use super::app::{App, Document, Effect};
use super::keeper::Keeper;
use super::keys::Place;
use super::menu::Opening;
use super::offer::Asks;
use super::palette::Palette;
use super::prompt::After;
use super::saving::save;
use super::settings::Theme;
use super::sim::Worker;
use super::{screen, terminal};

/// A pond whose frogs go so many u a second to the right: where they are tells which text played how long.
fn pond(pace: u32, muted: bool) -> String {
    let off = if muted { "off " } else { "" };
    format!(
        "pond \"t\" {{ arena 90000 x 9 }}\nknob pace = {pace} u/s in 0..100\nkind frog {{\n    \
         {off}every 1 ticks {{ pos = pos + (pace * 1 ticks, 0 u) }}\n}}\n\
         place frog at (0, 3)\nplace frog at (0, 6)\n"
    )
}

/// The line of the handler, from 0.
const HANDLER: usize = 3;

/// What a person does, or somebody else.
#[derive(Clone, Debug)]
enum Deed {
    /// So many presses that turn the knob, in one read.
    Knob(u8, bool),
    /// So many times at once.
    Undo(u8),
    /// Something that cannot be compiled.
    Break,
    Mute,
    /// So many ticks on.
    Play(u64),
    /// To one of the ticks played, or beyond.
    Jump(u64),
    Pause,
    Restart,
    Select(bool),
    Unselect,
    Anew,
    /// And, if it asks, what is answered.
    Save(bool),
    /// Another program writes the file.
    Theirs(u32),
    /// The file is looked at; and what is answered.
    Look(bool),
    Open,
}

fn deeds() -> impl Strategy<Value = Vec<Vec<Deed>>> {
    let deed = prop_oneof![
        6 => (1u8..6, any::<bool>()).prop_map(|(n, up)| Deed::Knob(n, up)),
        4 => (1u8..4).prop_map(Deed::Undo),
        2 => Just(Deed::Break),
        3 => Just(Deed::Mute),
        5 => (1u64..90).prop_map(Deed::Play),
        4 => (0u64..200).prop_map(Deed::Jump),
        1 => Just(Deed::Pause),
        1 => Just(Deed::Restart),
        3 => any::<bool>().prop_map(Deed::Select),
        1 => Just(Deed::Unselect),
        1 => Just(Deed::Anew),
        3 => any::<bool>().prop_map(Deed::Save),
        2 => (0u32..100).prop_map(Deed::Theirs),
        2 => any::<bool>().prop_map(Deed::Look),
        1 => Just(Deed::Open),
    ];
    // Several come in one read.
    prop::collection::vec(prop::collection::vec(deed, 1..4), 1..14)
}

/// The few lines: what is so.
struct Model {
    /// Pace, whether muted, whether broken.
    text: (u32, bool, bool),
    /// The texts before, the last last.
    before: Vec<(u32, bool, bool)>,
    /// The last text that could be played.
    plays: (u32, bool),
    /// The pace of each tick played, from 1 on.
    played: Vec<u32>,
    /// What an edit in the past cut off: where, what played then, and all that was played.
    left: Option<(usize, (u32, bool), Vec<u32>)>,
    tick: usize,
    anew: bool,
    files: [u32; 2],
    /// Which of the files is open, and what is known of it.
    open: usize,
    known: u32,
    selected: Option<u32>,
}

impl Model {
    fn text(&self) -> String {
        let (pace, muted, broken) = self.text;
        let kaput = if broken { "kaput " } else { "" };
        format!("{kaput}{}", pond(pace, muted))
    }

    fn is_saved(&self) -> bool {
        self.text == (self.known, false, false)
    }

    fn change(&mut self, text: (u32, bool, bool)) {
        if text != self.text {
            self.before.push(self.text);
            self.text = text;
            self.take_up();
        }
    }

    /// What can be played is played from the next tick on; anew, from the first.
    fn take_up(&mut self) {
        let (pace, muted, broken) = self.text;
        if broken || self.plays == (pace, muted) {
            return;
        }
        let old = std::mem::replace(&mut self.plays, (pace, muted));
        if !self.anew
            && let Some((_, _, all)) =
                self.left.take_if(|(at, text, _)| (*at, *text) == (self.tick, (pace, muted)))
        {
            self.played = all;
            return;
        }
        if self.tick < self.played.len() {
            self.left = Some((self.tick, old, self.played.clone()));
        } else if self.anew {
            self.left = None;
        }
        self.played.truncate(self.tick);
        if self.anew {
            let pace = self.pace();
            self.played.fill(pace);
        }
    }

    fn pace(&self) -> u32 {
        if self.plays.1 { 0 } else { self.plays.0 }
    }

    fn far(&self) -> f64 {
        self.played[..self.tick].iter().map(|pace| f64::from(*pace) / 60.0).sum()
    }
}

/// The workbench, the simulation and the files, without a terminal and a thread.
struct Desk {
    app: App,
    worker: Worker,
    keeper: Keeper,
    files: [PathBuf; 2],
    model: Model,
    now: f64,
    /// What is asked of the surroundings, in its order.
    asked: Vec<Effect>,
}

fn key(code: KeyCode) -> KeyEvent {
    KeyEvent::new(code, KeyModifiers::NONE)
}

fn document(path: &Path) -> Document {
    let text = std::fs::read_to_string(path).unwrap();
    Document { path: Some(path.to_path_buf()), name: "t.pond".into(), text }
}

impl Desk {
    fn new(folder: &Path) -> Desk {
        let files = ["a.pond", "b.pond"].map(|name| folder.join(name));
        for (at, file) in files.iter().enumerate() {
            std::fs::write(file, pond(10 + at as u32, false)).unwrap();
        }
        let mut app = App::new(document(&files[0]), false);
        app.resize(Rect::new(0, 0, 160, 48));
        let model = Model {
            text: (10, false, false),
            before: Vec::new(),
            plays: (10, false),
            played: Vec::new(),
            left: None,
            tick: 0,
            anew: false,
            files: [10, 11],
            open: 0,
            known: 10,
            selected: None,
        };
        let mut desk = Desk {
            app,
            worker: Worker::alone(),
            keeper: Keeper::new(),
            files,
            model,
            now: 0.0,
            asked: Vec::new(),
        };
        desk.settle();
        desk
    }

    fn press(&mut self, key: KeyEvent) {
        // Nobody is in a hurry.
        self.now += 1.0;
        let effects = self.app.key(key, self.now);
        self.asked.extend(effects);
    }

    fn ctrl(&mut self, c: char) {
        self.press(KeyEvent::new(KeyCode::Char(c), KeyModifiers::CONTROL));
    }

    /// Types into a question and answers it.
    fn answer(&mut self, words: &str) {
        words.chars().for_each(|c| self.press(key(KeyCode::Char(c))));
        self.press(key(KeyCode::Enter));
    }

    /// Does a deed; what is asked of the surroundings waits until the read is over, but for files and questions,
    /// which end one.
    fn meet(&mut self, deed: &Deed) {
        match deed {
            Deed::Knob(times, up) => {
                self.press(key(KeyCode::Esc));
                self.press(key(KeyCode::Char('6')));
                let code = if *up { KeyCode::Right } else { KeyCode::Left };
                for _ in 0..*times {
                    self.press(key(code));
                    let (pace, muted, broken) = self.model.text;
                    if !broken {
                        let pace = if *up { (pace + 1).min(100) } else { pace.saturating_sub(1) };
                        self.model.change((pace, muted, broken));
                    }
                }
            }
            Deed::Undo(times) => {
                for _ in 0..*times {
                    self.ctrl('z');
                    if let Some(text) = self.model.before.pop() {
                        self.model.text = text;
                        self.model.take_up();
                    }
                }
            }
            Deed::Break => {
                self.press(key(KeyCode::F(2)));
                self.press(KeyEvent::new(KeyCode::Home, KeyModifiers::CONTROL));
                if !self.model.text.2 {
                    let more = self.app.paste("kaput ");
                    self.asked.extend(more);
                    let (pace, muted, _) = self.model.text;
                    self.model.change((pace, muted, true));
                }
                self.press(key(KeyCode::Esc));
            }
            Deed::Mute => {
                self.press(key(KeyCode::F(2)));
                self.press(KeyEvent::new(KeyCode::Home, KeyModifiers::CONTROL));
                (0..HANDLER).for_each(|_| self.press(key(KeyCode::Down)));
                self.press(KeyEvent::new(KeyCode::Char('m'), KeyModifiers::ALT));
                self.press(key(KeyCode::Esc));
                let (pace, muted, broken) = self.model.text;
                if !broken {
                    self.model.change((pace, !muted, broken));
                }
            }
            Deed::Play(ticks) => self.jump(self.model.tick as u64 + ticks),
            Deed::Jump(tick) => self.jump(*tick),
            Deed::Pause => self.press(key(KeyCode::F(5))),
            Deed::Restart => {
                self.press(key(KeyCode::Esc));
                self.press(key(KeyCode::Char('r')));
                (self.model.played, self.model.tick, self.model.left) = (Vec::new(), 0, None);
            }
            Deed::Select(next) => {
                self.press(key(KeyCode::Esc));
                self.press(key(KeyCode::Char('1')));
                let code = if *next { KeyCode::Down } else { KeyCode::Up };
                self.press(key(code));
                let (now, last) = (self.model.selected, 2);
                self.model.selected = Some(match (now, next) {
                    (None, _) => 1,
                    (Some(number), true) => (number + 1).min(last),
                    (Some(number), false) => number.saturating_sub(1).max(1),
                });
            }
            Deed::Unselect => {
                self.press(key(KeyCode::Esc));
                self.press(key(KeyCode::Char('u')));
                self.model.selected = None;
            }
            Deed::Anew => {
                self.press(key(KeyCode::Esc));
                self.press(key(KeyCode::Char('w')));
                self.model.anew = !self.model.anew;
            }
            Deed::Save(takes) => {
                self.settle();
                self.save(*takes);
            }
            Deed::Theirs(pace) => {
                self.model.files[self.model.open] = *pace;
                std::fs::write(&self.files[self.model.open], pond(*pace, false)).unwrap();
            }
            Deed::Look(takes) => {
                self.settle();
                self.look(*takes);
            }
            Deed::Open => {
                self.settle();
                self.open();
            }
        }
    }

    fn jump(&mut self, tick: u64) {
        self.press(key(KeyCode::Esc));
        self.press(key(KeyCode::Char('t')));
        self.answer(&format!("{tick} ticks"));
        let (to, pace) = (tick as usize, self.model.pace());
        self.model.tick = to;
        let len = self.model.played.len().max(to);
        if len > self.model.played.len() {
            self.model.left = None;
        }
        self.model.played.resize(len, pace);
        // It is on its way: what comes next happens there.
        self.settle();
    }

    fn save(&mut self, takes: bool) {
        self.ctrl('s');
        let asked = self.asked.pop();
        assert!(matches!(asked, Some(Effect::Save { .. })), "{asked:?}");
        let path = self.files[self.model.open].clone();
        let is_written = save(&mut self.app, &path, false, After::Stay);
        let (theirs, text) = (self.model.files[self.model.open], self.model.text);
        let conflict = theirs != self.model.known && (theirs, false, false) != text;
        assert_eq!(is_written, !conflict, "{:?}", self.app.over.prompt);
        if conflict {
            self.decide(theirs, takes);
        } else if text.1 || text.2 {
            // A text the model has no number for: what was there comes back, so that it is known.
            self.model.files[self.model.open] = theirs;
            std::fs::write(&path, pond(theirs, false)).unwrap();
            self.app.file.on_disk = Some(pond(theirs, false).into_bytes());
            self.app.script.buffer.mark_unsaved();
            self.model.known = theirs;
        } else {
            self.model.files[self.model.open] = text.0;
            self.model.known = text.0;
        }
    }

    fn look(&mut self, takes: bool) {
        let theirs = self.model.files[self.model.open];
        let (known, was_saved) = (self.model.known, self.app.script.buffer.is_saved());
        self.keeper.look_now(&mut self.app);
        if theirs == known {
            assert_eq!(self.app.offer(), None);
        } else if (theirs, false, false) == self.model.text {
            self.model.known = theirs;
        } else if was_saved {
            self.model.known = theirs;
            self.model.change((theirs, false, false));
        } else {
            self.decide(theirs, takes);
        }
    }

    /// Answers the question which text is to stay.
    fn decide(&mut self, theirs: u32, takes: bool) {
        let asked = pond(theirs, false);
        assert_eq!(self.app.offer().map(|offer| &offer.asks), Some(&Asks::Disk(asked)));
        let answer = if takes { 't' } else { 'k' };
        self.press(key(KeyCode::Char(answer)));
        self.press(key(KeyCode::Enter));
        assert_eq!(self.app.offer(), None);
        self.model.known = theirs;
        if takes {
            self.model.change((theirs, false, false));
        }
        self.settle();
    }

    fn open(&mut self) {
        let other = 1 - self.model.open;
        let path = self.files[other].clone();
        let effects = self.app.open(Opening::File(path));
        if !self.app.script.buffer.is_saved() {
            assert!(effects.is_empty(), "it is asked first");
            self.press(key(KeyCode::Char('d')));
            self.press(key(KeyCode::Enter));
            let asked = std::mem::take(&mut self.asked);
            assert!(matches!(&asked[..], [Effect::Open(_)]), "{asked:?}");
        }
        terminal::open(&mut self.app, Opening::File(self.files[other].clone()));
        let pace = self.model.files[other];
        self.model = Model {
            text: (pace, false, false),
            before: Vec::new(),
            plays: (pace, false),
            played: Vec::new(),
            left: None,
            tick: 0,
            anew: self.model.anew,
            files: self.model.files,
            open: other,
            known: pace,
            selected: None,
        };
        self.settle();
    }

    /// The end of a read: what was asked is done, and a picture drawn.
    fn settle(&mut self) {
        let mut effects = std::mem::take(&mut self.asked);
        // As often as keys can wait for each other.
        for _ in 0..8 {
            effects.extend(self.app.compile());
            effects.extend(self.app.wish());
            for effect in std::mem::take(&mut effects) {
                if let Effect::Tell(command) = effect {
                    self.worker.obey(command);
                }
            }
            self.worker.settle();
            self.app.observe(self.worker.snapshot());
            effects.append(&mut self.app.said.outbox);
        }
        let mut cells = Cells::empty(self.app.bands.screen);
        screen::draw(&self.app, self.app.bands.screen, &mut cells, &Palette::of(Theme::Dark));
    }

    fn check(&self) -> Result<(), TestCaseError> {
        let (app, model) = (&self.app, &self.model);
        prop_assert_eq!(app.script.buffer.text(), model.text());
        prop_assert_eq!(app.over.prompt.clone(), None);
        prop_assert_eq!(app.offer().cloned(), None);
        let s = &app.snapshot;
        prop_assert_eq!(&*s.script.text, &*pond(model.plays.0, model.plays.1), "what plays next");
        prop_assert_eq!(
            (s.travel.tick, s.travel.head),
            (model.tick as u64, model.played.len() as u64)
        );
        for seen in &s.scene.entities {
            let far = model.far();
            prop_assert!((seen.at.0 - far).abs() < 1e-6, "{} where {} is wanted", seen.at.0, far);
        }
        prop_assert_eq!(s.scene.entities.len(), 2);
        let file = std::fs::read_to_string(&self.files[model.open]).unwrap();
        prop_assert_eq!(file, pond(model.files[model.open], false));
        prop_assert_eq!(app.file.on_disk.clone(), Some(pond(model.known, false).into_bytes()));
        if app.script.buffer.is_saved() {
            prop_assert!(model.is_saved(), "said to be saved, and is not what was in the file");
        }
        let name = model.selected.map(|number| format!("frog#{number}"));
        prop_assert_eq!(app.focus.as_ref().map(|one| one.name()), name.clone());
        prop_assert_eq!(app.story().map(|story| story.name.clone()), name);
        prop_assert!(app.bands.place != Place::Script, "nobody types unawares");
        Ok(())
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(160))]

    #[test]
    fn what_is_shown_is_what_plays_and_what_is_known(reads in deeds()) {
        let folder = tempfile::tempdir().unwrap();
        let mut desk = Desk::new(folder.path());
        desk.check()?;
        for read in &reads {
            read.iter().for_each(|deed| desk.meet(deed));
            desk.settle();
            desk.check()?;
        }
    }
}
