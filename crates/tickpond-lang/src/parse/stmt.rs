//! Statements, and the options that say where and how something is born.

use super::{Parser, expr, handler};
use crate::syntax::SyntaxKind::*;

pub(super) fn block(p: &mut Parser) {
    p.node(Block, |p| p.deeper(|p| p.braces(statement)));
}

fn statement(p: &mut Parser) {
    if !p.at_kind(Ident) {
        return;
    }
    // A field may be called like a statement: what is assigned to is a name.
    if matches!(p.kind_at(1), Some(Assign | PlusAssign | MinusAssign)) {
        return assign(p);
    }
    match p.text_at(0) {
        "turn" => p.node(TurnStmt, |p| {
            p.keyword();
            p.expect_word("by");
            expr::expr(p);
        }),
        "spawn" => p.node(SpawnStmt, |p| {
            p.keyword();
            expr::expr(p);
            // `spawn midge` names the kind at once, `spawn 2 midge` counts first.
            if p.at_kind(Ident) && !p.on_new_line() && !p.at_any_word(OPTION_WORDS) {
                p.bump();
            }
            spawn_options(p);
        }),
        "damage" => p.node(DamageStmt, |p| {
            p.keyword();
            expr::expr(p);
            p.expect_word("by");
            expr::expr(p);
            if p.eat_word("credit") {
                expr::expr(p);
            }
        }),
        "heal" => p.node(HealStmt, |p| {
            p.keyword();
            expr::expr(p);
            p.expect_word("by");
            expr::expr(p);
        }),
        "end" => p.node(EndStmt, |p| {
            p.keyword();
            expr::expr(p);
            if p.eat_word("because") {
                p.expect(Text, "the reason in quotes");
            }
        }),
        "send" => send(p),
        "if" => if_else(p),
        "repeat" => p.node(RepeatStmt, |p| {
            p.keyword();
            if !p.at_kind(OpenBrace) {
                expr::expr(p);
                p.expect_word("times");
                handler::opt_as(p);
            }
            block(p);
        }),
        "wait" if p.word_at(1, "until") => p.node(WaitUntilStmt, |p| {
            p.keyword();
            p.keyword();
            expr::expr(p);
        }),
        "wait" => p.node(WaitStmt, |p| {
            p.keyword();
            expr::expr(p);
        }),
        "wave" => p.node(WaveStmt, |p| {
            p.keyword();
            handler::opt_as(p);
            block(p);
        }),
        "say" => p.node(SayStmt, |p| {
            p.keyword();
            p.expect(Text, "a text in quotes");
        }),
        "let" => p.node(LetStmt, |p| {
            p.keyword();
            p.name("a name");
            p.expect(Assign, "`=`");
            expr::expr(p);
        }),
        _ => {
            // `heading 30 deg`, `self.health = 3`: take the line as an assignment gone wrong.
            p.expected(
                "a statement (an assignment, turn, spawn, damage, heal, end, send, if, repeat, \
                 wait, wave, say or let)",
            );
            p.skip_line();
        }
    }
}

fn assign(p: &mut Parser) {
    p.node(AssignStmt, |p| {
        p.bump();
        p.bump();
        expr::expr(p);
    });
}

fn send(p: &mut Parser) {
    p.node(SendStmt, |p| {
        p.keyword();
        p.name("the message");
        if p.at_kind(OpenParen) {
            expr::args(p);
        }
        p.expect_word("to");
        p.node(Target, |p| match p.text_at(0) {
            "pond" | "all" => p.keyword(),
            "each" => {
                p.keyword();
                expr::kind_set(p);
                expr::opt_within(p);
                expr::opt_where(p);
            }
            _ => expr::expr(p),
        });
    });
}

fn if_else(p: &mut Parser) {
    p.node(IfStmt, |p| {
        p.keyword();
        expr::expr(p);
        handler::opt_as(p);
        block(p);
        if p.eat_word("else") {
            if p.at_word("if") {
                p.deeper(if_else);
            } else {
                block(p);
            }
        }
    });
}

/// Words that begin an option of a birth.
const OPTION_WORDS: &[&str] = &[
    "at", "anywhere", "along", "facing", "toward", "speed", "vel", "spread", "spaced", "health",
    "label",
];

/// `at mouth, speed 40 u/s, facing 90 deg { bite = 2 }`: commas are needed between two options; one
/// before the first is allowed.
pub(super) fn spawn_options(p: &mut Parser) {
    if p.at_kind(Comma) && OPTION_WORDS.contains(&p.text_at(1)) {
        p.bump();
    }
    loop {
        if p.at_kind(OpenBrace) && !p.on_new_line() {
            option_vars(p);
            return;
        }
        if !p.at_any_word(OPTION_WORDS) || p.on_new_line() {
            return;
        }
        option(p);
        if p.at_kind(OpenBrace) && !p.on_new_line() {
            continue;
        }
        if !p.at_kind(Comma) {
            return;
        }
        p.bump();
        if !p.at_any_word(OPTION_WORDS) {
            p.expected("an option (at, facing, toward, speed, vel, spread, spaced, health, label)");
            return;
        }
    }
}

fn option(p: &mut Parser) {
    let kind = match p.text_at(0) {
        "at" => {
            return p.node(OptAt, |p| {
                p.keyword();
                expr::expr(p);
                if p.at_word("each") {
                    p.node(EachSpot, |p| p.keyword());
                }
            });
        }
        "anywhere" => return p.node(OptAt, |p| p.node(Anywhere, |p| p.keyword())),
        "along" => {
            return p.node(OptAt, |p| {
                p.node(AlongEdge, |p| {
                    p.keyword();
                    p.expect_word("edge");
                    if p.at_any_word(&["left", "right", "top", "bottom"]) {
                        p.keyword();
                    } else {
                        p.expected("`left`, `right`, `top` or `bottom`");
                    }
                });
            });
        }
        "facing" => OptFacing,
        "toward" => OptToward,
        "speed" => OptSpeed,
        "vel" => OptVel,
        "spread" => OptSpread,
        "spaced" => OptSpaced,
        "health" => OptHealth,
        _ => {
            return p.node(OptLabel, |p| {
                p.keyword();
                p.expect(Text, "the label in quotes");
            });
        }
    };
    p.node(kind, |p| {
        p.keyword();
        expr::expr(p);
    });
}

fn option_vars(p: &mut Parser) {
    p.node(OptVars, |p| {
        p.braces(|p| {
            p.node(Var, |p| {
                p.bump_name("a variable such as `gap = 0.7 s`");
                p.expect(Assign, "`=`");
                expr::expr(p);
            });
            p.eat(Comma);
        });
    });
}
