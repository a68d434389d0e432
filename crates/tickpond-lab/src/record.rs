//! What is kept of every tick: counts by kind, births and ends, watches; and the events.

use std::collections::HashMap;

use tickpond_lang::program::{Cause, Kind, KindId, Program};
use tickpond_sim::{Event, State, What};

use crate::counts::Counts;
use crate::watching::NotFinite;

/// Most events kept in detail; the oldest go first. Any stretch can be made again from a keyframe.
const MOST_EVENTS: usize = 2_000_000;

/// One kind over time, a value for each tick from 0.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Series {
    /// The kind's name.
    pub name: String,
    /// How many live at the end of each tick.
    pub live: Counts,
    /// How many were born in each tick.
    pub born: Counts,
    /// How many ended in each tick.
    pub ended: Counts,
    /// The lives of those that ended, in the order of their ends.
    pub lives: Vec<Life>,
    /// The ticks of the ends by each cause, ascending, by the place of the cause in [`Cause::ALL`].
    ends: [Vec<u64>; Cause::ALL.len()],
    /// How many are in each state at the end of each tick: the state's name, with its track's before it
    /// if that is a behaviour's.
    pub states: Vec<(String, Counts)>,
}

impl Series {
    /// How many ended by a cause in the first `len` ticks. Costs the logarithm of their number.
    pub fn ended_by(&self, cause: Cause, len: usize) -> u64 {
        self.ends[cause as usize].partition_point(|tick| (*tick as usize) < len) as u64
    }

    /// How many ended by each cause by which any did: its name and the number.
    pub fn ends(&self) -> Vec<(&'static str, u64)> {
        let counted = Cause::ALL.into_iter().map(|c| (c.name(), self.ended_by(c, usize::MAX)));
        counted.filter(|(_, count)| *count > 0).collect()
    }

    /// How many ended by each cause by which any did within these ticks: its name and the number.
    pub fn ends_within(&self, ticks: &std::ops::Range<usize>) -> Vec<(&'static str, u64)> {
        let within = |cause| self.ended_by(cause, ticks.end) - self.ended_by(cause, ticks.start);
        let counted = Cause::ALL.into_iter().map(|cause| (cause.name(), within(cause)));
        counted.filter(|(_, count)| *count > 0).collect()
    }

    /// Whether one was ever born.
    pub fn ever_lived(&self) -> bool {
        self.born.peak(0..self.born.len()) > 0
    }
}

/// A life that has ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Life {
    /// The tick it ended in.
    pub end: u64,
    /// How long it was, in ticks.
    pub ticks: u64,
    /// What ended it.
    pub cause: Cause,
}

/// A watch over time.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct WatchSeries {
    /// Its name.
    pub name: String,
    /// Its value at the end of each tick; `NaN` where there was no such watch, or it was no finite number.
    pub values: Vec<f64>,
    /// The tick from which on there is such a watch.
    pub since: usize,
}

/// A recorded run.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Record {
    /// The kinds, in the order of the text; those an edit took away come last.
    pub kinds: Vec<Series>,
    /// The watches.
    pub watches: Vec<WatchSeries>,
    /// How many of all kinds live at the end of each tick.
    pub alive: Counts,
    /// How many waves began in each tick.
    pub waves: Counts,
    /// How many ticks are recorded, tick 0 among them.
    pub len: usize,
    /// By kind of the program that plays: the place of its series.
    places: Vec<Option<usize>>,
    events: Vec<Event>,
    /// Most events kept, if not [`MOST_EVENTS`].
    most_events: Option<usize>,
    /// About how many bytes the events take, and how many they may.
    event_bytes: usize,
    most_event_bytes: Option<usize>,
    /// Tick of the first event still kept.
    kept_from: u64,
    /// How often something was forgotten: what was worked out from the events before holds no more.
    forgotten: u64,
}

