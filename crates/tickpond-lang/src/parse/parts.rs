//! Small parts that stand in many places: parameters, names behind `as`, facings, sizes.

use super::expr;
use super::parser::Parser;
use crate::syntax::SyntaxKind::*;

/// `(level: number, what: kind of insect = midge)`
pub(super) fn opt_params(p: &mut Parser) {
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

/// `as other`
pub(super) fn opt_as(p: &mut Parser) {
    if p.at_word("as") {
        p.node(AsName, |p| {
            p.keyword();
            p.name("a name");
        });
    }
}

/// `facing 90 deg`
pub(super) fn opt_facing(p: &mut Parser) {
    if p.at_word("facing") {
        p.node(OptFacing, |p| {
            p.keyword();
            expr::expr(p);
        });
    }
}

/// `160 x 90`
pub(super) fn size(p: &mut Parser) {
    expr::primary(p);
    p.expect_word("x");
    expr::primary(p);
}
