//! Who is in the roster, and in which order.

use tickpond_lab::Timeline;

use crate::workbench::answer::Answer;
use crate::workbench::question::Question;
use crate::workbench::snapshot::Seen;
use crate::workbench::views::Asking;
use crate::workbench::wish::{Sort, Wish};

/// The roster's rows, as places among the entities.
fn order(run: &dyn Timeline, wish: &Wish, question: &Question, entities: &[Seen]) -> Vec<usize> {
    let all = question.is_open() && wish.filter.is_empty();
    let mut rows: Vec<usize> = (0..entities.len())
        .filter(|at| all || question.is_wanted(run, entities[*at].who))
        .collect();
    let number = |at: &usize| {
        let seen = &entities[*at];
        match wish.sort {
            Sort::Health => seen.health.unwrap_or(f64::INFINITY),
            Sort::Age => seen.age,
            Sort::Place => seen.at.0,
            Sort::Speed => seen.speed,
            _ => 0.0,
        }
    };
    match wish.sort {
        Sort::Name => {}
        Sort::Maker => {
            rows.sort_by_key(|at| entities[*at].maker.map(|m| (m.kind, m.number)));
        }
        // Stable: those alike stay in the order of their births.
        _ => rows.sort_by(|a, b| number(a).total_cmp(&number(b))),
    }
    if wish.reversed {
        rows.reverse();
    }
    rows
}

/// Who is alive and fits, in their order, by place among those alive.
#[derive(Default)]
pub struct Rows(pub Vec<usize>);

/// Answers for the roster.
pub fn answer(asking: &mut Asking<'_>, answer: &mut Answer) {
    asking.question.ask(asking.run, &asking.wish.filter);
    answer.give(Rows(order(asking.run, asking.wish, asking.question, asking.entities)));
    answer.trouble = asking.question.trouble.clone();
}
