//! Expectations over time.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use tickpond_lang::program::{
    Cause, Check, Expr, Happening, KindId, MessageId, Program, Those, constant,
};
use tickpond_sim::state::EntityId;
use tickpond_sim::{Engine, Event, Holds, State, What, Who};

/// What is known of one expectation.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Verdict {
    /// Whether its occasion has come.
    pub tried: bool,
    /// The first tick in which it failed.
    pub failed: Option<u64>,
    /// The tick in which it was met for good.
    pub met: Option<u64>,
    /// Spans of ticks opened by an event, first and last.
    open: Vec<(u64, u64)>,
    /// The last tick in which its condition was known not to hold.
    denied: Option<u64>,
    /// Whether the event's condition held in the tick before.
    event_held: bool,
    /// Those it is about, if it has a condition on them.
    those: BTreeSet<EntityId>,
    /// How often each it is about was hurt.
    hurt: BTreeMap<EntityId, u64>,
    /// Whether it is judged in this run: on a tape only if that is played.
    set_aside: bool,
    /// What was seen when it failed: values, or who.
    pub saw: Option<Arc<str>>,
}

/// How an expectation stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// Its occasion never came.
    Untried,
    /// It has held so far, or was met.
    Held,
    /// It failed.
    Failed,
}

impl Verdict {
    /// How it stands.
    pub fn outcome(&self) -> Outcome {
        match (self.failed, self.tried) {
            (Some(_), _) => Outcome::Failed,
            (None, true) => Outcome::Held,
            (None, false) => Outcome::Untried,
        }
    }

    fn fail(&mut self, tick: u64) {
        self.tried = true;
        self.failed.get_or_insert(tick);
        // It is settled: what it was about need not be known any more.
        self.open.clear();
        self.those.clear();
        self.hurt.clear();
    }

    /// About how many bytes a copy takes.
    fn bytes(&self) -> usize {
        let lists = self.open.len() * size_of::<(u64, u64)>();
        let sets = (self.those.len() + self.hurt.len()) * 2 * size_of::<(EntityId, u64)>();
        size_of::<Verdict>() + lists + sets
    }

    /// Forgets those that have ended.
    fn forget(&mut self, events: &[Event]) {
        if self.those.is_empty() && self.hurt.is_empty() {
            return;
        }
        for event in events.iter().filter(|event| event.what == What::Ended) {
            self.those.remove(&event.who.id);
            self.hurt.remove(&event.who.id);
        }
    }

    /// Whether it is judged in this run at all: one on a tape that is not played is not.
    pub fn is_judged(&self) -> bool {
        !self.set_aside
    }
}

/// The verdicts on a program's expectations, in their order.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Judge {
    /// One for each expectation.
    pub verdicts: Vec<Verdict>,
    /// The tape that is played.
    pub tape: Option<String>,
}

impl Judge {
    /// Nothing judged yet.
    pub fn new(program: &Program) -> Judge {
        Judge { verdicts: vec![Verdict::default(); program.expects.len()], tape: None }
    }

    /// About how many bytes a copy takes.
    pub fn bytes(&self) -> usize {
        self.verdicts.iter().map(Verdict::bytes).sum()
    }

    /// Nothing judged yet, in a run on this tape. Expectations on other tapes are set aside.
    pub fn on(program: &Program, tape: Option<String>) -> Judge {
        let verdicts = program.expects.iter().map(|expect| Verdict {
            set_aside: expect.tape.is_some() && expect.tape != tape,
            ..Verdict::default()
        });
        Judge { verdicts: verdicts.collect(), tape }
    }

    /// Takes the verdicts over to an edited program: an expectation with the same words and the
    /// same check goes on, a new one begins now.
    pub fn carry(&self, old: &Program, new: &Program) -> Judge {
        let source = |p: &Program, at: usize| {
            p.text.get(p.expects[at].whole.range()).unwrap_or("").to_string()
        };
        let mut judge = Judge::on(new, self.tape.clone());
        for at in 0..new.expects.len() {
            let same = (0..old.expects.len()).find(|o| source(old, *o) == source(new, at));
            if let Some(same) = same {
                judge.verdicts[at] = self.verdicts[same].clone();
            }
        }
        judge
    }

