//! Tree to checked program: names, types, units, then findings.
//!
//! No step stops at the first mistake. A part that cannot be understood gets the type
//! [`Ty::Unknown`], which agrees with everything, so that one mistake gives one message.

mod act;
mod behavior;
mod birth;
mod chance;
mod constants;
mod event;
mod expect;
mod expr;
mod findings;
mod fit;
mod function;
mod handler;
mod header;
mod item;
mod kinds;
mod knob;
mod looks;
mod name;
pub(crate) mod names;
mod note;
mod params;
mod query;
mod scope;
mod states;
mod stmt;
mod tape;
mod unmet;

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use names::{Names, Symbol};

use crate::diagnostic::{Code, Diagnostic, Severity, Span};
use crate::lines::LineIndex;
use crate::model::Model;
use crate::parse;
use crate::program::*;
use crate::syntax::{Node, NodeExt, SyntaxKind};

/// What came of compiling a text.
#[derive(Clone, Debug)]
pub struct Compilation {
    /// The program; `None` if there are errors.
    pub program: Option<Arc<Program>>,
    /// Errors and findings, in the order of their places.
    pub diagnostics: Vec<Diagnostic>,
    /// Findings that the text accepts: `// meant: F0603, they stay`.
    pub accepted: Vec<Diagnostic>,
}

impl Compilation {
    /// Whether anything keeps the pond from being played.
    pub fn has_errors(&self) -> bool {
        self.program.is_none()
    }
}

/// Compiles a pond. Never fails and never panics: mistakes are in the diagnostics.
pub fn compile(text: &str) -> Compilation {
    check(text).finish(text)
}

/// Compiles a pond and tells what its names mean: every name that can be resolved, with mistakes elsewhere in the text,
/// and in functions and behaviours that nothing uses, too. Costs one compilation; two where something is unused.
pub fn understand(text: &str) -> (Compilation, Model) {
    let mut checked = check(text);
    let unmet = checked.checker.unmet();
    let mut model = std::mem::take(&mut checked.checker.model);
    if !unmet.is_empty() {
        // Looking at them writes into the program, which has to stay as it is.
        let mut aside = check(text);
        aside.checker.look_at_unmet(&unmet);
        model = aside.checker.model;
    }
    (checked.finish(text), model)
}

/// A text that has been checked.
struct Checked {
    checker: Checker,
    accepted: Vec<Diagnostic>,
}

impl Checked {
    fn finish(self, text: &str) -> Compilation {
        let Checker { program, mut diagnostics, .. } = self.checker;
        diagnostics.sort_by_key(|d| (d.span, d.code));
        one_slip_one_message(text, &mut diagnostics);
        let broken = diagnostics.iter().any(|d| d.severity == Severity::Error);
        let program = (!broken).then(|| Arc::new(program));
        Compilation { program, diagnostics, accepted: self.accepted }
    }
}

fn check(text: &str) -> Checked {
    let parsed = parse::parse(text);
    let mut checker = Checker::new(text, parsed.diagnostics.clone());
    checker.lower(&parsed.root());
    let mut accepted = Vec::new();
    if !checker.has_errors() {
        let mut found = std::mem::take(&mut checker.diagnostics);
        found.append(&mut findings::all(&checker));
        (checker.diagnostics, accepted) = findings::meant::part(text, found);
    }
    Checked { checker, accepted }
}

/// What is broken in its form is understood wrongly from there on: of a statement with such a mistake only the first is
/// told. What else there may be shows when that is mended.
fn one_slip_one_message(text: &str, diagnostics: &mut Vec<Diagnostic>) {
    let is_form = |d: &Diagnostic| d.code == Code::Syntax;
    let is_sense = |d: &Diagnostic| {
        let code = d.code.as_str();
        d.severity == Severity::Error && (code.starts_with("E03") || code.starts_with("E04"))
    };
    let statement = |span: Span| {
        let (at, end) = (span.start as usize, text.len());
        let start = text[..at].rfind(['\n', ';', '{', '}']).map_or(0, |before| before + 1);
        let stop = text[at..].find(['\n', ';', '}']).map_or(end, |behind| at + behind);
        (start as u32, stop as u32)
    };
    let mut broken: Vec<((u32, u32), Span)> = Vec::new();
    for form in diagnostics.iter().filter(|d| is_form(d)) {
        if broken.last().is_none_or(|((_, stop), _)| form.span.start > *stop) {
            broken.push((statement(form.span), form.span));
        }
    }
    let mut at = 0;
    diagnostics.retain(|d| {
        while broken.get(at).is_some_and(|((_, stop), _)| *stop < d.span.start) {
            at += 1;
        }
        let within = broken.get(at).filter(|((start, _), _)| *start <= d.span.start);
        within.is_none_or(|(_, first)| !is_sense(d) && (!is_form(d) || d.span == *first))
    });
}

