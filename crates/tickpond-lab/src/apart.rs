//! One tick taken apart: phases in their order, the handlers that ran in them, and what came of it.

use tickpond_sim::{Event, Phase, What};

use crate::naming::name_of;
use crate::run::Run;
use crate::telling::event_words;

/// A phase of the tick in which something ran or happened.
#[derive(Clone, Debug, PartialEq)]
pub struct PhaseApart {
    /// Which.
    pub phase: Phase,
    /// The handlers that ran, in their order.
    pub ran: Vec<Ran>,
    /// What came of it, sort by sort; of many alike the first.
    pub came: Vec<Came>,
    /// How many events there were in it.
    pub events: usize,
}

/// A handler that ran.
#[derive(Clone, Debug, PartialEq)]
pub struct Ran {
    /// Its kind and its head.
    pub head: String,
    /// For whom: the first of them by name.
    pub who: String,
    /// What it reads of others.
    pub reads: String,
    /// What was asked for: `2 births, 1 end`; empty for nothing.
    pub asks: String,
    /// Its line in the newest text.
    pub line: Option<u32>,
}

/// Something that came of it.
#[derive(Clone, Debug, PartialEq)]
pub struct Came {
    /// What.
    pub what: What,
    /// To whom and how, in words.
    pub words: String,
    /// The line that asked for it.
    pub line: Option<u32>,
    /// The event.
    pub event: Event,
    /// How many more of this sort there were, if this is the last that is listed.
    pub more: usize,
}

/// Most events of one sort in one phase that are listed.
const MOST_ALIKE: usize = 6;

const PHASES: [Phase; 10] = [
    Phase::Input,
    Phase::Clocks,
    Phase::Births,
    Phase::Think,
    Phase::Move,
    Phase::Contact,
    Phase::Mail,
    Phase::Settle,
    Phase::Ends,
    Phase::Record,
];

impl PhaseApart {
    /// How many handlers and events, in words.
    pub fn words(&self) -> String {
        format!("{}, {}", counted(self.ran.len(), "handler"), counted(self.events, "event"))
    }
}

fn counted(count: usize, one: &str) -> String {
    format!("{count} {one}{}", if count == 1 { "" } else { "s" })
}

/// The present tick taken apart. It is played once more from the one before; the run is where it was afterwards.
pub fn apart(run: &mut Run) -> Vec<PhaseApart> {
    let tick = run.tick();
    let firings = run.anatomy();
    let run = &*run;
    let program = run.program();
    let compiled = run.compiled();
    let events = run.events();
    let events = &events[events.partition_point(|e| e.tick < tick)..];
    let mut phases = Vec::new();
    for phase in PHASES {
        let came: Vec<&Event> = events.iter().filter(|e| e.phase == phase).collect();
        let mut ran = Vec::new();
        for firing in firings.iter().filter(|firing| firing.phase == phase) {
            let kind = &program.kinds[firing.kind.index()];
            let code = &compiled.kinds[firing.kind.index()].handlers[firing.handler];
            let head = kind.handlers.iter().find(|h| h.site == firing.site);
            let head = head.map_or("", |h| h.head.as_str());
            let names: Vec<String> = firing.who.iter().map(|w| name_of(program, *w)).collect();
            let more = firing.count - names.len();
            let more = if more > 0 { format!(" and {more} more") } else { String::new() };
            let asked = firing.asked.all().into_iter().filter(|(_, count)| *count > 0);
            let asks: Vec<String> = asked.map(|(what, count)| counted(count, what)).collect();
            ran.push(Ran {
                head: format!("{} {head}", kind.name),
                who: format!("{}{more}", names.join(", ")),
                reads: code.reads(compiled).join(", "),
                asks: asks.join(", "),
                line: run.line_of(tick, firing.site),
            });
        }
        if ran.is_empty() && came.is_empty() {
            continue;
        }
        let events = came.len();
        phases.push(PhaseApart { phase, ran, came: outcomes(run, &came), events });
    }
    phases
}

fn outcomes(run: &Run, came: &[&Event]) -> Vec<Came> {
    let mut sorts: Vec<What> = Vec::new();
    for event in came {
        if !sorts.contains(&event.what) {
            sorts.push(event.what);
        }
    }
    let mut told = Vec::new();
    for what in sorts {
        let alike: Vec<&&Event> = came.iter().filter(|event| event.what == what).collect();
        let shown = alike.len().min(MOST_ALIKE);
        for (at, event) in alike.iter().take(shown).enumerate() {
            told.push(Came {
                what,
                words: event_words(run, event),
                line: event.site.and_then(|site| run.line_of(event.tick, site)),
                event: (***event).clone(),
                more: if at + 1 == shown { alike.len() - shown } else { 0 },
            });
        }
    }
    told
}
