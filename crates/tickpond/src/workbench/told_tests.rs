//! What the screen says is so: each fault that was found there once, by name.

use std::sync::Arc;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use rstest::rstest;
use tickpond_lab::{Run, RunOptions};

use super::answers::{self, Known};
use super::app::{App, Document, Effect};
use super::befell::Befell;
use super::command::Command;
use super::keys::Place;
use super::menu::Opening;
use super::palette::Palette;
use super::prompt::{After, Prompt};
use super::settings::{Edits, Theme};
use super::sim::Worker;
use super::snapshot::{self, Snapshot};
use super::views::DrawerView;
use super::views::trends;
use super::wish::Trend;
use super::{screen, strip};

const TEXT: &str = "pond \"Small\" { arena 40 x 20 }
knob flock = 6 in 1..16
knob drift = 6 u/s in 1..20
spots stones { (1, 1) }
input aim = pointer
input hop = key h
place frog at (10, 10)
place frog at (30, 10)
kind frog { health 3
    on press hop { say \"hop\" }
    after 5 s { end self because \"old\" } }
expect \"two\": always count(frog) <= 2
expect \"later\": at 3 s, count(frog) == 2
";

/// The workbench and the simulation without a thread.
struct Desk {
    app: App,
    worker: Worker,
}

impl Desk {
    fn new(text: &str, (width, height): (u16, u16)) -> Desk {
        let document = Document { path: None, name: "small.pond".into(), text: text.into() };
        let mut app = App::new(document, false);
        app.resize(Rect::new(0, 0, width, height));
        let mut desk = Desk { app, worker: Worker::alone() };
        desk.settle(Vec::new());
        desk
    }

    fn settle(&mut self, effects: Vec<Effect>) {
        let mut effects = effects;
        for _ in 0..4 {
            effects.extend(self.app.compile());
            effects.extend(self.app.wish());
            for effect in std::mem::take(&mut effects) {
                if let Effect::Tell(command) = effect {
                    self.worker.obey(command);
                }
            }
            self.worker.settle();
            self.app.observe(self.worker.snapshot());
            effects.append(&mut self.app.outbox);
        }
    }

    fn key(&mut self, code: KeyCode, with: KeyModifiers) -> &mut Desk {
        let effects = self.app.key(KeyEvent::new(code, with), 0.0);
        self.settle(effects);
        self
    }

    fn press(&mut self, code: KeyCode) -> &mut Desk {
        self.key(code, KeyModifiers::NONE)
    }

    fn letter(&mut self, c: char) -> &mut Desk {
        self.press(KeyCode::Char(c))
    }

    fn type_text(&mut self, text: &str) -> &mut Desk {
        text.chars().for_each(|c| {
            self.letter(c);
        });
        self
    }

    fn to(&mut self, tick: u64) -> &mut Desk {
        self.settle(vec![Effect::Tell(Command::PlayTo(tick))]);
        self
    }

    fn message(&self) -> &str {
        self.app.message.as_ref().map_or("", |m| m.0.as_str())
    }

    fn screen(&self) -> String {
        let area = self.app.screen;
        let mut cells = Cells::empty(area);
        screen::draw(&self.app, area, &mut cells, &Palette::new(false));
        let row = |y: u16| -> String {
            (0..area.width).filter_map(|x| cells.cell((x, y)).map(|c| c.symbol())).collect()
        };
        (0..area.height).map(|y| row(y) + "\n").collect()
    }

    fn text(&self) -> String {
        self.app.script.buffer.text()
    }
}

fn desk() -> Desk {
    Desk::new(TEXT, (160, 48))
}

// Charts.

/// A heron that is away a tick at a time, too shortly for a column to be one of its absence alone.
const AWAY: &str = "pond \"t\" { arena 90 x 90 }\nkind heron { look \"Y\"; after 58 ticks { end self } }\n\
    every 60 ticks { spawn heron at (5, 5) }\nplace heron at (5, 5)\n";

#[rstest]
#[case(Trend::Counts)]
fn a_count_that_falls_for_a_moment_is_no_flat_line(#[case] trend: Trend) {
    let program = tickpond_lang::compile(AWAY).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(6000);
    let wish =
        super::wish::Wish { view: DrawerView::Trends, trend, columns: 30, ..Default::default() };
    let entities = snapshot::entities(&run);
    let answer = answers::answer(&mut run, &wish, &mut Known::default(), &entities, true);
    let series = &answer.own::<trends::Drawn>().unwrap().chart.series[0];
    assert!(series.points.iter().all(|p| p.1 == 1.0), "the most in each column is one");
    assert!(series.lows.len() * 10 > series.points.len() * 9, "{}", series.lows.len());
    assert!(series.lows.iter().all(|p| p.1 == 0.0));
    // And in the strip it was not there all through a column.
    let strip = super::silhouette::strip(&run, 60);
    assert!(strip.live.iter().filter(|counts| counts[0] == 0).count() > 50);
    assert!(strip.most.iter().all(|most| *most == 1));
}

#[rstest]
fn a_click_in_a_chart_goes_where_it_points_at_every_width() {
    for width in 52..=240 {
        let mut desk = Desk::new(TEXT, (width, 48));
        desk.to(2000).press(KeyCode::F(4)).letter('4');
        let areas = desk.app.areas().unwrap();
        let (list, _) = desk.app.drawer_parts(areas.drawer);
        let inside = |x: &u16| trends::tick_at(&desk.app, list, *x).is_some();
        let columns: Vec<u16> = (0..width).filter(inside).collect();
        assert!(columns.len() > 20, "{width}");
        for x in [columns[0], columns[columns.len() / 3], columns[columns.len() - 1]] {
            desk.app.message = None;
            let click = MouseEvent {
                kind: MouseEventKind::Down(MouseButton::Left),
                column: x,
                row: list.y + 2,
                modifiers: KeyModifiers::NONE,
            };
            let effects = desk.app.mouse(click);
            desk.settle(effects);
            // The mark of the present tick stands where the click was.
            let screen = desk.screen();
            let scale = screen.lines().find(|l| l.contains("time (s)")).unwrap();
            let mark = scale.chars().position(|c| c == '▴').unwrap();
            assert_eq!(mark, usize::from(x), "{width} columns: {scale}");
        }
    }
}

#[rstest]
fn a_chart_can_be_walked_along_by_keys() {
    let mut desk = desk();
    desk.to(3000).press(KeyCode::F(4)).letter('4');
    let (list, _) = desk.app.drawer_parts(desk.app.areas().unwrap().drawer);
    let per = trends::ticks_per_column(&desk.app, list).unwrap() as u64;
    assert!(per > 5);
    desk.key(KeyCode::Left, KeyModifiers::SHIFT).key(KeyCode::Left, KeyModifiers::SHIFT);
    assert_eq!(desk.app.snapshot.tick, 3000 - 2 * per);
    (0..5).for_each(|_| {
        desk.key(KeyCode::Right, KeyModifiers::SHIFT);
    });
    assert_eq!((desk.app.snapshot.tick, desk.app.snapshot.head), (3000, 3000), "not beyond");
}

#[rstest]
fn the_heights_of_the_strip_are_read_back_from_its_cells() {
    let text = "pond \"t\" { arena 90 x 90 }\nkind a { look \"a\" teal }\nkind b { look \"b\" amber }\n\
        kind c { look \"c\" rose }\n";
    let places: String = [("a", 7), ("b", 2), ("c", 11)]
        .iter()
        .flat_map(|(kind, count)| (0..*count).map(move |n| format!("place {kind} at ({n}, 5)\n")))
        .collect();
    let program = tickpond_lang::compile(&format!("{text}{places}")).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(300);
    let mut read = 0;
    for height in 6..14 {
        let snapshot = Snapshot::of(&run, 93, None, &mut Befell::default());
        let area = Rect::new(0, 0, 100, height);
        let mut cells = Cells::empty(area);
        let palette = Palette::of(Theme::Dark);
        strip::draw(&snapshot, area, &mut cells, &palette);
        // Rows of the plot: without head, births, ends and times.
        let rows = height - 4;
        let x = 20;
        let mut heights: Vec<(ratatui::style::Color, u64)> = Vec::new();
        let mut add = |colour, eighths| match heights.iter_mut().find(|h| h.0 == colour) {
            Some(known) => known.1 += eighths,
            None => heights.push((colour, eighths)),
        };
        for y in 2..2 + rows {
            let cell = cells.cell((x, y)).unwrap();
            let symbol = cell.symbol().chars().next().unwrap();
            if symbol == ' ' {
                continue;
            }
            let eighths = u64::from(symbol as u32 - '▁' as u32 + 1);
            add(cell.fg, eighths);
            if cell.bg != ratatui::style::Color::Reset {
                add(cell.bg, 8 - eighths);
            }
        }
        let all: u64 = heights.iter().map(|h| h.1).sum();
        assert_eq!(all, u64::from(rows) * 8, "twenty are the most there were");
        for (name, count) in [("teal", 7u64), ("amber", 2), ("rose", 11)] {
            let colour = palette.kind(Some(name), 0).fg.unwrap();
            let seen = heights.iter().find(|h| h.0 == colour).map_or(0, |h| h.1);
            let right = count as f64 * f64::from(rows) * 8.0 / 20.0;
            // Where three meet in a cell two are shown.
            let ends = [7.0, 9.0].map(|end| (end * f64::from(rows) * 8.0 / 20.0).round() as u64);
            if ends[0] / 8 == ends[1] / 8 && ends[1] % 8 > 0 {
                continue;
            }
            read += 1;
            assert!((seen as f64 - right).abs() <= 1.0, "{name} {seen} for {right} in {rows} rows");
        }
    }
    assert!(read >= 12, "{read}");
}

// Another pond.

#[rstest]
fn another_pond_stands_alone_at_its_start() {
    let mut desk = desk();
    desk.to(1800).press(KeyCode::Char(' ')).letter('j');
    desk.settle(vec![Effect::Tell(Command::Faster(4.0))]);
    let other = Document {
        path: None,
        name: "other.pond".into(),
        text: "pond \"Other\" { arena 9 x 9 }\nplace fly at (1, 1)\nkind fly { look \"f\" }\n"
            .into(),
    };
    desk.app.replace_document(other);
    desk.settle(Vec::new());
    let s = &desk.app.snapshot;
    assert_eq!((s.tick, s.head, s.playing, s.speed), (0, 0, false, 1.0));
    assert!(s.strip.ghost.is_empty() && !s.edited, "nothing to be compared with");
    assert_eq!((desk.app.focus.clone(), s.focus.clone()), (None, None));
    assert_eq!(s.program.as_ref().unwrap().title, "Other");
}

#[rstest]
fn a_pond_that_cannot_be_played_shows_nothing_of_the_one_before() {
    let mut desk = desk();
    desk.to(60);
    let broken = Document { path: None, name: "b.pond".into(), text: "pond".into() };
    desk.app.replace_document(broken);
    desk.settle(Vec::new());
    assert!(desk.app.snapshot.program.is_none() && desk.app.snapshot.entities.is_empty());
}

#[rstest]
fn a_snapshot_of_the_pond_before_is_not_taken_for_one_of_this() {
    let mut desk = desk();
    desk.to(60);
    let old = desk.worker.snapshot();
    let other =
        Document { path: None, name: "o.pond".into(), text: "pond \"O\" { arena 9 x 9 }".into() };
    desk.app.replace_document(other);
    desk.app.observe(old);
    assert!(desk.app.snapshot.program.is_none());
}

#[rstest]
#[case('s', true)]
#[case('d', false)]
fn unsaved_text_is_asked_about_before_another_pond_is_opened(
    #[case] answer: char,
    #[case] saves: bool,
) {
    let mut desk = desk();
    desk.app.path = Some("small.pond".into());
    desk.press(KeyCode::F(2)).type_text("// ");
    assert!(desk.app.open(Opening::New).is_empty());
    assert_eq!(desk.app.prompt, Some(Prompt::Unsaved(After::Open(Opening::New))));
    let effects = desk.app.key(KeyEvent::new(KeyCode::Char(answer), KeyModifiers::NONE), 0.0);
    match saves {
        true => assert!(matches!(&effects[..], [Effect::Save { after: After::Open(_), .. }])),
        false => assert!(matches!(&effects[..], [Effect::Open(Opening::New)])),
    }
}

#[rstest]
fn edits_that_play_anew_and_a_pond_without_a_file_are_marked_so() {
    let mut desk = desk();
    assert!(desk.screen().contains("small.pond (no file: F12 names one)"));
    assert!(!desk.screen().contains("play anew"));
    desk.letter('w');
    assert_eq!(desk.app.settings.edits, Edits::Restart);
    desk.app.message = None;
    assert!(desk.screen().contains("edits play anew (w)"), "{}", desk.screen());
}

// Muting.

#[rstest]
fn a_handler_is_muted_while_paused_and_from_the_edge_of_its_line() {
    let mut desk = desk();
    desk.to(30).press(KeyCode::F(2));
    desk.app.script.buffer.go_to(9, 0);
    desk.key(KeyCode::Char('m'), KeyModifiers::ALT);
    assert!(desk.text().contains("    off on press hop"), "{}", desk.message());
    // And again, though not a tick was played since.
    desk.key(KeyCode::Char('m'), KeyModifiers::ALT);
    assert_eq!(desk.text(), TEXT);
    desk.type_text("x").key(KeyCode::Char('m'), KeyModifiers::ALT);
    assert!(desk.message().contains("put the errors"), "{}", desk.message());
}

// Keys.

#[rstest]
fn the_end_of_one_alive_is_not_on_record_and_says_why() {
    let mut desk = desk();
    desk.to(60).letter('j').letter('e');
    assert!(desk.message().contains("frog#1 is alive"), "{}", desk.message());
    desk.letter('h');
    assert!(desk.message().contains("has not been hurt"), "{}", desk.message());
}

#[rstest]
fn following_begins_at_once_while_paused() {
    let mut desk = desk();
    desk.to(60).letter('j').letter('>').letter('f');
    assert_eq!(desk.app.camera.centre, Some((10.0, 10.0)));
}

#[rstest]
#[case("6", "flock is 6 already")]
#[case("9", "flock = 9; was 6, Ctrl+Z takes it back")]
fn a_value_typed_is_told_without_stray_blanks(#[case] typed: &str, #[case] words: &str) {
    let mut desk = desk();
    desk.letter('6').letter('v').type_text(typed).press(KeyCode::Enter);
    assert!(desk.message().contains(words), "{}", desk.message());
}

#[rstest]
fn a_knob_at_its_end_says_so() {
    let mut desk = desk();
    desk.letter('6').key(KeyCode::Right, KeyModifiers::SHIFT);
    assert!(desk.text().contains("knob flock = 16 "));
    desk.press(KeyCode::Right);
    assert!(desk.message().contains("flock is at its end: 16"), "{}", desk.message());
}

#[rstest]
fn a_group_of_spots_is_not_made_unasked() {
    let mut desk = desk();
    desk.letter('i').type_text("spot nope").press(KeyCode::Enter);
    assert_eq!(desk.text(), TEXT);
    assert!(desk.message().contains("no group `nope` (stones)"), "{}", desk.message());
    desk.letter('i').type_text("+spot nope").press(KeyCode::Enter);
    assert!(desk.text().contains("spots nope {"));
}

#[rstest]
fn counts_beside_the_lines_stay_while_the_text_has_errors() {
    let mut desk = desk();
    desk.to(400).press(KeyCode::F(2));
    let line = |desk: &Desk| {
        let screen = desk.screen();
        screen
            .lines()
            .find(|l| l.contains("after 5 s"))
            .unwrap()
            .chars()
            .take(12)
            .collect::<String>()
    };
    assert!(line(&desk).contains("11     2"), "{}", line(&desk));
    // A line more above moves them with their lines.
    desk.key(KeyCode::Home, KeyModifiers::CONTROL).type_text("kaput").press(KeyCode::Enter);
    assert!(desk.app.script.is_broken());
    assert!(line(&desk).contains("12     2"), "{}", line(&desk));
}

#[rstest]
fn lines_beyond_ten_thousand_have_room() {
    let text = format!("{TEXT}{}", "// reeds\n".repeat(12_000));
    let mut desk = Desk::new(&text, (160, 48));
    desk.press(KeyCode::F(2)).key(KeyCode::End, KeyModifiers::CONTROL);
    let screen = desk.screen();
    let line = screen.lines().find(|l| l.starts_with("12005")).expect("a number of five digits");
    assert!(line.starts_with("12005       // reeds") || line.contains(" // reeds"), "{line}");
}

#[rstest]
fn what_the_line_of_an_error_says_is_said_when_it_is_gone_to() {
    let mut desk = desk();
    desk.app.script.buffer.put_all(&TEXT.replace("place frog at (10", "place frgo at (10"));
    desk.settle(Vec::new());
    desk.key(KeyCode::Char('n'), KeyModifiers::ALT);
    let remark = desk.app.script.remark_here().unwrap();
    assert!(remark.help.is_some());
    assert_eq!(desk.app.message.as_ref().unwrap().0, remark.told());
    assert_eq!(desk.app.place, Place::Arena, "the keys stay where they were");
}

// What does not depend on the size.

#[rstest]
fn looking_at_a_line_never_types_into_it(
    #[values((160, 48), (100, 30), (80, 24), (52, 15))] size: (u16, u16),
    #[values('b', 'e', 'h')] look: char,
) {
    let mut desk = Desk::new(TEXT, size);
    desk.to(400).letter('j').letter(look);
    desk.type_text("2/ended drop").press(KeyCode::Enter);
    assert_eq!(desk.text(), TEXT);
    assert_eq!((desk.app.place, desk.app.drawer), (Place::Drawer, DrawerView::Feed));
}

#[rstest]
fn a_line_is_shown_until_the_next_key_where_there_is_no_room_beside() {
    let mut desk = Desk::new(TEXT, (80, 24));
    desk.to(60).letter('j').letter('b');
    assert!(desk.screen().contains("place frog at (10, 10)"), "{}", desk.screen());
    assert!(desk.message().contains("F2 goes there"), "{}", desk.message());
    desk.letter('.');
    assert!(!desk.screen().contains("place frog at (10, 10)"));
}

#[rstest]
fn who_is_selected_unseen_is_told() {
    let mut desk = desk();
    desk.to(60).letter('4').press(KeyCode::F(3)).letter('j');
    assert!(desk.message().contains("frog#1 is selected"), "{}", desk.message());
}

#[rstest]
fn what_is_open_is_not_told_as_failed() {
    let mut desk = desk();
    assert!(desk.screen().contains("1 hold, 1 open"), "{}", desk.screen());
    desk.to(200);
    assert!(desk.screen().contains(" 2 hold "), "{}", desk.screen());
}

#[rstest]
fn an_edit_that_made_no_difference_yet_says_so() {
    let mut desk = desk();
    desk.to(60).letter('6').press(KeyCode::Down).press(KeyCode::Right);
    desk.app.message = None;
    assert!(desk.screen().contains("no difference yet; from the start: w, r"), "{}", desk.screen());
    desk.key(KeyCode::Char('z'), KeyModifiers::CONTROL);
    assert!(desk.message().contains("edit taken back"), "{}", desk.message());
}

// A selection is a name.

#[rstest]
fn the_story_is_of_the_name_that_is_selected_whatever_is_played_anew() {
    let text = "pond \"t\" { arena 90 x 90 }\nkind a { look \"a\" }\nkind b { look \"b\" }\n\
        knob first = 1 in 0..1\nspawner bed { makes a at here; every 0.5 s }\nplace bed at (5, 5)\n\
        place b at (9, 9)\n";
    let mut desk = Desk::new(text, (160, 48));
    desk.to(300).letter('1').press(KeyCode::PageDown);
    let name = desk.app.focus.as_ref().unwrap().name();
    desk.letter('w');
    // Another kind comes before it, and another in its place.
    let other = text.replace("kind a {", "kind c { look \"c\" }\nplace c at (3, 3)\nkind a {");
    desk.app.script.buffer.put_all(&other.replace("every 0.5 s", "every 0.4 s"));
    desk.settle(Vec::new());
    let story = desk.app.story().expect("its story");
    assert_eq!((story.name.clone(), desk.app.focus.as_ref().unwrap().name()), (name.clone(), name));
    let seen = desk.app.seen_focus().expect("it lives");
    let place = story.values.iter().find(|v| v.0 == "place").unwrap();
    assert_eq!(place.1, format!("({:.1}, {:.1}) u", seen.at.0, seen.at.1));
}

#[rstest]
fn lines_are_those_of_the_text_on_the_screen() {
    let mut desk = desk();
    desk.to(60).letter('j');
    // Two lines more above, and an edit that means something.
    let moved = format!("// one\n// two\n{}", TEXT.replace("after 5 s", "after 6 s"));
    desk.app.script.buffer.put_all(&moved);
    desk.settle(Vec::new());
    desk.to(100).letter('b');
    assert_eq!(desk.app.script.buffer.cursor().0, 8, "where `place frog at (10, 10)` is now");
    assert!(desk.message().contains("line 9: F2"), "{}", desk.message());
}

// The way to a tick.

#[rstest]
fn a_long_way_is_told_and_can_be_stopped() {
    let mut desk = desk();
    desk.to(60);
    let mut seen = (*desk.worker.snapshot()).clone();
    seen.goal = Some(90_000);
    desk.app.observe(Arc::new(seen));
    assert!(desk.screen().contains("on the way to 1500.00 s (Esc stops)"), "{}", desk.screen());
    let effects = desk.app.key(KeyEvent::new(KeyCode::Esc, KeyModifiers::NONE), 0.0);
    assert!(matches!(&effects[..], [Effect::Tell(Command::Halt)]), "{effects:?}");
}

#[rstest]
fn where_nothing_plays_there_is_no_way_anywhere() {
    let mut desk = Desk::new("pond", (160, 48));
    desk.letter('t').type_text("600 s").press(KeyCode::Enter);
    assert_eq!(desk.app.snapshot.goal, None);
    assert!(!desk.screen().contains("on the way"));
}

#[rstest]
fn what_is_done_on_the_way_back_happens_where_it_leads() {
    let mut desk = desk();
    desk.to(2000);
    // All in one read: back, and a place there.
    desk.settle(vec![
        Effect::Tell(Command::Seek(30)),
        Effect::Tell(Command::Place("frog".into(), (3.0, 3.0))),
        Effect::Tell(Command::Step(1)),
    ]);
    let s = &desk.app.snapshot;
    assert_eq!((s.tick, s.head, s.entities.len()), (31, 31, 3));
}

#[rstest]
fn what_was_missed_while_suspended_is_not_played_all_at_once() {
    let mut desk = desk();
    desk.worker.obey(Command::Play(true));
    // An hour without a word.
    desk.worker.was_away(std::time::Duration::from_secs(3600));
    desk.worker.pass();
    let tick = desk.worker.snapshot().tick;
    assert!((1..=20).contains(&tick), "{tick} ticks of 216,000");
}

// The play's keys.

#[rstest]
#[case('q')]
#[case('r')]
#[case('T')]
#[case(':')]
fn while_the_play_has_the_keys_all_are_its_own(#[case] c: char) {
    let mut desk = desk();
    desk.to(60).letter('T').letter('p');
    assert!(desk.app.snapshot.recording.is_some());
    let effects = desk.app.key(KeyEvent::new(KeyCode::Char(c), KeyModifiers::NONE), 0.0);
    assert!(effects.is_empty() && desk.app.menu.is_none() && desk.app.prompt.is_none());
    assert!(desk.message().contains("Esc gives the keys back"), "{}", desk.message());
    let effects = desk.app.key(KeyEvent::new(KeyCode::F(7), KeyModifiers::NONE), 0.0);
    assert!(matches!(&effects[..], [Effect::Tell(Command::Step(1))]), "{effects:?}");
}

#[rstest]
fn esc_gives_the_keys_back_though_another_key_comes_right_behind_it() {
    let mut desk = desk();
    desk.to(60).letter('p').key(KeyCode::Char('4'), KeyModifiers::ALT);
    assert!(!desk.app.controls.on);
    assert_eq!(desk.app.drawer, DrawerView::Trends);
    // An input's own key latches.
    desk.letter('p').key(KeyCode::Char('h'), KeyModifiers::ALT);
    assert!(desk.app.controls.on);
    assert_eq!(desk.app.controls.latched().collect::<Vec<_>>(), ["hop"]);
}

#[rstest]
fn the_status_line_shows_the_keys_that_work_in_play() {
    let mut desk = desk();
    desk.to(60).letter('p');
    desk.app.message = None;
    let screen = desk.screen();
    let status = screen.lines().last().unwrap();
    assert!(status.contains("F5 play") && status.contains("F8 give the keys back"), "{status}");
    assert!(!status.contains("restart") && !status.contains("Space"), "{status}");
    assert!(screen.contains("pointer moves aim, h hop"), "{screen}");
}

#[rstest]
fn a_pointer_of_the_play_goes_where_it_is_moved() {
    let mut desk = desk();
    desk.to(60).letter('p');
    let arena = super::layout::body(desk.app.areas().unwrap().arena);
    let moved = MouseEvent {
        kind: MouseEventKind::Moved,
        column: arena.x + arena.width / 2,
        row: arena.y + arena.height / 2,
        modifiers: KeyModifiers::NONE,
    };
    let effects = desk.app.mouse(moved);
    let Some(Effect::Tell(Command::Point(name, at))) = effects.first() else {
        panic!("{effects:?}")
    };
    assert_eq!(name, "aim");
    assert!((at.0 - 20.0).abs() < 2.0 && (at.1 - 10.0).abs() < 2.0, "{at:?}");
}

#[rstest]
fn quitting_asks_when_a_recording_or_a_long_run_would_be_lost() {
    let mut desk = desk();
    desk.to(60).letter('T').letter('q');
    assert!(
        matches!(&desk.app.prompt, Some(Prompt::LoseRun(words, After::Quit)) if words.contains("recorded"))
    );
    desk.press(KeyCode::Esc);
    assert_eq!(desk.app.prompt, None);
    desk.letter('q');
    let effects = desk.app.key(KeyEvent::new(KeyCode::Char('d'), KeyModifiers::NONE), 0.0);
    assert!(matches!(&effects[..], [Effect::Quit]));
    let mut desk = Desk::new(TEXT, (160, 48));
    desk.to(60 * 60 * 11).letter('q');
    assert!(
        matches!(&desk.app.prompt, Some(Prompt::LoseRun(words, After::Quit)) if words.contains("11 minutes"))
    );
}

#[rstest]
#[case('r')]
#[case('R')]
fn a_recording_is_not_lost_by_starting_again(#[case] c: char) {
    let mut desk = desk();
    desk.to(60).letter('T').letter(c);
    assert!(matches!(&desk.app.prompt, Some(Prompt::LoseRun(..))));
    assert_eq!((desk.app.snapshot.tick, desk.app.snapshot.recording), (60, Some(60)));
    desk.letter('d');
    assert_eq!((desk.app.snapshot.tick, desk.app.snapshot.recording), (0, None));
    assert!(desk.app.open(Opening::New).iter().any(|e| matches!(e, Effect::Open(_))));
    desk.letter('T');
    assert!(desk.app.open(Opening::New).is_empty(), "asked first");
}

#[rstest]
fn one_that_is_not_born_yet_is_not_gone() {
    let text = format!("{TEXT}after 1 s {{ spawn frog at (3, 3) }}\n");
    let mut desk = Desk::new(&text, (160, 48));
    desk.to(90).letter('j').letter('j').letter('j').to(30);
    let screen = desk.screen();
    assert!(
        screen.contains("frog#3  not alive at this tick") && screen.contains("not born so far"),
        "{screen}"
    );
    desk.to(400);
    assert!(desk.screen().contains("gone"), "{}", desk.screen());
}

#[rstest]
fn every_question_fits_a_small_screen() {
    let mut desk = Desk::new(TEXT, (80, 24));
    let left = || After::Open(Opening::New);
    let prompts = [
        Prompt::Unsaved(After::Quit),
        Prompt::Unsaved(left()),
        Prompt::Over("a/long/way/to/some/marsh/and/further/on/small.pond".into(), After::Stay),
        Prompt::Disk(String::new()),
        Prompt::LoseRun(super::prompt::RECORDING.into(), After::Quit),
        Prompt::SaveAs("small.pond".into(), After::Stay),
    ];
    for prompt in prompts {
        desk.app.prompt = Some(prompt.clone());
        let screen = desk.screen();
        let status = screen.lines().last().unwrap().trim_end();
        let ends = ["Esc stay", "t take theirs", "Esc does not"];
        assert!(ends.iter().any(|end| status.ends_with(end)), "{prompt:?}: {status}");
    }
}

// Pictures.

#[rstest]
fn each_chart_has_a_picture_of_its_own_name() {
    let mut desk = desk();
    desk.to(60).letter('4');
    let mut names = std::collections::BTreeSet::new();
    for _ in Trend::ALL {
        let key = KeyEvent::new(KeyCode::Char('e'), KeyModifiers::CONTROL);
        for effect in desk.app.key(key, 0.0) {
            match effect {
                Effect::Picture(_, paths) | Effect::Tell(Command::Export(paths, _)) => {
                    names.insert(paths[0].clone());
                }
                _ => {}
            }
        }
        desk.press(KeyCode::Right);
    }
    assert_eq!(names.len(), Trend::ALL.len(), "{names:?}");
}

#[rstest]
fn a_character_that_steers_the_terminal_is_shown_as_a_picture() {
    let text = TEXT.replace("\"old\"", "\"a\u{1b}bc\u{7}d\u{9b}e\"");
    let desk = Desk::new(&text, (160, 48));
    let screen = desk.screen();
    assert!(screen.contains("\"a␛bc␇d\u{fffd}e\""), "{screen}");
    let area = desk.app.screen;
    let mut cells = Cells::empty(area);
    screen::draw(&desk.app, area, &mut cells, &Palette::new(true));
    assert!(cells.content.iter().all(|c| !c.symbol().chars().any(crate::showable::steers)));
}

#[rstest]
fn every_sign_the_program_draws_has_a_picture_in_a_pdf() {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR"));
    let mut files = vec![root.join("src/workbench"), root.join("../../ponds")];
    let mut signs = std::collections::BTreeSet::new();
    while let Some(path) = files.pop() {
        if path.is_dir() {
            files.extend(std::fs::read_dir(&path).unwrap().flatten().map(|e| e.path()));
            continue;
        }
        let is_test = path.to_string_lossy().contains("test");
        let ends = path.extension().and_then(|e| e.to_str());
        if !is_test && matches!(ends, Some("rs" | "pond")) {
            let text = std::fs::read_to_string(&path).unwrap();
            // Letters of examples in other alphabets are nobody's sign.
            let text = text.split("#[cfg(test)]").next().unwrap().to_string();
            signs.extend(
                text.chars().filter(|c| !c.is_ascii() && !('\u{2800}'..='\u{28ff}').contains(c)),
            );
        }
    }
    assert!(signs.len() > 20, "{signs:?}");
    let svg: String = signs.iter().collect();
    assert_eq!(tickpond_draw::missing_signs(&svg), Vec::<char>::new());
}
