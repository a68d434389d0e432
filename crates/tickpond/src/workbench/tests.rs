//! Frames on a test backend, and the state without a terminal.

use std::sync::Arc;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::Terminal;
use ratatui::backend::TestBackend;
use ratatui::layout::Rect;
use rstest::rstest;
use tickpond_lab::{Run, RunOptions};

use super::app::{App, Document, Effect};
use super::befell::Befell;
use super::command::Command;
use super::keys::Place;
use super::menu::Menu;
use super::one::One;
use super::palette::Palette;
use super::snapshot::{self, Snapshot};
use super::views::DrawerView;
use super::{layout, screen};
use crate::ponds;

pub(super) fn app_of(text: &str, width: u16, height: u16) -> App {
    let document = Document { path: None, name: "dusk.pond".into(), text: text.into() };
    let mut app = App::new(document, false);
    app.resize(Rect::new(0, 0, width, height));
    app.compile();
    app
}

/// The demo, played so many ticks, with the frog firing, the way the simulation's thread shows it.
pub(super) fn played(ticks: u64, width: u16, height: u16) -> App {
    let mut app = app_of(ponds::shipped("dusk").unwrap().text, width, height);
    let program = tickpond_lang::compile(&app.script.buffer.text()).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.press("fire", true);
    run.play_to(ticks);
    let columns = app.areas().map_or(10, |a| layout::strip_columns(a.strip).width);
    app.observe(Arc::new(snapshot_of(&run, usize::from(columns))));
    app.focus = app.snapshot.selected.focus.clone();
    app
}

pub(super) fn snapshot_of(run: &Run, columns: usize) -> Snapshot {
    let who = snapshot::entities(run).first().map(|s| s.who);
    let one = who.and_then(|who| One::of(tickpond_lab::Timeline::cast(run), who));
    Snapshot::of(run, columns, one.as_ref(), &mut Befell::default())
}

pub(super) fn frame(app: &App) -> String {
    let mut terminal =
        Terminal::new(TestBackend::new(app.bands.screen.width, app.bands.screen.height)).unwrap();
    let palette = Palette::new(false);
    terminal
        .draw(|frame| {
            let area = frame.area();
            screen::draw(app, area, frame.buffer_mut(), &palette);
        })
        .unwrap();
    terminal.backend().to_string()
}

/// Whether nothing is asked of the surroundings but to play the text as it is.
pub(super) fn told_nothing(effects: &[Effect]) -> bool {
    effects.iter().all(|effect| matches!(effect, Effect::Tell(Command::Take(_))))
}

pub(super) fn key(code: KeyCode) -> KeyEvent {
    KeyEvent::new(code, KeyModifiers::NONE)
}

pub(super) fn ctrl(c: char) -> KeyEvent {
    KeyEvent::new(KeyCode::Char(c), KeyModifiers::CONTROL)
}

pub(super) fn type_text(app: &mut App, text: &str) {
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
    (app.bands.place, app.drawer.view) = (place, drawer);
    insta::assert_snapshot!(name, frame(&app));
}

/// The demo with the drawer's wish answered, as the simulation would.
pub(super) fn answered(mut app: App, ticks: u64, fire: bool) -> App {
    let program = tickpond_lang::compile(ponds::shipped("dusk").unwrap().text).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    if fire {
        run.press("fire", true);
    }
    run.play_to(ticks / 2);
    let text = ponds::shipped("dusk").unwrap().text.replace("knob flock  = 6 ", "knob flock  = 12");
    if app.drawer.overlay > 0 && app.drawer.view == DrawerView::Trends {
        run.play_to(ticks);
        run.seek(ticks / 4);
        run.edit(tickpond_lang::compile(&text).program.unwrap()).unwrap();
    }
    run.play_to(ticks);
    let effects = app.wish();
    let Some(Effect::Tell(Command::Want(wish))) = effects.into_iter().next() else { panic!() };
    let mut snapshot = snapshot_of(&run, wish.columns);
    let mut known = super::answers::Known::default();
    snapshot.feed = snapshot::feed(&run, &wish.feed);
    snapshot.answer =
        super::answers::answer(&mut run, &wish, &mut known, &snapshot.scene.entities, true);
    app.observe(Arc::new(snapshot));
    app
}

