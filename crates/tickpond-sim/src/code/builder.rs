//! Code under construction: registers, instructions, and what is kept in registers from the start.

use std::collections::{HashMap, HashSet};

use tickpond_lang::program::{Expr, Field, Function, KindId, SiteId, Stmt, StmtKind};
use tickpond_lang::program::{ExprKind, Role, walk};

use super::compiled::Compiled;
use super::effects::Doubt;
use super::layout::words_of;
use super::op::{Code, Op, Reg, Word};
use super::traits::Traits;

/// The code under construction.
pub(super) struct Builder<'c> {
    pub compiled: &'c mut Compiled,
    pub owner: KindId,
    pub ops: Vec<Op>,
    /// First register of each local.
    pub locals: Vec<Reg>,
    /// Words of the own entity that are kept in registers, because this handler writes them.
    pub cached: Vec<(Reg, Word)>,
    /// Registers of values bound in expressions.
    pub bounds: HashMap<u32, Reg>,
    /// Fields the handler assigns somewhere: adding to those is assigning, too.
    pub assigned: Vec<Field>,
    /// Registers below hold locals and kept words.
    pub first_temp: Reg,
    /// Registers below are in use for longer than a statement.
    pub base: Reg,
    /// Next free register.
    pub next: Reg,
    /// Most registers in use at once.
    pub most: Reg,
    /// Inside a condition on a candidate: what it takes over from outside.
    pub captures: Option<Vec<Expr>>,
    /// Registers of what was taken over.
    pub taken: Vec<Reg>,
    /// The wave births belong to.
    pub wave: Option<Reg>,
    /// The site of the statement being compiled.
    pub site: SiteId,
    /// Registers with a number that may not be finite, and has not been looked at.
    pub doubtful: HashSet<Reg>,
}

impl<'c> Builder<'c> {
    pub fn new(compiled: &'c mut Compiled, owner: KindId) -> Builder<'c> {
        Builder {
            compiled,
            owner,
            ops: Vec::new(),
            locals: Vec::new(),
            cached: Vec::new(),
            bounds: HashMap::new(),
            assigned: Vec::new(),
            first_temp: 0,
            base: 0,
            next: 0,
            most: 0,
            captures: None,
            taken: Vec::new(),
            wave: None,
            site: SiteId(0),
            doubtful: HashSet::new(),
        }
    }

    /// A register that is free until the statement ends.
    pub fn temp(&mut self) -> Reg {
        self.temps(1)
    }

    /// Registers in a row that are free until the statement ends.
    pub fn temps(&mut self, count: u8) -> Reg {
        let reg = self.next;
        self.next += Reg::from(count);
        self.most = self.most.max(self.next);
        reg
    }

    /// Registers in a row that are never given out again.
    pub fn keep(&mut self, count: u8) -> Reg {
        // Whatever is in use now may still be needed.
        let reg = self.temps(count);
        self.base = self.next;
        reg
    }

    pub fn emit(&mut self, op: Op) {
        self.note_doubt(&op);
        self.ops.push(op);
    }

    /// Notes whether what an instruction gives can be something else than a finite number though all it
    /// works with are: sums, products and quotients can. What such a number goes through carries it on.
    fn note_doubt(&mut self, op: &Op) {
        let given = op.gives();
        for reg in given.first..given.first + given.count {
            let doubt = match given.doubt {
                Doubt::None => false,
                Doubt::Arises => true,
                Doubt::Of(from) => self.doubtful.contains(&from),
            };
            match doubt {
                true => self.doubtful.insert(reg),
                false => self.doubtful.remove(&reg),
            };
        }
    }

    /// Reads the kept words: anew after a wait, or as an earlier firing left them at the start.
    pub fn load_cached(&mut self, at_start: bool) {
        for (reg, word) in self.cached.clone() {
            self.emit(if at_start { Op::Cached(reg, word) } else { Op::Own(reg, word) });
        }
    }

    pub fn finish(mut self, result: Reg) -> Code {
        self.emit(Op::Done);
        let traits = Traits::of(&self.ops);
        // Locals and what is taken over come first; nothing else is read before it is written.
        let cleared = if traits.waits { self.most } else { self.first_temp };
        Code {
            traits,
            ops: self.ops,
            regs: self.most,
            result,
            cleared,
            gives: true,
            numeric: false,
            site: None,
            span: None,
        }
    }
}

impl Builder<'_> {
    /// Gives registers to the own words this handler writes: it reads back what it wrote.
    ///
    /// A handler that fires once for an entity keeps only what it reads somewhere; one that can fire
    /// several times leaves all it writes to the firings after it.
    pub fn cache_written(&mut self, body: &[Stmt], once: bool) {
        let mut written: Vec<Field> = Vec::new();
        let mut assigned: Vec<Field> = Vec::new();
        written_fields(body, &mut |field, set| {
            written.push(field);
            if set {
                assigned.push(field);
            }
        });
        self.assigned = assigned;
        if once {
            let mut read: Vec<Field> = Vec::new();
            read_fields(body, &mut |field| read.push(field));
            // What is added to and assigned is read by the adding.
            read.extend(written.iter().copied().filter(|f| self.assigned.contains(f)));
            let moving = [Field::Vel, Field::Heading, Field::Speed];
            let reads_motion = read.iter().any(|f| moving.contains(f));
            written.retain(|f| read.contains(f) || reads_motion && moving.contains(f));
        }
        let moves = written.iter().any(|f| matches!(f, Field::Vel | Field::Heading | Field::Speed));
        let mut words: Vec<Word> = Vec::new();
        if moves {
            // Heading, velocity and speed move together.
            words.extend([Word::Vx, Word::Vy, Word::Heading]);
        }
        for field in written {
            match field {
                Field::Pos => words.extend([Word::X, Word::Y]),
                Field::Spin => words.push(Word::Spin),
                Field::Var(name) => {
                    let var = self.compiled.program.var_of(self.owner, name);
                    let count = var.map_or(1, |v| words_of(&v.ty));
                    words.extend((0..count).map(|part| Word::Var(name, part)));
                }
                _ => {}
            }
        }
        let mut seen: Vec<Word> = Vec::new();
        for word in words {
            if !seen.contains(&word) {
                seen.push(word);
                let reg = self.keep(1);
                self.cached.push((reg, word));
            }
        }
    }

