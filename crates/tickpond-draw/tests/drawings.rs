//! Drawings are sound SVG, say what they show, and become PDFs with real text.

use rstest::rstest;
use tickpond_draw::drawing::{Anchor, Step, Type};
use tickpond_draw::{Beside, Drawing, Wanted, draw_counts, to_pdf, to_svg};
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
    let svg = to_svg(&draw_counts(&run(DUSK, 3600), &Wanted::default()));
    let texts = texts(&svg);
    for wanted in
        ["Dusk at the mill pond: how many are alive", "time (s)", "alive (entities)", "60", "Ends"]
    {
        assert!(texts.iter().any(|t| t == wanted), "{wanted}: {texts:?}");
    }
    assert!(texts.iter().any(|t| t.starts_with("midge (")));
    assert!(texts.iter().any(|t| t.contains("edge")), "causes: {texts:?}");
    assert_eq!(svg, to_svg(&draw_counts(&run(DUSK, 3600), &Wanted::default())), "the same bytes");
}

#[rstest]
#[case::empty("pond \"Still <&> \\\"quiet\\\"\" { arena 10 x 10 }", 60)]
#[case::not_played("pond \"t\" { arena 10 x 10 }\nplace a at (1, 1)\nkind a { look \"a\" }", 0)]
#[case::demo(DUSK, 200)]
fn any_run_gives_a_drawing_and_a_pdf(#[case] text: &str, #[case] ticks: u64) {
    let drawing = draw_counts(&run(text, ticks), &Wanted::default());
    let pdf = to_pdf(&drawing).unwrap();
    assert!(pdf.starts_with(b"%PDF-"));
    assert_eq!(pdf, to_pdf(&drawing).unwrap(), "the same bytes");
}

#[rstest]
fn the_size_of_the_drawing_does_not_grow_with_the_run() {
    let long = to_svg(&draw_counts(&run(DUSK, 20_000), &Wanted::default())).len();
    assert!(long < 200_000, "{long}");
}

#[rstest]
fn fonts_are_part_of_the_file() {
    let pdf = to_pdf(&draw_counts(&run(DUSK, 60), &Wanted::default())).unwrap();
    let document = lopdf::Document::load_mem(&pdf).unwrap();
    let page = document.page_iter().next().unwrap();
    let fonts = document.get_page_fonts(page).unwrap();
    assert_eq!(fonts.len(), 2, "letters, and bold letters: {fonts:?}");
    let files = document.objects.values().filter_map(|object| object.as_dict().ok());
    assert_eq!(files.filter(|dict| dict.has(b"FontFile2")).count(), fonts.len());
    assert!(pdf.len() < 60_000, "only what is used: {} bytes", pdf.len());
}

#[rstest]
#[case::empty(0.0, 100.0)]
#[case::longer_than_a_page_can_be(100.0, 14_401.0)]
#[case::no_number(f64::NAN, 100.0)]
fn a_page_that_cannot_be_is_an_error(#[case] width: f64, #[case] height: f64) {
    let told = to_pdf(&Drawing::new(width, height, "t")).unwrap_err().to_string();
    assert!(told.contains("1 to 14400 points"), "{told}");
}

/// The words of the outlines, fills and texts of a page, unpacked.
fn content(pdf: &[u8]) -> String {
    let document = lopdf::Document::load_mem(pdf).unwrap();
    let page = document.page_iter().next().unwrap();
    String::from_utf8_lossy(&document.get_page_content(page).unwrap()).into_owned()
}

#[rstest]
fn marks_stand_on_the_page_where_the_drawing_says() {
    let mut drawing = Drawing::new(200.0, 100.0, "Where <it> is");
    drawing.rect(10.0, 20.0, 30.0, 40.0, "#ff0000");
    drawing.line((1.0, 2.0), (3.0, 4.0), "#00ff00", 1.5);
    let steps = vec![Step::Move(5.0, 6.0), Step::Across(7.0), Step::Along(8.0), Step::Close];
    drawing.path(steps, "#0000ff", 2.0, &[3.0, 1.0]);
    drawing.shade((0.0, 0.0), (1.0, 1.0), "#000000", 0.25);
    let small = Type { size: 10.0, bold: false, colour: "#000000" };
    drawing.text((50.0, 60.0), Anchor::End, small, "ii");
    let pdf = to_pdf(&drawing).unwrap();
    let content = content(&pdf);
    // A page's coordinates go up from its lower left corner.
    for wanted in
        ["1 0 0 rg", "10 40 30 40 re", "1 98 m\n3 96 l", "5 94 m\n7 94 l\n7 92 l\nh", "[3 1] 0 d"]
    {
        assert!(content.contains(wanted), "{wanted} in {content}");
    }
    // A text that ends at 50 begins before it.
    let matrix = content.lines().find(|line| line.ends_with("Tm")).unwrap();
    let words: Vec<f64> = matrix.split(' ').filter_map(|word| word.parse().ok()).collect();
    assert!(words[4] > 40.0 && words[4] < 49.0 && words[5] == 40.0, "{matrix}");
    let document = lopdf::Document::load_mem(&pdf).unwrap();
    let info = document.trailer.get(b"Info").and_then(lopdf::Object::as_reference).unwrap();
    let title = document.get_dictionary(info).unwrap().get(b"Title").unwrap();
    assert_eq!(title.as_str().unwrap(), b"Where <it> is");
}

