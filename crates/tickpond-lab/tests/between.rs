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
