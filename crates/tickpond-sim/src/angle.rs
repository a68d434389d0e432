//! Angles in degrees, by a portable implementation: the same bits on every machine.

/// Sine and cosine of an angle in degrees; exact at multiples of 90.
pub fn sin_cos(degrees: f64) -> (f64, f64) {
    let turned = degrees % 360.0;
    let quarter = (turned / 90.0).round();
    let rest = turned - quarter * 90.0;
    let (sin, cos) = (libm::sin(rest.to_radians()), libm::cos(rest.to_radians()));
    match (quarter as i64).rem_euclid(4) {
        0 => (sin, cos),
        1 => (cos, -sin),
        2 => (-sin, -cos),
        _ => (-cos, sin),
    }
}

/// The direction of a vector in degrees, in `0.0..360.0`; `None` for the zero vector.
pub fn direction(x: f64, y: f64) -> Option<f64> {
    if x == 0.0 && y == 0.0 {
        return None;
    }
    Some(normal(libm::atan2(y, x).to_degrees()))
}

/// The same angle in `0.0..360.0`.
pub fn normal(degrees: f64) -> f64 {
    let turned = degrees % 360.0;
    let turned = if turned < 0.0 { turned + 360.0 } else { turned };
    // A tiny negative angle plus 360 rounds to 360 itself.
    if turned >= 360.0 { 0.0 } else { turned + 0.0 }
}

/// A vector turned by an angle in degrees.
pub fn turned(x: f64, y: f64, degrees: f64) -> (f64, f64) {
    let (sin, cos) = sin_cos(degrees);
    (x * cos - y * sin, x * sin + y * cos)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(0.0, 0.0, 1.0)]
    #[case(90.0, 1.0, 0.0)]
    #[case(180.0, 0.0, -1.0)]
    #[case(270.0, -1.0, 0.0)]
    #[case(-90.0, -1.0, 0.0)]
    #[case(720.0, 0.0, 1.0)]
    fn quarters_are_exact(#[case] degrees: f64, #[case] sin: f64, #[case] cos: f64) {
        assert_eq!(sin_cos(degrees), (sin, cos));
    }

    #[rstest]
    fn direction_undoes_sin_cos() {
        for degrees in 0..360 {
            let (sin, cos) = sin_cos(f64::from(degrees));
            let back = direction(cos, sin).unwrap();
            assert!((back - f64::from(degrees)).abs() < 1e-9, "{degrees} {back}");
        }
        assert_eq!(direction(0.0, 0.0), None);
        assert_eq!(normal(-1e-300), 0.0);
    }
}
