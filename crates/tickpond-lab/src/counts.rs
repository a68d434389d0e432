//! A number for each tick, whose sum, peak and low over any stretch are found without walking it, and which takes little room
//! where it hardly changes.

use std::ops::Range;

/// How many ticks stand on a page.
const PAGE: usize = 64;
/// How many entries of one level an entry of the next stands for, as a power of two.
const STEP: u32 = 3;
/// How many levels there are: the first stands for a page an entry, the last for 262,144 ticks.
const LEVELS: usize = 5;

/// One number a tick, from tick 0 on.
///
/// They stand on pages of 64: a page on which all are alike is one number, one of numbers below 256 has a byte for each. Above
/// the pages lie levels, each eight times coarser, of sums, maxima and minima. A sum or a peak over a stretch of `n` ticks
/// costs a page at either end and about 14 steps for each level the stretch spans: the logarithm of `n`.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Counts {
    len: usize,
    pages: Vec<Page>,
    /// How many bytes the pages take.
    page_bytes: usize,
    levels: [Vec<Block>; LEVELS],
}

/// The numbers of a page; of those that are not there yet it has any.
#[derive(Clone, Debug, PartialEq)]
enum Page {
    /// All are this.
    Alike(u32),
    /// None is above 255.
    Narrow(Box<[u8; PAGE]>),
    /// Any.
    Wide(Box<[u32; PAGE]>),
}

impl Page {
    fn get(&self, at: usize) -> u32 {
        match self {
            Page::Alike(value) => *value,
            Page::Narrow(values) => u32::from(values[at]),
            Page::Wide(values) => values[at],
        }
    }

    /// Sets the number at a place; those before it are there.
    fn set(&mut self, at: usize, value: u32) {
        match (&mut *self, u8::try_from(value)) {
            (Page::Alike(alike), _) if *alike == value => {}
            (Page::Narrow(values), Ok(value)) => values[at] = value,
            (Page::Wide(values), _) => values[at] = value,
            (Page::Alike(alike), Ok(narrow)) if u8::try_from(*alike).is_ok() => {
                let mut values = Box::new([*alike as u8; PAGE]);
                values[at..].fill(0);
                values[at] = narrow;
                *self = Page::Narrow(values);
            }
            _ => {
                let mut values =
                    Box::new(std::array::from_fn(|n| if n < at { self.get(n) } else { 0 }));
                values[at] = value;
                *self = Page::Wide(values);
            }
        }
    }

    fn bytes(&self) -> usize {
        size_of::<Page>()
            + match self {
                Page::Alike(_) => 0,
                Page::Narrow(values) => size_of_val(&**values),
                Page::Wide(values) => size_of_val(&**values),
            }
    }
}

/// What is known of a stretch of ticks.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Block {
    sum: u64,
    peak: u32,
    low: u32,
}

impl Block {
    /// No ticks at all.
    const NONE: Block = Block { sum: 0, peak: 0, low: u32::MAX };

    fn and(self, other: Block) -> Block {
        Block {
            sum: self.sum + other.sum,
            peak: self.peak.max(other.peak),
            low: self.low.min(other.low),
        }
    }

    fn of(value: u32) -> Block {
        Block { sum: u64::from(value), peak: value, low: value }
    }
}

impl Counts {
    /// So many ticks of nothing.
    pub fn zeros(len: usize) -> Counts {
        let pages = vec![Page::Alike(0); len.div_ceil(PAGE)];
        let page_bytes = pages.iter().map(Page::bytes).sum();
        let mut counts = Counts { len, pages, page_bytes, ..Counts::default() };
        for (level, blocks) in counts.levels.iter_mut().enumerate() {
            blocks.resize(len.div_ceil(width(level)), Block::of(0));
        }
        counts
    }

    /// How many ticks there are.
    pub fn len(&self) -> usize {
        self.len
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.len == 0
    }

    /// The number of a tick; `None` beyond the last.
    pub fn get(&self, at: usize) -> Option<u32> {
        (at < self.len).then(|| self.pages[at / PAGE].get(at % PAGE))
    }

    /// The number of the last tick; 0 if there is none.
    pub fn last(&self) -> u32 {
        self.len.checked_sub(1).and_then(|at| self.get(at)).unwrap_or(0)
    }

