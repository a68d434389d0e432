//! Births: many at once are the same as one after another, whatever else is born beside them.

use crate::common::{Play, pond};
use proptest::prelude::*;
use rstest::rstest;
use tickpond_sim::What;

/// Where all of a kind are, where they face, what their variable is and what their chance is drawn from.
fn of(play: &Play, kind: &str) -> Vec<(f64, f64, f64, f64, u64)> {
    let c = play.columns(kind);
    let row = |row: usize| {
        (c.x[row], c.y[row], c.heading[row], f64::from_bits(c.vars[0][row]), c.luck[row])
    };
    (0..c.len()).map(row).collect()
}

const KINDS: &str = "kind midge { vars { n = random(0 .. 9) }\n look \"*\" }\n\
                     kind drop { vars { n = random(0 .. 9) }; health 2 }\n\
                     zone nook = circle (500, 500) radius 1 u\n";

fn after_two_ticks(statements: &str) -> Play {
    let mut play = pond(&format!("{KINDS} after 1 ticks {{ {statements} }}"));
    play.ticks(2);
    play
}

#[rstest]
#[case::one_by_one("spawn midge anywhere; spawn midge anywhere; spawn midge anywhere")]
#[case::in_two_requests("spawn 2 midge anywhere; spawn midge anywhere")]
#[case::with_another_between("spawn 2 midge anywhere; spawn 4 drop anywhere; spawn midge anywhere")]
#[case::under_a_condition_that_holds("spawn 3 midge anywhere, not within 1 u of (900, 900)")]
#[case::with_a_label("spawn 3 midge anywhere, label \"m\"")]
#[case::in_a_loop("repeat 3 times { spawn midge anywhere }")]
fn many_at_once_are_born_as_they_would_be_one_by_one(#[case] statements: &str) {
    let at_once = after_two_ticks("spawn 3 midge anywhere");
    let born = of(&at_once, "midge");
    assert_eq!(born.len(), 3);
    assert!(born[0].0 != born[1].0 && born[1].3 != born[2].3, "{born:?}");
    assert_eq!(of(&after_two_ticks(statements), "midge"), born, "{statements}");
}

#[rstest]
fn each_is_told_with_its_number_and_its_place() {
    let play =
        after_two_ticks("spawn 2 midge at (1, 2); spawn 3 drop at (5, 6); spawn midge at (3, 4)");
    let born: Vec<_> = play
        .events
        .iter()
        .filter(|e| e.what == What::Born && e.tick > 0)
        .map(|e| (e.who.number, e.place.unwrap()))
        .collect();
    let at = |x: f64, y: f64| (x, y);
    assert_eq!(
        born,
        [
            (1, at(1.0, 2.0)),
            (2, at(1.0, 2.0)),
            (1, at(5.0, 6.0)),
            (2, at(5.0, 6.0)),
            (3, at(5.0, 6.0)),
            (3, at(3.0, 4.0)),
        ]
    );
    let serials = |kind: &str| play.columns(kind).serial.to_vec();
    assert!(serials("midge")[1] < serials("drop")[0] && serials("drop")[2] < serials("midge")[2]);
    let drops = play.columns("drop");
    assert!((0..3).all(|row| drops.health[row] == 2.0));
}

#[rstest]
fn a_request_that_does_not_fit_is_filled_as_far_as_it_goes() {
    let text = "pond \"Full\" { arena 100 x 100; limit 10 entities }\nkind midge { look \"*\" }\n\
                kind drop { look \"o\" }\n\
                after 1 ticks { spawn 7 midge anywhere; spawn 6 drop anywhere; spawn midge anywhere }";
    let mut play = crate::common::play(text, 1);
    play.ticks(2);
    assert_eq!((play.columns("midge").len(), play.columns("drop").len()), (7, 3));
    let stopped = play.state.stopped.clone().or_else(|| {
        // The guard is told in the tick it was reached in.
        let mut again = crate::common::play(text, 1);
        again.ticks(1);
        again.state.stopped.clone()
    });
    let stopped = stopped.expect("a guard was reached");
    assert_eq!((stopped.times, stopped.others.iter().map(|(_, n)| *n).sum::<u64>()), (3, 1));
    let refused = play.events.iter().filter(|e| e.what == What::Refused).count();
    assert_eq!(refused, 2, "one for each line");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// In whatever portions, and whatever is born between: those of a kind are the same.
    #[test]
    fn portions_do_not_matter(
        portions in prop::collection::vec((1usize..40, 0usize..5), 1..8),
    ) {
        let all: usize = portions.iter().map(|(midges, _)| midges).sum();
        let whole = after_two_ticks(&format!("spawn {all} midge anywhere"));
        let parts: String = portions
            .iter()
            .map(|(midges, drops)| format!("spawn {drops} drop anywhere; spawn {midges} midge anywhere\n"))
            .collect();
        prop_assert_eq!(of(&whole, "midge"), of(&after_two_ticks(&parts), "midge"));
    }
}
