//! Ponds as a strategy for property tests: what fails gets smaller by leaving out items and lines.

use proptest::prelude::Rng;
use proptest::strategy::{NewTree, Strategy, ValueTree};
use proptest::test_runner::TestRunner;

use crate::{Oddities, Pond};

/// Ponds with such oddities; of none given, those that a seed brings.
#[derive(Clone, Debug, Default)]
pub struct Ponds {
    odd: Option<Oddities>,
    /// Whether limits are left far away, whatever is odd.
    within_limits: bool,
}

/// Ponds of every sort.
pub fn ponds() -> Ponds {
    Ponds::default()
}

/// Ponds of every sort that reach no limit.
pub fn ponds_within_limits() -> Ponds {
    Ponds { odd: None, within_limits: true }
}

impl Ponds {
    /// Those with just these oddities.
    pub fn with(odd: Oddities) -> Ponds {
        Ponds { odd: Some(odd), within_limits: false }
    }
}

impl Strategy for Ponds {
    type Tree = PondTree;
    type Value = Pond;

    fn new_tree(&self, runner: &mut TestRunner) -> NewTree<Ponds> {
        let seed = runner.rng().next_u64();
        let odd = self.odd.unwrap_or_else(|| Oddities::of(seed));
        let limits_near = odd.limits_near && !self.within_limits;
        let odd = Oddities { limits_near, ..odd };
        Ok(PondTree { now: Pond::draw(seed, odd), before: None, at: 0 })
    }
}

/// A pond that gets smaller.
#[derive(Clone, Debug)]
pub struct PondTree {
    now: Pond,
    before: Option<Pond>,
    /// Which part is left out next: items and, behind those, their lines.
    at: usize,
}

impl PondTree {
    /// The pond without its nth part; none if there is no such part.
    fn without(pond: &Pond, nth: usize) -> Option<Pond> {
        let mut less = pond.clone();
        if nth < less.items.len() {
            less.items.remove(nth);
            return Some(less);
        }
        let mut left = nth - less.items.len();
        for members in less.items.iter_mut().filter_map(|item| item.members.as_mut()) {
            if left < members.len() {
                members.remove(left);
                return Some(less);
            }
            left -= members.len();
        }
        None
    }
}

impl ValueTree for PondTree {
    type Value = Pond;

    fn current(&self) -> Pond {
        self.now.clone()
    }

    fn simplify(&mut self) -> bool {
        match PondTree::without(&self.now, self.at) {
            Some(less) => {
                self.before = Some(std::mem::replace(&mut self.now, less));
                true
            }
            None => false,
        }
    }

    fn complicate(&mut self) -> bool {
        // That part has to stay; the next is tried.
        match self.before.take() {
            Some(before) => {
                self.now = before;
                self.at += 1;
                self.simplify()
            }
            None => false,
        }
    }
}
