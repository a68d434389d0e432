//! Tokens to the lossless tree, by recursive descent.
//!
//! Rule for the grammar functions: a plain name gives its node or reports what was expected;
//! a name with `opt_` may give nothing. No function stops at a mistake: what cannot be used goes
//! into a `Broken` node, and the next line or item is tried. At most one error is reported per
//! token, depth is bounded by [`MAX_DEPTH`], and every loop takes at least one token a turn, so
//! the time is linear in the text.

mod check;
mod expr;
pub(crate) mod habits;
mod handler;
mod header;
mod item;
mod kind;
mod probe;
mod spawner;
mod stmt;
mod tape;

pub use probe::{Expected, expected_at};
use rowan::{Checkpoint, GreenNode, GreenNodeBuilder, Language};

use crate::check::names::near_miss;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::lex::{LexToken, lex};
use crate::syntax::{Node, Pond, SyntaxKind};
use SyntaxKind::*;

/// How deep brackets and blocks may be nested.
pub const MAX_DEPTH: u32 = 96;

/// How many operators a line may have: each makes the tree one level deeper.
pub const MAX_LINKS: u32 = 256;

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
        p.start(File);
        expr::expr(p);
        p.rest_is_broken("the end of the expression");
        p.finish();
    })
}

/// The words that begin an option of a birth.
pub(crate) fn option_words() -> &'static [&'static str] {
    stmt::OPTION_WORDS
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

/// One token that is not trivia.
struct Significant {
    index: usize,
    on_new_line: bool,
}

pub(crate) struct Parser<'t> {
    text: &'t str,
    tokens: &'t [LexToken],
    significant: Vec<Significant>,
    /// Next significant token.
    at: usize,
    /// Next token to be put in the tree, trivia included.
    next: usize,
    builder: GreenNodeBuilder<'static>,
    diagnostics: Vec<Diagnostic>,
    last_error_at: Option<usize>,
    /// The token an item, a statement or another line of its own begins with.
    begins: Option<usize>,
    depth: u32,
    /// How many operators have been taken in since this line, an item or a statement, began.
    links: (Option<usize>, u32),
    probe: probe::Probe,
}

impl<'t> Parser<'t> {
    fn new(text: &'t str, tokens: &'t [LexToken]) -> Parser<'t> {
        let mut significant = Vec::new();
        let mut on_new_line = true;
        for (index, token) in tokens.iter().enumerate() {
            if token.kind.is_trivia() {
                on_new_line |= text[token.span.range()].contains('\n');
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
            probe: probe::Probe::default(),
        }
    }

    // Looking.

    fn kind_at(&self, ahead: usize) -> Option<SyntaxKind> {
        self.significant.get(self.at + ahead).map(|s| self.tokens[s.index].kind)
    }

