//! F0608: a motion, a push or damage by a fixed amount on every tick: what comes of it in a second depends on the rate.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;
use crate::units::Dim;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for (_, handler) in walk::handlers(program) {
        let each_tick = match &handler.event {
            Event::EveryTick => true,
            Event::Every(period)
            | Event::WhileHeld(_, period)
            | Event::WhileTouching(_, period) => is_a_tick(program, period),
            _ => false,
        };
        in_block(program, &handler.body, each_tick, &mut found);
    }
    found
}

/// Whether a time is no longer than a tick.
fn is_a_tick(program: &Program, time: &Expr) -> bool {
    constant(time, &[]).is_some_and(|seconds| program.ticks(seconds) <= 1)
}

fn in_block(program: &Program, body: &[Stmt], each_tick: bool, found: &mut Vec<Diagnostic>) {
    for stmt in body {
        if each_tick {
            found.extend(per_tick(program, stmt));
        }
        match &stmt.kind {
            // What is done once, and then not any more, is no motion.
            StmtKind::If { then, otherwise, .. } => {
                in_block(program, then, each_tick && !is_once(then), found);
                in_block(program, otherwise, each_tick && !is_once(otherwise), found);
            }
            StmtKind::Repeat { times, body, .. } => {
                let ticks = body
                    .iter()
                    .any(|s| matches!(&s.kind, StmtKind::Wait(time) if is_a_tick(program, time)));
                let each_tick = each_tick
                    || ticks
                        && times.as_ref().is_none_or(|n| constant(n, &[]).is_none_or(|n| n > 1.0));
                in_block(program, body, each_tick, found);
            }
            StmtKind::Each { body, .. } | StmtKind::Wave { body, .. } => {
                in_block(program, body, each_tick, found);
            }
            StmtKind::Ray(ray) => {
                in_block(program, &ray.then, each_tick, found);
                in_block(program, &ray.otherwise, each_tick, found);
            }
            _ => {}
        }
    }
}

/// Whether a block changes a state or a variable, or ends its entity: then its condition is another one in the next tick.
fn is_once(body: &[Stmt]) -> bool {
    body.iter().any(|stmt| match &stmt.kind {
        StmtKind::Set(Field::Var(_), _)
        | StmtKind::Add(Field::Var(_), _)
        | StmtKind::Become { .. } => true,
        StmtKind::Wait(_) | StmtKind::Replace(_) => true,
        StmtKind::End { target: Whom::One(one), .. } => one.kind == ExprKind::Me,
        _ => false,
    })
}

/// What a statement does that is meant per second, with the amount.
fn per_tick(program: &Program, stmt: &Stmt) -> Option<Diagnostic> {
    let (what, amount, help) = match &stmt.kind {
        StmtKind::Add(Field::Pos, step) => ("moves by a length", step, VELOCITY),
        StmtKind::Set(Field::Pos, value) => {
            ("moves by a length", added(value, Field::Pos)?, VELOCITY)
        }
        StmtKind::Add(field @ (Field::Vel | Field::Speed), step) => (faster(*field), step, THRUST),
        StmtKind::Set(field @ (Field::Vel | Field::Speed), value) => {
            (faster(*field), added(value, *field)?, THRUST)
        }
        StmtKind::Add(Field::Heading, step) => ("turns by an angle", step, SPIN),
        StmtKind::Set(Field::Heading, value) => {
            ("turns by an angle", added(value, Field::Heading)?, SPIN)
        }
        StmtKind::Push { by, .. } => ("pushes", by, THRUST),
        StmtKind::Damage { amount, .. } => ("hurts", amount, OFTEN),
        StmtKind::Heal { amount, .. } => ("heals", amount, OFTEN),
        _ => return None,
    };
    if by_time(amount) {
        return None;
    }
    let comes_to = match &amount.kind {
        ExprKind::Pair(x, y) => {
            let parts = constant(x, &[]).zip(constant(y, &[]));
            parts
                .map(|(x, y)| format!("({}, {})", short(x * program.rate), short(y * program.rate)))
        }
        _ => constant(amount, &[]).map(|n| short(n * program.rate)),
    };
    let unit = match &amount.ty {
        Ty::Num(Dim::NONE) => "per s".to_string(),
        Ty::Num(dim) | Ty::Pair(dim) => match dim.to_string().as_str() {
            "u/s" => "u/s2".into(),
            unit => format!("{unit}/s"),
        },
        _ => "per s".into(),
    };
    let comes_to = match comes_to {
        Some(sum) => format!("at {} per s it comes to {sum} {unit}", program.rate),
        None => "what comes of it in a second depends on the rate".to_string(),
    };
    let message = format!("this {what} on every tick: {comes_to}");
    let span = program.sites[stmt.site.index()].span;
    Some(Diagnostic::new(Code::MovePerTick, span, message).with_help(help))
}

