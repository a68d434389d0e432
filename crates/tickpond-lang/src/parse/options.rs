//! Where and how something is born: the options behind `spawn`, `place` and `makes`.

use super::expr;
use super::parser::Parser;
use super::words::OPTION_WORDS;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::syntax::SyntaxKind::*;

/// `at mouth, speed 40 u/s, facing 90 deg { bite = 2 }`: commas are needed between two options; one
/// before the first is allowed.
pub(super) fn spawn_options(p: &mut Parser) {
    if p.at_kind(Comma) && OPTION_WORDS.contains(&p.text_at(1)) {
        p.bump();
    }
    let mut after_comma = false;
    loop {
        if p.at_kind(OpenBrace) && !p.on_new_line() {
            option_vars(p);
            return;
        }
        // Behind a comma the next line may go on.
        if !p.at_any_word(OPTION_WORDS) || p.on_new_line() && !after_comma {
            return;
        }
        after_comma = false;
        option(p);
        if p.at_kind(OpenBrace) && !p.on_new_line() {
            continue;
        }
        if !p.at_kind(Comma) {
            return;
        }
        p.bump();
        after_comma = true;
        if !p.at_any_word(OPTION_WORDS) {
            p.expected(
                "an option (at, anywhere, along, around, on ring, facing, toward, speed, vel, push, \
                 spread, spaced, health, label, inactive, attached, keeping velocity, not within, \
                 clear of)",
            );
            return;
        }
    }
}

fn option(p: &mut Parser) {
    let kind = match p.text_at(0) {
        "at" => {
            return p.node(OptAt, |p| {
                let start = p.span().start;
                p.keyword();
                if p.at_any_word(&["anywhere", "along", "around"]) {
                    let span = Span { start, end: p.span().start };
                    let message = format!("`{}` stands without `at`", p.text_at(0));
                    let diagnostic = Diagnostic::new(Code::Syntax, p.span(), message)
                        .with_help("remove `at`")
                        .with_mend(span, "");
                    p.report(diagnostic);
                    p.skip_line();
                    return;
                }
                let first = p.span();
                let number = p.at_kind(Number);
                expr::expr(p);
                if number && p.at_kind(Comma) && p.kind_at(1) == Some(Number) {
                    p.bump();
                    let span = Span { start: first.start, end: p.span().end };
                    let text = p.text.get(span.range()).unwrap_or("1, 1");
                    let place = format!("({text})");
                    let diagnostic =
                        Diagnostic::new(Code::Syntax, span, "a place is a pair in brackets")
                            .with_help(format!("write `{place}`"))
                            .with_mend(span, place);
                    p.report(diagnostic);
                    p.bump();
                }
                if p.at_word("each") {
                    p.node(EachSpot, |p| p.keyword());
                }
            });
        }
        "anywhere" => {
            return p.node(OptAt, |p| {
                p.node(Anywhere, |p| {
                    p.keyword();
                    if p.eat_word("in") {
                        p.name("a zone");
                    }
                });
            });
        }
        "around" => {
            return p.node(OptAt, |p| {
                p.node(Around, |p| {
                    p.keyword();
                    expr::sum(p);
                    p.expect_word("within");
                    expr::sum(p);
                });
            });
        }
        "on" => {
            return p.node(OptAt, |p| {
                p.node(OnRing, |p| {
                    p.keyword();
                    p.expect_word("ring");
                    p.expect_word("around");
                    expr::sum(p);
                    p.expect_word("radius");
                    expr::sum(p);
                });
            });
        }
        "not" | "clear" => {
            opt_filter(p);
            return;
        }
        "inactive" => return p.node(OptInactive, |p| p.keyword()),
        "attached" => {
            return p.node(OptAttached, |p| {
                p.keyword();
                if p.eat_word("outlives") {
                    p.expect_word("owner");
                }
            });
        }
        "keeping" => {
            return p.node(OptKeeping, |p| {
                p.keyword();
                p.expect_word("velocity");
            });
        }
        "along" if !p.word_at(1, "edge") => OptAlong,
        "push" => OptPush,
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

/// `not within view widened by 4 u`, `not within 3 u of frog`, `clear of solid`
pub(super) fn opt_filter(p: &mut Parser) -> bool {
    match p.text_at(0) {
        "not" => p.node(NotWithin, |p| {
            p.keyword();
            p.expect_word("within");
            if p.eat_word("view") {
                if p.eat_word("widened") {
                    p.expect_word("by");
                    expr::sum(p);
                }
            } else {
                expr::sum(p);
                p.expect_word("of");
                expr::sum(p);
            }
        }),
        "clear" => p.node(ClearOf, |p| {
            p.keyword();
            p.expect_word("of");
            p.expect_word("solid");
        }),
        _ => return false,
    }
    true
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
