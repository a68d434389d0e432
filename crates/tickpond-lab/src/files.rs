//! The tables a run can be written to: counts as CSV, events as JSON Lines. See `docs/formats.md`.

use std::io::{self, Write};

use serde::Serialize;
use tickpond_lang::program::Program;
use tickpond_sim::{Event, What, Who};

use crate::run::Run;

/// Writes one row a tick: the tick, the live count of each kind, each watch.
///
/// # Errors
/// Whatever the writer reports; rows before that are written.
pub fn write_series(run: &Run, to: impl Write) -> io::Result<()> {
    let record = run.record();
    let mut table = csv::Writer::from_writer(to);
    let kinds = record.kinds.iter().map(|s| s.name.as_str());
    let watches = record.watches.iter().map(|w| w.name.as_str());
    table.write_record(std::iter::once("tick").chain(kinds).chain(watches))?;
    for tick in 0..record.len {
        let mut row = vec![tick.to_string()];
        row.extend(record.kinds.iter().map(|s| s.live[tick].to_string()));
        row.extend(record.watches.iter().map(|w| match w.values[tick] {
            value if value.is_finite() => value.to_string(),
            _ => String::new(),
        }));
        table.write_record(&row)?;
    }
    table.flush()
}

/// One line of an event file.
#[derive(Serialize)]
struct Line<'a> {
    tick: u64,
    phase: &'static str,
    event: &'static str,
    entity: String,
    other: Option<String>,
    cause: Option<&'static str>,
    words: Option<&'a str>,
    value: Option<f64>,
    message: Option<&'a str>,
    line: Option<u32>,
    col: Option<u32>,
    version: usize,
}

/// Writes one JSON object a line for each event kept.
///
/// # Errors
/// Whatever the writer reports; lines before that are written.
pub fn write_events(run: &Run, mut to: impl Write) -> io::Result<()> {
    let versions = run.versions();
    for event in run.record().events() {
        let version = versions.partition_point(|(from, _)| *from <= event.tick).max(1) - 1;
        let program = &versions[version].1;
        serde_json::to_writer(&mut to, &line(event, program, version))?;
        to.write_all(b"\n")?;
    }
    to.flush()
}

fn line<'a>(event: &'a Event, program: &'a Program, version: usize) -> Line<'a> {
    let place = event.site.map(|site| program.place_of(site));
    Line {
        tick: event.tick,
        phase: event.phase.name(),
        event: event.what.name(),
        entity: name_of(program, event.who),
        other: event.other.map(|who| name_of(program, who)),
        cause: event.cause.map(|c| c.name()),
        words: event.words.as_deref(),
        // The value of an end is its life in ticks; in the file it is in seconds.
        value: match event.what {
            What::Ended => event.value.map(|ticks| ticks / program.rate),
            _ => event.value,
        },
        message: event.message.map(|m| program.messages[m.index()].name.as_str()),
        line: place.map(|p| p.line),
        col: place.map(|p| p.col),
        version,
    }
}

/// An entity's name as people read it: `midge#12`, or `pond`.
pub fn name_of(program: &Program, who: Who) -> String {
    match who.kind {
        tickpond_lang::program::POND => "pond".into(),
        kind => format!("{}#{}", program.kinds[kind.index()].name, who.number),
    }
}
