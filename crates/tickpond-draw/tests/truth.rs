//! What a drawing shows is what the run did: curves, bars and marks are read back and held against it.

use rstest::rstest;
use tickpond_draw::grid::{GridCell, draw_grid};
use tickpond_draw::{Wanted, draw_counts, to_pdf, to_svg};
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
    let texts = texts(&to_svg(&draw_counts(&run, &Wanted::default()))).join(" ");
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
    let all = texts(&to_svg(&draw_counts(&run(FLIES, 600), &Wanted::default()))).join("\n");
    assert!(all.contains("seed 1, 600 ticks at 60 per s, 10 s"), "{all}");
}

#[rstest]
fn the_value_axis_reaches_the_peak_and_not_far_beyond() {
    let run = run(FLIES, 1200);
    let peak = Report::of(&run).kinds.values().map(|kind| kind.peak).max().unwrap() as f64;
    let marks: Vec<f64> = texts(&to_svg(&draw_counts(&run, &Wanted::default())))
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
    let svg = to_svg(&draw_counts(&run(FLIES, ticks), &Wanted::default()));
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
    let (short, long) = (
        draw_counts(&run(FLIES, 300), &Wanted::default()),
        draw_counts(&run(FLIES, 301), &Wanted::default()),
    );
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

// Drawings of a run: what is drawn is read back from the marks and held against the run.

use tickpond_draw::drawing::{Mark, Step};
use tickpond_draw::{Drawing, drawing_named};

fn drawn(what: &str, run: &Run, wanted: &Wanted<'_>) -> Drawing {
    (drawing_named(what).unwrap().draw)(run, wanted)
}

/// The texts of a drawing with their places.
fn words(drawing: &Drawing) -> Vec<(f64, f64, String)> {
    let texts = drawing.marks.iter().filter_map(|mark| match mark {
        Mark::Text { at, words, .. } => Some((at.0, at.1, words.clone())),
        _ => None,
    });
    texts.collect()
}

/// The corners of the first curve: where it comes to each height.
fn curve(drawing: &Drawing, colour: &str) -> Vec<(f64, f64)> {
    let paths = drawing.marks.iter().filter_map(|mark| match mark {
        Mark::Path { steps, ink: tickpond_draw::drawing::Ink::Stroke { colour: own, .. } }
            if own == colour =>
        {
            Some(steps)
        }
        _ => None,
    });
    // A piece of it in the legend comes behind it.
    let steps = paths.rev().max_by_key(|steps| steps.len()).unwrap();
    let (mut now, mut corners) = ((0.0, 0.0), Vec::new());
    for step in steps {
        now = match *step {
            Step::Move(x, y) | Step::Line(x, y) => (x, y),
            Step::Across(x) => (x, now.1),
            Step::Along(y) => (now.0, y),
            Step::Close => now,
        };
        corners.push(now);
    }
    corners
}

/// The value a height stands for, read off the axis: its labels stand 4 points below their lines.
fn value_at(drawing: &Drawing, y: f64) -> f64 {
    let marks: Vec<(f64, f64)> = words(drawing)
        .into_iter()
        .filter(|(x, _, words)| *x == 56.0 && words.parse::<f64>().is_ok())
        .map(|(_, y, words)| (y - 4.0, words.parse().unwrap()))
        .collect();
    let ((low_y, low), (high_y, high)) = (marks[0], marks[marks.len() - 1]);
    low + (low_y - y) / (low_y - high_y) * (high - low)
}

/// Two are there from the start, three more come at 1 s, all five go at 2 s; the height is read back in each stretch.
#[rstest]
#[case::all(None, None, &[2.0, 5.0, 0.0])]
#[case::the_middle(Some(90), Some(110), &[5.0])]
#[case::from_the_middle(Some(90), None, &[5.0, 0.0])]
fn heights_are_the_counts_of_the_stretch(
    #[case] from: Option<u64>,
    #[case] to: Option<u64>,
    #[case] heights: &[f64],
) {
    let text = "pond \"t\" { arena 9 x 9 }\nkind fly { look \"f\" teal }\nafter 1 s { spawn 3 fly at (1, 1) }\n\
        after 2 s { end each fly }\nplace fly at (1, 1)\nplace fly at (2, 2)";
    let run = run(text, 180);
    let drawing = drawn("counts", &run, &Wanted { from, to, ..Wanted::default() });
    let mut found: Vec<f64> =
        curve(&drawing, "#157173").iter().map(|(_, y)| value_at(&drawing, *y)).collect();
    found.dedup_by(|a, b| (*a - *b).abs() < 0.01);
    assert_eq!(found.len(), heights.len(), "{found:?}");
    assert!(found.iter().zip(heights).all(|(a, b)| (a - b).abs() < 0.01), "{found:?}");
}

#[rstest]
fn a_watch_without_a_finite_value_has_a_gap() {
    let text = "pond \"t\" { arena 9 x 9 }\nkind fly { after 1 s { end self } }\nplace fly at (1, 1)\n\
        after 2 s { spawn fly at (1, 1) }\nwatch share = 6 / count(fly)";
    let run = run(text, 170);
    let drawing = drawn("watches", &run, &Wanted::default());
    let moves = drawing.marks.iter().filter_map(|mark| match mark {
        Mark::Path { steps, .. } => {
            Some(steps.iter().filter(|step| matches!(step, Step::Move(..))).count())
        }
        _ => None,
    });
    assert_eq!(moves.max(), Some(2), "before the gap and behind it");
}

/// Of four flies one ends at 1 s and one at 2 s, two live on: three quarters live longer than 1 s, half longer than 2 s.
/// At 1.5 s one has ended, and three are alive: who ends later is alive then.
#[rstest]
#[case::at_the_end(240, &[100.0, 75.0, 50.0], &["2 s", "2", "2 script"])]
#[case::before(90, &[100.0, 75.0], &["over half live", "1", "3", "1 script"])]
fn shares_of_lives_are_the_estimate(
    #[case] tick: u64,
    #[case] wanted: &[f64],
    #[case] told: &[&str],
) {
    let text = "pond \"t\" { arena 9 x 9 }\nkind fly { look \"f\" teal; vars { span = 9 s }\nevery tick { if age >= span { end self } } }\n\
        place fly at (1, 1) { span = 1 s }\nplace fly at (2, 1) { span = 2 s }\nplace fly at (3, 1)\nplace fly at (4, 1)";
    let mut run = run(text, 240);
    run.seek(tick);
    let drawing = drawn("lifetimes", &run, &Wanted::default());
    let mut shares: Vec<f64> =
        curve(&drawing, "#157173").iter().map(|(_, y)| value_at(&drawing, *y)).collect();
    shares.dedup_by(|a, b| (*a - *b).abs() < 0.01);
    assert_eq!(shares.iter().map(|share| share.round()).collect::<Vec<_>>(), wanted);
    let texts: Vec<String> = words(&drawing).into_iter().map(|(_, _, words)| words).collect();
    for words in told {
        assert!(texts.iter().any(|text| text == words), "{words}: {texts:?}");
    }
}

#[rstest]
#[case::all(None, &["18", "8"])]
// From tick 900 to tick 1200, both among them: each half second, each second.
#[case::late(Some(900), &["11", "6"])]
fn the_lines_that_ended_most_are_listed_with_what_they_say(
    #[case] from: Option<u64>,
    #[case] counts: &[&str],
) {
    let text = "pond \"t\" { arena 9 x 9 }\nkind a { after 1 s { end self } }\nkind b { health 1; after 2 s { damage self by 1 } }\n\
        spawner sa { makes a at here; every 0.5 s }\nspawner sb { makes b at here; every 1 s }\nplace sa\nplace sb";
    let run = run(text, if from.is_some() { 1200 } else { 600 });
    let drawing = drawn("ends", &run, &Wanted { from, ..Wanted::default() });
    let all = words(&drawing);
    let row = |says: &str| {
        let y = all.iter().find(|(_, _, words)| words == says).unwrap().1;
        all.iter().filter(|word| word.1 == y).map(|(.., words)| words.clone()).collect::<Vec<_>>()
    };
    let timer = row("kind a { after 1 s { end self } }");
    let damage = row("kind b { health 1; after 2 s { damage self by 1 } }");
    assert_eq!(timer[1..4], ["a", "timer", "2"]);
    assert_eq!(damage[1..4], ["b", "damage", "3"]);
    assert_eq!([timer[0].as_str(), damage[0].as_str()], counts);
    let place = |says: &str| all.iter().position(|(_, _, words)| words == says);
    assert!(place(&timer[4]) < place(&damage[4]), "the most first");
}

#[rstest]
fn bodies_stand_where_they_are_and_are_as_large() {
    let text = "pond \"t\" { arena 100 x 50 }\nkind pad { look \"p\" lime; body circle 5 u, sensor }\n\
        kind raft { look \"r\" rose; body box 20 u x 4 u, sensor }\nplace pad at (20, 10)\nplace raft at (60, 40), facing 90 deg\n\
        place pad at (-9, 10)";
    let run = run(text, 1);
    let drawing = drawn("arena", &run, &Wanted::default());
    // The page's arena: the rectangle in the colour of water.
    let water = drawing.marks.iter().find_map(|mark| match mark {
        Mark::Rect { at, size, fill, .. } if fill == "#eef5f4" => Some((*at, *size)),
        _ => None,
    });
    let ((left, top), (width, height)) = water.unwrap();
    let scale = width / 100.0;
    assert!((height / 50.0 - scale).abs() < 1e-9, "one scale for both axes");
    let disc = drawing.marks.iter().find_map(|mark| match mark {
        Mark::Circle { at, radius, .. } if *radius > 10.0 => Some((*at, *radius)),
        _ => None,
    });
    let ((x, y), radius) = disc.unwrap();
    let near = |a: f64, b: f64| assert!((a - b).abs() < 1e-6, "{a} {b}");
    near((x - left) / scale, 20.0);
    near((top + height - y) / scale, 10.0);
    near(radius / scale, 5.0);
    let corners = drawing.marks.iter().find_map(|mark| match mark {
        Mark::Path { steps, ink: tickpond_draw::drawing::Ink::Fill(colour) }
            if colour == "#78003f" && steps.len() == 5 =>
        {
            let places = steps.iter().filter_map(|step| match *step {
                Step::Move(x, y) | Step::Line(x, y) => Some((x, y)),
                _ => None,
            });
            Some(places.collect::<Vec<_>>())
        }
        _ => None,
    });
    let corners = corners.unwrap();
    let (low, high) =
        corners.iter().fold((f64::MAX, f64::MIN), |(l, h), p| (l.min(p.1), h.max(p.1)));
    near((high - low) / scale, 20.0);
    near((corners[0].0 + corners[2].0) / 2.0, left + 60.0 * scale);
    let texts: Vec<String> = words(&drawing).into_iter().map(|(_, _, words)| words).collect();
    assert!(
        texts.iter().any(|text| text.ends_with("not drawn: 1 outside of the arena")),
        "{texts:?}"
    );
    assert!(texts.iter().any(|text| text == "pad (2)"));
}

#[rstest]
fn a_crowd_is_drawn_as_density_and_the_fullest_cell_is_told() {
    let text = "pond \"t\" { arena 100 x 50 }\nkind fly { look \"f\" teal }\n\
        after 0.1 s { spawn 1600 fly at (10, 10); spawn 800 fly at (60, 30) }";
    let run = run(text, 30);
    let drawing = drawn("arena", &run, &Wanted::default());
    let shares: Vec<f64> = drawing
        .marks
        .iter()
        .filter_map(|mark| match mark {
            Mark::Rect { fill, share, .. } if fill == "#157173" && *share < 1.01 => Some(*share),
            _ => None,
        })
        .collect();
    // Two cells, and the key; half as many are half as dark, above what the lightest has.
    assert!(shares.contains(&(0.15 + 0.85 * 0.5)) && shares.contains(&1.0), "{shares:?}");
    let texts: Vec<String> = words(&drawing).into_iter().map(|(_, _, words)| words).collect();
    assert!(texts.iter().any(|text| text.ends_with("has 1600")), "{texts:?}");
}

#[rstest]
fn a_lane_is_as_long_as_its_life_and_says_how_it_ended() {
    let text = "pond \"t\" { arena 9 x 9 }\nkind fly { look \"f\" teal; states { calm, wild }\nafter 1 s { become wild } after 3 s { end self } }\n\
        kind moth { look \"m\" rose }\nafter 2 s { spawn moth at (1, 1) }\nplace fly at (1, 1)";
    let run = run(text, 480);
    let drawing = drawn("lifelines", &run, &Wanted { from: Some(0), ..Wanted::default() });
    let lane = |colour: &str| {
        let bars = drawing.marks.iter().filter_map(|mark| match mark {
            Mark::Rect { at, size, fill, .. }
                if fill == colour && size.1 == 4.0 && size.0 > 19.0 =>
            {
                Some((at.0, at.0 + size.0))
            }
            _ => None,
        });
        bars.collect::<Vec<_>>()[0]
    };
    // The time axis has a label at 0 and one at 8 s: a second is an eighth of what lies between.
    let all = words(&drawing);
    let at = |label: &str| all.iter().find(|(_, y, words)| words == label && *y > 100.0).unwrap().0;
    let second = (at("8") - at("0")) / 8.0;
    let (fly, moth) = (lane("#157173"), lane("#78003f"));
    assert!((fly.0 - at("0")).abs() < 0.1 && (fly.1 - fly.0 - 3.0 * second).abs() < 0.2 * second);
    assert!(
        (moth.0 - at("0") - 2.0 * second).abs() < 0.1 * second && (moth.1 - at("8")).abs() < 0.1
    );
    let texts: Vec<&str> = all.iter().map(|(_, _, words)| words.as_str()).collect();
    for wanted in ["fly#1", "timer", "moth#1", "alive", "state wild"] {
        assert!(texts.contains(&wanted), "{wanted}: {texts:?}");
    }
    assert!(texts.iter().any(|text| text.ends_with("shown: 0 s to 8 s; 2 lives")), "{texts:?}");
}

#[rstest]
fn of_many_lives_it_says_how_many_are_not_drawn() {
    let text = "pond \"t\" { arena 9 x 9 }\nkind fly { }\nafter 0.1 s { spawn 90 fly at (1, 1) }";
    let drawing = drawn("lifelines", &run(text, 60), &Wanted::default());
    let texts: Vec<String> = words(&drawing).into_iter().map(|(_, _, words)| words).collect();
    assert!(texts.iter().any(|text| text.ends_with("60 of 90 lives: the youngest")), "{texts:?}");
    assert!(texts.contains(&"fly#90".to_string()) && !texts.contains(&"fly#30".to_string()));
}

#[rstest]
fn only_the_kinds_that_are_wanted_are_drawn() {
    let wanted = Wanted { kinds: vec!["moth".into()], ..Wanted::default() };
    let run = run(FLIES, 300);
    for kind in tickpond_draw::DRAWINGS.iter().filter(|kind| kind.name != "watches") {
        let texts = words(&(kind.draw)(&run, &wanted));
        let names = |name: &str| texts.iter().any(|(_, _, words)| words.starts_with(name));
        assert!(!names("fly"), "{}: {texts:?}", kind.name);
        assert!(texts.iter().any(|(_, _, words)| words.contains("only moth")), "{}", kind.name);
    }
}

/// Nine flies of a bed, of which a moth ends four by damage; the others end themselves; the pond places moth and bed.
#[rstest]
fn the_family_is_that_of_the_events() {
    let text = "pond \"t\" { arena 9 x 9 }\nkind fly { look \"f\" teal; health 1; after 1.1 s { end self } }\n\
        kind moth { look \"m\" rose; after 0.95 s { damage each fly by 1 } }\n\
        spawner bed { makes fly at here; every 0.2 s\n at most 9 in all }\nplace bed\nplace moth at (1, 1)";
    let run = run(text, 300);
    let drawing = drawn("family", &run, &Wanted::default());
    let all = words(&drawing);
    let texts: Vec<&str> = all.iter().map(|(_, _, words)| words.as_str()).collect();
    // In each table the cell of a row and a column stands beneath the column's name and beside the row's.
    let cell = |table: &str, by: &str, whom: &str| {
        let tables = ["Makes", "Ends"].map(|name| all.iter().position(|w| w.2 == name).unwrap());
        let words = if table == "Makes" { &all[tables[0]..tables[1]] } else { &all[tables[1]..] };
        let column = words.iter().find(|(x, _, name)| name == whom && *x > 200.0).map(|w| w.0);
        let row = words.iter().find(|(x, _, name)| name == by && *x < 200.0).map(|w| w.1);
        let (x, y) = (column?, row?);
        let inside = |w: &&(f64, f64, String)| w.0 == x && (w.1 - y).abs() < 12.0;
        Some(words.iter().filter(inside).map(|w| w.2.clone()).collect::<Vec<_>>().join(" "))
    };
    assert_eq!(cell("Makes", "bed", "fly").as_deref(), Some("9"), "{texts:?}");
    assert_eq!(cell("Makes", "pond", "moth").as_deref(), Some("1"));
    assert_eq!(cell("Ends", "moth", "fly").as_deref(), Some("4 damage"));
    assert_eq!(cell("Ends", "fly", "fly").as_deref(), Some("5 timer"));
}

/// A heron that chases after 1 s, strikes at 2 s for half a second, chases on, is put to rest from 3 s to 5 s, and idles again
/// at its own 4 s: six seconds after its birth, of which it slept two.
#[rstest]
#[case::all(None, &["idle 2 1 s 1", "chase 2 1.25 s 0", "strike 1 0.5 s 0"])]
#[case::from_the_strike_on(Some(121), &["idle 1 - 1", "chase 1 1.5 s 0", "strike 0 0.5 s 0"])]
fn stays_and_changes_are_those_of_the_run(#[case] from: Option<u64>, #[case] rows: &[&str]) {
    let text = "pond \"t\" { arena 9 x 9 }\nkind heron { look \"Y\" rose; states { idle, chase, strike }\n\
        after 1 s { become chase }\nafter 2 s { become strike for 0.5 s }\nafter 4 s { become idle } }\nplace heron at (1, 1)\n\
        after 3 s { deactivate each heron }\nafter 5 s { activate each heron }";
    let run = run(text, 480);
    let drawing = drawn("changes", &run, &Wanted { from, ..Wanted::default() });
    let all = words(&drawing);
    let row = |state: &str| {
        let y = all.iter().find(|(_, _, words)| words == state).unwrap().1;
        all.iter().filter(|w| w.1 == y).map(|w| w.2.clone()).collect::<Vec<_>>().join(" ")
    };
    let found: Vec<String> = ["idle", "chase", "strike"].map(row).to_vec();
    assert_eq!(found, rows);
    let says: Vec<&str> = all.iter().map(|(_, _, words)| words.as_str()).collect();
    for wanted in ["strike → chase", "back, when its time was over"] {
        assert!(says.contains(&wanted), "{wanted}: {says:?}");
    }
    let line = "line 5: after 4 s { become idle } }";
    assert!(says.contains(&"chase → idle") && says.contains(&line), "{says:?}");
    assert_eq!(says.contains(&"idle → chase"), from.is_none());
}

#[rstest]
fn a_way_goes_through_the_places_where_one_was() {
    let text = "pond \"t\" { arena 100 x 50\n edges wrap }\n\
        kind drop { look \"d\" rose; on birth { heading = 0 deg; speed = 30 u/s } }\nplace drop at (20, 10)";
    let mut run = run(text, 180);
    // From 1 s on: at 50 u; after 2 s at the edge, and round to the other side; at 3 s at 10 u.
    let prepared = tickpond_draw::prepare(&mut run, "arena", Some(60));
    assert_eq!(run.tick(), 180);
    let wanted = Wanted { from: Some(60), prepared, ..Wanted::default() };
    let drawing = drawn("arena", &run, &wanted);
    let water = drawing.marks.iter().find_map(|mark| match mark {
        Mark::Rect { at, size, fill, .. } if fill == "#eef5f4" => Some((*at, *size)),
        _ => None,
    });
    let ((left, top), (width, height)) = water.unwrap();
    let scale = width / 100.0;
    let way = drawing.marks.iter().find_map(|mark| match mark {
        Mark::Path { steps, ink: tickpond_draw::drawing::Ink::Stroke { colour, width, .. } }
            if colour == "#78003f" && *width < 0.9 =>
        {
            Some(steps.clone())
        }
        _ => None,
    });
    let way = way.expect("a way");
    let starts = way.iter().filter(|step| matches!(step, Step::Move(..))).count();
    assert_eq!(starts, 2, "the way round to the other side is not joined");
    assert_eq!(way.len(), 41, "twenty a second, and both ends");
    for (at, step) in way.iter().enumerate() {
        let (Step::Move(x, y) | Step::Line(x, y)) = *step else { panic!("{step:?}") };
        let wanted = (20.0 + 30.0 * (60.0 + at as f64 * 3.0) / 60.0) % 100.0;
        assert!(((x - left) / scale - wanted).abs() < 0.6, "{} not {wanted}", (x - left) / scale);
        assert!(((top + height - y) / scale - 10.0).abs() < 1e-6);
    }
    let told: Vec<String> = words(&drawing).into_iter().map(|(_, _, words)| words).collect();
    assert!(told.iter().any(|text| text.ends_with("with the ways since 1 s")), "{told:?}");
}

#[rstest]
fn the_page_of_a_tick_has_its_handlers_and_what_came_of_them_in_order() {
    let mut run = run(FLIES, 90);
    let prepared = tickpond_draw::prepare(&mut run, "tick", None);
    let apart = prepared.apart.clone();
    assert!(!apart.is_empty());
    let drawing = drawn("tick", &run, &Wanted { prepared, ..Wanted::default() });
    let rows = words(&drawing);
    let mut y = 0.0;
    let mut place = |says: &str| {
        let found = rows.iter().find(|(_, at, words)| *at > y - 1.0 && words.starts_with(says));
        let (_, at, _) = found.unwrap_or_else(|| panic!("no {says:?} below {y} in {rows:?}"));
        y = *at;
    };
    for phase in &apart {
        place(phase.phase.name());
        for ran in &phase.ran {
            place(&ran.head);
        }
        for came in &phase.came {
            place(&format!("{} {}", came.what.name(), came.words));
        }
    }
    assert!(apart.iter().any(|phase| phase.ran.iter().any(|ran| ran.head.contains("moth every"))));
}

#[rstest]
fn the_numbers_of_a_report_are_those_of_the_run() {
    let text = format!(
        "{FLIES}\nexpect \"few flies\": always count(fly) <= 3\nexpect \"a moth\": always count(moth) == 1\n"
    );
    let run = run(&text, 600);
    let report = Report::of(&run);
    let drawing = drawn("report", &run, &Wanted::default());
    let rows = words(&drawing);
    let kinds = rows.iter().find(|(_, _, words)| words == "Kinds").unwrap().1;
    for (name, kind) in &report.kinds {
        // A spawner has no row.
        let Some((_, y, _)) = rows.iter().find(|(_, y, words)| *y > kinds && words == name) else {
            continue;
        };
        let row: Vec<&str> = rows
            .iter()
            .filter(|(_, at, _)| (at - y).abs() < 0.1)
            .map(|(_, _, words)| words.as_str())
            .collect();
        for value in [kind.born, kind.live, kind.peak] {
            assert!(row.contains(&value.to_string().as_str()), "{name}: {value} in {row:?}");
        }
        for (cause, count) in &kind.ended {
            assert!(row.iter().any(|cell| cell.contains(&format!("{cause} {count}"))), "{row:?}");
        }
    }
    let of = |says: &str| rows.iter().position(|(_, _, words)| words.starts_with(says)).unwrap();
    assert!(of("FAILED") < of("held"), "what failed comes first");
    let y = rows[of("FAILED")].1;
    let told =
        rows.iter().any(|(_, at, words)| (at - y).abs() < 0.1 && words.starts_with("few flies: "));
    assert!(told, "{rows:?}");
}

#[rstest]
fn what_broke_and_what_was_edited_stands_where_it_happened() {
    let text = format!("{FLIES}\nexpect \"few flies\": always count(fly) <= 3\n");
    let mut run = run(&text, 300);
    let edited =
        tickpond_lang::compile(&text.replace("every 0.3 s", "every 0.2 s")).program.unwrap();
    run.edit(edited).unwrap();
    run.play_to(600);
    let drawing = drawn("counts", &run, &Wanted::default());
    let shapes = |corners: usize| -> Vec<f64> {
        let fills = drawing.marks.iter().filter_map(|mark| match mark {
            Mark::Path { steps, ink: tickpond_draw::drawing::Ink::Fill(colour) }
                if steps.len() == corners && (colour == "#982c00" || colour == "#5d6b6c") =>
            {
                let xs = steps.iter().filter_map(|step| match *step {
                    Step::Move(x, _) | Step::Line(x, _) => Some(x),
                    _ => None,
                });
                let xs: Vec<f64> = xs.collect();
                Some(xs.iter().sum::<f64>() / xs.len() as f64)
            }
            _ => None,
        });
        fills.collect()
    };
    // Seconds along the lower side, read from its numbers.
    let at = |second: &str| {
        let found = words(&drawing).into_iter().find(|(_, y, words)| words == second && *y > 390.0);
        found.unwrap_or_else(|| panic!("no {second}")).0
    };
    let tick_at = |x: f64| (x - at("0")) / (at("10") - at("0")) * 600.0;
    let failed = run.verdicts()[0].failed.unwrap() as f64;
    let (broken, edits) = (shapes(4), shapes(5));
    assert_eq!((broken.len(), edits.len()), (1, 1));
    assert!((tick_at(broken[0]) - failed).abs() < 1.0, "{} for {failed}", tick_at(broken[0]));
    assert!((tick_at(edits[0]) - 301.0).abs() < 1.5, "{}", tick_at(edits[0]));
    let told = words(&drawing).into_iter().map(|(_, _, words)| words).collect::<Vec<_>>().join(" ");
    assert!(told.contains("triangle: an expectation broke; diamond: an edit"), "{told}");
}

#[rstest]
fn a_flag_stands_where_a_wave_begins() {
    // Waves begin in ticks 11, 32, 53 and 74: each goes on in the tick after, and 20 later.
    let text = "pond \"Waves\" { arena 100 x 100 }\nknob gap = 20 ticks\n\
        kind fly { after 1 s { end self } }\nroutine dusk { wait 10 ticks\n repeat 4 times {\n\
        wave as w { spawn 2 fly at (50, 50) }\n wait gap } }";
    let mut run = run(text, 120);
    let flags = |run: &Run, wanted: &Wanted<'_>| -> (Vec<f64>, String) {
        let drawing = drawn("counts", run, wanted);
        let shapes = drawing.marks.iter().filter_map(|mark| match mark {
            Mark::Path { steps, ink: tickpond_draw::drawing::Ink::Fill(colour) }
                if steps.len() == 4 && colour == "#1c2526" =>
            {
                match steps[0] {
                    Step::Move(x, _) => Some(x),
                    _ => None,
                }
            }
            _ => None,
        });
        let at = |second: &str| {
            let mut words = words(&drawing).into_iter();
            words.find(|(_, y, words)| words == second && *y > 390.0).unwrap().0
        };
        let (zero, one) = (at("0.5"), at("1"));
        let ticks = shapes.map(|x| 30.0 + (x - zero) / (one - zero) * 30.0).collect();
        let told = words(&drawing).into_iter().map(|(_, _, words)| words);
        (ticks, told.collect::<Vec<_>>().join(" "))
    };
    let near = |found: &[f64], right: &[f64]| {
        assert_eq!(found.len(), right.len(), "{found:?} for {right:?}");
        assert!(found.iter().zip(right).all(|(a, b)| (a - b).abs() < 0.2), "{found:?}");
    };
    let (ticks, told) = flags(&run, &Wanted::default());
    near(&ticks, &[11.0, 32.0, 53.0, 74.0]);
    assert!(told.contains("flags: 4 waves begin"), "{told}");
    let (ticks, told) = flags(&run, &Wanted { from: Some(30), to: Some(60), ..Wanted::default() });
    near(&ticks, &[32.0, 53.0]);
    assert!(told.contains("flags: 2 waves begin"), "{told}");
    // From an edit in the past on it is another run; the wait that has begun stays as long as it was.
    run.seek(40);
    let edited = text.replace("gap = 20", "gap = 60");
    run.edit(tickpond_lang::compile(&edited).program.unwrap()).unwrap();
    run.play_to(120);
    near(&flags(&run, &Wanted::default()).0, &[11.0, 32.0, 53.0, 114.0]);
}

