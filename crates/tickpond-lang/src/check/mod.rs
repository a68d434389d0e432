//! Tree to checked program: names, types, units, then findings.
//!
//! No step stops at the first mistake. A part that cannot be understood gets the type
//! [`Ty::Unknown`], which agrees with everything, so that one mistake gives one message.

mod act;
mod behavior;
mod birth;
mod chance;
mod checker;
mod compare;
mod constants;
mod empty;
mod event;
mod expect;
mod expr;
mod findings;
mod fit;
mod function;
mod guarded;
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
mod quoted;
mod scope;
mod states;
mod stmt;
mod tape;
mod unmet;

use std::sync::Arc;

use checker::Checker;
use guarded::guarded;

use crate::diagnostic::{Code, Diagnostic, Severity, Span};
use crate::model::Model;
use crate::parse;
use crate::program::*;

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

/// Compiles a pond. Never fails and never panics: mistakes are in the diagnostics, faults of the compiler among them.
pub fn compile(text: &str) -> Compilation {
    guarded(|| check(text).finish(text)).unwrap_or_else(failed)
}

fn failed(fault: Diagnostic) -> Compilation {
    Compilation { program: None, diagnostics: vec![fault], accepted: Vec::new() }
}

/// Compiles a pond and tells what its names mean: every name that can be resolved, with mistakes elsewhere in the text,
/// and in functions and behaviours that nothing uses, too. Costs one compilation; two where something is unused.
pub fn understand(text: &str) -> (Compilation, Model) {
    guarded(|| understood(text)).unwrap_or_else(|fault| (failed(fault), Model::default()))
}

fn understood(text: &str) -> (Compilation, Model) {
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
