//! How long the entities of a kind live: the product-limit estimate, which also uses those that are
//! still alive, of whom only is known that they have lived so long.

use std::collections::BTreeMap;

/// The share that is still alive at each age.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Survival {
    /// Age in ticks and the share that lives longer, `0.0..=1.0`; begins with all at age 0.
    pub steps: Vec<(u64, f64)>,
    /// For each step the interval that holds the true share in 95 of 100 cases: Greenwood's variance, on the scale of
    /// `log(-log(share))`, so that it stays within 0 and 1 (J. D. Kalbfleisch, R. L. Prentice, "The Statistical Analysis of
    /// Failure Time Data", 1980). At a share of 1 or 0 there is nothing to estimate it by: it is that share.
    pub interval: Vec<(f64, f64)>,
    /// The age in ticks half of them reach; `None` if more than half are still alive.
    pub median: Option<u64>,
    /// How many have ended.
    pub ended: usize,
    /// How many are still alive.
    pub alive: usize,
}

/// The estimate from lengths of life of those that ended and ages of those alive, both in ticks. At each
/// age `t` at which `d` of the `n` that reached it end, the share goes down by the factor `1 - d / n`.
/// Costs the lives and, for those of a length of their own, the logarithm of their number.
pub fn survival(ended: &[u64], alive: &[u64]) -> Survival {
    // By age: how many ended, how many are alive.
    let mut ages: BTreeMap<u64, (usize, usize)> = BTreeMap::new();
    ended.iter().for_each(|age| ages.entry(*age).or_default().0 += 1);
    alive.iter().for_each(|age| ages.entry(*age).or_default().1 += 1);
    let mut found = Survival {
        steps: vec![(0, 1.0)],
        ended: ended.len(),
        alive: alive.len(),
        ..Survival::default()
    };
    found.interval.push((1.0, 1.0));
    let (mut left, mut share) = (ended.len() + alive.len(), 1.0f64);
    // The sum of Greenwood's formula: d / (n (n - d)).
    let mut spread = 0.0;
    for (age, (ends, living)) in &ages {
        if *ends > 0 {
            share *= 1.0 - *ends as f64 / left as f64;
            found.steps.push((*age, share));
            if left > *ends {
                spread += *ends as f64 / (left as f64 * (left - ends) as f64);
            }
            found.interval.push(around(share, spread));
            if share <= 0.5 && found.median.is_none() {
                found.median = Some(*age);
            }
        }
        left -= ends + living;
    }
    if let Some((last, _)) = ages.last_key_value() {
        found.steps.push((*last, share));
        found.interval.push(around(share, spread));
    }
    found
}

/// The interval around a share; `spread` is the sum of Greenwood's formula.
fn around(share: f64, spread: f64) -> (f64, f64) {
    /// So many standard deviations hold 95 of 100.
    const DEVIATIONS: f64 = 1.959_963_984_540_054;
    if share <= 0.0 || share >= 1.0 {
        return (share, share);
    }
    let deviation = spread.sqrt() / share.ln().abs();
    let at = |by: f64| share.powf((by * DEVIATIONS * deviation).exp());
    (at(1.0), at(-1.0))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(&[1, 2, 3, 4], &[], Some(2))]
    #[case(&[5], &[], Some(5))]
    #[case(&[1], &[9, 9, 9], None)]
    #[case(&[], &[3], None)]
    #[case(&[], &[], None)]
    fn the_median_is_the_age_half_reach(
        #[case] ended: &[u64],
        #[case] alive: &[u64],
        #[case] median: Option<u64>,
    ) {
        assert_eq!(survival(ended, alive).median, median);
    }

    #[rstest]
    fn the_living_count_as_long_as_they_have_lived() {
        // Four reach age 1, where one ends; two are left at age 3, where one ends.
        let found = survival(&[1, 3], &[2, 4]);
        let shares: Vec<(u64, f64)> = found.steps;
        assert_eq!(shares, [(0, 1.0), (1, 0.75), (3, 0.375), (4, 0.375)]);
        assert_eq!(found.median, Some(3));
    }

    /// Ten lives, of which one ends at age 1: the share is 0.9, Greenwood's sum 1 / (10 * 9), its root 0.105409, by
    /// |ln 0.9| = 0.105361 that is 1.000463; 0.9 to the power of exp(1.96 * 1.000463) = 7.1053 and of its inverse.
    #[rstest]
    fn the_interval_is_that_of_the_book() {
        let found = survival(&[1], &[5; 9]);
        let (low, high) = found.interval[1];
        assert!((low - 0.473).abs() < 5e-4 && (high - 0.9853).abs() < 5e-4, "{low} {high}");
        assert_eq!(found.interval.len(), found.steps.len());
        assert_eq!(survival(&[1, 2], &[]).interval.last(), Some(&(0.0, 0.0)));
    }

    #[rstest]
    fn without_living_ones_it_ends_at_none() {
        assert_eq!(survival(&[2, 2, 7], &[]).steps.last(), Some(&(7, 0.0)));
    }
}