#[rstest]
fn every_kind_that_lived_has_a_line_a_marker_and_a_name() {
    let svg = to_svg(&draw_counts(&run(DUSK, 1200), &Wanted::default()));
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
    let svg = to_svg(&draw_counts(&run(DUSK, ticks), &Wanted::default()));
    assert!(texts(&svg).iter().any(|t| t == last), "{last}: {:?}", texts(&svg));
}

#[rstest]
fn a_title_is_escaped() {
    let drawing = draw_counts(&run("pond \"a < b & 'c'\" { arena 9 x 9 }", 10), &Wanted::default());
    let svg = to_svg(&drawing);
    assert!(svg.contains("a &lt; b &amp; &apos;c&apos;"));
    assert!(to_pdf(&drawing).is_ok());
}

#[rstest]
fn ends_are_barred_by_kind_with_their_causes() {
    let text = "pond \"t\" { arena 9 x 9 }\nkind a { after 1 s { end self } }\nkind b { health 1; after 2 s { damage self by 1 } }\n\
        spawner sa { makes a at here; every 0.5 s }\nspawner sb { makes b at here; every 1 s }\nplace sa\nplace sb";
    let svg = to_svg(&draw_counts(&run(text, 600), &Wanted::default()));
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
    let drawing = draw_grid("signs", 8, &cells);
    assert_eq!(missing_signs([SIGNS]), ['漢'], "what no font of the program has");
    let text = pdf_extract::extract_text_from_mem(&to_pdf(&drawing).unwrap()).unwrap();
    for sign in SIGNS.chars().filter(|sign| !"漢│".contains(*sign)) {
        assert!(text.contains(sign), "{sign} in {text:?}");
    }
}

#[rstest]
fn the_text_of_a_drawing_is_text_in_the_pdf() {
    let drawing = draw_counts(&run(DUSK, 1200), &Wanted::default());
    let svg = to_svg(&drawing);
    let text = pdf_extract::extract_text_from_mem(&to_pdf(&drawing).unwrap()).unwrap();
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
    let alone = to_svg(&draw_counts(&run, &Wanted::default()));
    let wanted = Wanted { beside: Beside::before(&run).into_iter().collect(), ..Wanted::default() };
    let beside = to_svg(&draw_counts(&run, &wanted));
    let grey = |svg: &str| svg.lines().filter(|line| line.contains("#8f9b9b")).count();
    assert_eq!(grey(&alone), 0);
    assert!(grey(&beside) > 2, "a line of each kind that was there before");
    assert!(texts(&beside).iter().any(|t| t.contains("grey: the run before, 15 s")));
    // Both have one scale: the longer sets it.
    assert!(texts(&beside).iter().any(|t| t == "15") && !texts(&alone).iter().any(|t| t == "15"));
}

#[rstest]
fn several_runs_beneath_have_greys_of_their_own_and_are_named() {
    let run = run("pond \"t\" { arena 9 x 9 }\nkind fly { }\nplace fly at (1, 1)", 60);
    let beside = |words: &str| Beside { words: words.into(), record: run.record() };
    let wanted = Wanted { beside: vec![beside("one"), beside("other")], ..Wanted::default() };
    let svg = to_svg(&draw_counts(&run, &wanted));
    assert!(svg.contains("#8f9b9b") && svg.contains("#b4bdbd"));
    let told = "grey, from dark to light: one, 1 s; other, 1 s";
    assert!(texts(&svg).iter().any(|text| text.ends_with(told)), "{:?}", texts(&svg));
}
