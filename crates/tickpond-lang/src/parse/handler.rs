//! Handlers: a head that says when, and a block that says what.

use super::parser::Parser;
use super::parts::opt_as;
use super::{expr, habits, stmt};
use crate::diagnostic::{Code, Diagnostic};
use crate::syntax::SyntaxKind::{self, *};

/// A handler, with `off` before it if it is muted.
pub(super) fn opt_handler(p: &mut Parser) {
    let muted = p.at_word("off");
    let head = usize::from(muted);
    let begins = ["on", "after", "every", "while", "when"].iter().any(|word| p.word_at(head, word));
    if !begins {
        if muted {
            p.keyword();
            p.expected("a handler or a routine behind `off`");
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
        "when" => p.node(When, |p| {
            p.keyword();
            expr::expr(p);
        }),
        _ if p.word_at(1, "touching") => p.node(WhileTouching, |p| {
            p.keyword();
            p.keyword();
            expr::kind_set(p);
            expr::opt_where(p);
            p.expect_word("every");
            expr::expr(p);
            opt_as(p);
        }),
        _ => p.node(WhileHeld, |p| {
            p.keyword();
            p.expect_word("held");
            p.name("an input");
            if p.at_kind(OpenBrace) {
                let span = p.span();
                p.report(
                    Diagnostic::new(
                        Code::Syntax,
                        span,
                        "this does not say how often while it is held",
                    )
                    .with_help(
                        "write `every 0.25 s` here; for one shot a press, `on press` instead",
                    ),
                );
                return;
            }
            p.expect_word("every");
            expr::expr(p);
        }),
    }
    if p.at_word("while") {
        p.node(WhileInactive, |p| {
            p.keyword();
            p.expect_word("inactive");
        });
    }
    if p.at_word("overlapping") {
        p.node(Overlapping, |p| p.keyword());
    }
    stmt::block(p);
    p.finish();
}

/// `routine dusk { … }`, with `off` before it if it is muted.
pub(super) fn routine(p: &mut Parser) {
    p.node(Routine, |p| {
        p.eat_word("off");
        p.keyword();
        p.name("the routine's name");
        stmt::block(p);
    });
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

/// The words that begin an event; a message's name is one, too.
const EVENTS: &[&str] = &[
    "birth", "end", "hurt", "touch", "first", "leave", "enter", "part", "impact", "below", "above",
    "left", "right", "down", "becoming", "quitting", "press", "release",
];

fn on_head(p: &mut Parser) -> SyntaxKind {
    p.offers(EVENTS);
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
        "touch" if p.word_at(1, "edge") => {
            p.keyword();
            p.keyword();
            if p.at_any_word(&["left", "right", "top", "bottom"]) {
                p.keyword();
            }
            OnTouchEdge
        }
        "first" | "touch" => {
            p.eat_word("first");
            p.expect_word("touch");
            expr::kind_set(p);
            expr::opt_where(p);
            opt_as(p);
            OnTouch
        }
        "leave" if p.word_at(1, "arena") => {
            p.keyword();
            p.keyword();
            OnLeaveArena
        }
        "enter" | "leave" => {
            p.keyword();
            p.name("a zone, or `arena`");
            OnZone
        }
        "part" => {
            p.keyword();
            expr::kind_set(p);
            expr::opt_where(p);
            opt_as(p);
            OnPart
        }
        "impact" => {
            p.keyword();
            p.expect_word("over");
            expr::expr(p);
            p.expect_word("with");
            expr::kind_set(p);
            expr::opt_where(p);
            opt_as(p);
            OnImpact
        }
        "below" | "above" | "left" | "right" => {
            let flat = p.at_any_word(&["below", "above"]);
            p.keyword();
            if flat {
                p.expect_word("y");
            } else {
                p.expect_word("of");
                p.expect_word("x");
            }
            expr::expr(p);
            OnLine
        }
        "down" => {
            p.keyword();
            OnDown
        }
        "becoming" => {
            p.keyword();
            p.name("a state");
            OnBecoming
        }
        "quitting" => {
            p.keyword();
            p.name("a state");
            OnQuitting
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
            let (span, word) = (p.span(), p.text_at(0));
            p.name("an event such as `birth`, `touch`, `end` or a message");
            names_in_parens(p);
            let follows = ["from", "while", "overlapping"];
            if p.at_kind(Ident) && !p.on_new_line() && !p.at_any_word(&follows) {
                let message = format!("there is no event `{word}` of somebody");
                let diagnostic = Diagnostic::new(Code::Syntax, span, message);
                p.report(match habits::event(word) {
                    Some(habit) => diagnostic.with_help(habit.help),
                    None => diagnostic
                        .with_help("write `on touch midge as m { … }`, or a message's name alone"),
                });
                p.node(Broken, |p| {
                    while !p.at_kind(OpenBrace) && !p.on_new_line() {
                        p.bump();
                    }
                });
            }
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
