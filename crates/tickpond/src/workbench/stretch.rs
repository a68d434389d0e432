//! The stretch of time that charts and lifelines show: it can be made shorter around a moment, and goes along with it.

/// The shortest stretch, in ticks.
const SHORTEST: u64 = 20;

/// A stretch of ticks, from one to another.
pub type Stretch = (u64, u64);

/// The stretch as it lies when a tick is present: as long as before, moved so that the tick is in it.
pub fn around((from, to): Stretch, tick: u64) -> Stretch {
    let long = to - from;
    if tick < from {
        (tick, tick + long)
    } else if tick > to {
        (tick - long, tick)
    } else {
        (from, to)
    }
}

/// Half as long, with a tick at the same share of it.
pub fn nearer((from, to): Stretch, tick: u64) -> Stretch {
    scaled((from, to), tick, ((to - from) / 2).max(SHORTEST))
}

/// Twice as long, with a tick at the same share of it as far as the run goes; none if it would be all of it.
pub fn wider((from, to): Stretch, tick: u64, head: u64) -> Option<Stretch> {
    let long = ((to - from) * 2).max(SHORTEST);
    if long >= head {
        return None;
    }
    let (from, to) = scaled((from, to), tick, long);
    let over = to.saturating_sub(head);
    Some((from - over.min(from), to - over.min(from)))
}

fn scaled((from, to): Stretch, tick: u64, long: u64) -> Stretch {
    let share = tick.saturating_sub(from) as f64 / (to - from).max(1) as f64;
    let before = (share.min(1.0) * long as f64).round() as u64;
    let from = tick.saturating_sub(before);
    (from, from + long)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case((100, 200), 150, (100, 200))]
    #[case((100, 200), 40, (40, 140))]
    #[case((100, 200), 260, (160, 260))]
    fn it_goes_along(#[case] stretch: Stretch, #[case] tick: u64, #[case] wanted: Stretch) {
        assert_eq!(around(stretch, tick), wanted);
    }

    #[rstest]
    fn the_moment_stays_where_it_is_on_the_screen() {
        assert_eq!(nearer((0, 400), 100), (50, 250));
        assert_eq!(wider((50, 250), 100, 1000), Some((0, 400)));
        assert_eq!(wider((0, 400), 100, 700), None, "that is all");
        assert_eq!(wider((600, 800), 700, 850), Some((450, 850)), "no further than there is");
    }

    proptest! {
        #[test]
        fn the_moment_stays_inside(from in 0u64..5000, long in 20u64..5000, at in 0.0f64..=1.0, more in 0u64..5000) {
            let tick = from + (long as f64 * at) as u64;
            let head = from + long + more;
            let (a, b) = nearer((from, from + long), tick);
            prop_assert!(a <= tick && tick <= b && b - a >= SHORTEST);
            if let Some((a, b)) = wider((from, from + long), tick, head) {
                prop_assert!(a <= tick && tick <= b && b <= head && b - a == (long * 2).max(SHORTEST));
            }
        }
    }
}
