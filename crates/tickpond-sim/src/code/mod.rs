//! Checked programs to register code.

mod alone;
mod birth;
mod builder;
mod compiled;
pub mod effects;
mod expr;
mod field;
mod handler;
mod kinds;
pub(crate) mod layout;
mod notices;
pub mod op;
mod parts;
mod query;
mod reads;
mod stmt;
pub mod traits;
mod turns;

use std::sync::Arc;

use tickpond_lang::program::{
    BinaryOp, Body, Event, Expr, ExprKind, KindId, MessageId, Program, Role, Ty, VarName,
};

use crate::luck;
use crate::state::{HeldAt, Widths};
pub use compiled::{Compiled, Conditions};
use kinds::read_by_name;
pub use kinds::{HandlerCode, KindCode, Part, SpawnerCode};
use layout::words_of;
pub use notices::Notices;
pub(crate) use notices::other_of;
use op::Code;
use parts::{has_clock, parts_of, those_of, var_words};
pub use turns::{Job, Turn, Turns};

impl Compiled {
    /// Compiles a checked program. Linear in its size.
    pub fn new(program: Arc<Program>) -> Compiled {
        let count = program.kinds.len();
        let by_word = crate::state::Canon::of(&program).kinds;
        let mut kind_words = vec![0; count];
        for (word, kind) in by_word.iter().enumerate() {
            kind_words[kind.index()] = word as u32;
        }
        let mut compiled = Compiled {
            kinds: Vec::with_capacity(count),
            turns: Turns::default(),
            spawns: Vec::new(),
            sends: Vec::new(),
            queries: Vec::new(),
            stats: Vec::new(),
            tallies: Vec::new(),
            blasts: Vec::new(),
            watches: Vec::new(),
            conditions: Vec::new(),
            places: Vec::new(),
            notices: Notices::default(),
            kind_words,
            by_word,
            peaks: Vec::new(),
            var_words: var_words(&program),
            state_words: program.state_names.iter().map(|n| n.as_str().into()).collect(),
            program,
        };
        compiled.compile_kinds();
        compiled.turns = Turns::new(&compiled.kinds);
        compiled.compile_places();
        compiled.compile_checks();
        compiled.note_touches();
        compiled.note_alone();
        compiled
    }

    fn compile_kinds(&mut self) {
        let program = self.program.clone();
        for at in 0..program.kinds.len() {
            let code = self.kind(KindId(at as u32));
            self.kinds.push(code);
        }
    }

    fn kind(&mut self, id: KindId) -> KindCode {
        let program = self.program.clone();
        let kind = &program.kinds[id.index()];
        let mut widths = Widths {
            vars: self.words_in(id),
            clocks: 0,
            tracks: kind.tracks.len(),
            words_of_bits: 1,
        };
        let vars = kind.vars.iter().map(|var| {
            let word = self.var_words[id.index()][var.name.index()].unwrap_or(0);
            (word, words_of(&var.ty), self.value(id, &var.init))
        });
        let vars = vars.collect::<Vec<_>>();
        let health = kind.health.as_ref().map(|health| self.value(id, health));
        let mut order: Vec<usize> = (0..kind.handlers.len()).collect();
        order.retain(|at| !kind.handlers[*at].muted);
        // Behaviours by name, then the kind; in each by head, then by state.
        let place = |at: usize| {
            let handler = &kind.handlers[at];
            let state = handler.state.map(|s| (s.track, s.state));
            (handler.part.is_empty(), &handler.part, &handler.head, state)
        };
        order.sort_by(|a, b| place(*a).cmp(&place(*b)));
        let mut free = HeldAt::default();
        let mut handlers = Vec::new();
        for at in order {
            let handler = &kind.handlers[at];
            let mut code = self.handler(id, handler);
            if has_clock(&handler.event) {
                code.clock = Some(widths.clocks as u16);
                widths.clocks += 1;
            }
            if handler.event.waits_for_change() {
                let held = free.take(handler.event.change_bits());
                widths.words_of_bits = held.word + 1;
                code.held = Some(held);
            }
            handlers.push(code);
        }
        let spawner = match &kind.role {
            Role::Spawner(rule) if !rule.muted => {
                widths.clocks += 1;
                Some(self.spawner(id, rule, widths.clocks as u16 - 1))
            }
            _ => None,
        };
        let heard = handlers.iter().enumerate().filter_map(|(at, handler)| match handler.event {
            Event::Message { message, .. } => Some((message, at)),
            _ => None,
        });
        let mut hears: Vec<(MessageId, usize)> = heard.collect();
        hears.sort_unstable();
        let zones = |h: &HandlerCode| matches!(h.event, Event::Enter(_) | Event::Leave(_));
        // Of what hangs on a mount the way is that of its owner.
        let looks_back =
            kind.body != Body::None || !kind.mounts.is_empty() || handlers.iter().any(zones);
        let turns = matches!(kind.body, Body::Box { upright: false, .. });
        let leaves = handlers.iter().any(|h| h.event == Event::LeaveArena);
        let name_hash = luck::hash_text(&kind.name);
        let told = |h: &HandlerCode| matches!(h.event, Event::Becoming(_) | Event::Quitting(_));
        let tells_states = handlers.iter().any(told);
        KindCode {
            widths,
            name_hash,
            vars,
            health,
            handlers,
            hears,
            looks_back,
            leaves,
            turns,
            tells_states,
            spawner,
        }
    }

