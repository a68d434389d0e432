//! What stands at the top of a pond: the header and the items.

use super::{Parser, check, expr, handler, stmt, tape};
use crate::diagnostic::{Code, Diagnostic};
use crate::syntax::SyntaxKind::*;

/// The words that begin an item and nothing else: where one stands at the left edge, the item
/// before has ended. Handlers and `vars` stand inside kinds, too, indented or not.
pub(super) const ITEM_WORDS: &[&str] = &[
    "pond", "knob", "spots", "zone", "input", "message", "behavior", "kind", "spawner", "place",
    "routine", "tape", "watch", "expect",
];

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

fn header(p: &mut Parser) {
    p.node(Header, |p| {
        p.keyword();
        p.expect(Text, "the pond's title in quotes");
        p.braces(header_line);
    });
}

fn header_line(p: &mut Parser) {
    match p.text_at(0) {
        "arena" => p.node(ArenaLine, |p| {
            p.keyword();
            size(p);
            while p.eat(Comma) {
                match p.text_at(0) {
                    "origin" => {
                        p.keyword();
                        // The lexer sees `bottom-left` as three tokens.
                        p.keyword();
                        if p.eat(Minus) {
                            p.keyword();
                        }
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
                } else {
                    edge_rule(p);
                }
            }
        }),
        "rate" => p.node(RateLine, |p| {
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
        _ => p.expected("`arena`, `edges`, `rate`, `view`, `gravity` or `limit`"),
    }
}

/// `limit 50_000 entities, 10_000 births per tick, 32 rounds, 100_000 steps`
fn limits(p: &mut Parser) {
    p.node(LimitLine, |p| {
        p.keyword();
        loop {
            p.node(LimitPart, |p| {
                expr::expr(p);
                match p.text_at(0) {
                    "births" => {
                        p.keyword();
                        p.expect_word("per");
                        p.expect_word("tick");
                    }
                    "entities" | "rounds" | "steps" => p.keyword(),
                    _ => p.expected("`entities`, `births per tick`, `rounds` or `steps`"),
                }
            });
            if !p.eat(Comma) {
                return;
            }
        }
    });
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
        p.braces(|p| match p.text_at(0) {
            "states" => states(p),
            "in" => in_state(p),
            "vars" => vars(p),
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

/// `states { idle, chase, strike }`
fn states(p: &mut Parser) {
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
fn in_state(p: &mut Parser) {
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

fn edge_rule(p: &mut Parser) {
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

/// `160 x 90`
fn size(p: &mut Parser) {
    expr::primary(p);
    p.expect_word("x");
    expr::primary(p);
}

fn knob(p: &mut Parser) {
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

fn opt_facing(p: &mut Parser) {
    if p.at_word("facing") {
        p.node(OptFacing, |p| {
            p.keyword();
            expr::expr(p);
        });
    }
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
            p.expected("`key …` or `pointer`");
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

fn opt_params(p: &mut Parser) {
    if !p.at_kind(OpenParen) || p.on_new_line() {
        return;
    }
    p.node(Params, |p| {
        p.bump();
        while !p.at_kind(CloseParen) && !p.on_new_line() {
            p.node(Param, |p| {
                p.name("a name");
                p.expect(Colon, "`:` and a type");
                p.name("a type such as `number`, `time` or `kind`");
                if p.eat_word("of") {
                    p.name("a kind or a tag");
                    while p.eat_word("or") {
                        p.name("a kind or a tag");
                    }
                }
                if p.eat(Assign) {
                    expr::expr(p);
                }
            });
            if !p.eat(Comma) {
                break;
            }
        }
        p.expect(CloseParen, "`)`");
    });
}

fn kind(p: &mut Parser) {
    p.node(Kind, |p| {
        p.keyword();
        p.name("the kind's name");
        p.braces(member);
    });
}

fn member(p: &mut Parser) {
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
            p.expect(Text, "a glyph in quotes");
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
        "routine" => handler::routine(p),
        "uses" => p.node(UsesLine, |p| {
            p.keyword();
            p.name("the behaviour's name");
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
                p.expected(
                    "`tag`, `look`, `body`, `health`, `vars`, `states`, `in state`, `uses`, \
                     `mount`, `drifts` or a handler",
                );
            }
        }
    }
}

fn body(p: &mut Parser) {
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

/// Words that begin an option of a body.
pub(super) const BODY_WORDS: &[&str] = &[
    "sensor",
    "solid",
    "fixed",
    "upright",
    "bounce",
    "friction",
    "weight",
    "drag",
    "weightless",
    "passes",
];

/// `sensor`, `solid fixed`, `bounce 30 %`, `passes frog or insect`
fn body_option(p: &mut Parser) {
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

fn vars(p: &mut Parser) {
    p.node(Vars, |p| {
        p.keyword();
        p.braces(|p| {
            p.node(Var, |p| {
                p.bump_name("a variable such as `bite = 1`");
                p.expect(Assign, "`=`");
                expr::expr(p);
            });
            p.eat(Comma);
        });
    });
}

fn spawner(p: &mut Parser) {
    p.node(Spawner, |p| {
        p.eat_word("off");
        p.keyword();
        p.name("the spawner's name");
        opt_params(p);
        p.braces(spawner_line);
    });
}

fn spawner_line(p: &mut Parser) {
    match p.text_at(0) {
        "makes" => p.node(MakesLine, |p| {
            p.keyword();
            p.name("the kind it makes");
            stmt::spawn_options(p);
        }),
        // A clock with a body is a handler; the bare period is the spawner's own.
        "every" if !handler::every_has_block(p) => p.node(EveryLine, |p| {
            p.keyword();
            expr::expr(p);
            while p.eat(Comma) {
                if p.eat_word("first") {
                    p.expect_word("at");
                    p.expect_word("once");
                } else if !stmt::opt_filter(p) {
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
fn is_batch(p: &Parser) -> bool {
    let ends =
        |ahead: usize| matches!(p.kind_at(ahead), None | Some(Semicolon | OpenBrace | CloseBrace));
    let mut words = (1..).take_while(|ahead| !ends(*ahead) && !p.begins_line(*ahead));
    words.any(|ahead| {
        p.text_at(ahead) == "at" && p.text_at(ahead + 1) == "a" && p.text_at(ahead + 2) == "time"
    })
}

fn place(p: &mut Parser, muted: bool) {
    p.node(Place, |p| {
        if muted {
            p.eat_word("off");
        }
        p.keyword();
        p.name("the kind or spawner to place");
        stmt::spawn_options(p);
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