const VELOCITY: &str = "set `vel` or `speed` once instead: it is per second at any rate";
const THRUST: &str = "write `thrust … u/s2` for an acceleration: it is per second at any rate";
const SPIN: &str =
    "set `spin` once instead, or `turn toward … at most … deg/s`: it is per second at any rate";
const OFTEN: &str =
    "write it under `every 1 s`, or another time, instead: then it is the same at any rate";

fn faster(field: Field) -> &'static str {
    if field == Field::Speed { "adds to the speed" } else { "adds to the velocity" }
}

/// What is added in `field + amount`.
fn added(value: &Expr, field: Field) -> Option<&Expr> {
    let ExprKind::Binary(BinaryOp::Add | BinaryOp::Subtract, a, b) = &value.kind else {
        return None;
    };
    (a.kind == ExprKind::Own(field)).then_some(b)
}

/// Whether an amount is one for a second times a time, or one that says itself what it is at most in a second.
fn by_time(amount: &Expr) -> bool {
    let mut by_time = false;
    walk::inside(amount, &mut |expr| match &expr.kind {
        ExprKind::Binary(BinaryOp::Multiply, a, b) => {
            by_time |= a.ty == Ty::Num(Dim::TIME) || b.ty == Ty::Num(Dim::TIME);
        }
        ExprKind::Call(Function::TurnToward, _) => by_time = true,
        _ => {}
    });
    by_time
}

fn short(n: f64) -> String {
    let rounded = (n * 1.0e6).round() / 1.0e6;
    rounded.to_string()
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::a_step("every tick { pos += (1 u, 0 u) }", &["F0608"])]
    #[case::a_step_written_out("every tick { pos = pos + (1, 0) }", &["F0608"])]
    #[case::a_speed("every tick { speed += 1 u/s }", &["F0608"])]
    #[case::a_velocity("every tick { vel += (1, 0) u/s }", &["F0608"])]
    #[case::a_turn("every tick { turn by 3 deg }", &["F0608"])]
    #[case::a_push("every tick { push self by (1, 0) u/s }", &["F0608"])]
    #[case::damage("every tick { damage self by 1 }", &["F0608"])]
    #[case::every_tick_in_other_words("every 1 ticks { turn by 3 deg }", &["F0608"])]
    #[case::a_loop("routine r { repeat { turn by 3 deg; wait 1 ticks } }", &["F0608"])]
    #[case::a_slow_loop("routine r { repeat { turn by 3 deg; wait 1 s } }", &[])]
    #[case::every_second("every 1 s { push self by (1, 0) u/s; turn by 3 deg }", &[])]
    #[case::an_acceleration("every tick { thrust 3 u/s2 }", &[])]
    #[case::times_a_time("every tick { turn by 90 deg/s * 1 ticks }", &[])]
    #[case::a_turn_at_most("every tick { turn toward (1, 1) at most 90 deg/s }", &[])]
    #[case::under_a_condition("every tick { if age > 3 s { turn by 3 deg } }", &["F0608"])]
    #[case::once("every tick { if n < 1 { push self by (1, 0) u/s; n += 1 } }", &[])]
    #[case::a_jump("every tick { pos = (1, 1) }", &[])]
    #[case::a_count("every tick { n += 1 }", &[])]
    fn what_is_meant_per_second_is_found(#[case] line: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace a at (1, 1)\nwatch w = sum(a.n)\n\
             kind a {{ health 3; body circle 1 u; vars {{ n = 0 }}; {line}; after 9 s {{ damage self by 1 }} }}"
        );
        assert_eq!(codes(&text), wanted);
    }

    #[rstest]
    #[case(
        "pos += (0.1, 0)",
        "this moves by a length on every tick: at 60 per s it comes to (6, 0) u/s"
    )]
    #[case(
        "push self by (1, 0) u/s",
        "this pushes on every tick: at 60 per s it comes to (60, 0) u/s2"
    )]
    #[case(
        "turn by 3 deg",
        "this turns by an angle on every tick: at 60 per s it comes to 180 deg/s"
    )]
    #[case(
        "turn by age / 1 s * 1 deg",
        "this turns by an angle on every tick: what comes of it in a second depends on the rate"
    )]
    fn it_says_what_it_comes_to(#[case] line: &str, #[case] words: &str) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10 }}\nplace a at (1, 1)\nkind a {{ every tick {{ {line} }} }}"
        );
        assert_eq!(crate::compile(&text).diagnostics[0].message, words);
    }
}
