//! The simulation on its own thread: it is told what to do and publishes snapshots.

use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, Mutex};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

use crossbeam_channel::{Receiver, Sender, unbounded};
use tickpond_lab::taping::tape_text;
use tickpond_lab::{Edited, Run, RunOptions, TapeChoice};
use tickpond_lang::program::Program;

use super::answers::{Known, answer};
use super::befell::Befell;
use super::command::{Command, Hunt};
use super::one::One;
use super::snapshot::{self, Notice, Snapshot};
use super::stops::Stops;
use super::wish::Wish;
use crate::drawing::{Format, counts};
use crate::failure::Failure;
use crate::writing::write_new;

/// Most seconds of play that are made up for after a pause that nobody asked for.
const MOST_MISSED: f64 = 0.25;
/// Longest stretch of stepping before commands are looked at again.
const SLICE: Duration = Duration::from_millis(8);
/// Shortest time from one snapshot to the next while it plays.
const FRAME: Duration = Duration::from_millis(33);

/// The simulation as the screen sees it.
pub struct Simulation {
    commands: Sender<Command>,
    latest: Arc<Mutex<(u64, Arc<Snapshot>)>>,
    busy: Arc<Busy>,
    thread: Option<JoinHandle<()>>,
}

/// Since when the simulation has not looked up from what it does, and the wish that it gives it up.
struct Busy {
    began: Instant,
    /// In ms since `began`; 0 while it waits for something to do.
    since: AtomicU64,
    stop: Arc<AtomicBool>,
}

impl Busy {
    fn now(&self) -> u64 {
        self.began.elapsed().as_millis() as u64 + 1
    }

    fn begin(&self) {
        self.since.store(self.now(), Ordering::Relaxed);
    }

    fn end(&self) {
        self.since.store(0, Ordering::Relaxed);
    }

    /// For how long it has been busy with one thing.
    fn lasts(&self) -> Duration {
        match self.since.load(Ordering::Relaxed) {
            0 => Duration::ZERO,
            since => Duration::from_millis(self.now().saturating_sub(since)),
        }
    }
}

/// How long the simulation may take to end before it is left behind.
const LEAVE: Duration = Duration::from_millis(400);

impl Simulation {
    /// Starts the thread; nothing plays before the first program.
    pub fn start() -> Simulation {
        let (commands, inbox) = unbounded();
        let latest = Arc::new(Mutex::new((0, Arc::new(Snapshot::default()))));
        let shared = latest.clone();
        let busy = Arc::new(Busy {
            began: Instant::now(),
            since: AtomicU64::new(0),
            stop: Arc::new(AtomicBool::new(false)),
        });
        let works = busy.clone();
        let thread = std::thread::spawn(move || Worker::new(inbox, shared, works).work());
        Simulation { commands, latest, busy, thread: Some(thread) }
    }

    /// For how long it has been at one thing without looking up.
    pub fn is_at_it(&self) -> Duration {
        self.busy.lasts()
    }

    /// Has it give up the tick it is at.
    pub fn interrupt(&self) {
        self.busy.stop.store(true, Ordering::Relaxed);
    }

    /// Tells the simulation something. After its end nothing happens.
    pub fn tell(&self, command: Command) {
        let _ = self.commands.send(command);
    }

    /// Whether the thread has ended though nobody told it to: a fault of the program.
    pub fn has_failed(&self) -> bool {
        self.thread.as_ref().is_some_and(JoinHandle::is_finished)
    }

    /// The newest snapshot and its number.
    pub fn latest(&self) -> (u64, Arc<Snapshot>) {
        match self.latest.lock() {
            Ok(latest) => latest.clone(),
            Err(poisoned) => poisoned.into_inner().clone(),
        }
    }
}

impl Drop for Simulation {
    fn drop(&mut self) {
        self.tell(Command::Quit);
        self.interrupt();
        let Some(thread) = self.thread.take() else { return };
        let asked = Instant::now();
        while !thread.is_finished() && asked.elapsed() < LEAVE {
            std::thread::sleep(Duration::from_millis(2));
        }
        // What cannot be given up ends with the program.
        if thread.is_finished() {
            let _ = thread.join();
        }
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
            | Command::Memory(_)
            | Command::Focus(_)
            | Command::StripWidth(_)
            | Command::ForgetStop(_)
            | Command::Play(false)
    )
}

