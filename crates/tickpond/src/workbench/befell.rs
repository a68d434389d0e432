//! What befell one entity: found once in the record, and from then on only looked for in what is new.

use tickpond_lab::Timeline;
use tickpond_sim::{Event, What};

use super::one::One;

/// The places of one entity's events in the record.
#[derive(Default)]
pub struct Befell {
    one: Option<One>,
    /// Of which edition of the run.
    edition: (u64, u64),
    /// How many events have been looked at.
    seen: usize,
    places: Vec<usize>,
}

impl Befell {
    /// The events of an entity up to the present tick, those in which it was touched by another among
    /// them. Costs the events that have been added since it was asked last.
    pub fn of<'a>(&mut self, run: &'a dyn Timeline, one: &One) -> Vec<&'a Event> {
        if run.tick() < run.record().kept_from() {
            return run.events().iter().filter(|event| is_about(run, event, one)).collect();
        }
        let (events, edition) = (run.record().events(), run.edition());
        if self.one.as_ref() != Some(one) || self.edition != edition {
            *self = Befell { one: Some(one.clone()), edition, ..Befell::default() };
        }
        let news = events.iter().enumerate().skip(self.seen);
        self.places.extend(news.filter(|(_, e)| is_about(run, e, one)).map(|(at, _)| at));
        self.seen = events.len();
        let own = self.places.iter().map(|at| &events[*at]);
        own.take_while(|event| event.tick <= run.tick()).collect()
    }
}

fn is_about(run: &dyn Timeline, event: &Event, one: &One) -> bool {
    // The number is looked at first: the name of a kind is that of the cast of then.
    let touched = event.other.filter(|_| event.what == What::Touched);
    [Some(event.who), touched]
        .into_iter()
        .flatten()
        .any(|who| who.number == one.number() && one.is(run.cast_at(event.tick), who))
}
