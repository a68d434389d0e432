//! Identities that outlive their entities: a slot and how often it was given out.

use tickpond_lang::program::KindId;

/// The identity of an entity: never given to another.
#[derive(Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Debug, bytemuck::NoUninit)]
#[repr(transparent)]
pub struct EntityId(u64);

impl EntityId {
    /// Nobody.
    pub const NONE: EntityId = EntityId(0);

    /// As a 64-bit word; 0 is nobody.
    pub fn to_word(self) -> u64 {
        self.0
    }

    /// From a 64-bit word.
    pub fn from_word(word: u64) -> EntityId {
        EntityId(word)
    }

    fn new(slot: usize, turn: u32) -> EntityId {
        EntityId(u64::from(turn) << 32 | slot as u64)
    }

    fn slot(self) -> usize {
        self.0 as u32 as usize
    }

    fn turn(self) -> u32 {
        (self.0 >> 32) as u32
    }
}

#[derive(Clone, Copy, Debug, PartialEq)]
struct Slot {
    turn: u32,
    kind: u32,
    /// Its place among its kind: see [`super::Columns::place_of`].
    place: u32,
    taken: bool,
}

/// From identity to kind and row. Slots of the ended are used again, last freed first.
#[derive(Debug, Default, PartialEq)]
pub struct Slots {
    slots: Vec<Slot>,
    free: Vec<u32>,
}

impl Clone for Slots {
    fn clone(&self) -> Slots {
        Slots { slots: self.slots.clone(), free: self.free.clone() }
    }

    fn clone_from(&mut self, other: &Slots) {
        self.slots.clone_from(&other.slots);
        self.free.clone_from(&other.free);
    }
}

impl Slots {
    /// How many bytes a copy takes.
    pub(super) fn bytes(&self) -> usize {
        size_of_val(&self.slots[..]) + size_of_val(&self.free[..])
    }

    /// What decides which identities are given out next: how often each free slot was, and their order.
    pub(super) fn words(&self) -> impl Iterator<Item = u64> + '_ {
        let free = self
            .free
            .iter()
            .map(|at| u64::from(self.slots[*at as usize].turn) << 32 | u64::from(*at));
        std::iter::once(self.slots.len() as u64).chain(free)
    }

    pub(crate) fn take(&mut self, kind: KindId, place: u32) -> EntityId {
        let at = match self.free.pop() {
            Some(at) => at as usize,
            None => {
                self.slots.push(Slot { turn: 0, kind: 0, place: 0, taken: false });
                self.slots.len() - 1
            }
        };
        let slot = &mut self.slots[at];
        *slot = Slot { turn: slot.turn + 1, kind: kind.0, place, taken: true };
        EntityId::new(at, slot.turn)
    }

    pub(crate) fn give_back(&mut self, id: EntityId) {
        let slot = &mut self.slots[id.slot()];
        slot.taken = false;
        self.free.push(id.slot() as u32);
    }

    pub(crate) fn set_place(&mut self, id: EntityId, place: u32) {
        self.slots[id.slot()].place = place;
    }

    pub(crate) fn set_kind(&mut self, id: EntityId, kind: KindId) {
        self.slots[id.slot()].kind = kind.0;
    }

    /// Kind of a living entity, and its place there.
    pub fn find(&self, id: EntityId) -> Option<(KindId, u32)> {
        let slot = self.slots.get(id.slot())?;
        let lives = slot.taken && slot.turn == id.turn();
        lives.then_some((KindId(slot.kind), slot.place))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_identity_is_never_given_twice() {
        let mut slots = Slots::default();
        let first = slots.take(KindId(1), 0);
        slots.give_back(first);
        let second = slots.take(KindId(2), 5);
        assert_ne!(first, second);
        assert_eq!(slots.find(first), None);
        assert_eq!(slots.find(second), Some((KindId(2), 5)));
        assert_eq!(slots.find(EntityId::NONE), None);
    }
}
