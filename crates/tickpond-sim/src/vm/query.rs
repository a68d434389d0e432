//! Questions about all entities, answered at once from the state of the phase's start.

use tickpond_lang::program::{KindId, QueryKind, Stat};

use super::step::{Run, is_alive};
use super::{Block, LANES, Origin, Outbox};
use crate::code::op::{QueryOp, Reg};
use crate::space;
use crate::state::EntityId;

impl Run<'_> {
    /// One answer a lane: a number for counts, a truth value for any, an identity for nearest.
    ///
    /// Without a distance or a condition counting costs one step a kind; otherwise each lane walks
    /// all entities of the kinds.
    pub(super) fn query(
        &self,
        block: &mut Block,
        lanes: &[u16],
        to: Reg,
        at: u32,
        out: &mut Outbox,
    ) {
        let query = &self.world.compiled.queries[at as usize];
        let simple = query.within.is_none() && query.condition.is_none();
        if simple && query.what == QueryKind::Count {
            let count: usize = query.kinds.iter().map(|k| self.world.state.count(*k)).sum();
            lanes.iter().for_each(|l| block.set(to, usize::from(*l), (count as f64).to_bits()));
            return;
        }
        for lane in lanes {
            let lane = usize::from(*lane);
            let found = self.find(block, lane, query, out);
            let word = match query.what {
                QueryKind::Count => (found.len() as f64).to_bits(),
                QueryKind::Any => u64::from(!found.is_empty()),
                QueryKind::Nearest => self.nearest(block, lane, query, &found).to_word(),
            };
            block.set(to, lane, word);
        }
    }

    /// Those a question is about, kind by kind, oldest first. Counting counts the asker, too.
    pub(super) fn find(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        out: &mut Outbox,
    ) -> Vec<(KindId, u32)> {
        let state = self.world.state;
        let arena = &self.world.compiled.program.arena;
        let me = self.columns().id[block.rows[lane] as usize];
        let leaves_me_out = query.what != QueryKind::Count;
        let pair = |reg: Reg| (block.number(reg, lane), block.number(reg + 1, lane));
        let mut found = Vec::new();
        for kind in &query.kinds {
            let columns = &state.kinds[kind.index()];
            let mut rows: Vec<u32> = (0..columns.len() as u32)
                .filter(|row| !columns.ending[*row as usize])
                .filter(|row| !(leaves_me_out && columns.id[*row as usize] == me))
                .collect();
            if let Some((distance, from)) = query.within {
                let (reach, from) = (block.number(distance, lane), pair(from));
                rows.retain(|row| {
                    let row = *row as usize;
                    let (x, y) = space::offset(arena, from, (columns.x[row], columns.y[row]));
                    x * x + y * y <= reach * reach && reach >= 0.0
                });
            }
            if query.condition.is_some() {
                rows = self.filter(block, lane, query, *kind, &rows, out);
            }
            found.extend(rows.into_iter().map(|row| (*kind, row)));
        }
        found
    }

    /// The rows of which the condition holds.
    fn filter(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        kind: KindId,
        rows: &[u32],
        out: &mut Outbox,
    ) -> Vec<u32> {
        let Some((code, captures)) = &query.condition else { return rows.to_vec() };
        let mut candidates = Block::default();
        let mut kept = Vec::new();
        for rows in rows.chunks(LANES) {
            candidates.prepare(rows, code);
            for (outer, inner) in captures {
                let word = block.word(*outer, lane);
                (0..rows.len()).for_each(|l| candidates.set(*inner, l, word));
            }
            let origin = Origin { kind, ..self.origin };
            super::run(self.world, origin, code, 0, &mut candidates, out);
            let holds = |l: &usize| candidates.word(code.result, *l) != 0;
            kept.extend((0..rows.len()).filter(holds).map(|l| rows[l]));
        }
        kept
    }

    fn nearest(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        found: &[(KindId, u32)],
    ) -> EntityId {
        let Some(from) = query.from else { return EntityId::NONE };
        let from = (block.number(from, lane), block.number(from + 1, lane));
        let arena = &self.world.compiled.program.arena;
        let mut best: Option<(f64, u64, EntityId)> = None;
        for (kind, row) in found {
            let columns = &self.world.state.kinds[kind.index()];
            let row = *row as usize;
            let (x, y) = space::offset(arena, from, (columns.x[row], columns.y[row]));
            let candidate = (x * x + y * y, columns.serial[row], columns.id[row]);
            let nearer = best.is_none_or(|b| (candidate.0, candidate.1) < (b.0, b.1));
            if nearer {
                best = Some(candidate);
            }
        }
        best.map_or(EntityId::NONE, |(_, _, id)| id)
    }

    pub(super) fn stat(&self, at: u32) -> f64 {
        let stat = &self.world.compiled.stats[at as usize];
        let totals = stat.kinds.iter().map(|k| &self.world.state.totals[k.index()]);
        let sum: u64 = match stat.stat {
            Stat::Born => totals.map(|t| t.born).sum(),
            Stat::Ended => totals.map(|t| t.ended_by(&stat.causes)).sum(),
            // The peak of several kinds is the sum of their peaks: an upper bound for a group.
            Stat::Peak => totals.map(|t| t.peak).sum(),
        };
        sum as f64
    }

    /// The entity in a register, if it is still there.
    pub(super) fn alive(&self, block: &Block, lane: usize, reg: Reg) -> Option<EntityId> {
        let id = EntityId::from_word(block.word(reg, lane));
        is_alive(self.world.state, id).then_some(id)
    }
}