#[rstest]
fn a_frame_of_each_drawer(
    #[values((160, 48), (80, 24), (52, 15))] size: (u16, u16),
    #[values(0, 1, 2, 3, 4, 5, 6)] view: usize,
) {
    let view = DrawerView::ALL[view];
    let mut app = played(700, size.0, size.1);
    (app.bands.place, app.drawer.view) = (Place::Drawer, view);
    let app = answered(app, 700, true);
    insta::assert_snapshot!(
        format!("drawer_{}_{}", view.name().to_lowercase(), size.0),
        frame(&app)
    );
}

#[rstest]
fn a_frame_of_each_chart(#[values(1, 2, 3, 4, 5)] trend: usize) {
    let mut app = played(700, 160, 48);
    (app.bands.place, app.drawer.view) = (Place::Drawer, DrawerView::Trends);
    app.drawer.trend = super::wish::Trend::ALL[trend];
    let app = answered(app, 700, true);
    insta::assert_snapshot!(format!("chart_{trend}"), frame(&app));
}

#[rstest]
#[case::question("midge where health < 2", 1)]
#[case::name("heron", 1)]
#[case::nobody("toad", 0)]
fn the_roster_is_narrowed_by_what_is_typed(#[case] typed: &str, #[case] least: usize) {
    let mut app = played(700, 160, 48);
    app.drawer.view = DrawerView::Roster;
    app.key(key(KeyCode::Char('/')), 0.0);
    type_text(&mut app, typed);
    assert_eq!(app.drawer.filter, typed, "it follows the typing");
    app.key(key(KeyCode::Enter), 0.0);
    let app = answered(app, 700, true);
    let rows = app.snapshot.answer.own::<super::views::roster::Rows>().unwrap().0.len();
    assert!(rows >= least && rows < app.snapshot.scene.entities.len(), "{rows}");
    if least == 0 {
        assert!(frame(&app).contains("nobody fits"));
    }
}

#[rstest]
fn the_roster_is_sorted_both_ways() {
    let mut app = played(700, 160, 48);
    app.bands.place = Place::Drawer;
    app.key(key(KeyCode::Char('s')), 0.0);
    app.key(key(KeyCode::Char('s')), 0.0);
    let ages = |app: &App| -> Vec<f64> {
        super::views::roster::rows(&app.snapshot).map(|seen| seen.age).collect()
    };
    let mut app = answered(app, 700, true);
    let up = ages(&app);
    assert!(up.is_sorted() && up.len() > 5, "{up:?}");
    app.key(key(KeyCode::Char('S')), 0.0);
    let down = ages(&answered(app, 700, true));
    assert!(down.iter().rev().is_sorted(), "{down:?}");
}

#[rstest]
#[case("ended", "ended")]
#[case("born heron", "heron")]
#[case("line:68", ":")]
fn the_feed_is_narrowed_by_words(#[case] filter: &str, #[case] within: &str) {
    let mut app = played(700, 160, 48);
    app.drawer.view = DrawerView::Feed;
    app.drawer.feed_filter = filter.into();
    let app = answered(app, 700, true);
    assert!(!app.snapshot.feed.is_empty());
    for line in &app.snapshot.feed {
        let told = format!("{} {} : {:?}", line.what.name(), line.words, line.line);
        assert!(told.contains(within), "{told}");
    }
}

#[rstest]
fn a_knob_is_turned_in_the_text_and_nothing_else() {
    let mut app = played(10, 160, 48);
    app.compile();
    let before = app.script.buffer.text();
    app.key(key(KeyCode::Char('6')), 0.0);
    app.key(key(KeyCode::Right), 0.0);
    assert_eq!(app.script.buffer.text(), before.replacen("drift  = 6 u/s", "drift  = 6.2 u/s", 1));
    app.compile();
    app.key(key(KeyCode::Left), 0.0);
    assert_eq!(app.script.buffer.text(), before);
    app.compile();
    // The last is the gap of the placed reed bed.
    app.key(key(KeyCode::PageDown), 0.0);
    app.key(key(KeyCode::Char('v')), 0.0);
    type_text(&mut app, "2.5");
    app.key(key(KeyCode::Enter), 0.0);
    assert_eq!(app.script.buffer.text(), before.replacen("gap = 1.6 s", "gap = 2.5 s", 1));
    app.key(ctrl('z'), 0.0);
    assert_eq!(app.script.buffer.text(), before);
}

#[rstest]
#[case("abc", "no number")]
#[case("99", "1 to 20")]
fn a_value_that_does_not_fit_is_told(#[case] typed: &str, #[case] words: &str) {
    let mut app = played(10, 160, 48);
    app.compile();
    let before = app.script.buffer.text();
    app.key(key(KeyCode::Char('6')), 0.0);
    app.key(key(KeyCode::Char('v')), 0.0);
    type_text(&mut app, typed);
    app.key(key(KeyCode::Enter), 0.0);
    assert!(
        app.said.message.as_ref().is_some_and(|m| m.0.contains(words)),
        "{:?}",
        app.said.message
    );
    assert_eq!(app.script.buffer.text(), before);
}

