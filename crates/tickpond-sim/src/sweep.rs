//! Swept tests: whether and when two moving bodies meet within a tick.
//!
//! The motion of one relative to the other is a straight segment. A box that turns is tested in steps of a few degrees, standing
//! still in each. Times are shares of the tick, 0 at its start.

use tickpond_lang::program::Body;

use crate::angle;

/// A body at the end of its way.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Shape {
    /// A circle with this radius.
    Circle(f64),
    /// A box with these half sizes, turned by this angle in deg.
    Box { half: (f64, f64), heading: f64 },
}

impl Shape {
    /// The shape of a body that faces in a direction; a point for what has none.
    pub fn of(body: &Body, heading: f64) -> Shape {
        match *body {
            Body::None => Shape::Circle(0.0),
            Body::Circle { radius } => Shape::Circle(radius),
            Body::Box { half, upright } => {
                Shape::Box { half, heading: if upright { 0.0 } else { heading } }
            }
        }
    }

    /// The shape with a skin around it.
    pub fn grown(self, skin: f64) -> Shape {
        match self {
            Shape::Circle(radius) => Shape::Circle(radius + skin),
            Shape::Box { half, heading } => {
                Shape::Box { half: (half.0 + skin, half.1 + skin), heading }
            }
        }
    }
}

type Pair = (f64, f64);

/// A body at the end of its way, and how far it has turned on it, in deg.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Turning {
    /// The body at the end.
    pub shape: Shape,
    /// How far it has turned.
    pub by: f64,
}

/// How far a box turns in a step, in deg: the way of its tip is off by less than 0.04 % of its length then.
const STEP: f64 = 3.0;
/// Most steps in a tick: a full turn and what a box of any length needs to meet a small one.
const MOST_STEPS: f64 = 360.0;

impl Turning {
    /// The body at a share of its way.
    fn at(self, share: f64) -> Shape {
        match self.shape {
            Shape::Box { half, heading } => {
                Shape::Box { half, heading: heading - self.by * (1.0 - share) }
            }
            circle => circle,
        }
    }

    fn turns(self) -> bool {
        matches!(self.shape, Shape::Box { .. }) && self.by != 0.0
    }

    /// How far from its place it reaches, and how thin it is.
    fn sizes(self) -> (f64, f64) {
        match self.shape {
            Shape::Circle(radius) => (radius, radius),
            Shape::Box { half, .. } => (libm::hypot(half.0, half.1), half.0.min(half.1)),
        }
    }
}

/// The same as [`meet`] for bodies that turn on their ways.
pub(crate) fn meet_turning(a: Turning, b: Turning, start: Pair, end: Pair) -> Option<f64> {
    if !a.turns() && !b.turns() {
        return meet(a.shape, b.shape, start, end);
    }
    let way = (end.0 - start.0, end.1 - start.1);
    let steps = steps(a, b);
    (0..steps as u32).find_map(|step| {
        let (from, to) = (f64::from(step) / steps, f64::from(step + 1) / steps);
        let at = |share: f64| (start.0 + way.0 * share, start.1 + way.1 * share);
        let met = match (a.turns(), b.shape) {
            // Seen from the box the circle goes around it: nothing lies between two steps.
            (true, Shape::Circle(radius)) => around_box(a, radius, (from, to), (at(from), at(to))),
            (false, _) if matches!(a.shape, Shape::Circle(_)) => {
                let Shape::Circle(radius) = a.shape else { return None };
                let seen = |share: f64| (-at(share).0, -at(share).1);
                around_box(b, radius, (from, to), (seen(from), seen(to)))
            }
            _ => meet(a.at((from + to) / 2.0), b.at((from + to) / 2.0), at(from), at(to)),
        };
        met.map(|time| from + time * (to - from))
    })
}

/// How many steps two bodies are followed in: of two boxes no tip goes further in one than the other is thin.
fn steps(a: Turning, b: Turning) -> f64 {
    let turn = a.by.abs().max(b.by.abs());
    let ((far_a, thin_a), (far_b, thin_b)) = (a.sizes(), b.sizes());
    let tip = (a.by.to_radians().abs() * far_a).max(b.by.to_radians().abs() * far_b);
    let thin = thin_a + thin_b;
    (turn / STEP).max(tip / thin.max(1e-9)).ceil().clamp(1.0, MOST_STEPS)
}

