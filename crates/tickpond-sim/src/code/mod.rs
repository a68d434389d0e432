//! Checked programs to register code.

mod alone;
mod birth;
mod expr;
mod field;
mod handler;
pub mod op;
mod reads;
mod stmt;
mod turns;

use std::sync::Arc;

use tickpond_lang::program::{
    BinaryOp, Body, Cause, Check, Event, Expr, ExprKind, Happening, InState, KindId, LocalId,
    MessageId, Other, Program, Rhythm, Role, SiteId, Tally, Those, Ty, VarName,
};

use tickpond_lang::Span;

use crate::luck;
use crate::state::Widths;
use op::{BlastOp, Code, FilterCode, QueryOp, Reg, SendOp, SpawnOp, StatOp, Word};
pub use turns::{Job, Turn, Turns};

/// A program and the code of all its parts.
#[derive(Clone, Debug)]
pub struct Compiled {
    /// The program.
    pub program: Arc<Program>,
    /// By kind.
    pub kinds: Vec<KindCode>,
    /// All handlers, by what sets them off.
    pub turns: Turns,
    /// Births the code refers to.
    pub spawns: Vec<SpawnOp>,
    /// Messages the code refers to.
    pub sends: Vec<SendOp>,
    /// Questions the code refers to.
    pub queries: Vec<QueryOp>,
    /// Totals the code refers to.
    pub stats: Vec<StatOp>,
    /// Totals by words or credit the code refers to.
    pub tallies: Vec<Tally>,
    /// Blasts the code refers to.
    pub blasts: Vec<BlastOp>,
    /// The watches.
    pub watches: Vec<Code>,
    /// The conditions of the expectations, by expectation: what must hold, and the event.
    pub conditions: Vec<Conditions>,
    /// The code of the placements, in the order of the roll's kinds.
    pub places: Vec<(SiteId, HandlerCode)>,
    /// Which pairs of kinds notice touch.
    pub notices: Notices,
    /// By kind and variable name: first word of the variable.
    pub var_words: Vec<Vec<Option<u16>>>,
    /// By kind: the word that stands for it, which is its place by name. Words do not depend on the order
    /// of the text.
    pub kind_words: Vec<u32>,
    /// The kinds, by the word that stands for each.
    pub by_word: Vec<KindId>,
    /// Several kinds of which the most that ever lived together are asked for.
    pub peaks: Vec<Vec<KindId>>,
    /// Names of the states, for events.
    pub state_words: Vec<Arc<str>>,
}

/// The conditions of one expectation.
#[derive(Clone, Debug, Default)]
pub struct Conditions {
    /// What must hold.
    pub holds: Option<Code>,
    /// The event that is a condition turning true.
    pub event: Option<Code>,
    /// What must hold of each it is about.
    pub those: Option<Code>,
    /// What must hold, taken apart.
    pub parts: Option<Part>,
}

/// A condition taken apart, to tell which part of it is to blame.
#[derive(Clone, Debug)]
pub enum Part {
    /// All of these.
    All(Vec<Part>),
    /// One of these.
    Any(Vec<Part>),
    /// Not this.
    Not(Box<Part>),
    /// A comparison of two values.
    Compared {
        /// Whether it holds.
        holds: Code,
        /// What stands on its left, its value and type.
        left: (Span, Code, Ty),
        /// What stands on its right.
        right: (Span, Code, Ty),
        /// The operation.
        op: BinaryOp,
        /// Where all of it stands.
        span: Span,
        /// Those it reads by name, such as `midge#7`.
        reads: Vec<(KindId, u32)>,
    },
    /// Anything else that holds or does not, and those it reads by name.
    Plain(Code, Span, Vec<(KindId, u32)>),
}

impl Part {
    /// Whether any of it reads one by name: who is not there can be no proof.
    pub fn reads_any(&self) -> bool {
        match self {
            Part::All(parts) | Part::Any(parts) => parts.iter().any(Part::reads_any),
            Part::Not(inner) => inner.reads_any(),
            Part::Compared { reads, .. } | Part::Plain(_, _, reads) => !reads.is_empty(),
        }
    }
}