    /// Judges the tick the state has just played.
    pub fn tick(&mut self, engine: &mut Engine, state: &State, events: &[Event]) {
        let program = engine.program().clone();
        for (at, expect) in program.expects.iter().enumerate() {
            let mut verdict = std::mem::take(&mut self.verdicts[at]);
            if verdict.failed.is_none() && !verdict.set_aside {
                let seen = Seen { program: &program, state, events, at };
                seen.judge(&expect.check, &mut verdict, engine);
                verdict.forget(events);
            }
            self.verdicts[at] = verdict;
        }
    }

    /// Closes the books: what had to be met by now and was not, failed.
    pub fn close(&mut self, engine: &mut Engine, state: &State) {
        let program = engine.program().clone();
        for (at, expect) in program.expects.iter().enumerate() {
            let verdict = &mut self.verdicts[at];
            let open = verdict.failed.is_none() && !verdict.set_aside;
            if let (Check::InTheEnd(_), true) = (&expect.check, open) {
                let seen = Seen { program: &program, state, events: &[], at };
                seen.must_hold(true, verdict, engine);
            }
        }
    }
}

/// Whether an expectation is about an entity.
fn is_of(those: &Those, verdict: &Verdict, id: EntityId) -> bool {
    those.condition.is_none() || verdict.those.contains(&id)
}

/// One tick as an expectation sees it.
struct Seen<'a> {
    program: &'a Program,
    state: &'a State,
    events: &'a [Event],
    at: usize,
}

