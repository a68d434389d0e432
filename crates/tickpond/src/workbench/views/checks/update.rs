//! What is chosen among the checks, and where it leads.

use tickpond_lang::Severity;

use crate::workbench::app::{App, Effect};
use crate::workbench::command::Command;
use crate::workbench::script::Remark;

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
        self.check_list().get(self.drawer.check_at).cloned()
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
                self.said.message = Some((format!("line {}: F2 goes there", line + 1), false));
                Vec::new()
            }
            Some(CheckRow::Stop(at)) => {
                let typed = self.snapshot.stops[at].typed.clone();
                vec![Effect::Tell(Command::PauseWhen(typed))]
            }
            None => Vec::new(),
        }
    }

    pub(super) fn apply_mend(&mut self) {
        let Some(remark) = self.chosen_remark().cloned() else {
            self.said.message = Some(("choose a finding first".into(), false));
            return;
        };
        match remark.mend {
            Some(mend) => {
                self.script.buffer.put(mend.span.range(), &mend.text);
                self.say_first(&format!("mended: {}", remark.words));
            }
            None => {
                let words = remark.help.unwrap_or_else(|| "this one takes a decision".into());
                self.said.message = Some((format!("no certain mend: {words}"), false));
            }
        }
    }

    pub(super) fn remove_stop(&mut self) -> Vec<Effect> {
        match self.chosen_stop() {
            Some(at) => vec![Effect::Tell(Command::ForgetStop(at))],
            None => {
                self.said.message = Some(("choose a pause first".into(), false));
                Vec::new()
            }
        }
    }
}
