//! Kinds: bodies, variables, states, handlers.

use super::parser::Parser;
use super::parts::{opt_facing, size};
use super::{expr, habits, handler};
use crate::diagnostic::{Code, Diagnostic};
use crate::syntax::SyntaxKind::*;

pub(super) fn kind(p: &mut Parser) {
    p.node(Kind, |p| {
        p.keyword();
        p.name("the kind's name");
        p.body(member);
    });
}

pub(super) fn member(p: &mut Parser) {
    match p.text_at(0) {
        "tag" => p.node(TagLine, |p| {
            p.keyword();
            p.name("the tag's name");
            while p.eat(Comma) {
                p.name("the tag's name");
            }
        }),
        "look" => p.node(LookLine, |p| {
            p.keyword();
            if p.at_kind(Ident) && !p.on_new_line() {
                let message = format!("expected a glyph in quotes, found `{}`", p.text_at(0));
                let diagnostic = Diagnostic::new(Code::Syntax, p.span(), message)
                    .with_help("the glyph stands before the colour: `look \"m\" amber`");
                p.report(diagnostic);
                p.skip_line();
                return;
            }
            p.expect(Text, "a glyph in quotes");
            p.offers(crate::words::COLOURS);
            if p.at_kind(Ident) && !p.on_new_line() {
                p.bump();
            }
        }),
        "body" => body(p),
        "health" if p.kind_at(1) != Some(Assign) => p.node(HealthLine, |p| {
            p.keyword();
            expr::expr(p);
        }),
        "vars" => vars(p),
        "states" => states(p),
        "in" => in_state(p),
        "drifts" => p.node(DriftsLine, |p| p.keyword()),
        "off" if p.word_at(1, "routine") => handler::routine(p),
        "routine" => handler::routine(p),
        "uses" => p.node(UsesLine, |p| {
            p.keyword();
            p.name("a behaviour's name");
            if p.at_kind(OpenParen) {
                expr::args(p);
            }
        }),
        "mount" => p.node(Mount, |p| {
            p.keyword();
            p.name("the mount's name");
            p.expect_word("at");
            expr::primary(p);
            opt_facing(p);
        }),
        _ => {
            let before = p.at;
            handler::opt_handler(p);
            if p.at == before {
                if let Some(habit) = habits::member(p.text_at(0)).filter(|_| p.at_kind(Ident)) {
                    p.report_habit(habit);
                    return;
                }
                p.expected(
                    "`tag`, `look`, `body`, `health`, `vars`, `states`, `in state`, `uses`, \
                     `mount`, `drifts` or a handler",
                );
            }
        }
    }
}

pub(super) fn body(p: &mut Parser) {
    p.node(BodyLine, |p| {
        p.keyword();
        match p.text_at(0) {
            "circle" => {
                p.keyword();
                expr::primary(p);
            }
            "box" => {
                p.keyword();
                size(p);
            }
            "none" => p.keyword(),
            _ => p.expected("`circle R`, `box W x H` or `none`"),
        }
        while p.eat(Comma) {
            body_option(p);
        }
    });
}

/// `sensor`, `solid fixed`, `bounce 30 %`, `passes frog or insect`
pub(super) fn body_option(p: &mut Parser) {
    p.node(BodyOption, |p| match p.text_at(0) {
        "solid" => {
            p.keyword();
            if p.at_word("fixed") {
                p.keyword();
            }
        }
        "sensor" | "fixed" | "upright" | "weightless" => p.keyword(),
        "bounce" | "friction" | "weight" | "drag" => {
            p.keyword();
            expr::expr(p);
        }
        "passes" => {
            p.keyword();
            expr::kind_set(p);
        }
        _ => p.expected(
            "`sensor`, `solid`, `fixed`, `upright`, `bounce`, `friction`, `weight`, `drag`, \
             `weightless` or `passes`",
        ),
    });
}

pub(super) fn vars(p: &mut Parser) {
    p.node(Vars, |p| {
        p.keyword();
        p.braces(|p| {
            p.node(Var, |p| {
                p.bump_name("a variable such as `bite = 1`");
                if p.eat(Colon) {
                    expr::kind_set(p);
                    return;
                }
                p.expect(Assign, "`=`");
                expr::expr(p);
            });
            p.eat(Comma);
        });
    });
}

/// `states { idle, chase, strike }`
pub(super) fn states(p: &mut Parser) {
    p.node(StatesLine, |p| {
        p.keyword();
        p.braces(|p| {
            p.bump_name("a state's name");
            while p.eat(Comma) && p.at_kind(Ident) {
                p.bump();
            }
        });
    });
}

/// `in state chase { … handlers … }`
pub(super) fn in_state(p: &mut Parser) {
    p.node(InState, |p| {
        p.keyword();
        p.expect_word("state");
        p.name("the state's name");
        p.braces(|p| {
            let before = p.at;
            handler::opt_handler(p);
            if p.at == before {
                p.expected("a handler");
            }
        });
    });
}
