//! Round numbers for axes.

/// Round values from 0 to at least `top`, about `wanted` of them; ascending, the first is 0.
pub(crate) fn round_values(top: f64, wanted: usize, whole: bool) -> Vec<f64> {
    let top = if top > 0.0 { top } else { 1.0 };
    let rough = top / wanted.max(1) as f64;
    let magnitude = 10f64.powf(rough.log10().floor());
    let factor = [1.0, 2.0, 5.0, 10.0].into_iter().find(|f| f * magnitude >= rough * 0.999);
    let step = factor.unwrap_or(10.0) * magnitude;
    let step = if whole { step.max(1.0) } else { step };
    let count = (top / step - 1e-9).ceil() as usize;
    (0..=count).map(|i| i as f64 * step).collect()
}

/// Round values around a range: the first at most `low`, the last at least `high`, about `wanted` of them, 0 among them
/// if it lies between.
pub(crate) fn round_between(low: f64, high: f64, wanted: usize, whole: bool) -> Vec<f64> {
    if low == 0.0 {
        return round_values(high, wanted, whole);
    }
    let steps = round_values((high - low).max(1e-9), wanted, whole);
    let step = steps.get(1).copied().unwrap_or(1.0);
    let (first, last) =
        ((low / step).floor(), (high / step - 1e-9).ceil().max((low / step).floor() + 1.0));
    (0..=(last - first) as usize).map(|i| (first + i as f64) * step).collect()
}

/// A number without needless decimals.
pub(crate) fn plain(value: f64) -> String {
    let text = format!("{value:.3}");
    text.trim_end_matches('0').trim_end_matches('.').to_string()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(-3.0, 7.0, 5, &[-4.0, -2.0, 0.0, 2.0, 4.0, 6.0, 8.0])]
    #[case(21.0, 29.0, 4, &[20.0, 22.0, 24.0, 26.0, 28.0, 30.0])]
    #[case(5.0, 5.0, 4, &[5.0, 5.0])]
    fn axes_reach_around_a_range(
        #[case] low: f64,
        #[case] high: f64,
        #[case] wanted: usize,
        #[case] values: &[f64],
    ) {
        let found = round_between(low, high, wanted, false);
        assert_eq!(found.len(), values.len(), "{found:?}");
        assert!(found.iter().zip(values).all(|(a, b)| (a - b).abs() < 1e-6), "{found:?}");
    }

    #[rstest]
    #[case(29.0, 5, true, &[0.0, 10.0, 20.0, 30.0])]
    #[case(3.0, 5, true, &[0.0, 1.0, 2.0, 3.0])]
    #[case(60.0, 6, false, &[0.0, 10.0, 20.0, 30.0, 40.0, 50.0, 60.0])]
    #[case(0.0, 5, true, &[0.0, 1.0])]
    #[case(0.5, 5, false, &[0.0, 0.1, 0.2, 0.3, 0.4, 0.5])]
    fn axes_carry_round_numbers(
        #[case] top: f64,
        #[case] wanted: usize,
        #[case] whole: bool,
        #[case] values: &[f64],
    ) {
        let found = round_values(top, wanted, whole);
        assert_eq!(found.len(), values.len(), "{found:?}");
        assert!(found.iter().zip(values).all(|(a, b)| (a - b).abs() < 1e-9), "{found:?}");
    }
}
