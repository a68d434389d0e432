//! `tape "words" { at 1 s tap fire }`

use super::expr;
use super::parser::Parser;
use crate::syntax::SyntaxKind::*;

pub(super) fn tape(p: &mut Parser) {
    p.node(Tape, |p| {
        p.keyword();
        p.expect(Text, "the tape's name in quotes");
        p.eat_word("played");
        p.braces(step);
    });
}

/// The body of a tape alone, as a file holds it.
pub(super) fn steps(p: &mut Parser) {
    p.start(File);
    while !p.at_end() {
        let before = p.at;
        if p.eat(Semicolon) {
            continue;
        }
        step(p);
        if p.at == before {
            p.expected("`at` or `from`");
            p.skip_line();
            if p.at == before {
                p.bump();
            }
        } else if !p.line_ended() {
            p.expected("the end of the line");
            p.skip_line();
        }
    }
    p.flush_trivia();
    p.finish();
}

fn step(p: &mut Parser) {
    match p.text_at(0) {
        "at" => p.node(TapeStep, |p| {
            p.keyword();
            expr::expr(p);
            match p.text_at(0) {
                "tap" => {
                    p.keyword();
                    p.name("an input");
                    if p.eat(Comma) {
                        expr::expr(p);
                        p.expect_word("times");
                        p.expect_word("every");
                        expr::expr(p);
                    }
                }
                "move" => {
                    p.keyword();
                    p.name("a pointer input");
                    p.expect_word("to");
                    expr::expr(p);
                }
                _ => p.expected("`tap` or `move`"),
            }
        }),
        "from" => p.node(TapeStep, |p| {
            p.keyword();
            expr::expr(p);
            p.expect_word("to");
            expr::expr(p);
            p.expect_word("hold");
            p.name("an input");
        }),
        _ => p.expected("`at` or `from`"),
    }
}
