//! Whatever keys, clicks, sizes and pastes come in whatever order: nothing breaks, and every frame is drawn.

use std::sync::Arc;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use proptest::prelude::*;
use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use tickpond_arbitrary::{cases, ponds as drawn};
use tickpond_lab::{Run, RunOptions, TapeChoice};

use super::answers::{Known, answer};
use super::app::{App, Document, Effect};
use super::befell::Befell;
use super::command::Command;
use super::commands::TABLE;
use super::one::One;
use super::palette::Palette;
use super::screen;
use super::settings::Theme;
use super::snapshot::{self, Snapshot};
use crate::ponds;

/// Something a person does.
#[derive(Clone, Debug)]
enum Deed {
    /// One of the keys of the table, counted around.
    Command(usize),
    Key(KeyCode, KeyModifiers),
    Mouse(MouseEventKind, u16, u16),
    Resize(u16, u16),
    Paste(String),
    /// Time passes.
    Later,
}

/// What is typed: letters that mean something, brackets, wide and combining characters.
const LETTERS: &str = "abehknpswxz {}()[]\"/\\.,:+-0159éß漢\u{308}\u{200b}\u{1f7e2}";

fn deeds() -> impl Strategy<Value = Vec<Deed>> {
    let letters: Vec<char> = LETTERS.chars().collect();
    let code = prop_oneof![
        4 => prop::sample::select(letters).prop_map(KeyCode::Char),
        2 => prop::sample::select(vec![
            KeyCode::Up, KeyCode::Down, KeyCode::Left, KeyCode::Right, KeyCode::Home, KeyCode::End,
            KeyCode::PageUp, KeyCode::PageDown,
        ]),
        2 => prop::sample::select(vec![
            KeyCode::Enter, KeyCode::Tab, KeyCode::Backspace, KeyCode::Delete, KeyCode::Esc,
        ]),
    ];
    let modifiers = prop::sample::select(vec![
        KeyModifiers::NONE,
        KeyModifiers::NONE,
        KeyModifiers::SHIFT,
        KeyModifiers::CONTROL,
        KeyModifiers::ALT,
    ]);
    let mouse = prop::sample::select(vec![
        MouseEventKind::Down(MouseButton::Left),
        MouseEventKind::Drag(MouseButton::Left),
        MouseEventKind::Up(MouseButton::Left),
        MouseEventKind::ScrollUp,
        MouseEventKind::ScrollDown,
        MouseEventKind::Moved,
    ]);
    let pasted = prop::sample::select(vec![
        "",
        "\n",
        "kind leaf { }\n",
        "}}}}",
        "place midge at (1, 1)\r\n\tplace",
        "漢字\u{308}",
        "ended drop",
    ]);
    let deed = prop_oneof![
        8 => (0..1000usize).prop_map(Deed::Command),
        6 => (code, modifiers).prop_map(|(code, modifiers)| Deed::Key(code, modifiers)),
        4 => (mouse, 0..180u16, 0..60u16).prop_map(|(kind, x, y)| Deed::Mouse(kind, x, y)),
        1 => (1..200u16, 1..70u16).prop_map(|(width, height)| Deed::Resize(width, height)),
        1 => pasted.prop_map(|text| Deed::Paste(text.to_string())),
        2 => Just(Deed::Later),
    ];
    prop::collection::vec(deed, 10..60)
}

/// The workbench and the run it speaks of, without a thread between them.
struct Stage {
    app: App,
    run: Run,
    known: Known,
    befell: Befell,
    focus: Option<One>,
    now: f64,
}

impl Stage {
    fn new(width: u16, height: u16) -> Stage {
        Stage::of(ponds::shipped("dusk").unwrap().text, width, height)
    }

    /// A pond that compiles.
    fn of(text: &str, width: u16, height: u16) -> Stage {
        let document = Document { path: None, name: "dusk.pond".into(), text: text.into() };
        let mut app = App::new(document, false);
        app.resize(Rect::new(0, 0, width, height));
        app.compile();
        let program = tickpond_lang::compile(text).program.unwrap();
        let mut run = Run::new(program, RunOptions::default()).unwrap();
        run.play_to(200);
        Stage {
            app,
            run,
            known: Known::default(),
            befell: Befell::default(),
            focus: None,
            now: 0.0,
        }
    }

