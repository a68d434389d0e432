//! What a drawing shows is what the run did: curves, bars and marks are read back and held against it.

use rstest::rstest;
use tickpond_draw::grid::{GridCell, draw_grid};
use tickpond_draw::{draw_counts, to_pdf, to_svg};
use tickpond_lab::{Report, Run, RunOptions};

const FLIES: &str = "pond \"Flies\" { arena 100 x 100 }\n\
    kind fly { health 1; after 2 s { end self } }\nkind moth { health 1; every 1.5 s { damage each fly by 1 } }\n\
    spawner bed { makes fly at here; every 0.3 s }\nplace bed at (9, 9)\nplace moth at (1, 1)";

fn run(text: &str, ticks: u64) -> Run {
    let program = tickpond_lang::compile(text).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(ticks);
    run
}

fn texts(svg: &str) -> Vec<String> {
    let parts = svg.split("<text ").skip(1);
    parts.map(|p| p.split('>').nth(1).unwrap().split('<').next().unwrap().to_string()).collect()
}

/// The numbers of an attribute, in the order of the drawing.
fn numbers(svg: &str, attribute: &str) -> Vec<f64> {
    let name = format!(" {attribute}=\"");
    let parts = svg.split(&name).skip(1);
    parts.filter_map(|p| p.split('"').next()?.parse().ok()).collect()
}

#[rstest]
#[case(60)]
#[case(600)]
#[case(3600)]
fn the_ends_that_are_written_are_those_of_the_report(#[case] ticks: u64) {
    let run = run(FLIES, ticks);
    let report = Report::of(&run);
    let texts = texts(&to_svg(&draw_counts(&run, false))).join(" ");
    for (name, kind) in &report.kinds {
        for (cause, count) in &kind.ended {
            assert!(
                texts.contains(&format!("{count} {cause}")),
                "{name}: {count} {cause} in {texts}"
            );
        }
    }
}

#[rstest]
fn the_length_and_the_seed_are_told() {
    let all = texts(&to_svg(&draw_counts(&run(FLIES, 600), false))).join("\n");
    assert!(all.contains("seed 1, 600 ticks at 60 per s, 10 s"), "{all}");
}

#[rstest]
fn the_value_axis_reaches_the_peak_and_not_far_beyond() {
    let run = run(FLIES, 1200);
    let peak = Report::of(&run).kinds.values().map(|kind| kind.peak).max().unwrap() as f64;
    let marks: Vec<f64> = texts(&to_svg(&draw_counts(&run, false)))
        .iter()
        .take_while(|t| !t.starts_with("alive"))
        .filter_map(|t| t.parse().ok())
        .collect();
    let top = marks.iter().copied().fold(0.0, f64::max);
    assert!(top >= peak && top <= peak * 2.0 + 1.0, "{top} for a peak of {peak}");
    // Evenly spaced, from 0.
    assert_eq!(marks[0], 0.0);
    assert!(marks.windows(2).all(|pair| (pair[1] - pair[0] - marks[1]).abs() < 1e-9), "{marks:?}");
}

#[rstest]
#[case::short(30)]
#[case::long(20_000)]
fn nothing_is_drawn_beyond_the_page(#[case] ticks: u64) {
    let svg = to_svg(&draw_counts(&run(FLIES, ticks), false));
    let (width, height) = (numbers(&svg, "width")[0], numbers(&svg, "height")[0]);
    for x in ["x", "x1", "x2", "cx"].iter().flat_map(|name| numbers(&svg, name)) {
        assert!((0.0..=width).contains(&x), "{x} of {width}");
    }
    for y in ["y", "y1", "y2", "cy"].iter().flat_map(|name| numbers(&svg, name)) {
        assert!((0.0..=height).contains(&y), "{y} of {height}");
    }
}

#[rstest]
fn two_runs_that_differ_are_drawn_differently() {
    let (short, long) =
        (draw_counts(&run(FLIES, 300), false), draw_counts(&run(FLIES, 301), false));
    assert_ne!(short, long);
}

// Screens.

fn cell(symbol: &str) -> GridCell {
    GridCell { symbol: symbol.into(), ..GridCell::default() }
}

#[rstest]
#[case::letters("a", 1)]
#[case::nothing(" ", 0)]
#[case::a_sign_of_markup("<", 1)]
#[case::a_wide_letter("蛙", 1)]
fn a_letter_of_a_screen_is_a_text(#[case] symbol: &str, #[case] texts: usize) {
    let drawing = draw_grid("screen", 3, &[cell(" "), cell(symbol), cell(" ")]);
    let svg = to_svg(&drawing);
    assert_eq!(svg.matches("<text ").count(), texts, "{svg}");
    assert!(to_pdf(&drawing).is_ok());
}

#[rstest]
fn cells_stand_row_by_row() {
    let cells: Vec<GridCell> = "abcdef".chars().map(|c| cell(&c.to_string())).collect();
    let svg = to_svg(&draw_grid("screen", 3, &cells));
    let written = texts(&svg).concat();
    assert_eq!(written.chars().filter(char::is_ascii_lowercase).collect::<String>(), "abcdef");
    // Two rows of three: a page is wider or higher with its cells.
    let wider = to_svg(&draw_grid("screen", 6, &cells));
    assert!(numbers(&wider, "width")[0] > numbers(&svg, "width")[0]);
    assert!(numbers(&wider, "height")[0] < numbers(&svg, "height")[0]);
}

#[rstest]
fn blocks_and_dots_are_shapes_so_that_any_font_shows_them() {
    for symbol in ["█", "▄", "⣿", "⠁", "─", "│"] {
        let svg = to_svg(&draw_grid("screen", 1, &[cell(symbol)]));
        assert!(!svg.contains(symbol), "{symbol} is left to the font");
        assert!(
            ["<rect", "<circle", "<line", "<path"].iter().any(|shape| svg.contains(shape)),
            "{svg}"
        );
    }
}

#[rstest]
fn an_empty_screen_is_a_page_all_the_same() {
    for width in [0, 1, 80] {
        assert!(to_svg(&draw_grid("screen", width, &[])).starts_with("<"));
    }
}
