//! Walks over a program that several findings share.

use crate::program::*;

/// Calls `see` for every statement, those in blocks after the one that holds them.
pub fn statements<'p>(body: &'p [Stmt], see: &mut impl FnMut(&'p Stmt)) {
    for stmt in body {
        see(stmt);
        match &stmt.kind {
            StmtKind::If { then, otherwise, .. } => {
                statements(then, see);
                statements(otherwise, see);
            }
            StmtKind::Repeat { body, .. } | StmtKind::Wave { body, .. } => statements(body, see),
            _ => {}
        }
    }
}

/// All handlers that are not muted, with their kinds.
pub fn handlers(program: &Program) -> impl Iterator<Item = (KindId, &Handler)> {
    let kinds = program.kinds.iter().enumerate();
    kinds
        .flat_map(|(i, kind)| kind.handlers.iter().map(move |h| (KindId(i as u32), h)))
        .filter(|(_, h)| !h.muted)
}

/// The kinds a value of the type kind can be: itself if it is named, else any that is named as a
/// value somewhere, as the default or the argument of a parameter.
pub fn kinds_made(program: &Program, kind: &Expr) -> Vec<KindId> {
    match kind.kind {
        ExprKind::Kind(id) => vec![id],
        _ => kind_values(program),
    }
}

fn kind_values(program: &Program) -> Vec<KindId> {
    let mut found = Vec::new();
    let mut see = |expr: &Expr| {
        if let ExprKind::Kind(id) = expr.kind {
            found.push(id);
        }
    };
    for var in program.kinds.iter().flat_map(|k| &k.vars) {
        see(&var.init);
    }
    for place in &program.places {
        place.birth.vars.iter().for_each(|(_, value)| see(value));
    }
    for (_, handler) in handlers(program) {
        statements(&handler.body, &mut |stmt| match &stmt.kind {
            StmtKind::Set(_, value) | StmtKind::Let(_, value) => see(value),
            StmtKind::Spawn(birth) => birth.vars.iter().for_each(|(_, v)| see(v)),
            StmtKind::Send { values, .. } => values.iter().for_each(&mut see),
            _ => {}
        });
    }
    found.sort();
    found.dedup();
    found
}

/// Births a kind asks for: the handler or rule they stand in, and the birth.
pub fn births(program: &Program) -> Vec<(KindId, Option<&Handler>, &Birth, SiteId)> {
    let mut births = Vec::new();
    for (kind, handler) in handlers(program) {
        statements(&handler.body, &mut |stmt| {
            if let StmtKind::Spawn(birth) = &stmt.kind {
                births.push((kind, Some(handler), birth.as_ref(), stmt.site));
            }
        });
    }
    for (i, kind) in program.kinds.iter().enumerate() {
        if let Role::Spawner(rule) = &kind.role {
            births.push((KindId(i as u32), None, &rule.birth, rule.site));
        }
    }
    births
}
