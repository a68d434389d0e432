//! What is listed is what the tick refused, counted out by hand.

use rstest::rstest;
use tickpond_lab::{Run, RunOptions};
use tickpond_sim::What;

use super::answer::Refused;
use crate::workbench::answers::{Known, answer};
use crate::workbench::snapshot::entities;
use crate::workbench::views::DrawerView;
use crate::workbench::wish::Wish;

/// In tick 30 the pond calls on three midges, of whom two listen; in tick 60 a frog asks for a lily where none fits.
const TEXT: &str = "pond \"t\" { arena 20 x 20 }
message warn
kind midge { on warn { say \"oh\" } }
kind moth { }
kind lily { body circle 3 u, solid fixed }
after 0.5 s { send warn to each midge or moth }
after 1 s { spawn lily at (10, 10), clear of solid }
place midge at (1, 1)
place midge at (2, 1)
place moth at (3, 1)
place lily at (10, 10)
";

/// What is refused in a tick, and in which ticks before and after something was.
type Told = (Vec<(What, String, Option<u32>)>, Option<u64>, Option<u64>);

fn at(run: &mut Run, tick: u64) -> Told {
    run.seek(tick);
    let wish = Wish { view: DrawerView::Refused, ..Wish::default() };
    let entities = entities(run);
    let answer = answer(run, &wish, &mut Known::default(), &entities, true);
    let refused = answer.own::<Refused>().unwrap();
    let rows = refused.rows.iter().map(|row| (row.what, row.words.clone(), row.line));
    (rows.collect(), refused.before, refused.after)
}

#[rstest]
fn each_refusal_of_the_tick_is_listed() {
    let program = tickpond_lang::compile(TEXT).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(120);
    let (first, second) = {
        let odd: Vec<u64> = run
            .record()
            .events()
            .iter()
            .filter(|event| tickpond_lab::odd::ODD.contains(&event.what))
            .map(|event| event.tick)
            .collect();
        assert_eq!(odd.len(), 2, "{odd:?}");
        (odd[0], odd[1])
    };
    let (rows, before, after) = at(&mut run, 5);
    assert_eq!((rows, before, after), (Vec::new(), None, Some(first)));
    let (rows, before, after) = at(&mut run, first);
    assert_eq!(rows.len(), 1);
    assert_eq!((rows[0].0, rows[0].2), (What::Unheard, Some(6)));
    assert!(rows[0].1.contains("moth#1"), "{rows:?}");
    assert_eq!((before, after), (None, Some(second)));
    let (rows, before, after) = at(&mut run, second);
    assert_eq!((rows[0].0, rows[0].2), (What::NoPlace, Some(7)));
    assert_eq!((before, after), (Some(first), None));
}

/// A message to kinds of whom nobody lives is the sender's own: it comes from nobody else.
#[rstest]
fn what_nobody_was_there_to_hear_is_told_of_the_sender() {
    let text = "pond \"t\" { arena 20 x 20 }
message warn
kind midge { on warn { say \"oh\" } }
spawner bed { makes midge at (1, 1); every 9 s }
place bed at (1, 1)
after 0.5 s { send warn to each midge }
";
    let program = tickpond_lang::compile(text).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.play_to(60);
    let (_, before, _) = at(&mut run, 60);
    let (rows, ..) = at(&mut run, before.unwrap());
    assert_eq!(rows[0].1, "pond warn \"nobody was there to hear it\"");
}