/// Those whose fields an expression reads by name.
fn read_by_name(e: &Expr) -> Vec<(KindId, u32)> {
    let mut reads = Vec::new();
    tickpond_lang::program::walk::inside(e, &mut |e| {
        if let ExprKind::Of(of, _) = &e.kind
            && let ExprKind::Named(kind, number) = of.kind
        {
            reads.push((kind, number));
        }
    });
    reads
}

/// The code of a kind.
#[derive(Clone, Debug)]
pub struct KindCode {
    /// Words and clocks.
    pub widths: Widths,
    /// Hash of the name.
    pub name_hash: u64,
    /// The variables' first values: word, how many words, code.
    pub vars: Vec<(u16, u8, Code)>,
    /// Health at birth.
    pub health: Option<Code>,
    /// Handlers in the order of the roll: by head. Muted ones are left out.
    pub handlers: Vec<HandlerCode>,
    /// The messages it hears, ascending, and the places of the handlers that hear them.
    pub hears: Vec<(MessageId, usize)>,
    /// Whether anything asks where its members were before they moved: touch, or a zone.
    pub looks_back: bool,
    /// Whether anything waits for its members to leave the arena.
    pub leaves: bool,
    /// Whether its members have a body that turns: then it is noted how they faced before they moved.
    pub turns: bool,
    /// Whether something waits for its states to begin or end: only then it is noted which were seen.
    pub tells_states: bool,
    /// What a spawner does.
    pub spawner: Option<SpawnerCode>,
}

impl KindCode {
    /// The places of the handlers that hear a message, in the order of the roll.
    pub fn hearing(&self, message: MessageId) -> impl Iterator<Item = usize> + '_ {
        let first = self.hears.partition_point(|(heard, _)| *heard < message);
        self.hears[first..].iter().take_while(move |(m, _)| *m == message).map(|(_, at)| *at)
    }
}

/// A handler's code.
#[derive(Clone, Debug)]
pub struct HandlerCode {
    /// When it runs.
    pub event: Event,
    /// What it does.
    pub code: Code,
    /// What its draws are keyed by: kind and head.
    pub hash: u64,
    /// Its site.
    pub site: SiteId,
    /// First register of each local.
    pub locals: Vec<Reg>,
    /// The words kept in registers from the start, for firings in a row: register and word.
    pub cached: Vec<(Reg, Word)>,
    /// Whether it can wait.
    pub waits: bool,
    /// Its period, for clocks and held keys; else the value its head waits for: a condition, the
    /// coordinate of a line, a speed.
    pub period: Option<Code>,
    /// What must hold of the other party.
    pub filter: Option<FilterCode>,
    /// Its clock.
    pub clock: Option<u16>,
    /// The bit that tells whether what it waits for held before.
    pub bit: Option<u8>,
    /// The state it belongs to.
    pub state: Option<InState>,
    /// Whether it may be started again while it waits.
    pub overlapping: bool,
    /// Whether it hears its message while inactive, and only then.
    pub while_inactive: bool,
    /// The cause of the ends it asks for.
    pub cause: Cause,
    /// Whether nothing else that runs in its phase reads or writes what it writes: then that can take
    /// hold at once.
    pub alone: bool,
}

impl HandlerCode {
    /// The bits of what it waits for, in their place; none if it waits for nothing to turn true.
    pub fn change_mask(&self) -> u64 {
        let all = (1 << self.event.change_bits()) - 1;
        self.bit.map_or(0, |bit| all << bit)
    }

    /// The first register of a local.
    pub fn register(&self, local: LocalId) -> Reg {
        self.locals[local.index()]
    }
}

/// What a spawner does.
#[derive(Clone, Debug)]
pub struct SpawnerCode {
    /// Asks for the birth; local 0 is how many there is room for.
    pub make: HandlerCode,
    /// The period or the delay.
    pub period: Option<Code>,
    /// The rhythm, for its sort.
    pub rhythm: Rhythm,
    /// Most alive.
    pub keep_at_most: Option<Code>,
    /// How many it keeps alive, and the line that says so.
    pub keep: Option<(Code, SiteId)>,
    /// Most in all.
    pub at_most: Option<Code>,
    /// The age at which it begins.
    pub from: Option<Code>,
    /// What stops it for good.
    pub until: Option<Code>,
    /// Its clock.
    pub clock: u16,
}

