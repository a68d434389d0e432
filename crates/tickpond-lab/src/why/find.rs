//! What stands on a line: a handler, and the statement in it that one can ask about.

use tickpond_lang::program::{Expr, Handler, KindId, Program, Stmt, StmtKind};

/// A handler, and perhaps an `if` or a `send` in it.
pub(crate) struct Found {
    /// Whose handler.
    pub kind: KindId,
    /// The handler.
    pub handler: Handler,
    /// The innermost `if` whose head or whose branches the line is in, or the `send` that stands there.
    pub stmt: Option<Stmt>,
    /// Conditions of the same `if … else if` before it, all of which must be false.
    pub before: Vec<Expr>,
    /// Where the whole `if` begins in the text.
    pub begin: usize,
}

/// What stands on a line, from 1. Of kinds that share a handler the wanted one's.
pub(crate) fn found(program: &Program, line: u32, wanted: Option<KindId>) -> Option<Found> {
    let line_of = |at: u32| program.lines.line(at);
    let holds = |handler: &&Handler| {
        (line_of(handler.span.start)..=line_of(handler.span.end.saturating_sub(1))).contains(&line)
    };
    let mut kinds: Vec<usize> = (0..program.kinds.len()).collect();
    kinds.sort_by_key(|kind| Some(*kind) != wanted.map(|wanted| wanted.index()));
    let (kind, handler) = kinds.into_iter().find_map(|kind| {
        // The innermost: one on a line of its own before one that holds it.
        let fitting = program.kinds[kind].handlers.iter().filter(holds);
        let found = fitting.min_by_key(|handler| handler.span.end - handler.span.start);
        found.map(|handler| (kind, handler))
    })?;
    let mut found = Found {
        kind: KindId(kind as u32),
        handler: handler.clone(),
        stmt: None,
        before: Vec::new(),
        begin: 0,
    };
    look(program, &handler.body, line, &mut found);
    Some(found)
}

/// Looks for the innermost statement one can ask about.
fn look(program: &Program, body: &[Stmt], line: u32, found: &mut Found) {
    for stmt in body {
        match &stmt.kind {
            StmtKind::If { .. } => look_if(program, stmt, line, found),
            StmtKind::Repeat { body, .. }
            | StmtKind::Wave { body, .. }
            | StmtKind::Each { body, .. } => look(program, body, line, found),
            StmtKind::Ray(ray) => {
                look(program, &ray.then, line, found);
                look(program, &ray.otherwise, line, found);
            }
            StmtKind::Send { .. } if program.line_of(stmt.site) == line => {
                found.stmt = Some(stmt.clone());
            }
            _ => {}
        }
    }
}

fn look_if(program: &Program, stmt: &Stmt, line: u32, found: &mut Found) {
    let begin = program.sites[stmt.site.index()].span.start as usize;
    let (mut stmt, mut before) = (stmt, Vec::new());
    loop {
        let StmtKind::If { condition, then, otherwise, .. } = &stmt.kind else { return };
        let head = program.lines.line(condition.span.start);
        if head == line || covers(program, then, line) {
            found.stmt = Some(stmt.clone());
            found.before = before;
            found.begin = begin;
            return look(program, then, line, found);
        }
        before.push(condition.clone());
        // `else if` is one more link of the chain; anything else a branch of its own.
        match otherwise.as_slice() {
            [next] if is_else_if(program, next) => stmt = next,
            other => return look(program, other, line, found),
        }
    }
}

/// Whether a line lies in a branch: from the line of its first statement to that of its last.
fn covers(program: &Program, body: &[Stmt], line: u32) -> bool {
    let mut lines = Vec::new();
    tickpond_lang::program::walk::statements(body, &mut |stmt| {
        lines.push(program.line_of(stmt.site));
    });
    let (first, last) = (lines.iter().min(), lines.iter().max());
    first.zip(last).is_some_and(|(first, last)| (*first..=*last).contains(&line))
}

/// Whether this `if` stands behind an `else`.
fn is_else_if(program: &Program, stmt: &Stmt) -> bool {
    let StmtKind::If { condition, .. } = &stmt.kind else { return false };
    let head = program.text[..condition.span.start as usize].trim_end();
    let head = head.strip_suffix("if").unwrap_or(head).trim_end();
    head.ends_with("else")
}
