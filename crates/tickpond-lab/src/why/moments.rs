//! Handlers that wait for a time, a key, a place, or something that befalls one.

use tickpond_lang::program::{Event as Moment, Expr, InputId, POND, Program, ZoneShape};
use tickpond_sim::{Event, What};

use super::find::Found;
use super::{Asked, times};
use crate::input::Input;
use crate::timeline::Timeline;

impl Asked<'_> {
    /// Why what a handler waits for has not come.
    pub(super) fn moment(&mut self, program: &Program, found: &Found, lines: &mut Vec<String>) {
        let name = |state: tickpond_lang::program::InState| {
            let kind = &program.kinds[found.kind.index()];
            let (name, _) = kind.tracks[state.track].states[state.state];
            program.state_names[name.0 as usize].clone()
        };
        match &found.handler.event {
            Moment::After(age) => self.ages(program, found, age, "comes at an age of", lines),
            Moment::Every(age) => self.ages(program, found, age, "comes at every", lines),
            Moment::Press(input) | Moment::Release(input) | Moment::WhileHeld(input, _) => {
                self.keys(program, *input, lines);
            }
            Moment::Enter(zone) | Moment::Leave(zone) => {
                let zone = &program.zones[zone.index()];
                let columns = &self.run.state().kinds[found.kind.index()];
                let inside = |row: &usize| {
                    let (x, y) = (columns.x[*row], columns.y[*row]);
                    match zone.shape {
                        ZoneShape::Box { low, high } => {
                            x >= low.0 && x <= high.0 && y >= low.1 && y <= high.1
                        }
                        ZoneShape::Circle { at, radius } => (x - at.0).hypot(y - at.1) <= radius,
                    }
                };
                let count = (0..columns.len()).filter(inside).count();
                let (all, name) = (columns.len(), &zone.name);
                lines.push(format!("{count} of {all} are in `{name}` now"));
            }
            Moment::Hurt | Moment::Down => {
                self.befell(found, What::Hurt, "was hurt", |_| true, lines);
            }
            Moment::Becoming(state) | Moment::Quitting(state) => {
                let wanted = name(*state);
                let words = format!("became `{wanted}`");
                let is = move |event: &Event| event.words.as_deref() == Some(wanted.as_str());
                self.befell(found, What::Became, &words, is, lines);
            }
            Moment::End(causes) => {
                let causes = causes.clone();
                let words = match causes.is_empty() {
                    true => "ended".to_string(),
                    false => {
                        let names: Vec<&str> = causes.iter().map(|cause| cause.name()).collect();
                        format!("ended by {}", names.join(" or "))
                    }
                };
                let is = move |event: &Event| {
                    causes.is_empty() || event.cause.is_some_and(|cause| causes.contains(&cause))
                };
                self.befell(found, What::Ended, &words, is, lines);
            }
            Moment::Birth => self.befell(found, What::Born, "was born", |_| true, lines),
            _ => {}
        }
    }

    /// How old those are who wait for an age.
    fn ages(
        &self,
        program: &Program,
        found: &Found,
        age: &Expr,
        words: &str,
        lines: &mut Vec<String>,
    ) {
        let text = &program.text[age.span.range()];
        lines.push(format!("it {words} {text}"));
        let tick = self.run.tick();
        let columns = &self.run.state().kinds[found.kind.index()];
        if found.kind == POND {
            lines.push(format!("the pond is {} old", self.at(tick)));
            return;
        }
        let oldest = (0..columns.len()).max_by_key(|row| columns.age(*row, tick));
        let Some(row) = oldest else { return };
        let who = self.run.state().who_at(found.kind, row);
        let oldest = self.at(columns.age(row, tick));
        lines.push(format!("the oldest alive, {}, is {oldest} old", self.name(who)));
        let resting = (0..columns.len()).filter(|row| !columns.is_active(*row)).count();
        if resting > 0 {
            lines.push(format!(
                "{resting} of {} are inactive: their age stands still",
                columns.len()
            ));
        }
        let befell = self.befell_times(found, What::Ended, &|_| true);
        if befell > 0 {
            lines.push(format!("{befell} ended in this time, however old they were"));
        }
    }

    /// When a key was pressed.
    fn keys(&self, program: &Program, input: InputId, lines: &mut Vec<String>) {
        let input = &program.inputs[input.index()];
        let tick = self.run.tick();
        let presses = self.run.input().range(..=tick).filter(|(_, changes)| {
            let is =
                |change: &Input| matches!(change, Input::Key(name, true) if *name == input.name);
            changes.iter().any(is)
        });
        let ticks: Vec<u64> = presses.map(|(tick, _)| *tick).collect();
        let key = &input.key;
        lines.push(match ticks.last() {
            None => format!(
                "`{}` has not been pressed: its key is {key}, with the play's keys (p)",
                input.name
            ),
            Some(last) => format!(
                "`{}` (key {key}) was pressed {}",
                input.name,
                times(ticks.len(), &self.at(*last))
            ),
        });
    }

    /// How often something befell one of the kind, and when last.
    fn befell(
        &self,
        found: &Found,
        what: What,
        words: &str,
        is: impl Fn(&Event) -> bool,
        lines: &mut Vec<String>,
    ) {
        let kind = &self.run.cast().kinds[found.kind.index()].name;
        let mut count = 0;
        let mut last = None;
        for event in self.window().filter(|e| e.what == what && e.who.kind == found.kind && is(e)) {
            count += 1;
            last = Some(event);
        }
        lines.push(match last {
            None => format!("no {kind} {words} in this time"),
            Some(event) => {
                let last = format!("{} ({})", self.at(event.tick), self.name(event.who));
                format!("in this time a {kind} {words} {}", times(count, &last))
            }
        });
    }

    fn befell_times(&self, found: &Found, what: What, is: &dyn Fn(&Event) -> bool) -> usize {
        let of = |event: &&Event| event.what == what && event.who.kind == found.kind && is(event);
        self.window().filter(of).count()
    }

    /// What happened in the ticks that are looked at.
    pub(super) fn window(&self) -> impl Iterator<Item = &Event> {
        let events = self.run.events();
        // What was placed was born in the opening tick: where the run began within this time, it is part of it.
        let first = match self.from {
            0 => 0,
            from => events.partition_point(|event| event.tick <= from),
        };
        events[first..].iter()
    }
}