/// Plays, and does what it is told.
pub struct Worker {
    inbox: Receiver<Command>,
    busy: Arc<Busy>,
    latest: Arc<Mutex<(u64, Arc<Snapshot>)>>,
    document: u64,
    run: Option<Run>,
    playing: bool,
    speed: f64,
    /// Ticks that are due and not yet played.
    debt: f64,
    last: Instant,
    published: Instant,
    changed: bool,
    focus: Option<One>,
    strip_width: usize,
    notice: Option<Notice>,
    wish: Wish,
    known: Known,
    befell: Befell,
    stops: Stops,
    recording: Option<u64>,
    tape: Option<String>,
    /// The tick that is played on to.
    goal: Option<u64>,
    forks: bool,
    memory: Option<usize>,
}

impl Worker {
    fn new(
        inbox: Receiver<Command>,
        latest: Arc<Mutex<(u64, Arc<Snapshot>)>>,
        busy: Arc<Busy>,
    ) -> Worker {
        let now = Instant::now();
        Worker {
            inbox,
            busy,
            latest,
            document: 0,
            run: None,
            playing: false,
            speed: 1.0,
            debt: 0.0,
            last: now,
            published: now,
            changed: true,
            focus: None,
            strip_width: 100,
            notice: None,
            wish: Wish::default(),
            known: Known::default(),
            befell: Befell::default(),
            stops: Stops::default(),
            recording: None,
            tape: None,
            goal: None,
            forks: true,
            memory: None,
        }
    }

    /// One without a thread.
    #[cfg(test)]
    pub fn alone() -> Worker {
        let (_, inbox) = unbounded();
        let busy = Busy {
            began: Instant::now(),
            since: AtomicU64::new(0),
            stop: Arc::new(AtomicBool::new(false)),
        };
        let latest = Arc::new(Mutex::new((0, Arc::new(Snapshot::default()))));
        Worker::new(inbox, latest, Arc::new(busy))
    }

    /// Goes all the way to where it was told to go.
    #[cfg(test)]
    pub fn settle(&mut self) {
        while self.goal.is_some() {
            self.advance();
        }
        self.publish();
    }

    /// As if nothing had been played for so long.
    #[cfg(test)]
    pub fn was_away(&mut self, away: Duration) {
        self.last -= away;
    }

    /// Plays what is due.
    #[cfg(test)]
    pub fn pass(&mut self) {
        self.advance();
        self.publish();
    }

    /// What was published last.
    #[cfg(test)]
    pub fn snapshot(&self) -> Arc<Snapshot> {
        self.latest.lock().unwrap().1.clone()
    }

    fn work(mut self) {
        loop {
            let wait = if self.playing || self.goal.is_some() {
                Duration::from_millis(2)
            } else {
                Duration::from_millis(50)
            };
            let mut next = self.inbox.recv_timeout(wait).ok();
            while let Some(command) = next {
                if matches!(command, Command::Quit) {
                    return;
                }
                self.busy.begin();
                self.obey(command);
                self.look_up();
                next = self.inbox.try_recv().ok();
            }
            self.busy.begin();
            self.advance();
            self.look_up();
            let due = !(self.playing || self.goal.is_some()) || self.published.elapsed() >= FRAME;
            if self.changed && due {
                self.publish();
                self.look_up();
            }
            self.busy.end();
        }
    }

    /// Tells of a tick that was given up, and goes back to where the run was before it.
    fn look_up(&mut self) {
        let stop = self.busy.stop.swap(false, Ordering::Relaxed);
        let Some(tick) = self.run.as_mut().and_then(Run::given_up) else {
            if stop {
                self.goal = None;
                self.playing = false;
            }
            return;
        };
        self.playing = false;
        self.goal = Some(tick - 1);
        self.say(format!("tick {tick} took too long and was given up: the run is before it"), true);
    }