    /// The register a word is kept in.
    pub fn kept(&self, word: Word) -> Option<Reg> {
        if self.captures.is_some() {
            return None;
        }
        self.cached.iter().find(|(_, w)| *w == word).map(|(reg, _)| *reg)
    }

    /// Whether the owner is somewhere: the pond is not.
    pub fn is_somewhere(&self) -> bool {
        !matches!(self.compiled.program.kinds[self.owner.index()].role, Role::Pond)
    }
}

fn written_fields(body: &[Stmt], see: &mut impl FnMut(Field, bool)) {
    for stmt in body {
        match &stmt.kind {
            StmtKind::Set(field, _) => see(*field, true),
            StmtKind::Add(field, _) => see(*field, false),
            StmtKind::If { then, otherwise, .. } => {
                written_fields(then, see);
                written_fields(otherwise, see);
            }
            StmtKind::Repeat { body, .. }
            | StmtKind::Wave { body, .. }
            | StmtKind::Each { body, .. } => written_fields(body, see),
            StmtKind::Ray(ray) => {
                written_fields(&ray.then, see);
                written_fields(&ray.otherwise, see);
            }
            _ => {}
        }
    }
}

/// The own fields a handler reads: in its expressions, or by what it asks for.
fn read_fields(body: &[Stmt], see: &mut impl FnMut(Field)) {
    walk::statements(body, &mut |stmt| {
        let along_heading = match &stmt.kind {
            StmtKind::Push { along, .. } => along.is_none(),
            StmtKind::Add(Field::Heading, _) => false,
            _ => false,
        };
        if along_heading {
            see(Field::Heading);
        }
        if let StmtKind::Ray(ray) = &stmt.kind
            && ray.from.is_none()
        {
            see(Field::Pos);
        }
        walk::of_statement(stmt, &mut |expr| match &expr.kind {
            ExprKind::Own(field) => see(*field),
            ExprKind::Call(Function::TurnToward, _) => see(Field::Heading),
            ExprKind::DirectionTo(_) | ExprKind::DistanceTo(_) | ExprKind::Query(_) => {
                see(Field::Pos);
            }
            _ => {}
        });
        // A question in a request is asked from here.
        let asks =
            matches!(&stmt.kind, StmtKind::Each { .. } | StmtKind::Ray(_) | StmtKind::Send { .. });
        if asks {
            see(Field::Pos);
        }
        if matches!(stmt.kind.whom(), Some(tickpond_lang::program::Whom::Each(_))) {
            see(Field::Pos);
        }
    });
}
