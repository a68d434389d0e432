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
use super::prompt::{After, Prompt};
use super::snapshot::{self, Snapshot};
use super::views::DrawerView;
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
    app.focus = app.snapshot.focus.clone();
    app
}

fn snapshot_of(run: &Run, columns: usize) -> Snapshot {
    let who = snapshot::entities(run).first().map(|s| s.who);
    let one = who.and_then(|who| One::of(run.program(), who));
    Snapshot::of(run, columns, one.as_ref(), &mut Befell::default())
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

/// Whether nothing is asked of the surroundings but to play the text as it is.
fn told_nothing(effects: &[Effect]) -> bool {
    effects.iter().all(|effect| matches!(effect, Effect::Tell(Command::Take(_))))
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

/// The demo with the drawer's wish answered, as the simulation would.
fn answered(mut app: App, ticks: u64, fire: bool) -> App {
    let program = tickpond_lang::compile(ponds::shipped("dusk").unwrap()).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    if fire {
        run.press("fire", true);
    }
    run.play_to(ticks / 2);
    let text = ponds::shipped("dusk").unwrap().replace("knob flock  = 6 ", "knob flock  = 12");
    if app.overlay > 0 && app.drawer == DrawerView::Trends {
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
    snapshot.answer = super::answers::answer(&mut run, &wish, &mut known, &snapshot.entities, true);
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
    (app.place, app.drawer) = (Place::Drawer, view);
    let app = answered(app, 700, true);
    insta::assert_snapshot!(
        format!("drawer_{}_{}", view.name().to_lowercase(), size.0),
        frame(&app)
    );
}

#[rstest]
fn a_frame_of_each_chart(#[values(1, 2, 3, 4, 5)] trend: usize) {
    let mut app = played(700, 160, 48);
    (app.place, app.drawer) = (Place::Drawer, DrawerView::Trends);
    app.trend = super::wish::Trend::ALL[trend];
    let app = answered(app, 700, true);
    insta::assert_snapshot!(format!("chart_{trend}"), frame(&app));
}

#[rstest]
#[case::question("midge where health < 2", 1)]
#[case::name("heron", 1)]
#[case::nobody("toad", 0)]
fn the_roster_is_narrowed_by_what_is_typed(#[case] typed: &str, #[case] least: usize) {
    let mut app = played(700, 160, 48);
    app.drawer = DrawerView::Roster;
    app.key(key(KeyCode::Char('/')), 0.0);
    type_text(&mut app, typed);
    assert_eq!(app.filter, typed, "it follows the typing");
    app.key(key(KeyCode::Enter), 0.0);
    let app = answered(app, 700, true);
    let rows = app.snapshot.answer.own::<super::views::roster::Rows>().unwrap().0.len();
    assert!(rows >= least && rows < app.snapshot.entities.len(), "{rows}");
    if least == 0 {
        assert!(frame(&app).contains("nobody fits"));
    }
}

#[rstest]
fn the_roster_is_sorted_both_ways() {
    let mut app = played(700, 160, 48);
    app.place = Place::Drawer;
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
    app.drawer = DrawerView::Feed;
    app.feed_filter = filter.into();
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
    assert!(app.message.as_ref().is_some_and(|m| m.0.contains(words)), "{:?}", app.message);
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
    assert_eq!(tick, wanted, "{:?}", app.message);
}

#[rstest]
fn places_visited_are_gone_back_to() {
    let mut app = played(700, 160, 48);
    let before = app.script.buffer.cursor();
    app.key(key(KeyCode::Char('b')), 0.0);
    let there = app.script.buffer.cursor();
    assert_ne!(there, before);
    assert_eq!(app.place, Place::Arena, "the next key is a command, not a letter in the text");
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
    assert_eq!(told, in_run, "{:?}", app.message);
    match in_text {
        Some(words) => {
            assert!(app.script.buffer.text().contains(words), "{}", app.script.buffer.text());
            app.key(ctrl('z'), 0.0);
        }
        None => assert!(told || app.message.as_ref().is_some_and(|m| m.1)),
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
    assert!(app.message.as_ref().is_some_and(|m| m.0.contains(" u, 0.0 deg")), "{:?}", app.message);
}

#[rstest]
#[case(Menu::Commands { typed: "tape".into(), chosen: 0 }, "record a tape")]
#[case(Menu::Page { title: "wave".into(), lines: vec!["words ".repeat(60)] }, "any key closes")]
fn lists_lie_over_the_screen(#[case] menu: Menu, #[case] words: &str) {
    for (width, height) in [(160, 48), (80, 24), (50, 14)] {
        let mut app = played(10, width, height);
        app.menu = Some(menu.clone());
        assert!(frame(&app).contains(words), "{}", frame(&app));
        app.key(key(KeyCode::Esc), 0.0);
        assert_eq!(app.menu, None);
    }
}

#[rstest]
fn a_word_is_completed_and_told() {
    let mut app = played(10, 160, 48);
    app.place = Place::Script;
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
    app.place = Place::Script;
    let before = app.script.buffer.text();
    app.key(ctrl('f'), 0.0);
    type_text(&mut app, "on hurt");
    app.key(key(KeyCode::Enter), 0.0);
    assert_eq!(app.script.buffer.selected_text().as_deref(), Some("on hurt"));
    app.key(alt('m'), 0.0);
    assert!(app.script.buffer.text().contains("off on hurt"), "{:?}", app.message);
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
    app.check_at = app.snapshot.checks.len();
    app.key(key(KeyCode::Char('a')), 0.0);
    assert!(app.script.buffer.text().contains("place frog at"), "{:?}", app.message);
}

#[rstest]
fn a_frame_of_each_theme() {
    let app = played(100, 160, 48);
    for theme in super::settings::Theme::ALL {
        let palette = Palette::of(theme);
        let mut cells = ratatui::buffer::Buffer::empty(app.screen);
        screen::draw(&app, app.screen, &mut cells, &palette);
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
        assert_eq!(missing, [], "every sign has a picture");
        assert!(std::fs::read_to_string(&paths[0]).unwrap().contains("</svg>"));
        assert!(std::fs::read(&paths[1]).unwrap().starts_with(b"%PDF"));
    }
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
    assert!(told_nothing(&app.key(ctrl('q'), 0.0)));
    assert_eq!(app.prompt, Some(Prompt::Unsaved(After::Quit)));
    app.key(key(KeyCode::Esc), 0.0);
    assert_eq!(app.prompt, None);
    app.key(ctrl('q'), 0.0);
    let effects = app.key(key(KeyCode::Char('d')), 0.0);
    assert!(matches!(effects[..], [Effect::Quit]));
}

#[rstest]
fn saving_the_demo_asks_for_a_name() {
    let mut app = played(10, 160, 48);
    assert!(app.key(ctrl('s'), 0.0).is_empty());
    assert_eq!(app.prompt, Some(Prompt::SaveAs("dusk.pond".into(), After::Stay)));
    type_text(&mut app, "2");
    let effects = app.key(key(KeyCode::Enter), 0.0);
    assert!(
        matches!(&effects[..], [Effect::Save { path, over: false, .. }] if path.ends_with("dusk.pond2"))
    );
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
    assert_eq!(app.place, Place::Arena);
    assert_eq!(app.message.as_ref().unwrap().0, format!("line {line}: F2 goes there"));
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
    assert_eq!(app.zoomed, enlarged);
    assert!(!app.areas().unwrap().script.is_empty());
    // The keys are where they were: what is typed next is no text.
    assert_eq!(app.place, Place::Arena);
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
    let program = app.snapshot.program.clone().unwrap();
    let arena = layout::body(app.areas().unwrap().arena);
    let frog =
        app.snapshot.entities.iter().find(|s| program.kinds[s.who.kind.index()].name == "frog");
    let frog = frog.unwrap().clone();
    let (column, row) =
        super::arena::View::through(&app.camera, &program.arena, arena).cell(frog.at).unwrap();
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
    app.observe(Arc::new(Snapshot::of(&run, 100, None, &mut Befell::default())));
    assert!(frame(&app).contains("paused: the pond is full: its entity limit is reached, line 2"));
    // Told once below, it stays among the checks and in the head of the strip.
    app.message = None;
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
