//! The simulation on its own thread: it is told what to do and publishes snapshots.

use std::path::PathBuf;
use std::sync::{Arc, Mutex};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

use crossbeam_channel::{Receiver, Sender, unbounded};
use tickpond_lab::{Edited, Run, RunOptions};
use tickpond_lang::program::Program;
use tickpond_sim::Who;

use super::snapshot::{Notice, Snapshot};
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
    Speed(f64),
    Restart(Option<u64>),
    Key(String, bool),
    /// The entity to tell the story of.
    Focus(Option<Who>),
    /// How many columns the time strip has.
    StripWidth(usize),
    /// Writes the counts of the run.
    Export(Vec<PathBuf>),
    Quit,
}

/// The simulation as the screen sees it.
pub struct Simulation {
    commands: Sender<Command>,
    latest: Arc<Mutex<(u64, Arc<Snapshot>)>>,
    thread: Option<JoinHandle<()>>,
}

impl Simulation {
    /// Starts the thread; nothing plays before the first program.
    pub fn start() -> Simulation {
        let (commands, inbox) = unbounded();
        let latest = Arc::new(Mutex::new((0, Arc::new(Snapshot::default()))));
        let shared = latest.clone();
        let thread = std::thread::spawn(move || Worker::new(inbox, shared).work());
        Simulation { commands, latest, thread: Some(thread) }
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
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

struct Worker {
    inbox: Receiver<Command>,
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
}

impl Worker {
    fn new(inbox: Receiver<Command>, latest: Arc<Mutex<(u64, Arc<Snapshot>)>>) -> Worker {
        let now = Instant::now();
        Worker {
            inbox,
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
        }
    }

    fn work(mut self) {
        loop {
            let wait =
                if self.playing { Duration::from_millis(2) } else { Duration::from_millis(50) };
            let mut next = self.inbox.recv_timeout(wait).ok();
            while let Some(command) = next {
                if matches!(command, Command::Quit) {
                    return;
                }
                self.obey(command);
                next = self.inbox.try_recv().ok();
            }
            self.advance();
            let due = !self.playing || self.published.elapsed() >= FRAME;
            if self.changed && due {
                self.publish();
            }
        }
    }

    fn say(&mut self, words: impl Into<String>, is_trouble: bool) {
        let number = self.notice.as_ref().map_or(0, |n| n.number) + 1;
        self.notice = Some(Notice { number, words: words.into(), is_trouble });
        self.changed = true;
    }

    fn obey(&mut self, command: Command) {
        self.changed = true;
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
            Command::Focus(who) => self.focus = who,
            Command::StripWidth(columns) => self.strip_width = columns,
            Command::Export(paths) => self.export(&paths),
            Command::Quit => {}
        }
    }

    fn take(&mut self, program: Arc<Program>) {
        let Some(run) = &mut self.run else {
            match Run::new(program, RunOptions::default()) {
                Ok(run) => self.run = Some(run),
                Err(error) => self.say(error.to_string(), true),
            }
            return;
        };
        let was = run.program().clone();
        let seconds = run.tick() as f64 / program.rate;
        match run.edit(program) {
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
        if !self.playing {
            return;
        }
        let started = Instant::now();
        let passed = started.duration_since(self.last).as_secs_f64();
        self.last = started;
        self.debt += passed * self.speed * run.program().rate;
        while self.debt >= 1.0 {
            run.step();
            self.changed = true;
            self.debt -= 1.0;
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
        let run = self.run.as_ref();
        let seen = run.map(|run| Snapshot::of(run, self.strip_width, self.focus));
        let snapshot = Snapshot {
            playing: self.playing,
            speed: self.speed,
            notice: self.notice.clone(),
            ..seen.unwrap_or_default()
        };
        if let Ok(mut latest) = self.latest.lock() {
            *latest = (latest.0 + 1, Arc::new(snapshot));
        }
        self.published = Instant::now();
        self.changed = false;
    }
}
