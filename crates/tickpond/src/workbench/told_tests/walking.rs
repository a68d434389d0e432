//! Walking along charts and lifelines: stretches, marks, what lies under the cursor.

use super::*;
use crate::workbench::stretch::around;

/// A midge each second, each lives 1.5 s; a frog that stays.
const MIDGES: &str = "pond \"Walk\" { arena 100 x 60 }
kind midge { after 1.5 s { end self } }
kind frog { }
spawner bed { makes midge
    every 1 s { spawn midge at pos } }
place bed at (10, 10)
place frog at (50, 10)
";

fn walking(view: DrawerView, ticks: u64, size: (u16, u16)) -> Desk {
    let mut desk = Desk::new(MIDGES, size);
    desk.app.bands.place = Place::Drawer;
    desk.app.drawer.view = view;
    desk.to(ticks);
    desk.settle(Vec::new());
    desk
}

fn row_with(screen: &str, words: &str) -> String {
    let row = screen.lines().find(|row| row.contains(words));
    row.unwrap_or_else(|| panic!("no {words:?} in\n{screen}")).to_string()
}

#[rstest]
#[case(DrawerView::Trends, (160, 48))]
#[case(DrawerView::Trends, (80, 24))]
#[case(DrawerView::Lifelines, (160, 48))]
#[case(DrawerView::Lifelines, (80, 24))]
fn a_shorter_stretch_keeps_the_moment_and_a_step_is_a_column(
    #[case] view: DrawerView,
    #[case] size: (u16, u16),
) {
    let mut desk = walking(view, 1200, size);
    desk.settle(vec![Effect::Tell(Command::Seek(1000))]);
    let mut steps = Vec::new();
    for _ in 0..3 {
        desk.letter('>');
        let tick = desk.app.snapshot.travel.tick;
        assert_eq!(tick, 1000, "the moment stays");
        let (from, to) = around(desk.app.drawer.stretch.unwrap(), tick);
        assert!((from..=to).contains(&1000));
        desk.key(KeyCode::Left, KeyModifiers::SHIFT);
        steps.push(1000 - desk.app.snapshot.travel.tick);
        desk.settle(vec![Effect::Tell(Command::Seek(1000))]);
    }
    assert!(steps.is_sorted_by(|a, b| a >= b) && steps[0] > steps[2], "finer steps: {steps:?}");
    desk.letter('0');
    assert_eq!(desk.app.drawer.stretch, None);
    assert!(!desk.screen().contains("panicked"));
}

#[rstest]
#[case((160, 48))]
#[case((110, 30))]
#[case((80, 24))]
fn a_place_on_a_stretch_goes_to_its_tick(#[case] size: (u16, u16)) {
    let mut desk = walking(DrawerView::Trends, 1200, size);
    desk.settle(vec![Effect::Tell(Command::Seek(600))]);
    desk.letter('>').letter('>').letter('>');
    let (from, to) = desk.app.drawer.stretch.unwrap();
    let list = desk.app.drawer_parts(desk.app.areas().unwrap().drawer).0;
    let columns: Vec<u16> =
        (list.x..list.right()).filter(|x| trends::tick_at(&desk.app, list, *x).is_some()).collect();
    assert!(columns.len() > 30);
    let ticks: Vec<u64> =
        columns.iter().map(|x| trends::tick_at(&desk.app, list, *x).unwrap()).collect();
    assert!(ticks.is_sorted() && ticks[0] >= from && *ticks.last().unwrap() <= to + 1);
    assert!(ticks[0] <= from + 5 && *ticks.last().unwrap() + 5 >= to, "{ticks:?} of {from}..{to}");
}