    fn words_in(&self, id: KindId) -> usize {
        let vars = &self.program.kinds[id.index()].vars;
        vars.iter().map(|v| usize::from(words_of(&v.ty))).sum()
    }

    fn compile_places(&mut self) {
        let program = self.program.clone();
        for placed in &program.places {
            let code =
                self.birth_code(tickpond_lang::program::POND, &placed.birth, placed.site, None);
            self.places.push((placed.site, code));
        }
    }

    fn compile_checks(&mut self) {
        let program = self.program.clone();
        let pond = tickpond_lang::program::POND;
        for watch in &program.watches {
            let code = self.value(pond, &watch.value);
            self.watches.push(code);
        }
        for expect in &program.expects {
            let mut conditions = Conditions::default();
            let (holds, event) = parts_of(&expect.check);
            conditions.holds = holds.map(|e| self.value(pond, e));
            conditions.parts = holds.map(|e| self.part(pond, e));
            conditions.event = event.map(|e| self.value(pond, e));
            let those = those_of(&expect.check).and_then(|t| t.condition.as_ref());
            conditions.those = those.map(|e| self.of_candidate(e));
            self.conditions.push(conditions);
        }
    }

    /// A condition, in the parts that are told one by one.
    fn part(&mut self, owner: KindId, e: &Expr) -> Part {
        match &e.kind {
            ExprKind::Binary(op @ (BinaryOp::And | BinaryOp::Or), a, b) => {
                let parts = vec![self.part(owner, a), self.part(owner, b)];
                if *op == BinaryOp::And { Part::All(parts) } else { Part::Any(parts) }
            }
            // `is gone` and `!=` are no `not` in front of something that is told by itself.
            ExprKind::Not(inner) if inner.span != e.span => {
                Part::Not(Box::new(self.part(owner, inner)))
            }
            _ => match compared(e) {
                Some((a, b)) => {
                    let mut side = |e: &Expr| (e.span, self.value(owner, e), e.ty.clone());
                    let (left, right) = (side(a), side(b));
                    let (holds, reads) = (self.value(owner, e), read_by_name(e));
                    let is_equality = matches!(e.kind, ExprKind::Binary(BinaryOp::Equal, ..));
                    Part::Compared { holds, left, right, is_equality, span: e.span, reads }
                }
                None => Part::Plain(self.value(owner, e), e.span, read_by_name(e)),
            },
        }
    }

    /// Code for a condition on an entity from outside all handlers.
    fn of_candidate(&mut self, e: &Expr) -> Code {
        builder::Builder::new(self, tickpond_lang::program::POND).on_candidate(e).0
    }

    fn note_touches(&mut self) {
        let mut pairs: Vec<(usize, usize)> = Vec::new();
        for (a, kind) in self.kinds.iter().enumerate() {
            for handler in &kind.handlers {
                if let Some(other) = other_of(&handler.event) {
                    pairs.extend(other.kinds.iter().map(|b| (a, b.index())));
                }
            }
        }
        // `touching` in a question is about the asker's kind, which is not known there.
        let asked: Vec<usize> = self
            .queries
            .iter()
            .filter(|q| q.touching)
            .flat_map(|q| q.kinds.iter().map(|k| k.index()))
            .collect();
        for b in asked {
            let bodies = self.program.kinds.iter().enumerate();
            pairs.extend(bodies.filter(|(_, k)| k.body != Body::None).map(|(a, _)| (a, b)));
        }
        let solid: Vec<bool> = self.program.kinds.iter().map(|k| k.matter.solid).collect();
        let passes = |a: usize, b: usize| {
            self.program.kinds[a].matter.passes.contains(&KindId(b as u32))
                || self.program.kinds[b].matter.passes.contains(&KindId(a as u32))
        };
        pairs.retain(|(a, b)| !passes(*a, *b));
        self.notices = Notices::new(self.kinds.len(), &pairs, &solid);
    }

    /// The kind a word of a register or a variable stands for.
    pub fn kind_of_word(&self, word: u64) -> KindId {
        self.by_word.get(word as usize).copied().unwrap_or(tickpond_lang::program::POND)
    }

    /// The first word of a kind's variable.
    pub fn var_word(&self, kind: KindId, name: VarName) -> Option<usize> {
        self.var_words[kind.index()][name.index()].map(usize::from)
    }
}

/// The two numbers or pairs that a condition compares, with `+-`, too.
fn compared(e: &Expr) -> Option<(&Expr, &Expr)> {
    match &e.kind {
        ExprKind::Binary(_, a, b) if matches!(a.ty, Ty::Num(_) | Ty::Pair(_)) => Some((a, b)),
        ExprKind::Near(a, b, _) => Some((a, b)),
        // `a != b +- c`.
        ExprKind::Not(near) => compared(near),
        _ => None,
    }
}