/// Compiles a pond together with the steps of a tape from elsewhere, which becomes a tape of the pond
/// with this name. The pond itself must be without errors: the spans of the diagnostics are those of
/// the steps.
pub fn compile_with_tape(pond: &str, name: &str, steps: &str) -> Compilation {
    let name: String = name.chars().filter(|c| !"\"\\\n".contains(*c)).collect();
    let head = format!("{pond}\ntape \"{name}\" {{\n");
    let mut compiled = compile(&format!("{head}{steps}\n}}\n"));
    let (start, end) = (head.len() as u32, (head.len() + steps.len()) as u32);
    compiled.diagnostics.retain(|d| d.severity == Severity::Error || d.span.start >= start);
    for diagnostic in &mut compiled.diagnostics {
        let at = |place: u32| place.clamp(start, end) - start;
        diagnostic.span = Span { start: at(diagnostic.span.start), end: at(diagnostic.span.end) };
        diagnostic.labels.clear();
        diagnostic.mend = None;
    }
    compiled
}

/// How deep blocks, values and functions may be in one another once functions are taken in, in levels: all that walks
/// a program goes as deep, and the stack of a thread must hold it.
const MOST_DEEP: u32 = 600;
/// How many levels a value in another takes, and a block in another.
const VALUE_LEVELS: u32 = 1;
const BLOCK_LEVELS: u32 = 5;

/// How a name of a sort is declared.
fn declaration(sort: &str, name: &str) -> Option<String> {
    if name.len() > 40 {
        return None;
    }
    Some(match sort {
        "kind" => format!("declare it: `kind {name} {{ … }}`"),
        "kind or tag" => {
            format!("declare it: `kind {name} {{ … }}`, or give kinds a line `tag {name}`")
        }
        "message" => format!("declare it: `message {name}`"),
        "event or message" => format!("declare it if it is a message: `message {name}`"),
        "input" => format!("declare it: `input {name} = key space`"),
        "zone" => format!("declare it: `zone {name} = box (0, 0) size 10 x 10`"),
        "spot group" => format!("declare it: `spots {name} {{ (1, 1) }}`"),
        "behaviour" => format!("declare it: `behavior {name} {{ … }}`"),
        "function" => format!("declare it: `to {name}() {{ … }}`"),
        "field or variable" => format!("declare it: `vars {{ {name} = 0 }}`"),
        "value" if name == "frame" => "write `every tick { … }`".to_string(),
        "value" => format!("declare it: `vars {{ {name} = 0 }}` in the kind, or `knob {name} = …`"),
        _ => return None,
    })
}

/// The places of names in the lists of a program.
#[derive(Default)]
struct Places {
    vars: HashMap<String, u32>,
    states: HashMap<String, u32>,
    /// By kind and variable: where it was declared.
    declared: HashMap<(KindId, VarName), Span>,
    /// By kind and name: where a mount was declared.
    mounts: HashMap<(KindId, String), Span>,
    /// By kind, behaviour, state and head: where the first handler stands.
    heads: HashMap<(KindId, String, Option<InState>, String), Span>,
}

/// The place of a name in a list; it is added if it is new.
fn place_of(places: &mut HashMap<String, u32>, names: &mut Vec<String>, name: &str) -> u32 {
    if let Some(at) = places.get(name) {
        return *at;
    }
    names.push(name.to_string());
    let at = names.len() as u32 - 1;
    places.insert(name.to_string(), at);
    at
}

/// The state of a compilation: the program so far and what the names stand for.
pub(crate) struct Checker {
    program: Program,
    diagnostics: Vec<Diagnostic>,
    /// What has been reported: each is said once.
    reported: HashSet<(Span, Code, String)>,
    /// The places of names in the program's lists.
    places: Places,
    /// How deep blocks, values and functions are in one another here.
    depth: u32,
    names: Names,
    /// What parts of texts add to their spans: they are parsed on their own.
    offset: u32,
    behaviors: Vec<Node>,
    functions: Vec<Node>,
    value_functions: Vec<Node>,
    /// The behaviours each kind uses.
    kind_uses: Vec<(KindId, Vec<(scope::Part, Node)>)>,
    /// What is placed on lines that are muted.
    muted_places: Vec<Placed>,
    /// Names of parameters and variables whose values are kinds.
    values_of_kinds: HashSet<String>,
    /// Findings on what the program does not hold.
    remarks: Vec<Diagnostic>,
    /// Functions being taken in, outermost first.
    calls: Vec<String>,
    calls_made: usize,
    next_bound: u32,
    /// What the names mean, as far as they have been resolved.
    model: Model,
    /// Functions and behaviours whose bodies have been looked at.
    followed: HashSet<String>,
    /// Whether mistakes are left unsaid, and how often that has been asked for.
    quiet: u32,
}

