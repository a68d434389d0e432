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
use tickpond_sim::Who;

use super::answers::{Answer, Known, Wish};
use super::befell::Befell;
use super::snapshot::{self, Notice, Snapshot};
use super::stops::Stops;
use crate::drawing::{Format, write_drawing};

/// Longest stretch of stepping before commands are looked at again.
const SLICE: Duration = Duration::from_millis(8);
/// Shortest time from one snapshot to the next while it plays.
const FRAME: Duration = Duration::from_millis(33);

/// What the simulation can be told.
#[derive(Clone, Debug)]
pub enum Command {
    /// Plays this program from now on.
    Take(Arc<Program>),
    Play(bool),
    /// So many ticks on, or back.
    Step(i64),
    Seek(u64),
    /// Plays on to a tick, or goes back to it.
    PlayTo(u64),
    Speed(f64),
    Restart(Option<u64>),
    Key(String, bool),
    /// A pointer of the play was moved.
    Point(String, (f64, f64)),
    /// Puts one of a kind somewhere.
    Place(String, (f64, f64)),
    /// What the drawer wants to know.
    Want(Box<Wish>),
    /// Goes to the next event of a sort, or the one before.
    Find(Hunt, bool),
    /// Goes to the first tick in which an expectation failed.
    FirstBroken,
    /// A condition to pause at, added or, if it is there, switched on or off.
    PauseWhen(String),
    /// Takes a condition away.
    ForgetStop(usize),
    /// Begins to record a tape, or ends that and hands its text over under this name.
    Tape(Option<String>),
    /// Begins again with what the player does on a tape, or with nothing.
    PlayTape(Option<String>),
    /// Whether edits are taken up where the run is.
    EditsFork(bool),
    /// Bytes the keyframes may take.
    Memory(usize),
    /// The entity to tell the story of.
    Focus(Option<Who>),
    /// How many columns the time strip has.
    StripWidth(usize),
    /// Writes the counts of the run.
    Export(Vec<PathBuf>),
    Quit,
}

/// Which events are gone through.
#[derive(Clone, Debug, PartialEq)]
pub enum Hunt {
    /// Those of one entity.
    Of(Who),
    /// Those that meet a filter of the feed.
    Like(String),
}

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

struct Worker {
    inbox: Receiver<Command>,
    busy: Arc<Busy>,
    latest: Arc<Mutex<(u64, Arc<Snapshot>)>>,
    run: Option<Run>,
    playing: bool,
    speed: f64,
    /// Ticks that are due and not yet played.
    debt: f64,
    last: Instant,
    published: Instant,
    changed: bool,
    focus: Option<Who>,
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

    fn obey(&mut self, command: Command) {
        self.changed = true;
        // Another way to go takes the place of the one that is not finished.
        if matches!(command, Command::Play(true) | Command::Step(_) | Command::Seek(_)) {
            self.goal = None;
        }
        match command {
            Command::Take(program) => self.take(program),
            Command::Play(playing) => {
                self.playing = playing;
                self.last = Instant::now();
                self.debt = 0.0;
            }
            Command::Step(ticks) => {
                self.playing = false;
                if let Some(run) = &mut self.run {
                    let to = run.tick().saturating_add_signed(ticks);
                    run.seek(to);
                }
            }
            Command::Seek(tick) => {
                if let Some(run) = &mut self.run {
                    let tick = tick.min(run.head());
                    run.seek(tick);
                }
            }
            Command::PlayTo(tick) => self.goal = Some(tick),
            Command::Speed(speed) => self.speed = speed,
            Command::Restart(seed) => {
                let failed = self.run.as_mut().and_then(|run| run.restart(seed).err());
                match failed {
                    Some(error) => self.say(error.to_string(), true),
                    None => {
                        self.focus = None;
                        let seed = self.run.as_ref().map_or(1, |r| r.options().seed);
                        self.say(format!("started again with seed {seed}"), false);
                    }
                }
            }
            Command::Key(input, down) => {
                if let Some(run) = &mut self.run {
                    run.press(&input, down);
                }
            }
            Command::Point(input, at) => {
                if let Some(run) = &mut self.run {
                    run.point(&input, at);
                }
            }
            Command::Place(kind, at) => {
                if let Some(run) = &mut self.run {
                    run.place(&kind, at);
                    let words = format!("{kind} is born in the next tick, without a line");
                    self.say(words, false);
                }
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
            Command::Export(paths) => self.export(&paths),
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
        let was = run.program().clone();
        let seconds = run.tick() as f64 / program.rate;
        match run.edit_as(program, self.forks) {
            Ok(edited) => {
                self.follow_focus(&was);
                match edited {
                    Edited::Forked => {
                        self.say(format!("edit taken up at {seconds:.2} s"), false);
                    }
                    // The gutter follows by itself; there is nothing to tell.
                    Edited::Same => {}
                    Edited::Remade(reason) => {
                        self.say(format!("run made again from 0 s: {reason}"), false);
                    }
                }
            }
            Err(error) => self.say(error.to_string(), true),
        }
    }

    /// Kinds may have other places in the edited program.
    fn follow_focus(&mut self, was: &Program) {
        let Some(run) = &self.run else { return };
        self.focus = self.focus.and_then(|who| {
            let name = &was.kinds.get(who.kind.index())?.name;
            Some(Who { kind: run.program().kind_named(name)?, ..who })
        });
    }

    fn export(&mut self, paths: &[PathBuf]) {
        let Some(run) = &self.run else { return };
        for path in paths {
            let written = Format::of(path).and_then(|format| write_drawing(run, path, format));
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
            if goal <= run.head() {
                run.seek(goal);
            }
            while run.tick() < goal && started.elapsed() < SLICE * 4 {
                run.step();
                if run.state().stopped.is_some() || self.busy.stop.load(Ordering::Relaxed) {
                    self.goal = None;
                    break;
                }
            }
            if run.tick() >= goal {
                self.goal = None;
            }
            self.changed = true;
            return;
        }
        if !self.playing {
            return;
        }
        let passed = started.duration_since(self.last).as_secs_f64();
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
            let mut seen = Snapshot::of(run, self.strip_width, self.focus, &mut self.befell);
            seen.answer = Answer::of(run, &self.wish, &mut self.known, &seen.entities, stands);
            seen.feed = snapshot::feed(run, &self.wish.feed);
            seen
        });
        let snapshot = Snapshot {
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
            Hunt::Of(who) => event.who.id == who.id || event.other.is_some_and(|o| o.id == who.id),
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
                run.seek(tick);
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
                run.seek(tick);
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
                self.focus = None;
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
