//! Charts as data: every value against a walk over the events, and what keys do with them.

use std::sync::Arc;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use rstest::rstest;
use tickpond_lab::run::MOST_PASTS;
use tickpond_lab::{Run, RunOptions, TapeChoice};
use tickpond_sim::{Event, What};

use super::answer::Answer;
use super::answers::{self, Known};
use super::app::{App, Document, Effect};
use super::befell::Befell;
use super::command::Command;
use super::keys::Place;
use super::one::One;
use super::palette::Palette;
use super::screen;
use super::silhouette::Keys;
use super::snapshot::{self, Snapshot};
use super::views::DrawerView;
use super::views::trends::{Chart, Drawn};
use super::wish::{Trend, Wish};

/// Bursts of unlike size, lives of unlike length, three causes, a state, a watch.
const TEXT: &str = "pond \"Marsh\" { arena 100 x 60 }
kind midge {
    health 2
    states { calm, scared }
    on birth { heading = any angle; speed = random(4 u/s .. 30 u/s) }
    after 1.5 s { become scared }
    after 6 s { end self because \"old\" }
    on leave arena { end self }
}
kind frog {
    body circle 2 u, sensor
    every 0.7 s { if nearest(midge) as m { damage m by 1 } }
}
spawner bed { makes midge at (50, 30); every 0.9 s; 3 at a time }
place bed at (50, 30)
place frog at (50, 30)
watch crowd = count(midge)
";

fn run(text: &str, ticks: u64) -> Run {
    let compiled = tickpond_lang::compile(text);
    let program = compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics));
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(ticks);
    run
}

fn wish(trend: Trend, columns: usize) -> Wish {
    Wish { view: DrawerView::Trends, trend, columns, overlay: 1, ..Wish::default() }
}

fn answer(run: &mut Run, wish: &Wish) -> Answer {
    let entities = snapshot::entities(run);
    answers::answer(run, wish, &mut Known::default(), &entities, true)
}

fn chart(run: &mut Run, trend: Trend, columns: usize) -> Chart {
    answer(run, &wish(trend, columns)).own::<Drawn>().unwrap().chart.clone()
}

fn line<'a>(chart: &'a Chart, name: &str) -> &'a [(f64, f64)] {
    let names: Vec<&str> = chart.series.iter().map(|s| s.name.as_str()).collect();
    let found = chart.series.iter().find(|s| s.name == name && s.past.is_none());
    &found.unwrap_or_else(|| panic!("no {name} among {names:?}")).points
}

fn app(run: &mut Run) -> App {
    let text = run.program().text.clone();
    let document = Document { path: None, name: "marsh.pond".into(), text: text.to_string() };
    let mut app = App::new(document, false);
    app.resize(Rect::new(0, 0, 160, 48));
    app.compile();
    app.bands.place = Place::Drawer;
    app.drawer.view = DrawerView::Trends;
    let mut seen = Snapshot::of(run, 100, None, &mut Befell::default());
    seen.answer = answer(run, &wish(Trend::Counts, 70));
    app.observe(Arc::new(seen));
    app
}

fn frame(app: &App) -> String {
    let mut cells = Cells::empty(app.bands.screen);
    screen::draw(app, app.bands.screen, &mut cells, &Palette::new(true));
    let rows = cells.content().chunks(usize::from(app.bands.screen.width));
    rows.map(|row| row.iter().map(|c| c.symbol()).collect::<String>() + "\n").collect()
}

fn press(app: &mut App, code: KeyCode) {
    app.key(KeyEvent::new(code, KeyModifiers::NONE), 0.0);
}

// Values.

