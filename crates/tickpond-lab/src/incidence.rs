//! What ends the entities of a kind, by which age: causes that compete for the same life.

use std::collections::BTreeMap;

use tickpond_lang::program::Cause;

/// The share that has ended by each cause, by age.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Incidence {
    /// The ages in ticks at which any ended, ascending.
    pub ages: Vec<u64>,
    /// The causes that ended any, and for each age the share that has ended by it up to then, `0.0..=1.0`; the cause with the
    /// largest share at the last age first.
    pub causes: Vec<(Cause, Vec<f64>)>,
}

/// The estimate from lengths of life with what ended them and ages of those alive, all in ticks. At each age `t` at which
/// `d` of the `n` that reached it end by a cause, its share grows by `d / n` of the share that lived up to then: with
/// [what is still alive](crate::survival::survival) the shares of all causes make 1 at every age (O. O. Aalen, S. Johansen, "An
/// empirical transition matrix for non-homogeneous Markov chains based on censored observations", 1978). A cause is not
/// taken for the end of those that another one was quicker with. Costs the lives and, for each length of its own, the causes.
pub fn incidence(ended: &[(u64, Cause)], alive: &[u64]) -> Incidence {
    // By age: how many ended by each cause, how many are alive.
    let mut ages: BTreeMap<u64, ([usize; Cause::ALL.len()], usize)> = BTreeMap::new();
    for (age, cause) in ended {
        ages.entry(*age).or_default().0[*cause as usize] += 1;
    }
    alive.iter().for_each(|age| ages.entry(*age).or_default().1 += 1);
    let known = Cause::ALL.into_iter().filter(|cause| ended.iter().any(|end| end.1 == *cause));
    let mut found =
        Incidence { ages: Vec::new(), causes: known.map(|cause| (cause, Vec::new())).collect() };
    let (mut left, mut share) = (ended.len() + alive.len(), 1.0f64);
    for (age, (ends, living)) in &ages {
        let all: usize = ends.iter().sum();
        if all > 0 {
            found.ages.push(*age);
            for (cause, shares) in &mut found.causes {
                let before = shares.last().copied().unwrap_or(0.0);
                shares.push(before + share * ends[*cause as usize] as f64 / left as f64);
            }
            share *= 1.0 - all as f64 / left as f64;
        }
        left -= all + living;
    }
    let last = |shares: &Vec<f64>| shares.last().copied().unwrap_or(0.0);
    found.causes.sort_by(|a, b| last(&b.1).total_cmp(&last(&a.1)));
    found
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::survival::survival;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    fn a_cause_has_its_share_of_those_that_lived_up_to_then() {
        // Four reach age 1, where one ends by an edge; of the two that reach age 3 one ends by damage: half of 0.75.
        let found = incidence(&[(1, Cause::Edge), (3, Cause::Damage)], &[2, 4]);
        assert_eq!(found.ages, [1, 3]);
        assert_eq!(
            found.causes,
            [(Cause::Damage, vec![0.0, 0.375]), (Cause::Edge, vec![0.25, 0.25])]
        );
    }

    #[rstest]
    fn where_nobody_has_ended_there_is_none() {
        assert_eq!(incidence(&[], &[3, 9]), Incidence::default());
    }

    proptest! {
        /// At every age everyone has ended by some cause or is alive.
        #[test]
        fn shares_of_all_causes_and_the_living_make_one(
            ended in prop::collection::vec((0u64..40, 0usize..Cause::ALL.len()), 0..60),
            alive in prop::collection::vec(0u64..60, 0..20),
        ) {
            let ended: Vec<(u64, Cause)> =
                ended.into_iter().map(|(age, cause)| (age, Cause::ALL[cause])).collect();
            let found = incidence(&ended, &alive);
            let ages: Vec<u64> = ended.iter().map(|end| end.0).collect();
            let living = survival(&ages, &alive);
            for (at, age) in found.ages.iter().enumerate() {
                let by_causes: f64 = found.causes.iter().map(|(_, shares)| shares[at]).sum();
                let upto = living.steps.partition_point(|step| step.0 <= *age);
                prop_assert!((by_causes + living.steps[upto - 1].1 - 1.0).abs() < 1e-9);
            }
            for (_, shares) in &found.causes {
                prop_assert!(shares.is_sorted() && shares.len() == found.ages.len());
            }
        }
    }
}
