//! Statements, and the options that say where and how something is born.

use super::options::spawn_options;
use super::parser::Parser;
use super::parts::opt_as;
use super::words::OPTION_WORDS;
use super::{expr, habits};
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::syntax::SyntaxKind::*;

pub(super) fn block(p: &mut Parser) {
    p.node(Block, |p| p.deeper(|p| p.braces(statement)));
}

/// Verbs that are asked of one entity or of `each`.
const WITH_EACH: &[&str] =
    &["damage", "heal", "push", "end", "activate", "deactivate", "detach", "send"];

fn statement(p: &mut Parser) {
    p.offers_name("a variable");
    if !p.at_kind(Ident) {
        return;
    }
    // A field may be called like a statement: what is assigned to is a name.
    if matches!(p.kind_at(1), Some(Assign | PlusAssign | MinusAssign)) {
        return assign(p);
    }
    let sets = matches!(p.kind_at(3), Some(Assign | PlusAssign | MinusAssign));
    if sets && p.kind_at(1) == Some(Dot) && p.kind_at(2) == Some(Ident) {
        return assign_others(p);
    }
    if p.is_word(1, "each") && !p.new_line_at(1) && !WITH_EACH.contains(&p.text_at(0)) {
        let message = format!("`{}` is not asked of `each`", p.text_at(0));
        let diagnostic = Diagnostic::new(Code::Syntax, p.span(), message).with_help(
            "`each` goes with `damage`, `heal`, `push`, `end`, `activate`, `deactivate`, `detach` and `send … to`; \
             for anything else write `each midge as m { … }`",
        );
        p.report(diagnostic);
        p.skip_line();
        return;
    }
    match p.text_at(0) {
        "turn" if p.word_at(1, "toward") => p.node(TurnStmt, |p| {
            p.keyword();
            p.keyword();
            expr::expr(p);
            p.expect_word("at");
            p.expect_word("most");
            expr::expr(p);
        }),
        "turn" => p.node(TurnStmt, |p| {
            p.keyword();
            p.expect_word_as_in("by", "turn by 90 deg");
            expr::expr(p);
        }),
        "head" => p.node(HeadStmt, |p| {
            p.keyword();
            p.expect_word("toward");
            expr::expr(p);
        }),
        "become" => p.node(BecomeStmt, |p| {
            p.keyword();
            p.name("a state");
            if p.eat(Dot) {
                p.name("a state");
            }
            if p.eat_word("for") {
                expr::expr(p);
            }
        }),
        "push" => p.node(PushStmt, |p| {
            p.keyword();
            whom(p);
            p.expect_word_as_in("by", "push self by 6 u/s");
            expr::expr(p);
            if p.eat_word("along") {
                expr::expr(p);
            }
        }),
        "thrust" => p.node(ThrustStmt, |p| {
            p.keyword();
            expr::expr(p);
            if p.eat_word("along") {
                expr::expr(p);
            }
        }),
        "replace" => p.node(ReplaceStmt, |p| {
            p.keyword();
            p.expect_word("self");
            p.expect_word("with");
            what_and_how_many(p);
            spawn_options(p);
        }),
        "ray" => ray(p),
        "show" => p.node(ShowStmt, |p| {
            p.keyword();
            p.name("a ray's name");
            p.expect_word("for");
            expr::expr(p);
        }),
        "blast" => blast(p),
        "attach" => p.node(AttachStmt, |p| {
            p.keyword();
            expr::expr(p);
            if p.at_word("to") {
                p.node(Target, |p| {
                    p.keyword();
                    expr::expr(p);
                });
            }
            p.expect_word("at");
            p.name("a mount");
            if p.eat_word("outlives") {
                p.expect_word("owner");
            }
        }),
        "detach" => p.node(DetachStmt, |p| {
            p.keyword();
            whom(p);
        }),
        "activate" | "deactivate" => p.node(ActivateStmt, |p| {
            p.keyword();
            whom(p);
        }),
        "each" => p.node(EachStmt, |p| {
            p.keyword();
            expr::query_parts(p);
            opt_as(p);
            block(p);
        }),
        "spawn" => p.node(SpawnStmt, |p| {
            p.keyword();
            what_and_how_many(p);
            spawn_options(p);
            opt_as(p);
        }),
        "damage" => p.node(DamageStmt, |p| {
            p.keyword();
            whom(p);
            p.expect_word_as_in("by", "damage self by 1");
            expr::expr(p);
            if p.eat_word("credit") {
                expr::expr(p);
            }
        }),
        "heal" => p.node(HealStmt, |p| {
            p.keyword();
            whom(p);
            p.expect_word_as_in("by", "heal self by 1");
            expr::expr(p);
        }),
        "end" => p.node(EndStmt, |p| {
            p.keyword();
            if p.at_kind(CloseBrace) || p.on_new_line() || p.at_kind(Semicolon) {
                let span = p.error_span();
                let diagnostic = Diagnostic::new(Code::Syntax, span, "this does not say who ends")
                    .with_help("write `end self`, or name the other: `end m`");
                p.report(diagnostic);
                return;
            }
            whom(p);
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
                p.expect_word_as_in("times", "repeat 3 times { … }");
                opt_as(p);
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
            opt_as(p);
            block(p);
        }),
        "say" => p.node(SayStmt, |p| {
            p.keyword();
            if p.at_kind(Ident) && !p.on_new_line() {
                let name = p.text_at(0);
                let message = format!("expected a text in quotes, found `{name}`");
                let diagnostic = Diagnostic::new(Code::Syntax, p.span(), message)
                    .with_help(format!("write `say \"{{{name}}}\"`"));
                p.report(diagnostic);
                p.skip_line();
                return;
            }
            p.expect(Text, "a text in quotes");
        }),
        "let" => p.node(LetStmt, |p| {
            p.keyword();
            p.name("a name");
            p.expect(Assign, "`=`");
            if p.at_word("spawn") {
                let message = "a birth is not there yet: it is named by `as`";
                let diagnostic = Diagnostic::new(Code::Syntax, p.span(), message)
                    .with_help("write `spawn … as q`: what follows waits for it");
                p.report(diagnostic);
                p.skip_line();
                return;
            }
            expr::expr(p);
        }),
        _ if p.kind_at(1) == Some(OpenParen) && !p.new_line_at(1) => p.node(CallStmt, |p| {
            p.bump();
            expr::args(p);
        }),
        _ => {
            if let Some(habit) = habits::statement(p.text_at(0)) {
                p.report_habit(habit);
                p.skip_line();
                return;
            }
            // `heading 30 deg`, `self.health = 3`: take the line as an assignment gone wrong.
            p.expected(
                "a statement (an assignment, turn, head, push, thrust, spawn, replace, damage, \
                 heal, end, send, become, activate, deactivate, attach, detach, ray, show, blast, \
                 if, each, repeat, wait, wave, say, let or a function's name)",
            );
            p.skip_line();
        }
    }
}

