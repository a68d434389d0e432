//! Questions about all entities, answered at once from the state of the phase's start.

use std::sync::atomic::Ordering;

use tickpond_lang::program::{KindId, POND, QueryKind, Stat};

use super::step::{Run, is_alive};
use super::{Block, Chosen, LANES, Origin, Outbox};
use crate::code::op::{Code, Operand, QueryOp, Reg};
use crate::index::{Holding, HoldingRows};
use crate::space;
use crate::state::EntityId;
use crate::vm::outbox::Fault;
use crate::wide::wide;

/// How often a question must be asked for it to pay to look of whom its condition holds: it costs as much as one question
/// about all, or as many about few that are near.
const OFTEN: usize = 2;
const OFTEN_NEAR: usize = 32;

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
            block.fill(to, lanes, (count as f64).to_bits());
            return;
        }
        if let ([kind], true, QueryKind::Random) = (&query.kinds[..], simple, query.what)
            && self.world.state.kinds[kind.index()].ending_count == 0
        {
            self.any_row(block, lanes, to, *kind);
            return;
        }
        if let Some(word) = self.same_for_all(block, lanes, query, at, out) {
            block.fill(to, lanes, word);
            return;
        }
        let holding = self.holding(query, at, lanes.len(), out);
        let plain = !query.touching && (query.condition.is_none() || holding.is_some());
        if plain && query.what == QueryKind::Nearest {
            for lane in lanes {
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
                let count = self.count_holding(block, lane, query, out);
                block.set(to, lane, (count as f64).to_bits());
                continue;
            }
            if query.what == QueryKind::Count && plain {
                let count = self.count_near(block, lane, query, holding);
                block.set(to, lane, (count as f64).to_bits());
                continue;
            }
            let found = self.find_holding(block, lane, query, holding, out);
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
        let sums = query.value.as_ref().is_some_and(|code| code.is_fixed());
        let lane = lanes.into_iter().next()?;
        if !(counts || sums) || !query.is_of_all() || !query.condition_is_fixed() {
            return None;
        }
        let answer = self.world.index.answer(at);
        if let Some(word) = answer.word.get() {
            return Some(*word);
        }
        out.look_up(&self.world.compiled.program.limits);
        if out.is_over() {
            return None;
        }
        let before = out.fault.take();
        let word = match query.what {
            QueryKind::Count => (self.count_holding(block, lane, query, out) as f64).to_bits(),
            _ => {
                let found = self.find(block, lane, query, out);
                self.aggregate(query, found, out).to_bits()
            }
        };
        // Where something goes wrong it is each asker's own fault.
        let wrong = std::mem::replace(&mut out.fault, before).is_some();
        (!wrong).then(|| *answer.word.get_or_init(|| word))
    }

    /// Of whom the condition of a question holds, if that is the same whoever asks and it was asked so often that it pays
    /// to look at all.
    fn holding(
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
            super::run(self.world, origin, code, 0, &mut candidates, out);
            see(first, &candidates);
            first = end;
        }
        out.spare_blocks.push(candidates);
    }

    /// How many there are of which the condition holds, the asker among them; nobody is listed for it.
    fn count_holding(
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
                super::run(self.world, origin, code, 0, &mut candidates, out);
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
    fn count_near(
        &self,
        block: &Block,
        lane: usize,
        query: &QueryOp,
        holding: Option<&Holding>,
    ) -> usize {
        let Some((distance, from)) = query.within else { return 0 };
        let reach = block.number(distance, lane);
        if reach.is_nan() || reach < 0.0 {
            return 0;
        }
        let arena = &self.world.compiled.program.arena;
        let from = (block.number(from, lane), block.number(from + 1, lane));
        let (limit, ways) = (reach * reach, space::Ways::from(arena, from));
        let mut counted = 0;
        for (nth, kind) in query.kinds.iter().enumerate() {
            let columns = &self.world.state.kinds[kind.index()];
            let holding = holding.map(|holding| &holding[nth]);
            let mut see = |row: usize| {
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
        counted
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
    fn find_holding(
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
        for (nth, kind) in query.kinds.iter().enumerate() {
            let columns = &state.kinds[kind.index()];
            let holding = holding.map(|holding| &holding[nth]);
            rows.clear();
            self.rows_within(block, lane, (query, *kind), holding, &mut rows);
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

    /// The rows of a kind that a question is about, but for its condition; where it is known of whom that holds, those.
    fn rows_within(
        &self,
        block: &Block,
        lane: usize,
        (query, kind): (&QueryOp, KindId),
        holding: Option<&HoldingRows>,
        rows: &mut Vec<u32>,
    ) {
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
            for other in self.world.index.touched(state, me) {
                if let Some((_, row)) = state.find(*other).filter(|(of, _)| *of == kind) {
                    let near = limit.is_none_or(|(_, limit, ways)| {
                        ways.square(columns.x[row], columns.y[row]) <= limit
                    });
                    rows.extend((near && holds(row)).then_some(row as u32));
                }
            }
            rows.sort_unstable();
            return;
        }
        let Some((reach, limit, ways)) = limit else {
            match holding {
                Some(holding) => rows.extend_from_slice(&holding.rows),
                None => rows.extend(0..columns.len() as u32),
            }
            return;
        };
        if reach.is_nan() || reach < 0.0 {
            return;
        }
        if let Some(places) = self.world.index.places(state, arena, kind, 1) {
            let mut sorted = true;
            places.around(ways.start(), reach, |row, at| {
                if ways.square_of(at) <= limit && holds(row) {
                    sorted &= rows.last().is_none_or(|last| *last < row as u32);
                    rows.push(row as u32);
                }
            });
            if !sorted {
                rows.sort_unstable();
            }
            return;
        }
        ways.each_within((&columns.x, &columns.y), limit, |row, _| {
            rows.extend(holds(row).then_some(row as u32));
            limit
        });
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
            super::run(self.world, origin, code, 0, &mut candidates, out);
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
                super::run(self.world, origin, code, 0, &mut block, out);
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
