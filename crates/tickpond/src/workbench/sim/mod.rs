//! The simulation on its own thread: it is told what to do and publishes snapshots.

mod found;
mod obey;

use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, Mutex};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

use crossbeam_channel::{Receiver, Sender, unbounded};
use tickpond_lab::{Run, TapeChoice};

use crate::workbench::answers::{Known, answer};
use crate::workbench::befell::Befell;
use crate::workbench::command::Command;
use crate::workbench::one::One;
use crate::workbench::pins::Pins;
use crate::workbench::snapshot::{self, GoneBack, Notice, Page, Play, Snapshot};
use crate::workbench::stops::Stops;
use crate::workbench::views::lifelines::span_of;
use crate::workbench::views::pins::COLUMNS as PIN_COLUMNS;
use crate::workbench::wake::Wake;
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
    link: Link,
    document: u64,
    run: Option<Run>,
    pace: Pace,
    /// The tick that is played on to.
    goal: Option<u64>,
    shown: Shown,
    known: Known,
    befell: Befell,
    wake: Wake,
    pins: Pins,
    stops: Stops,
    taping: Taping,
    habits: Habits,
    notice: Option<Notice>,
    page: Option<Page>,
    gone_back: Option<GoneBack>,
    /// Whether there is anything that has not been published.
    changed: bool,
}

/// What joins the thread to the screen's.
struct Link {
    inbox: Receiver<Command>,
    busy: Arc<Busy>,
    latest: Arc<Mutex<(u64, Arc<Snapshot>)>>,
    published: Instant,
}

/// How fast it plays.
struct Pace {
    playing: bool,
    /// Times real time.
    speed: f64,
    /// Ticks that are due and not yet played.
    debt: f64,
    /// When it was last looked at what is due.
    last: Instant,
}

/// What the screen wants to be shown.
struct Shown {
    focus: Option<One>,
    strip_width: usize,
    wish: Wish,
}

/// Tapes: since when one is recorded, and the text of the last.
#[derive(Default)]
struct Taping {
    recording: Option<u64>,
    tape: Option<String>,
}

/// What a person has settled for every run.
struct Habits {
    /// Whether an edit goes on from the tick that is shown.
    forks: bool,
    /// How many bytes keyframes may take.
    memory: Option<usize>,
    /// The tape a pond opens with.
    tape: TapeChoice,
}

impl Worker {
    fn new(
        inbox: Receiver<Command>,
        latest: Arc<Mutex<(u64, Arc<Snapshot>)>>,
        busy: Arc<Busy>,
    ) -> Worker {
        let now = Instant::now();
        Worker {
            link: Link { inbox, busy, latest, published: now },
            document: 0,
            run: None,
            pace: Pace { playing: false, speed: 1.0, debt: 0.0, last: now },
            goal: None,
            shown: Shown { focus: None, strip_width: 100, wish: Wish::default() },
            known: Known::default(),
            befell: Befell::default(),
            wake: Wake::default(),
            pins: Pins::default(),
            stops: Stops::default(),
            taping: Taping::default(),
            habits: Habits { forks: true, memory: None, tape: TapeChoice::Nothing },
            notice: None,
            page: None,
            gone_back: None,
            changed: true,
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
        self.pace.last -= away;
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
        self.link.latest.lock().unwrap().1.clone()
    }

    fn work(mut self) {
        loop {
            let wait = if self.pace.playing || self.goal.is_some() {
                Duration::from_millis(2)
            } else {
                Duration::from_millis(50)
            };
            let mut next = self.link.inbox.recv_timeout(wait).ok();
            while let Some(command) = next {
                if matches!(command, Command::Quit) {
                    return;
                }
                self.link.busy.begin();
                self.obey(command);
                self.look_up();
                next = self.link.inbox.try_recv().ok();
            }
            self.link.busy.begin();
            self.advance();
            self.look_up();
            let due = !(self.pace.playing || self.goal.is_some())
                || self.link.published.elapsed() >= FRAME;
            if self.changed && due {
                self.publish();
                self.look_up();
            }
            self.link.busy.end();
        }
    }

    /// Tells of a tick that was given up, and goes back to where the run was before it.
    fn look_up(&mut self) {
        let stop = self.link.busy.stop.swap(false, Ordering::Relaxed);
        let Some(tick) = self.run.as_mut().and_then(Run::given_up) else {
            if stop {
                self.goal = None;
                self.pace.playing = false;
            }
            return;
        };
        self.pace.playing = false;
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
                self.wake.note(run);
                self.pins.note(run);
                let stopped = run.state().stopped.is_some() && run.tick() == run.head();
                if stopped || self.link.busy.stop.load(Ordering::Relaxed) {
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
        if !self.pace.playing {
            return;
        }
        // What was missed while the program was suspended is not played all at once.
        let passed = started.duration_since(self.pace.last).as_secs_f64().min(MOST_MISSED);
        self.pace.last = started;
        self.pace.debt += passed * self.pace.speed * run.program().rate;
        while self.pace.debt >= 1.0 {
            run.step();
            self.wake.note(run);
            self.pins.note(run);
            self.changed = true;
            self.pace.debt -= 1.0;
            if self.link.busy.stop.load(Ordering::Relaxed) {
                return;
            }
            if let Some(words) = self.stops.met(run) {
                self.pace.playing = false;
                self.pace.debt = 0.0;
                self.say(words, false);
                return;
            }
            if run.state().stopped.is_some() {
                self.pace.playing = false;
                self.pace.debt = 0.0;
            }
            if started.elapsed() > SLICE {
                self.pace.debt = self.pace.debt.min(1.0);
                break;
            }
        }
    }

    fn publish(&mut self) {
        let stands = !self.pace.playing;
        let seen = self.run.as_mut().map(|run| {
            run.recall();
            let mut seen = Snapshot::of(
                run,
                self.shown.strip_width,
                self.shown.focus.as_ref(),
                &mut self.befell,
            );
            seen.answer =
                answer(run, &self.shown.wish, &mut self.known, &seen.scene.entities, stands);
            seen.feed = snapshot::feed(run, &self.shown.wish.feed);
            if stands && !self.wake.is_whole(run) {
                let from = run.tick().saturating_sub(run.program().rate as u64);
                self.wake = Wake::default();
                run.look_back(from, |run| self.wake.note(run));
            }
            if !self.pins.is_empty() {
                let wish = &self.shown.wish;
                let span = span_of(run.program().rate, run.tick(), wish);
                if stands {
                    self.pins.fill(run, span);
                }
                seen.pins = self.pins.list(run, span, wish.columns.saturating_sub(PIN_COLUMNS) * 2);
            }
            let speed = if stands { 1.0 } else { self.pace.speed };
            seen.dressed(run, speed, &self.shown.wish.tint, &self.wake)
        });
        let mut snapshot = seen.unwrap_or_default();
        snapshot.document = self.document;
        snapshot.travel.goal = self.goal;
        snapshot.selected.focus = self.shown.focus.clone();
        snapshot.play = Play {
            playing: self.pace.playing,
            speed: self.pace.speed,
            recording: self.taping.recording,
            tape: self.taping.tape.clone(),
            ..snapshot.play
        };
        snapshot.notice = self.notice.clone();
        snapshot.page = self.page.clone();
        snapshot.gone_back = self.gone_back.clone();
        snapshot.stops = self.stops.list();
        if let Ok(mut latest) = self.link.latest.lock() {
            *latest = (latest.0 + 1, Arc::new(snapshot));
        }
        self.link.published = Instant::now();
        self.changed = false;
    }
}
