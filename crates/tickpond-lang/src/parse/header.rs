//! The header of a pond.

use super::expr;
use super::parser::Parser;
use super::parts::size;
use crate::syntax::SyntaxKind::*;

pub(super) fn header(p: &mut Parser) {
    p.node(Header, |p| {
        p.keyword();
        p.expect(Text, "the pond's title in quotes");
        p.braces(header_line);
    });
}

pub(super) fn header_line(p: &mut Parser) {
    match p.text_at(0) {
        "arena" => p.node(ArenaLine, |p| {
            p.keyword();
            size(p);
            while p.eat(Comma) {
                match p.text_at(0) {
                    "origin" => {
                        p.keyword();
                        origin(p);
                    }
                    "y" => {
                        p.keyword();
                        if p.at_any_word(&["up", "down"]) {
                            p.keyword();
                        } else {
                            p.expected("`up` or `down`");
                        }
                    }
                    _ => p.expected("`origin …` or `y up`"),
                }
            }
        }),
        "edges" => p.node(EdgesLine, |p| {
            p.keyword();
            edge_rule(p);
            while p.eat(Comma) {
                if p.eat_word("margin") {
                    expr::expr(p);
                } else if p.at_any_word(&["bounce", "friction"]) {
                    p.node(WallPart, |p| {
                        p.keyword();
                        expr::expr(p);
                    });
                } else {
                    edge_rule(p);
                }
            }
        }),
        "rate" => p.node(RateLine, |p| {
            p.keyword();
            expr::expr(p);
        }),
        "lasts" => p.node(LastsLine, |p| {
            p.keyword();
            expr::expr(p);
        }),
        "limit" => limits(p),
        "view" => p.node(ViewLine, |p| {
            p.keyword();
            size(p);
            if p.eat_word("follows") {
                p.name("the kind it follows");
            }
            if p.eat_word("at") {
                expr::primary(p);
            }
        }),
        "gravity" => p.node(GravityLine, |p| {
            p.keyword();
            expr::expr(p);
        }),
        _ => p.expected("`arena`, `edges`, `rate`, `lasts`, `view`, `gravity` or `limit`"),
    }
}

/// `bottom-left`, which the lexer sees as three tokens.
fn origin(p: &mut Parser) {
    const WHICH: &str = "`bottom-left`, `top-left`, `bottom-right`, `top-right` or `center`";
    let word = |p: &mut Parser, words: &[&str]| {
        let is_here = p.is_any_word(words) && !p.on_new_line();
        match is_here {
            true => p.keyword(),
            false => p.expected(WHICH),
        }
        is_here
    };
    if p.is_any_word(&["center", "middle"]) && !p.on_new_line() {
        p.keyword();
    } else if word(p, &["bottom", "top"]) && p.expect(Minus, WHICH) {
        word(p, &["left", "right"]);
    }
}

/// `limit 50_000 entities, 10_000 births per tick, 32 rounds, 100_000 steps`
pub(super) fn limits(p: &mut Parser) {
    p.node(LimitLine, |p| {
        p.keyword();
        loop {
            p.node(LimitPart, |p| {
                expr::expr(p);
                match p.text_at(0) {
                    "births" => {
                        p.keyword();
                        if !p.eat_word("waiting") {
                            p.expect_word("per");
                            p.expect_word("tick");
                        }
                    }
                    "messages" | "requests" | "text" | "looks" => {
                        p.keyword();
                        p.expect_word("per");
                        p.expect_word("tick");
                    }
                    "steps" => {
                        p.keyword();
                        if p.eat_word("per") {
                            p.expect_word("tick");
                        }
                    }
                    "entities" | "rounds" | "touches" => p.keyword(),
                    _ => p.expected(
                        "`entities`, `births per tick`, `births waiting`, `rounds`, `steps`, `steps per tick`, \
                         `messages per tick`, `requests per tick`, `text per tick`, `looks per tick` or `touches`",
                    ),
                }
            });
            if !p.eat(Comma) {
                return;
            }
        }
    });
}

pub(super) fn edge_rule(p: &mut Parser) {
    p.node(EdgeRule, |p| {
        if !p.at_any_word(&["open", "wrap", "wall"]) {
            p.expected("`open`, `wrap` or `wall`");
            return;
        }
        p.keyword();
        while p.at_any_word(&["left", "right", "top", "bottom"]) && !p.on_new_line() {
            p.keyword();
        }
    });
}
