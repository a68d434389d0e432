//! The registers of a block of entities, a lane for each.

use tickpond_lang::program::KindId;

use super::chosen::Chosen;
use super::lanes::{LANES, Lanes};
use crate::code::op::{Code, Reg};
use crate::state::slots::EntityId;
use crate::wide::wide;

fn no_lanes() -> Lanes {
    Box::new([0; LANES])
}

impl Default for Block {
    fn default() -> Block {
        Block {
            rows: Vec::new(),
            others: no_lanes(),
            other_luck: no_lanes(),
            met: false,
            regs: Vec::new(),
            spare: no_lanes(),
            mask: no_lanes(),
            masks: false,
            first: None,
            asked: Vec::new(),
            draws: Vec::new(),
            lists: Vec::new(),
            free_lists: Vec::new(),
            drawn: None,
            drawn_rows: vec![0; LANES],
            ways: vec![(0, 0); LANES],
            kept_velocity: Vec::new(),
            failed: Chosen::first(0),
            steps: vec![0; LANES],
        }
    }
}

/// The lanes of a block and their registers.
pub struct Block {
    /// Row of each lane.
    pub rows: Vec<u32>,
    /// How many were born before the other party of each lane; 0 if there is none.
    pub(super) others: Lanes,
    /// What the other party brings into each lane's chance; 0 if there is none.
    pub(super) other_luck: Lanes,
    /// Whether a lane has another party.
    pub(super) met: bool,
    /// A column of lanes for each register.
    pub(super) regs: Vec<Lanes>,
    /// Where a whole column is worked out before it takes the place of another.
    pub(super) spare: Lanes,
    /// All bits of the lanes that go through the code now, if they are many but not all.
    pub(super) mask: Lanes,
    /// Whether [`Block::mask`] holds.
    pub(super) masks: bool,
    /// The first row, if the lanes' rows follow one another.
    pub(super) first: Option<u32>,
    /// Requests each lane has made.
    pub(super) asked: Vec<u32>,
    /// Draws each lane has made.
    pub(super) draws: Vec<u32>,
    /// What loops go through, and the places of those that have been gone through.
    pub(super) lists: Vec<Vec<EntityId>>,
    pub(super) free_lists: Vec<usize>,
    /// The kind of those that were last drawn by chance, and where each lane's stands: whoever comes
    /// upon one of them need not look for it.
    pub(super) drawn: Option<KindId>,
    pub(super) drawn_rows: Vec<u32>,
    /// Where letters are gathered.
    pub(super) ways: Vec<(u32, u32)>,
    /// The velocity a replacement keeps, where that is not the one at the end; by lane, or fewer.
    pub kept_velocity: Vec<Option<(f64, f64)>>,
    /// The lanes whose firing ends with this instruction: a value was no finite number.
    pub(super) failed: Chosen,
    /// How often each lane has gone back in this firing.
    pub(super) steps: Vec<u32>,
}

impl Block {
    /// Makes ready for `rows`, at most [`LANES`], with registers for `code`. All that code can read
    /// before it writes is 0, and all that can be kept over a wait.
    pub fn prepare(&mut self, rows: &[u32], code: &Code) {
        self.rows.clear();
        self.rows.extend_from_slice(rows);
        let follow = rows.windows(2).all(|pair| pair[1] == pair[0] + 1);
        self.first = rows.first().copied().filter(|_| follow);
        self.begin(code);
    }

    /// The same for rows that follow one another, at most [`LANES`].
    pub fn prepare_stretch(&mut self, rows: std::ops::Range<u32>, code: &Code) {
        self.rows.clear();
        self.rows.extend(rows.clone());
        self.first = Some(rows.start);
        self.begin(code);
    }

    pub(super) fn begin(&mut self, code: &Code) {
        let n = self.rows.len();
        if self.met {
            self.others.fill(0);
            self.other_luck.fill(0);
            self.met = false;
        }
        for column in [&mut self.asked, &mut self.draws] {
            column.clear();
            column.resize(n, 0);
        }
        self.lists.clear();
        self.free_lists.clear();
        self.drawn = None;
        self.kept_velocity.clear();
        let regs = usize::from(code.regs);
        if self.regs.len() < regs {
            self.regs.resize_with(regs, no_lanes);
        }
        for column in &mut self.regs[..usize::from(code.cleared).min(regs)] {
            column[..n].fill(0);
        }
    }

    /// How many lanes a loop over all of them goes through: a few beyond the last, so that it ends
    /// with a full step.
    pub(super) fn width(&self) -> usize {
        self.rows.len().next_multiple_of(16).min(LANES)
    }

    /// Sets a register of the lanes to one word.
    pub(super) fn fill(&mut self, to: Reg, lanes: Chosen, word: u64) {
        let column = &mut self.regs[usize::from(to)];
        if lanes.len() == self.rows.len() {
            column[..lanes.len()].fill(word);
        } else {
            for lane in lanes {
                column[lane % LANES] = word;
            }
        }
    }

    /// Sets a register of the lanes to the value of a function of another.
    #[inline(always)]
    pub(super) fn map(&mut self, to: Reg, a: Reg, lanes: Chosen, f: impl Fn(u64) -> u64) {
        self.map2(to, (a, a), lanes, move |a, _| f(a));
    }

