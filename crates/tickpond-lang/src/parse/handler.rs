//! Handlers: a head that says when, and a block that says what.

use super::{Parser, expr, stmt};
use crate::syntax::SyntaxKind::{self, *};

/// A handler, with `off` before it if it is muted.
pub(super) fn opt_handler(p: &mut Parser) {
    let muted = p.at_word("off");
    let head = usize::from(muted);
    let begins = ["on", "after", "every", "while"].iter().any(|word| p.word_at(head, word));
    if !begins {
        if muted {
            p.keyword();
            p.expected("a handler behind `off`");
        }
        return;
    }
    p.start(Handler);
    p.eat_word("off");
    match p.text_at(0) {
        "on" => on(p),
        "after" => p.node(After, |p| {
            p.keyword();
            expr::expr(p);
        }),
        "every" if p.word_at(1, "tick") => p.node(EveryTick, |p| {
            p.keyword();
            p.keyword();
        }),
        "every" => p.node(Every, |p| {
            p.keyword();
            expr::expr(p);
        }),
        _ => p.node(WhileHeld, |p| {
            p.keyword();
            p.expect_word("held");
            p.name("an input");
            p.expect_word("every");
            expr::expr(p);
        }),
    }
    stmt::block(p);
    p.finish();
}

/// Whether the `every …` here has a block behind it on the same line.
pub(super) fn every_has_block(p: &Parser) -> bool {
    let mut ahead = 1;
    loop {
        match p.kind_at(ahead) {
            Some(OpenBrace) => return !p.new_line_at(ahead),
            None | Some(Semicolon | CloseBrace) => return false,
            Some(_) if p.new_line_at(ahead) => return false,
            Some(_) => ahead += 1,
        }
    }
}

fn on(p: &mut Parser) {
    let checkpoint = p.checkpoint();
    p.keyword();
    let kind = on_head(p);
    p.start_at(checkpoint, kind);
    p.finish();
}

fn on_head(p: &mut Parser) -> SyntaxKind {
    match p.text_at(0) {
        "birth" => {
            p.keyword();
            OnBirth
        }
        "end" => {
            p.keyword();
            if p.at_word("by") {
                expr::by_causes(p);
            }
            OnEnd
        }
        "hurt" => {
            p.keyword();
            OnHurt
        }
        "first" | "touch" => {
            p.eat_word("first");
            p.expect_word("touch");
            expr::kind_set(p);
            opt_as(p);
            OnTouch
        }
        "leave" => {
            p.keyword();
            p.expect_word("arena");
            OnLeaveArena
        }
        "press" => {
            p.keyword();
            p.name("an input");
            OnPress
        }
        "release" => {
            p.keyword();
            p.name("an input");
            OnRelease
        }
        _ => {
            p.name("an event such as `birth`, `touch`, `end` or a message");
            names_in_parens(p);
            if p.at_word("from") {
                p.node(FromName, |p| {
                    p.keyword();
                    p.name("a name for the sender");
                });
            }
            OnMessage
        }
    }
}

pub(super) fn opt_as(p: &mut Parser) {
    if p.at_word("as") {
        p.node(AsName, |p| {
            p.keyword();
            p.name("a name");
        });
    }
}

fn names_in_parens(p: &mut Parser) {
    if !p.at_kind(OpenParen) {
        return;
    }
    p.node(Params, |p| {
        p.bump();
        while p.at_kind(Ident) {
            p.node(Param, |p| p.bump());
            if !p.eat(Comma) {
                break;
            }
        }
        p.expect(CloseParen, "`)`");
    });
}