    fn say(&mut self, words: impl Into<String>, is_trouble: bool) {
        let number = self.notice.as_ref().map_or(0, |n| n.number) + 1;
        self.notice = Some(Notice { number, words: words.into(), is_trouble });
        self.changed = true;
    }

    pub(super) fn obey(&mut self, command: Command) {
        self.changed = true;
        if acts_on_the_run(&command) {
            self.arrive();
        }
        match command {
            Command::Open(document) => self.open(document),
            Command::Take(program) => self.take(program),
            Command::Play(playing) => self.play(playing),
            Command::PlayPause => self.play(!self.playing),
            Command::Step(ticks) => {
                self.playing = false;
                if let Some(run) = &self.run {
                    self.goal = Some(run.tick().saturating_add_signed(ticks));
                }
            }
            Command::Seek(tick) => {
                self.goal = self.run.as_ref().map(|run| tick.min(run.head()));
            }
            Command::Along(ticks) => {
                self.playing = false;
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
                self.speed = (self.speed * factor).clamp(1.0 / 16.0, 64.0);
                self.say(format!("speed {} x", self.speed), false);
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
            Command::Want(wish) => self.wish = *wish,
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
            Command::EditsFork(forks) => self.forks = forks,
            Command::Memory(bytes) => {
                self.memory = Some(bytes);
                if let Some(run) = &mut self.run {
                    run.set_memory(bytes);
                }
            }
            Command::Focus(who) => self.focus = who,
            Command::StripWidth(columns) => self.strip_width = columns,
            Command::Export(paths, beside) => self.export(&paths, beside),
            Command::Quit => {}
        }
    }

    fn take(&mut self, program: Arc<Program>) {
        let Some(run) = &mut self.run else {
            match Run::new(program, RunOptions::default()) {
                Ok(mut run) => {
                    run.interrupt_by(self.busy.stop.clone());
                    if let Some(bytes) = self.memory {
                        run.set_memory(bytes);
                    }
                    self.run = Some(run);
                }
                Err(error) => self.say(error.to_string(), true),
            }
            return;
        };
        let seconds = run.tick() as f64 / program.rate;
        match run.edit_as(program, self.forks) {
            Ok(Edited::Forked) => self.say(format!("edit taken up at {seconds:.2} s"), false),
            // The gutter follows by itself; there is nothing to tell.
            Ok(Edited::Same) => {}
            Ok(Edited::TakenBack) => self.say("edit taken back: the run goes on as before", false),
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
        self.speed = 1.0;
        self.goal = None;
        self.focus = None;
        self.known = Known::default();
        self.befell = Befell::default();
        self.stops = Stops::default();
        self.recording = None;
        self.tape = None;
    }

    fn play(&mut self, playing: bool) {
        self.playing = playing;
        self.last = Instant::now();
        self.debt = 0.0;
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
                self.recording = None;
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

    fn export(&mut self, paths: &[PathBuf], beside: bool) {
        let Some(run) = &self.run else { return };
        for path in paths {
            let written = Format::of(path).and_then(|format| {
                let bytes = counts(run, beside, format)?;
                write_new(path, &bytes).map_err(|e| Failure::writing(path, &e))
            });
            if let Err(failure) = written {
                let words = failure.words.replace('\n', "; ");
                return self.say(words, true);
            }
        }
        let names: Vec<String> = paths.iter().map(|p| p.display().to_string()).collect();
        self.say(format!("wrote {}", names.join(" and ")), false);
    }

    /// Plays what is due. A run too slow for real time falls behind, and is not chased.
    fn advance(&mut self) {
        let Some(run) = &mut self.run else { return };
        let started = Instant::now();
        if let Some(goal) = self.goal {
            self.changed = true;
            run.draw_near(goal);
            while run.tick() != goal {
                run.step();
                let stopped = run.state().stopped.is_some() && run.tick() == run.head();
                if stopped || self.busy.stop.load(Ordering::Relaxed) {
                    self.goal = None;
                    break;
                }
                if started.elapsed() > SLICE * 4 {
                    return;
                }
            }
            self.goal = None;
            return;
        }
        if !self.playing {
            return;
        }
        // What was missed while the program was suspended is not played all at once.
        let passed = started.duration_since(self.last).as_secs_f64().min(MOST_MISSED);
        self.last = started;
        self.debt += passed * self.speed * run.program().rate;
        while self.debt >= 1.0 {
            run.step();
            self.changed = true;
            self.debt -= 1.0;
            if self.busy.stop.load(Ordering::Relaxed) {
                return;
            }
            if let Some(words) = self.stops.met(run) {
                self.playing = false;
                self.debt = 0.0;
                self.say(words, false);
                return;
            }
            if run.state().stopped.is_some() {
                self.playing = false;
                self.debt = 0.0;
            }
            if started.elapsed() > SLICE {
                self.debt = self.debt.min(1.0);
                break;
            }
        }
    }

    fn publish(&mut self) {
        let stands = !self.playing;
        let seen = self.run.as_mut().map(|run| {
            run.recall();
            let mut seen =
                Snapshot::of(run, self.strip_width, self.focus.as_ref(), &mut self.befell);
            seen.answer = answer(run, &self.wish, &mut self.known, &seen.entities, stands);
            seen.feed = snapshot::feed(run, &self.wish.feed);
            seen
        });
        let snapshot = Snapshot {
            document: self.document,
            goal: self.goal,
            focus: self.focus.clone(),
            playing: self.playing,
            speed: self.speed,
            notice: self.notice.clone(),
            stops: self.stops.list(),
            recording: self.recording,
            tape: self.tape.clone(),
            ..seen.unwrap_or_default()
        };
        if let Ok(mut latest) = self.latest.lock() {
            *latest = (latest.0 + 1, Arc::new(snapshot));
        }
        self.published = Instant::now();
        self.changed = false;
    }

    /// Goes to the next event there is, or the one before, and says which it was.
    fn find(&mut self, hunt: &Hunt, on: bool) {
        let Some(run) = &mut self.run else { return };
        self.playing = false;
        let (tick, events) = (run.tick(), run.record().events());
        let fits = |event: &&tickpond_sim::Event| match hunt {
            Hunt::Of(one) => {
                let is = |who: tickpond_sim::Who| {
                    who.number == one.number() && one.is(run.program_at(event.tick), who)
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

    fn first_broken(&mut self) {
        let Some(run) = &mut self.run else { return };
        let program = run.program().clone();
        let failed = program.expects.iter().zip(run.verdicts());
        let first = failed
            .filter_map(|(expect, verdict)| Some((verdict.failed?, expect.words.clone())))
            .min_by_key(|(tick, _)| *tick);
        match first {
            Some((tick, words)) => {
                self.playing = false;
                self.goal = Some(tick);
                self.say(format!("\"{words}\" fails here"), true);
            }
            None => self.say("no expectation has failed so far", false),
        }
    }

    fn play_tape(&mut self, name: Option<String>) {
        let Some(run) = &mut self.run else { return };
        let words = match &name {
            Some(name) => format!("tape \"{name}\" plays from 0 s"),
            None => "played from 0 s without a tape".to_string(),
        };
        match run.play_tape(name.map_or(TapeChoice::Nothing, TapeChoice::Named)) {
            Ok(()) => {
                self.recording = None;
                self.say(words, false);
                self.obey(Command::Play(true));
            }
            Err(error) => self.say(error.to_string(), true),
        }
    }

    fn record_tape(&mut self, name: Option<String>) {
        let Some(run) = &self.run else { return };
        match (name, self.recording.take()) {
            (None, None) => {
                self.recording = Some(run.tick());
                self.say("recording: play with the play keys; T ends it", false);
            }
            (name, Some(from)) => {
                let name = name.unwrap_or_else(|| "by hand".into());
                let span = (from, run.tick() + 1);
                self.tape = Some(tape_text(run.program(), &name, run.input(), span));
            }
            (Some(_), None) => {}
        }
    }
}