/// When a circle first meets a turning box on a stretch of its way, as a share of that stretch.
fn around_box(
    a: Turning,
    radius: f64,
    (from, to): (f64, f64),
    (start, end): (Pair, Pair),
) -> Option<f64> {
    let seen = |share: f64, p: Pair| match a.at(share) {
        Shape::Box { heading, .. } => angle::turned(p.0, p.1, -heading),
        Shape::Circle(_) => p,
    };
    let Shape::Box { half, .. } = a.shape else { return None };
    segment_round_box(seen(from, start), seen(to, end), half, radius)
}

/// When body `b`, going from `start` to `end` as seen from body `a` at the origin, first meets it;
/// `None` if it does not in this tick.
pub(crate) fn meet(a: Shape, b: Shape, start: Pair, end: Pair) -> Option<f64> {
    match (a, b) {
        (Shape::Circle(ra), Shape::Circle(rb)) => segment_circle(start, end, ra + rb),
        (Shape::Box { half, heading }, Shape::Circle(radius)) => {
            let turn = |p: Pair| angle::turned(p.0, p.1, -heading);
            segment_round_box(turn(start), turn(end), half, radius)
        }
        (Shape::Circle(_), Shape::Box { .. }) => {
            // As seen from the box the circle goes the other way.
            meet(b, a, (-start.0, -start.1), (-end.0, -end.1))
        }
        (Shape::Box { half, heading }, Shape::Box { half: other, heading: other_heading }) => {
            boxes((half, heading), (other, other_heading), start, end)
        }
    }
}

/// When a point on a segment first comes within `radius` of the origin.
fn segment_circle(start: Pair, end: Pair, radius: f64) -> Option<f64> {
    let (dx, dy) = (end.0 - start.0, end.1 - start.1);
    let c = start.0 * start.0 + start.1 * start.1 - radius * radius;
    if c <= 0.0 {
        return Some(0.0);
    }
    let a = dx * dx + dy * dy;
    let b = start.0 * dx + start.1 * dy;
    if a == 0.0 || b >= 0.0 {
        return None;
    }
    let root = b * b - a * c;
    if root < 0.0 {
        return None;
    }
    let time = (-b - root.sqrt()) / a;
    (time <= 1.0).then_some(time.max(0.0))
}

/// When a point on a segment first comes within `radius` of an upright box around the origin.
fn segment_round_box(start: Pair, end: Pair, half: Pair, radius: f64) -> Option<f64> {
    let wide = segment_box(start, end, (half.0 + radius, half.1));
    let tall = segment_box(start, end, (half.0, half.1 + radius));
    let corners = [(-1.0, -1.0), (-1.0, 1.0), (1.0, -1.0), (1.0, 1.0)].map(|(sx, sy)| {
        let (cx, cy) = (half.0 * sx, half.1 * sy);
        segment_circle((start.0 - cx, start.1 - cy), (end.0 - cx, end.1 - cy), radius)
    });
    corners.into_iter().chain([wide, tall]).flatten().min_by(f64::total_cmp)
}

/// When a point on a segment first comes into an upright box around the origin.
fn segment_box(start: Pair, end: Pair, half: Pair) -> Option<f64> {
    let (mut enter, mut leave) = (0.0f64, 1.0f64);
    for (s, e, h) in [(start.0, end.0, half.0), (start.1, end.1, half.1)] {
        span_on_axis(s, e - s, h, &mut enter, &mut leave)?;
    }
    Some(enter)
}

/// Narrows the span of time in which `start + way * t` lies in `-half..=half`.
fn span_on_axis(start: f64, way: f64, half: f64, enter: &mut f64, leave: &mut f64) -> Option<()> {
    if way == 0.0 {
        return (start.abs() <= half).then_some(());
    }
    let (a, b) = ((-half - start) / way, (half - start) / way);
    *enter = enter.max(a.min(b));
    *leave = leave.min(a.max(b));
    (*enter <= *leave).then_some(())
}

