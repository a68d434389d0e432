//! A run as the timeline that views ask.

use std::collections::BTreeMap;
use std::sync::Arc;

use tickpond_lang::program::{KindId, MessageId, SiteId};
use tickpond_sim::{Event, Who};

use super::Run;
use crate::cast::Cast;
use crate::input::Input;
use crate::past::Past;
use crate::record::Record;
use crate::timeline::{Alive, Timeline};
use crate::values::values;

impl Timeline for Run {
    fn tick(&self) -> u64 {
        Run::tick(self)
    }

    fn head(&self) -> u64 {
        Run::head(self)
    }

    fn cast_at(&self, tick: u64) -> &Arc<Cast> {
        &self.segments[self.segment_at(tick)].cast
    }

    fn record(&self) -> &Record {
        Run::record(self)
    }

    fn events(&self) -> &[Event] {
        Run::events(self)
    }

    fn alive(&self) -> Vec<Alive> {
        let (state, tick) = (self.state(), Run::tick(self));
        let mut alive = Vec::with_capacity(state.live());
        for (at, columns) in state.kinds.iter().enumerate().skip(1) {
            alive.extend((0..columns.len()).map(|row| Alive {
                who: state.who_at(KindId(at as u32), row),
                born: columns.born[row],
                age: columns.age(row, tick),
            }));
        }
        alive
    }

    fn edition(&self) -> (u64, u64) {
        Run::edition(self)
    }

    fn line_of(&self, tick: u64, site: SiteId) -> Option<u32> {
        Run::line_of(self, tick, site)
    }

    fn message_at(&self, tick: u64, message: MessageId) -> &str {
        &self.program_at(tick).messages[message.index()].name
    }

    fn values_of(&self, who: Who) -> Vec<(String, String)> {
        let found = self.state().find(who.id);
        found.map_or_else(Vec::new, |(kind, row)| values(self, kind, row))
    }

    fn input(&self) -> &BTreeMap<u64, Vec<Input>> {
        Run::input(self)
    }

    fn pasts(&self) -> &[Past] {
        Run::pasts(self)
    }

    fn edits(&self) -> Vec<u64> {
        Run::edits(self)
    }

    fn as_run(&mut self) -> Option<&mut Run> {
        Some(self)
    }

    fn find(&self, kind: KindId, number: u32) -> Option<Who> {
        let columns = self.state().kinds.get(kind.index())?;
        // Numbers go up with the rows: they are in the order of birth.
        let row = columns.number.partition_point(|known| *known < number);
        (columns.number.get(row) == Some(&number)).then(|| self.state().who_at(kind, row))
    }
}
