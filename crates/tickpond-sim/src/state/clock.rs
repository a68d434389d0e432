//! A tick at which something is due, or since which something holds: with names for what is no tick.

use bytemuck::{Pod, Zeroable};

/// A tick, or one of three things that are none. They are in the order in which they come due: what is not set is
/// looked at at once, what is stopped or never due comes after all ticks; so one comparison finds all that is due.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Pod, Zeroable)]
#[repr(transparent)]
pub struct Clock(u64);

impl Clock {
    /// Not set yet: whoever looks sets it.
    pub const UNSET: Clock = Clock(0);
    /// Stopped for good.
    pub const STOPPED: Clock = Clock(u64::MAX - 1);
    /// Never due.
    pub const NEVER: Clock = Clock(u64::MAX);

    /// At a tick; one beyond all counting never comes. Nothing falls due in tick 0, so that [`Clock::UNSET`] can have its word; what
    /// holds since tick 0 is only compared with later ticks.
    pub fn at(tick: u64) -> Clock {
        if tick < Clock::STOPPED.0 { Clock(tick) } else { Clock::NEVER }
    }

    /// The tick, if it is one.
    pub fn tick(self) -> Option<u64> {
        (Clock::UNSET < self && self < Clock::STOPPED).then_some(self.0)
    }

    /// Whether it is due at a tick, or not set.
    #[inline(always)]
    pub fn is_due(self, tick: u64) -> bool {
        self.0 <= tick
    }

    /// The earlier of it and a tick.
    #[inline(always)]
    pub fn or_before(self, tick: u64) -> u64 {
        self.0.min(tick)
    }

    /// So many ticks later; what is no tick stays what it is.
    pub fn later_by(self, ticks: u64) -> Clock {
        self.tick().map_or(self, |tick| Clock::at(tick.saturating_add(ticks)))
    }

    /// As a word of a block.
    pub fn to_word(self) -> u64 {
        self.0
    }
}

impl Default for Clock {
    fn default() -> Clock {
        Clock::UNSET
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::a_tick(Clock::at(7), Some(7), Clock::at(9))]
    #[case::not_set(Clock::UNSET, None, Clock::UNSET)]
    #[case::stopped(Clock::STOPPED, None, Clock::STOPPED)]
    #[case::never(Clock::NEVER, None, Clock::NEVER)]
    #[case::beyond_counting(Clock::at(u64::MAX - 1), None, Clock::NEVER)]
    fn what_is_no_tick_stays_what_it_is(
        #[case] clock: Clock,
        #[case] tick: Option<u64>,
        #[case] later: Clock,
    ) {
        assert_eq!((clock.tick(), clock.later_by(2)), (tick, later));
    }

    #[rstest]
    fn one_comparison_finds_what_is_due_or_not_set() {
        let due = [Clock::UNSET, Clock::at(7), Clock::at(8), Clock::STOPPED, Clock::NEVER];
        assert_eq!(due.map(|clock| clock.is_due(7)), [true, true, false, false, false]);
    }
}