#[rstest]
#[case("12.5 s", Some(750))]
#[case("740 ticks", Some(740))]
#[case("1 min", Some(3600))]
#[case("+2 s", Some(700 + 120))]
#[case("-10 ticks", Some(690))]
#[case("-1 min", Some(0))]
#[case("soon", None)]
#[case("", None)]
fn a_typed_time_is_gone_to(#[case] typed: &str, #[case] wanted: Option<u64>) {
    let mut app = played(700, 160, 48);
    app.key(key(KeyCode::Char('t')), 0.0);
    type_text(&mut app, typed);
    let effects = app.key(key(KeyCode::Enter), 0.0);
    let tick = effects.iter().find_map(|e| match e {
        Effect::Tell(Command::PlayTo(tick)) => Some(*tick),
        _ => None,
    });
    assert_eq!(tick, wanted, "{:?}", app.said.message);
}

#[rstest]
fn places_visited_are_gone_back_to() {
    let mut app = played(700, 160, 48);
    let before = app.script.buffer.cursor();
    app.key(key(KeyCode::Char('b')), 0.0);
    let there = app.script.buffer.cursor();
    assert_ne!(there, before);
    assert_eq!(
        app.bands.place,
        Place::Arena,
        "the next key is a command, not a letter in the text"
    );
    let alt = |code| KeyEvent::new(code, KeyModifiers::ALT);
    let effects = app.key(alt(KeyCode::Left), 0.0);
    assert_eq!(app.script.buffer.cursor(), before);
    assert!(effects.iter().any(|e| matches!(e, Effect::Tell(Command::Seek(700)))));
    app.key(alt(KeyCode::Right), 0.0);
    assert_eq!(app.script.buffer.cursor(), there);
}

#[rstest]
#[case("frog", true, None)]
#[case("+frog", false, Some("place frog at (80, 45)"))]
#[case("spot reeds", false, Some("(148, 80), (80, 45) }"))]
#[case("spot stones", false, None)]
#[case("+spot stones", false, Some("spots stones { (80, 45) }"))]
#[case("toad", false, None)]
fn things_are_placed_in_the_run_or_in_the_text(
    #[case] typed: &str,
    #[case] in_run: bool,
    #[case] in_text: Option<&str>,
) {
    let mut app = played(10, 160, 48);
    app.focus = None;
    let before = app.script.buffer.text();
    app.key(key(KeyCode::Char('i')), 0.0);
    type_text(&mut app, typed);
    let effects = app.key(key(KeyCode::Enter), 0.0);
    let told = effects.iter().any(|e| matches!(e, Effect::Tell(Command::Place(..))));
    assert_eq!(told, in_run, "{:?}", app.said.message);
    match in_text {
        Some(words) => {
            assert!(app.script.buffer.text().contains(words), "{}", app.script.buffer.text());
            app.key(ctrl('z'), 0.0);
        }
        None => assert!(told || app.said.message.as_ref().is_some_and(|m| m.1)),
    }
    assert_eq!(app.script.buffer.text(), before);
}

#[rstest]
fn the_arena_is_looked_at_from_near_and_as_a_whole() {
    let mut app = played(10, 160, 48);
    let whole = app.arena_view().unwrap().sight();
    app.key(key(KeyCode::Char('>')), 0.0);
    assert!(app.arena_view().unwrap().sight().0 < whole.0);
    let middle = app.arena_view().unwrap().centre();
    app.key(KeyEvent::new(KeyCode::Right, KeyModifiers::SHIFT), 0.0);
    assert!(app.arena_view().unwrap().centre().0 > middle.0);
    app.key(key(KeyCode::Char('0')), 0.0);
    assert_eq!(app.arena_view().unwrap().sight(), whole);
}

#[rstest]
fn a_distance_is_measured_with_the_cross() {
    let mut app = played(10, 160, 48);
    app.focus = None;
    app.key(key(KeyCode::Char('d')), 0.0);
    for _ in 0..10 {
        app.key(key(KeyCode::Right), 0.0);
    }
    assert!(
        app.said.message.as_ref().is_some_and(|m| m.0.contains(" u, 0.0 deg")),
        "{:?}",
        app.said.message
    );
}

