//! How long the entities of a kind live: the product-limit estimate, which also uses those that are
//! still alive, of whom only is known that they have lived so long.

/// The share that is still alive at each age.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Survival {
    /// Age in ticks and the share that lives longer, `0.0..=1.0`; begins with all at age 0.
    pub steps: Vec<(u64, f64)>,
    /// The age in ticks half of them reach; `None` if more than half are still alive.
    pub median: Option<u64>,
    /// How many have ended.
    pub ended: usize,
    /// How many are still alive.
    pub alive: usize,
}

/// The estimate from lengths of life of those that ended and ages of those alive, both in ticks. At each
/// age `t` at which `d` of the `n` that reached it end, the share goes down by the factor `1 - d / n`.
pub fn survival(ended: &[u64], alive: &[u64]) -> Survival {
    let mut ages: Vec<(u64, bool)> = ended.iter().map(|age| (*age, true)).collect();
    ages.extend(alive.iter().map(|age| (*age, false)));
    ages.sort_unstable();
    let mut found =
        Survival { steps: vec![(0, 1.0)], median: None, ended: ended.len(), alive: alive.len() };
    let (mut left, mut share) = (ages.len(), 1.0f64);
    for group in ages.chunk_by(|a, b| a.0 == b.0) {
        let ends = group.iter().filter(|(_, is_end)| *is_end).count();
        if ends > 0 {
            share *= 1.0 - ends as f64 / left as f64;
            found.steps.push((group[0].0, share));
            if share <= 0.5 && found.median.is_none() {
                found.median = Some(group[0].0);
            }
        }
        left -= group.len();
    }
    if let Some((last, _)) = ages.last() {
        found.steps.push((*last, share));
    }
    found
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

    #[rstest]
    fn without_living_ones_it_ends_at_none() {
        assert_eq!(survival(&[2, 2, 7], &[]).steps.last(), Some(&(7, 0.0)));
    }
}
