//! Going to events, to the first broken expectation, and tapes.

use tickpond_lab::taping::tape_text;
use tickpond_lab::{TapeChoice, Timeline};

use super::Worker;
use crate::workbench::command::{Command, Hunt};
use crate::workbench::snapshot;

impl Worker {
    /// Goes to the next event there is, or the one before, and says which it was.
    pub(super) fn find(&mut self, hunt: &Hunt, on: bool) {
        let Some(run) = &mut self.run else { return };
        self.pace.playing = false;
        let (tick, events) = (run.tick(), run.record().events());
        let fits = |event: &&tickpond_sim::Event| match hunt {
            Hunt::Of(one) => {
                let is = |who: tickpond_sim::Who| {
                    who.number == one.number() && one.is(run.cast_at(event.tick), who)
                };
                is(event.who) || event.other.is_some_and(is)
            }
            Hunt::Like(filter) => {
                let line = snapshot::feed_line(run, event);
                filter.split_whitespace().all(|word| snapshot::fits(&line, word))
            }
        };
        let found = if on {
            let from = events.partition_point(|e| e.tick <= tick);
            events[from..].iter().find(fits)
        } else {
            let to = events.partition_point(|e| e.tick < tick);
            events[..to].iter().rev().find(fits)
        };
        match found.map(|event| (event.tick, snapshot::feed_line(run, event))) {
            Some((tick, line)) => {
                self.goal = Some(tick);
                let at = line.line.map(|l| format!(", line {l}")).unwrap_or_default();
                self.say(format!("{} {}{at}", line.what.name(), line.words), false);
            }
            None => {
                let side = if on { "later" } else { "earlier" };
                self.say(format!("nothing like that is on record {side}"), false);
            }
        }
    }

    pub(super) fn first_broken(&mut self) {
        let Some(run) = &mut self.run else { return };
        let program = run.program().clone();
        let failed = program.expects.iter().zip(run.verdicts());
        let first = failed
            .filter_map(|(expect, verdict)| Some((verdict.failed?, expect.words.clone())))
            .min_by_key(|(tick, _)| *tick);
        match first {
            Some((tick, words)) => {
                self.pace.playing = false;
                self.goal = Some(tick);
                self.say(format!("\"{words}\" fails here"), true);
            }
            None => self.say("no expectation has failed so far", false),
        }
    }

    pub(super) fn play_tape(&mut self, name: Option<String>) {
        let Some(run) = &mut self.run else { return };
        let words = match &name {
            Some(name) => format!("tape \"{name}\" plays from 0 s"),
            None => "played from 0 s without a tape".to_string(),
        };
        match run.play_tape(name.map_or(TapeChoice::Nothing, TapeChoice::Named)) {
            Ok(()) => {
                self.taping.recording = None;
                self.say(words, false);
                self.obey(Command::Play(true));
            }
            Err(error) => self.say(error.to_string(), true),
        }
    }

    pub(super) fn record_tape(&mut self, name: Option<String>) {
        let Some(run) = &self.run else { return };
        match (name, self.taping.recording.take()) {
            (None, None) => {
                self.taping.recording = Some(run.tick());
                self.say("recording: play with the play keys; T ends it", false);
            }
            (name, Some(from)) => {
                let name = name.unwrap_or_else(|| "by hand".into());
                let span = (from, run.tick() + 1);
                self.taping.tape = Some(tape_text(run.program(), &name, run.input(), span));
            }
            (Some(_), None) => {}
        }
    }
}