#[rstest]
fn the_bands_of_causes_are_as_high_as_their_shares() {
    // Of four flies one ends by the script at 1 s and one by damage at 2 s; two live at 4 s. At 1 s a quarter has ended; of
    // the three that are left a third ends: a quarter of all.
    let text = "pond \"t\" { arena 9 x 9 }\nkind fly { health 1; vars { span = 9 s; hit = 9 s }\n\
        every tick { if age >= span { end self }\n if age >= hit { damage self by 1 } } }\n\
        place fly at (1, 1) { span = 1 s }\nplace fly at (2, 1) { hit = 2 s }\nplace fly at (3, 1)\nplace fly at (4, 1)";
    let run = run(text, 240);
    let drawing = drawn("lifetimes", &run, &Wanted::default());
    let words = words(&drawing);
    let says = |wanted: &str| words.iter().find(|(_, _, words)| words == wanted);
    let (damage, script) = (says("damage 25 %").unwrap(), says("script 25 %").unwrap());
    assert!(damage.1 > script.1, "named as they are stacked");
    // The panel's own axis: from 0 to 4 s.
    let base = says("0 %").unwrap().1 - 4.0;
    let top = says("100 %").unwrap().1 - 4.0;
    let at =
        |second: &str| words.iter().find(|(_, y, words)| words == second && *y > base).unwrap().0;
    let bands: Vec<Vec<(f64, f64)>> = drawing
        .marks
        .iter()
        .filter_map(|mark| match mark {
            Mark::Path { steps, ink: tickpond_draw::drawing::Ink::Fill(_) } if steps.len() > 6 => {
                let (mut places, mut here) = (Vec::new(), (0.0, 0.0));
                for step in steps {
                    match *step {
                        Step::Move(x, y) | Step::Line(x, y) => here = (x, y),
                        Step::Across(x) => here.0 = x,
                        Step::Along(y) => here.1 = y,
                        Step::Close => continue,
                    }
                    places.push(here);
                }
                Some(places)
            }
            _ => None,
        })
        .collect();
    assert_eq!(bands.len(), 2);
    // Highest and lowest share of a band at a second: of its upright lines there, or of those left of it.
    let heights = |band: &[(f64, f64)], x: f64| -> (f64, f64) {
        let share = |y: f64| (base - y) / (base - top);
        let half = band.iter().position(|place| place.0 >= at("4") - 0.1).unwrap();
        let (upper, lower) = band.split_at(half);
        let of = |side: Vec<(f64, f64)>| {
            let before = side.into_iter().filter(|place| place.0 <= x + 0.1);
            before
                .fold((f64::MIN, base), |last, place| if place.0 >= last.0 { place } else { last })
                .1
        };
        let mut below: Vec<(f64, f64)> = lower.to_vec();
        below.reverse();
        (share(of(below)), share(of(upper.to_vec())))
    };
    let near = |found: (f64, f64), right: (f64, f64)| {
        assert!(
            (found.0 - right.0).abs() < 1e-6 && (found.1 - right.1).abs() < 1e-6,
            "{found:?} {right:?}"
        );
    };
    let between = |a: &str, b: &str| (at(a) + at(b)) / 2.0;
    // From below: damage, then the script.
    near(heights(&bands[0], between("1", "1.5")), (0.0, 0.0));
    near(heights(&bands[1], between("1", "1.5")), (0.0, 0.25));
    near(heights(&bands[0], between("2", "2.5")), (0.0, 0.25));
    near(heights(&bands[1], between("2", "2.5")), (0.25, 0.5));
}