/// About how many bytes an event takes, with its words.
fn bytes_of(event: &Event) -> usize {
    size_of::<Event>() + event.words.as_ref().map_or(0, |words| words.len())
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
                live: Counts::zeros(len),
                born: Counts::zeros(len),
                ended: Counts::zeros(len),
                ..Series::default()
            });
            for name in state_names(program, kind) {
                if !series.states.iter().any(|(state, _)| *state == name) {
                    series.states.push((name, Counts::zeros(len)));
                }
            }
            self.kinds.push(series);
        }
        self.kinds.extend(known.into_iter().flatten());
        for watch in &program.watches {
            if !self.watches.iter().any(|w| w.name == watch.name) {
                let values = vec![f64::NAN; len];
                self.watches.push(WatchSeries { name: watch.name.clone(), values, since: len });
            }
        }
    }

    /// Adds the tick the state has just played. `program` is the state's.
    pub fn add(&mut self, program: &Program, state: &State, watches: &[f64], events: Vec<Event>) {
        self.add_counts(program, state, watches, &events);
        self.event_bytes += events.iter().map(bytes_of).sum::<usize>();
        self.events.extend(events);
        let is_full = self.events.len() > self.most_events.unwrap_or(MOST_EVENTS)
            || self.event_bytes > self.most_event_bytes.unwrap_or(usize::MAX);
        if is_full {
            self.forget_oldest_events();
        }
    }

    /// Forgets the events of the oldest ticks, a quarter of all that are kept; they can be made again.
    fn forget_oldest_events(&mut self) {
        let cut = self.events.len() / 4;
        let Some(last) = self.events.get(cut).map(|event| event.tick) else { return };
        self.kept_from = last + 1;
        self.events.retain(|e| e.tick > last);
        self.event_bytes = self.events.iter().map(bytes_of).sum();
        self.forgotten += 1;
    }

    /// Adds what is to be counted in the tick the state has just played, and keeps no event of it.
    pub fn add_counts(
        &mut self,
        program: &Program,
        state: &State,
        watches: &[f64],
        events: &[Event],
    ) {
        debug_assert_eq!(state.tick as usize, self.len);
        let mut news = vec![(0, 0); self.kinds.len()];
        for event in events {
            self.count(state, event, &mut news);
        }
        let mut live = vec![0; self.kinds.len()];
        for (columns, place) in state.kinds.iter().zip(&self.places) {
            if let Some(place) = place {
                live[*place] = columns.len() as u32;
            }
        }
        self.alive.push(live.iter().sum());
        self.waves.push(events.iter().filter(|event| event.what == What::Wave).count() as u32);
        for ((series, live), (born, ended)) in self.kinds.iter_mut().zip(live).zip(news) {
            series.live.push(live);
            series.born.push(born);
            series.ended.push(ended);
        }
        self.count_states(program, state);
        for series in &mut self.watches {
            let known = program.watches.iter().position(|w| w.name == series.name);
            series.values.push(known.map_or(f64::NAN, |at| watches[at]));
        }
        self.len += 1;
        // What no program of the present has states for is in none.
        for (_, counts) in self.kinds.iter_mut().flat_map(|series| &mut series.states) {
            if counts.len() < self.len {
                counts.push(0);
            }
        }
    }

    fn count_states(&mut self, program: &Program, state: &State) {
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
                    // Two tracks may not have a state of one name; should they, the first is counted.
                    if let Some((_, series)) = series
                        && series.len() == self.len
                    {
                        series.push(count);
                    }
                }
            }
        }
    }

    /// Counts an event, births and ends by the place of their kind.
    fn count(&mut self, state: &State, event: &Event, news: &mut [(u32, u32)]) {
        let Some(place) = self.places[event.who.kind.index()] else { return };
        let series = &mut self.kinds[place];
        match event.what {
            What::Born => news[place].0 += 1,
            What::Ended => {
                news[place].1 += 1;
                let cause = event.cause.unwrap_or(Cause::Script);
                series.ends[cause as usize].push(state.tick);
                // The value of an end is the length of the life, in ticks.
                let ticks = event.value.unwrap_or(0.0) as u64;
                series.lives.push(Life { end: state.tick, ticks, cause });
            }
            _ => {}
        }
    }

    /// Forgets everything after `tick`.
    pub fn truncate(&mut self, tick: u64) {
        self.len = (tick as usize + 1).min(self.len);
        self.forgotten += 1;
        self.alive.truncate(self.len);
        self.waves.truncate(self.len);
        for series in &mut self.kinds {
            series.live.truncate(self.len);
            series.born.truncate(self.len);
            series.ended.truncate(self.len);
            let len = self.len;
            series.states.iter_mut().for_each(|(_, counts)| counts.truncate(len));
            let keep = series.lives.partition_point(|life| life.end <= tick);
            series.lives.truncate(keep);
            for ticks in &mut series.ends {
                ticks.truncate(ticks.partition_point(|t| *t <= tick));
            }
        }
        for series in &mut self.watches {
            series.values.truncate(self.len);
        }
        let keep = self.events.partition_point(|e| e.tick <= tick);
        self.event_bytes -= self.events.drain(keep..).map(|event| bytes_of(&event)).sum::<usize>();
    }

    /// The same counts and watches, and no events.
    pub fn without_events(&self) -> Record {
        Record {
            kinds: self.kinds.clone(),
            watches: self.watches.clone(),
            alive: self.alive.clone(),
            waves: self.waves.clone(),
            len: self.len,
            places: self.places.clone(),
            events: Vec::new(),
            most_events: self.most_events,
            event_bytes: 0,
            most_event_bytes: self.most_event_bytes,
            kept_from: self.len as u64,
            forgotten: self.forgotten,
        }
    }

    /// About how many bytes it takes, without the events.
    pub fn bytes(&self) -> usize {
        let series = |series: &Series| {
            let counts = [&series.live, &series.born, &series.ended];
            let states = series.states.iter().map(|(_, counts)| counts);
            let counted: usize = counts.into_iter().chain(states).map(Counts::bytes).sum();
            let ends: usize = series.ends.iter().map(|ticks| ticks.len() * size_of::<u64>()).sum();
            counted + ends + series.lives.len() * size_of::<Life>()
        };
        let watches: usize = self.watches.iter().map(|w| w.values.len() * size_of::<f64>()).sum();
        let kinds: usize = self.kinds.iter().map(series).sum();
        kinds + watches + self.alive.bytes() + self.waves.bytes()
    }

    /// Sets how many events are kept in detail; the usual number is two million.
    pub fn keep_events(&mut self, most: usize) {
        self.most_events = Some(most.max(1));
    }

    /// Sets how many bytes the events may take; of too many the oldest are forgotten at once.
    pub fn keep_event_bytes(&mut self, most: usize) {
        self.most_event_bytes = Some(most);
        while self.event_bytes > most && self.events.len() > 4 {
            self.forget_oldest_events();
        }
    }

    /// About how many bytes the events take.
    pub fn event_bytes(&self) -> usize {
        self.event_bytes
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

    /// How many of all kinds live at the end of a tick.
    pub fn total(&self, tick: usize) -> u32 {
        self.alive.get(tick).unwrap_or(0)
    }

    /// The watches of a program that were no finite number in some tick up to this one.
    pub fn not_finite(&self, tick: u64, program: &Program) -> Vec<(String, NotFinite)> {
        let known = |w: &&WatchSeries| program.watches.iter().any(|p| p.name == w.name);
        let found = self.watches.iter().filter(known).filter_map(|watch| {
            let values = watch.values.iter().take(tick as usize + 1).enumerate();
            // Where there was no such watch yet there is no number either.
            let mut bad = values.skip(watch.since).filter(|(_, value)| !value.is_finite());
            let first = bad.next()?.0 as u64;
            Some((watch.name.clone(), NotFinite { tick: first, ticks: bad.count() as u64 + 1 }))
        });
        found.collect()
    }

    /// Shortest, median and longest life in ticks of a kind's ended, if any has.
    pub fn lifetimes(&self, program: &Program, kind: KindId) -> Option<[f64; 3]> {
        let name = &program.kinds[kind.index()].name;
        let series = self.kinds.iter().find(|s| s.name == *name)?;
        let mut lives: Vec<u64> = series.lives.iter().map(|life| life.ticks).collect();
        lives.sort_unstable();
        let (first, last) = (*lives.first()?, *lives.last()?);
        let middle = lives.len() / 2;
        let median = if lives.len() % 2 == 1 {
            lives[middle] as f64
        } else {
            (lives[middle - 1] + lives[middle]) as f64 / 2.0
        };
        Some([first as f64, median, last as f64])
    }
}
