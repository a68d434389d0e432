//! Every drawing of ponds by chance: an SVG that a strict reader reads, and a PDF that can be read back.

use proptest::prelude::*;
use rstest::rstest;
use tickpond_arbitrary::{cases, found_within_limits, ponds};
use tickpond_draw::of_run::DRAWINGS;
use tickpond_draw::{Wanted, prepare, to_pdf, to_svg};
use tickpond_lab::{Run, RunOptions};

fn is_read_back(text: &str, ticks: u64) -> Result<(), TestCaseError> {
    let Some(program) = tickpond_lang::compile(text).program else { return Ok(()) };
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(ticks);
    for kind in DRAWINGS {
        let prepared = prepare(&mut run, kind.name, None);
        let drawing = (kind.draw)(&run, &Wanted { prepared, ..Wanted::default() });
        let svg = to_svg(&drawing);
        let read = roxmltree::Document::parse(&svg);
        prop_assert!(read.is_ok(), "{}: {:?}", kind.name, read.err());
        let pdf = to_pdf(&drawing).unwrap();
        let read = lopdf::Document::load_mem(&pdf);
        prop_assert!(read.is_ok_and(|pdf| pdf.get_pages().len() == 1), "{}", kind.name);
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { max_shrink_iters: 100, ..ProptestConfig::with_cases(cases(8)) })]

    #[test]
    fn every_drawing_is_read_back_by_strict_readers(pond in ponds(), ticks in 0u64..90) {
        is_read_back(&pond.text(), ticks)?;
    }
}

#[rstest]
fn drawings_of_what_showed_a_fault_are_read_back() {
    for (name, text) in found_within_limits() {
        is_read_back(&text, 40).unwrap_or_else(|e| panic!("{name}: {e}"));
    }
}
