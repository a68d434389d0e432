//! The parser's hands: what it looks at, what it takes into the tree, and what it says when that is not there.

use rowan::{Checkpoint, GreenNodeBuilder, Language};

use super::probe::{Expected, Probe};
use super::words::ITEM_WORDS;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::lex::LexToken;
use crate::syntax::{Pond, SyntaxKind};
use SyntaxKind::*;

/// How deep brackets and blocks may be nested.
pub const MAX_DEPTH: u32 = 96;

/// How many operators a line may have: each makes the tree one level deeper.
pub const MAX_LINKS: u32 = 256;

/// One token that is not trivia.
pub(super) struct Significant {
    pub(super) index: usize,
    pub(super) on_new_line: bool,
}

pub(crate) struct Parser<'t> {
    pub(super) text: &'t str,
    pub(super) tokens: &'t [LexToken],
    pub(super) significant: Vec<Significant>,
    /// Next significant token.
    pub(super) at: usize,
    /// Next token to be put in the tree, trivia included.
    pub(super) next: usize,
    pub(super) builder: GreenNodeBuilder<'static>,
    pub(super) diagnostics: Vec<Diagnostic>,
    pub(super) last_error_at: Option<usize>,
    /// The token an item, a statement or another line of its own begins with.
    pub(super) begins: Option<usize>,
    pub(super) depth: u32,
    /// How many operators have been taken in since this line, an item or a statement, began.
    pub(super) links: (Option<usize>, u32),
    pub(super) probe: Probe,
}