impl Checker {
    fn new(text: &str, diagnostics: Vec<Diagnostic>) -> Checker {
        let program = Program {
            text: text.into(),
            lines: LineIndex::new(text),
            title: String::new(),
            arena: header::default_arena(),
            rate: 60.0,
            limits: Limits::default(),
            lasts: None,
            view: None,
            gravity: (0.0, 0.0),
            knobs: Vec::new(),
            spots: Vec::new(),
            zones: Vec::new(),
            state_names: Vec::new(),
            track_names: vec![String::new()],
            tapes: Vec::new(),
            inputs: Vec::new(),
            messages: Vec::new(),
            tags: Vec::new(),
            var_names: Vec::new(),
            kinds: vec![item::empty_kind("pond", Span::default(), Role::Pond)],
            places: Vec::new(),
            watches: Vec::new(),
            expects: Vec::new(),
            sites: Vec::new(),
        };
        Checker {
            program,
            reported: HashSet::new(),
            places: Places::default(),
            depth: 0,
            diagnostics,
            names: Names::default(),
            offset: 0,
            behaviors: Vec::new(),
            functions: Vec::new(),
            value_functions: Vec::new(),
            kind_uses: Vec::new(),
            muted_places: Vec::new(),
            values_of_kinds: HashSet::new(),
            remarks: Vec::new(),
            calls: Vec::new(),
            calls_made: 0,
            next_bound: 0,
            model: Model::default(),
            followed: HashSet::new(),
            quiet: 0,
        }
    }

    fn lower(&mut self, root: &Node) {
        let items: Vec<Node> = root.children().collect();
        self.header(root, &items);
        self.declare(&items);
        self.define(&items);
        // The view follows a kind, which must be known.
        self.view(&items);
        self.bodies(&items);
    }

    fn has_errors(&self) -> bool {
        self.diagnostics.iter().any(|d| d.severity == Severity::Error)
    }

    fn report(&mut self, diagnostic: Diagnostic) {
        if self.quiet > 0 {
            return;
        }
        // Mistakes inside a text's braces could be met twice; say each once.
        let said = (diagnostic.span, diagnostic.code, diagnostic.message.clone());
        if self.reported.insert(said) {
            self.diagnostics.push(diagnostic);
        }
    }

    /// Runs `inside` so many levels deeper; `None` if that is too deep, which is reported then.
    fn deeper<T>(
        &mut self,
        span: Span,
        levels: u32,
        inside: impl FnOnce(&mut Self) -> T,
    ) -> Option<T> {
        if self.depth + levels > MOST_DEEP {
            let message = "functions in functions go too deep here to be followed";
            let diagnostic = Diagnostic::new(Code::TooDeep, span, message)
                .with_help("let functions call fewer others, or give a part a variable of its own");
            if !self.diagnostics.iter().any(|d| d.code == Code::TooDeep) {
                self.report(diagnostic);
            }
            return None;
        }
        self.depth += levels;
        let done = inside(self);
        self.depth -= levels;
        Some(done)
    }

    fn error(&mut self, code: Code, span: Span, message: impl Into<String>) {
        self.report(Diagnostic::new(code, span, message));
    }

    fn span(&self, node: &Node) -> Span {
        self.shifted(node.text_range().into())
    }

    fn shifted(&self, span: Span) -> Span {
        Span { start: span.start + self.offset, end: span.end + self.offset }
    }

    fn site(&mut self, span: Span, kind: KindId, is_handler: bool) -> SiteId {
        self.program.sites.push(Site { span, kind, is_handler });
        SiteId(self.program.sites.len() as u32 - 1)
    }

    fn var_name(&mut self, name: &str) -> VarName {
        VarName(place_of(&mut self.places.vars, &mut self.program.var_names, name))
    }

    fn knob_values(&self) -> Vec<f64> {
        self.program.knobs.iter().map(|k| k.value).collect()
    }

    /// Reports a name nothing has, with the nearest that would do.
    fn unknown_name<'a>(
        &mut self,
        span: Span,
        name: &str,
        sort: &str,
        candidates: impl Iterator<Item = &'a str>,
    ) {
        let looked_at = candidates.take_while(|_| self.names.may_look_at(1));
        let near = crate::near::near_miss(name, looked_at);
        let mut diagnostic =
            Diagnostic::new(Code::UnknownName, span, format!("there is no {sort} `{name}`"));
        if let Some(near) = near {
            diagnostic =
                diagnostic.with_help(format!("did you mean `{near}`?")).with_mend(span, near);
        } else if let Some(declared) = declaration(sort, name) {
            diagnostic = diagnostic.with_help(declared);
        }
        self.report(diagnostic);
    }

    /// The symbol of a name, or an error that says what sort was wanted.
    fn symbol(&mut self, name: &str) -> Option<Symbol> {
        self.names.get(name)
    }
}

/// The text of a quoted token without its quotes and escapes.
pub(crate) fn unquote(text: &str) -> String {
    let inner = text.strip_prefix('"').unwrap_or(text);
    unescaped(inner.strip_suffix('"').unwrap_or(inner))
}

/// A text, or a part of one, without the backslashes before signs that would mean something else.
pub(crate) fn unescaped(inner: &str) -> String {
    let mut out = String::with_capacity(inner.len());
    let mut chars = inner.chars();
    while let Some(c) = chars.next() {
        match c {
            '\\' => out.extend(chars.next()),
            c => out.push(c),
        }
    }
    out
}

/// The first quoted text that stands directly in a node.
fn text_of(node: &Node) -> Option<String> {
    node.token(SyntaxKind::Text).map(|t| unquote(t.text()))
}
