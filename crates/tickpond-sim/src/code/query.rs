//! Questions about others, and totals.

use tickpond_lang::program::*;

use super::builder::Builder;
use super::layout::words_of;
use super::op::*;

impl Builder<'_> {
    pub(super) fn stat(
        &mut self,
        stat: Stat,
        kinds: Vec<tickpond_lang::program::KindId>,
        causes: Vec<tickpond_lang::program::Cause>,
    ) -> Reg {
        let peak = (stat == Stat::Peak && kinds.len() > 1).then(|| {
            let peaks = &mut self.compiled.peaks;
            peaks.iter().position(|known| *known == kinds).unwrap_or_else(|| {
                peaks.push(kinds.clone());
                peaks.len() - 1
            })
        });
        self.compiled.stats.push(StatOp { stat, kinds, causes, peak });
        let at = self.compiled.stats.len() as u32 - 1;
        let to = self.temp();
        self.emit(Op::Stat(to, at));
        to
    }

    /// Compiles a question and gives its place in the list.
    pub fn query(&mut self, query: &Query) -> u32 {
        let needs_here = query.what == QueryKind::Nearest
            || query.within.as_ref().is_some_and(|(_, from)| from.is_none());
        let here = (needs_here && self.is_somewhere()).then(|| self.here());
        let within = query.within.as_ref().and_then(|(distance, from)| {
            let distance = self.finite_of(distance);
            let from = from.as_ref().map(|e| self.finite_of(e)).or(here)?;
            Some((distance, from))
        });
        let condition = query.condition.as_ref().map(|e| self.on_candidate(e));
        // A value is a field of the candidate: it takes nothing over.
        let value = query.value.as_ref().map(|e| self.on_candidate(e).0);
        let from = (query.what == QueryKind::Nearest).then_some(here).flatten();
        let kinds = query.kinds.clone();
        self.compiled.queries.push(QueryOp {
            what: query.what,
            kinds,
            within,
            from,
            touching: query.touching,
            value,
            condition,
        });
        self.compiled.queries.len() as u32 - 1
    }

    /// Code for a value of a candidate, and what it takes over: (outer, inner) registers.
    pub fn on_candidate(&mut self, e: &Expr) -> (Code, Vec<(Reg, Reg)>) {
        let mut inner = Builder::new(self.compiled, self.owner);
        inner.captures = Some(Vec::new());
        let result = inner.finite_of(e);
        let captures = inner.captures.take().unwrap_or_default();
        let inner_regs = inner.taken.clone();
        let code = inner.finish(result);
        let mut pairs = Vec::new();
        for (e, inner) in captures.iter().zip(inner_regs) {
            let words = words_of(&e.ty);
            let value = self.finite_of(e);
            // Kept: the value must stand until the candidates are looked at.
            let outer = self.keep(words);
            self.copy(outer, value, words);
            let words = Reg::from(words);
            pairs.extend((0..words).map(|word| (outer + word, inner + word)));
        }
        (code, pairs)
    }
}