/// One entity, or `each` of a query.
fn whom(p: &mut Parser) {
    if p.at_word("each") {
        p.node(Target, |p| {
            p.keyword();
            expr::query_parts(p);
        });
    } else {
        expr::expr(p);
    }
}

/// `midge` names the kind at once, `2 midge` counts first.
fn what_and_how_many(p: &mut Parser) {
    p.offers_name("a kind");
    expr::expr(p);
    if p.at_kind(Ident) && !p.on_new_line() && !p.at_any_word(OPTION_WORDS) && !p.at_word("as") {
        p.bump();
    }
    if p.at_kind(Number) && !p.on_new_line() {
        let diagnostic =
            Diagnostic::new(Code::Syntax, p.span(), "the number stands before the kind")
                .with_help("write `spawn 3 midge`");
        p.report(diagnostic);
        p.skip_line();
    }
}

/// `ray from mouth along heading, reach 20 u, hits insect as r { … } else { … }`
fn ray(p: &mut Parser) {
    p.node(RayStmt, |p| {
        p.keyword();
        if p.at_word("from") {
            p.node(OptAt, |p| {
                p.keyword();
                expr::expr(p);
            });
        }
        p.node(OptAlong, |p| {
            if p.at_any_word(&["along", "toward"]) {
                p.keyword();
                expr::expr(p);
            } else {
                p.expected("`along` and a direction, or `toward` and a place");
            }
        });
        while p.eat(Comma) {
            match p.text_at(0) {
                "reach" => {
                    p.keyword();
                    expr::expr(p);
                }
                "hits" => {
                    p.keyword();
                    expr::kind_set(p);
                    expr::opt_where(p);
                }
                _ => {
                    p.expected("`reach` or `hits`");
                    return;
                }
            }
        }
        opt_as(p);
        if p.at_kind(OpenBrace) {
            block(p);
            if p.eat_word("else") {
                block(p);
            }
        }
    });
}

