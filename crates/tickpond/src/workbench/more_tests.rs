//! More of the workbench on a test backend: typing, saving, lines, guards.

use std::sync::Arc;

use crossterm::event::{KeyCode, KeyModifiers};
use ratatui::layout::Rect;
use rstest::rstest;
use tickpond_lab::{Run, RunOptions, Takes};

use super::app::Effect;
use super::befell::Befell;
use super::command::Command;
use super::keys::Place;
use super::palette::Palette;
use super::prompt::{After, Prompt};
use super::snapshot::Snapshot;
use super::{layout, screen};

use super::tests::{app_of, ctrl, frame, key, played, told_nothing, type_text};

#[rstest]
fn any_size_can_be_drawn() {
    for (width, height) in [(0, 0), (1, 1), (50, 14), (51, 15), (109, 29), (110, 30), (300, 90)] {
        for place in [Place::Script, Place::Arena, Place::Drawer] {
            let mut app = played(200, 80, 24);
            app.bands.place = place;
            app.bands.zoomed = width % 2 == 1;
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
    app.bands.place = Place::Script;
    assert!(frame(&app).contains("this pond is empty"));
}

// State.

#[rstest]
fn typing_hands_on_only_what_compiles() {
    let mut app = played(10, 160, 48);
    app.bands.place = Place::Script;
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
    app.bands.place = Place::Script;
    type_text(&mut app, "// ");
    assert!(told_nothing(&app.key(ctrl('q'), 0.0)));
    assert_eq!(app.over.prompt, Some(Prompt::Unsaved(After::Quit)));
    app.key(key(KeyCode::Esc), 0.0);
    assert_eq!(app.over.prompt, None);
    app.key(ctrl('q'), 0.0);
    app.key(key(KeyCode::Char('d')), 1.0);
    let effects = app.key(key(KeyCode::Enter), 1.1);
    assert!(matches!(effects[..], [Effect::Quit]));
}

#[rstest]
fn saving_the_demo_asks_for_a_name() {
    let mut app = played(10, 160, 48);
    assert!(app.key(ctrl('s'), 0.0).is_empty());
    assert_eq!(app.over.prompt, Some(Prompt::SaveAs("dusk.pond".into(), After::Stay)));
    type_text(&mut app, "2");
    let effects = app.key(key(KeyCode::Enter), 0.0);
    assert!(
        matches!(&effects[..], [Effect::Save { path, over: false, .. }] if path.ends_with("dusk.pond2"))
    );
}

#[rstest]
fn a_file_keeps_the_way_it_ends_its_lines() {
    let mut app = app_of("pond \"x\" { arena 9 x 9 }\r\n// end\r\n", 160, 48);
    app.bands.place = Place::Script;
    app.key(key(KeyCode::End), 0.0);
    app.key(key(KeyCode::Enter), 0.0);
    assert_eq!(app.file_text(), "pond \"x\" { arena 9 x 9 }\r\n\r\n// end\r\n");
}

#[rstest]
fn an_entity_leads_to_the_line_that_made_it() {
    let mut app = played(700, 160, 48);
    let line = app.snapshot.selected.story.as_ref().and_then(|s| s.born_line).unwrap();
    app.key(key(KeyCode::Char('b')), 0.0);
    assert_eq!(app.bands.place, Place::Arena);
    assert_eq!(app.said.message.as_ref().unwrap().0, format!("line {line}: F2 goes there"));
    assert_eq!(app.script.buffer.cursor().0 + 1, line as usize);
    let text = app.script.buffer.line(line as usize - 1);
    assert!(text.contains("makes") || text.contains("spawn") || text.contains("place"), "{text}");
}

#[rstest]
#[case::enlarged(160, 48, true)]
#[case::small(80, 24, false)]
fn where_the_script_is_out_of_sight_a_line_brings_it(
    #[case] width: u16,
    #[case] height: u16,
    #[case] enlarged: bool,
) {
    let mut app = played(700, width, height);
    if enlarged {
        app.key(key(KeyCode::Char('z')), 0.0);
    }
    app.key(key(KeyCode::Char('b')), 0.0);
    assert_eq!(app.bands.zoomed, enlarged);
    assert!(!app.areas().unwrap().script.is_empty());
    // The keys are where they were: what is typed next is no text.
    assert_eq!(app.bands.place, Place::Arena);
    let before = app.script.buffer.text();
    type_text(&mut app, "2/ended drop");
    assert_eq!(app.script.buffer.text(), before);
    assert!(app.areas().unwrap().script.is_empty());
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
    let cast = app.snapshot.cast.clone().unwrap();
    let arena = super::arena::parts(layout::body(app.areas().unwrap().arena)).0;
    let frog =
        app.snapshot.scene.entities.iter().find(|s| cast.kinds[s.who.kind.index()].name == "frog");
    let frog = frog.unwrap().clone();
    let (column, row) =
        super::arena::View::through(&app.arena.camera, &cast.arena, arena).cell(frog.at).unwrap();
    let click = crossterm::event::MouseEvent {
        kind: crossterm::event::MouseEventKind::Down(crossterm::event::MouseButton::Left),
        column,
        row,
        modifiers: KeyModifiers::NONE,
    };
    app.mouse(click);
    assert!(app.is_focus(frog.who));
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
    let mut playing = (*app.snapshot).clone();
    playing.play.playing = true;
    app.observe(Arc::new(playing));
    app.bands.place = Place::Script;
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
    app.observe(Arc::new(Snapshot::of(&run, 100, None, &mut Befell::default())));
    assert!(frame(&app).contains("paused: the pond is full: its entity limit is reached, line 2"));
    // Told once below, it stays among the checks and in the head of the strip.
    app.said.message = None;
    app.key(key(KeyCode::Char('5')), 0.0);
    let screen = frame(&app);
    assert!(screen.contains("STOPPED"), "{screen}");
    assert!(screen.contains("the pond is full: its entity limit is reached"), "{screen}");
    assert!(screen.contains("(limit 5 entities)"), "{screen}");
    app.key(key(KeyCode::Enter), 0.0);
    assert_eq!(app.script.buffer.cursor().0, 1, "the line that did it");
}

#[rstest]
fn a_failed_expectation_tells_what_was_seen() {
    let text = "pond \"t\" { arena 9 x 9 }\nkind a { look \"a\" }\nplace a at (1, 1)\nplace a at (2, 2)\n\
        expect \"one\": always count(a) == 1";
    let mut app = app_of(text, 160, 48);
    let program = tickpond_lang::compile(text).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(3);
    app.observe(Arc::new(Snapshot::of(&run, 3, None, &mut Befell::default())));
    app.key(key(KeyCode::Char('5')), 0.0);
    let screen = frame(&app);
    assert!(screen.contains("one: count(a) was 2, not 1"), "{screen}");
}

#[rstest]
fn a_guard_tells_all_its_lines_and_whose_fault_it_was() {
    let told = |text: &str| {
        let program = tickpond_lang::compile(text).program.unwrap();
        let mut run = Run::new(program, RunOptions::default()).unwrap();
        run.play_to(100);
        let snapshot = Snapshot::of(&run, 100, None, &mut Befell::default());
        snapshot.stopped.map(|stopped| stopped.told()).unwrap_or_default()
    };
    let full = "pond \"t\" { arena 9 x 9; limit 5 entities }\nkind a { every 5 ticks {\n\
        spawn 2 a at here\nspawn 3 a at here\nspawn a at here; spawn 4 a at here } }\nplace a at (1, 1)";
    assert_eq!(
        told(full),
        "the pond is full: its entity limit is reached, lines 5, 4 (limit 5 entities)"
    );
    let zero = "pond \"t\" { arena 9 x 9 }\nkind a { vars { n = 1 }\nevery 5 ticks { n = 1 / n } }\n\
        place a at (1, 1)\nplace a at (2, 2) { n = 0 }\nwatch w = mean(a.n)";
    assert_eq!(told(zero), "a result is no finite number, a#2, line 3");
}

#[rstest]
fn what_the_way_back_takes_is_told_part_by_part_and_in_all() {
    let mut app = played(60, 160, 48);
    let mib = |many: usize| many << 20;
    let takes = Takes { keyframes: mib(1), counts: mib(2), events: mib(4), branches: mib(8) };
    Arc::make_mut(&mut app.snapshot).travel.takes = takes;
    app.key(key(KeyCode::Char('M')), 0.0);
    let told = app.said.message.as_ref().unwrap().0.as_str();
    assert!(told.starts_with("the way back takes 15.0 of at most 2048 MiB: "), "{told}");
    assert!(told.ends_with("keyframes 1.0, counts 2.0, events 4.0, branches 8.0"), "{told}");
}
