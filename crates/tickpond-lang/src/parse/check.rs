//! `expect "words": …`

use super::expr;
use super::parser::Parser;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::syntax::SyntaxKind::*;

pub(super) fn expect(p: &mut Parser) {
    p.node(Expect, |p| {
        p.keyword();
        p.expect(Text, "what is expected, in quotes");
        if p.at_word("on") {
            p.node(OnTape, |p| {
                p.keyword();
                p.expect_word("tape");
                p.expect(Text, "the tape's name in quotes");
            });
        }
        p.expect(Colon, "`:`");
        check(p);
    });
}

const WHEN: &str = "`always`, `never`, `at`, `by`, `from`, `in the end`, `each` or `after`";

fn check(p: &mut Parser) {
    match p.text_at(0) {
        "always" => p.node(CheckAlways, |p| {
            p.keyword();
            expr::expr(p);
        }),
        "never" => p.node(CheckNever, |p| {
            p.keyword();
            expr::expr(p);
        }),
        "at" => p.node(CheckAt, timed),
        "by" => p.node(CheckBy, timed),
        "from" => p.node(CheckFrom, |p| {
            p.keyword();
            expr::expr(p);
            if p.at_kind(Comma) {
                let at = p.span().start;
                let span = Span { start: at, end: at };
                let diagnostic = Diagnostic::new(Code::Syntax, span, "this `from` has no end")
                    .with_help("write `from … to …`, or `from … on` for all that follows")
                    .with_mend(span, " on");
                p.report(diagnostic);
                p.skip_line();
                return;
            } else if !p.eat_word("on") {
                p.expect_word("to");
                expr::expr(p);
            }
            p.expect(Comma, "`,`");
            if p.at_word("never") {
                let span = p.span();
                let message = "a stretch of time has `always`, not `never`";
                let diagnostic = Diagnostic::new(Code::Syntax, span, message)
                    .with_help("write `always not …`")
                    .with_mend(span, "always not");
                p.report(diagnostic);
                p.skip_line();
                return;
            }
            p.expect_word("always");
            expr::expr(p);
        }),
        "in" => p.node(CheckInTheEnd, |p| {
            p.keyword();
            p.expect_word("the");
            p.expect_word("end");
            p.eat_word("always");
            expr::expr(p);
        }),
        "each" => each(p),
        "after" if p.kind_at(1) == Some(Number) => {
            let message = "`after` waits for something that happens, not for a time";
            let diagnostic = Diagnostic::new(Code::Syntax, p.span(), message)
                .with_help("write `at 3 s, …`, or `from 3 s on, always …`");
            p.report(diagnostic);
            p.skip_line();
        }
        "after" => after(p),
        _ => {
            p.probe.note_message(p.at, WHEN);
            let found = p.found();
            let message = format!("expected {WHEN}, found {found}");
            let diagnostic = Diagnostic::new(Code::Syntax, p.error_span(), message)
                .with_help("say when it must hold: `always count(midge) < 9`");
            p.report(diagnostic);
        }
    }
}

fn timed(p: &mut Parser) {
    p.keyword();
    expr::expr(p);
    p.expect(Comma, "`,`");
    expr::expr(p);
}

fn each(p: &mut Parser) {
    let start = p.checkpoint();
    p.keyword();
    expr::kind_set(p);
    expr::opt_where(p);
    if p.eat_word("is") {
        p.start_at(start, CheckHurt);
        p.expect_word("hurt");
        p.expect_word("at");
        p.expect_word("most");
        expr::expr(p);
        p.expect_word("times");
    } else if p.eat_word("ends") {
        p.start_at(start, CheckEnds);
        if p.at_word("by") {
            expr::by_causes(p);
        } else {
            p.expected("`by` and a cause");
        }
    } else {
        p.start_at(start, CheckLives);
        p.expect_word("lives");
        p.expect_word("at");
        if p.at_any_word(&["most", "least"]) {
            p.keyword();
        } else {
            p.expected("`most` or `least`");
        }
        expr::expr(p);
    }
    p.finish();
}

/// `after heron ends, within 3.1 s, C` or `after heron ends, for 2 s, C`
fn after(p: &mut Parser) {
    p.node(CheckAfter, |p| {
        p.keyword();
        p.node(CheckEvent, |p| {
            let kinds = |word: &&str| p.word_at(1, word);
            if p.at_word("press") {
                p.keyword();
                p.name("an input");
            } else if ["ends", "born", "hurt", "sent", "heard", "or"].iter().any(kinds) {
                expr::kind_set(p);
                if p.at_any_word(&["ends", "born", "hurt", "sent", "heard"]) {
                    p.keyword();
                } else {
                    p.expected("`born`, `ends`, `hurt`, `sent` or `heard`");
                }
                if p.at_word("by") {
                    expr::by_causes(p);
                }
            } else {
                expr::expr(p);
            }
        });
        p.expect(Comma, "`,`");
        if p.eat_word("within") {
            expr::expr(p);
            if p.eat(DotDot) {
                expr::expr(p);
            }
        } else if p.eat_word("for") {
            expr::expr(p);
        } else {
            p.expected("`within` or `for` and a time");
        }
        p.expect(Comma, "`,`");
        expr::expr(p);
    });
}
