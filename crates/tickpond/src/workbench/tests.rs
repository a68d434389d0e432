//! Frames on a test backend, and the state without a terminal.

use std::sync::Arc;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::Terminal;
use ratatui::backend::TestBackend;
use ratatui::layout::Rect;
use rstest::rstest;
use tickpond_lab::{Run, RunOptions};

use super::app::{App, Document, DrawerView, Effect, Prompt};
use super::keys::Place;
use super::palette::Palette;
use super::sim::Command;
use super::snapshot::{self, Snapshot};
use super::{layout, screen};
use crate::ponds;

fn app_of(text: &str, width: u16, height: u16) -> App {
    let document = Document { path: None, name: "dusk.pond".into(), text: text.into() };
    let mut app = App::new(document, false);
    app.resize(Rect::new(0, 0, width, height));
    app.compile();
    app
}

/// The demo, played so many ticks, with the frog firing, the way the simulation's thread shows it.
fn played(ticks: u64, width: u16, height: u16) -> App {
    let mut app = app_of(ponds::shipped("dusk").unwrap(), width, height);
    let program = tickpond_lang::compile(&app.script.buffer.text()).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.press("fire", true);
    run.play_to(ticks);
    let columns = app.areas().map_or(10, |a| layout::strip_columns(a.strip).width);
    app.observe(Arc::new(snapshot_of(&run, usize::from(columns))));
    app
}

fn snapshot_of(run: &Run, columns: usize) -> Snapshot {
    let who = snapshot::entities(run).first().map(|s| s.who);
    Snapshot::of(run, columns, who)
}

fn frame(app: &App) -> String {
    let mut terminal =
        Terminal::new(TestBackend::new(app.screen.width, app.screen.height)).unwrap();
    let palette = Palette::new(false);
    terminal
        .draw(|frame| {
            let area = frame.area();
            screen::draw(app, area, frame.buffer_mut(), &palette);
        })
        .unwrap();
    terminal.backend().to_string()
}

fn key(code: KeyCode) -> KeyEvent {
    KeyEvent::new(code, KeyModifiers::NONE)
}

fn ctrl(c: char) -> KeyEvent {
    KeyEvent::new(KeyCode::Char(c), KeyModifiers::CONTROL)
}

fn type_text(app: &mut App, text: &str) {
    text.chars().for_each(|c| {
        app.key(key(KeyCode::Char(c)), 0.0);
    });
}

// Frames.

#[rstest]
#[case::wide("wide", 160, 48, Place::Arena, DrawerView::Roster)]
#[case::wide_feed("wide_feed", 160, 48, Place::Script, DrawerView::Feed)]
#[case::small_arena("small_arena", 80, 24, Place::Arena, DrawerView::Roster)]
#[case::small_script("small_script", 80, 24, Place::Script, DrawerView::Roster)]
#[case::small_roster("small_roster", 80, 24, Place::Drawer, DrawerView::Roster)]
#[case::small_feed("small_feed", 80, 24, Place::Drawer, DrawerView::Feed)]
#[case::too_small("too_small", 20, 5, Place::Arena, DrawerView::Roster)]
fn a_frame_of_the_demo(
    #[case] name: &str,
    #[case] width: u16,
    #[case] height: u16,
    #[case] place: Place,
    #[case] drawer: DrawerView,
) {
    let mut app = played(700, width, height);
    (app.place, app.drawer) = (place, drawer);
    insta::assert_snapshot!(name, frame(&app));
}

#[rstest]
fn a_frame_of_a_broken_script() {
    let mut app = played(60, 160, 48);
    app.place = Place::Script;
    app.key(ctrl('a'), 0.0);
    app.paste("pond \"x\" { arena 10 x 10 }\nplace frgo at (1, 1)\nkind frog { health 3 u }\n");
    app.compile();
    insta::assert_snapshot!("broken_script", frame(&app));
}

