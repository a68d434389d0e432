//! Who hangs on whom, however deep.

use std::collections::BTreeMap;

use super::requests::Attachment;
use super::slots::EntityId;

/// The chains of attachments: how deep each of them hangs, and on whom all of its chain do. Costs a search for each, however
/// long the chains are.
#[derive(Debug, Default)]
pub(crate) struct Chains {
    /// What hangs, by identity.
    ids: Vec<EntityId>,
    /// How many it hangs on, one above the other.
    depths: Vec<u32>,
    /// The one the whole chain hangs on, which hangs on none.
    roots: Vec<EntityId>,
}

impl Chains {
    /// The chains of attachments, none of which closes.
    pub fn of(attached: &BTreeMap<EntityId, Attachment>) -> Chains {
        let ids: Vec<EntityId> = attached.keys().copied().collect();
        let owners: Vec<EntityId> = attached.values().map(|attachment| attachment.owner).collect();
        let above: Vec<Option<u32>> =
            owners.iter().map(|owner| ids.binary_search(owner).ok().map(|at| at as u32)).collect();
        let (mut depths, mut roots) = (vec![0; ids.len()], vec![EntityId::NONE; ids.len()]);
        let mut below = Vec::new();
        for first in 0..ids.len() {
            // Upwards to one that is known, and back.
            let mut at = first;
            let (mut depth, root) = loop {
                if depths[at] > 0 {
                    break (depths[at], roots[at]);
                }
                below.push(at);
                match above[at] {
                    Some(owner) => at = owner as usize,
                    None => break (0, owners[at]),
                }
            };
            while let Some(at) = below.pop() {
                depth += 1;
                (depths[at], roots[at]) = (depth, root);
            }
        }
        Chains { ids, depths, roots }
    }

    /// Of each that hangs, by identity: how many it hangs on, one above the other, and the one its chain hangs on.
    pub fn each(&self) -> impl Iterator<Item = (u32, EntityId)> + '_ {
        self.depths.iter().copied().zip(self.roots.iter().copied())
    }

    /// The one an entity's chain hangs on: itself, if it does not hang.
    pub fn root(&self, id: EntityId) -> EntityId {
        self.ids.binary_search(&id).map_or(id, |at| self.roots[at])
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn chains_are_as_walked_one_by_one(owners in prop::collection::vec(any::<prop::sample::Index>(), 1..300), mixed: u64) {
            // Each hangs on one that was before it in an order of its own, so no chain closes.
            let id = |n: usize| EntityId::from_word((n as u64).wrapping_mul(mixed | 1) & 0xFFFF_FFFF | 1 << 32);
            let mut attached = BTreeMap::new();
            for (n, owner) in owners.iter().enumerate() {
                let owner = id(owner.index(n + 1));
                if owner != id(n + 1) && !attached.contains_key(&id(n + 1)) {
                    attached.insert(id(n + 1), Attachment { owner, mount: 0, outlives: false });
                }
            }
            let chains = Chains::of(&attached);
            let depth_of = |id| attached.keys().position(|other| *other == id).map_or(0, |at| chains.depths[at]);
            for n in 0..=owners.len() {
                let (mut at, mut depth) = (id(n), 0);
                while let Some(attachment) = attached.get(&at) {
                    at = attachment.owner;
                    depth += 1;
                }
                prop_assert_eq!((chains.root(id(n)), depth_of(id(n))), (at, depth));
            }
        }
    }
}