#[rstest]
#[case::a_column_a_tick(300)]
#[case::several_ticks_a_column(2000)]
fn a_column_shows_the_largest_count_of_its_ticks(#[case] ticks: u64) {
    let mut run = run(TEXT, ticks);
    let chart = chart(&mut run, Trend::Counts, 100);
    let live: Vec<u32> = {
        let kinds = &run.record().kinds;
        kinds.iter().find(|s| s.name == "midge").unwrap().live.iter().collect::<Vec<u32>>()
    };
    let (points, per) = (line(&chart, "midge"), chart.per.unwrap());
    assert!(points.len() <= 200 && !points.is_empty());
    for (column, (seconds, value)) in points.iter().enumerate() {
        let (from, to) = (column as f64 * per, (column + 1) as f64 * per);
        let most = live[from as usize..(to as usize).min(live.len())].iter().max().unwrap();
        assert_eq!(*value, f64::from(*most), "column {column}");
        assert!((seconds * 60.0 - from.floor()).abs() < 1e-6);
    }
    let peak = points.iter().map(|p| p.1).fold(0.0, f64::max);
    assert_eq!(peak, f64::from(*live.iter().max().unwrap()), "no peak is lost");
}

#[rstest]
fn a_rate_is_what_came_in_the_second_before() {
    let mut run = run(TEXT, 150);
    let chart = chart(&mut run, Trend::Rates, 100);
    let events = run.record().events();
    for (at, (_, value)) in line(&chart, "midge born").iter().enumerate() {
        let born = |e: &&Event| {
            let midge = run.program().kind_named("midge").unwrap();
            e.what == What::Born && e.who.kind == midge
        };
        let second = (at as u64).saturating_sub(59)..=at as u64;
        let counted = events.iter().filter(born).filter(|e| second.contains(&e.tick)).count();
        assert_eq!(*value, counted as f64, "tick {at}");
    }
}

#[rstest]
fn over_columns_longer_than_a_second_a_rate_is_their_mean() {
    let mut run = run(TEXT, 9000);
    let chart = chart(&mut run, Trend::Rates, 20);
    let per = chart.per.unwrap();
    assert!(per > 60.0);
    let whole: f64 = line(&chart, "midge born").iter().map(|p| p.1 * per / 60.0).sum();
    let kinds = &run.record().kinds;
    let series = kinds.iter().find(|s| s.name == "midge").unwrap();
    let born = series.born.iter().sum::<u32>();
    assert!((whole - f64::from(born)).abs() < f64::from(born) * 0.02, "{whole} of {born}");
}

#[rstest]
fn ends_add_up_by_cause() {
    let mut run = run(TEXT, 1500);
    let chart = chart(&mut run, Trend::Causes, 100);
    let ends: Vec<&Event> =
        run.record().events().iter().filter(|e| e.what == What::Ended).collect();
    let mut told = 0.0;
    for series in &chart.series {
        let counted = ends.iter().filter(|e| e.cause.unwrap().name() == series.name).count();
        let last = series.points.last().unwrap().1;
        assert_eq!(last, counted as f64, "{}", series.name);
        assert!(series.points.windows(2).all(|pair| pair[0].1 <= pair[1].1), "never less");
        told += last;
    }
    assert_eq!(told, ends.len() as f64);
    assert!(chart.series.len() >= 2, "{:?}", chart.series.len());
}

#[rstest]
fn states_add_up_to_those_alive() {
    let mut run = run(TEXT, 180);
    let states = chart(&mut run, Trend::States, 100);
    let counts = chart(&mut run, Trend::Counts, 100);
    let pairs = line(&states, "midge calm").iter().zip(line(&states, "midge scared"));
    for ((calm, scared), alive) in pairs.zip(line(&counts, "midge")) {
        assert_eq!(calm.1 + scared.1, alive.1);
    }
}

#[rstest]
fn a_watch_shows_what_it_counted() {
    let mut run = run(TEXT, 180);
    let watches = chart(&mut run, Trend::Watches, 100);
    let counts = chart(&mut run, Trend::Counts, 100);
    assert_eq!(line(&watches, "crowd"), line(&counts, "midge"));
}

