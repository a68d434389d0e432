//! States kept along the way, so that a jump has a near place to start from.

use std::collections::BTreeMap;
use std::sync::Arc;

/// Ticks from one keyframe to the next while the run is young.
const SPACING: u64 = 60;

/// Snapshots by tick, within a budget of bytes.
///
/// The newest lie [`SPACING`] ticks apart. When the budget is used up every second one of the older
/// half goes, so that their distance grows with their age.
#[derive(Clone, Debug)]
pub struct Keyframes<T> {
    frames: BTreeMap<u64, (Arc<T>, usize)>,
    bytes: usize,
    budget: usize,
}

impl<T> Keyframes<T> {
    /// No keyframes, and how many bytes they may take.
    pub fn new(budget: usize) -> Keyframes<T> {
        Keyframes { frames: BTreeMap::new(), bytes: 0, budget }
    }

    /// Whether a keyframe is due at `tick`.
    pub fn is_due(&self, tick: u64) -> bool {
        tick.is_multiple_of(SPACING) && !self.frames.contains_key(&tick)
    }

    /// Keeps a snapshot that takes about `bytes`.
    pub fn keep(&mut self, tick: u64, snapshot: T, bytes: usize) {
        self.bytes += bytes;
        if let Some((_, old)) = self.frames.insert(tick, (Arc::new(snapshot), bytes)) {
            self.bytes -= old;
        }
        if self.bytes > self.budget {
            self.thin();
        }
    }

    fn thin(&mut self) {
        let ticks: Vec<u64> = self.frames.keys().copied().collect();
        // Tick 0 stays: everything can be made again from there.
        for tick in ticks[..ticks.len() / 2].iter().skip(1).step_by(2) {
            if let Some((_, bytes)) = self.frames.remove(tick) {
                self.bytes -= bytes;
            }
        }
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
            frames.keep(tick, tick, 10);
        }
        let (count, bytes) = frames.size();
        assert!(bytes <= 100 && count <= 10, "{count} {bytes}");
        assert_eq!(*frames.before(0).unwrap().1, 0);
        assert_eq!(*frames.before(5999).unwrap().1, 5940);
        frames.truncate(3000);
        assert!(frames.before(9999).unwrap().0 <= 3000);
    }
}