    /// Sets a register of the lanes to the value of a function of two others.
    #[inline(always)]
    pub(super) fn map2(
        &mut self,
        to: Reg,
        (a, b): (Reg, Reg),
        lanes: Chosen,
        f: impl Fn(u64, u64) -> u64,
    ) {
        let (all, width) = (lanes.len() == self.rows.len(), self.width());
        let Block { regs, spare, mask, masks, .. } = self;
        let (to, a, b) = (usize::from(to), usize::from(a), usize::from(b));
        if all {
            let (a, b) = (&regs[a][..width], &regs[b][..width]);
            let spare = &mut spare[..width];
            wide(
                #[inline(always)]
                move || {
                    for ((spare, a), b) in spare.iter_mut().zip(a).zip(b) {
                        *spare = f(*a, *b);
                    }
                },
            );
            std::mem::swap(&mut regs[to], &mut self.spare);
        } else if *masks {
            // Many lanes are worked out faster side by side than one by one, the idle among them.
            let (a, b, old) = (&regs[a][..width], &regs[b][..width], &regs[to][..width]);
            let (spare, mask) = (&mut spare[..width], &mask[..width]);
            wide(
                #[inline(always)]
                move || {
                    for ((((spare, a), b), old), mask) in
                        spare.iter_mut().zip(a).zip(b).zip(old).zip(mask)
                    {
                        *spare = *old & !mask | f(*a, *b) & mask;
                    }
                },
            );
            std::mem::swap(&mut regs[to], &mut self.spare);
        } else {
            lanes.each(
                #[inline(always)]
                |lane| {
                    // A power of two: the remainder costs nothing and needs no check of the bounds.
                    let lane = lane % LANES;
                    let value = f(regs[a][lane], regs[b][lane]);
                    regs[to][lane] = value;
                },
            );
        }
    }

    /// Makes ready for these lanes: those the next instructions are for.
    pub(super) fn choose(&mut self, lanes: Chosen) {
        self.masks = lanes.len() < self.rows.len() && lanes.len() >= self.rows.len() / 8;
        if self.masks {
            lanes.spread(&mut self.mask);
        }
    }

    /// Loads a column of the lanes' rows.
    #[inline(always)]
    pub(super) fn load<T: Copy>(
        &mut self,
        to: Reg,
        column: &[T],
        lanes: Chosen,
        f: impl Fn(T) -> u64,
    ) {
        let regs = &mut self.regs[usize::from(to)];
        match self.first {
            Some(first) if lanes.len() == self.rows.len() => {
                let column = &column[first as usize..first as usize + self.rows.len()];
                wide(
                    #[inline(always)]
                    move || {
                        for (word, value) in regs.iter_mut().zip(column) {
                            *word = f(*value);
                        }
                    },
                );
            }
            Some(first) if self.masks => {
                let column = &column[first as usize..first as usize + self.rows.len()];
                let mask = &self.mask;
                wide(
                    #[inline(always)]
                    move || {
                        for ((word, value), mask) in regs.iter_mut().zip(column).zip(mask.iter()) {
                            *word = *word & !mask | f(*value) & mask;
                        }
                    },
                );
            }
            _ => {
                let rows = &self.rows[..];
                lanes.each(
                    #[inline(always)]
                    |lane| {
                        regs[lane % LANES] = f(column[rows[lane] as usize]);
                    },
                );
            }
        }
    }

    /// Notes the other party of a lane: how many were born before it, and what it brings into the
    /// lane's chance.
    pub fn meet(&mut self, lane: usize, other: u64, luck: u64) {
        self.others[lane] = other;
        self.other_luck[lane] = luck;
        self.met = true;
    }

    /// Notes the velocity a replacement of a lane keeps.
    pub fn keep_velocity(&mut self, lane: usize, velocity: (f64, f64)) {
        if self.kept_velocity.len() <= lane {
            self.kept_velocity.resize(lane + 1, None);
        }
        self.kept_velocity[lane] = Some(velocity);
    }

    /// How many were born before the other party of a lane, and which request of the lane's comes now.
    #[inline]
    pub fn next_request(&mut self, lane: usize) -> (u64, u32) {
        let nth = self.asked[lane];
        self.asked[lane] += 1;
        (self.others[lane], nth)
    }

    /// How many lanes there are.
    pub fn len(&self) -> usize {
        self.rows.len()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// A word of a lane.
    pub fn word(&self, reg: Reg, lane: usize) -> u64 {
        self.regs[usize::from(reg)][lane]
    }

    /// A number of a lane.
    pub fn number(&self, reg: Reg, lane: usize) -> f64 {
        f64::from_bits(self.word(reg, lane))
    }

    /// Sets a word of a lane.
    pub fn set(&mut self, reg: Reg, lane: usize, word: u64) {
        self.regs[usize::from(reg)][lane] = word;
    }

    pub(super) fn put(&mut self, reg: Reg, lane: usize, number: f64) {
        self.set(reg, lane, number.to_bits());
    }

    /// Ends the firing of a lane with the present instruction.
    pub(super) fn fail(&mut self, lane: usize) {
        self.failed = self.failed.join(Chosen::one(lane));
    }

    /// Keeps a list for a loop and gives its place.
    pub(super) fn keep_list(&mut self, list: Vec<EntityId>) -> usize {
        match self.free_lists.pop() {
            Some(at) => {
                self.lists[at] = list;
                at
            }
            None => {
                self.lists.push(list);
                self.lists.len() - 1
            }
        }
    }

    /// All words of a lane.
    pub fn words(&self, regs: Reg, lane: usize) -> Vec<u64> {
        (0..regs).map(|reg| self.word(reg, lane)).collect()
    }

    /// Copies the first words of a lane.
    pub fn copy_words(&self, lane: usize, to: &mut [u64]) {
        to.iter_mut().zip(&self.regs).for_each(|(word, reg)| *word = reg[lane]);
    }
}
