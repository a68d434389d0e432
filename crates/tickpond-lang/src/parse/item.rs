//! What stands at the top of a pond: the header and the items.

use super::header::header;
use super::kind::{in_state, kind, states, vars};
use super::options::spawn_options;
use super::parser::Parser;
use super::parts::{opt_facing, opt_params, size};
use super::spawner::spawner;
use super::{check, expr, handler, stmt, tape};
use crate::diagnostic::{Code, Diagnostic};
use crate::syntax::SyntaxKind::*;

pub(super) fn file(p: &mut Parser) {
    p.start(File);
    while !p.at_end() {
        let before = p.at;
        if p.eat(Semicolon) {
            continue;
        }
        p.begins = Some(before);
        item(p);
        if p.at == before {
            let item_words = "an item (pond, knob, spots, zone, input, message, behavior, kind, \
                              spawner, place, to, value, routine, tape, watch, expect, vars or \
                              a handler)";
            p.expected(item_words);
            p.skip_line();
            if p.at == before {
                p.bump_broken();
            }
        } else if !p.line_ended() {
            p.expected("the end of the line");
            p.skip_line();
        }
    }
    p.flush_trivia();
    p.finish();
}

fn item(p: &mut Parser) {
    if !p.at_kind(Ident) {
        return;
    }
    match p.text_at(0) {
        "pond" => header(p),
        "knob" => knob(p),
        "spots" => spots(p),
        "input" => input(p),
        "message" => message(p),
        "kind" => kind(p),
        "spawner" => spawner(p),
        "place" => place(p, false),
        "off" if p.word_at(1, "place") => place(p, true),
        "off" if p.word_at(1, "spawner") => spawner(p),
        "zone" => zone(p),
        "behavior" => behavior(p),
        "to" => function(p),
        "value" => value_function(p),
        "tape" => tape::tape(p),
        "off" if p.word_at(1, "routine") => handler::routine(p),
        "routine" => handler::routine(p),
        "watch" => p.node(Watch, |p| {
            p.keyword();
            p.name("the watch's name");
            p.expect(Assign, "`=`");
            expr::expr(p);
        }),
        "expect" => check::expect(p),
        "vars" => vars(p),
        _ => handler::opt_handler(p),
    }
}

/// `zone weir = box (150, 0) size 10 x 30` or `zone eddy = circle (20, 20) radius 5 u`
fn zone(p: &mut Parser) {
    p.node(Zone, |p| {
        p.keyword();
        p.name("the zone's name");
        p.expect(Assign, "`=`");
        match p.text_at(0) {
            "box" => {
                p.keyword();
                expr::primary(p);
                p.expect_word("size");
                size(p);
            }
            "circle" => {
                p.keyword();
                expr::primary(p);
                p.expect_word("radius");
                expr::primary(p);
            }
            _ => p.expected("`box (x, y) size W x H` or `circle (x, y) radius R`"),
        }
    });
}

fn behavior(p: &mut Parser) {
    p.node(Behavior, |p| {
        p.keyword();
        p.name("the behaviour's name");
        opt_params(p);
        p.body(|p| match p.text_at(0) {
            "states" => states(p),
            "in" => in_state(p),
            "vars" => vars(p),
            "off" if p.word_at(1, "routine") => handler::routine(p),
            "routine" => handler::routine(p),
            _ => {
                let before = p.at;
                handler::opt_handler(p);
                if p.at == before {
                    p.expected("`states`, `in state`, `vars` or a handler");
                }
            }
        });
    });
}

/// `to scatter(what: kind, number: count) { … }`
fn function(p: &mut Parser) {
    p.node(Function, |p| {
        p.keyword();
        p.name("the function's name");
        opt_params(p);
        stmt::block(p);
    });
}

/// `value ring(r: length) = …`
fn value_function(p: &mut Parser) {
    p.node(ValueFunction, |p| {
        p.keyword();
        p.name("the function's name");
        opt_params(p);
        p.expect(Assign, "`=`");
        expr::expr(p);
    });
}

pub(super) fn knob(p: &mut Parser) {
    p.node(Knob, |p| {
        p.keyword();
        p.name("the knob's name");
        p.expect(Assign, "`=`");
        expr::expr(p);
        if p.at_word("in") && !p.on_new_line() {
            p.node(KnobRange, |p| {
                p.keyword();
                expr::unary(p);
                p.expect(DotDot, "`..`");
                expr::unary(p);
            });
        }
        if p.at_kind(Text) && !p.on_new_line() {
            p.bump();
        }
    });
}

fn spots(p: &mut Parser) {
    p.node(Spots, |p| {
        p.keyword();
        p.name("the group's name");
        let open = p.span();
        if !p.expect(OpenBrace, "`{`") {
            return;
        }
        while !p.at_kind(CloseBrace) {
            if !p.at_kind(OpenParen) {
                if p.at_end() {
                    p.report(
                        Diagnostic::new(Code::OpenBracket, open, "this `{` is never closed")
                            .with_help("close it with `}`"),
                    );
                } else {
                    p.expected("a spot such as `(12, 80)`, or `}`");
                    p.skip_line();
                }
                break;
            }
            p.node(Spot, |p| {
                expr::primary(p);
                opt_facing(p);
            });
            if !p.eat(Comma) && !p.eat(Semicolon) && !p.on_new_line() && !p.at_kind(CloseBrace) {
                p.expected("`,` or `}`");
                p.skip_line();
            }
        }
        p.eat(CloseBrace);
    });
}

fn input(p: &mut Parser) {
    p.node(Input, |p| {
        p.keyword();
        p.name("the input's name");
        p.expect(Assign, "`=`");
        if p.eat_word("key") {
            if p.at_kind(Number) {
                p.bump();
            } else {
                p.name("a key such as `space`, `c` or `left`");
            }
        } else if !p.eat_word("pointer") {
            let found = p.found();
            let message = format!("expected `key …` or `pointer`, found {found}");
            let diagnostic = Diagnostic::new(Code::Syntax, p.error_span(), message)
                .with_help("write it as in `input fire = key space`");
            p.report(diagnostic);
            if !p.on_new_line() {
                p.skip_line();
            }
        }
    });
}

fn message(p: &mut Parser) {
    p.node(Message, |p| {
        p.keyword();
        p.name("the message's name");
        opt_params(p);
    });
}

fn place(p: &mut Parser, muted: bool) {
    p.node(Place, |p| {
        if muted {
            p.eat_word("off");
        }
        p.keyword();
        if p.at_kind(Number) && !p.on_new_line() {
            let diagnostic = Diagnostic::new(Code::Syntax, p.span(), "one line places one")
                .with_help("write a line for each, `place frog at reeds each`, or `spawn 3 frog …` in a handler of the pond");
            p.report(diagnostic);
            p.skip_line();
            return;
        }
        p.name("the kind or spawner to place");
        spawn_options(p);
    });
}

impl Parser<'_> {
    /// A name at the start of a line inside braces.
    pub(super) fn bump_name(&mut self, what: &str) {
        if self.at_kind(Ident) {
            self.bump();
        } else {
            self.expected(what);
        }
    }

    fn bump_broken(&mut self) {
        self.start(Broken);
        self.bump();
        self.finish();
    }
}