    /// The numbers of a stretch of ticks; none beyond the last.
    pub fn over(&self, ticks: Range<usize>) -> impl DoubleEndedIterator<Item = u32> + Clone + '_ {
        let end = ticks.end.min(self.len);
        (ticks.start.min(end)..end).map(|at| self.pages[at / PAGE].get(at % PAGE))
    }

    /// All numbers, tick by tick.
    pub fn iter(&self) -> impl DoubleEndedIterator<Item = u32> + Clone + '_ {
        self.over(0..self.len)
    }

    /// How many bytes it takes. Costs nothing that grows with the ticks.
    pub fn bytes(&self) -> usize {
        let blocks: usize = self.levels.iter().map(Vec::len).sum();
        self.page_bytes + blocks * size_of::<Block>()
    }

    /// Adds the next tick's number.
    pub fn push(&mut self, value: u32) {
        let at = self.len;
        match self.pages.get_mut(at / PAGE) {
            Some(page) => {
                let before = page.bytes();
                page.set(at % PAGE, value);
                self.page_bytes += page.bytes() - before;
            }
            None => {
                let page = Page::Alike(value);
                self.page_bytes += page.bytes();
                self.pages.push(page);
            }
        }
        self.len += 1;
        for (level, blocks) in self.levels.iter_mut().enumerate() {
            match blocks.get_mut(at / width(level)) {
                Some(block) => *block = block.and(Block::of(value)),
                None => blocks.push(Block::of(value)),
            }
        }
    }

    /// Forgets all but the first ticks.
    pub fn truncate(&mut self, len: usize) {
        if len >= self.len {
            return;
        }
        // The last page is written anew: it may need less room.
        let whole = len / PAGE * PAGE;
        let rest: Vec<u32> = self.over(whole..len).collect();
        self.len = whole;
        let gone = self.pages.drain(whole / PAGE..);
        self.page_bytes -= gone.map(|page| page.bytes()).sum::<usize>();
        for level in 0..LEVELS {
            let blocks = whole / width(level);
            self.levels[level].truncate(blocks);
            if whole > blocks * width(level) {
                let over = self.over_below(blocks * width(level)..whole, level);
                self.levels[level].push(over);
            }
        }
        rest.into_iter().for_each(|value| self.push(value));
    }

    /// The sum over a stretch of ticks; what lies beyond the last counts nothing.
    pub fn sum(&self, ticks: Range<usize>) -> u64 {
        self.over_below(ticks, LEVELS).sum
    }

    /// The largest number in a stretch of ticks; 0 if there is none.
    pub fn peak(&self, ticks: Range<usize>) -> u32 {
        self.over_below(ticks, LEVELS).peak
    }

    /// The smallest number in a stretch of ticks; 0 if there is none.
    pub fn low(&self, ticks: Range<usize>) -> u32 {
        match self.over_below(ticks, LEVELS).low {
            u32::MAX => 0,
            low => low,
        }
    }

    /// What is known of a stretch, by blocks of levels below one.
    fn over_below(&self, ticks: Range<usize>, below: usize) -> Block {
        let (mut at, end) = (ticks.start, ticks.end.min(self.len));
        let mut found = Block::NONE;
        while at < end {
            let fits =
                |level: &usize| at.is_multiple_of(width(*level)) && at + width(*level) <= end;
            match (0..below).rev().find(fits) {
                Some(level) => {
                    found = found.and(self.levels[level][at / width(level)]);
                    at += width(level);
                }
                None => {
                    let until = end.min((at / PAGE + 1) * PAGE);
                    found = self
                        .over(at..until)
                        .fold(found, |found, value| found.and(Block::of(value)));
                    at = until;
                }
            }
        }
        found
    }
}

/// How many ticks a block of a level stands for.
fn width(level: usize) -> usize {
    PAGE << (STEP as usize * level)
}

impl FromIterator<u32> for Counts {
    fn from_iter<I: IntoIterator<Item = u32>>(values: I) -> Counts {
        let mut counts = Counts::default();
        values.into_iter().for_each(|value| counts.push(value));
        counts
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Long stretches of one number, small ones, large ones.
    fn numbers() -> impl Strategy<Value = Vec<u32>> {
        let one = prop_oneof![
            (0u32..1000, 1usize..200).prop_map(|(value, times)| vec![value; times]),
            prop::collection::vec(0u32..256, 1..90),
            prop::collection::vec(0u32..100_000, 1..90),
        ];
        prop::collection::vec(one, 0..12).prop_map(|parts| parts.concat())
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        #[test]
        fn a_stretch_is_what_a_walk_finds(
            values in numbers(),
            from in 0usize..1600,
            len in 0usize..1600,
        ) {
            let counts: Counts = values.iter().copied().collect();
            let walked = values.get(from.min(values.len())..(from + len).min(values.len()));
            let walked = walked.unwrap_or(&[]);
            let sum: u64 = walked.iter().map(|v| u64::from(*v)).sum();
            prop_assert_eq!(counts.over(from..from + len).collect::<Vec<_>>(), walked);
            prop_assert_eq!(counts.get(from), values.get(from).copied());
            prop_assert_eq!(counts.last(), values.last().copied().unwrap_or(0));
            prop_assert_eq!(counts.sum(from..from + len), sum);
            prop_assert_eq!(counts.peak(from..from + len), walked.iter().copied().max().unwrap_or(0));
            prop_assert_eq!(counts.low(from..from + len), walked.iter().copied().min().unwrap_or(0));
        }

        #[test]
        fn what_is_cut_off_and_played_again_is_as_if_it_never_was(
            values in numbers(),
            keep in 0usize..1500,
            again in prop::collection::vec(0u32..1000, 0..300),
        ) {
            let mut counts: Counts = values.iter().copied().collect();
            counts.truncate(keep);
            again.iter().for_each(|value| counts.push(*value));
            let whole = values.iter().take(keep).chain(&again).copied();
            let whole: Counts = whole.collect();
            prop_assert_eq!(whole.page_bytes, whole.pages.iter().map(Page::bytes).sum::<usize>());
            prop_assert_eq!(counts, whole);
        }

        #[test]
        fn nothing_for_a_while_is_nothing(len in 0usize..2000) {
            prop_assert_eq!(Counts::zeros(len), (0..len).map(|_| 0).collect::<Counts>());
        }
    }

    #[test]
    fn what_hardly_changes_takes_hardly_any_room() {
        let still = Counts::zeros(64_000).bytes();
        assert!(still < 64_000, "{still}");
        let small: Counts = (0..64_000).map(|tick| tick % 250).collect();
        assert!(small.bytes() < 2 * 64_000, "{}", small.bytes());
        let large: Counts = (0..64_000).map(|tick| tick * 50).collect();
        assert!(large.bytes() < 5 * 64_000, "{}", large.bytes());
    }
}
