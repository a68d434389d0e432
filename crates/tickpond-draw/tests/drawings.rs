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
    let svg = draw_counts(&run(DUSK, 3600));
    let texts = texts(&svg);
    for wanted in
        ["Dusk at the mill pond: how many are alive", "time (s)", "alive (entities)", "60", "Ends"]
    {
        assert!(texts.iter().any(|t| t == wanted), "{wanted}: {texts:?}");
    }
    assert!(texts.iter().any(|t| t.starts_with("midge (")));
    assert!(texts.iter().any(|t| t.contains("edge")), "causes: {texts:?}");
    assert_eq!(svg, draw_counts(&run(DUSK, 3600)), "the same bytes");
}

#[rstest]
#[case::empty("pond \"Still <&> \\\"quiet\\\"\" { arena 10 x 10 }", 60)]
#[case::not_played("pond \"t\" { arena 10 x 10 }\nplace a at (1, 1)\nkind a { look \"a\" }", 0)]
#[case::demo(DUSK, 200)]
fn any_run_gives_a_drawing_and_a_pdf(#[case] text: &str, #[case] ticks: u64) {
    let svg = draw_counts(&run(text, ticks));
    let pdf = to_pdf(&svg).unwrap();
    assert!(pdf.starts_with(b"%PDF-"));
    assert_eq!(pdf, to_pdf(&svg).unwrap(), "the same bytes");
}

#[rstest]
fn the_size_of_the_drawing_does_not_grow_with_the_run() {
    let long = draw_counts(&run(DUSK, 20_000)).len();
    assert!(long < 200_000, "{long}");
}

#[rstest]
fn text_in_the_pdf_is_text() {
    // A page with text embeds its fonts; one with outlines has none.
    let pdf = to_pdf(&draw_counts(&run(DUSK, 60))).unwrap();
    let find = |needle: &[u8]| pdf.windows(needle.len()).any(|w| w == needle);
    assert!(find(b"/FontFile") || find(b"/FontDescriptor") || find(b"ObjStm"));
}

#[rstest]
fn what_is_no_drawing_is_an_error() {
    assert!(to_pdf("not a drawing").is_err());
}
