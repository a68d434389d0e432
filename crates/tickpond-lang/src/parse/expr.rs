//! Expressions, by precedence: `or`, `and`, `not`, comparison, sum, product, sign, field.

use super::habits;
use super::parser::Parser;
use super::probe::Expected;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::syntax::SyntaxKind::*;
use crate::units;

pub(super) fn expr(p: &mut Parser) {
    p.deeper(or);
}

fn or(p: &mut Parser) {
    let start = p.checkpoint();
    and(p);
    while p.at_word("or") && !p.on_new_line() && p.link() {
        p.start_at(start, BinaryExpr);
        p.keyword();
        and(p);
        p.finish();
    }
}

fn and(p: &mut Parser) {
    let start = p.checkpoint();
    not(p);
    while p.at_word("and") && !p.on_new_line() && p.link() {
        p.start_at(start, BinaryExpr);
        p.keyword();
        not(p);
        p.finish();
    }
}

fn not(p: &mut Parser) {
    if p.at_word("not") {
        p.node(UnaryExpr, |p| {
            p.keyword();
            p.deeper(not);
        });
    } else {
        comparison(p);
    }
}

fn comparison(p: &mut Parser) {
    let start = p.checkpoint();
    sum(p);
    if p.at_word("is") && !p.on_new_line() {
        p.start_at(start, AliveExpr);
        p.keyword();
        if p.at_any_word(&["alive", "gone"]) {
            p.keyword();
        } else if p.eat_word("inside") {
            p.name("a zone");
        } else if p.at_kind(Ident) && !p.on_new_line() {
            kind_set(p);
        } else {
            p.expected("`alive`, `gone`, `inside` a zone, or a kind or tag");
        }
        p.finish();
        return;
    }
    let compares =
        matches!(p.kind_at(0), Some(Equal | NotEqual | Less | LessEqual | Greater | GreaterEqual));
    if compares {
        p.start_at(start, BinaryExpr);
        p.bump();
        sum(p);
        if p.eat(PlusMinus) {
            sum(p);
        }
        p.finish();
    } else if p.at_kind(Assign) && !p.on_new_line() {
        let span = p.span();
        p.report(
            Diagnostic::new(Code::Syntax, span, "expected a comparison, found `=`")
                .with_help("to compare, write `==`")
                .with_mend(span, "=="),
        );
        // Gone on with as what was meant, so that this stays the only message.
        p.start_at(start, BinaryExpr);
        p.bump();
        sum(p);
        p.finish();
    }
}

pub(super) fn sum(p: &mut Parser) {
    let start = p.checkpoint();
    product(p);
    while matches!(p.kind_at(0), Some(Plus | Minus)) && p.link() {
        p.start_at(start, BinaryExpr);
        p.bump();
        product(p);
        p.finish();
    }
}

fn product(p: &mut Parser) {
    let start = p.checkpoint();
    unary(p);
    while matches!(p.kind_at(0), Some(Star | Slash)) && p.link() {
        p.start_at(start, BinaryExpr);
        p.bump();
        unary(p);
        p.finish();
    }
}

pub(super) fn unary(p: &mut Parser) {
    if p.at_kind(Minus) {
        p.node(UnaryExpr, |p| {
            p.bump();
            p.deeper(unary);
        });
    } else {
        postfix(p);
    }
}

fn postfix(p: &mut Parser) {
    let start = p.checkpoint();
    primary(p);
    while p.at_kind(Dot) && !p.on_new_line() && p.link() {
        p.start_at(start, FieldExpr);
        p.bump();
        if p.at_kind(Number) {
            p.bump();
        } else {
            p.name("a field");
        }
        p.finish();
    }
}

const QUERIES: &[&str] =
    &["count", "nearest", "any", "born", "ended", "peak", "sent", "heard", "unheard"];

pub(super) fn primary(p: &mut Parser) {
    p.probe.note(p.at, || Expected::Value);
    match p.kind_at(0) {
        Some(Number) => number(p),
        Some(Text) => p.node(TextExpr, |p| p.bump()),
        Some(OpenParen) => parens(p),
        // But a line that begins with the value itself.
        Some(Ident) if p.on_new_line() && p.at > 0 && p.begins != Some(p.at) => {
            p.expected("a value");
        }
        Some(Ident) => word(p),
        _ => p.expected("a value"),
    }
}

/// A number; a unit's name in full behind it is told of and left out.
fn number(p: &mut Parser) {
    let before = p.at.checked_sub(1).map_or("", |at| p.text_of(at));
    let counts = ["spawn", "with", "makes"].contains(&before);
    let bare = p.text_at(0).ends_with(|c: char| c.is_ascii_digit());
    p.node(NumberExpr, |p| p.bump());
    let said = p.at_kind(Ident) && !p.on_new_line() && p.kind_at(1) != Some(OpenParen);
    let Some(unit) = habits::unit(p.text_at(0)).filter(|_| bare && said && !counts) else { return };
    let (span, number) = (p.span(), p.text_of(p.at - 1));
    let message = format!("`{}` is no unit", p.text_at(0));
    let diagnostic = Diagnostic::new(Code::Syntax, span, message)
        .with_help(format!("write `{number} {unit}`"))
        .with_mend(span, unit);
    p.report(diagnostic);
    p.node(Broken, |p| p.bump());
}

