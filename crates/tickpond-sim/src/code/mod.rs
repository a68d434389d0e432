//! Checked programs to register code.

mod expr;
mod handler;
pub mod op;
mod stmt;

use std::sync::Arc;

use tickpond_lang::program::{
    Cause, Check, Event, Expr, Happening, KindId, LocalId, Program, Rhythm, Role, SiteId, Ty,
    VarName,
};

use crate::luck;
use crate::state::Widths;
use op::{Code, QueryOp, Reg, SendOp, SpawnOp, StatOp, Word};

/// A program and the code of all its parts.
#[derive(Clone, Debug)]
pub struct Compiled {
    /// The program.
    pub program: Arc<Program>,
    /// By kind.
    pub kinds: Vec<KindCode>,
    /// Births the code refers to.
    pub spawns: Vec<SpawnOp>,
    /// Messages the code refers to.
    pub sends: Vec<SendOp>,
    /// Questions the code refers to.
    pub queries: Vec<QueryOp>,
    /// Totals the code refers to.
    pub stats: Vec<StatOp>,
    /// The watches.
    pub watches: Vec<Code>,
    /// The conditions of the expectations, by expectation: what must hold, and the event.
    pub conditions: Vec<Conditions>,
    /// The code of the placements, in the order of the roll's kinds.
    pub places: Vec<(SiteId, HandlerCode)>,
    /// Which pairs of kinds notice touch: `notices[a * kinds + b]`, symmetric.
    pub notices: Vec<bool>,
    /// Which kinds take part in touch at all.
    pub touches: Vec<bool>,
    /// By kind and variable name: first word of the variable.
    pub var_words: Vec<Vec<Option<u16>>>,
}

/// The conditions of one expectation.
#[derive(Clone, Debug, Default)]
pub struct Conditions {
    /// What must hold.
    pub holds: Option<Code>,
    /// The event that is a condition turning true.
    pub event: Option<Code>,
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
    /// What a spawner does.
    pub spawner: Option<SpawnerCode>,
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
    /// Its period, for clocks and held keys.
    pub period: Option<Code>,
    /// Its clock.
    pub clock: Option<u16>,
    /// The cause of the ends it asks for.
    pub cause: Cause,
}

impl HandlerCode {
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
    /// Most in all.
    pub at_most: Option<Code>,
    /// Its clock.
    pub clock: u16,
}

/// How many registers a value of this type takes.
pub(crate) fn words_of(ty: &Ty) -> u8 {
    if matches!(ty, Ty::Pair(_)) { 2 } else { 1 }
}

impl Compiled {
    /// Compiles a checked program. Linear in its size.
    pub fn new(program: Arc<Program>) -> Compiled {
        let count = program.kinds.len();
        let mut compiled = Compiled {
            kinds: Vec::with_capacity(count),
            spawns: Vec::new(),
            sends: Vec::new(),
            queries: Vec::new(),
            stats: Vec::new(),
            watches: Vec::new(),
            conditions: Vec::new(),
            places: Vec::new(),
            notices: vec![false; count * count],
            touches: vec![false; count],
            var_words: var_words(&program),
            program,
        };
        compiled.compile_kinds();
        compiled.compile_places();
        compiled.compile_checks();
        compiled.note_touches();
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
        let mut widths = Widths { vars: self.words_in(id), clocks: 0 };
        let vars = kind.vars.iter().map(|var| {
            let word = self.var_words[id.index()][var.name.index()].unwrap_or(0);
            (word, words_of(&var.ty), self.value(id, &var.init))
        });
        let vars = vars.collect::<Vec<_>>();
        let health = kind.health.as_ref().map(|health| self.value(id, health));
        let mut order: Vec<usize> = (0..kind.handlers.len()).collect();
        order.retain(|at| !kind.handlers[*at].muted);
        order.sort_by(|a, b| kind.handlers[*a].head.cmp(&kind.handlers[*b].head));
        let mut handlers = Vec::new();
        for at in order {
            let handler = &kind.handlers[at];
            let mut code = self.handler(id, handler);
            if has_clock(&handler.event) {
                code.clock = Some(widths.clocks as u16);
                widths.clocks += 1;
            }
            handlers.push(code);
        }
        let spawner = match &kind.role {
            Role::Spawner(rule) => {
                widths.clocks += 1;
                Some(self.spawner(id, rule, widths.clocks as u16 - 1))
            }
            _ => None,
        };
        KindCode { widths, name_hash: luck::hash_text(&kind.name), vars, health, handlers, spawner }
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
            conditions.event = event.map(|e| self.value(pond, e));
            self.conditions.push(conditions);
        }
    }

    fn note_touches(&mut self) {
        let count = self.kinds.len();
        for (a, kind) in self.kinds.iter().enumerate() {
            for handler in &kind.handlers {
                if let Event::Touch { kinds, .. } = &handler.event {
                    for b in kinds.iter().map(|k| k.index()) {
                        self.notices[a * count + b] = true;
                        self.notices[b * count + a] = true;
                        self.touches[a] = true;
                        self.touches[b] = true;
                    }
                }
            }
        }
    }

    /// The first word of a kind's variable.
    pub fn var_word(&self, kind: KindId, name: VarName) -> Option<usize> {
        self.var_words[kind.index()][name.index()].map(usize::from)
    }
}

fn turning(event: &Happening) -> Option<&Expr> {
    match event {
        Happening::Turns(condition) => Some(condition),
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
        Check::LivesAtMost(..) | Check::LivesAtLeast(..) | Check::EndsBy(..) => (None, None),
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
