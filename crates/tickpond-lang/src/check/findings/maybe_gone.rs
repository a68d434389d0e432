//! F0615: a field of an entity that may be gone by now: one kept in a variable, the maker, or one
//! known before a wait. Reading what is gone gives 0.

use super::crowds::{self, Crowds};
use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found: Vec<Diagnostic> = Vec::new();
    let sure = Sure::of(program);
    for (id, kind) in (0u32..).map(KindId).zip(&program.kinds) {
        let surely = sure.of_kind(id);
        for handler in kind.handlers.iter().filter(|h| !h.muted) {
            let (alive, always) = (surely.clone(), surely.len());
            let mut known = Known { alive, always, waited: false };
            block(program, &handler.body, &mut known, &mut found);
        }
    }
    found
}

/// Who is never gone.
struct Sure<'p> {
    program: &'p Program,
    crowds: Crowds<'p>,
    /// By kind: whether nothing ends it.
    stays: Vec<bool>,
    /// By kind: whether one is placed, whatever else is so.
    placed: Vec<bool>,
}

impl<'p> Sure<'p> {
    fn of(program: &'p Program) -> Sure<'p> {
        let crowds = Crowds::of(program);
        let ways = crowds::ways_out(&crowds);
        let stays = ways.iter().zip(&program.kinds).map(|(way, kind)| {
            matches!(kind.role, Role::Entity) && !way.by_meeting && !way.otherwise
        });
        let stays = stays.collect();
        let mut placed = vec![false; program.kinds.len()];
        for birth in program.places.iter().map(|p| &p.birth).filter(|b| b.filters.is_empty()) {
            if let ExprKind::Kind(kind) = birth.kind.kind {
                placed[kind.index()] = true;
            }
        }
        Sure { program, crowds, stays, placed }
    }

    /// What of a kind always holds somebody who stays: the maker, and variables all of whose values are such.
    fn of_kind(&self, owner: KindId) -> Vec<ExprKind> {
        let mut surely = Vec::new();
        for var in &self.program.kinds[owner.index()].vars {
            let values = self.crowds.values(owner, var.name);
            let is_somebody = matches!(var.ty, Ty::Entity(_)) && !crowds::is_nobody(&var.init);
            if is_somebody && values.iter().all(|(of, value)| self.is_sure(*of, value)) {
                surely.push(ExprKind::Own(Field::Var(var.name)));
            }
        }
        let makers = self.crowds.makers(&[owner]);
        let makes_on = |kind: &KindId| {
            let is_spawner = matches!(self.program.kinds[kind.index()].role, Role::Spawner(_));
            self.stays[kind.index()] || is_spawner
        };
        if !self.crowds.from_pond[owner.index()] && makers.iter().all(makes_on) {
            surely.push(ExprKind::Own(Field::Maker));
        }
        surely
    }

    /// Whether a value that `of` gives is somebody who stays.
    fn is_sure(&self, of: KindId, value: &Expr) -> bool {
        let Ty::Entity(kinds) = &value.ty else { return false };
        kinds.iter().all(|kind| self.stays[kind.index()])
            && match &value.kind {
                ExprKind::Me | ExprKind::Local(_) => true,
                ExprKind::Query(query) => {
                    let all =
                        query.condition.is_none() && query.within.is_none() && !query.touching;
                    all && kinds.iter().any(|kind| *kind != of && self.placed[kind.index()])
                }
                _ => false,
            }
    }
}

/// What is known at a statement.
#[derive(Clone)]
struct Known {
    /// Those asked about, and alive.
    alive: Vec<ExprKind>,
    /// How many of them never go.
    always: usize,
    /// Whether something has waited: then locals can be gone, too.
    waited: bool,
}

fn block(program: &Program, body: &[Stmt], known: &mut Known, found: &mut Vec<Diagnostic>) {
    for stmt in body {
        let mut here = known.clone();
        if let StmtKind::If { condition, .. } = &stmt.kind {
            asked(condition, &mut here.alive);
        }
        walk::of_statement(stmt, &mut |expr| look(program, expr, &here, found));
        match &stmt.kind {
            StmtKind::Wait(_) | StmtKind::WaitUntil(_) | StmtKind::SpawnAs(..) => {
                known.waited = true;
                known.alive.truncate(known.always);
            }
            StmtKind::Wave { body, .. } => {
                block(program, body, known, found);
                known.waited = true;
                known.alive.truncate(known.always);
            }
            StmtKind::If { bind, then, otherwise, .. } => {
                if let Some(bind) = bind {
                    here.alive.push(ExprKind::Local(*bind));
                }
                block(program, then, &mut here, found);
                let mut other = known.clone();
                block(program, otherwise, &mut other, found);
                known.waited |= here.waited || other.waited;
                if known.waited {
                    known.alive.truncate(known.always);
                }
            }
            StmtKind::Repeat { body, .. } => block(program, body, known, found),
            StmtKind::Each { bind, body, .. } => {
                here.alive.push(ExprKind::Local(*bind));
                block(program, body, &mut here, found);
            }
            StmtKind::Ray(ray) => {
                block(program, &ray.then, &mut here, found);
                block(program, &ray.otherwise, &mut known.clone(), found);
            }
            _ => {}
        }
    }
}

/// The entities a condition asks about.
fn asked(condition: &Expr, alive: &mut Vec<ExprKind>) {
    match &condition.kind {
        ExprKind::Alive(entity) | ExprKind::IsKind(entity, _) => alive.push(entity.kind.clone()),
        ExprKind::Binary(BinaryOp::And, a, b) => {
            asked(a, alive);
            asked(b, alive);
        }
        _ => {}
    }
}

fn look(program: &Program, expr: &Expr, known: &Known, found: &mut Vec<Diagnostic>) {
    let ExprKind::Of(entity, field) = &expr.kind else { return };
    let may_be_gone = match &entity.kind {
        ExprKind::Own(Field::Var(_) | Field::Maker) | ExprKind::PondVar(_) => true,
        ExprKind::Local(_) => known.waited,
        _ => false,
    };
    if !may_be_gone || *field == Field::Name || known.alive.contains(&entity.kind) {
        return;
    }
    let text = program.text.get(entity.span.range()).unwrap_or("it");
    let message = format!("`{text}` may be gone by now, and then this reads 0");
    found.push(
        Diagnostic::new(Code::MaybeGone, entity.span, message)
            .with_help(format!("ask first: `if {text} is alive {{ … }}`")),
    );
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::a_variable("every 1 s { heading = direction to prey }", &["F0615"])]
    #[case::asked("every 1 s { if prey is alive { heading = direction to prey } }", &[])]
    #[case::asked_and_more("every 1 s { if prey is alive and prey.age > 1 s { end self } }", &[])]
    #[case::fresh("every 1 s { if nearest(a) as p { heading = direction to p } prey = self }", &["F0613"])]
    #[case::after_a_wait(
        "every 1 s { if nearest(a) as p { wait 1 s; heading = direction to p; prey = p } }",
        &["F0613", "F0615"]
    )]
    #[case::a_request("every 1 s { end prey }", &[])]
    fn who_may_be_gone_is_asked_for(#[case] line: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace a at (1, 1)\n\
             kind a {{ vars {{ prey = self }}; {line}; after 9 s {{ end self }} }}"
        );
        assert_eq!(codes(&text), wanted);
    }

    #[rstest]
    #[case::one_that_stays("vars { home = nearest(lily) }; every 1 s { heading = direction to home }", "", &[])]
    #[case::one_that_may_end("vars { home = nearest(lily) }; every 1 s { heading = direction to home }", "after 9 s { end self }", &["F0615"])]
    #[case::one_that_may_not_be_there("vars { home = nearest(lily where age > 3 s) }; every 1 s { heading = direction to home }", "", &["F0615"])]
    #[case::of_two_values("vars { home = nearest(lily) }; every 1 s { heading = direction to home; if nearest(a) as n { home = n } }", "tag thing", &["E0402"])]
    #[case::nobody_at_first("vars { home: lily }; every 1 s { heading = direction to home; home = nearest(lily) }", "", &["F0615"])]
    #[case::a_maker_that_stays("every 1 s { heading = direction to maker }", "after 1 s { spawn a }", &[])]
    #[case::a_maker_that_ends("every 1 s { heading = direction to maker }", "after 1 s { spawn a; end self }", &["F0615"])]
    fn who_never_ends_is_never_gone(
        #[case] line: &str,
        #[case] lily: &str,
        #[case] wanted: &[&str],
    ) {
        let made = if lily.contains("spawn") { "" } else { "place a at (2, 2)" };
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace lily at (1, 1)\n{made}\nkind lily {{ {lily} }}\n\
             kind a {{ {line}; after 9 s {{ end self }} }}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