    fn text_at(&self, ahead: usize) -> &'t str {
        match self.significant.get(self.at + ahead) {
            Some(s) => &self.text[self.tokens[s.index].span.range()],
            None => "",
        }
    }

    /// The text of a significant token, by its number.
    fn text_of(&self, at: usize) -> &'t str {
        self.significant.get(at).map_or("", |s| &self.text[self.tokens[s.index].span.range()])
    }

    /// Whether a token further on begins a line.
    fn begins_line(&self, ahead: usize) -> bool {
        self.significant.get(self.at + ahead).is_some_and(|s| s.on_new_line)
    }

    fn at_end(&self) -> bool {
        self.at >= self.significant.len()
    }

    fn at_kind(&self, kind: SyntaxKind) -> bool {
        self.kind_at(0) == Some(kind)
    }

    fn at_word(&self, word: &str) -> bool {
        self.word_at(0, word)
    }

    fn word_at(&self, ahead: usize, word: &str) -> bool {
        self.probe.note(self.at + ahead, || Expected::Word(word.to_string()));
        self.is_word(ahead, word)
    }

    /// The same for a word that is not expected there.
    fn is_word(&self, ahead: usize, word: &str) -> bool {
        self.kind_at(ahead) == Some(Ident) && self.text_at(ahead) == word
    }

    fn at_any_word(&self, words: &[&str]) -> bool {
        self.offers(words);
        self.is_any_word(words)
    }

    /// Notes that these words could stand here.
    fn offers(&self, words: &[&str]) {
        for word in words {
            self.probe.note(self.at, || Expected::Word((*word).to_string()));
        }
    }

    /// Notes that a name could stand here, in the words of a message.
    fn offers_name(&self, what: &str) {
        self.probe.note(self.at, || Expected::Name(what.to_string()));
    }

    fn is_any_word(&self, words: &[&str]) -> bool {
        self.at_kind(Ident) && words.contains(&self.text_at(0))
    }

    /// Whether the next token begins a line. The end of the text counts as a new line.
    fn on_new_line(&self) -> bool {
        self.new_line_at(0)
    }

    fn new_line_at(&self, ahead: usize) -> bool {
        self.significant.get(self.at + ahead).is_none_or(|s| s.on_new_line)
    }

    fn span(&self) -> Span {
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

    fn flush_trivia(&mut self) {
        let until = self.significant.get(self.at).map_or(self.tokens.len(), |s| s.index);
        while self.next < until {
            let token = self.tokens[self.next];
            self.put(token.kind);
        }
    }

    fn put(&mut self, kind: SyntaxKind) {
        let text = &self.text[self.tokens[self.next].span.range()];
        self.builder.token(Pond::kind_to_raw(kind), text);
        self.next += 1;
    }

    fn start(&mut self, kind: SyntaxKind) {
        // The file keeps leading trivia inside, every other node begins at its first token.
        if kind != File {
            self.flush_trivia();
        }
        self.builder.start_node(Pond::kind_to_raw(kind));
    }

    fn finish(&mut self) {
        self.builder.finish_node();
    }

    fn checkpoint(&mut self) -> Checkpoint {
        self.flush_trivia();
        self.builder.checkpoint()
    }

    fn start_at(&mut self, checkpoint: Checkpoint, kind: SyntaxKind) {
        self.builder.start_node_at(checkpoint, Pond::kind_to_raw(kind));
    }

    fn bump_as(&mut self, kind: SyntaxKind) {
        self.flush_trivia();
        self.put(kind);
        self.at += 1;
    }

    fn bump(&mut self) {
        if let Some(kind) = self.kind_at(0) {
            self.bump_as(kind);
        }
    }

    fn node(&mut self, kind: SyntaxKind, inside: impl FnOnce(&mut Self)) {
        self.start(kind);
        inside(self);
        self.finish();
    }

    // Taking.

    fn eat(&mut self, kind: SyntaxKind) -> bool {
        let here = self.at_kind(kind);
        if here {
            self.bump();
        }
        here
    }

    fn eat_word(&mut self, word: &str) -> bool {
        let here = self.at_word(word);
        if here {
            self.bump_as(Keyword);
        }
        here
    }

    /// Takes the next word, whatever it is, as a keyword.
    fn keyword(&mut self) {
        self.bump_as(Keyword);
    }

    fn expect(&mut self, kind: SyntaxKind, what: &str) -> bool {
        let here = self.eat(kind);
        if !here {
            self.expected(what);
        }
        here
    }

    /// A word and what stands behind it, as in the example.
    fn expect_word_as_in(&mut self, word: &str, example: &str) -> bool {
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

    fn expect_word(&mut self, word: &str) -> bool {
        let here = self.eat_word(word);
        if !here {
            self.expected(&format!("`{word}`"));
        }
        here
    }

    /// A name. A word that begins the next line is none: the line before is just not finished.
    fn name(&mut self, what: &str) -> bool {
        self.offers_name(what);
        if self.at_kind(Ident) && !self.on_new_line() {
            self.bump();
            return true;
        }
        self.expected(what);
        false
    }

    // Mistakes.

    /// What stands here, in words.
    fn found(&self) -> String {
        let begins = self.begins == Some(self.at);
        match self.kind_at(0) {
            None => "the end of the pond".to_string(),
            Some(_) if self.on_new_line() && !begins => "the end of the line".to_string(),
            Some(_) => format!("`{}`", shorten(self.text_at(0))),
        }
    }

    /// Reports a word that begins nothing here but has a meaning elsewhere.
    fn report_habit(&mut self, habit: habits::Habit) {
        let (span, found) = (self.span(), self.found());
        let message = format!("{found} begins nothing here");
        let diagnostic = Diagnostic::new(Code::Syntax, span, message);
        self.report(match habit.word {
            Some(word) => {
                let help = format!("{}: did you mean `{word}`?", habit.help);
                diagnostic.with_help(help).with_mend(span, word)
            }
            None => diagnostic.with_help(habit.help),
        });
    }

    fn expected(&mut self, what: &str) {
        self.probe.note_message(self.at, what);
        // What is wrong at the beginning of a line is not the line before.
        let begins = self.begins == Some(self.at);
        let found = self.found();
        if !begins && self.at_kind(Ident) && !self.on_new_line() && what.contains(',') {
            let words = what.split(|c: char| !c.is_ascii_alphabetic()).filter(|w| w.len() > 2);
            if let Some(near) = near_miss(self.text_at(0), words) {
                let span = self.span();
                let diagnostic =
                    Diagnostic::new(Code::Syntax, span, format!("{found} means nothing here"))
                        .with_help(format!("did you mean `{near}`?"))
                        .with_mend(span, near);
                self.report(diagnostic);
                return;
            }
        }
        if !begins || !self.at_kind(Ident) {
            let span = if begins { self.span() } else { self.error_span() };
            let message = format!("expected {what}, found {found}");
            if what == "`{`"
                && self.kind_at(0).is_some_and(|kind| kind != Ident)
                && !self.on_new_line()
            {
                let help = "what is to be done stands in braces: `{ … }`";
                self.report(Diagnostic::new(Code::Syntax, span, message).with_help(help));
                return;
            }
            self.report(self.with_habit(Diagnostic::new(Code::Syntax, span, message)));
            return;
        }
        // The word itself first: the list of what could stand here is long.
        let (span, words) = (self.span(), what.split(|c: char| !c.is_ascii_alphabetic()));
        let near = near_miss(self.text_at(0), words.filter(|word| word.len() > 2));
        let diagnostic = match near {
            Some(near) => {
                let message = format!("{found} begins nothing here");
                Diagnostic::new(Code::Syntax, span, message)
                    .with_help(format!("did you mean `{near}`?"))
                    .with_mend(span, near)
            }
            None => {
                let message = format!("{found} begins nothing here: expected {what}");
                Diagnostic::new(Code::Syntax, span, message)
            }
        };
        self.report(diagnostic);
    }

    /// What is often meant by a word that does not fit where it stands.
    fn with_habit(&self, diagnostic: Diagnostic) -> Diagnostic {
        if self.at_kind(Plus) && self.at > 0 && self.text_of(self.at - 1).starts_with('"') {
            return diagnostic.with_help("values stand in a text: `\"{n} bites\"`");
        }
        if self.on_new_line() || self.at == 0 || !self.at_kind(Ident) {
            return diagnostic;
        }
        let word = self.text_at(0);
        if word == "within" || word == "touching" {
            let help = "a distance stands before the name: `each midge within 3 u as m`";
            return diagnostic.with_help(help);
        }
        if word == "where" {
            let in_question = self.at > 0 && self.text_of(self.at - 1) == ")";
            return diagnostic.with_help(match in_question {
                true => "a condition stands in the brackets: `count(midge where health > 1)`",
                false => {
                    "a condition stands before the name: `on touch midge where health > 1 as m`"
                }
            });
        }
        let mut before = (0..self.at).rev();
        let first = before.find(|at| self.significant[*at].on_new_line).unwrap_or(0);
        let mut line = (first..self.at).map(|at| {
            let token = &self.tokens[self.significant[at].index];
            &self.text[token.span.range()]
        });
        let has_options = line.any(|word| WITH_OPTIONS.contains(&word));
        if !has_options || !stmt::OPTION_WORDS.contains(&word) && !item::BODY_WORDS.contains(&word)
        {
            return diagnostic;
        }
        let end = self.tokens[self.significant[self.at - 1].index].span.end;
        diagnostic
            .with_help(format!("options are parted by commas: write `, {word}`"))
            .with_mend(Span { start: end, end }, ",")
    }

    fn error(&mut self, code: Code, message: String) {
        let span = self.error_span();
        self.report(Diagnostic::new(code, span, message));
    }

    fn report(&mut self, diagnostic: Diagnostic) {
        self.probe.close(self.at);
        if self.last_error_at == Some(self.at) {
            return;
        }
        self.last_error_at = Some(self.at);
        // The lexer has already said what is wrong with a stray character.
        if !self.at_kind(StrayToken) {
            self.diagnostics.push(diagnostic);
        }
    }

    /// Where to point: at the token, or behind the one before if that ended the line.
    fn error_span(&self) -> Span {
        if !self.on_new_line() || self.at == 0 {
            return self.span();
        }
        let before = self.tokens[self.significant[self.at - 1].index].span;
        Span { start: before.end, end: before.end }
    }

    /// Puts everything up to the next line, `;`, or closing brace into a `Broken` node.
    fn skip_line(&mut self) {
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

    fn rest_is_broken(&mut self, what: &str) {
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
    fn deeper(&mut self, inside: impl FnOnce(&mut Self)) {
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
    fn link(&mut self) -> bool {
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
    fn braces(&mut self, line: impl FnMut(&mut Self)) {
        self.braces_with(&[], line);
    }

    /// The same for what can hold routines, even at the left edge.
    fn body(&mut self, line: impl FnMut(&mut Self)) {
        self.braces_with(&["routine"], line);
    }

    /// The same; the words begin a line, not an item of the pond.
    fn braces_with(&mut self, words: &[&str], mut line: impl FnMut(&mut Self)) {
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

    fn line_ended(&self) -> bool {
        self.on_new_line()
            || matches!(self.kind_at(0), Some(Semicolon | CloseBrace))
            || self.closed_block_before()
    }

    fn closed_block_before(&self) -> bool {
        self.at > 0 && self.tokens[self.significant[self.at - 1].index].kind == CloseBrace
    }

    /// Whether an item begins at the left edge: then a block above it was never closed.
    fn item_begins_here(&self) -> bool {
        let Some(s) = self.significant.get(self.at) else { return false };
        let start = self.tokens[s.index].span.start as usize;
        let at_left_edge = start == 0 || self.text.as_bytes()[start - 1] == b'\n';
        at_left_edge && self.is_any_word(item::ITEM_WORDS)
    }
}

/// Words of statements and parts that have options.
const WITH_OPTIONS: &[&str] = &["spawn", "place", "makes", "replace", "body"];

/// A found word, cut to a length that fits a message.
fn shorten(text: &str) -> String {
    let mut chars = text.chars();
    let head: String = chars.by_ref().take(24).filter(|c| !c.is_control()).collect();
    if chars.next().is_some() { format!("{head}…") } else { head }
}
