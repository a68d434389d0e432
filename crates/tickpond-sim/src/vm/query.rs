//! Questions about all entities, answered at once from the state of the phase's start.

use tickpond_lang::program::{KindId, QueryKind, Stat};

use super::block::Block;
use super::chosen::Chosen;
use super::lanes::LANES;
use super::outbox::Outbox;
use super::step::{Run, is_alive};
use super::world::Origin;
use crate::code::op::{Operand, QueryOp, Reg};
use crate::index::Holding;
use crate::space;
use crate::state::EntityId;

impl Run<'_> {
    /// One answer a lane: a number for counts, a truth value for any, an identity for nearest.
    ///
    /// What reads nothing of the asker is worked out once for all lanes. Without a condition or a distance counting costs
    /// one step a kind; questions about what is near look at the cells around.
    pub(super) fn query(
        &self,
        block: &mut Block,
        lanes: Chosen,
        to: Reg,
        at: u32,
        out: &mut Outbox,
    ) {
        let query = &self.world.compiled.queries[at as usize];
        let simple = query.is_of_all() && query.condition.is_none();
        if simple && query.what == QueryKind::Count {
            let count: usize = query.kinds.iter().map(|k| self.world.state.count(*k)).sum();
            out.spend_looks(lanes.len());
            block.fill(to, lanes, (count as f64).to_bits());
            return;
        }
        if let ([kind], true, QueryKind::Random) = (&query.kinds[..], simple, query.what)
            && self.world.state.kinds[kind.index()].ending_count == 0
        {
            out.spend_looks(lanes.len());
            self.any_row(block, lanes, to, *kind);
            return;
        }
        if let Some(word) = self.same_for_all(block, lanes, query, at, out) {
            out.spend_looks(lanes.len());
            block.fill(to, lanes, word);
            return;
        }
        // What is asked decides what it costs, never the way it is answered.
        let (is_fixed, living) = (query.condition_is_fixed(), self.living(query));
        let holding = self.holding(query, at, lanes.len(), out);
        let plain = !query.touching && (query.condition.is_none() || holding.is_some());
        if plain && query.what == QueryKind::Nearest {
            for lane in lanes {
                out.spend_looks(living);
                out.look_up(&self.world.compiled.program.limits);
                if out.is_over() {
                    block.set(to, lane, EntityId::NONE.to_word());
                    continue;
                }
                let nearest = self.nearest_of_all(block, lane, query, holding);
                block.set(to, lane, nearest.to_word());
            }
            return;
        }
        for lane in lanes {
            out.look_up(&self.world.compiled.program.limits);
            if out.is_over() {
                block.set(to, lane, 0);
                continue;
            }
            if query.what == QueryKind::Count && query.is_of_all() {
                out.spend_looks(living);
                let count = self.count_holding(block, lane, query, out);
                block.set(to, lane, (count as f64).to_bits());
                continue;
            }
            if query.what == QueryKind::Count && plain {
                let count = self.count_near(block, lane, query, holding, out);
                block.set(to, lane, (count as f64).to_bits());
                continue;
            }
            if query.what == QueryKind::Any && plain && query.is_of_all() {
                out.spend_looks(1);
                let any = self.is_there_one(block, lane, query, holding);
                block.set(to, lane, u64::from(any));
                continue;
            }
            let found = match query.what {
                QueryKind::Nearest if is_fixed && !query.touching => {
                    out.spend_looks(living);
                    out.without_looks(|out| self.find_holding(block, lane, query, holding, out))
                }
                QueryKind::Any if is_fixed && query.is_of_all() => {
                    out.spend_looks(1);
                    out.without_looks(|out| self.find_holding(block, lane, query, holding, out))
                }
                _ => self.find_holding(block, lane, query, holding, out),
            };
            let word = match query.what {
                QueryKind::Count => (found.len() as f64).to_bits(),
                QueryKind::Any => u64::from(!found.is_empty()),
                QueryKind::Nearest => self.nearest(block, lane, query, &found).to_word(),
                QueryKind::Random => self.one_of(block, lane, found).to_word(),
                _ => self.aggregate(query, found, out).to_bits(),
            };
            block.set(to, lane, word);
        }
    }

    /// The answer, if it is the same whoever asks: how many there are of which something holds, or the sum of a value.
    fn same_for_all(
        &self,
        block: &Block,
        lanes: Chosen,
        query: &QueryOp,
        at: u32,
        out: &mut Outbox,
    ) -> Option<u64> {
        let counts = query.what == QueryKind::Count;
        let sums = query.value.as_ref().is_some_and(|code| code.traits.is_fixed);
        let lane = lanes.into_iter().next()?;
        if !(counts || sums) || !query.is_of_all() || !query.condition_is_fixed() {
            return None;
        }
        let answer = self.world.index.answer(at);
        // Whoever comes first: for the phase it is one look at each.
        out.share_looks(at, self.living(query));
        if let Some(word) = answer.word.get() {
            return Some(*word);
        }
        out.look_up(&self.world.compiled.program.limits);
        if out.is_over() {
            return None;
        }
        let before = out.fault.take();
        // Nothing that is the same for all asks in its turn.
        let word = match query.what {
            QueryKind::Count => (self.count_holding(block, lane, query, out) as f64).to_bits(),
            _ => {
                let found = out.without_looks(|out| self.find(block, lane, query, out));
                self.aggregate(query, found, out).to_bits()
            }
        };
        // Where something goes wrong it is each asker's own fault.
        let wrong = std::mem::replace(&mut out.fault, before).is_some();
        (!wrong).then(|| *answer.word.get_or_init(|| word))
    }

    /// How many live of the kinds that a question is about.
    fn living(&self, query: &QueryOp) -> usize {
        query.kinds.iter().map(|kind| self.world.state.kinds[kind.index()].len()).sum()
    }

    /// Those a question finds, oldest first.
    pub(super) fn found_by_age(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        out: &mut Outbox,
    ) -> Vec<EntityId> {
        self.by_age(self.find(block, lane, query, out))
    }

    /// Who stands in these rows, oldest first.
    fn by_age(&self, found: Vec<(KindId, u32)>) -> Vec<EntityId> {
        let told = found.into_iter().map(|(kind, row)| {
            let columns = &self.world.state.kinds[kind.index()];
            (columns.serial[row as usize], columns.id[row as usize])
        });
        let mut told: Vec<(u64, EntityId)> = told.collect();
        told.sort_unstable();
        told.into_iter().map(|(_, id)| id).collect()
    }

    /// One of all of a kind by chance, the asker left out: rows are in the order of birth, so this is
    /// the same as listing them.
    fn any_row(&self, block: &mut Block, lanes: Chosen, to: Reg, kind: KindId) {
        let columns = &self.world.state.kinds[kind.index()];
        let among = kind == self.origin.kind;
        let count = columns.len() - usize::from(among && !columns.is_empty());
        self.draw_row(block, lanes, to, count);
        if count == 0 {
            block.fill(to, lanes, EntityId::NONE.to_word());
            return;
        }
        let ids = &columns.id[..];
        block.drawn = Some(kind);
        let Block { regs, rows, drawn_rows, .. } = block;
        let column = &mut regs[usize::from(to)];
        let last = (count - 1) as f64;
        let rows = &rows[..];
        lanes.each(
            #[inline(always)]
            |lane| {
                let at = f64::from_bits(column[lane]).min(last) as u32;
                let at = at + u32::from(among & (at >= rows[lane]));
                column[lane] = ids[at as usize].to_word();
                drawn_rows[lane] = at;
            },
        );
    }

    /// A row by chance, of so many; as a number.
    pub(super) fn draw_row(&self, block: &mut Block, lanes: Chosen, to: Reg, count: usize) {
        let last = Operand::Word((count.saturating_sub(1) as f64).to_bits());
        self.draw(block, lanes, to, (Operand::Word(0), last), true);
    }

    /// One by chance, evenly.
    fn one_of(&self, block: &mut Block, lane: usize, found: Vec<(KindId, u32)>) -> EntityId {
        let ids = self.by_age(found);
        let hash = self.next_draw(block, lane);
        if ids.is_empty() {
            return EntityId::NONE;
        }
        let at = crate::luck::whole(hash, 0.0, (ids.len() - 1) as f64) as usize;
        ids[at.min(ids.len() - 1)]
    }

    /// The sum, mean, smallest or largest of a value; sums run from the oldest to the youngest.
    fn aggregate(&self, query: &QueryOp, found: Vec<(KindId, u32)>, out: &mut Outbox) -> f64 {
        let Some(code) = &query.value else { return 0.0 };
        let state = self.world.state;
        let mut values: Vec<(u64, f64)> = Vec::with_capacity(found.len());
        let mut block = out.spare_blocks.pop().unwrap_or_default();
        for group in found.chunk_by(|a, b| a.0 == b.0) {
            let kind = group[0].0;
            let rows: Vec<u32> = group.iter().map(|(_, row)| *row).collect();
            for rows in rows.chunks(LANES) {
                block.prepare(rows, code);
                let origin = Origin { kind, ..self.origin };
                super::run::run(self.world, origin, code, 0, &mut block, out);
                for (lane, row) in rows.iter().enumerate() {
                    let serial = state.kinds[kind.index()].serial[*row as usize];
                    values.push((serial, block.number(code.result, lane)));
                }
            }
        }
        out.spare_blocks.push(block);
        if query.kinds.len() > 1 {
            values.sort_unstable_by_key(|v| v.0);
        }
        let values = values.into_iter().map(|(_, value)| value);
        let count = values.len().max(1) as f64;
        match query.what {
            QueryKind::Sum => values.sum::<f64>() + 0.0,
            QueryKind::Mean => values.sum::<f64>() / count + 0.0,
            QueryKind::Smallest => values.reduce(|a, b| if b < a { b } else { a }).unwrap_or(0.0),
            _ => values.reduce(|a, b| if b > a { b } else { a }).unwrap_or(0.0),
        }
    }

    pub(super) fn tally(&self, at: u32) -> f64 {
        let wanted = &self.world.compiled.tallies[at as usize];
        let tally = self.world.state.tally.iter();
        let counts = tally.filter(|((kind, cause, words, by), _)| {
            wanted.kinds.contains(kind)
                && (wanted.causes.is_empty() || wanted.causes.contains(cause))
                && wanted.words.as_ref().is_none_or(|w| words.as_deref() == Some(w))
                && (wanted.credit.is_empty() || wanted.credit.contains(by))
        });
        counts.map(|(_, count)| *count).sum::<u64>() as f64
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

    /// The nearest of kinds of which it is known of whom the condition holds: nobody is listed for it.
    fn nearest_of_all(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        holding: Option<&Holding>,
    ) -> EntityId {
        let pair = |reg: Reg| (block.number(reg, lane), block.number(reg + 1, lane));
        let Some(from) = query.from.map(pair) else { return EntityId::NONE };
        let (state, index) = (self.world.state, self.world.index);
        let me = self.columns().id[block.rows[lane] as usize];
        let arena = &self.world.compiled.program.arena;
        let ways = space::Ways::from(arena, from);
        let within = query.within.map(|(distance, of)| {
            let reach = block.number(distance, lane);
            (reach, reach * reach, space::Ways::from(arena, pair(of)))
        });
        if within.is_some_and(|(reach, ..)| reach.is_nan() || reach < 0.0) {
            return EntityId::NONE;
        }
        let mut best: Option<(f64, u64, EntityId)> = None;
        for (nth, kind) in query.kinds.iter().enumerate() {
            let columns = &state.kinds[kind.index()];
            let holding = holding.map(|holding| &holding[nth]);
            let limit = best.map_or(f64::INFINITY, |(square, ..)| square);
            let mut see = |row: usize, square: f64| {
                // Most are further away than one that is known.
                if let Some((nearest, ..)) = best.filter(|best| square > best.0) {
                    return nearest;
                }
                let nearer = best.is_none_or(|b| (square, columns.serial[row]) < (b.0, b.1));
                let (id, place) = (columns.id[row], (columns.x[row], columns.y[row]));
                let counts = nearer
                    && id != me
                    && !columns.ending[row]
                    && holding.is_none_or(|holding| holding.holds[row])
                    && within.is_none_or(|(_, limit, of)| of.square(place.0, place.1) <= limit);
                if counts {
                    best = Some((square, columns.serial[row], id));
                }
                best.map_or(f64::INFINITY, |(square, ..)| square)
            };
            match (index.places(state, arena, *kind, 1), within) {
                (Some(places), Some((reach, _, of))) => {
                    places.around(of.start(), reach, |row, at| {
                        see(row, ways.square_of(at));
                    });
                }
                (Some(places), None) => {
                    let least = limit;
                    places.nearest(from, least, |row, at| see(row, ways.square_of(at)));
                }
                (None, _) => {
                    ways.each_within((&columns.x, &columns.y), limit, see);
                }
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
            Stat::Peak => match stat.peak.and_then(|at| self.world.state.peaks.get(at)) {
                Some((_, peak)) => *peak,
                None => totals.map(|t| t.peak).sum(),
            },
        };
        sum as f64
    }

    /// Kind and row of an entity; one that was drawn by chance just now need not be looked for.
    #[inline]
    pub(super) fn find_drawn(
        &self,
        block: &Block,
        lane: usize,
        id: EntityId,
    ) -> Option<(KindId, usize)> {
        if let Some(kind) = block.drawn {
            let row = block.drawn_rows[lane] as usize;
            if self.world.state.kinds[kind.index()].id.get(row) == Some(&id) {
                return Some((kind, row));
            }
        }
        self.world.state.find(id)
    }

    /// The entity in a register, if it is still there.
    pub(super) fn alive(&self, block: &Block, lane: usize, reg: Reg) -> Option<EntityId> {
        let id = EntityId::from_word(block.word(reg, lane));
        is_alive(self.world.state, id).then_some(id)
    }
}
