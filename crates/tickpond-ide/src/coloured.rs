//! What each word of a text is, for whoever colours it: by what the names mean, not by how they look.

use tickpond_lang::Span;
use tickpond_lang::model::Sort;
use tickpond_lang::syntax::SyntaxKind;

use crate::document::Document;
use crate::words::Words;

/// What a piece of a text is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Role {
    /// A word of the language.
    Keyword,
    /// A comment.
    Comment,
    /// A quoted text; the values in it are pieces of their own.
    Text,
    /// A number with its unit.
    Number,
    /// A sign of an operation.
    Operator,
    /// A name of this sort.
    Name(Sort),
}

/// A piece of a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Piece {
    /// Where it is.
    pub span: Span,
    /// What it is.
    pub role: Role,
    /// Whether a name is defined here.
    pub defines: bool,
}

/// The pieces of a text in its order, without overlaps; a quoted text is cut where values stand in it.
pub fn pieces(document: &Document) -> Vec<Piece> {
    let root = tickpond_lang::parse::parse(&document.text).root();
    let mut pieces: Vec<Piece> = Vec::new();
    for token in root.descendants_with_tokens().filter_map(|e| e.into_token()) {
        let span: Span = token.text_range().into();
        let role = match token.kind() {
            SyntaxKind::Keyword => Role::Keyword,
            SyntaxKind::Comment => Role::Comment,
            SyntaxKind::Number => Role::Number,
            SyntaxKind::Ident => name(document, span),
            SyntaxKind::Text => {
                quoted(document, span, &mut pieces);
                continue;
            }
            kind if is_operator(kind) => Role::Operator,
            _ => continue,
        };
        pieces.push(piece(document, span, role));
    }
    pieces
}

fn piece(document: &Document, span: Span, role: Role) -> Piece {
    Piece { span, role, defines: document.model.definition(span).is_some() }
}

fn name(document: &Document, span: Span) -> Role {
    let meant = document.model.meanings(span).first().map(|d| d.sort);
    match meant.or_else(|| document.model.word(span)) {
        Some(Sort::Word) | None => Role::Keyword,
        Some(sort) => Role::Name(sort),
    }
}

/// A quoted text, and the names and numbers of the values in it.
fn quoted(document: &Document, span: Span, pieces: &mut Vec<Piece>) {
    let raw = document.text.get(span.range()).unwrap_or("");
    let mut from = span.start;
    for value in tickpond_lang::texts::values(raw) {
        let (start, end) = (span.start + value.start as u32, span.start + value.end as u32);
        pieces.push(piece(document, Span { start: from, end: start }, Role::Text));
        let words = Words::of(&raw[value]);
        for (at, token) in words.tokens.iter().enumerate() {
            let here = Span { start: start + token.span.start, end: start + token.span.end };
            let role = match token.kind {
                SyntaxKind::Number => Role::Number,
                kind if is_operator(kind) => Role::Operator,
                _ if words.is_name(at) => name(document, here),
                _ => continue,
            };
            pieces.push(piece(document, here, role));
        }
        from = end;
    }
    pieces.push(piece(document, Span { start: from, end: span.end }, Role::Text));
}

fn is_operator(kind: SyntaxKind) -> bool {
    use SyntaxKind::*;
    let signs = [
        DotDot,
        Assign,
        PlusAssign,
        MinusAssign,
        Plus,
        Minus,
        PlusMinus,
        Star,
        Slash,
        Equal,
        NotEqual,
        Less,
        LessEqual,
        Greater,
        GreaterEqual,
    ];
    signs.contains(&kind)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const TEXT: &str = "pond \"t\" { arena 10 x 10 } // still
knob drift = 6 u/s
kind midge {
    look \"m\" teal
    vars { worn = 0 }
    on birth { speed = drift; say \"{worn + 1} of {drift} u\" }
}
";

    fn roles() -> Vec<(String, Role, bool)> {
        let pieces = pieces(&Document::new(TEXT));
        pieces.iter().map(|p| (TEXT[p.span.range()].to_string(), p.role, p.defines)).collect()
    }

    #[rstest]
    #[case("pond", Role::Keyword, false)]
    #[case("// still", Role::Comment, false)]
    #[case("6 u/s", Role::Number, false)]
    #[case("drift", Role::Name(Sort::Knob), true)]
    #[case("drift", Role::Name(Sort::Knob), false)]
    #[case("midge", Role::Name(Sort::Kind), true)]
    #[case("teal", Role::Keyword, false)]
    #[case("worn", Role::Name(Sort::Variable), false)]
    #[case("speed", Role::Name(Sort::Field), false)]
    #[case("\"{", Role::Text, false)]
    #[case("} of {", Role::Text, false)]
    #[case("+", Role::Operator, false)]
    fn each_piece_is_what_it_is(#[case] text: &str, #[case] role: Role, #[case] defines: bool) {
        let roles = roles();
        assert!(roles.contains(&(text.to_string(), role, defines)), "{roles:?}");
    }

    #[rstest]
    fn pieces_come_in_order_and_never_overlap() {
        let pieces = pieces(&Document::new(TEXT));
        for pair in pieces.windows(2) {
            assert!(pair[0].span.end <= pair[1].span.start, "{pair:?}");
        }
    }
}
