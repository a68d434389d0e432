//! Spawners.

use super::kind::vars;
use super::options::{opt_filter, spawn_options};
use super::parser::Parser;
use super::parts::opt_params;
use super::{expr, handler};
use crate::diagnostic::{Code, Diagnostic};
use crate::syntax::SyntaxKind::*;

pub(super) fn spawner(p: &mut Parser) {
    p.node(Spawner, |p| {
        p.eat_word("off");
        p.keyword();
        p.name("the spawner's name");
        opt_params(p);
        p.body(spawner_line);
    });
}

pub(super) fn spawner_line(p: &mut Parser) {
    match p.text_at(0) {
        "makes" => p.node(MakesLine, |p| {
            p.keyword();
            p.name("the kind it makes");
            spawn_options(p);
        }),
        // A clock with a body is a handler; the bare period is the spawner's own.
        "every" if !handler::every_has_block(p) => p.node(EveryLine, |p| {
            p.keyword();
            expr::expr(p);
            while p.eat(Comma) {
                if p.eat_word("first") {
                    p.expect_word("at");
                    p.expect_word("once");
                } else if !opt_filter(p) {
                    p.expected("`first at once` or a condition such as `not within view`");
                    return;
                }
            }
        }),
        "from" => p.node(FromLine, |p| {
            p.keyword();
            expr::expr(p);
        }),
        "until" => p.node(UntilLine, |p| {
            p.keyword();
            expr::expr(p);
        }),
        "routine" => handler::routine(p),
        "keep" => p.node(KeepLine, |p| {
            p.keyword();
            if p.eat_word("at") {
                p.expect_word("most");
            }
            expr::expr(p);
            p.expect_word("alive");
        }),
        "again" => p.node(AgainLine, |p| {
            p.keyword();
            expr::expr(p);
            p.expect_word("after");
            p.expect_word("its");
            p.expect_word("end");
        }),
        "at" => p.node(TotalLine, |p| {
            p.keyword();
            p.expect_word("most");
            expr::expr(p);
            p.expect_word("in");
            p.expect_word("all");
        }),
        "vars" => vars(p),
        word @ ("body" | "health" | "tag" | "look" | "mount" | "states" | "uses") => {
            let span = p.span();
            let message =
                format!("a spawner has no `{word}`: it pushes nobody and stands in no way");
            p.report(
                Diagnostic::new(Code::OutOfPlace, span, message)
                    .with_help("give it to the kind it makes"),
            );
            p.skip_line();
        }
        _ if p.at_kind(Number) || is_batch(p) => p.node(BatchLine, |p| {
            expr::expr(p);
            p.expect_word("at");
            p.expect_word("a");
            p.expect_word("time");
        }),
        _ => {
            let before = p.at;
            handler::opt_handler(p);
            if p.at == before {
                p.expected(
                    "`makes`, `every`, `again`, `keep`, `at most`, `from`, `until` or a handler",
                );
            }
        }
    }
}

/// Whether this line is a number that is not written as one, such as a knob, and `at a time`.
pub(super) fn is_batch(p: &Parser) -> bool {
    let ends =
        |ahead: usize| matches!(p.kind_at(ahead), None | Some(Semicolon | OpenBrace | CloseBrace));
    let mut words = (1..).take_while(|ahead| !ends(*ahead) && !p.begins_line(*ahead));
    words.any(|ahead| {
        p.text_at(ahead) == "at" && p.text_at(ahead + 1) == "a" && p.text_at(ahead + 2) == "time"
    })
}
