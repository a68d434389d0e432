//! What the simulation is told, carried out.

use std::path::PathBuf;
use std::sync::Arc;
use std::time::Instant;

use tickpond_draw::{Beside, Wanted, prepare};
use tickpond_lab::why::why_not;
use tickpond_lab::{Edited, Past, Run, RunOptions, TapeChoice, Timeline};
use tickpond_lang::program::Program;
use tickpond_sim::{EntityId, Who};

use super::Worker;
use crate::drawing::{Format, bytes, of_run, without_picture};
use crate::failure::Failure;
use crate::workbench::answers::Known;
use crate::workbench::befell::Befell;
use crate::workbench::command::{Command, DrawRun};
use crate::workbench::pins::Pins;
use crate::workbench::snapshot::{GoneBack, Page};
use crate::workbench::stops::Stops;
use crate::workbench::stretch::around;
use crate::workbench::wake::Wake;
use crate::writing::write_new;

impl Worker {
    pub(in crate::workbench) fn obey(&mut self, command: Command) {
        self.changed = true;
        let told_before = self.notice.as_ref().map(|notice| notice.number);
        if acts_on_the_run(&command) {
            self.arrive();
        }
        match command {
            Command::Open(document) => self.open(document),
            Command::Take(program) => self.take(program),
            Command::Play(playing) => self.play(playing),
            Command::PlayPause => self.play(!self.pace.playing),
            Command::Step(ticks) => {
                self.pace.playing = false;
                if let Some(run) = &self.run {
                    self.goal = Some(run.tick().saturating_add_signed(ticks));
                }
            }
            Command::Seek(tick) => {
                self.goal = self.run.as_ref().map(|run| tick.min(run.head()));
            }
            Command::Along(ticks) => {
                self.pace.playing = false;
                let along = |run: &Run| run.tick().saturating_add_signed(ticks).min(run.head());
                self.goal = self.run.as_ref().map(along);
            }
            Command::PlayTo(tick) => self.goal = self.run.as_ref().map(|_| tick),
            Command::Halt => {
                if let (Some(_), Some(run)) = (self.goal.take(), &self.run) {
                    let seconds = run.tick() as f64 / run.program().rate;
                    self.say(format!("stopped on the way, at {seconds:.2} s"), false);
                }
            }
            Command::Faster(factor) => {
                self.pace.speed = (self.pace.speed * factor).clamp(1.0 / 16.0, 64.0);
                self.say(format!("speed {} x", self.pace.speed), false);
            }
            Command::Restart(seeds_on) => self.restart(seeds_on),
            Command::Key(input, down) => {
                if let Some(run) = &mut self.run {
                    run.press(&input, down);
                }
                self.tell_made_again();
            }
            Command::Point(input, at) => {
                if let Some(run) = &mut self.run {
                    run.point(&input, at);
                }
                self.tell_made_again();
            }
            Command::Place(kind, at) => {
                if let Some(run) = &mut self.run {
                    run.place(&kind, at);
                    let words = format!("{kind} is born in the next tick, without a line");
                    self.say(words, false);
                }
                self.tell_made_again();
            }
            Command::Want(wish) => self.shown.wish = *wish,
            Command::Find(hunt, on) => self.find(&hunt, on),
            Command::FirstBroken => self.first_broken(),
            Command::PauseWhen(typed) => {
                if let Some(run) = &self.run {
                    self.stops.toggle(run, &typed);
                }
            }
            Command::ForgetStop(at) => self.stops.forget(at),
            Command::Tape(name) => self.record_tape(name),
            Command::PlayTape(name) => self.play_tape(name),
            Command::PlaysTapes(plays) => {
                self.habits.tape = if plays { TapeChoice::Played } else { TapeChoice::Nothing };
            }
            Command::EditsFork(forks) => self.habits.forks = forks,
            Command::Memory(bytes) => {
                self.habits.memory = Some(bytes);
                if let Some(run) = &mut self.run {
                    run.set_memory(bytes);
                }
            }
            Command::Focus(who) => self.shown.focus = who,
            Command::StripWidth(columns) => self.shown.strip_width = columns,
            Command::Pin(typed) => {
                if let Some(run) = &self.run {
                    match self.pins.add(run, &typed) {
                        Ok(()) => self.say(
                            format!("pinned {typed}: 9 shows it, x there takes it away"),
                            false,
                        ),
                        Err(words) => self.say(words, true),
                    }
                }
            }
            Command::Unpin(at) => self.pins.forget(at),
            Command::Branch(number) => self.go_back(number),
            Command::Branches(recipes) => {
                if let Some(run) = &mut self.run {
                    run.adopt_branches(recipes);
                }
            }
            Command::WhyNot(line) => self.why_not(line),
            Command::Export(paths, drawing) => self.export(&paths, &drawing),
            Command::Quit => {}
        }
        // Nothing a person recorded goes without a word.
        if let Some(gone) = self.run.as_mut().and_then(Run::let_go) {
            let words = format!("the oldest branch is let go of: {gone}");
            let told = self.notice.as_ref().filter(|notice| Some(notice.number) != told_before);
            let told = told.map_or(words.clone(), |notice| format!("{}; {words}", notice.words));
            self.say(told, false);
        }
    }

    fn go_back(&mut self, number: u64) {
        let Some(run) = &mut self.run else { return };
        match run.go_back(number) {
            Ok(()) => {
                let (words, text) =
                    (run.pasts().last().map(Past::words), run.newest().text.clone());
                let seconds = run.tick() as f64 / run.program().rate;
                self.pace.playing = false;
                self.taping.recording = self.taping.recording.filter(|since| *since <= run.tick());
                let count = self.gone_back.as_ref().map_or(0, |gone| gone.number) + 1;
                self.gone_back = Some(GoneBack { number: count, text });
                let left = words.map_or(String::new(), |words| format!("; left for it: {words}"));
                self.say(format!("back on branch {number}, at {seconds:.2} s{left}"), false);
            }
            Err(error) => self.say(error.to_string(), true),
        }
    }