#[rstest]
#[case(160, 48)]
#[case(80, 24)]
fn a_frame_of_the_keys(#[case] width: u16, #[case] height: u16) {
    let mut app = played(60, width, height);
    app.key(key(KeyCode::F(1)), 0.0);
    insta::assert_snapshot!(format!("keys_{width}"), frame(&app));
}

#[rstest]
fn any_size_can_be_drawn() {
    for (width, height) in [(0, 0), (1, 1), (50, 14), (51, 15), (109, 29), (110, 30), (300, 90)] {
        for place in [Place::Script, Place::Arena, Place::Drawer] {
            let mut app = played(200, 80, 24);
            app.place = place;
            app.zoomed = width % 2 == 1;
            let area = Rect::new(0, 0, width, height);
            app.resize(area);
            let mut cells = ratatui::buffer::Buffer::empty(area);
            screen::draw(&app, area, &mut cells, &Palette::new(true));
        }
    }
}

#[rstest]
fn an_empty_pond_says_what_would_fill_it() {
    let mut app = app_of("", 160, 48);
    assert!(frame(&app).contains("nothing plays yet"));
    app.place = Place::Script;
    assert!(frame(&app).contains("this pond is empty"));
}

// State.

#[rstest]
fn typing_hands_on_only_what_compiles() {
    let mut app = played(10, 160, 48);
    app.place = Place::Script;
    app.script.buffer.go_to(10, 14);
    type_text(&mut app, "1");
    let effects = app.compile();
    let Some(Effect::Tell(Command::Take(program))) = effects.first() else { panic!("{effects:?}") };
    assert_eq!(program.knobs[0].value, 16.0);
    type_text(&mut app, "x");
    assert!(app.compile().is_empty());
    assert!(app.script.is_broken());
    app.key(ctrl('z'), 0.0);
    assert_eq!(app.compile().len(), 1);
}

#[rstest]
fn quitting_with_unsaved_text_asks() {
    let mut app = played(10, 160, 48);
    assert!(matches!(app.key(ctrl('q'), 0.0)[..], [Effect::Quit]));
    app.place = Place::Script;
    type_text(&mut app, "// ");
    assert!(app.key(ctrl('q'), 0.0).is_empty());
    assert_eq!(app.prompt, Some(Prompt::Quit));
    app.key(key(KeyCode::Esc), 0.0);
    assert_eq!(app.prompt, None);
    app.key(ctrl('q'), 0.0);
    assert!(matches!(app.key(key(KeyCode::Char('d')), 0.0)[..], [Effect::Quit]));
}

#[rstest]
fn saving_the_demo_asks_for_a_name() {
    let mut app = played(10, 160, 48);
    assert!(app.key(ctrl('s'), 0.0).is_empty());
    assert_eq!(app.prompt, Some(Prompt::SaveAs("dusk.pond".into(), false)));
    type_text(&mut app, "2");
    let effects = app.key(key(KeyCode::Enter), 0.0);
    assert!(matches!(&effects[..], [Effect::Save(path)] if path.ends_with("dusk.pond2")));
}

#[rstest]
fn a_file_keeps_the_way_it_ends_its_lines() {
    let mut app = app_of("pond \"x\" { arena 9 x 9 }\r\n// end\r\n", 160, 48);
    app.place = Place::Script;
    app.key(key(KeyCode::End), 0.0);
    app.key(key(KeyCode::Enter), 0.0);
    assert_eq!(app.file_text(), "pond \"x\" { arena 9 x 9 }\r\n\r\n// end\r\n");
}

#[rstest]
fn an_entity_leads_to_the_line_that_made_it() {
    let mut app = played(700, 160, 48);
    let line = app.snapshot.story.as_ref().and_then(|s| s.born_line).unwrap();
    app.key(key(KeyCode::Char('b')), 0.0);
    assert_eq!(app.place, Place::Script);
    assert_eq!(app.script.buffer.cursor().0 + 1, line as usize);
    let text = app.script.buffer.line(line as usize - 1);
    assert!(text.contains("makes") || text.contains("spawn") || text.contains("place"), "{text}");
}

