use rstest::rstest;
use tickpond_lab::between::{Between, Difference};
use tickpond_lab::{Run, RunOptions};

const POND: &str = "pond \"t\" { arena 100 x 60 }
kind midge { after 1.5 s { end self } }
kind frog { }
spawner bed { makes midge; every 1 s { spawn midge at pos } }
place bed at (10, 10)
place frog at (50, 10)
";

fn run() -> Run {
    let program = tickpond_lang::compile(POND);
    let program = program.program.unwrap_or_else(|| panic!("{:?}", program.diagnostics));
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(300);
    run
}

/// A midge is born each second, the first at once, and ends 1.5 s later: at 1.2 s two live, at 2.7 s one.
#[rstest]
#[case::in_order(72, 162)]
#[case::the_other_way_around(162, 72)]
fn counts_and_births_and_ends_lie_between_two_moments(#[case] one: u64, #[case] other: u64) {
    let between = Between::of(run().record(), one, other);
    let wanted = [("midge", 2, 1, 1, 2), ("frog", 1, 1, 0, 0)];
    let wanted = wanted.map(|(name, before, after, born, ended)| Difference {
        name: name.into(),
        before,
        after,
        born,
        ended,
    });
    assert_eq!((between.from, between.to), (72, 162));
    assert_eq!((between.born, between.ended), (1, 2));
    assert_eq!(between.kinds, wanted);
}

#[rstest]
fn what_came_in_and_went_out_is_the_difference_of_the_counts() {
    let run = run();
    for (one, other) in [(0, 300), (17, 18), (60, 60), (150, 9999)] {
        for kind in Between::of(run.record(), one, other).kinds {
            let after = u64::from(kind.before) + kind.born - kind.ended;
            assert_eq!(u64::from(kind.after), after, "{} from {one} to {other}", kind.name);
        }
    }
}

#[rstest]
// A speck is born at 2 s and ends at 2.5 s.
#[case::before_and_behind_it(60, 240, Some((0, 0, 1, 1)))]
#[case::within_it(60, 130, Some((0, 1, 1, 0)))]
#[case::behind_it(180, 240, None)]
#[case::before_it(0, 60, None)]
fn who_came_and_went_in_between_is_told_and_who_was_not_there_is_not(
    #[case] one: u64,
    #[case] other: u64,
    #[case] wanted: Option<(u32, u32, u64, u64)>,
) {
    let text = POND.replace(
        "kind frog { }",
        "kind speck { after 0.5 s { end self } }\nkind frog { after 2 s { spawn speck at pos } }",
    );
    let program = tickpond_lang::compile(&text).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(300);
    let kinds = Between::of(run.record(), one, other).kinds;
    let speck = kinds.iter().find(|kind| kind.name == "speck");
    assert_eq!(speck.map(|kind| (kind.before, kind.after, kind.born, kind.ended)), wanted);
}