    fn take(&mut self, program: Arc<Program>) {
        let Some(run) = &mut self.run else {
            let options = RunOptions { tape: self.habits.tape.clone(), ..RunOptions::default() };
            match Run::new(program, options) {
                Ok(mut run) => {
                    run.interrupt_by(self.link.busy.stop.clone());
                    if let Some(bytes) = self.habits.memory {
                        run.set_memory(bytes);
                    }
                    self.run = Some(run);
                }
                Err(error) => self.say(error.to_string(), true),
            }
            return;
        };
        let seconds = run.tick() as f64 / program.rate;
        match run.edit_as(program, self.habits.forks) {
            Ok(Edited::Forked) => self.say(format!("edit taken up at {seconds:.2} s"), false),
            // The gutter follows by itself; there is nothing to tell.
            Ok(Edited::Same) => {}
            Ok(Edited::TakenBack) => {
                self.say(
                    "edit taken back: the run goes on as before, and what was played is there",
                    false,
                );
            }
            Ok(Edited::Remade(reason)) => {
                self.say(format!("run made again from 0 s: {reason}"), false);
            }
            Err(error) => self.say(error.to_string(), true),
        }
    }

    /// Another pond takes the place of this one: nothing of the old one stays.
    fn open(&mut self, document: u64) {
        self.document = document;
        self.run = None;
        self.play(false);
        self.pace.speed = 1.0;
        self.goal = None;
        self.shown.focus = None;
        self.known = Known::default();
        self.befell = Befell::default();
        self.wake = Wake::default();
        self.pins = Pins::default();
        self.stops = Stops::default();
        self.taping.recording = None;
        self.taping.tape = None;
    }

    fn play(&mut self, playing: bool) {
        self.pace.playing = playing;
        self.pace.last = Instant::now();
        self.pace.debt = 0.0;
        if playing {
            self.goal = None;
        }
    }

    /// Ends the way to a tick that has been played: what follows happens there, and nowhere on the way.
    fn arrive(&mut self) {
        if let (Some(goal), Some(run)) = (self.goal, &mut self.run) {
            self.goal = None;
            if goal <= run.head() {
                run.seek(goal);
            }
        }
    }

    fn restart(&mut self, seeds_on: u64) {
        let Some(run) = &mut self.run else { return };
        let seed = run.options().seed.wrapping_add(seeds_on);
        match run.restart(Some(seed)) {
            Ok(()) => {
                self.taping.recording = None;
                self.say(format!("started again with seed {seed}"), false);
            }
            Err(error) => self.say(error.to_string(), true),
        }
    }

    /// Tells that a player's key in the past had the run made again by the newest text.
    fn tell_made_again(&mut self) {
        if let Some(reason) = self.run.as_mut().and_then(Run::made_again) {
            self.say(format!("run made again from 0 s: {reason}"), false);
        }
    }

    fn why_not(&mut self, line: u32) {
        let Some(run) = &mut self.run else { return };
        self.pace.playing = false;
        let chosen = self.shown.focus.as_ref().and_then(|one| {
            let (kind, number) = (one.kind_in(run.cast())?, one.number());
            let gone = Who { kind, number, id: EntityId::NONE };
            Some(run.find(kind, number).unwrap_or(gone))
        });
        let told = why_not(run, line, chosen);
        let number = self.page.as_ref().map_or(0, |page| page.number) + 1;
        self.page = Some(Page { number, title: told.title, lines: told.lines });
    }

    fn export(&mut self, paths: &[PathBuf], drawing: &DrawRun) {
        let Some(run) = &mut self.run else { return };
        let stretch = drawing.stretch.map(|stretch| around(stretch, run.tick()));
        let from = stretch.map(|stretch| stretch.0).or(drawing.from);
        let prepared = prepare(run, drawing.what, from);
        let run = &*run;
        let beside = Beside::before(run).filter(|_| drawing.beside).into_iter().collect();
        let (kinds, to) = (drawing.kinds.clone(), stretch.map(|stretch| stretch.1));
        let wanted = Wanted { kinds, beside, prepared, from, to };
        let drawn = match of_run(run, drawing.what, &wanted) {
            Ok(drawn) => drawn,
            Err(failure) => return self.say(failure.words, true),
        };
        let mut missing = None;
        for path in paths {
            let written = Format::of(path).and_then(|format| {
                missing = missing.take().or(without_picture(&drawn, format));
                let bytes = bytes(&drawn, format)?;
                write_new(path, &bytes).map_err(|e| Failure::writing(path, &e))
            });
            if let Err(failure) = written {
                let words = failure.words.replace('\n', "; ");
                return self.say(words, true);
            }
        }
        let names: Vec<String> = paths.iter().map(|p| p.display().to_string()).collect();
        let missing = missing.map_or(String::new(), |words| format!("; {words}"));
        self.say(format!("wrote {}{missing}", names.join(" and ")), false);
    }
}

/// Whether a command changes the run or asks where it is: the way to a tick is ended before it.
fn acts_on_the_run(command: &Command) -> bool {
    !matches!(
        command,
        Command::Open(_)
            | Command::Halt
            | Command::Faster(_)
            | Command::Want(_)
            | Command::EditsFork(_)
            | Command::PlaysTapes(_)
            | Command::Memory(_)
            | Command::Focus(_)
            | Command::StripWidth(_)
            | Command::ForgetStop(_)
            | Command::Pin(_)
            | Command::Unpin(_)
            | Command::Play(false)
    )
}
