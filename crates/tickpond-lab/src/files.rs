//! The tables a run is written to: counts as CSV, events as JSON Lines. See `docs/formats.md`.

use std::io::{self, Write};
use std::sync::Arc;

use serde::Serialize;
use tickpond_lang::program::Program;
use tickpond_sim::{Event, What};

use crate::naming::name_of;
use crate::sink::{Sink, Tick};

/// Writes one row a tick as it is played: the tick, the live count of each kind, each watch. What is no finite
/// number is `nan`.
pub struct SeriesFile<W: Write> {
    table: csv::Writer<W>,
    begun: bool,
}

impl<W: Write> SeriesFile<W> {
    /// Writes to this.
    pub fn new(to: W) -> SeriesFile<W> {
        SeriesFile { table: csv::Writer::from_writer(to), begun: false }
    }

    /// Ends the table.
    ///
    /// # Errors
    /// Whatever the writer reports.
    pub fn finish(mut self) -> io::Result<W> {
        self.table.flush()?;
        self.table.into_inner().map_err(|e| io::Error::other(e.to_string()))
    }
}

impl<W: Write> Sink for SeriesFile<W> {
    fn take(&mut self, tick: &Tick<'_>) -> io::Result<()> {
        let kinds = || tick.program.entity_kinds();
        if !self.begun {
            self.begun = true;
            let names = kinds().map(|(_, kind)| kind.name.as_str());
            let watches = tick.program.watches.iter().map(|w| w.name.as_str());
            self.table.write_record(std::iter::once("tick").chain(names).chain(watches))?;
        }
        let mut row = vec![tick.state.tick.to_string()];
        row.extend(kinds().map(|(id, _)| tick.state.kinds[id.index()].len().to_string()));
        row.extend(tick.watches.iter().map(|value| match value.is_finite() {
            true => value.to_string(),
            false => "nan".into(),
        }));
        Ok(self.table.write_record(&row)?)
    }
}

/// Writes one JSON object a line for each event, as it happens.
pub struct EventFile<W: Write> {
    to: W,
}

impl<W: Write> EventFile<W> {
    /// Writes to this.
    pub fn new(to: W) -> EventFile<W> {
        EventFile { to }
    }

    /// Ends the file.
    ///
    /// # Errors
    /// Whatever the writer reports.
    pub fn finish(mut self) -> io::Result<W> {
        self.to.flush()?;
        Ok(self.to)
    }
}

impl<W: Write> Sink for EventFile<W> {
    fn take(&mut self, tick: &Tick<'_>) -> io::Result<()> {
        for event in tick.events {
            serde_json::to_writer(&mut self.to, &line(event, tick.program, 0))?;
            self.to.write_all(b"\n")?;
        }
        Ok(())
    }
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

/// Writes one JSON object a line for each of these events; each names the version of the text its line belongs to.
/// Versions come with the first tick each played, in order.
///
/// # Errors
/// Whatever the writer reports; lines before that are written.
pub fn write_events<'a>(
    events: impl IntoIterator<Item = &'a Event>,
    versions: &[(u64, Arc<Program>)],
    mut to: impl Write,
) -> io::Result<()> {
    for event in events {
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