    fn meet(&mut self, deed: &Deed) {
        let effects = match deed {
            Deed::Command(at) => {
                let keys: Vec<_> = TABLE.iter().flat_map(|row| row.keys).collect();
                let (modifiers, code) = *keys[at % keys.len()];
                self.app.key(KeyEvent::new(code, modifiers), self.now)
            }
            Deed::Key(code, modifiers) => self.app.key(KeyEvent::new(*code, *modifiers), self.now),
            Deed::Mouse(kind, column, row) => self.app.mouse(MouseEvent {
                kind: *kind,
                column: *column,
                row: *row,
                modifiers: KeyModifiers::NONE,
            }),
            Deed::Resize(width, height) => self.app.resize(Rect::new(0, 0, *width, *height)),
            Deed::Paste(text) => self.app.paste(text),
            Deed::Later => {
                self.now += 0.4;
                self.app.tick(self.now)
            }
        };
        self.obey(effects);
        let effects = self.app.compile();
        self.obey(effects);
        let effects = self.app.wish();
        self.obey(effects);
        self.show();
    }

    /// What the simulation's thread does with what it is told, as far as it changes the run.
    fn obey(&mut self, effects: Vec<Effect>) {
        for effect in effects {
            let Effect::Tell(command) = effect else { continue };
            let run = &mut self.run;
            match command {
                Command::Take(program) => {
                    let _ = run.edit_as(program, true);
                }
                Command::PlayPause => run.play_to(run.tick() + 30),
                Command::Step(ticks) => {
                    run.seek(run.tick().saturating_add_signed(ticks).min(run.head() + 60));
                }
                Command::Seek(tick) => run.seek(tick.min(run.head())),
                Command::PlayTo(tick) => run.seek(tick.min(run.head() + 60)),
                Command::Restart(seed) => {
                    let _ = run.restart(Some(run.options().seed + seed));
                }
                Command::PlayTape(name) => {
                    let _ = run.play_tape(name.map_or(TapeChoice::Nothing, TapeChoice::Named));
                }
                Command::Key(input, down) => run.press(&input, down),
                Command::Point(input, at) => run.point(&input, at),
                Command::Place(kind, at) => run.place(&kind, at),
                Command::Focus(who) => self.focus = who,
                _ => {}
            }
        }
    }

    fn show(&mut self) {
        let mut seen = Snapshot::of(&self.run, 100, self.focus.as_ref(), &mut self.befell);
        let wish = self.app.present_wish();
        seen.answer = answer(&mut self.run, &wish, &mut self.known, &seen.scene.entities, true);
        seen.feed = snapshot::feed(&self.run, &wish.feed);
        self.app.observe(Arc::new(seen));
        let mut cells = Cells::empty(self.app.bands.screen);
        screen::draw(&self.app, self.app.bands.screen, &mut cells, &Palette::of(Theme::Dark));
    }
}

proptest! {
    #![proptest_config(ProptestConfig { max_shrink_iters: 200, ..ProptestConfig::with_cases(cases(24)) })]

    /// A pond of any sort is drawn whatever is done, and opened and left alone its text is that of its file.
    #[test]
    fn no_order_of_deeds_breaks_a_pond_by_chance(pond in drawn(), deeds in deeds()) {
        let text = pond.text();
        prop_assume!(tickpond_lang::compile(&text).program.is_some());
        let mut stage = Stage::of(&text, 110, 36);
        prop_assert_eq!(stage.app.file_text(), text);
        for deed in &deeds {
            stage.meet(deed);
        }
        let compiled = tickpond_lang::compile(&stage.app.script.buffer.text());
        prop_assert!(compiled.program.is_some() || !compiled.diagnostics.is_empty());
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn no_order_of_deeds_breaks_it(
        deeds in deeds(),
        (width, height) in prop::sample::select(vec![(160, 48), (80, 24), (52, 15), (10, 3)]),
    ) {
        let mut stage = Stage::new(width, height);
        for deed in &deeds {
            stage.meet(deed);
        }
        // Still there: the run plays on, and the text can be compiled or says why not.
        let tick = stage.run.tick();
        stage.run.step();
        prop_assert_eq!(stage.run.tick(), tick + 1);
        let compiled = tickpond_lang::compile(&stage.app.script.buffer.text());
        prop_assert!(compiled.program.is_some() || !compiled.diagnostics.is_empty());
    }

    /// What was typed can always be taken back, letter by letter.
    #[test]
    fn undo_leads_back_to_the_text_as_it_was(deeds in deeds()) {
        let mut stage = Stage::new(160, 48);
        let before = stage.app.script.buffer.text();
        for deed in &deeds {
            stage.meet(deed);
        }
        // Where nothing can be drawn keys do nothing, and lists and the play have keys of their own.
        stage.app.resize(Rect::new(0, 0, 160, 48));
        stage.app.over.prompt = None;
        stage.app.over.menu = None;
        stage.app.key(KeyEvent::new(KeyCode::Esc, KeyModifiers::NONE), stage.now);
        let undo = KeyEvent::new(KeyCode::Char('z'), KeyModifiers::CONTROL);
        for _ in 0..deeds.len() * 4 {
            stage.app.key(undo, stage.now);
        }
        prop_assert_eq!(stage.app.script.buffer.text(), before);
    }
}