#[rstest]
fn in_the_past_the_legend_tells_the_values_of_then() {
    let mut run = run(TEXT, 900);
    run.seek(30);
    let chart = chart(&mut run, Trend::Counts, 100);
    let midge = chart.series.iter().find(|s| s.name == "midge").unwrap();
    assert_eq!(midge.last, f64::from(run.record().kinds[0].live.get(30).unwrap()));
    assert_eq!(chart.now, Some(0.5));
}

// Earlier runs.

#[rstest]
fn earlier_runs_are_laid_beneath_as_many_as_are_asked_for() {
    let mut run = run(TEXT, 200);
    for speed in 0..3 {
        let text = TEXT.replace("30 u/s", &format!("{} u/s", 40 + speed));
        let program = tickpond_lang::compile(&text).program.unwrap();
        run.edit(program).unwrap();
        run.play_to(run.tick() + 200);
    }
    for (overlay, wanted) in
        [(0, vec![]), (1, vec![3]), (2, vec![2, 3]), (MOST_PASTS, vec![1, 2, 3])]
    {
        let wish = Wish { overlay, ..wish(Trend::Counts, 100) };
        let chart = answer(&mut run, &wish).own::<Drawn>().unwrap().chart.clone();
        let midges = chart.series.iter().filter(|s| s.name == "midge");
        let numbers: Vec<u64> = midges.filter_map(|s| s.past).collect();
        assert_eq!(numbers, wanted);
    }
}

#[rstest]
fn a_key_goes_through_none_one_and_all() {
    let mut run = run(TEXT, 60);
    let mut app = app(&mut run);
    let mut seen = Vec::new();
    for _ in 0..4 {
        seen.push(app.drawer.overlay);
        press(&mut app, KeyCode::Char('o'));
    }
    assert_eq!(seen, [1, MOST_PASTS, 0, 1]);
}

// What happened where the cursor is.

#[rstest]
fn the_point_under_the_cursor_tells_births_and_ends_by_line() {
    let mut run = run(TEXT, 900);
    let events = run.record().events().to_vec();
    let ended = events.iter().find(|e| e.what == What::Ended).unwrap();
    run.seek(ended.tick);
    let here = answer(&mut run, &wish(Trend::Counts, 400));
    let here = here.own::<Drawn>().unwrap().here.clone();
    let (from, until) = here.ticks;
    assert!(from <= ended.tick && ended.tick < until && until - from <= 3, "{:?}", here.ticks);
    let inside = |what: What| {
        let fits = |e: &&Event| e.what == what && (from..until).contains(&e.tick);
        events.iter().filter(fits).count()
    };
    let told = |births: bool| -> usize {
        let fits = here.lines.iter().filter(|l| l.cause.is_none() == births);
        fits.map(|l| l.count).sum()
    };
    assert_eq!((told(true), told(false)), (inside(What::Born), inside(What::Ended)));
    let line = here.lines.iter().find(|l| l.cause == ended.cause).unwrap();
    assert_eq!(line.kind, "midge");
    let number = run.program_at(ended.tick).line_of(ended.site.unwrap());
    assert_eq!(line.line, Some(number));
}

#[rstest]
fn a_birth_is_told_beneath_the_chart_and_enter_goes_to_its_line() {
    let mut run = run(TEXT, 600);
    let born = run.record().events().iter().find(|e| e.what == What::Born && e.tick > 50).unwrap();
    let (tick, site) = (born.tick, born.site);
    run.seek(tick);
    let mut app = app(&mut run);
    let told = frame(&app);
    let number = run.program().line_of(site.unwrap());
    assert!(told.contains(&format!("+3 midge line {number}")), "{told}");
    press(&mut app, KeyCode::Enter);
    assert_eq!(app.script.buffer.cursor().0 as u32 + 1, number);
    assert_eq!(app.bands.place, Place::Drawer, "the next line is one key away");
}

