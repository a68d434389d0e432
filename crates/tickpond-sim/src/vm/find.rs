//! Finds the candidates of a question: all of its kinds, those near, those touched, those that meet a condition.

use std::sync::atomic::Ordering;

use tickpond_lang::program::{KindId, POND, QueryKind};

use super::block::Block;
use super::lanes::LANES;
use super::outbox::Fault;
use super::outbox::Outbox;
use super::step::Run;
use super::world::Origin;
use crate::code::op::{Code, QueryOp, Reg};
use crate::index::{Holding, HoldingRows};
use crate::space;
use crate::wide::wide;

/// How often a question must be asked for it to pay to look of whom its condition holds: it costs as much as one question
/// about all, or as many about few that are near.
const OFTEN: usize = 2;
const OFTEN_NEAR: usize = 32;

impl Run<'_> {
    /// Of whom the condition of a question holds, if that is the same whoever asks and it was asked so often that it pays
    /// to look at all.
    pub(super) fn holding(
        &self,
        query: &QueryOp,
        at: u32,
        lanes: usize,
        out: &mut Outbox,
    ) -> Option<&Holding> {
        let (code, _) = query.condition.as_ref()?;
        if !query.condition_is_fixed() {
            return None;
        }
        let answer = self.world.index.answer(at);
        if let Some(known) = answer.holding.get() {
            return known.as_ref();
        }
        let asked = answer.asked.fetch_add(lanes, Ordering::Relaxed) + lanes;
        let few = if query.within.is_some() { OFTEN_NEAR } else { OFTEN };
        if asked < few || query.touching {
            return None;
        }
        let before = out.fault.take();
        let mut holding = Holding::new();
        for kind in &query.kinds {
            let mut of = HoldingRows { holds: Vec::new(), rows: Vec::new() };
            self.each_stretch(*kind, code, out, |first, stretch| {
                let words = &stretch.regs[usize::from(code.result)][..stretch.len()];
                of.holds.extend(words.iter().map(|word| *word != 0));
                let rows = (first..).zip(words).filter(|(_, word)| **word != 0);
                of.rows.extend(rows.map(|(row, _)| row));
            });
            holding.push(of);
        }
        let wrong = std::mem::replace(&mut out.fault, before).is_some();
        answer.holding.get_or_init(|| (!wrong).then_some(holding)).as_ref()
    }

    /// Works code out for all of a kind, many rows at a time; `see` is given the first row of each stretch and its block.
    fn each_stretch(
        &self,
        kind: KindId,
        code: &Code,
        out: &mut Outbox,
        mut see: impl FnMut(u32, &Block),
    ) {
        let count = self.world.state.kinds[kind.index()].len() as u32;
        let origin = Origin { kind, ..self.origin };
        let mut candidates = out.spare_blocks.pop().unwrap_or_default();
        let mut first = 0;
        while first < count {
            let end = (first + LANES as u32).min(count);
            candidates.prepare_stretch(first..end, code);
            super::run::run(self.world, origin, code, 0, &mut candidates, out);
            see(first, &candidates);
            first = end;
        }
        out.spare_blocks.push(candidates);
    }

    /// How many there are of which the condition holds, the asker among them; nobody is listed for it.
    pub(super) fn count_holding(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        out: &mut Outbox,
    ) -> usize {
        let Some((code, captures)) = &query.condition else {
            return query.kinds.iter().map(|k| self.world.state.count(*k)).sum();
        };
        let mut candidates = out.spare_blocks.pop().unwrap_or_default();
        let before = out.fault.take();
        let mut counted = 0;
        for kind in &query.kinds {
            let columns = &self.world.state.kinds[kind.index()];
            let origin = Origin { kind: *kind, ..self.origin };
            let (mut first, count) = (0, columns.len() as u32);
            while first < count {
                let end = (first + LANES as u32).min(count);
                candidates.prepare_stretch(first..end, code);
                for (outer, inner) in captures {
                    let word = block.word(*outer, lane);
                    candidates.regs[usize::from(*inner)][..(end - first) as usize].fill(word);
                }
                super::run::run(self.world, origin, code, 0, &mut candidates, out);
                let words = &candidates.regs[usize::from(code.result)][..(end - first) as usize];
                counted += match columns.ending_count {
                    // A truth value is 0 or 1.
                    0 => wide(
                        #[inline(always)]
                        || words.iter().sum::<u64>(),
                    ) as usize,
                    _ => {
                        let rows = (first as usize..).zip(words);
                        rows.filter(|(row, word)| **word != 0 && !columns.ending[*row]).count()
                    }
                };
                first = end;
            }
        }
        out.spare_blocks.push(candidates);
        self.blame_asker(block, lane, before, out);
        counted
    }

    /// How many are within the distance, where it is known of whom the condition holds; nobody is listed for it.
    pub(super) fn count_near(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        holding: Option<&Holding>,
        out: &mut Outbox,
    ) -> usize {
        let Some((distance, from)) = query.within else { return 0 };
        let reach = block.number(distance, lane);
        if reach.is_nan() || reach < 0.0 {
            return 0;
        }
        let arena = &self.world.compiled.program.arena;
        let from = (block.number(from, lane), block.number(from + 1, lane));
        let (limit, ways) = (reach * reach, space::Ways::from(arena, from));
        let (mut counted, mut looked) = (0, 1);
        for (nth, kind) in query.kinds.iter().enumerate() {
            let columns = &self.world.state.kinds[kind.index()];
            let holding = holding.map(|holding| &holding[nth]);
            let mut see = |row: usize| {
                looked += 1;
                let holds = holding.is_none_or(|holding| holding.holds[row]);
                counted += usize::from(holds && !(columns.ending_count > 0 && columns.ending[row]));
            };
            match self.world.index.places(self.world.state, arena, *kind, 1) {
                Some(places) => {
                    places.around(from, reach, |row, at| {
                        if ways.square_of(at) <= limit {
                            see(row);
                        }
                    });
                }
                None => ways.each_within((&columns.x, &columns.y), limit, |row, _| {
                    see(row);
                    limit
                }),
            }
        }
        out.spend_looks(looked);
        counted
    }

    /// Whether there is one beside the asker, wherever, where it is known of whom the condition holds.
    pub(super) fn is_there_one(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        holding: Option<&Holding>,
    ) -> bool {
        let me = self.columns().id[block.rows[lane] as usize];
        query.kinds.iter().enumerate().any(|(nth, kind)| {
            let columns = &self.world.state.kinds[kind.index()];
            let counts = |row: usize| columns.id[row] != me && !columns.ending[row];
            match holding {
                Some(holding) => holding[nth].rows.iter().any(|row| counts(*row as usize)),
                None => (0..columns.len()).any(counts),
            }
        })
    }

    /// Those a question is about, kind by kind, oldest first. Counting counts the asker, too.
    pub(super) fn find(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        out: &mut Outbox,
    ) -> Vec<(KindId, u32)> {
        self.find_holding(block, lane, query, None, out)
    }

    /// The same, where it may be known already of whom the condition holds.
    pub(super) fn find_holding(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        holding: Option<&Holding>,
        out: &mut Outbox,
    ) -> Vec<(KindId, u32)> {
        let state = self.world.state;
        let me = self.columns().id[block.rows[lane] as usize];
        // A sum counts all, as a count does.
        let leaves_me_out =
            matches!(query.what, QueryKind::Nearest | QueryKind::Any | QueryKind::Random);
        let mut found = Vec::new();
        let mut rows = out.spare_rows.pop().unwrap_or_default();
        out.spend_looks(1);
        for (nth, kind) in query.kinds.iter().enumerate() {
            let columns = &state.kinds[kind.index()];
            let holding = holding.map(|holding| &holding[nth]);
            rows.clear();
            let looked = self.rows_within(block, lane, (query, *kind), holding, &mut rows);
            out.spend_looks(looked);
            if columns.ending_count > 0 {
                rows.retain(|row| !columns.ending[*row as usize]);
            }
            if leaves_me_out && *kind == self.origin.kind {
                rows.retain(|row| columns.id[*row as usize] != me);
            }
            if query.condition.is_some() && holding.is_none() {
                self.filter(block, lane, query, *kind, &mut rows, out);
            }
            found.extend(rows.iter().map(|row| (*kind, *row)));
        }
        out.spare_rows.push(rows);
        found
    }

    /// The rows of a kind that a question is about, but for its condition; where it is known of whom that holds, those. How
    /// many were looked at: all, or those near or touched.
    fn rows_within(
        &self,
        block: &Block,
        lane: usize,
        (query, kind): (&QueryOp, KindId),
        holding: Option<&HoldingRows>,
        rows: &mut Vec<u32>,
    ) -> usize {
        let state = self.world.state;
        let arena = &self.world.compiled.program.arena;
        let columns = &state.kinds[kind.index()];
        let pair = |reg: Reg| (block.number(reg, lane), block.number(reg + 1, lane));
        let limit = query.within.map(|(distance, from)| {
            let reach = block.number(distance, lane);
            let limit = if reach >= 0.0 { reach * reach } else { -1.0 };
            (reach, limit, space::Ways::from(arena, pair(from)))
        });
        let holds = |row: usize| holding.is_none_or(|holding| holding.holds[row]);
        if query.touching {
            let me = self.columns().id[block.rows[lane] as usize];
            let touched = self.world.index.touched(state, me);
            for other in touched {
                if let Some((_, row)) = state.find(*other).filter(|(of, _)| *of == kind) {
                    let near = limit.is_none_or(|(_, limit, ways)| {
                        ways.square(columns.x[row], columns.y[row]) <= limit
                    });
                    rows.extend((near && holds(row)).then_some(row as u32));
                }
            }
            rows.sort_unstable();
            return touched.len();
        }
        let Some((reach, limit, ways)) = limit else {
            match holding {
                Some(holding) => rows.extend_from_slice(&holding.rows),
                None => rows.extend(0..columns.len() as u32),
            }
            return columns.len();
        };
        let mut looked = 0;
        if reach.is_nan() || reach < 0.0 {
            return looked;
        }
        if let Some(places) = self.world.index.places(state, arena, kind, 1) {
            let mut sorted = true;
            places.around(ways.start(), reach, |row, at| {
                if ways.square_of(at) > limit {
                    return;
                }
                looked += 1;
                if holds(row) {
                    sorted &= rows.last().is_none_or(|last| *last < row as u32);
                    rows.push(row as u32);
                }
            });
            if !sorted {
                rows.sort_unstable();
            }
            return looked;
        }
        ways.each_within((&columns.x, &columns.y), limit, |row, _| {
            looked += 1;
            rows.extend(holds(row).then_some(row as u32));
            limit
        });
        looked
    }

    /// Keeps the rows of which the condition holds.
    pub(super) fn filter(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        kind: KindId,
        rows: &mut Vec<u32>,
        out: &mut Outbox,
    ) {
        let Some((code, captures)) = &query.condition else { return };
        let mut candidates = out.spare_blocks.pop().unwrap_or_default();
        let (mut kept, mut first) = (0, 0);
        while first < rows.len() {
            let end = (first + LANES).min(rows.len());
            candidates.prepare(&rows[first..end], code);
            for (outer, inner) in captures {
                let word = block.word(*outer, lane);
                candidates.regs[usize::from(*inner)][..end - first].fill(word);
            }
            let origin = Origin { kind, ..self.origin };
            let before = out.fault.take();
            super::run::run(self.world, origin, code, 0, &mut candidates, out);
            self.blame_asker(block, lane, before, out);
            for at in first..end {
                // What is kept moves forward over what is not.
                rows[kept] = rows[at];
                kept += usize::from(candidates.word(code.result, at - first) != 0);
            }
            first = end;
        }
        rows.truncate(kept);
        out.spare_blocks.push(candidates);
    }

    /// What goes wrong in a question about another is the asker's fault.
    fn blame_asker(&self, block: &Block, lane: usize, before: Option<Fault>, out: &mut Outbox) {
        let now = std::mem::replace(&mut out.fault, before);
        if let Some(fault) = now {
            let serial = self.columns().serial[block.rows[lane] as usize];
            let place = (false, self.origin.kind, self.origin.handler, out.round, serial);
            let who = (self.origin.kind != POND).then(|| self.asker(block, lane));
            let site = out.last_site.or(self.code.site);
            out.fault(Fault { place, who, site, ..fault });
        }
    }
}
