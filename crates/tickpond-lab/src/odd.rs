//! What went nowhere in a run, by line: what people look for when nothing happens.

use std::collections::BTreeMap;
use std::io;

use tickpond_lang::program::{Program, SiteId};
use tickpond_sim::What;

use crate::sink::{Sink, Tick};

/// What is counted, in the order it is told.
pub const ODD: [What; 7] = [
    What::Unheard,
    What::Stale,
    What::NoPlace,
    What::Refused,
    What::Outvoted,
    What::Missed,
    What::Crowded,
];

/// How often each line asked for something that went nowhere.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Odd {
    /// By what it came to and the line: how often, and the words of the first.
    counts: BTreeMap<(usize, Option<SiteId>), (u64, String)>,
}

/// One line of it.
#[derive(Clone, Debug, PartialEq)]
pub struct OddLine {
    /// What it came to.
    pub what: What,
    /// The line; none for what has none.
    pub line: Option<u32>,
    /// How often.
    pub times: u64,
    /// What was said of the first.
    pub words: String,
}

impl Odd {
    /// All of it: by what it came to, then by line.
    pub fn lines(&self, program: &Program) -> Vec<OddLine> {
        let lines = self.counts.iter().map(|((what, site), (times, words))| OddLine {
            what: ODD[*what],
            line: site.map(|site| program.line_of(site)),
            times: *times,
            words: words.clone(),
        });
        let mut lines: Vec<OddLine> = lines.collect();
        let place = |odd: &OddLine| (ODD.iter().position(|what| *what == odd.what), odd.line);
        lines.sort_by_key(place);
        // Two statements may stand on one line.
        lines.dedup_by(|next, first| {
            let same = place(next) == place(first);
            if same {
                first.times += next.times;
            }
            same
        });
        lines
    }

    /// The same as a table, with a line before it; nothing if there is nothing.
    pub fn table(&self, program: &Program) -> String {
        let lines = self.lines(program);
        let rows = lines.iter().map(|odd| {
            let place = odd.line.map(|line| format!("line {line}")).unwrap_or_default();
            let words = if odd.words.is_empty() { "" } else { "  " };
            format!("{:<9} {:>7}  {place}{words}{}\n", odd.what.name(), odd.times, odd.words)
        });
        let rows: String = rows.collect();
        if rows.is_empty() { rows } else { format!("\nwent nowhere\n{rows}") }
    }
}

impl Sink for Odd {
    fn take(&mut self, tick: &Tick<'_>) -> io::Result<()> {
        for event in tick.events {
            let Some(what) = ODD.iter().position(|what| *what == event.what) else { continue };
            let (times, _) = self.counts.entry((what, event.site)).or_insert_with(|| {
                let message = event.message.map(|m| tick.program.messages[m.index()].name.clone());
                let words = event.words.as_deref().map(str::to_string);
                let cause = event.cause.map(|cause| cause.name().to_string());
                let words = [message, cause, words].into_iter().flatten();
                (0, words.collect::<Vec<String>>().join(", "))
            });
            *times += 1;
        }
        Ok(())
    }
}