#[rstest]
fn a_feed_line_leads_to_its_tick_and_line() {
    let mut app = played(700, 160, 48);
    app.key(key(KeyCode::Char('2')), 0.0);
    app.key(key(KeyCode::Up), 0.0);
    let chosen = app.snapshot.feed[app.feed_choice().unwrap()].clone();
    let effects = app.key(key(KeyCode::Enter), 0.0);
    let seeks =
        effects.iter().any(|e| matches!(e, Effect::Tell(Command::Seek(t)) if *t == chosen.tick));
    assert!(seeks, "{effects:?}");
    assert_eq!(app.script.buffer.cursor().0 + 1, chosen.line.unwrap() as usize);
}

#[rstest]
fn a_click_on_the_strip_goes_to_that_moment() {
    let mut app = played(700, 160, 48);
    let strip = layout::strip_columns(app.areas().unwrap().strip);
    let click = crossterm::event::MouseEvent {
        kind: crossterm::event::MouseEventKind::Down(crossterm::event::MouseButton::Left),
        column: strip.x + strip.width / 2,
        row: strip.y + 1,
        modifiers: KeyModifiers::NONE,
    };
    let effects = app.mouse(click);
    let Some(Effect::Tell(Command::Seek(tick))) = effects.last() else { panic!("{effects:?}") };
    assert!((330..380).contains(tick), "{tick}");
}

#[rstest]
fn a_click_in_the_arena_selects_who_is_there() {
    let mut app = played(700, 160, 48);
    let program = app.snapshot.program.clone().unwrap();
    let arena = layout::body(app.areas().unwrap().arena);
    let frog =
        app.snapshot.entities.iter().find(|s| program.kinds[s.who.kind.index()].name == "frog");
    let frog = frog.unwrap().clone();
    let (column, row) = super::arena::View::new(&program.arena, arena).cell(frog.at).unwrap();
    let click = crossterm::event::MouseEvent {
        kind: crossterm::event::MouseEventKind::Down(crossterm::event::MouseButton::Left),
        column,
        row,
        modifiers: KeyModifiers::NONE,
    };
    app.mouse(click);
    assert_eq!(app.focus, Some(frog.who));
}

#[rstest]
fn the_plays_keys_go_to_the_play_until_let_go() {
    let mut app = played(10, 160, 48);
    app.key(key(KeyCode::Char('p')), 0.0);
    let effects = app.key(key(KeyCode::Char('f')), 0.0);
    assert!(matches!(&effects[..], [Effect::Tell(Command::Key(name, true))] if name == "fire"));
    let effects = app.key(key(KeyCode::Esc), 0.1);
    assert!(matches!(&effects[..], [Effect::Tell(Command::Key(name, false))] if name == "fire"));
    assert!(!app.controls.on);
}

#[rstest]
fn too_small_a_screen_pauses_and_keeps_the_text() {
    let mut app = played(10, 160, 48);
    let playing = Snapshot { playing: true, ..(*app.snapshot).clone() };
    app.observe(Arc::new(playing));
    app.place = Place::Script;
    type_text(&mut app, "// kept ");
    let effects = app.resize(Rect::new(0, 0, 20, 5));
    assert!(matches!(effects[..], [Effect::Tell(Command::Play(false))]));
    app.key(key(KeyCode::Char('x')), 0.0);
    app.resize(Rect::new(0, 0, 160, 48));
    assert!(app.script.buffer.text().starts_with("// kept // The main demo"));
}

#[rstest]
fn a_guard_that_stops_the_play_is_told_with_its_line() {
    let text = "pond \"t\" { arena 9 x 9; limit 5 entities }\nspawner src { makes a at here; every 1 ticks }\n\
        place src\nkind a { look \"a\" }";
    let mut app = app_of(text, 160, 48);
    let program = tickpond_lang::compile(text).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(100);
    app.observe(Arc::new(Snapshot::of(&run, 100, None)));
    assert!(frame(&app).contains("paused: the pond is full: its entity limit is reached, line 2"));
}
