//! What is kept of every tick: counts by kind, births and ends, watches; and the events.

use std::collections::HashMap;

use tickpond_lang::program::{Cause, Kind, KindId, Program};
use tickpond_sim::{Event, State, What};

/// Most events kept in detail; the oldest go first. Any stretch can be made again from a keyframe.
const MOST_EVENTS: usize = 2_000_000;

/// One kind over time, a value for each tick from 0.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Series {
    /// The kind's name.
    pub name: String,
    /// How many live at the end of each tick.
    pub live: Vec<u32>,
    /// How many were born in each tick.
    pub born: Vec<u32>,
    /// How many ended in each tick.
    pub ended: Vec<u32>,
    /// Tick of the end and length of life in ticks, of each that ended.
    pub lives: Vec<(u64, u64)>,
    /// Tick and cause of each end.
    pub causes: Vec<(u64, Cause)>,
    /// How many are in each state at the end of each tick: the state's name, with its track's before it
    /// if that is a behaviour's.
    pub states: Vec<(String, Vec<u32>)>,
}

/// A watch over time.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct WatchSeries {
    /// Its name.
    pub name: String,
    /// Its value at the end of each tick; `NaN` where there was no such watch.
    pub values: Vec<f64>,
}

/// A recorded run.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Record {
    /// The kinds, in the order of the text; those an edit took away come last.
    pub kinds: Vec<Series>,
    /// The watches.
    pub watches: Vec<WatchSeries>,
    /// How many ticks are recorded, tick 0 among them.
    pub len: usize,
    /// By kind of the program that plays: the place of its series.
    places: Vec<Option<usize>>,
    events: Vec<Event>,
    /// Tick of the first event still kept.
    kept_from: u64,
    /// How often something was forgotten: what was worked out from the events before holds no more.
    forgotten: u64,
}

/// The names of a kind's states, track by track; those of behaviours with the track's before them.
pub fn state_names(program: &Program, kind: &Kind) -> Vec<String> {
    let tracks = kind.tracks.iter();
    let names = tracks.flat_map(|track| {
        let own = &program.track_names[track.name.0 as usize];
        track.states.iter().map(move |(state, _)| {
            let name = &program.state_names[state.0 as usize];
            if own.is_empty() { name.clone() } else { format!("{own}.{name}") }
        })
    });
    names.collect()
}

impl Record {
    /// Makes room for a program's kinds and watches; what is known already goes on.
    pub fn adopt(&mut self, program: &Program) {
        let len = self.len;
        let mut known: Vec<Option<Series>> =
            std::mem::take(&mut self.kinds).into_iter().map(Some).collect();
        let by_name: HashMap<String, usize> =
            known.iter().flatten().enumerate().map(|(at, s)| (s.name.clone(), at)).collect();
        self.places = vec![None; program.kinds.len()];
        for (id, kind) in program.entity_kinds() {
            self.places[id.index()] = Some(self.kinds.len());
            let series = by_name.get(&kind.name).and_then(|at| known[*at].take());
            let mut series = series.unwrap_or_else(|| Series {
                name: kind.name.clone(),
                live: vec![0; len],
                born: vec![0; len],
                ended: vec![0; len],
                ..Series::default()
            });
            for name in state_names(program, kind) {
                if !series.states.iter().any(|(state, _)| *state == name) {
                    series.states.push((name, vec![0; len]));
                }
            }
            self.kinds.push(series);
        }
        self.kinds.extend(known.into_iter().flatten());
        for watch in &program.watches {
            if !self.watches.iter().any(|w| w.name == watch.name) {
                let values = vec![f64::NAN; len];
                self.watches.push(WatchSeries { name: watch.name.clone(), values });
            }
        }
    }

    /// Adds the tick the state has just played. `program` is the state's.
    pub fn add(&mut self, program: &Program, state: &State, watches: &[f64], events: Vec<Event>) {
        debug_assert_eq!(state.tick as usize, self.len);
        for series in &mut self.kinds {
            series.live.push(0);
            series.born.push(0);
            series.ended.push(0);
            series.states.iter_mut().for_each(|(_, counts)| counts.push(0));
        }
        let at = self.len;
        for (columns, place) in state.kinds.iter().zip(&self.places) {
            if let Some(place) = place {
                self.kinds[*place].live[at] = columns.len() as u32;
            }
        }
        self.count_states(program, state);
        for event in &events {
            self.count(state, event);
        }
        for series in &mut self.watches {
            let known = program.watches.iter().position(|w| w.name == series.name);
            series.values.push(known.map_or(f64::NAN, |at| watches[at]));
        }
        self.len += 1;
        self.events.extend(events);
        if self.events.len() > MOST_EVENTS {
            let cut = self.events.len() / 4;
            self.kept_from = self.events[cut].tick + 1;
            let from = self.kept_from;
            self.events.retain(|e| e.tick >= from);
            self.forgotten += 1;
        }
    }

