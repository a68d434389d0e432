//! What befell one entity: found once in the record, and from then on only looked for in what is new.

use tickpond_lab::Run;
use tickpond_sim::{Event, What, Who};

/// The places of one entity's events in the record.
#[derive(Default)]
pub struct Befell {
    who: Option<Who>,
    /// Of which edition of the run.
    edition: (u64, u64),
    /// How many events have been looked at.
    seen: usize,
    places: Vec<usize>,
}

impl Befell {
    /// The events of an entity up to the present tick, those in which it was touched by another among
    /// them. Costs the events that have been added since it was asked last.
    pub fn of<'a>(&mut self, run: &'a Run, who: Who) -> Vec<&'a Event> {
        if run.tick() < run.record().kept_from() {
            return run.events().iter().filter(|event| is_about(event, who)).collect();
        }
        let (events, edition) = (run.record().events(), run.edition());
        if (self.who, self.edition) != (Some(who), edition) {
            *self = Befell { who: Some(who), edition, ..Befell::default() };
        }
        let news = events.iter().enumerate().skip(self.seen);
        self.places.extend(news.filter(|(_, event)| is_about(event, who)).map(|(at, _)| at));
        self.seen = events.len();
        let own = self.places.iter().map(|at| &events[*at]);
        own.take_while(|event| event.tick <= run.tick()).collect()
    }
}

fn is_about(event: &Event, who: Who) -> bool {
    event.who.id == who.id && event.who.kind == who.kind
        || event.other.is_some_and(|o| o.id == who.id) && event.what == What::Touched
}
