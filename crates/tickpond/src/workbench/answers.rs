//! Answers to what the drawer asks: only the view that is shown costs anything.

use tickpond_lab::Timeline;
use tickpond_lab::between::Between;
use tickpond_lab::past::changes;

use super::answer::Answer;
use super::question::Question;
use super::snapshot::Seen;
use super::views::Asking;
use super::wish::Wish;

/// What was worked out before and may still hold.
#[derive(Default)]
pub struct Known {
    question: Question,
    changes: Option<(Compared, Vec<String>)>,
}

/// What was compared: the number of the run before, over how many ticks, with which edition of this run.
#[derive(PartialEq)]
struct Compared {
    past: u64,
    ticks: usize,
    edition: (u64, u64),
}

impl Known {
    /// What differs from the run before. Worked out anew only when more ticks can be compared, or others.
    fn changes(&mut self, run: &dyn Timeline) -> Vec<String> {
        let Some(past) = run.past() else { return Vec::new() };
        let ticks = past.record.len.min(run.record().len);
        let compared = Compared { past: past.number, ticks, edition: run.edition() };
        if let Some((known, words)) = &self.changes
            && *known == compared
        {
            return words.clone();
        }
        let changes = changes(&past.record, run.record());
        let words: Vec<String> = changes.iter().map(|c| c.words()).collect();
        self.changes = Some((compared, words.clone()));
        words
    }
}

/// The answer to a wish. `known` is what was worked out before; what would disturb a run that plays is only worked out
/// while it stands.
pub fn answer(
    run: &mut dyn Timeline,
    wish: &Wish,
    known: &mut Known,
    entities: &[Seen],
    stands: bool,
) -> Answer {
    let mut answer = Answer::to(wish.clone(), known.changes(run));
    answer.between = wish.mark.map(|mark| Between::of(run.record(), mark, run.tick()));
    let mut asking = Asking { run, wish, question: &mut known.question, entities, stands };
    (wish.view.entry().answer)(&mut asking, &mut answer);
    answer
}