/// How many registers a value of this type takes.
pub(crate) fn words_of(ty: &Ty) -> u8 {
    match ty {
        Ty::Pair(_) => 2,
        Ty::Impact(_) => 3,
        Ty::Ray(_) => 6,
        _ => 1,
    }
}

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
        let mut widths = Widths { vars: self.words_in(id), clocks: 0, tracks: kind.tracks.len() };
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
        let mut bits = 0;
        let mut handlers = Vec::new();
        for at in order {
            let handler = &kind.handlers[at];
            let mut code = self.handler(id, handler);
            if has_clock(&handler.event) {
                code.clock = Some(widths.clocks as u16);
                widths.clocks += 1;
            }
            if handler.event.waits_for_change() {
                code.bit = Some(bits);
                bits += handler.event.change_bits();
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

    fn part(&mut self, owner: KindId, e: &Expr) -> Part {
        match &e.kind {
            ExprKind::Binary(op @ (BinaryOp::And | BinaryOp::Or), a, b) => {
                let parts = vec![self.part(owner, a), self.part(owner, b)];
                if *op == BinaryOp::And { Part::All(parts) } else { Part::Any(parts) }
            }
            ExprKind::Not(inner) => Part::Not(Box::new(self.part(owner, inner))),
            ExprKind::Binary(op, a, b) if matches!(a.ty, Ty::Num(_) | Ty::Pair(_)) => {
                let mut side = |e: &Expr| (e.span, self.value(owner, e), e.ty.clone());
                let (left, right) = (side(a), side(b));
                let (holds, reads) = (self.value(owner, e), read_by_name(e));
                Part::Compared { holds, left, right, op: *op, span: e.span, reads }
            }
            _ => Part::Plain(self.value(owner, e), e.span, read_by_name(e)),
        }
    }

    /// Code for a condition on an entity from outside all handlers.
    fn of_candidate(&mut self, e: &Expr) -> Code {
        handler::Builder::new(self, tickpond_lang::program::POND).on_candidate(e).0
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
    fn new(kinds: usize, pairs: &[(usize, usize)], solid: &[bool]) -> Notices {
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

fn turning(event: &Happening) -> Option<&Expr> {
    match event {
        Happening::Turns(condition) => Some(condition),
        _ => None,
    }
}

fn those_of(check: &Check) -> Option<&Those> {
    match check {
        Check::LivesAtMost(those, _)
        | Check::LivesAtLeast(those, _)
        | Check::EndsBy(those, _)
        | Check::HurtAtMost(those, _) => Some(those),
        _ => None,
    }
}

fn parts_of(check: &Check) -> (Option<&Expr>, Option<&Expr>) {
    match check {
        Check::Always(e) | Check::Never(e) | Check::InTheEnd(e) => (Some(e), None),
        Check::At(_, e) | Check::By(_, e) | Check::From(_, _, e) => (Some(e), None),
        Check::AfterWithin { event, holds, .. } | Check::AfterFor { event, holds, .. } => {
            (Some(holds), turning(event))
        }
        Check::LivesAtMost(..)
        | Check::LivesAtLeast(..)
        | Check::EndsBy(..)
        | Check::HurtAtMost(..) => (None, None),
    }
}

fn has_clock(event: &Event) -> bool {
    matches!(event, Event::After(_) | Event::Every(_) | Event::WhileHeld(..) | Event::Routine(_))
}

fn var_words(program: &Program) -> Vec<Vec<Option<u16>>> {
    let of_kind = |kind: &tickpond_lang::program::Kind| {
        let mut words = vec![None; program.var_names.len()];
        let mut next = 0;
        for var in &kind.vars {
            words[var.name.index()] = Some(next);
            next += u16::from(words_of(&var.ty));
        }
        words
    };
    program.kinds.iter().map(of_kind).collect()
}
