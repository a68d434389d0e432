//! What a handler can see while it is being checked.

use crate::program::{KindId, Local, LocalId, Ty};

/// The names and rules inside one handler.
#[derive(Debug)]
pub(crate) struct Scope {
    /// The kind whose handler it is; the pond for its own.
    pub owner: KindId,
    /// All locals ever made, for the handler.
    pub locals: Vec<Local>,
    /// Those that can be seen now, innermost last.
    visible: Vec<LocalId>,
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
    pub fn bind(&mut self, name: &str, ty: Ty) -> LocalId {
        let id = LocalId(self.locals.len() as u32);
        self.locals.push(Local { name: name.to_string(), ty });
        self.visible.push(id);
        id
    }

    /// The local a name means.
    pub fn find(&self, name: &str) -> Option<(LocalId, Ty)> {
        let id = self.visible.iter().rev().find(|id| self.locals[id.index()].name == name)?;
        Some((*id, self.locals[id.index()].ty.clone()))
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
        self.visible.iter().map(|id| self.locals[id.index()].name.clone()).collect()
    }
}