#[rstest]
fn the_points_of_a_stretch_are_its_ticks() {
    let mut desk = walking(DrawerView::Trends, 1200, (160, 48));
    desk.settle(vec![Effect::Tell(Command::Seek(600))]);
    desk.letter('>').letter('>').letter('>').letter('>');
    let tick = desk.app.snapshot.travel.tick;
    let (from, to) = around(desk.app.drawer.stretch.unwrap(), tick);
    let drawn = desk.app.snapshot.answer.own::<trends::Drawn>().unwrap();
    let midges = drawn.chart.series.iter().find(|s| s.name == "midge").unwrap();
    assert_eq!(midges.points.len() as u64, to - from + 1, "one a tick");
    for (seconds, count) in &midges.points {
        let tick = (seconds * 60.0).round() as u64;
        assert!((from..=to).contains(&tick));
        // Born at each full second, gone 1.5 s later.
        let alive = (0..=tick / 60).filter(|second| tick - second * 60 < 90).count();
        assert!((*count - alive as f64).abs() <= 1.0, "{count} at {tick}, not {alive}");
    }
}

#[rstest]
fn a_stretch_goes_along_with_the_play() {
    let mut desk = walking(DrawerView::Trends, 600, (160, 48));
    desk.letter('>').letter('>');
    let (from, to) = desk.app.drawer.stretch.unwrap();
    desk.to(900);
    desk.settle(Vec::new());
    let drawn = desk.app.snapshot.answer.own::<trends::Drawn>().unwrap();
    assert_eq!(drawn.chart.span.1, 901.0 / 60.0);
    assert!((drawn.chart.span.0 * 60.0 - (900 - (to - from)) as f64).abs() < 1e-6);
}

#[rstest]
fn what_lies_between_two_moments_is_told() {
    let mut desk = walking(DrawerView::Roster, 300, (160, 48));
    desk.settle(vec![Effect::Tell(Command::Seek(72))]);
    desk.letter('g');
    assert!(desk.message().contains("marked 1.20 s"), "{}", desk.message());
    desk.settle(vec![Effect::Tell(Command::Seek(162))]);
    desk.settle(Vec::new());
    let told = row_with(&desk.screen(), "◆ 1.20 to 2.70 s");
    assert!(
        told.contains("1.50 s, 90 ticks   +1 −2   midge 2→1 (-1)   frog 1 as before"),
        "{told}"
    );
    // Back beyond the mark it is the same stretch the other way around.
    desk.settle(vec![Effect::Tell(Command::Seek(30))]);
    desk.settle(Vec::new());
    assert!(desk.screen().contains("◆ 0.50 to 1.20 s: 0.70 s, 42 ticks   +1 −0"));
    desk.letter('g');
    desk.settle(Vec::new());
    assert!(!desk.screen().contains("◆"), "the mark is gone from everywhere");
}

#[rstest]
fn lifelines_tell_what_lies_under_the_cursor_and_how_many_lanes_there_are() {
    let mut desk = walking(DrawerView::Lifelines, 600, (160, 48));
    let lane = |desk: &Desk| row_with(&desk.screen(), "lanes");
    let shown = lane(&desk);
    // Ten seconds: a bed, a frog and eleven midges.
    assert!(shown.contains("11 of 13 lanes"), "{shown}");
    desk.settle(vec![Effect::Tell(Command::Seek(330))]);
    desk.settle(Vec::new());
    let under = row_with(&desk.screen(), "from 5.");
    assert!(under.contains("midge#5 timer, lived 1.50 s :2"), "{under}");
    desk.settle(vec![Effect::Tell(Command::Seek(315))]);
    desk.settle(Vec::new());
    assert!(row_with(&desk.screen(), "from 5.").contains("nothing befell them"));
}

#[rstest]
fn of_more_lanes_than_there_is_room_for_it_says_how_many() {
    let mut desk = walking(DrawerView::Lifelines, 3000, (80, 24));
    for _ in 0..8 {
        desk.letter('<');
    }
    let shown = row_with(&desk.screen(), "lanes");
    assert!(shown.contains(" of 53 lanes"), "{shown}");
}
