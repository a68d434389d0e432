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
    // What finds no room is said to be there, at every width; the last column stays free.
    for width in 60..150 {
        desk.app.resize(Rect::new(0, 0, width, 48));
        let head = row_with(&desk.screen(), "Time  2.70 s");
        let head = head.trim_end_matches('─').trim_end();
        let whole = head.ends_with("frog 1 as before");
        assert!(whole || head.ends_with('…'), "{width}: {head}");
        assert!(head.chars().count() < usize::from(width) || !whole, "{width}: {head}");
    }
    desk.app.resize(Rect::new(0, 0, 160, 48));
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

#[rstest]
fn what_happened_is_marked_above_a_chart_where_its_tick_is() {
    // Waves begin in ticks 61, 152 and 243: each goes on in the tick after, and 90 later. From 61 on a midge lives.
    let text = "pond \"Waves\" { arena 100 x 60 }\nkind midge { after 30 s { end self } }\n\
        routine dusk { wait 1 s\n repeat 3 times {\n\
        wave as w { spawn midge at (9, 9) }\n wait 1.5 s } }\n\
        expect \"nobody\": always count(midge) < 2\n";
    for width in [80, 110, 160, 200] {
        let mut desk = Desk::new(text, (width, 48));
        desk.to(400).press(KeyCode::F(4)).letter('4');
        let (list, _) = desk.app.drawer_parts(desk.app.areas().unwrap().drawer);
        let per = trends::ticks_per_column(&desk.app, list).unwrap() as u64;
        let screen = desk.screen();
        let head: Vec<char> =
            screen.lines().find(|line| line.contains("◂ counts ▸")).unwrap().chars().collect();
        let ticks_of = |sign: char| -> Vec<u64> {
            let found = head.iter().enumerate().filter(|(_, c)| **c == sign);
            // Behind the words of the head, which end before tick 61 at every width but the least.
            let found = found.filter(|(x, _)| *x > 18);
            found.filter_map(|(x, _)| trends::tick_at(&desk.app, list, x as u16)).collect()
        };
        let near = |found: &[u64], right: &[u64]| {
            let close = |(a, b): (&u64, &u64)| a.abs_diff(*b) <= per;
            found.len() == right.len() && found.iter().zip(right).all(close)
        };
        // Two are alive from tick 152 on, when the second wave begins: the sign of what broke stands there.
        assert!(near(&ticks_of('!'), &[152]), "{width}: {head:?}");
        let waves: &[u64] = if width > 100 { &[61, 243] } else { &[243] };
        assert!(near(&ticks_of('w'), waves), "{width}: {:?} {head:?}", ticks_of('w'));
    }
    // In a stretch there are those of the stretch.
    let mut desk = Desk::new(text, (160, 48));
    desk.to(250).press(KeyCode::F(4)).letter('4').letter('>').letter('>');
    let own = desk.app.snapshot.answer.own::<trends::Drawn>().unwrap();
    let (from, to) = own.chart.span;
    assert!(from > 152.0 / 60.0 && to > 243.0 / 60.0, "{from} {to}");
    assert_eq!(own.chart.waves, [243.0 / 60.0]);
}