#[rstest]
fn where_nothing_happened_it_says_so_and_enter_tells_why_it_goes_nowhere() {
    let mut run = run(TEXT, 600);
    run.seek(20);
    let mut app = app(&mut run);
    let told = frame(&app);
    assert!(told.contains("nothing was born, nothing ended"), "{told}");
    press(&mut app, KeyCode::Enter);
    assert!(app.said.message.as_ref().unwrap().0.contains("nothing was born or ended here"));
}

// What befell one entity.

#[rstest]
fn what_befell_one_is_found_piece_by_piece_as_in_one_walk() {
    let mut run = run(TEXT, 1);
    let who = snapshot::entities(&run).iter().find(|s| s.at == (50.0, 30.0)).unwrap().who;
    let one = One::of(tickpond_lab::Timeline::cast(&run), who).unwrap();
    let mut befell = Befell::default();
    for to in [10, 200, 150, 900, 30, 899] {
        if to > run.head() {
            run.play_to(to)
        } else {
            run.seek(to)
        }
        let about = |e: &&Event| {
            e.who.id == who.id && e.who.kind == who.kind
                || e.other.is_some_and(|o| o.id == who.id) && e.what == What::Touched
        };
        let walked: Vec<&Event> = run.events().iter().filter(about).collect();
        assert_eq!(befell.of(&run, &one), walked, "at {to}");
    }
}

#[rstest]
fn another_future_makes_it_look_again() {
    let mut run = run(TEXT, 900);
    let who =
        run.record().events().iter().find(|e| e.what == What::Born && e.tick > 300).unwrap().who;
    let one = One::of(tickpond_lab::Timeline::cast(&run), who).unwrap();
    let mut befell = Befell::default();
    assert!(!befell.of(&run, &one).is_empty());
    run.seek(100);
    run.forget_future("a key");
    assert!(befell.of(&run, &one).is_empty(), "it has not been born in this future");
    run.play_to(900);
    let born = befell.of(&run, &one).iter().filter(|e| e.what == What::Born).count();
    assert!(born <= 1);
}

#[rstest]
fn a_run_begun_again_makes_it_look_again() {
    let mut run = run(TEXT, 900);
    let who = snapshot::entities(&run).last().unwrap().who;
    let one = One::of(tickpond_lab::Timeline::cast(&run), who).unwrap();
    let mut befell = Befell::default();
    befell.of(&run, &one);
    run.restart(None).unwrap();
    assert!(befell.of(&run, &one).len() <= 1, "nothing has befallen it yet");
}

// Blasts.

#[rstest]
fn the_reach_of_a_blast_is_drawn_for_a_moment_and_can_be_left_out() {
    let text = "pond \"Pop\" { arena 100 x 60 }
kind pod { after 1 s { blast at here, radius 12 u, damage 1; end self } }
place pod at (50, 30)
";
    let mut run = run(text, 62);
    let mut app = app(&mut run);
    let dots = |app: &App| {
        let is_braille = |c: char| ('\u{2801}'..='\u{28ff}').contains(&c);
        // The left half is the script, the arena lies beside it; what lies below is the chart.
        frame(app)
            .lines()
            .take(22)
            .flat_map(|l| l.chars().skip(82))
            .filter(|c| is_braille(*c))
            .count()
    };
    assert!(dots(&app) > 20, "{}", frame(&app));
    app.arena.layers.switch('r');
    assert_eq!(dots(&app), 0, "{}", frame(&app));
    app.arena.layers.switch('r');
    run.play_to(62 + 30);
    app.observe(Arc::new(Snapshot::of(&run, 100, None, &mut Befell::default())));
    assert_eq!(dots(&app), 0, "shown for 0.3 s");
}

// What the player did, on the strip.

