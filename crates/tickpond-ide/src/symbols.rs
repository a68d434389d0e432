//! The outline of a text: its items, and what stands in them.

use tickpond_lang::Span;
use tickpond_lang::syntax::{Node, NodeExt, SyntaxKind as S};

use crate::document::Document;

/// What an entry of the outline is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shape {
    /// The pond's header.
    Pond,
    /// A kind.
    Kind,
    /// A spawner.
    Spawner,
    /// A behaviour.
    Behavior,
    /// A function.
    Function,
    /// A message or an input.
    Signal,
    /// A knob.
    Knob,
    /// A watch or an expectation.
    Check,
    /// Spots, a zone, a mount or a placement.
    Place,
    /// A handler or a routine.
    Handler,
    /// A variable.
    Variable,
    /// A state.
    State,
    /// A tape.
    Tape,
}

/// An entry of the outline.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Symbol {
    /// What it is called: its name, its words, or the head of a handler.
    pub name: String,
    /// What it is.
    pub shape: Shape,
    /// All of it.
    pub span: Span,
    /// What to point at; inside of `span`.
    pub head: Span,
    /// What stands in it.
    pub inside: Vec<Symbol>,
}

/// The outline, in the order of the text. Grows with the text.
pub fn symbols(document: &Document) -> Vec<Symbol> {
    let root = tickpond_lang::parse::parse(&document.text).root();
    let of = |node: Node| symbols_of(document, &node);
    root.children().flat_map(of).collect()
}

fn symbols_of(document: &Document, node: &Node) -> Vec<Symbol> {
    let shape = match node.kind() {
        S::Header => Shape::Pond,
        S::Kind => Shape::Kind,
        S::Spawner => Shape::Spawner,
        S::Behavior => Shape::Behavior,
        S::Function | S::ValueFunction => Shape::Function,
        S::Message | S::Input => Shape::Signal,
        S::Knob => Shape::Knob,
        S::Watch | S::Expect => Shape::Check,
        S::Spots | S::Zone | S::Mount | S::Place => Shape::Place,
        S::Handler | S::Routine => Shape::Handler,
        S::Var => Shape::Variable,
        S::Tape => Shape::Tape,
        // What only groups others gives its place to them.
        S::Vars | S::InState => return inside(document, node),
        S::StatesLine => {
            let state = |token: tickpond_lang::syntax::Token| {
                let span = token.text_range().into();
                let name = token.text().to_string();
                Symbol { name, shape: Shape::State, span, head: span, inside: Vec::new() }
            };
            return node.names().map(state).collect();
        }
        _ => return Vec::new(),
    };
    let span = trimmed(document, node.text_range().into());
    let (name, head) = called(document, node, span);
    vec![Symbol { name, shape, span, head, inside: inside(document, node) }]
}

fn inside(document: &Document, node: &Node) -> Vec<Symbol> {
    match node.kind() {
        S::Kind | S::Spawner | S::Behavior | S::Vars | S::InState => {
            node.children().flat_map(|child| symbols_of(document, &child)).collect()
        }
        _ => Vec::new(),
    }
}

/// What an item is called, and where that stands.
fn called(document: &Document, node: &Node, span: Span) -> (String, Span) {
    let words = |span: Span| {
        let text = document.text.get(span.range()).unwrap_or("");
        text.split_whitespace().collect::<Vec<_>>().join(" ")
    };
    match node.kind() {
        S::Handler => {
            let block = node.child(S::Block).map_or(span.end, |b| b.text_range().start().into());
            let head = trimmed(document, Span { start: span.start, end: block });
            (words(head), head)
        }
        S::Routine => {
            let head = node.name().map_or(span, |token| token.text_range().into());
            (format!("routine {}", words(head)), head)
        }
        S::Place => {
            let line = document.line_of(span.start);
            let length = line.trim_end().len() as u32;
            let start = document.lines.start_of(document.lines.line(span.start));
            let head = Span { start: span.start, end: span.end.min(start + length) };
            (words(head), head)
        }
        _ => {
            let text = node.token(S::Text).map(|token| token.text_range().into());
            let name = node.name().map(|token| token.text_range().into());
            let named = if matches!(node.kind(), S::Header | S::Expect | S::Tape) {
                text.or(name)
            } else {
                name
            };
            let head = named.unwrap_or(span);
            (words(head).trim_matches('"').to_string(), head)
        }
    }
}

/// A stretch without the white space and comments around it.
fn trimmed(document: &Document, span: Span) -> Span {
    let (tokens, _) = tickpond_lang::lex::lex(document.text.get(span.range()).unwrap_or(""));
    let mut said = tokens.iter().filter(|t| !t.kind.is_trivia()).map(|t| t.span);
    let Some(first) = said.next() else { return Span { start: span.start, end: span.start } };
    let last = said.next_back().unwrap_or(first);
    Span { start: span.start + first.start, end: span.start + last.end }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const TEXT: &str = "// The pond.
pond \"Mill\" { arena 10 x 10 }

knob drift = 6 u/s
kind midge {
    vars { calm = true; worn = 0 s }
    states { still, afraid }
    mount mouth at (1 u, 0 u)
    on birth { speed = drift }
    in state still {
        every 1 s { worn += 1 s }
    }
    routine hatch { wait 1 s }
}
every 1 s { say \"x\" } // done
place midge
    at (1, 1)
expect \"one lives\": always count(midge) == 1
";

    fn outline(symbols: &[Symbol], depth: usize) -> Vec<String> {
        let one = |s: &Symbol| {
            let mut lines = vec![format!("{}{:?} {}", "  ".repeat(depth), s.shape, s.name)];
            lines.extend(outline(&s.inside, depth + 1));
            lines
        };
        symbols.iter().flat_map(one).collect()
    }

    #[rstest]
    fn the_outline_has_every_item() {
        let found = symbols(&Document::new(TEXT));
        assert_eq!(
            outline(&found, 0),
            [
                "Pond Mill",
                "Knob drift",
                "Kind midge",
                "  Variable calm",
                "  Variable worn",
                "  State still",
                "  State afraid",
                "  Place mouth",
                "  Handler on birth",
                "  Handler every 1 s",
                "  Handler routine hatch",
                "Handler every 1 s",
                "Place place midge",
                "Check one lives",
            ]
        );
    }

    #[rstest]
    fn heads_lie_inside_and_comments_outside() {
        fn all(symbols: &[Symbol], visit: &mut impl FnMut(&Symbol)) {
            for symbol in symbols {
                visit(symbol);
                all(&symbol.inside, visit);
            }
        }
        all(&symbols(&Document::new(TEXT)), &mut |s| {
            assert!(s.span.start <= s.head.start && s.head.end <= s.span.end, "{s:?}");
            assert!(!TEXT[s.span.range()].contains("//"), "{s:?}");
        });
    }
}
