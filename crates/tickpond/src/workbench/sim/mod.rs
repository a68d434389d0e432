//! The simulation on its own thread: it is told what to do and publishes snapshots.

mod found;
mod obey;

use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, Mutex};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

use crossbeam_channel::{Receiver, Sender, unbounded};
use tickpond_lab::Run;

use crate::workbench::answers::{Known, answer};
use crate::workbench::befell::Befell;
use crate::workbench::command::Command;
use crate::workbench::one::One;
use crate::workbench::snapshot::{self, Notice, Snapshot};
use crate::workbench::stops::Stops;
use crate::workbench::wish::Wish;

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
}
