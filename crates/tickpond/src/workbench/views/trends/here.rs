//! What was born and ended at a point of a chart, by kind, cause and line.

use tickpond_lab::Timeline;
use tickpond_lang::program::Cause;
use tickpond_sim::{Event, What};

/// What was born and ended in the stretch of time a column of a chart stands for.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Here {
    /// The first tick of the stretch and the one after its last; the same if nothing is asked.
    pub ticks: (u64, u64),
    pub lines: Vec<HereLine>,
}

/// So many of a kind that were born, or ended, by one line.
#[derive(Clone, Debug, PartialEq)]
pub struct HereLine {
    pub kind: String,
    pub count: usize,
    /// `None` for births.
    pub cause: Option<Cause>,
    /// The line that did it, if one did.
    pub line: Option<u32>,
}

/// What was born and ended around the present tick, in the column of a chart it lies in; the first column begins at a
/// tick, and each stands for `per` ticks. Costs the events of that stretch.
pub fn here(run: &dyn Timeline, begin: u64, per: Option<f64>) -> Here {
    let Some(per) = per.map(|per| per.max(1.0)) else { return Here::default() };
    let (tick, head) = (run.tick(), run.head());
    let column = (tick.saturating_sub(begin) as f64 / per).floor();
    let from = begin + (column * per).ceil() as u64;
    let until = (begin + ((column + 1.0) * per).ceil() as u64).min(head + 1).max(tick + 1);
    // What was dropped from the record has been made again up to the present tick.
    let is_kept = from >= run.record().kept_from();
    let events = if is_kept { run.record().events() } else { run.events() };
    let first = events.partition_point(|e| e.tick < from);
    let mut lines: Vec<HereLine> = Vec::new();
    for event in events[first..].iter().take_while(|e| e.tick < until) {
        let Some(line) = told(run, event) else { continue };
        let same =
            |l: &&mut HereLine| (&l.kind, l.cause, l.line) == (&line.kind, line.cause, line.line);
        match lines.iter_mut().find(same) {
            Some(known) => known.count += 1,
            None => lines.push(line),
        }
    }
    lines.sort_by_key(|line| (line.cause.is_some(), std::cmp::Reverse(line.count)));
    Here { ticks: (from.min(tick), until), lines }
}

fn told(run: &dyn Timeline, event: &Event) -> Option<HereLine> {
    let cause = match event.what {
        What::Born => None,
        What::Ended => event.cause,
        _ => return None,
    };
    let kind = run.cast_at(event.tick).kinds.get(event.who.kind.index())?.name.clone();
    let line = event.site.and_then(|site| run.line_of(event.tick, site));
    Some(HereLine { kind, count: 1, cause, line })
}