impl Seen<'_> {
    fn ticks(&self, time: &Expr) -> u64 {
        let seconds = constant(time, &self.state.knobs).unwrap_or(0.0);
        // A time of nothing is this very tick, unlike the period of a clock.
        (seconds * self.program.rate + 0.5).floor().max(0.0) as u64
    }

    /// The line that asked for what happened, and the other party: ` (line 12, drop#3)`.
    fn asked(&self, event: &Event) -> String {
        let line = event.site.map(|site| format!("line {}", self.program.line_of(site)));
        let other = event.other.filter(|other| other.id != event.who.id);
        let parts = line.into_iter().chain(other.map(|other| self.name(other)));
        match parts.collect::<Vec<String>>() {
            parts if parts.is_empty() => String::new(),
            parts => format!(" ({})", parts.join(", ")),
        }
    }

    fn judge(&self, check: &Check, verdict: &mut Verdict, engine: &mut Engine) {
        let now = self.state.tick;
        match check {
            Check::LivesAtMost(those, time) => {
                self.gather(those, verdict, engine);
                self.lives_at_most(those, time, verdict);
            }
            Check::LivesAtLeast(those, time) => {
                self.gather(those, verdict, engine);
                let least = self.ticks(time) as f64;
                for event in self.ends(&those.kinds, &[]) {
                    if is_of(those, verdict, event.who.id) {
                        let life = event.value.unwrap_or(0.0);
                        self.must_of(life >= least, verdict, || {
                            let life = self.seconds(life);
                            format!("{} lived {life}{}", self.name(event.who), self.asked(event))
                        });
                    }
                }
            }
            Check::EndsBy(those, causes) => {
                self.gather(those, verdict, engine);
                for event in self.ends(&those.kinds, &[]) {
                    if is_of(those, verdict, event.who.id) {
                        let fine = event.cause.is_some_and(|c| causes.contains(&c));
                        self.must_of(fine, verdict, || {
                            let cause = event.cause.map_or("", Cause::name);
                            format!(
                                "{} ended by {cause}{}",
                                self.name(event.who),
                                self.asked(event)
                            )
                        });
                    }
                }
            }
            Check::HurtAtMost(those, most) => {
                self.gather(those, verdict, engine);
                let most = constant(most, &self.state.knobs).unwrap_or(0.0);
                for event in self.events.iter().filter(|e| e.what == What::Hurt) {
                    let id = event.who.id;
                    if those.kinds.contains(&event.who.kind) && is_of(those, verdict, id) {
                        let times = verdict.hurt.entry(id).or_insert(0);
                        *times += 1;
                        let times = *times as f64;
                        self.must_of(times <= most, verdict, || {
                            let asked = self.asked(event);
                            format!("{} was hurt {}{asked}", self.name(event.who), so_often(times))
                        });
                    }
                }
            }
            Check::Always(_) => self.must_hold(true, verdict, engine),
            Check::Never(_) => self.must_hold(false, verdict, engine),
            // Judged when the books are closed.
            Check::InTheEnd(_) => {}
            Check::At(time, _) => {
                if now == self.ticks(time) {
                    self.must_hold(true, verdict, engine);
                }
            }
            Check::By(time, _) => self.by(self.ticks(time), verdict, engine),
            Check::From(low, high, _) => {
                let high = high.as_ref().map_or(u64::MAX, |t| self.ticks(t));
                if (self.ticks(low)..=high).contains(&now) {
                    self.must_hold(true, verdict, engine);
                }
            }
            Check::AfterWithin { event, low, high, .. } => {
                let low = low.as_ref().map_or(0, |t| self.ticks(t));
                let span = (now + low, now + self.ticks(high));
                let times = self.times(event, verdict, engine);
                // Spans that begin together stand or fall together; of those without a delay the first decides.
                let waits = low == 0 && !verdict.open.is_empty();
                if times > 0 && !waits {
                    verdict.open.push(span);
                }
                self.within(verdict, engine);
            }
            Check::AfterFor { event, time, .. } => {
                let span = (now, now + self.ticks(time));
                if self.times(event, verdict, engine) > 0 {
                    // It must hold until the last of them is over; the first to be over has been tried.
                    verdict.open.truncate(1);
                    verdict.open.push(span);
                }
                self.throughout(verdict, engine);
            }
        }
    }

    /// Whether the condition holds; `None` if a value in it is no finite number, which fails the expectation
    /// whatever it wants.
    fn holds(&self, verdict: &mut Verdict, engine: &mut Engine) -> Option<bool> {
        match engine.holds(self.state, self.at).unwrap_or(Holds::Yes) {
            Holds::Yes => Some(true),
            Holds::No => {
                verdict.denied = Some(self.state.tick);
                Some(false)
            }
            Holds::NotFinite => {
                verdict.fail(self.state.tick);
                verdict.saw = Some("a value in it is no finite number".into());
                None
            }
            // Nothing holds about nobody, and nothing fails.
            Holds::Nobody => None,
        }
    }

    /// The condition must hold now, or must not.
    fn must_hold(&self, wanted: bool, verdict: &mut Verdict, engine: &mut Engine) {
        match self.holds(verdict, engine) {
            Some(holds) if holds == wanted => verdict.tried = true,
            Some(_) => self.fail(wanted, verdict, engine),
            None => {}
        }
    }

    /// Fails for what the condition comes to now, and tells which part of it is to blame.
    fn fail(&self, wanted: bool, verdict: &mut Verdict, engine: &mut Engine) {
        verdict.fail(self.state.tick);
        let blame = engine.blame(self.state, self.at, wanted);
        verdict.saw = Some(blame.into()).filter(|blame: &Arc<str>| !blame.is_empty());
    }

    /// Of one of those it is about something must be so; else it fails, and tells what was seen.
    fn must_of(&self, holds: bool, verdict: &mut Verdict, saw: impl FnOnce() -> String) {
        verdict.tried = true;
        if !holds {
            verdict.fail(self.state.tick);
            verdict.saw = Some(saw().into());
        }
    }

    fn name(&self, who: Who) -> String {
        crate::naming::name_of(self.program, who)
    }

    fn seconds(&self, ticks: f64) -> String {
        format!("{:.2} s", ticks / self.program.rate)
    }

    fn ends<'e>(
        &'e self,
        kinds: &'e [KindId],
        causes: &'e [Cause],
    ) -> impl Iterator<Item = &'e Event> {
        self.events.iter().filter(move |e| {
            e.what == What::Ended
                && kinds.contains(&e.who.kind)
                && (causes.is_empty() || e.cause.is_some_and(|c| causes.contains(&c)))
        })
    }

    /// Notes those born in this tick that meet the condition.
    fn gather(&self, those: &Those, verdict: &mut Verdict, engine: &mut Engine) {
        if those.condition.is_none() {
            return;
        }
        for kind in &those.kinds {
            let columns = &self.state.kinds[kind.index()];
            // Rows are in the order of birth: those of this tick are the last.
            let first = columns.born.partition_point(|born| *born < self.state.tick);
            let rows: Vec<u32> = (first as u32..columns.len() as u32).collect();
            let meet = engine.those(self.state, self.at, *kind, &rows);
            for (row, meets) in rows.into_iter().zip(meet) {
                if meets {
                    verdict.those.insert(columns.id[row as usize]);
                }
            }
        }
    }

    fn lives_at_most(&self, those: &Those, time: &Expr, verdict: &mut Verdict) {
        let (most, now) = (self.ticks(time), self.state.tick);
        for kind in &those.kinds {
            let columns = &self.state.kinds[kind.index()];
            // The oldest first; with a condition, the oldest that meets it.
            let oldest = (0..columns.len()).find(|row| is_of(those, verdict, columns.id[*row]));
            if let Some(row) = oldest {
                let life = now - columns.born[row];
                self.must_of(life <= most, verdict, || {
                    let who = self.state.who_at(*kind, row);
                    format!("{} lives, {} old", self.name(who), self.seconds(life as f64))
                });
            }
        }
        for event in self.ends(&those.kinds, &[]) {
            if is_of(those, verdict, event.who.id) {
                let life = event.value.unwrap_or(0.0);
                self.must_of(life as u64 <= most, verdict, || {
                    format!("{} lived {}", self.name(event.who), self.seconds(life))
                });
            }
        }
    }

    fn by(&self, time: u64, verdict: &mut Verdict, engine: &mut Engine) {
        let now = self.state.tick;
        if verdict.met.is_some() || now > time {
            return;
        }
        match self.holds(verdict, engine) {
            Some(true) => {
                verdict.tried = true;
                verdict.met = Some(now);
            }
            Some(false) if now == time => self.fail(true, verdict, engine),
            None if now == time => self.deny(0, verdict),
            _ => {}
        }
    }

    /// How often the event happened in this tick.
    fn times(&self, event: &Happening, verdict: &mut Verdict, engine: &mut Engine) -> usize {
        match event {
            Happening::Born(kinds) => {
                let born = |e: &&Event| e.what == What::Born && kinds.contains(&e.who.kind);
                self.events.iter().filter(born).count()
            }
            Happening::Ends(kinds, causes) => self.ends(kinds, causes).count(),
            Happening::Hurt(kinds) => {
                let hurt = |e: &&Event| e.what == What::Hurt && kinds.contains(&e.who.kind);
                self.events.iter().filter(hurt).count()
            }
            Happening::Sent(message) => self.mail(What::Sent, *message),
            Happening::Heard(message) => self.mail(What::Heard, *message),
            Happening::Press(input) => {
                let pressed = 1u64.checked_shl(input.0).unwrap_or(0) & self.state.input.pressed;
                usize::from(pressed != 0)
            }
            Happening::Turns(_) => {
                let holds = engine.event_holds(self.state, self.at).unwrap_or(false);
                let turned = holds && !verdict.event_held;
                verdict.event_held = holds;
                usize::from(turned)
            }
        }
    }

    fn mail(&self, what: What, message: MessageId) -> usize {
        self.events.iter().filter(|e| e.what == what && e.message == Some(message)).count()
    }

    /// A span is met by one tick in which it holds, and fails when it passes without.
    fn within(&self, verdict: &mut Verdict, engine: &mut Engine) {
        let now = self.state.tick;
        if verdict.open.is_empty() {
            return;
        }
        if self.holds(verdict, engine) == Some(true) {
            let before = verdict.open.len();
            verdict.open.retain(|(low, _)| now < *low);
            verdict.tried |= verdict.open.len() < before;
        }
        let Some((low, _)) = verdict.open.iter().find(|(_, high)| now >= *high) else { return };
        match verdict.denied == Some(now) {
            true => self.fail(true, verdict, engine),
            false => {
                self.deny(*low, verdict);
                verdict.open.retain(|(_, high)| now < *high);
            }
        }
    }

    /// Nobody is there to ask when the time is over: it fails if it was known not to hold in that time, which
    /// began in tick `since`, and else has not been tried.
    fn deny(&self, since: u64, verdict: &mut Verdict) {
        if verdict.failed.is_none() && verdict.denied.is_some_and(|tick| tick >= since) {
            verdict.fail(self.state.tick);
            verdict.saw = Some("it did not hold while there was somebody to ask".into());
        }
    }

    /// A span fails by one tick in which it does not hold.
    fn throughout(&self, verdict: &mut Verdict, engine: &mut Engine) {
        let now = self.state.tick;
        if verdict.open.is_empty() {
            return;
        }
        let holds = self.holds(verdict, engine);
        if holds == Some(false) {
            return self.fail(true, verdict, engine);
        }
        // A span that the end of the run cuts off has not been tried, nor one of whose end nothing can be said.
        let before = verdict.open.len();
        verdict.open.retain(|(_, high)| now < *high);
        verdict.tried |= holds == Some(true) && verdict.open.len() < before;
    }
}

fn so_often(times: f64) -> String {
    if times <= 1.0 { "once".into() } else { format!("{times} times") }
}
