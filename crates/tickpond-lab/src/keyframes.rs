//! States kept along the way, so that a jump has a near place to start from.

use std::collections::BTreeMap;
use std::sync::Arc;

/// Ticks from one keyframe to the next while the run is young.
const SPACING: u64 = 60;
/// How many of the newest ticks keep all their keyframes.
const NEAR: u64 = 3600;

/// Most that were given up and are kept for their memory.
const MOST_SPARE: usize = 32;

/// Snapshots by tick, within a budget of bytes.
///
/// Those of the newest [`NEAR`] ticks lie [`SPACING`] apart. When the budget is used up the older ones
/// are thinned, the densest first: so no place in the past is much further
/// from a keyframe than another, and a jump to any costs about the same.
#[derive(Clone, Debug)]
pub struct Keyframes<T> {
    frames: BTreeMap<u64, (Arc<T>, usize)>,
    bytes: usize,
    budget: usize,
    /// Those that were thinned out: the next are written into their memory.
    spare: Vec<T>,
}

impl<T: Clone> Keyframes<T> {
    /// No keyframes, and how many bytes they may take.
    pub fn new(budget: usize) -> Keyframes<T> {
        Keyframes { frames: BTreeMap::new(), bytes: 0, budget, spare: Vec::new() }
    }

    /// Whether a keyframe is due at `tick`.
    pub fn is_due(&self, tick: u64) -> bool {
        tick.is_multiple_of(SPACING) && !self.frames.contains_key(&tick)
    }

    /// Keeps a copy of what takes about `bytes`.
    pub fn keep(&mut self, tick: u64, now: &T, bytes: usize) {
        let snapshot = match self.spare.pop() {
            Some(mut spare) => {
                spare.clone_from(now);
                spare
            }
            None => now.clone(),
        };
        self.bytes += bytes;
        if let Some((_, old)) = self.frames.insert(tick, (Arc::new(snapshot), bytes)) {
            self.bytes -= old;
        }
        if self.bytes > self.budget {
            self.thin();
        }
    }

    fn thin(&mut self) {
        while self.bytes > self.budget && self.thin_once() {}
        self.spare.truncate(MOST_SPARE);
    }

    /// Doubles the distance of the older keyframes, the oldest first and no more of them than must be; false
    /// if nothing is left to give up.
    fn thin_once(&mut self) -> bool {
        let newest = self.frames.keys().next_back().copied().unwrap_or(0);
        let near = self.frames.range(newest.saturating_sub(NEAR)..).count();
        // A state so large that even the newest do not fit costs the eldest of those.
        let kept_near = if near * 2 > self.frames.len() { near / 2 } else { near };
        let ticks: Vec<u64> = self.frames.keys().copied().collect();
        let old = &ticks[..ticks.len() - kept_near];
        let gap = old.windows(2).map(|w| w[1] - w[0]).min().unwrap_or(SPACING);
        // Tick 0 stays: everything can be made again from there.
        let (mut last, before) = (0, self.frames.len());
        // A little room is left, so that not every keyframe costs a walk over all.
        let enough = self.budget - self.budget / 32;
        for tick in old.iter().skip(1) {
            if self.bytes <= enough {
                break;
            }
            if tick - last >= gap * 2 {
                last = *tick;
            } else if let Some((frame, bytes)) = self.frames.remove(tick) {
                self.bytes -= bytes;
                self.spare.extend(Arc::try_unwrap(frame).ok());
            }
        }
        self.frames.len() < before
    }

    /// How many bytes they may take.
    pub fn budget(&self) -> usize {
        self.budget
    }

    /// Sets how many bytes they may take.
    pub fn set_budget(&mut self, bytes: usize) {
        self.budget = bytes;
        self.thin();
        // What is to take less memory gives it back.
        self.spare.clear();
    }

    /// The last keyframe at or before `tick`.
    pub fn before(&self, tick: u64) -> Option<(u64, Arc<T>)> {
        self.frames.range(..=tick).next_back().map(|(tick, (frame, _))| (*tick, frame.clone()))
    }

    /// Forgets those after `tick`.
    pub fn truncate(&mut self, tick: u64) {
        for (_, (_, bytes)) in self.frames.split_off(&(tick + 1)) {
            self.bytes -= bytes;
        }
    }

    /// How many there are, and how many bytes they take.
    pub fn size(&self) -> (usize, usize) {
        (self.frames.len(), self.bytes)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    fn old_keyframes_thin_out_and_the_first_stays() {
        let mut frames = Keyframes::new(100);
        for tick in (0..6000).step_by(60) {
            frames.keep(tick, &tick, 10);
        }
        let (count, bytes) = frames.size();
        assert!(bytes <= 100 && count <= 10, "{count} {bytes}");
        assert_eq!(*frames.before(0).unwrap().1, 0);
        assert_eq!(*frames.before(5999).unwrap().1, 5940);
        frames.truncate(3000);
        assert!(frames.before(9999).unwrap().0 <= 3000);
    }

    #[rstest]
    fn a_long_run_keeps_its_newest_minute_and_even_steps_before_it() {
        let mut frames = Keyframes::new(200 * 10);
        for tick in (0..=216_000).step_by(60) {
            frames.keep(tick, &(), 10);
        }
        let ticks: Vec<u64> = frames.frames.keys().copied().collect();
        let gaps = |from: u64, to: u64| {
            let pairs = ticks.windows(2).filter(move |w| w[0] >= from && w[1] <= to);
            pairs.map(|w| w[1] - w[0]).collect::<Vec<u64>>()
        };
        assert!(ticks.len() <= 200);
        assert!(gaps(213_000, 216_000).iter().all(|gap| *gap == 60));
        let old = gaps(0, 200_000);
        let (least, most) = (old.iter().min().unwrap(), old.iter().max().unwrap());
        assert!(most <= &(least * 3), "{least} to {most}");
    }

    #[rstest]
    fn a_smaller_budget_holds_at_once() {
        let mut frames = Keyframes::new(1000);
        (0..=3000).step_by(60).for_each(|tick| frames.keep(tick, &(), 10));
        frames.set_budget(100);
        assert!(frames.size().1 <= 100, "{:?}", frames.size());
        assert!(frames.before(0).is_some());
    }

    #[rstest]
    fn what_is_written_into_the_memory_of_another_is_what_was_kept() {
        let mut frames = Keyframes::new(400);
        for tick in (0..=60_000).step_by(60) {
            frames.keep(tick, &vec![tick; (tick / 60 % 7) as usize], 10);
        }
        for (tick, (frame, _)) in &frames.frames {
            assert_eq!(**frame, vec![*tick; (tick / 60 % 7) as usize]);
        }
        assert!(frames.spare.len() <= MOST_SPARE);
    }
}