/// `blast at here, radius 6 u, damage 8, push 12 u/s, falloff straight, spares maker`
fn blast(p: &mut Parser) {
    p.node(BlastStmt, |p| {
        p.keyword();
        p.node(OptAt, |p| {
            p.expect_word("at");
            expr::expr(p);
        });
        while p.eat(Comma) {
            let kind = match p.text_at(0) {
                "radius" => WithinPart,
                "damage" => OptHealth,
                "push" => OptPush,
                "falloff" => {
                    p.keyword();
                    if p.at_any_word(&["even", "straight", "square"]) {
                        p.keyword();
                    } else {
                        p.expected("`even`, `straight` or `square`");
                    }
                    continue;
                }
                "spares" => {
                    p.node(NotWithin, |p| {
                        p.keyword();
                        if !p.eat_word("maker") {
                            expr::kind_set(p);
                        }
                    });
                    continue;
                }
                "shielded" => {
                    p.node(ClearOf, |p| {
                        p.keyword();
                        p.expect_word("by");
                        expr::kind_set(p);
                    });
                    continue;
                }
                _ => {
                    p.expected("`radius`, `damage`, `push`, `falloff`, `spares` or `shielded by`");
                    return;
                }
            };
            p.node(kind, |p| {
                p.keyword();
                expr::expr(p);
            });
        }
    });
}

/// `m.speed = 3 u/s`: a handler sets only its own entity's fields.
fn assign_others(p: &mut Parser) {
    let (whose, field) = (p.text_at(0), p.text_at(2));
    let span = p.span();
    let diagnostic = if ["pos", "vel"].contains(&whose) && ["x", "y"].contains(&field) {
        let both =
            if field == "x" { format!("(…, {whose}.y)") } else { format!("({whose}.x, …)") };
        let message = format!("`{whose}.{field}` is not set alone: `{whose}` is set as a pair");
        Diagnostic::new(Code::NotYours, span, message)
            .with_help(format!("write `{whose} = {both}`"))
    } else if whose == "self" {
        let end = span.end + 1;
        Diagnostic::new(Code::NotYours, span, "one's own fields are named without `self`")
            .with_help(format!("write `{field}` alone"))
            .with_mend(Span { start: span.start, end }, "")
    } else {
        Diagnostic::new(
            Code::NotYours,
            span,
            format!("`{field}` belongs to `{whose}`, and only it sets it"),
        )
        .with_help("ask for it: damage, push, end, or a message it has a handler for")
    };
    p.report(diagnostic);
    p.skip_line();
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
        p.expect_word_as_in("to", "send flee to each frog");
        p.node(Target, |p| match p.text_at(0) {
            "pond" | "all" => p.keyword(),
            "each" => {
                p.keyword();
                expr::query_parts(p);
            }
            _ => expr::expr(p),
        });
    });
}

fn if_else(p: &mut Parser) {
    p.node(IfStmt, |p| {
        p.keyword();
        expr::expr(p);
        opt_as(p);
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