impl<'t> Parser<'t> {
    pub(super) fn new(text: &'t str, tokens: &'t [LexToken]) -> Parser<'t> {
        let mut significant = Vec::new();
        let mut on_new_line = true;
        for (index, token) in tokens.iter().enumerate() {
            if token.kind.is_trivia() {
                on_new_line |= text[token.span.range()].contains(['\n', '\r']);
            } else {
                significant.push(Significant { index, on_new_line });
                on_new_line = false;
            }
        }
        Parser {
            text,
            tokens,
            significant,
            at: 0,
            next: 0,
            builder: GreenNodeBuilder::new(),
            diagnostics: Vec::new(),
            last_error_at: None,
            begins: None,
            depth: 0,
            links: (None, 0),
            probe: Probe::default(),
        }
    }

    // Looking.

    pub(super) fn kind_at(&self, ahead: usize) -> Option<SyntaxKind> {
        self.significant.get(self.at + ahead).map(|s| self.tokens[s.index].kind)
    }

    pub(super) fn text_at(&self, ahead: usize) -> &'t str {
        match self.significant.get(self.at + ahead) {
            Some(s) => &self.text[self.tokens[s.index].span.range()],
            None => "",
        }
    }

    /// The text of a significant token, by its number.
    pub(super) fn text_of(&self, at: usize) -> &'t str {
        self.significant.get(at).map_or("", |s| &self.text[self.tokens[s.index].span.range()])
    }

    /// Whether a token further on begins a line.
    pub(super) fn begins_line(&self, ahead: usize) -> bool {
        self.significant.get(self.at + ahead).is_some_and(|s| s.on_new_line)
    }

    pub(super) fn at_end(&self) -> bool {
        self.at >= self.significant.len()
    }

    pub(super) fn at_kind(&self, kind: SyntaxKind) -> bool {
        self.kind_at(0) == Some(kind)
    }

    pub(super) fn at_word(&self, word: &str) -> bool {
        self.word_at(0, word)
    }

    pub(super) fn word_at(&self, ahead: usize, word: &str) -> bool {
        self.probe.note(self.at + ahead, || Expected::Word(word.to_string()));
        self.is_word(ahead, word)
    }

    /// The same for a word that is not expected there.
    pub(super) fn is_word(&self, ahead: usize, word: &str) -> bool {
        self.kind_at(ahead) == Some(Ident) && self.text_at(ahead) == word
    }

    pub(super) fn at_any_word(&self, words: &[&str]) -> bool {
        self.offers(words);
        self.is_any_word(words)
    }

    /// Notes that these words could stand here.
    pub(super) fn offers(&self, words: &[&str]) {
        for word in words {
            self.probe.note(self.at, || Expected::Word((*word).to_string()));
        }
    }

    /// Notes that a name could stand here, in the words of a message.
    pub(super) fn offers_name(&self, what: &str) {
        self.probe.note(self.at, || Expected::Name(what.to_string()));
    }

    pub(super) fn is_any_word(&self, words: &[&str]) -> bool {
        self.at_kind(Ident) && words.contains(&self.text_at(0))
    }

    /// Whether the next token begins a line. The end of the text counts as a new line.
    pub(super) fn on_new_line(&self) -> bool {
        self.new_line_at(0)
    }

    pub(super) fn new_line_at(&self, ahead: usize) -> bool {
        self.significant.get(self.at + ahead).is_none_or(|s| s.on_new_line)
    }

    pub(super) fn span(&self) -> Span {
        match self.significant.get(self.at) {
            Some(s) => self.tokens[s.index].span,
            None => {
                // Behind the last token, not behind the blank lines at the end of the file.
                let end = self.significant.last().map_or(0, |s| self.tokens[s.index].span.end);
                Span { start: end, end }
            }
        }
    }

    // Building.

    pub(super) fn flush_trivia(&mut self) {
        let until = self.significant.get(self.at).map_or(self.tokens.len(), |s| s.index);
        while let Some(token) = self.tokens.get(self.next).filter(|_| self.next < until) {
            self.put(token.kind);
        }
    }

    /// Puts the next token into the tree; behind the last one there is nothing to put.
    fn put(&mut self, kind: SyntaxKind) {
        let Some(token) = self.tokens.get(self.next) else { return };
        self.builder.token(Pond::kind_to_raw(kind), &self.text[token.span.range()]);
        self.next += 1;
    }

    pub(super) fn start(&mut self, kind: SyntaxKind) {
        // The file keeps leading trivia inside, every other node begins at its first token.
        if kind != File {
            self.flush_trivia();
        }
        self.builder.start_node(Pond::kind_to_raw(kind));
    }

    pub(super) fn finish(&mut self) {
        self.builder.finish_node();
    }

    pub(super) fn checkpoint(&mut self) -> Checkpoint {
        self.flush_trivia();
        self.builder.checkpoint()
    }

    pub(super) fn start_at(&mut self, checkpoint: Checkpoint, kind: SyntaxKind) {
        self.builder.start_node_at(checkpoint, Pond::kind_to_raw(kind));
    }

    /// Takes the next token, if there is one, as something else than the lexer saw in it.
    fn bump_as(&mut self, kind: SyntaxKind) {
        if !self.at_end() {
            self.flush_trivia();
            self.put(kind);
            self.at += 1;
        }
    }

    pub(super) fn bump(&mut self) {
        if let Some(kind) = self.kind_at(0) {
            self.bump_as(kind);
        }
    }

    pub(super) fn node(&mut self, kind: SyntaxKind, inside: impl FnOnce(&mut Self)) {
        self.start(kind);
        inside(self);
        self.finish();
    }

    // Taking.

    pub(super) fn eat(&mut self, kind: SyntaxKind) -> bool {
        let here = self.at_kind(kind);
        if here {
            self.bump();
        }
        here
    }

    pub(super) fn eat_word(&mut self, word: &str) -> bool {
        let here = self.at_word(word);
        if here {
            self.bump_as(Keyword);
        }
        here
    }

    /// Takes the next word, whatever it is, as a keyword. What is no word is told and left to who comes next.
    pub(super) fn keyword(&mut self) {
        if self.at_kind(Ident) {
            self.bump_as(Keyword);
        } else {
            self.expected("a word");
        }
    }

    pub(super) fn expect(&mut self, kind: SyntaxKind, what: &str) -> bool {
        let here = self.eat(kind);
        if !here {
            self.expected(what);
        }
        here
    }

    /// A word and what stands behind it, as in the example.
    pub(super) fn expect_word_as_in(&mut self, word: &str, example: &str) -> bool {
        let here = self.eat_word(word);
        if !here {
            let found = self.found();
            let message = format!("expected `{word}`, found {found}");
            let diagnostic = Diagnostic::new(Code::Syntax, self.error_span(), message)
                .with_help(format!("write it as in `{example}`"));
            self.report(diagnostic);
        }
        here
    }

    pub(super) fn expect_word(&mut self, word: &str) -> bool {
        let here = self.eat_word(word);
        if !here {
            self.expected(&format!("`{word}`"));
        }
        here
    }

    /// A name. A word that begins the next line is none: the line before is just not finished.
    pub(super) fn name(&mut self, what: &str) -> bool {
        self.offers_name(what);
        if self.at_kind(Ident) && !self.on_new_line() {
            self.bump();
            return true;
        }
        self.expected(what);
        false
    }

    // Mistakes.

    /// Puts everything up to the next line, `;`, or closing brace into a `Broken` node.
    pub(super) fn skip_line(&mut self) {
        let checkpoint = self.checkpoint();
        let mut depth = 0;
        let mut first = true;
        while let Some(kind) = self.kind_at(0) {
            let ends = self.on_new_line() && !first || matches!(kind, Semicolon | CloseBrace);
            if depth == 0 && ends {
                break;
            }
            match kind {
                OpenBrace => depth += 1,
                CloseBrace => depth -= 1,
                _ => {}
            }
            self.bump();
            first = false;
        }
        if !first {
            self.start_at(checkpoint, Broken);
            self.finish();
        }
    }

    pub(super) fn rest_is_broken(&mut self, what: &str) {
        if !self.at_end() {
            self.expected(what);
            self.start(Broken);
            while !self.at_end() {
                self.bump();
            }
            self.finish();
        }
        self.flush_trivia();
    }

    /// Runs `inside` one level deeper; too deep, it reports that and skips the line instead.
    pub(super) fn deeper(&mut self, inside: impl FnOnce(&mut Self)) {
        if self.depth >= MAX_DEPTH {
            self.error(Code::TooDeep, format!("nested more than {MAX_DEPTH} levels deep"));
            self.skip_line();
            if self.at_kind(CloseBrace) {
                self.bump();
            }
            return;
        }
        self.depth += 1;
        inside(self);
        self.depth -= 1;
    }

    /// Whether one more operator may be taken in; if the line has too many, it reports that and skips the
    /// rest of it.
    pub(super) fn link(&mut self) -> bool {
        if self.links.0 != self.begins {
            self.links = (self.begins, 0);
        }
        self.links.1 += 1;
        if self.links.1 <= MAX_LINKS {
            return true;
        }
        let words = format!("more than {MAX_LINKS} operators in one line");
        let diagnostic = Diagnostic::new(Code::TooDeep, self.span(), words)
            .with_help("give parts of it a name: by `let`, or as watches of their own");
        self.report(diagnostic);
        self.skip_line();
        false
    }

    /// `{ … }` of lines that `;` or a new line parts. `line` must take at least one token.
    pub(super) fn braces(&mut self, line: impl FnMut(&mut Self)) {
        self.braces_with(&[], line);
    }

    /// The same for what can hold routines, even at the left edge.
    pub(super) fn body(&mut self, line: impl FnMut(&mut Self)) {
        self.braces_with(&["routine"], line);
    }

    /// The same; the words begin a line, not an item of the pond.
    pub(super) fn braces_with(&mut self, words: &[&str], mut line: impl FnMut(&mut Self)) {
        let open = self.span();
        if !self.expect(OpenBrace, "`{`") {
            return;
        }
        loop {
            while self.eat(Semicolon) {}
            if self.eat(CloseBrace) {
                return;
            }
            if self.at_end() || self.item_begins_here() && !self.is_any_word(words) {
                self.report(
                    Diagnostic::new(Code::OpenBracket, open, "this `{` is never closed")
                        .with_help("close it with `}`"),
                );
                return;
            }
            let before = self.at;
            self.begins = Some(before);
            line(self);
            if self.at == before {
                self.expected("`}`");
                self.skip_line();
                if self.at == before {
                    self.bump();
                }
            } else if !self.line_ended() {
                self.expected("the end of the line");
                self.skip_line();
            }
        }
    }

    pub(super) fn line_ended(&self) -> bool {
        self.on_new_line()
            || matches!(self.kind_at(0), Some(Semicolon | CloseBrace))
            || self.closed_block_before()
    }

    pub(super) fn closed_block_before(&self) -> bool {
        self.before().is_some_and(|token| token.kind == CloseBrace)
    }

    /// The significant token that was taken last.
    fn before(&self) -> Option<&'t LexToken> {
        let at = self.at.checked_sub(1)?;
        self.tokens.get(self.significant.get(at)?.index)
    }

    /// Where the token that was taken last ends; 0 if there was none.
    pub(super) fn end_before(&self) -> u32 {
        self.before().map_or(0, |token| token.span.end)
    }

    /// Whether an item begins at the left edge: then a block above it was never closed.
    pub(super) fn item_begins_here(&self) -> bool {
        let Some(s) = self.significant.get(self.at) else { return false };
        let start = self.tokens[s.index].span.start as usize;
        let at_left_edge = start == 0 || matches!(self.text.as_bytes()[start - 1], b'\n' | b'\r');
        at_left_edge && self.is_any_word(ITEM_WORDS)
    }
}
