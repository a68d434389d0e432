//! What a handler can see while it is being checked.

use crate::diagnostic::Span;
use crate::program::{Expr, KindId, Local, LocalId, Ty};

/// The behaviour a handler comes from, and what its parameters stand for.
#[derive(Clone, Debug)]
pub(crate) struct Part {
    /// The behaviour's name.
    pub name: String,
    /// Its parameters and their values.
    pub params: Vec<PartParam>,
}

/// A parameter of a behaviour in use.
#[derive(Clone, Debug)]
pub(crate) struct PartParam {
    /// Its name.
    pub name: String,
    /// Where the behaviour names it.
    pub span: Span,
    /// What it stands for.
    pub value: Expr,
}

/// A parameter of a function that gives a value.
#[derive(Clone, Debug)]
pub(crate) struct Bound {
    /// Its name.
    pub name: String,
    /// Where the function names it.
    pub span: Span,
    /// What [`crate::program::ExprKind::Bound`] calls it.
    pub id: u32,
    /// Its type.
    pub ty: Ty,
}

/// What can be seen, put aside while a function's body is checked.
pub(crate) struct Hidden {
    visible: Vec<LocalId>,
    bounds: Vec<Bound>,
    candidates: Option<Vec<KindId>>,
}

/// The names and rules inside one handler.
#[derive(Clone, Debug)]
pub(crate) struct Scope {
    /// The kind whose handler it is; the pond for its own.
    pub owner: KindId,
    /// All locals ever made, for the handler.
    pub locals: Vec<Local>,
    /// Those that can be seen now, innermost last.
    visible: Vec<LocalId>,
    /// Where the name of each local stands; that of a parameter stands in its function.
    defined: Vec<Span>,
    /// Parameters of functions that give a value.
    pub bounds: Vec<Bound>,
    /// The behaviour around, if one is.
    pub part: Option<Part>,
    /// The candidates of the query around, if one is.
    pub candidates: Option<Vec<KindId>>,
    /// Why a `wait` is not allowed here, if it is not.
    pub no_wait: Option<&'static str>,
    /// Whether this is a handler: only there can anything be done, or drawn by chance.
    pub is_handler: bool,
}

impl Scope {
    /// The scope of a handler of `owner`.
    pub fn handler(owner: KindId) -> Scope {
        Scope {
            owner,
            locals: Vec::new(),
            visible: Vec::new(),
            defined: Vec::new(),
            bounds: Vec::new(),
            part: None,
            candidates: None,
            no_wait: None,
            is_handler: true,
        }
    }

    /// The scope of a value that is read, such as a watch.
    pub fn reading(owner: KindId) -> Scope {
        Scope { is_handler: false, ..Scope::handler(owner) }
    }

    /// A new local, hiding older ones of its name.
    pub fn bind(&mut self, name: &str, ty: Ty, span: Span) -> LocalId {
        let id = LocalId(self.locals.len() as u32);
        self.locals.push(Local { name: name.to_string(), ty, span });
        self.defined.push(span);
        self.visible.push(id);
        id
    }

    /// The local a name means.
    pub fn find(&self, name: &str) -> Option<(LocalId, Ty)> {
        let id = self.visible.iter().rev().find(|id| self.locals[id.index()].name == name)?;
        Some((*id, self.locals[id.index()].ty.clone()))
    }

    /// The parameter of a function that gives a value.
    pub fn find_bound(&self, name: &str) -> Option<&Bound> {
        self.bounds.iter().rev().find(|bound| bound.name == name)
    }

    /// The parameter of the behaviour around.
    pub fn find_param(&self, name: &str) -> Option<&PartParam> {
        self.part.as_ref()?.params.iter().find(|param| param.name == name)
    }

    /// Where the name of a local stands.
    pub fn defined_at(&self, local: LocalId) -> Span {
        self.defined[local.index()]
    }

    /// Says where the name of a local stands, for one that is bound elsewhere.
    pub fn is_defined_at(&mut self, local: LocalId, span: Span) {
        self.defined[local.index()] = span;
    }

    /// Hides everything: a function sees its parameters alone.
    pub fn hide(&mut self) -> Hidden {
        Hidden {
            visible: std::mem::take(&mut self.visible),
            bounds: std::mem::take(&mut self.bounds),
            candidates: self.candidates.take(),
        }
    }

    /// Shows again what was hidden.
    pub fn show(&mut self, hidden: Hidden) {
        self.visible = hidden.visible;
        self.bounds = hidden.bounds;
        self.candidates = hidden.candidates;
    }

    /// How many locals can be seen; give it to [`Scope::leave`] at the end of a block.
    pub fn enter(&self) -> usize {
        self.visible.len()
    }

    /// Hides what was bound since.
    pub fn leave(&mut self, depth: usize) {
        self.visible.truncate(depth);
    }

    /// Names of all locals that can be seen.
    pub fn names(&self) -> Vec<String> {
        let locals = self.visible.iter().map(|id| self.locals[id.index()].name.clone());
        locals.chain(self.bounds.iter().map(|bound| bound.name.clone())).collect()
    }
}
