//! The state of a compilation, and what every part of it needs.

use std::collections::{HashMap, HashSet};

use super::names::{Names, Symbol};
use super::{empty, scope};

use crate::diagnostic::{Code, Diagnostic, Severity, Span};
use crate::lines::LineIndex;
use crate::model::Model;
use crate::program::*;
use crate::syntax::Node;

/// How deep blocks, values and functions may be in one another once functions are taken in, in levels: all that walks
/// a program goes as deep, and the stack of a thread must hold it.
const MOST_DEEP: u32 = 600;
/// How many levels a value in another takes, and a block in another.
pub(super) const VALUE_LEVELS: u32 = 1;
pub(super) const BLOCK_LEVELS: u32 = 5;

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
pub(super) struct Places {
    pub(super) vars: HashMap<String, u32>,
    pub(super) states: HashMap<String, u32>,
    /// By kind and variable: where it was declared.
    pub(super) declared: HashMap<(KindId, VarName), Span>,
    /// By kind and name: where a mount was declared.
    pub(super) mounts: HashMap<(KindId, String), Span>,
    /// By kind, behaviour, state and head: where the first handler stands.
    pub(super) heads: HashMap<(KindId, String, Option<InState>, String), Span>,
}

/// The place of a name in a list; it is added if it is new.
pub(super) fn place_of(
    places: &mut HashMap<String, u32>,
    names: &mut Vec<String>,
    name: &str,
) -> u32 {
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
    pub(super) program: Program,
    pub(super) diagnostics: Vec<Diagnostic>,
    /// What has been reported: each is said once.
    pub(super) reported: HashSet<(Span, Code, String)>,
    /// The places of names in the program's lists.
    pub(super) places: Places,
    /// How deep blocks, values and functions are in one another here.
    pub(super) depth: u32,
    pub(super) names: Names,
    /// What parts of texts add to their spans: they are parsed on their own.
    pub(super) offset: u32,
    /// How many taps the tapes have so far.
    pub(super) taps: u64,
    pub(super) behaviors: Vec<Node>,
    pub(super) functions: Vec<Node>,
    pub(super) value_functions: Vec<Node>,
    /// The behaviours each kind uses.
    pub(super) kind_uses: Vec<(KindId, Vec<(scope::Part, Node)>)>,
    /// What is placed on lines that are muted.
    pub(super) muted_places: Vec<Placed>,
    /// Names of parameters and variables whose values are kinds.
    pub(super) values_of_kinds: HashSet<String>,
    /// Findings on what the program does not hold.
    pub(super) remarks: Vec<Diagnostic>,
    /// Functions being taken in, outermost first.
    pub(super) calls: Vec<String>,
    pub(super) calls_made: usize,
    pub(super) next_bound: u32,
    /// What the names mean, as far as they have been resolved.
    pub(super) model: Model,
    /// Functions and behaviours whose bodies have been looked at.
    pub(super) followed: HashSet<String>,
    /// Whether mistakes are left unsaid, and how often that has been asked for.
    pub(super) quiet: u32,
}

impl Checker {
    pub(super) fn new(text: &str, diagnostics: Vec<Diagnostic>) -> Checker {
        let program = Program {
            text: text.into(),
            lines: LineIndex::new(text),
            title: String::new(),
            arena: empty::default_arena(),
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
            kinds: vec![empty::empty_kind("pond", Span::default(), Role::Pond)],
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
            taps: 0,
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

    pub(super) fn lower(&mut self, root: &Node) {
        let items: Vec<Node> = root.children().collect();
        self.header(root, &items);
        self.declare(&items);
        self.define(&items);
        // The view follows a kind, which must be known.
        self.view(&items);
        self.bodies(&items);
    }

    pub(super) fn has_errors(&self) -> bool {
        self.diagnostics.iter().any(|d| d.severity == Severity::Error)
    }

    pub(super) fn report(&mut self, diagnostic: Diagnostic) {
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
    pub(super) fn deeper<T>(
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

    pub(super) fn error(&mut self, code: Code, span: Span, message: impl Into<String>) {
        self.report(Diagnostic::new(code, span, message));
    }

    pub(super) fn span(&self, node: &Node) -> Span {
        self.shifted(node.text_range().into())
    }

    pub(super) fn shifted(&self, span: Span) -> Span {
        Span { start: span.start + self.offset, end: span.end + self.offset }
    }

    pub(super) fn site(&mut self, span: Span, kind: KindId, is_handler: bool) -> SiteId {
        self.program.sites.push(Site { span, kind, is_handler });
        SiteId(self.program.sites.len() as u32 - 1)
    }

    pub(super) fn var_name(&mut self, name: &str) -> VarName {
        VarName(place_of(&mut self.places.vars, &mut self.program.var_names, name))
    }

    pub(super) fn knob_values(&self) -> Vec<f64> {
        self.program.knobs.iter().map(|k| k.value).collect()
    }

    /// Reports a name nothing has, with the nearest that would do.
    pub(super) fn unknown_name<'a>(
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
    pub(super) fn symbol(&mut self, name: &str) -> Option<Symbol> {
        self.names.get(name)
    }
}
