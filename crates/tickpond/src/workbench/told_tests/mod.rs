//! What the screen says is so: each fault that was found there once, by name.

mod asking_why;
mod branching;
mod guiding;
mod later;
mod pinning;
mod shown;
mod walking;

use std::sync::Arc;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use rstest::rstest;
use tickpond_lab::{Run, RunOptions};

use crate::workbench::answers::{self, Known};
use crate::workbench::app::{App, Document, Effect};
use crate::workbench::befell::Befell;
use crate::workbench::command::Command;
use crate::workbench::keys::Place;
use crate::workbench::menu::Opening;
use crate::workbench::palette::Palette;
use crate::workbench::prompt::{After, Prompt};
use crate::workbench::settings::{Edits, Theme};
use crate::workbench::sim::Worker;
use crate::workbench::snapshot::{self, Snapshot};
use crate::workbench::views::DrawerView;
use crate::workbench::views::trends;
use crate::workbench::wish::Trend;
use crate::workbench::{screen, strip};

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
            effects.append(&mut self.app.said.outbox);
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

    /// Chooses what loses something, once the question has been on the screen for a moment.
    fn choose(&mut self, c: char) -> &mut Desk {
        let key = |code| KeyEvent::new(code, KeyModifiers::NONE);
        self.app.key(key(KeyCode::Char(c)), 1.0);
        let effects = self.app.key(key(KeyCode::Enter), 1.0);
        self.settle(effects);
        self
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
        self.app.said.message.as_ref().map_or("", |m| m.0.as_str())
    }

    fn screen(&self) -> String {
        let area = self.app.bands.screen;
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
            desk.app.said.message = None;
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
    assert_eq!(desk.app.snapshot.travel.tick, 3000 - 2 * per);
    (0..5).for_each(|_| {
        desk.key(KeyCode::Right, KeyModifiers::SHIFT);
    });
    assert_eq!(
        (desk.app.snapshot.travel.tick, desk.app.snapshot.travel.head),
        (3000, 3000),
        "not beyond"
    );
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
        strip::draw(&snapshot, &strip::Told::default(), area, &mut cells, &palette);
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
    assert_eq!((s.travel.tick, s.travel.head, s.play.playing, s.play.speed), (0, 0, false, 1.0));
    assert!(s.strip.ghost.is_empty() && !s.travel.edited, "nothing to be compared with");
    assert_eq!((desk.app.focus.clone(), s.selected.focus.clone()), (None, None));
    assert_eq!(s.cast.as_ref().unwrap().title, "Other");
}

#[rstest]
fn a_pond_that_cannot_be_played_shows_nothing_of_the_one_before() {
    let mut desk = desk();
    desk.to(60);
    let broken = Document { path: None, name: "b.pond".into(), text: "pond".into() };
    desk.app.replace_document(broken);
    desk.settle(Vec::new());
    assert!(desk.app.snapshot.cast.is_none() && desk.app.snapshot.scene.entities.is_empty());
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
    assert!(desk.app.snapshot.cast.is_none());
}

#[rstest]
#[case('s', true)]
#[case('d', false)]
fn unsaved_text_is_asked_about_before_another_pond_is_opened(
    #[case] answer: char,
    #[case] saves: bool,
) {
    let mut desk = desk();
    desk.app.file.path = Some("small.pond".into());
    desk.press(KeyCode::F(2)).type_text("// ");
    assert!(desk.app.open(Opening::New).is_empty());
    assert_eq!(desk.app.over.prompt, Some(Prompt::Unsaved(After::Open(Opening::New))));
    let key = |code| KeyEvent::new(code, KeyModifiers::NONE);
    let mut effects = desk.app.key(key(KeyCode::Char(answer)), 1.0);
    if !saves {
        assert!(effects.is_empty());
        effects = desk.app.key(key(KeyCode::Enter), 1.0);
    }
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
    desk.app.said.message = None;
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
    assert_eq!(desk.app.arena.camera.centre, Some((10.0, 10.0)));
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
    assert_eq!(desk.app.said.message.as_ref().unwrap().0, remark.told());
    assert_eq!(desk.app.bands.place, Place::Arena, "the keys stay where they were");
}

// What does not depend on the size.
