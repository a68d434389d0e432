//! Sending messages: addressees are found at the time of sending.

use tickpond_lang::program::{KindId, QueryKind, SiteId};

use super::block::Block;
use super::chosen::Chosen;
use super::lanes::LANES;
use super::outbox::Outbox;
use super::step::Run;
use crate::code::op::{Reg, SendOp, SendTo};
use crate::event::{Phase, Who};
use crate::state::{EntityId, Key, Letter, LetterRun, To};
use crate::wide::wide;

impl Run<'_> {
    pub(super) fn send(&self, block: &mut Block, lanes: Chosen, at: u32, out: &mut Outbox) {
        let compiled = self.world.compiled;
        let send = &compiled.sends[at as usize];
        let state = self.world.state;
        let columns = self.columns();
        if let SendTo::One(reg) = send.to {
            self.send_to_one(block, lanes, (send, reg), out);
            return;
        }
        for lane in lanes {
            let to = match &send.to {
                SendTo::Pond => {
                    let id = state.pond().id;
                    self.stands(state.find(id)).map(|stands| To::One(id, stands))
                }
                SendTo::All => Some(To::Many(self.everyone().into())),
                SendTo::One(_) => None,
                SendTo::Each(query) => {
                    // `each` leaves the asker out, as `any` does.
                    let query = &compiled.queries[*query as usize];
                    debug_assert_eq!(query.what, QueryKind::Any);
                    Some(To::Many(self.found_by_age(block, lane, query, out).into()))
                }
            };
            let Some(to) = to else { continue };
            out.spend_letters(match &to {
                To::One(..) => 1,
                To::Many(many) => many.len() as u64,
            });
            out.look_up(&compiled.program.limits);
            if out.is_over() {
                out.letters.write_over(send.site, &to);
                return;
            }
            let key = self.key(block, lane);
            let row = block.rows[lane] as usize;
            let (kind, number, id) = (self.origin.kind, columns.number[row], columns.id[row]);
            let values = send.values.iter().map(|reg| block.word(*reg, lane));
            let what = (send.message, send.site);
            out.letters.write(key, what, (Who { kind, number, id }, columns.luck[row]), to, values);
        }
    }

    /// Sends each lane's letter to one by chance, who need not be known by name, as a run; false if that
    /// cannot be done, and then nothing has happened.
    pub(super) fn send_to_any(
        &self,
        block: &mut Block,
        lanes: Chosen,
        (query, send, with): (u32, u32, Reg),
        site: SiteId,
        out: &mut Outbox,
    ) -> bool {
        let compiled = self.world.compiled;
        let (query, send) = (&compiled.queries[query as usize], &compiled.sends[send as usize]);
        let [kind] = query.kinds[..] else { return false };
        let there = &self.world.state.kinds[kind.index()];
        let among = kind == self.origin.kind;
        let count = there.len().saturating_sub(usize::from(among));
        let can_be = count > 0
            && there.ending_count == 0
            && !block.met
            && self.world.phase <= Phase::Mail
            && lanes.len() == block.len()
            && block.asked.iter().all(|asked| *asked == 0);
        if !can_be {
            return false;
        }
        self.draw_row(block, lanes, with, count);
        out.last_site = Some(site);
        out.fire(site, lanes.len() as u64);
        let (mine, theirs) = (self.columns().place_of(0), there.place_of(0));
        let (n, last) = (lanes.len(), (count - 1) as f64);
        let Block { rows, regs, ways, asked, .. } = block;
        let (rows, drawn, ways) = (&rows[..n], &regs[usize::from(with)][..n], &mut ways[..n]);
        wide(
            #[inline(always)]
            move || {
                for ((way, row), drawn) in ways.iter_mut().zip(rows).zip(drawn) {
                    let at = f64::from_bits(*drawn).min(last) as u32;
                    let at = at + u32::from(among & (at >= *row));
                    *way = (mine.wrapping_add(*row), theirs.wrapping_add(at));
                }
            },
        );
        asked.fill(1);
        out.spend_letters(n as u64);
        let run = LetterRun {
            from: (self.origin.kind, self.origin.handler),
            what: (send.message, send.site),
            to: kind,
            count: n,
        };
        out.letters.push_run(run, &block.ways[..n]);
        true
    }

    /// The usual case: one letter a lane, to one.
    fn send_to_one(
        &self,
        block: &mut Block,
        lanes: Chosen,
        (send, to): (&SendOp, Reg),
        out: &mut Outbox,
    ) {
        if self.send_to_drawn(block, lanes, (send, to), out) {
            return;
        }
        // Looked up one behind another, so that the memory is waited for once for many.
        let mut found = [None; LANES];
        lanes.each(
            #[inline(always)]
            |lane| {
                let id = EntityId::from_word(block.word(to, lane));
                found[lane] = self.stands(self.find_drawn(block, lane, id));
            },
        );
        out.letters.reserve(lanes.len());
        let columns = self.columns();
        let (serials, numbers) = (&columns.serial[..], &columns.number[..]);
        let (ids, lucks) = (&columns.id[..], &columns.luck[..]);
        let (kind, handler) = (self.origin.kind, self.origin.handler);
        for lane in lanes {
            let Some(stands) = found[lane] else {
                self.stale(block, lane, "send", out);
                continue;
            };
            let row = block.rows[lane] as usize;
            let (other, nth) = block.next_request(lane);
            let letter = Letter::to_one(
                Key { asker: serials[row], handler, other, nth },
                (send.message, send.site),
                (Who { kind, number: numbers[row], id: ids[row] }, lucks[row]),
                (EntityId::from_word(block.word(to, lane)), stands),
            );
            let values = send.values.iter().map(|reg| block.word(*reg, lane));
            out.letters.push(letter, values);
        }
        out.spend_letters(lanes.len() as u64);
    }

    /// Sends letters as a run to those who were just drawn by chance, if the letters are such as can be: rows
    /// must not move before they are heard.
    fn send_to_drawn(
        &self,
        block: &mut Block,
        lanes: Chosen,
        (send, to): (&SendOp, Reg),
        out: &mut Outbox,
    ) -> bool {
        let Some(kind) = block.drawn else { return false };
        let there = &self.world.state.kinds[kind.index()];
        let plain = send.values.is_empty() && !block.met && there.ending_count == 0;
        if !plain || self.world.phase > Phase::Mail {
            return false;
        }
        let (ids, columns) = (&there.id[..], self.columns());
        let Block { rows, regs, drawn_rows, ways, asked, .. } = block;
        let (rows, words) = (&rows[..], &regs[usize::from(to)]);
        let (mut count, mut fits) = (0, true);
        lanes.each(
            #[inline(always)]
            |lane| {
                let row = drawn_rows[lane % LANES] as usize;
                let drawn = ids.get(row).map_or(0, |id| id.to_word());
                fits &= (drawn == words[lane % LANES]) & (asked[lane] == 0);
                ways[count % LANES] = (columns.place_of(rows[lane] as usize), there.place_of(row));
                count += 1;
            },
        );
        if !fits {
            return false;
        }
        lanes.each(
            #[inline(always)]
            |lane| asked[lane] = 1,
        );
        out.spend_letters(count as u64);
        let run = LetterRun {
            from: (self.origin.kind, self.origin.handler),
            what: (send.message, send.site),
            to: kind,
            count,
        };
        out.letters.push_run(run, &ways[..count]);
        true
    }

    /// The kind of an addressee and its place there, if it is still there.
    fn stands(&self, found: Option<(KindId, usize)>) -> Option<(KindId, u32)> {
        let (kind, row) = found?;
        let columns = &self.world.state.kinds[kind.index()];
        (!columns.ending[row]).then(|| (kind, columns.place_of(row)))
    }

    fn everyone(&self) -> Vec<EntityId> {
        let kinds = self.world.state.kinds.iter();
        let mut all: Vec<(u64, EntityId)> = kinds
            .flat_map(|c| {
                (0..c.len()).filter(|row| !c.ending[*row]).map(|row| (c.serial[row], c.id[row]))
            })
            .collect();
        all.sort_unstable();
        all.into_iter().map(|(_, id)| id).collect()
    }
}
