//! What the arena's cells say, read back and held against the run.

use std::sync::Arc;

use proptest::prelude::*;
use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::style::Color;
use rstest::rstest;
use tickpond_lab::{Run, RunOptions, Timeline};

use super::draw::draw;
use super::looks::Looks;
use super::{Camera, Layers, View, crowd, parts};
use crate::workbench::befell::Befell;
use crate::workbench::palette::{Palette, Role};
use crate::workbench::settings::Theme;
use crate::workbench::snapshot::Snapshot;
use crate::workbench::tint::Tint;
use crate::workbench::wake::Wake;

const AREA: Rect = Rect { x: 3, y: 2, width: 80, height: 21 };

struct Shown {
    run: Run,
    snapshot: Snapshot,
    cells: Cells,
    view: View,
}

fn run_of(text: &str, ticks: u64) -> (Run, Wake) {
    let program = tickpond_lang::compile(text);
    let program = program.program.unwrap_or_else(|| panic!("{:?}", program.diagnostics));
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    let mut wake = Wake::default();
    wake.note(&run);
    for _ in 0..ticks {
        run.step();
        wake.note(&run);
    }
    (run, wake)
}

fn shown_by(text: &str, ticks: u64, camera: Camera, palette: Palette, speed: f64) -> Shown {
    let (run, wake) = run_of(text, ticks);
    let snapshot = Snapshot::of(&run, 60, None, &mut Befell::default());
    let snapshot = snapshot.dressed(&run, speed, &Tint::Kind, &wake);
    let cast = Arc::clone(run.cast());
    let mut cells = Cells::empty(Rect::new(0, 0, 90, 30));
    let looks = Looks {
        camera: &camera,
        layers: Layers::default(),
        focus: None,
        cross: None,
        measured_from: None,
    };
    draw(&snapshot, &cast, &looks, AREA, &mut cells, &palette);
    let view = View::through(&camera, &cast.arena, parts(AREA).0);
    Shown { run, snapshot, cells, view }
}

fn shown(text: &str, ticks: u64) -> Shown {
    shown_by(text, ticks, Camera::default(), Palette::full(Theme::Dark), 1.0)
}

impl Shown {
    fn symbol(&self, at: (f64, f64)) -> &str {
        let (x, y) = self.view.cell(at).expect("in sight");
        self.cells.cell((x, y)).unwrap().symbol()
    }

    fn ground(&self, at: (f64, f64)) -> Color {
        let (x, y) = self.view.cell(at).expect("in sight");
        self.cells.cell((x, y)).unwrap().bg
    }

    fn row(&self, y: u16) -> String {
        (AREA.x..AREA.right()).map(|x| self.cells.cell((x, y)).unwrap().symbol()).collect()
    }

    /// The line below the arena.
    fn key(&self) -> String {
        self.row(AREA.bottom() - 1)
    }
}

/// How many quarters of a cell a sign of the block fills.
fn quarters(symbol: &str) -> Option<usize> {
    let signs = " ▘▝▀▖▌▞▛▗▚▐▜▄▙▟█";
    let at = signs.chars().position(|sign| symbol.starts_with(sign))?;
    Some(at.count_ones() as usize)
}

// Bodies.

#[rstest]
#[case::circle("body circle 12 u, sensor", std::f64::consts::PI * 144.0)]
#[case::upright("body box 30 u x 14 u, upright, sensor", 420.0)]
#[case::turned("body box 30 u x 14 u, sensor", 420.0)]
fn a_body_covers_as_much_as_it_is_large(#[case] body: &str, #[case] wanted: f64) {
    let text = format!(
        "pond \"t\" {{ arena 160 x 80 }}\nkind lily {{ look \"o\" rose; {body}\n on birth {{ heading = 30 deg }} }}\nplace lily at (80, 40)\n"
    );
    let seen = shown(&text, 2);
    let water = seen.ground((20.0, 20.0));
    let mut filled = 0;
    for y in AREA.y..AREA.bottom() - 1 {
        for x in AREA.x..AREA.right() {
            let cell = seen.cells.cell((x, y)).unwrap();
            let is_lily = |colour: Color| match (colour, water) {
                (Color::Rgb(r, g, b), Color::Rgb(..)) => {
                    u16::from(r) > 100 && u16::from(r) > u16::from(g) + u16::from(b) / 2
                }
                _ => false,
            };
            filled += match quarters(cell.symbol()) {
                _ if is_lily(cell.bg) => 4,
                Some(part) if is_lily(cell.fg) => part,
                _ => 0,
            };
        }
    }
    // A quarter is half a cell wide and half a cell high: 0.5 by 1 in cells' widths.
    let quarter = 0.5 / seen.view.cells_per_u().powi(2);
    let area = filled as f64 * quarter;
    assert!((area - wanted).abs() < wanted * 0.12, "{area:.0} for {wanted:.0}");
}

