//! Conditions at which the play pauses, typed in the pond's own language.

use std::sync::Arc;

use tickpond_lab::{Probe, Run};

use super::snapshot::StopAt;

/// The list of them.
#[derive(Default)]
pub struct Stops {
    list: Vec<Stop>,
}

struct Stop {
    told: StopAt,
    /// The text it was compiled for.
    version: Arc<str>,
    probe: Option<Probe>,
    /// Whether it held after the last tick: only becoming true pauses.
    held: bool,
}

impl Stop {
    fn ready(&mut self, run: &Run) {
        let program = run.program();
        if Arc::ptr_eq(&self.version, &program.text) && self.probe.is_some() {
            return;
        }
        self.version = program.text.clone();
        let probe = Probe::of_pond(program, &self.told.typed);
        self.told.trouble = probe.as_ref().err().cloned();
        self.probe = probe.ok();
        // What holds already has become true before.
        self.held = self.probe.as_mut().is_some_and(|p| p.holds(run.state()));
    }
}

impl Stops {
    /// What the screen shows.
    pub fn list(&self) -> Vec<StopAt> {
        self.list.iter().map(|stop| stop.told.clone()).collect()
    }

    /// Adds a condition, or switches one that is there on or off.
    pub fn toggle(&mut self, run: &Run, typed: &str) {
        let typed = typed.trim();
        if let Some(stop) = self.list.iter_mut().find(|s| s.told.typed == typed) {
            stop.told.on = !stop.told.on;
            stop.probe = None;
            stop.ready(run);
            return;
        }
        let told = StopAt { typed: typed.into(), on: true, ..StopAt::default() };
        let mut stop = Stop { told, version: "".into(), probe: None, held: false };
        stop.ready(run);
        self.list.push(stop);
    }

    /// Takes one away.
    pub fn forget(&mut self, at: usize) {
        if at < self.list.len() {
            self.list.remove(at);
        }
    }

    /// Looks at all after a tick; says which has become true.
    pub fn met(&mut self, run: &Run) -> Option<String> {
        let mut words = None;
        for stop in self.list.iter_mut().filter(|stop| stop.told.on) {
            stop.ready(run);
            let Some(probe) = &mut stop.probe else { continue };
            let holds = probe.holds(run.state());
            if holds && !stop.held {
                stop.told.met = Some(run.tick());
                words.get_or_insert(format!("paused: {} became true", stop.told.typed));
            }
            stop.held = holds;
        }
        words
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use tickpond_lab::RunOptions;

    fn run() -> Run {
        let text = "pond \"t\" { arena 10 x 10 }\nkind midge { after 0.3 s { end self } }\n\
            every 0.5 s { spawn midge anywhere }";
        Run::new(tickpond_lang::compile(text).program.unwrap(), RunOptions::default()).unwrap()
    }

    #[rstest]
    fn becoming_true_is_met_once_and_again_after_it_was_false() {
        let (mut run, mut stops) = (run(), Stops::default());
        stops.toggle(&run, "count(midge) == 1");
        let mut met = Vec::new();
        for _ in 0..200 {
            run.step();
            if stops.met(&run).is_some() {
                met.push(run.tick());
            }
        }
        assert!(met.len() >= 2 && met.windows(2).all(|w| w[1] > w[0] + 1), "{met:?}");
        assert_eq!(stops.list()[0].met, met.last().copied());
    }

    #[rstest]
    fn switched_off_it_stays_in_the_list_and_pauses_nothing() {
        let (mut run, mut stops) = (run(), Stops::default());
        stops.toggle(&run, "count(midge) == 1");
        stops.toggle(&run, "count(midge) == 1");
        for _ in 0..100 {
            run.step();
            assert_eq!(stops.met(&run), None);
        }
        assert!(!stops.list()[0].on);
        stops.forget(0);
        assert!(stops.list().is_empty());
    }

    #[rstest]
    fn what_is_no_condition_is_kept_with_its_trouble() {
        let (run, mut stops) = (run(), Stops::default());
        stops.toggle(&run, "count(mige) > 2");
        assert!(stops.list()[0].trouble.as_deref().unwrap().contains("mige"));
    }
}
