//! Drawings are sound SVG, say what they show, and become PDFs with real text.

use rstest::rstest;
use tickpond_draw::{draw_counts, to_pdf};
use tickpond_lab::{Run, RunOptions};

fn run(text: &str, ticks: u64) -> Run {
    let program = tickpond_lang::compile(text).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(ticks);
    run
}

const DUSK: &str = include_str!("../../../ponds/dusk.pond");

fn texts(svg: &str) -> Vec<String> {
    let parts = svg.split("<text ").skip(1);
    parts.map(|p| p.split('>').nth(1).unwrap().split('<').next().unwrap().to_string()).collect()
}

#[rstest]
fn the_chart_names_its_kinds_units_and_causes() {
    let svg = draw_counts(&run(DUSK, 3600), false);
    let texts = texts(&svg);
    for wanted in
        ["Dusk at the mill pond: how many are alive", "time (s)", "alive (entities)", "60", "Ends"]
    {
        assert!(texts.iter().any(|t| t == wanted), "{wanted}: {texts:?}");
    }
    assert!(texts.iter().any(|t| t.starts_with("midge (")));
    assert!(texts.iter().any(|t| t.contains("edge")), "causes: {texts:?}");
    assert_eq!(svg, draw_counts(&run(DUSK, 3600), false), "the same bytes");
}

#[rstest]
#[case::empty("pond \"Still <&> \\\"quiet\\\"\" { arena 10 x 10 }", 60)]
#[case::not_played("pond \"t\" { arena 10 x 10 }\nplace a at (1, 1)\nkind a { look \"a\" }", 0)]
#[case::demo(DUSK, 200)]
fn any_run_gives_a_drawing_and_a_pdf(#[case] text: &str, #[case] ticks: u64) {
    let svg = draw_counts(&run(text, ticks), false);
    let pdf = to_pdf(&svg).unwrap();
    assert!(pdf.starts_with(b"%PDF-"));
    assert_eq!(pdf, to_pdf(&svg).unwrap(), "the same bytes");
}

#[rstest]
fn the_size_of_the_drawing_does_not_grow_with_the_run() {
    let long = draw_counts(&run(DUSK, 20_000), false).len();
    assert!(long < 200_000, "{long}");
}

#[rstest]
fn text_in_the_pdf_is_text() {
    // A page with text embeds its fonts; one with outlines has none.
    let pdf = to_pdf(&draw_counts(&run(DUSK, 60), false)).unwrap();
    let find = |needle: &[u8]| pdf.windows(needle.len()).any(|w| w == needle);
    assert!(find(b"/FontFile") || find(b"/FontDescriptor") || find(b"ObjStm"));
}

#[rstest]
fn what_is_no_drawing_is_an_error() {
    assert!(to_pdf("not a drawing").is_err());
}

#[rstest]
fn every_kind_that_lived_has_a_line_a_marker_and_a_name() {
    let svg = draw_counts(&run(DUSK, 1200), false);
    for kind in ["midge", "frog", "heron"] {
        assert!(texts(&svg).iter().any(|t| t.starts_with(kind)), "{kind}");
    }
    assert!(!texts(&svg).iter().any(|t| t.starts_with("speck")), "nobody was born of it");
    let dashes = svg.matches("stroke-dasharray").count();
    assert!(dashes >= 2, "series differ by dashes, too: {dashes}");
}

#[rstest]
#[case(30, "0.5")]
#[case(600, "10")]
#[case(7200, "120")]
fn the_time_axis_reaches_to_the_end(#[case] ticks: u64, #[case] last: &str) {
    let svg = draw_counts(&run(DUSK, ticks), false);
    assert!(texts(&svg).iter().any(|t| t == last), "{last}: {:?}", texts(&svg));
}

#[rstest]
fn a_title_is_escaped() {
    let svg = draw_counts(&run("pond \"a < b & 'c'\" { arena 9 x 9 }", 10), false);
    assert!(svg.contains("a &lt; b &amp; &apos;c&apos;"));
    assert!(to_pdf(&svg).is_ok());
}

#[rstest]
fn ends_are_barred_by_kind_with_their_causes() {
    let text = "pond \"t\" { arena 9 x 9 }\nkind a { after 1 s { end self } }\nkind b { health 1; after 2 s { damage self by 1 } }\n\
        spawner sa { makes a at here; every 0.5 s }\nspawner sb { makes b at here; every 1 s }\nplace sa\nplace sb";
    let svg = draw_counts(&run(text, 600), false);
    let all = texts(&svg);
    assert!(all.iter().any(|t| t == "18 timer"), "{all:?}");
    assert!(all.iter().any(|t| t == "8 damage"), "{all:?}");
}

/// Signs the screens are drawn with, beside letters: kinds without a glyph of their own, trees, arrows, marks.
const SIGNS: &str = "∙⌂¤✛▸▾▴◂◆✓✗↑↓←→├└╰│●○◉✶☀⚑♦♣é漢";

#[rstest]
fn every_sign_has_a_picture_or_is_named_as_one_that_has_none() {
    use tickpond_draw::grid::{GridCell, draw_grid};
    use tickpond_draw::missing_signs;
    let cells: Vec<GridCell> =
        SIGNS.chars().map(|c| GridCell { symbol: c.to_string(), ..GridCell::default() }).collect();
    let svg = draw_grid("signs", 8, &cells);
    assert_eq!(missing_signs(&svg), ['漢'], "what no font of the program has");
    let text = pdf_extract::extract_text_from_mem(&to_pdf(&svg).unwrap()).unwrap();
    for sign in SIGNS.chars().filter(|sign| !"漢│".contains(*sign)) {
        assert!(text.contains(sign), "{sign} in {text:?}");
    }
}

#[rstest]
fn the_text_of_a_drawing_is_text_in_the_pdf() {
    let svg = draw_counts(&run(DUSK, 1200), false);
    let text = pdf_extract::extract_text_from_mem(&to_pdf(&svg).unwrap()).unwrap();
    for words in texts(&svg) {
        let words = words.replace("&apos;", "'");
        let bare = |text: &str| text.split_whitespace().collect::<String>();
        assert!(bare(&text).contains(&bare(&words)), "{words} in {text}");
    }
}

#[rstest]
fn the_run_before_is_drawn_beneath_where_it_is_compared() {
    let mut run = run(DUSK, 900);
    run.seek(300);
    let text = DUSK.replace("drift  = 6 u/s", "drift  = 18 u/s");
    run.edit(tickpond_lang::compile(&text).program.unwrap()).unwrap();
    run.play_to(600);
    let (alone, beside) = (draw_counts(&run, false), draw_counts(&run, true));
    let grey = |svg: &str| svg.lines().filter(|line| line.contains("#a3adad")).count();
    assert_eq!(grey(&alone), 0);
    assert!(grey(&beside) > 2, "a line of each kind that was there before");
    assert!(texts(&beside).iter().any(|t| t.contains("grey: the run before, 15 s")));
    // Both have one scale: the longer sets it.
    assert!(texts(&beside).iter().any(|t| t == "15") && !texts(&alone).iter().any(|t| t == "15"));
}