/// When two turned boxes first overlap: they do where they do on all four axes (separating axis
/// theorem for moving convex shapes).
fn boxes(a: (Pair, f64), b: (Pair, f64), start: Pair, end: Pair) -> Option<f64> {
    let axes_of = |heading: f64| {
        let (sin, cos) = angle::sin_cos(heading);
        [(cos, sin), (-sin, cos)]
    };
    let (axes_a, axes_b) = (axes_of(a.1), axes_of(b.1));
    let dot = |p: Pair, q: Pair| p.0 * q.0 + p.1 * q.1;
    let reach = |axes: &[Pair; 2], half: Pair, axis: Pair| {
        half.0 * dot(axes[0], axis).abs() + half.1 * dot(axes[1], axis).abs()
    };
    let (mut enter, mut leave) = (0.0f64, 1.0f64);
    for axis in axes_a.into_iter().chain(axes_b) {
        let sum = reach(&axes_a, a.0, axis) + reach(&axes_b, b.0, axis);
        let (s, e) = (dot(start, axis), dot(end, axis));
        span_on_axis(s, e - s, sum, &mut enter, &mut leave)?;
    }
    Some(enter)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    const BOX: Shape = Shape::Box { half: (2.0, 1.0), heading: 0.0 };
    const TURNED: Shape = Shape::Box { half: (2.0, 1.0), heading: 90.0 };

    #[rstest]
    #[case::through(Shape::Circle(0.5), Shape::Circle(0.5), (-4.0, 0.0), (4.0, 0.0), Some(0.375))]
    #[case::past(Shape::Circle(0.5), Shape::Circle(0.5), (-4.0, 1.1), (4.0, 1.1), None)]
    #[case::inside(Shape::Circle(2.0), Shape::Circle(0.5), (0.0, 0.0), (9.0, 0.0), Some(0.0))]
    #[case::short(Shape::Circle(0.5), Shape::Circle(0.5), (-4.0, 0.0), (-2.0, 0.0), None)]
    #[case::box_side(BOX, Shape::Circle(1.0), (-7.0, 0.0), (3.0, 0.0), Some(0.4))]
    #[case::box_turned(TURNED, Shape::Circle(1.0), (-7.0, 0.0), (3.0, 0.0), Some(0.5))]
    #[case::round_corner(BOX, Shape::Circle(1.0), (2.8, 4.0), (2.8, 1.8), None)]
    #[case::two_boxes(BOX, BOX, (-9.0, 0.0), (1.0, 0.0), Some(0.5))]
    #[case::box_over_box(BOX, TURNED, (0.0, 9.0), (0.0, -1.0), Some(0.6))]
    fn bodies_meet_on_their_ways(
        #[case] a: Shape,
        #[case] b: Shape,
        #[case] start: Pair,
        #[case] end: Pair,
        #[case] time: Option<f64>,
    ) {
        let found = meet(a, b, start, end);
        match (found, time) {
            (Some(found), Some(time)) => assert!((found - time).abs() < 1e-12, "{found}"),
            _ => assert_eq!(found, time),
        }
    }

    /// The same question by walking along the way in small steps.
    fn walked(a: Shape, b: Shape, start: Pair, end: Pair) -> bool {
        (0..=2000).any(|i| {
            let t = f64::from(i) / 2000.0;
            let at = (start.0 + (end.0 - start.0) * t, start.1 + (end.1 - start.1) * t);
            meet(a, b, at, at).is_some()
        })
    }

    fn shape() -> impl Strategy<Value = Shape> {
        prop_oneof![
            (0.2..2.0f64).prop_map(Shape::Circle),
            (0.2..2.0f64, 0.2..2.0f64, 0.0..360.0f64)
                .prop_map(|(w, h, heading)| Shape::Box { half: (w, h), heading }),
        ]
    }

    proptest! {
        #[test]
        fn a_way_meets_what_standing_along_it_meets(
            a in shape(),
            b in shape(),
            start in (-8.0..8.0f64, -8.0..8.0f64),
            end in (-8.0..8.0f64, -8.0..8.0f64),
        ) {
            let met = meet(a, b, start, end).is_some();
            // Steps can miss a graze, never find what is not there.
            if walked(a, b, start, end) {
                prop_assert!(met);
            }
        }

        #[test]
        fn meeting_is_the_same_from_either_side(
            a in shape(),
            b in shape(),
            start in (-8.0..8.0f64, -8.0..8.0f64),
            end in (-8.0..8.0f64, -8.0..8.0f64),
        ) {
            let back = meet(b, a, (-start.0, -start.1), (-end.0, -end.1));
            prop_assert_eq!(meet(a, b, start, end).is_some(), back.is_some());
        }
    }
}