    fn count_states(&mut self, program: &Program, state: &State) {
        let at = self.len;
        for ((columns, kind), place) in state.kinds.iter().zip(&program.kinds).zip(&self.places) {
            let Some(place) = place else { continue };
            if kind.tracks.is_empty() {
                continue;
            }
            let names = state_names(program, kind);
            let mut names = names.iter();
            for (values, track) in columns.tracks.iter().zip(&kind.tracks) {
                let mut counts = vec![0u32; track.states.len()];
                values.now.iter().for_each(|state| counts[*state as usize] += 1);
                for (name, count) in names.by_ref().zip(counts) {
                    let series = self.kinds[*place].states.iter_mut().find(|(n, _)| n == name);
                    if let Some((_, series)) = series {
                        series[at] = count;
                    }
                }
            }
        }
    }

    fn count(&mut self, state: &State, event: &Event) {
        let at = self.len;
        let Some(place) = self.places[event.who.kind.index()] else { return };
        let series = &mut self.kinds[place];
        match event.what {
            What::Born => series.born[at] += 1,
            What::Ended => {
                series.ended[at] += 1;
                if let Some(cause) = event.cause {
                    series.causes.push((state.tick, cause));
                }
                // The value of an end is the length of the life, in ticks.
                let life = event.value.unwrap_or(0.0) as u64;
                series.lives.push((state.tick, life));
            }
            _ => {}
        }
    }

    /// Forgets everything after `tick`.
    pub fn truncate(&mut self, tick: u64) {
        self.len = (tick as usize + 1).min(self.len);
        self.forgotten += 1;
        for series in &mut self.kinds {
            series.live.truncate(self.len);
            series.born.truncate(self.len);
            series.ended.truncate(self.len);
            let len = self.len;
            series.states.iter_mut().for_each(|(_, counts)| counts.truncate(len));
            series.lives.retain(|(t, _)| *t <= tick);
            series.causes.retain(|(t, _)| *t <= tick);
        }
        for series in &mut self.watches {
            series.values.truncate(self.len);
        }
        let keep = self.events.partition_point(|e| e.tick <= tick);
        self.events.truncate(keep);
    }

    /// The same counts and watches, and no events.
    pub fn without_events(&self) -> Record {
        Record {
            kinds: self.kinds.clone(),
            watches: self.watches.clone(),
            len: self.len,
            places: self.places.clone(),
            events: Vec::new(),
            kept_from: self.len as u64,
            forgotten: self.forgotten,
        }
    }

    /// The events kept in detail, in order.
    pub fn events(&self) -> &[Event] {
        &self.events
    }

    /// The events up to a tick.
    pub fn events_until(&self, tick: u64) -> &[Event] {
        &self.events[..self.events.partition_point(|e| e.tick <= tick)]
    }

    /// Counts how often events were forgotten: as long as it stays, events are only added.
    pub fn forgotten(&self) -> u64 {
        self.forgotten
    }

    /// The first tick whose events are kept.
    pub fn kept_from(&self) -> u64 {
        self.kept_from
    }

    /// How many of all kinds live at the end of each tick.
    pub fn totals(&self) -> Vec<u32> {
        (0..self.len).map(|tick| self.kinds.iter().map(|s| s.live[tick]).sum()).collect()
    }

    /// Shortest, median and longest life in seconds of a kind's ended, if any has.
    pub fn lifetimes(&self, program: &Program, kind: KindId) -> Option<[f64; 3]> {
        let name = &program.kinds[kind.index()].name;
        let series = self.kinds.iter().find(|s| s.name == *name)?;
        let mut lives: Vec<u64> = series.lives.iter().map(|(_, life)| *life).collect();
        lives.sort_unstable();
        let (first, last) = (*lives.first()?, *lives.last()?);
        let middle = lives.len() / 2;
        let median = if lives.len() % 2 == 1 {
            lives[middle] as f64
        } else {
            (lives[middle - 1] + lives[middle]) as f64 / 2.0
        };
        Some([first as f64, median, last as f64].map(|ticks| ticks / program.rate))
    }
}