#[rstest]
#[case(Menu::Commands { typed: "tape".into(), chosen: 0 }, "record a tape")]
#[case(Menu::page("wave", vec!["words ".repeat(60)]), "Esc closes")]
fn lists_lie_over_the_screen(#[case] menu: Menu, #[case] words: &str) {
    for (width, height) in [(160, 48), (80, 24), (50, 14)] {
        let mut app = played(10, width, height);
        app.over.menu = Some(menu.clone());
        assert!(frame(&app).contains(words), "{}", frame(&app));
        app.key(key(KeyCode::Esc), 0.0);
        assert_eq!(app.over.menu, None);
    }
}

#[rstest]
fn a_word_is_completed_and_told() {
    let mut app = played(10, 160, 48);
    app.bands.place = Place::Script;
    app.key(ctrl('a'), 0.0);
    app.paste("pond \"t\" { arena 9 x 9 }\nkind midge { }\nplace mid");
    app.key(KeyEvent::new(KeyCode::Char(' '), KeyModifiers::CONTROL), 0.0);
    assert!(frame(&app).contains("midge"));
    app.key(key(KeyCode::Enter), 0.0);
    assert!(app.script.buffer.text().ends_with("place midge"));
    app.key(ctrl('w'), 0.0);
    assert!(frame(&app).contains("line 2: kind midge"), "{}", frame(&app));
}

#[rstest]
fn lines_are_commented_muted_folded_and_searched() {
    let alt = |c| KeyEvent::new(KeyCode::Char(c), KeyModifiers::ALT);
    let mut app = played(10, 160, 48);
    app.compile();
    app.bands.place = Place::Script;
    let before = app.script.buffer.text();
    app.key(ctrl('f'), 0.0);
    type_text(&mut app, "on hurt");
    app.key(key(KeyCode::Enter), 0.0);
    assert_eq!(app.script.buffer.selected_text().as_deref(), Some("on hurt"));
    app.key(alt('m'), 0.0);
    assert!(app.script.buffer.text().contains("off on hurt"), "{:?}", app.said.message);
    app.key(ctrl('z'), 0.0);
    app.key(ctrl('k'), 0.0);
    assert!(app.script.buffer.text().contains("// on hurt"));
    app.key(ctrl('z'), 0.0);
    assert_eq!(app.script.buffer.text(), before);
    app.key(alt('o'), 0.0);
    assert!(frame(&app).contains("lines folded"));
    app.key(alt('a'), 0.0);
    assert!(!frame(&app).contains("lines folded"));
}

#[rstest]
fn a_finding_is_mended_with_one_key() {
    let mut app = played(10, 160, 48);
    app.script
        .buffer
        .put_all("pond \"x\" { arena 10 x 10 }\nplace frgo at (1, 1)\nkind frog { }\n");
    app.compile();
    app.key(key(KeyCode::Char('5')), 0.0);
    app.drawer.check_at = app.snapshot.checks.len();
    app.key(key(KeyCode::Char('a')), 0.0);
    assert!(app.script.buffer.text().contains("place frog at"), "{:?}", app.said.message);
}

#[rstest]
fn a_frame_of_each_theme() {
    let app = played(100, 160, 48);
    for theme in super::settings::Theme::ALL {
        let palette = Palette::of(theme);
        let mut cells = ratatui::buffer::Buffer::empty(app.bands.screen);
        screen::draw(&app, app.bands.screen, &mut cells, &palette);
        let coloured = cells.content.iter().any(|c| c.fg != ratatui::style::Color::Reset);
        assert_eq!(coloured, theme != super::settings::Theme::NoColour, "{}", theme.name());
    }
}

#[rstest]
fn a_picture_of_each_band_is_written() {
    let folder = tempfile::tempdir().unwrap();
    let app = played(100, 160, 48);
    for place in [Place::Script, Place::Arena, Place::Drawer] {
        let name = format!("{place:?}");
        let paths = ["svg", "pdf"].map(|end| folder.path().join(format!("{name}.{end}")));
        let missing = super::picture::write(&app, place, &paths).map_err(|f| f.words).unwrap();
        assert_eq!(missing, Vec::<char>::new(), "every sign has a picture");
        assert!(std::fs::read_to_string(&paths[0]).unwrap().contains("</svg>"));
        assert!(std::fs::read(&paths[1]).unwrap().starts_with(b"%PDF"));
    }
}

#[rstest]
fn a_frame_of_a_broken_script() {
    let mut app = played(60, 160, 48);
    app.bands.place = Place::Script;
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