#[rstest]
fn waves_that_begin_together_are_counted_each() {
    let pods: String = (1..=5).map(|at| format!("place pod at ({at}, 9)\n")).collect();
    let text = format!(
        "pond \"t\" {{ arena 100 x 100 }}\nkind pod {{ after 1 s {{ wave as w {{ }} }}\n after 2 s {{ wave as w {{ }} }} }}\n{pods}"
    );
    let drawing = drawn("counts", &run(&text, 300), &Wanted::default());
    let told = words(&drawing).into_iter().map(|(_, _, words)| words).collect::<Vec<_>>().join(" ");
    assert!(told.contains("flags: 10 waves begin, in 2 ticks"), "{told}");
}

#[rstest]
fn bars_stand_where_some_ended_and_hang_where_some_were_born_as_long_as_they_are_many() {
    let run = run(FLIES, 300);
    let drawing = drawn("counts", &run, &Wanted::default());
    let words = words(&drawing);
    // Seconds along the lower side, read from its numbers; the row's line beside its name.
    let x_of = |second: &str| words.iter().find(|w| w.2 == second && w.1 > 390.0).unwrap().0;
    let x = |tick: usize| x_of("0") + (x_of("5") - x_of("0")) * tick as f64 / 300.0;
    let base = words.iter().find(|w| w.2 == "fly" && w.1 > 400.0).unwrap().1;
    let bars = |down: bool| -> Vec<(f64, f64)> {
        let bars = drawing.marks.iter().filter_map(|mark| match mark {
            Mark::Rect { at, size, fill, share } if fill == "#157173" && (*share < 0.6) == down => {
                let stands = if down { at.1 - 1.0 } else { at.1 + size.1 };
                assert!((stands - base).abs() < 0.01, "on the row's line");
                Some((at.0, size.1))
            }
            _ => None,
        });
        bars.collect()
    };
    let flies = run.record().kinds.iter().find(|series| series.name == "fly").unwrap();
    for (down, counts, least, most_high) in
        [(true, &flies.born, 2.0, 4.0), (false, &flies.ended, 4.0, 14.0)]
    {
        // 301 ticks on 222 columns: two to a bar.
        let sums: Vec<(usize, u64)> = (0..301)
            .step_by(2)
            .map(|at| (at, counts.sum(at..(at + 2).min(301))))
            .filter(|(_, sum)| *sum > 0)
            .collect();
        let most = sums.iter().map(|(_, sum)| *sum).max().unwrap() as f64;
        let found = bars(down);
        assert_eq!(found.len(), sums.len());
        for ((at, height), (tick, sum)) in found.iter().zip(&sums) {
            let right = least + most_high * *sum as f64 / most;
            assert!((at - x(*tick)).abs() < 0.01, "{at} for tick {tick}");
            assert!((height - right).abs() < 0.01, "{height} for {sum} of {most}");
        }
        assert!(found.len() > 2);
    }
    let ended = flies.ended.sum(0..301);
    assert!(ended > 3 && (0..301).any(|at| flies.ended.sum(at..at + 1) > 1), "some end together");
}