const KEYED: &str = "pond \"Keys\" { arena 100 x 60 }
input hop = key h
input dip = key d
kind frog { on press hop { say \"hop\" } }
place frog at (50, 30)
tape \"hops\" { at 1 s tap hop; from 3 s to 4 s hold hop; from 3.5 s to 4.5 s hold dip }
";

#[rstest]
fn the_strip_tells_when_keys_went_down_and_how_long_they_were() {
    let mut run = run(KEYED, 0);
    assert!(super::silhouette::strip(&run, 100).keys.is_empty());
    run.play_tape(TapeChoice::Named("hops".into())).unwrap();
    run.play_to(30);
    // What lies ahead on the tape is drawn, too: up to 4.5 s.
    let strip = super::silhouette::strip(&run, 100);
    let at = |seconds: f64| strip.keys[(seconds * 60.0 / strip.ticks_per_column) as usize];
    assert!(strip.ticks_per_column * 100.0 >= 270.0);
    assert_eq!((at(0.5), at(1.0), at(2.0)), (Keys::None, Keys::Pressed, Keys::None));
    assert_eq!(
        (at(3.0), at(3.3), at(3.5), at(4.3)),
        (Keys::Pressed, Keys::Held, Keys::Pressed, Keys::Held)
    );
    assert_eq!(at(4.47), Keys::Held);
    let mut app = app(&mut run);
    let told = frame(&app);
    assert!(told.contains("tape \"hops\"") && told.contains("keys   "), "{told}");
    assert!(told.contains("▾"), "{told}");
    app.resize(Rect::new(0, 0, 80, 24));
    assert!(frame(&app).contains("▾"), "{}", frame(&app));
}

#[rstest]
fn the_strip_marks_where_a_wave_began() {
    // Waves begin in ticks 61, 152 and 243: each goes on in the tick after, and 90 later.
    let mut run = run(
        "pond \"Waves\" { arena 100 x 60 }\nkind midge { after 0.2 s { end self } }\n\
         routine dusk { wait 1 s\n repeat 3 times {\n\
         wave as w { spawn midge at (9, 9) }\n wait 1.5 s } }",
        400,
    );
    let strip = super::silhouette::strip(&run, 200);
    // Of 401 ticks on 200 columns the 76th begins with tick 152, which is 152.38 rounded down.
    assert_eq!(strip.waves, [30, 76, 121]);
    let told = frame(&app(&mut run));
    let births = told.lines().find(|line| line.contains("born  ")).unwrap();
    assert_eq!(births.matches('w').count(), 3, "{births}");
    // The cursor goes where the tick it shows is drawn.
    for columns in 60..240 {
        let strip = super::silhouette::strip(&run, columns);
        let of = |tick| super::silhouette::column_of(strip.ticks_per_column, tick) as u16;
        assert_eq!(strip.waves, [of(61), of(152), of(243)], "{columns} columns");
        let born = |column: u16| strip.born[usize::from(column)];
        assert!(strip.waves.iter().all(|column| born(*column) == 1), "{columns} columns");
    }
}

#[rstest]
fn a_list_of_tapes_is_played_from() {
    let mut run = run(KEYED, 10);
    let mut app = app(&mut run);
    press(&mut app, KeyCode::Char('Y'));
    assert!(frame(&app).contains("Play a tape") && frame(&app).contains("hops"));
    let played = |app: &mut App| {
        let effects = app.key(KeyEvent::new(KeyCode::Enter, KeyModifiers::NONE), 0.0);
        match effects.into_iter().next() {
            Some(Effect::Tell(Command::PlayTape(name))) => name,
            other => panic!("{other:?}"),
        }
    };
    assert_eq!(played(&mut app).as_deref(), Some("hops"));
    press(&mut app, KeyCode::Char('Y'));
    press(&mut app, KeyCode::Down);
    assert_eq!(played(&mut app), None);
    let mut other = self::run(TEXT, 10);
    let mut none = self::app(&mut other);
    press(&mut none, KeyCode::Char('Y'));
    assert!(none.said.message.as_ref().unwrap().0.contains("the text has no tape"));
}
