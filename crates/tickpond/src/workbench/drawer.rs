//! What is chosen in the drawer's lists: checks, findings, pauses, knobs.

use tickpond_lang::Severity;

use super::app::{App, Effect};
use super::script::Remark;
use super::sim::Command;

/// A row of the checks.
#[derive(Clone, Debug, PartialEq)]
pub enum CheckRow {
    /// The guard that stopped the run.
    Guard,
    /// An expectation, by its place.
    Expect(usize),
    /// A remark of the checker, by its place.
    Remark(usize),
    /// A condition to pause at, by its place.
    Stop(usize),
}

impl App {
    /// The rows of the checks, in their order.
    pub fn check_list(&self) -> Vec<CheckRow> {
        let expects = (0..self.snapshot.checks.len()).map(CheckRow::Expect);
        let said = self.script.remarks.iter().enumerate();
        let said = said.filter(|(_, r)| r.severity != Severity::Hint || r.mend.is_some());
        let stops = (0..self.snapshot.stops.len()).map(CheckRow::Stop);
        let guard = self.snapshot.stopped.iter().map(|_| CheckRow::Guard);
        guard.chain(expects).chain(said.map(|(at, _)| CheckRow::Remark(at))).chain(stops).collect()
    }

    pub(super) fn check_rows(&self) -> usize {
        self.check_list().len()
    }

    fn chosen_check(&self) -> Option<CheckRow> {
        self.check_list().get(self.check_at).cloned()
    }

    pub(super) fn chosen_remark(&self) -> Option<&Remark> {
        match self.chosen_check()? {
            CheckRow::Remark(at) => self.script.remarks.get(at),
            _ => None,
        }
    }

    pub(super) fn chosen_stop(&self) -> Option<usize> {
        match self.chosen_check()? {
            CheckRow::Stop(at) => Some(at),
            _ => None,
        }
    }

    /// From an expectation to its line and the tick it failed in, from a finding to its line; a pause is
    /// switched on or off.
    pub(super) fn follow_check(&mut self) -> Vec<Effect> {
        match self.chosen_check() {
            Some(CheckRow::Guard) => {
                let stopped = self.snapshot.stopped.as_ref();
                let line = stopped.and_then(|stopped| stopped.lines.first().copied());
                self.go_to_line(line, stopped.map(|stopped| stopped.tick))
            }
            Some(CheckRow::Expect(at)) => {
                let check = &self.snapshot.checks[at];
                let (line, failed) = (check.line, check.failed);
                self.go_to_line(line, failed)
            }
            Some(CheckRow::Remark(at)) => {
                let remark = &self.script.remarks[at];
                let (line, column) = (remark.line, remark.columns.0);
                self.leave();
                self.look_at(line, column);
                self.message = Some((format!("line {}: F2 goes there", line + 1), false));
                Vec::new()
            }
            Some(CheckRow::Stop(at)) => {
                let typed = self.snapshot.stops[at].typed.clone();
                vec![Effect::Tell(Command::PauseWhen(typed))]
            }
            None => Vec::new(),
        }
    }

    // Knobs.

    /// Turns the chosen knob so many steps: the number in the text changes.
    pub(super) fn turn_knob(&mut self, steps: f64) {
        let Some(tunable) = self.tunables.get(self.knob_at) else {
            self.message = Some(("this pond has no numbers to turn".into(), false));
            return;
        };
        let new = tunable.stepped(steps);
        self.put_knob(&new, false);
    }

    /// Gives the chosen knob a typed value, in the unit it has in the text.
    pub(super) fn set_knob(&mut self, typed: &str) {
        let Some(tunable) = self.tunables.get(self.knob_at) else { return };
        let number = typed.strip_suffix(tunable.unit.as_str()).unwrap_or(typed).trim();
        let Ok(value) = number.replace('_', "").parse::<f64>() else {
            let words = format!("`{typed}` is no number in {}", unit_name(&tunable.unit));
            self.message = Some((words, true));
            return;
        };
        if let Some((low, high)) = tunable.range.filter(|(l, h)| !(*l..=*h).contains(&value)) {
            let words = format!("{} goes from {low} to {high} {}", tunable.name, tunable.unit);
            self.message = Some((words, true));
            return;
        }
        let new = tunable.clamped(value);
        self.put_knob(&new, true);
    }

    fn put_knob(&mut self, new: &str, typed: bool) {
        // What cannot be compiled has no numbers that could be told apart.
        if self.script.is_broken() {
            let words = "put the errors in the text right first: numbers are turned there";
            self.message = Some((words.into(), true));
            return;
        }
        let Some(tunable) = self.tunables.get(self.knob_at).cloned() else { return };
        let old = self.script.buffer.text();
        let gap = if tunable.unit.is_empty() { "" } else { " " };
        let unit = format!("{gap}{}", tunable.unit);
        let name = &tunable.name;
        if old.get(tunable.span.range()) == Some(new) {
            let at_its_end = tunable.range.is_some_and(|(l, h)| [l, h].contains(&tunable.value));
            let words = match typed {
                false if at_its_end => format!("{name} is at its end: {new}{unit}"),
                _ => format!("{name} is {new}{unit} already"),
            };
            self.message = Some((words, false));
            return;
        }
        self.script.buffer.put(tunable.span.range(), new);
        let words =
            format!("{name} = {new}{unit}; was {}{unit}, Ctrl+Z takes it back", tunable.value);
        self.say_first(&words);
    }
}

fn unit_name(unit: &str) -> &str {
    if unit.is_empty() { "no unit" } else { unit }
}
