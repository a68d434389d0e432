//! Angles in degrees, by a portable implementation: the same bits on every machine.

/// Sine and cosine of an angle in degrees; exact at multiples of 90.
///
/// The angle is brought to within 45 degrees of a multiple of 90, and the polynomials of fdlibm
/// (`k_sin.c`, `k_cos.c`, Sun Microsystems 1993) are taken there: additions and multiplications alone,
/// so the bits are the same on every machine, and a block of angles is worked out side by side.
#[inline(always)]
pub fn sin_cos(degrees: f64) -> (f64, f64) {
    near_sin_cos(if is_near(degrees) { degrees } else { degrees % 360.0 })
}

/// Whether an angle needs no remainder before [`near_sin_cos`].
#[inline(always)]
pub(crate) fn is_near(degrees: f64) -> bool {
    degrees.abs() < 1.0e9
}

/// [`sin_cos`] of an angle that [`is_near`]: without a remainder, so that loops over many are worked out
/// side by side.
#[inline(always)]
pub(crate) fn near_sin_cos(degrees: f64) -> (f64, f64) {
    // 2^52 and a half: adding and taking it away again rounds to the nearest whole number, whose
    // lowest bits are those of the sum.
    const ROUND: f64 = 6_755_399_441_055_744.0;
    let rounded = degrees * (1.0 / 90.0) + ROUND;
    let quarter = rounded - ROUND;
    let x = (degrees - quarter * 90.0) * (std::f64::consts::PI / 180.0);
    let z = x * x;
    let sin_tail = 8.333_333_333_322_49e-3
        + z * (-1.984_126_982_985_795e-4
            + z * (2.755_731_370_707_007e-6
                + z * (-2.505_076_025_340_686_4e-8 + z * 1.589_690_995_211_55e-10)));
    let sin = x + x * z * (-1.666_666_666_666_663_2e-1 + z * sin_tail);
    let cos_tail = z
        * (4.166_666_666_666_66e-2
            + z * (-1.388_888_888_887_411e-3
                + z * (2.480_158_728_947_673e-5
                    + z * (-2.755_731_435_139_066_3e-7
                        + z * (2.087_572_321_298_175e-9 - z * 1.135_964_755_778_819_5e-11)))));
    let cos = 1.0 - (0.5 * z - z * cos_tail);
    let nth = rounded.to_bits();
    let (s, c) = if nth & 1 == 0 { (sin, cos) } else { (cos, -sin) };
    if nth & 2 == 0 { (s, c) } else { (-s, -c) }
}

/// The direction of a vector in degrees, in `0.0..360.0`; `None` for the zero vector.
pub fn direction(x: f64, y: f64) -> Option<f64> {
    if x == 0.0 && y == 0.0 {
        return None;
    }
    Some(normal(libm::atan2(y, x).to_degrees()))
}

/// The same angle in `0.0..360.0`.
#[inline(always)]
pub fn normal(degrees: f64) -> f64 {
    // Most angles are near enough, and a remainder is slow.
    if (0.0..360.0).contains(&degrees) {
        return degrees + 0.0;
    }
    if (-360.0..0.0).contains(&degrees) {
        let turned = degrees + 360.0;
        return if turned >= 360.0 { 0.0 } else { turned };
    }
    if (360.0..720.0).contains(&degrees) {
        return degrees - 360.0;
    }
    let turned = degrees % 360.0;
    let turned = if turned < 0.0 { turned + 360.0 } else { turned };
    // A tiny negative angle plus 360 rounds to 360 itself.
    if turned >= 360.0 { 0.0 } else { turned + 0.0 }
}

/// Whether [`near_normal`] is enough for an angle.
#[inline(always)]
pub(crate) fn is_nearly_normal(degrees: f64) -> bool {
    (-360.0..720.0).contains(&degrees)
}

/// [`normal`] of an angle that [`is_nearly_normal`]: without a remainder or a branch, so that loops over
/// many are worked out side by side.
#[inline(always)]
pub(crate) fn near_normal(degrees: f64) -> f64 {
    let up = if degrees < 0.0 { degrees + 360.0 } else { degrees + 0.0 };
    // A tiny negative angle plus 360 rounds to 360 itself.
    if up >= 360.0 { up - 360.0 } else { up }
}

/// A vector turned by an angle in degrees.
#[inline(always)]
pub fn turned(x: f64, y: f64, degrees: f64) -> (f64, f64) {
    turned_by(x, y, sin_cos(degrees))
}

/// A vector turned by the angle of this sine and cosine.
#[inline(always)]
pub(crate) fn turned_by(x: f64, y: f64, (sin, cos): (f64, f64)) -> (f64, f64) {
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
    fn the_polynomials_agree_with_the_library() {
        for step in -400_000..400_000 {
            let degrees = f64::from(step) * 0.0123;
            let (sin, cos) = sin_cos(degrees);
            let rad = (degrees % 360.0).to_radians();
            assert!((sin - libm::sin(rad)).abs() < 2e-15, "{degrees}");
            assert!((cos - libm::cos(rad)).abs() < 2e-15, "{degrees}");
        }
        assert!(sin_cos(1.0e300).0.abs() <= 1.0);
    }

    #[rstest]
    fn the_short_ways_give_the_same_bits() {
        let mut degrees = -360.0;
        while degrees < 720.0 {
            assert!(is_nearly_normal(degrees));
            assert_eq!(near_normal(degrees).to_bits(), normal(degrees).to_bits(), "{degrees}");
            degrees += 0.618;
        }
        for edge in [-360.0, -0.0, 0.0, -1e-300, -1e-14, 359.999_999_999_999_97, 360.0, 719.9] {
            assert_eq!(near_normal(edge).to_bits(), normal(edge).to_bits(), "{edge}");
        }
        assert!(
            !is_nearly_normal(720.0) && !is_nearly_normal(-360.1) && !is_nearly_normal(f64::NAN)
        );
        assert!(is_near(-9.9e8) && !is_near(1e9) && !is_near(f64::NAN));
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
