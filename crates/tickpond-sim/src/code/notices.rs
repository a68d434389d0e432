//! Which kinds take notice of which others' touch.

use tickpond_lang::program::*;

/// Which pairs of kinds notice touch, as bits over those kinds that take part in it.
#[derive(Clone, Debug, Default)]
pub struct Notices {
    /// By kind: its place among those that take part.
    places: Vec<Option<u32>>,
    count: usize,
    bits: Vec<u64>,
    /// By kind: the kinds of which a touch is waited for, ascending.
    others: Vec<Vec<KindId>>,
}

impl Notices {
    pub(super) fn new(kinds: usize, pairs: &[(usize, usize)], solid: &[bool]) -> Notices {
        let mut takes_part = solid.to_vec();
        for (a, b) in pairs {
            takes_part[*a] = true;
            takes_part[*b] = true;
        }
        let mut places = vec![None; kinds];
        let mut count = 0usize;
        for (kind, _) in takes_part.iter().enumerate().filter(|(_, takes)| **takes) {
            places[kind] = Some(count as u32);
            count += 1;
        }
        let (bits, others) = (vec![0; count.pow(2).div_ceil(64)], vec![Vec::new(); kinds]);
        let mut notices = Notices { places, count, bits, others };
        for (a, b) in pairs {
            for (a, b) in [(*a, *b), (*b, *a)] {
                notices.others[a].push(KindId(b as u32));
                if let Some(at) = notices.bit(a, b) {
                    notices.bits[at / 64] |= 1 << (at % 64);
                }
            }
        }
        for others in &mut notices.others {
            others.sort_unstable();
            others.dedup();
        }
        notices
    }

    /// The kinds whose touch of this one a handler of either waits for.
    pub fn of(&self, kind: KindId) -> &[KindId] {
        &self.others[kind.index()]
    }

    fn bit(&self, a: usize, b: usize) -> Option<usize> {
        Some(self.places[a]? as usize * self.count + self.places[b]? as usize)
    }

    /// Whether a handler of either waits for a touch of the two.
    pub fn pair(&self, a: KindId, b: KindId) -> bool {
        self.bit(a.index(), b.index()).is_some_and(|at| self.bits[at / 64] >> (at % 64) & 1 == 1)
    }

    /// Whether a kind takes part in touch at all.
    pub fn kind(&self, kind: KindId) -> bool {
        self.places[kind.index()].is_some()
    }

    /// Whether no kind does.
    pub fn is_empty(&self) -> bool {
        self.count == 0
    }
}

/// Who a handler waits to touch.
pub(crate) fn other_of(event: &Event) -> Option<&Other> {
    match event {
        Event::Touch { other, .. }
        | Event::Part(other)
        | Event::WhileTouching(other, _)
        | Event::Impact(other, _) => Some(other),
        _ => None,
    }
}