#[rstest]
fn a_smaller_body_lies_on_a_larger_one() {
    let text = "pond \"t\" { arena 80 x 40 }
kind midge { look \"m\" teal; body circle 3 u, sensor }
kind lily { look \"o\" rose; body circle 15 u, sensor }
place lily at (40, 20)
place midge at (47, 20)
";
    let seen = shown(text, 2);
    assert_eq!(seen.symbol((47.0, 20.0)), "m");
    assert_eq!(seen.symbol((40.0, 20.0)), "o");
    assert_ne!(seen.ground((47.0, 20.0)), seen.ground((40.0, 20.0)));
}

// Crowds.

fn swarm(count: usize, others: usize, spread: usize) -> String {
    let place = |kind: &str, at: usize| {
        let (x, y) = (at * 37 % spread, at * 17 % 23);
        format!("place {kind} at ({}.5, {}.5)\n", x + 10, y + 4)
    };
    let midges: String = (0..count).map(|at| place("midge", at)).collect();
    let flies: String = (0..others).map(|at| place("firefly", at + 5)).collect();
    format!(
        "pond \"t\" {{ arena 160 x 40 }}
kind midge {{ look \"m\" teal }}
kind firefly {{ look \"f\" amber }}
{midges}{flies}"
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn the_brightness_of_a_cell_tells_how_many_are_in_it(count in 150usize..700, others in 100usize..300, spread in 5usize..18) {
        let seen = shown(&swarm(count, others, spread), 40);
        let mut inside = std::collections::BTreeMap::<(u16, u16), u32>::new();
        for one in &seen.snapshot.scene.entities {
            *inside.entry(seen.view.cell(one.at).unwrap()).or_default() += 1;
        }
        let most = *inside.values().max().unwrap();
        let steps = crowd::steps(most);
        // The key names the steps, from one to the most.
        let key = seen.key();
        prop_assume!(key.contains("crowd"));
        prop_assert!(key.contains(&format!("{most} ")), "{key}");
        // Cells of one step are brighter than those of the step below, by one kind and on the same ground.
        let light = |colour: Color| match colour {
            Color::Rgb(r, g, b) => u32::from(r) + u32::from(g) + u32::from(b),
            other => panic!("{other:?}"),
        };
        let mut of_step = vec![Vec::new(); steps.len()];
        for (cell, count) in &inside {
            let kinds: std::collections::BTreeSet<u32> = seen.snapshot.scene.entities.iter()
                .filter(|one| seen.view.cell(one.at) == Some(*cell))
                .map(|one| one.who.kind.0).collect();
            if kinds.len() == 1 && kinds.contains(&1) {
                of_step[crowd::step_of(*count, &steps)].push(light(seen.cells.cell(*cell).unwrap().bg));
            }
        }
        let of_step: Vec<Vec<u32>> = of_step.into_iter().filter(|step| !step.is_empty()).collect();
        for pair in of_step.windows(2) {
            let (dimmest, brightest) = (pair[1].iter().min(), pair[0].iter().max());
            prop_assert!(dimmest > brightest, "{pair:?}");
        }
        // Nobody is lost: a cell with someone in it has dots or a glyph, and one with nobody has none.
        for y in AREA.y + 1..AREA.bottom() - 2 {
            for x in AREA.x + 1..AREA.right() - 1 {
                let symbol = seen.cells.cell((x, y)).unwrap().symbol().chars().next().unwrap();
                let is_dots = ('\u{2801}'..='\u{28ff}').contains(&symbol) || "mf".contains(symbol);
                prop_assert_eq!(is_dots, inside.contains_key(&(x, y)), "{:?} at {} {}", symbol, x, y);
            }
        }
    }
}

#[rstest]
fn a_few_among_many_keep_their_glyphs() {
    let mut text = swarm(400, 0, 20);
    text.push_str("kind heron { look \"Y\" rose }\nplace heron at (20.2, 10.2)\n");
    let seen = shown(&text, 1);
    assert_eq!(seen.symbol((20.2, 10.2)), "Y");
    assert!(seen.key().contains("a cell of the crowd"), "{}", seen.key());
}

#[rstest]
fn without_colours_a_crowd_is_shaded() {
    let palette = Palette::new(false);
    let seen = shown_by(&swarm(600, 0, 8), 1, Camera::default(), palette, 1.0);
    let all: String = (AREA.y..AREA.bottom()).map(|y| seen.row(y)).collect();
    assert!(all.contains('▓') && all.contains('█'), "{all}");
    assert!(seen.cells.content.iter().all(|c| c.fg == Color::Reset && c.bg == Color::Reset));
}

#[rstest]
fn going_nearer_turns_the_crowd_into_single_ones() {
    let text = swarm(300, 0, 60);
    let mut crowds = Vec::new();
    for nearer in [0.5, 1.0, 2.0, 4.0, 8.0, 16.0] {
        let camera = Camera { centre: Some((40.0, 15.0)), nearer, follows: false };
        let seen = shown_by(&text, 1, camera, Palette::full(Theme::Dark), 1.0);
        crowds.push(seen.key().contains("a cell of the crowd"));
    }
    assert_eq!(crowds.first(), Some(&true));
    assert_eq!(crowds.last(), Some(&false));
    assert!(crowds.is_sorted_by(|a, b| a >= b), "once single, they stay so: {crowds:?}");
}

// What just happened.

const HURT: &str = "pond \"t\" { arena 80 x 40 }
kind frog { look \"@\" lime; health 9
  after 1 s { damage self by 2 } }
kind midge { look \"m\" teal
  after 1 s { end self } }
place frog at (40, 20)
place midge at (20, 20)
";

#[rstest]
#[case::at_once(60, 1.0, true)]
#[case::a_fifth_of_a_second_later(72, 1.0, true)]
#[case::a_second_later(120, 1.0, false)]
#[case::a_second_later_at_eight_times(120, 8.0, true)]
#[case::three_seconds_later_at_eight_times(240, 8.0, false)]
fn a_wound_is_seen_for_a_quarter_of_a_second_at_any_speed(
    #[case] ticks: u64,
    #[case] speed: f64,
    #[case] wanted: bool,
) {
    let palette = Palette::full(Theme::Dark);
    let seen = shown_by(HURT, ticks, Camera::default(), palette, speed);
    let frog = seen.snapshot.scene.entities.iter().find(|s| s.health.is_some()).unwrap();
    assert_eq!(frog.hurt.is_some(), wanted, "of {:?}", seen.run.tick());
    let red = |colour| matches!(colour, Color::Rgb(r, g, b) if r > 80 && r > g.max(b) + 20);
    assert_eq!(red(seen.ground((40.0, 20.0))), wanted);
    // So is an end.
    assert_eq!(seen.symbol((20.0, 20.0)) == "o", wanted, "{}", seen.symbol((20.0, 20.0)));
}

#[rstest]
fn a_blast_that_is_over_in_a_tick_is_seen() {
    let text = "pond \"t\" { arena 80 x 40 }
kind pod { look \"o\" rose; after 1 s { blast at here, radius 8 u, damage 1 } }
place pod at (40, 20)
";
    let seen = shown(text, 65);
    assert_eq!(seen.snapshot.scene.traces.len(), 1);
    assert_eq!(seen.snapshot.scene.traces[0].radius, Some(8.0));
}

#[rstest]
fn a_trail_is_fainter_the_older_it_is() {
    let text = "pond \"t\" { arena 80 x 40 }
kind drop { look \"'\" blue; on birth { heading = 0 deg; speed = 30 u/s } }
place drop at (20, 20.2)
";
    let seen = shown(text, 60);
    let blue = |x: f64| {
        let (x, y) = seen.view.cell((x, 20.2)).unwrap();
        let cell = seen.cells.cell((x, y)).unwrap();
        assert!(cell.symbol() > "\u{2800}", "{}", cell.symbol());
        match cell.fg {
            Color::Rgb(_, _, b) => b,
            other => panic!("{other:?}"),
        }
    };
    assert!(blue(24.0) < blue(32.0) && blue(32.0) < blue(45.0));
}

// The ground.

#[rstest]
#[case::open("open", '┈', '┊', "sides open")]
#[case::wrap("wrap", '▴', '◂', "sides wrap")]
#[case::wall("wall", '▀', '▌', "sides wall")]
fn each_sort_of_side_has_its_own_look(
    #[case] edges: &str,
    #[case] upper: char,
    #[case] left: char,
    #[case] told: &str,
) {
    let seen = shown(&format!("pond \"t\" {{ arena 80 x 40\n edges {edges} }}\n"), 1);
    assert!(seen.row(AREA.y).contains(upper), "{}", seen.row(AREA.y));
    let column: String = (AREA.y..AREA.bottom() - 1)
        .map(|y| seen.row(y))
        .filter_map(|row| row.chars().nth((seen.view.corner().0 - f64::from(AREA.x)) as usize))
        .collect();
    assert!(column.contains(left), "{column}");
    assert!(seen.key().contains(told), "{}", seen.key());
}

#[rstest]
fn a_name_hides_nobody() {
    let text = "pond \"t\" { arena 80 x 40 }
zone shallows = box (10, 10) size 60 x 20
kind midge { look \"m\" teal }
place midge at (14, 27)
";
    let seen = shown(text, 1);
    let (_, y) = seen.view.cell((14.0, 27.0)).unwrap();
    assert_eq!(seen.symbol((14.0, 27.0)), "m", "{}", seen.row(y));
    assert!(seen.row(y).contains("sha") || seen.row(y).contains("ows"), "{}", seen.row(y));
}

#[rstest]
fn whoever_takes_no_part_is_fainter() {
    let palette = Palette::full(Theme::Dark);
    let text = "pond \"t\" { arena 80 x 40 }
kind pod { look \"o\" rose; after 0.5 s { deactivate self } }
place pod at (40, 20)
";
    let front = |ticks| {
        let seen = shown(text, ticks);
        let (x, y) = seen.view.cell((40.0, 20.0)).unwrap();
        seen.cells.cell((x, y)).unwrap().fg
    };
    assert_eq!(front(60), palette.style(Role::Faint).fg.unwrap());
    assert_ne!(front(10), front(60));
}
