//! Setting out as changes, over ponds by chance: they come to what the formatter writes, never overlap, and those of a stretch
//! leave all other lines.

use proptest::prelude::*;
use rstest::rstest;
use tickpond_arbitrary::{cases, found, ponds};
use tickpond_ide::document::Document;
use tickpond_ide::mends::Edit;
use tickpond_ide::setting::formatting;
use tickpond_lang::Span;
use tickpond_lang::format::format;

fn applied(text: &str, edits: &[Edit]) -> String {
    let apart = edits.windows(2).all(|two| two[0].span.end <= two[1].span.start);
    assert!(apart, "changes overlap or are out of order: {edits:?}");
    let mut changed = text.to_string();
    for edit in edits.iter().rev() {
        changed.replace_range(edit.span.range(), &edit.text);
    }
    changed
}

fn leaves_all_other_lines(text: &str, from: f64, length: usize) -> Result<(), TestCaseError> {
    let document = Document::new(text);
    let count = document.lines.count();
    let first = 1 + (f64::from(count - 1) * from) as u32;
    let last = (first + length as u32).min(count);
    let (start, end) = (document.lines.start_of(first), document.lines.start_of(last));
    let Ok(edits) = formatting(&document, Some(Span { start, end })) else { return Ok(()) };
    let changed = applied(text, &edits);
    prop_assert!(
        edits.iter().all(|e| start <= e.span.start && e.span.end <= end.max(start)
            || document.lines.line(e.span.start) == first),
        "{:?}",
        edits
    );
    let said = |text: &str| text.split_whitespace().collect::<String>();
    prop_assert_eq!(said(&changed), said(text));
    // Lines outside are there as they were.
    prop_assert!(changed.starts_with(&text[..start as usize]));
    let behind = document.lines.start_of((last + 1).min(count)).max(end) as usize;
    prop_assert!(changed.ends_with(&text[behind..]));
    // Done again and again it settles. Once is not always enough: columns are lined up with the lines around, and those
    // outside are not set out.
    let (mut now, behind) = (changed, text.len() - end as usize);
    let mut rounds = 0;
    while (start as usize) < now.len().saturating_sub(behind) {
        let stretch = Span { start, end: (now.len() - behind) as u32 };
        let edits = formatting(&Document::new(&now), Some(stretch)).unwrap();
        if edits.is_empty() {
            break;
        }
        now = applied(&now, &edits);
        rounds += 1;
        prop_assert!(rounds < 5, "it goes on and on");
    }
    prop_assert_eq!(said(&now), said(text));
    Ok(())
}

/// All of it, as the formatter sets it out.
fn comes_to_what_is_set_out(text: &str) -> Result<(), TestCaseError> {
    let Ok(set) = format(text) else { return Ok(()) };
    prop_assert_eq!(applied(text, &formatting(&Document::new(text), None).unwrap()), set);
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { max_shrink_iters: 400, ..ProptestConfig::with_cases(cases(48)) })]

    #[test]
    fn changes_come_to_what_the_formatter_writes(pond in ponds()) {
        comes_to_what_is_set_out(&pond.text())?;
    }

    #[test]
    fn those_of_a_stretch_leave_all_other_lines(pond in ponds(), from in 0.0..1.0f64, length in 0usize..12) {
        leaves_all_other_lines(&pond.text(), from, length)?;
    }
}

#[rstest]
fn what_showed_a_fault_is_set_out_a_line_and_all_of_it() {
    for (name, text) in found() {
        comes_to_what_is_set_out(&text).unwrap_or_else(|e| panic!("{name}: {e}"));
        for nth in 0..20 {
            let from = f64::from(nth) / 20.0;
            for length in [0, 1, 3] {
                let done = leaves_all_other_lines(&text, from, length);
                done.unwrap_or_else(|e| panic!("{name} from {from}, {length}: {e}"));
            }
        }
    }
}
