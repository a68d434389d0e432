//! Bodies, filled to the quarter of a cell.

use tickpond_lang::program::Body;

use super::View;
use super::canvas::Canvas;
use crate::workbench::palette::Rgb;

/// Narrower bodies than this, in cells, are drawn by their glyph alone.
const SMALLEST: f64 = 2.5;

/// Whether a body is large enough to be filled.
pub fn shows(body: &Body, view: &View) -> bool {
    body.reach() * view.cells_per_u() * 2.0 >= SMALLEST
}

/// Fills a body, row by row. Costs its rows on the screen and the quarters nobody has filled before.
pub fn fill(
    body: &Body,
    at: (f64, f64),
    heading: f64,
    view: &View,
    canvas: &mut Canvas,
    colour: Option<Rgb>,
) {
    if !view.is_near(at, body.reach()) {
        return;
    }
    let (cx, cy) = view.place(at);
    let scale = view.cells_per_u();
    let top = f64::from(canvas.area().y);
    // Of a row's middle, how far below the body's it is, in u.
    let rows = canvas.rows();
    let high = body.reach() * scale / 2.0;
    let row_of = |y: f64| ((y - top) * 2.0).clamp(0.0, rows as f64) as usize;
    for row in row_of(cy - high - 1.0)..row_of(cy + high + 1.0) {
        let below = (top + (row as f64 + 0.5) / 2.0 - cy) * 2.0 / scale;
        let dy = if view.is_y_up() { -below } else { below };
        if let Some((from, to)) = across(body, heading, dy) {
            canvas.fill(row, cx + from * scale, cx + to * scale, colour);
        }
    }
}

/// From where to where a body reaches at a height above its middle, in u.
fn across(body: &Body, heading: f64, dy: f64) -> Option<(f64, f64)> {
    match *body {
        Body::None => None,
        Body::Circle { radius } => {
            let half = (radius * radius - dy * dy).max(0.0).sqrt();
            (half > 0.0).then_some((-half, half))
        }
        Body::Box { half, upright } => {
            let (sin, cos) = if upright { (0.0, 1.0) } else { heading.to_radians().sin_cos() };
            // In the box's own axes: along = dx cos + dy sin, aside = -dx sin + dy cos.
            let along = between(cos, dy * sin, half.0)?;
            let aside = between(-sin, dy * cos, half.1)?;
            let (from, to) = (along.0.max(aside.0), along.1.min(aside.1));
            (from < to).then_some((from, to))
        }
    }
}

/// For which `x` the sum `a x + b` stays within `±half`.
fn between(a: f64, b: f64, half: f64) -> Option<(f64, f64)> {
    if a.abs() < 1e-12 {
        // One of two sides belongs to it, so that what is seven rows high is drawn so.
        return (b > -half && b <= half).then_some((f64::NEG_INFINITY, f64::INFINITY));
    }
    let (one, other) = ((-half - b) / a, (half - b) / a);
    Some((one.min(other), one.max(other)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    fn a_box_that_is_turned_by_a_quarter_lies_the_other_way() {
        let body = Body::Box { half: (4.0, 1.0), upright: false };
        let (from, to) = across(&body, 90.0, 3.0).unwrap();
        assert!((from + 1.0).abs() < 1e-9 && (to - 1.0).abs() < 1e-9, "{from} {to}");
        assert_eq!(across(&body, 0.0, 3.0), None);
        let upright = Body::Box { half: (4.0, 1.0), upright: true };
        assert_eq!(across(&upright, 90.0, 0.5), Some((-4.0, 4.0)));
    }

    proptest! {
        #[test]
        fn a_place_is_filled_exactly_if_it_is_inside(heading in 0.0f64..360.0, x in -6.0f64..6.0, y in -6.0f64..6.0) {
            let half = (4.0, 1.5);
            let (sin, cos) = heading.to_radians().sin_cos();
            let (along, aside) = (x * cos + y * sin, -x * sin + y * cos);
            let inside = along.abs() < half.0 && aside.abs() < half.1;
            let span = across(&Body::Box { half, upright: false }, heading, y);
            prop_assert_eq!(span.is_some_and(|(from, to)| from < x && x < to), inside);
        }
    }
}
