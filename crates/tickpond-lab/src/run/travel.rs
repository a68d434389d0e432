//! Going to other ticks, and asking something of them.

use tickpond_sim::{Event, Firings};

use super::{RECALL, Recalled, Run};

impl Run {
    /// Goes to a tick: backwards from the nearest keyframe before it, forwards by playing. Exact.
    /// Costs the ticks from the keyframe on.
    pub fn seek(&mut self, tick: u64) {
        self.draw_near(tick);
        self.step_to(tick);
    }

    /// Plays every tick up to this one, without a jump.
    fn step_to(&mut self, tick: u64) {
        while self.tick() < tick && self.given_up.is_none() {
            self.step();
        }
    }

    /// Goes to a place from which a tick is reached by playing on: the nearest keyframe before it, if that is nearer
    /// than where the run is. The rest of the way is [`Run::step`].
    pub fn draw_near(&mut self, tick: u64) {
        let nearer = |at: u64| at > self.tick() || tick < self.tick();
        if self.keyframes.before(tick).is_some_and(|(at, _)| nearer(at)) {
            self.restore(tick);
        }
    }

    pub(super) fn restore(&mut self, tick: u64) {
        if let Some((_, moment)) = self.keyframes.before(tick) {
            self.now.clone_from(&moment);
        }
    }

    /// The present tick taken apart: which handlers ran in which phase, for whom, and what they asked for.
    /// The tick is played once more from the one before; the run is where it was afterwards. Tick 0 has
    /// no handlers of the tick. Costs the ticks from the keyframe on.
    pub fn anatomy(&mut self) -> Vec<Firings> {
        let tick = self.tick();
        if tick == 0 {
            return Vec::new();
        }
        let digest = cfg!(debug_assertions).then(|| self.now.state.digest());
        self.aside(tick - 1, |run| {
            let at = run.segment_at(tick);
            run.segments[at].engine.trace = Some(Vec::new());
            run.step();
            let trace = run.segments[at].engine.trace.take().unwrap_or_default();
            let is_same = digest.is_none_or(|digest| digest == run.now.state.digest());
            debug_assert!(run.given_up.is_some() || is_same, "a tick played again is the same");
            trace
        })
    }

    /// Looks at every tick from one on up to the present one, by playing them once more; the run is where it was
    /// afterwards. Costs the ticks from the keyframe before the first on.
    pub fn look_back(&mut self, from: u64, mut look: impl FnMut(&Run)) {
        let now = self.tick();
        self.aside(from.min(now), |run| {
            look(run);
            while run.tick() < now && run.given_up.is_none() {
                run.step();
                look(run);
            }
        });
    }

    /// Goes to a tick, does something there, and comes back: the run is where it was afterwards.
    pub(super) fn aside<T>(&mut self, tick: u64, there: impl FnOnce(&mut Run) -> T) -> T {
        let now = self.now.clone();
        self.seek(tick);
        let done = there(self);
        self.now = now;
        done
    }

    /// Makes the events of the ticks up to the present one again, if they were dropped from the record: as
    /// many ticks as fill the views. Plays them once more; the run is where it was afterwards.
    pub fn recall(&mut self) {
        let (tick, kept_from) = (self.tick(), self.record.kept_from());
        let known = self.recalled.ticks.contains(&tick);
        if tick >= kept_from || known {
            return;
        }
        let from = tick.saturating_sub(RECALL).max(1);
        self.aside(from - 1, |run| {
            // Every tick that follows the last of them adds its own.
            run.recalled = Recalled { ticks: from..from, events: Vec::new() };
            run.step_to(tick);
        });
    }

    /// The events up to the present tick, in their order: all that are kept; in the far past those that
    /// were made again by [`Run::recall`].
    pub fn events(&self) -> &[Event] {
        let tick = self.tick();
        if tick >= self.record.kept_from() {
            return self.record.events_until(tick);
        }
        let known = &self.recalled.events;
        if !self.recalled.ticks.contains(&tick) {
            return &[];
        }
        &known[..known.partition_point(|e| e.tick <= tick)]
    }
}