fn word(p: &mut Parser) {
    let called = p.kind_at(1) == Some(OpenParen) && !p.new_line_at(1);
    match p.text_at(0) {
        "any" if p.word_at(1, "angle") => p.node(AnyAngle, |p| {
            p.keyword();
            p.keyword();
        }),
        "direction" if p.word_at(1, "to") => p.node(DirectionTo, |p| {
            p.keyword();
            p.keyword();
            p.deeper(unary);
        }),
        "distance" if p.word_at(1, "to") => p.node(DistanceTo, |p| {
            p.keyword();
            p.keyword();
            p.deeper(unary);
        }),
        "random" if called => p.node(RandomExpr, |p| {
            p.keyword();
            p.bump();
            expr(p);
            if p.at_kind(Comma) {
                let span = p.span();
                let diagnostic = Diagnostic::new(Code::Syntax, span, "expected `..`, found `,`")
                    .with_help("write the two bounds as in `random(0 .. 9)`")
                    .with_mend(span, " ..");
                p.report(diagnostic);
                p.bump();
            } else {
                p.expect(DotDot, "`..`");
            }
            expr(p);
            p.expect(CloseParen, "`)`");
        }),
        "random" if p.word_at(1, "one") => p.node(RandomOne, |p| {
            p.keyword();
            p.keyword();
            p.expect_word("of");
            query_parts(p);
        }),
        _ if p.kind_at(1) == Some(Hash) && p.kind_at(2) == Some(Number) => {
            p.node(NamedEntity, |p| {
                p.bump();
                p.bump();
                p.bump();
            });
        }
        name if called && QUERIES.contains(&name) => query(p),
        _ if called => p.node(CallExpr, |p| {
            p.bump();
            args(p);
        }),
        _ => p.node(NameExpr, |p| p.bump()),
    }
}

fn query(p: &mut Parser) {
    p.node(QueryExpr, |p| {
        p.keyword();
        p.bump();
        kind_set(p);
        if p.at_word("by") {
            by_causes(p);
        }
        if p.at_word("because") {
            p.node(BecausePart, |p| {
                p.keyword();
                p.expect(Text, "the reason in quotes");
            });
        }
        if p.at_word("credit") {
            p.node(CreditPart, |p| {
                p.keyword();
                kind_set(p);
            });
        }
        opt_touching(p);
        opt_within(p);
        opt_where(p);
        p.expect(CloseParen, "`)`");
    });
}

/// Kinds, and what narrows them.
pub(super) fn query_parts(p: &mut Parser) {
    kind_set(p);
    opt_touching(p);
    opt_within(p);
    opt_where(p);
}

fn opt_touching(p: &mut Parser) {
    if p.at_word("touching") {
        p.node(TouchingPart, |p| p.keyword());
    }
}

/// `insect or heron`, `any`, `any but maker`
pub(super) fn kind_set(p: &mut Parser) {
    p.node(KindSet, |p| {
        if p.eat_word("any") {
            if p.eat_word("but") {
                p.expect_word("maker");
            }
            return;
        }
        p.name("a kind or a tag");
        while p.at_word("or") && !p.on_new_line() && p.link() {
            p.keyword();
            p.name("a kind or a tag");
        }
    });
}

pub(super) fn by_causes(p: &mut Parser) {
    p.node(ByCauses, |p| {
        p.keyword();
        p.name("a cause");
        while p.at_word("or") && !p.on_new_line() && p.link() {
            p.keyword();
            p.name("a cause");
        }
    });
}

/// `within 20 u`, `within 20 u of frog_place`
pub(super) fn opt_within(p: &mut Parser) {
    if p.at_word("within") {
        p.node(WithinPart, |p| {
            p.keyword();
            sum(p);
            if p.eat_word("of") {
                sum(p);
            }
        });
    }
}

pub(super) fn opt_where(p: &mut Parser) {
    if p.at_word("where") {
        p.node(WherePart, |p| {
            p.keyword();
            expr(p);
        });
    }
}

pub(super) fn args(p: &mut Parser) {
    p.node(Args, |p| {
        p.bump();
        while !p.at_kind(CloseParen) && !p.at_end() {
            expr(p);
            if !p.eat(Comma) {
                break;
            }
        }
        p.expect(CloseParen, "`)`");
    });
}

/// `(a)` or the pair `(x, y)`, which may have one unit behind it for both.
fn parens(p: &mut Parser) {
    let start = p.checkpoint();
    p.bump();
    // Inside parentheses a value may stand on the next line.
    expr(p);
    if p.at_kind(Number) && !p.on_new_line() {
        let at = p.span().start;
        let diagnostic =
            Diagnostic::new(Code::Syntax, p.span(), "two values stand side by side here")
                .with_help("a place is written `(x, y)`")
                .with_mend(Span { start: at, end: at }, ", ");
        p.report(diagnostic);
        expr(p);
    }
    if !p.eat(Comma) {
        p.start_at(start, ParenExpr);
        p.expect(CloseParen, "`)`");
        p.finish();
        return;
    }
    p.start_at(start, PairExpr);
    expr(p);
    if p.expect(CloseParen, "`)`") {
        opt_pair_unit(p);
    }
    p.finish();
}

fn opt_pair_unit(p: &mut Parser) {
    if p.at_end() || p.on_new_line() || !p.at_kind(Ident) {
        return;
    }
    let from = p.span().start as usize;
    let length = units::length_at_start(&p.text[from..]);
    if length == 0 {
        return;
    }
    p.start(PairUnit);
    while !p.at_end() && (p.span().start as usize) < from + length {
        p.bump();
    }
    p.finish();
}
