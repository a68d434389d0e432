//! Tokens to the lossless tree, by recursive descent.
//!
//! Rule for the grammar functions: a plain name gives its node or reports what was expected;
//! a name with `opt_` may give nothing. No function stops at a mistake: what cannot be used goes
//! into a `Broken` node, and the next line or item is tried. At most one error is reported per
//! token, depth is bounded by [`MAX_DEPTH`], and every loop takes at least one token a turn, so
//! the time is linear in the text.

mod check;
mod expected;
mod expr;
pub(crate) mod habits;
mod handler;
mod header;
mod item;
mod kind;
mod options;
mod parser;
mod parts;
mod probe;
mod saying;
mod spawner;
mod stmt;
mod tape;
mod words;

pub use expected::expected_at;
pub use parser::{MAX_DEPTH, MAX_LINKS};
pub use probe::Expected;

use rowan::GreenNode;

use crate::diagnostic::Diagnostic;
use crate::lex::lex;
use crate::syntax::{Node, SyntaxKind};
use parser::Parser;

/// A tree that prints back to the very text it came from, and what is wrong with that text.
#[derive(Clone, Debug)]
pub struct Parsed {
    green: GreenNode,
    /// Errors of the lexer and the parser, in the order of their places.
    pub diagnostics: Vec<Diagnostic>,
}

impl Parsed {
    /// The root of the tree.
    pub fn root(&self) -> Node {
        Node::new_root(self.green.clone())
    }
}

/// Parses a whole pond.
pub fn parse(text: &str) -> Parsed {
    run(text, item::file)
}

/// Parses one expression that makes up the whole text, such as a part of a text in braces.
pub fn parse_expression(text: &str) -> Parsed {
    run(text, |p| {
        p.start(SyntaxKind::File);
        expr::expr(p);
        p.rest_is_broken("the end of the expression");
        p.finish();
    })
}

/// The words that begin an option of a birth.
pub(crate) fn option_words() -> &'static [&'static str] {
    words::OPTION_WORDS
}

/// Parses the steps of a tape that make up the whole text, as in a tape's file.
pub fn parse_tape(text: &str) -> Parsed {
    run(text, tape::steps)
}

fn run(text: &str, grammar: fn(&mut Parser)) -> Parsed {
    let (tokens, mut diagnostics) = lex(text);
    let mut parser = Parser::new(text, &tokens);
    grammar(&mut parser);
    diagnostics.append(&mut parser.diagnostics);
    diagnostics.sort_by_key(|d| d.span.start);
    Parsed { green: parser.builder.finish(), diagnostics }
}
