//! What keys and the pointer do to the state, without a terminal and without a simulation.

use std::sync::Arc;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::Rect;
use rstest::rstest;
use tickpond_lab::{Run, RunOptions};

use super::app::{App, Document, Effect};
use super::befell::Befell;
use super::command::Command;
use super::keys::Place;
use super::layout::body;
use super::one::One;
use super::prompt::{After, Prompt};
use super::snapshot::{self, Snapshot};
use super::views::DrawerView;

const TEXT: &str = "pond \"Small\" { arena 40 x 20 }
input hop = key h
place frog at (10, 10)
place frog at (30, 10)
kind frog { health 3
    on press hop { say \"hop\" }
    after 5 s { end self because \"old\" } }
";

fn app() -> App {
    let document = Document { path: None, name: "small.pond".into(), text: TEXT.into() };
    let mut app = App::new(document, false);
    app.resize(Rect::new(0, 0, 160, 48));
    app.compile();
    let mut run =
        Run::new(tickpond_lang::compile(TEXT).program.unwrap(), RunOptions::default()).unwrap();
    run.play_to(60);
    app.observe(Arc::new(Snapshot::of(&run, 100, None, &mut Befell::default())));
    app
}

fn press(app: &mut App, code: KeyCode) -> Vec<Effect> {
    app.key(KeyEvent::new(code, KeyModifiers::NONE), 0.0)
}

fn with(app: &mut App, modifiers: KeyModifiers, code: KeyCode) -> Vec<Effect> {
    app.key(KeyEvent::new(code, modifiers), 0.0)
}

fn mouse(app: &mut App, kind: MouseEventKind, column: u16, row: u16) -> Vec<Effect> {
    app.mouse(MouseEvent { kind, column, row, modifiers: KeyModifiers::NONE })
}

/// Waits until the simulation has come to something.
fn until(simulation: &super::sim::Simulation, so: impl Fn(&Snapshot) -> bool) -> Arc<Snapshot> {
    for _ in 0..3000 {
        let (_, snapshot) = simulation.latest();
        if so(&snapshot) {
            return snapshot;
        }
        std::thread::sleep(std::time::Duration::from_millis(10));
    }
    panic!("waited in vain: {:?}", simulation.latest().1.notice);
}

fn told(effects: &[Effect]) -> Vec<String> {
    let tells = effects.iter().filter_map(|e| match e {
        Effect::Tell(command) => Some(format!("{command:?}")),
        _ => None,
    });
    tells.collect()
}

// Commands.

#[rstest]
#[case(' ', "PlayPause")]
#[case('.', "Step(1)")]
#[case(',', "Step(-1)")]
#[case(']', "Step(60)")]
#[case('[', "Step(-60)")]
#[case('+', "Faster(2.0)")]
#[case('-', "Faster(0.5)")]
#[case('r', "Restart(0)")]
#[case('R', "Restart(1)")]
fn a_letter_is_a_command_outside_the_script(#[case] letter: char, #[case] wanted: &str) {
    let mut app = app();
    assert_eq!(told(&press(&mut app, KeyCode::Char(letter))), [wanted]);
    app.bands.place = Place::Script;
    assert!(press(&mut app, KeyCode::Char(letter)).is_empty());
    assert!(app.script.buffer.text().starts_with(letter));
}

#[rstest]
#[case(KeyCode::F(5), "PlayPause")]
#[case(KeyCode::F(6), "Step(-1)")]
#[case(KeyCode::F(7), "Step(1)")]
fn numbered_keys_work_in_the_script_too(#[case] code: KeyCode, #[case] wanted: &str) {
    let mut app = app();
    app.bands.place = Place::Script;
    assert_eq!(told(&press(&mut app, code)), [wanted]);
}

#[rstest]
fn bands_are_reached_in_turn_and_by_number() {
    let mut app = app();
    let mut places = Vec::new();
    for _ in 0..2 {
        press(&mut app, KeyCode::Tab);
        places.push(app.bands.place);
    }
    // Nothing but its own key and a click leads into the script.
    assert_eq!(places, [Place::Drawer, Place::Arena]);
    press(&mut app, KeyCode::F(2));
    // In the script Tab is typed; Esc leads out.
    press(&mut app, KeyCode::Tab);
    assert_eq!(app.bands.place, Place::Script);
    assert!(app.script.buffer.text().starts_with("    pond"));
    press(&mut app, KeyCode::Esc);
    assert_eq!(app.bands.place, Place::Arena);
    with(&mut app, KeyModifiers::SHIFT, KeyCode::BackTab);
    assert_eq!(app.bands.place, Place::Drawer);
    press(&mut app, KeyCode::F(4));
    press(&mut app, KeyCode::Char('2'));
    assert_eq!((app.bands.place, app.drawer.view), (Place::Drawer, DrawerView::Feed));
}

#[rstest]
fn a_band_takes_the_whole_screen_and_gives_it_back() {
    let mut app = app();
    press(&mut app, KeyCode::Char('z'));
    let areas = app.areas().unwrap();
    assert_eq!((areas.arena.width, areas.arena.height), (160, 47));
    assert!(areas.strip.is_empty());
    press(&mut app, KeyCode::Char('z'));
    assert!(!app.areas().unwrap().strip.is_empty());
}

#[rstest]
fn help_opens_scrolls_and_closes() {
    let mut app = app();
    press(&mut app, KeyCode::Char('?'));
    press(&mut app, KeyCode::Down);
    assert_eq!(app.over.help, Some(1));
    press(&mut app, KeyCode::Char('q'));
    assert_eq!(app.over.help, None);
}

#[rstest]
fn speed_has_its_bounds() {
    let mut app = app();
    let simulation = super::sim::Simulation::start();
    simulation.tell(Command::Take(tickpond_lang::compile(TEXT).program.unwrap()));
    // Whatever comes at once, each counts: twelve times as fast again and again, and back.
    (0..12).for_each(|_| simulation.tell(Command::Faster(2.0)));
    until(&simulation, |s| s.play.speed == 64.0);
    (0..3).for_each(|_| simulation.tell(Command::Faster(0.5)));
    until(&simulation, |s| s.play.speed == 8.0);
    let _ = press(&mut app, KeyCode::Char('+'));
}

// Selecting.

#[rstest]
fn arrows_walk_the_roster_and_stop_at_its_ends() {
    let mut app = app();
    let id = |app: &App, at: usize| {
        One::of(app.snapshot.cast.as_ref().unwrap(), app.snapshot.scene.entities[at].who)
    };
    press(&mut app, KeyCode::Down);
    assert_eq!(app.focus, id(&app, 0));
    press(&mut app, KeyCode::Down);
    press(&mut app, KeyCode::Down);
    assert_eq!(app.focus, id(&app, 1));
    press(&mut app, KeyCode::PageUp);
    assert_eq!(app.focus, id(&app, 0));
    assert_eq!(told(&press(&mut app, KeyCode::Char('u'))), ["Focus(None)"]);
}

#[rstest]
fn a_click_on_a_roster_line_selects_it() {
    let mut app = app();
    let (list, _) = app.drawer_parts(app.areas().unwrap().drawer);
    mouse(&mut app, MouseEventKind::Down(MouseButton::Left), list.x + 2, list.y + 2);
    assert!(app.is_focus(app.snapshot.scene.entities[1].who));
    assert_eq!(app.bands.place, Place::Drawer);
}

#[rstest]
fn a_click_on_nothing_selects_nobody() {
    let mut app = app();
    let arena = body(app.areas().unwrap().arena);
    let effects = mouse(
        &mut app,
        MouseEventKind::Down(MouseButton::Left),
        arena.x + arena.width / 2,
        arena.y + 2,
    );
    assert_eq!(told(&effects), ["Focus(None)"]);
}

#[rstest]
fn without_a_selection_going_to_its_line_says_what_to_do() {
    let mut app = app();
    press(&mut app, KeyCode::Char('b'));
    assert!(app.said.message.as_ref().unwrap().0.contains("select an entity first"));
    assert_eq!(app.bands.place, Place::Arena);
}

#[rstest]
fn the_feed_follows_until_one_goes_up_and_again_at_its_end() {
    let mut app = app();
    press(&mut app, KeyCode::Char('2'));
    assert_eq!(app.feed_choice(), None);
    press(&mut app, KeyCode::Up);
    press(&mut app, KeyCode::Up);
    assert!(app.feed_choice().is_some());
    press(&mut app, KeyCode::PageDown);
    assert_eq!(app.feed_choice(), None);
}

// The script.

#[rstest]
fn a_click_and_a_drag_select_text() {
    let mut app = app();
    let text = body(app.areas().unwrap().script);
    let x = text.x + super::script::draw::gutter_width(9);
    mouse(&mut app, MouseEventKind::Down(MouseButton::Left), x, text.y);
    mouse(&mut app, MouseEventKind::Drag(MouseButton::Left), x + 4, text.y);
    assert_eq!(app.script.buffer.selected_text().as_deref(), Some("pond"));
    let effects = with(&mut app, KeyModifiers::CONTROL, KeyCode::Char('c'));
    assert!(matches!(&effects[..], [Effect::Clipboard(text)] if text == "pond"));
    // Esc leaves the selection before it leaves the script.
    press(&mut app, KeyCode::Esc);
    assert_eq!((app.bands.place, app.script.buffer.selection()), (Place::Script, None));
}

#[rstest]
fn cut_and_paste_move_a_line() {
    let mut app = app();
    app.bands.place = Place::Script;
    app.script.buffer.go_to(1, 3);
    with(&mut app, KeyModifiers::CONTROL, KeyCode::Char('x'));
    assert!(!app.script.buffer.text().contains("input hop"));
    with(&mut app, KeyModifiers::CONTROL, KeyCode::Char('v'));
    assert_eq!(app.script.buffer.text(), TEXT);
    assert!(app.script.buffer.is_saved());
}

#[rstest]
fn what_the_terminal_pastes_goes_into_the_script_alone() {
    let mut app = app();
    app.paste("lost");
    assert_eq!(app.script.buffer.text(), TEXT);
    app.bands.place = Place::Script;
    app.paste("// one\r\n// two\r");
    assert!(app.script.buffer.text().starts_with("// one\n// two\npond"));
}

#[rstest]
fn the_wheel_scrolls_the_script_under_it() {
    let mut app = app();
    mouse(&mut app, MouseEventKind::ScrollDown, 5, 5);
    assert_eq!(app.script.top, 3);
    mouse(&mut app, MouseEventKind::ScrollUp, 5, 5);
    assert_eq!(app.script.top, 0);
}

#[rstest]
fn wide_and_joined_characters_keep_the_cursor_where_it_is_drawn() {
    let mut app = app();
    app.bands.place = Place::Script;
    app.paste("// \u{6c34}e\u{301}!");
    let area = Rect::new(0, 0, 160, 48);
    let mut cells = ratatui::buffer::Buffer::empty(area);
    let palette = super::palette::Palette::new(true);
    let cursor = super::screen::draw(&app, area, &mut cells, &palette).unwrap();
    // Three cells of `// `, two of the wide one, one each of the others, behind the gutter.
    assert_eq!(cursor, (super::script::draw::gutter_width(9) + 7, 1));
}

// Files.

#[rstest]
fn saving_before_quitting_goes_through_the_name() {
    let mut app = app();
    app.bands.place = Place::Script;
    app.paste("// x\n");
    with(&mut app, KeyModifiers::CONTROL, KeyCode::Char('q'));
    app.key(KeyEvent::new(KeyCode::Char('s'), KeyModifiers::NONE), 1.0);
    assert_eq!(app.over.prompt, Some(Prompt::SaveAs("small.pond".into(), After::Quit)));
    press(&mut app, KeyCode::Backspace);
    press(&mut app, KeyCode::Char('2'));
    let effects = press(&mut app, KeyCode::Enter);
    assert!(
        matches!(&effects[..], [Effect::Save { path, after: After::Quit, .. }] if path.ends_with("small.pon2"))
    );
}

#[rstest]
fn a_pond_with_a_file_is_saved_at_once() {
    let mut app = app();
    app.saved("kept.pond".into());
    assert_eq!(app.file.name, "kept.pond");
    let effects = with(&mut app, KeyModifiers::CONTROL, KeyCode::Char('s'));
    assert!(matches!(&effects[..], [Effect::Save { path, .. }] if path.ends_with("kept.pond")));
    press(&mut app, KeyCode::Char('4'));
    let effects = with(&mut app, KeyModifiers::CONTROL, KeyCode::Char('e'));
    let Some(Effect::Tell(Command::Export(paths, _))) = effects.first() else { panic!() };
    assert_eq!(paths, &["kept-counts.svg", "kept-counts.pdf"].map(std::path::PathBuf::from));
    press(&mut app, KeyCode::Char('3'));
    let effects = with(&mut app, KeyModifiers::CONTROL, KeyCode::Char('e'));
    let Some(Effect::Tell(Command::Export(paths, drawing))) = effects.first() else { panic!() };
    assert_eq!(paths, &["kept-lifelines.svg", "kept-lifelines.pdf"].map(std::path::PathBuf::from));
    assert_eq!(drawing.what, "lifelines");
    press(&mut app, KeyCode::Char('2'));
    let effects = with(&mut app, KeyModifiers::CONTROL, KeyCode::Char('e'));
    let Some(Effect::Picture(Place::Drawer, paths)) = effects.first() else { panic!() };
    assert_eq!(paths, &["kept-feed.svg", "kept-feed.pdf"].map(std::path::PathBuf::from));
}

#[rstest]
fn a_pond_without_inputs_says_how_to_get_one() {
    let text = "pond \"x\" { arena 9 x 9 }";
    let mut app = app();
    let run =
        Run::new(tickpond_lang::compile(text).program.unwrap(), RunOptions::default()).unwrap();
    app.observe(Arc::new(Snapshot::of(&run, 100, None, &mut Befell::default())));
    press(&mut app, KeyCode::Char('p'));
    assert!(!app.controls.on);
    assert!(app.said.message.as_ref().unwrap().0.contains("add `input"));
}

#[rstest]
fn a_notice_is_shown_once() {
    let mut app = app();
    let notice = snapshot::Notice { number: 3, words: "edit taken up".into(), is_trouble: false };
    let told = Snapshot { notice: Some(notice), ..(*app.snapshot).clone() };
    app.observe(Arc::new(told.clone()));
    assert_eq!(app.said.message.as_ref().unwrap().0, "edit taken up");
    press(&mut app, KeyCode::Char('?'));
    app.observe(Arc::new(told));
    assert_eq!(app.said.message, None);
}

#[rstest]
fn the_run_before_keeps_its_length_in_the_strip() {
    let program = tickpond_lang::compile(TEXT).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(600);
    run.restart(None).unwrap();
    run.play_to(60);
    let strip = super::silhouette::strip(&run, 100);
    assert_eq!((strip.live.len(), strip.ghost.len()), (11, 100));
    assert_eq!(strip.ghost[20], 2);
    assert_eq!(strip.ghost[99], 0, "both frogs ended at 5 s");
    assert!(super::strip::ghost_shows(&strip));
}
