//! Tapes: input written down.

use super::checker::Checker;
use super::names::Symbol;
use super::quoted::text_of;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};
use crate::tree;
use crate::units::{Dim, grouped};

/// Most taps of all tapes of a pond together.
const MOST_TAPS: u64 = 100_000;

impl Checker {
    pub(super) fn tape(&mut self, item: &Node) {
        let name = text_of(item).unwrap_or_default();
        if self.program.tapes.iter().any(|t| t.name == name) {
            let span = self.first_line(item);
            self.error(Code::Twice, span, format!("there are two tapes \"{name}\""));
        }
        let steps = item.children_of(S::TapeStep).filter_map(|n| self.tape_step(&n)).collect();
        self.program.tapes.push(Tape { name, played: tree::Tape(item).is_played(), steps });
    }

    pub(super) fn tape_step(&mut self, node: &Node) -> Option<TapeStep> {
        let token = node.name()?;
        let input = self.input_of(&token)?;
        let pointer = self.program.inputs[input.index()].pointer;
        let mut exprs = node.exprs();
        let at = self.tape_time(exprs.next())?;
        if pointer != tree::TapeStep(node).is_move() {
            let sort =
                if pointer { "a pointer: it is moved" } else { "a key: it is tapped or held" };
            let message = format!("`{}` is {sort}", token.text());
            self.error(Code::WrongSort, self.shifted(token.text_range().into()), message);
            return None;
        }
        let act = if tree::TapeStep(node).is_move() {
            TapeAct::Move { to: self.constant_place(exprs.next())? }
        } else if tree::TapeStep(node).is_hold() {
            let until = self.tape_time(exprs.next())?;
            if until <= at {
                let diagnostic = Diagnostic::new(
                    Code::OutOfRange,
                    self.first_line(node),
                    "this holds for no time",
                )
                .with_help("the second time must be later than the first");
                self.report(diagnostic);
            }
            TapeAct::Hold { until }
        } else {
            let times = match exprs.next() {
                Some(node) => self.constant_of(Some(node), &Ty::Num(Dim::NONE))?,
                None => 1.0,
            };
            let every = match exprs.next() {
                Some(node) => self.tape_time(Some(node))?,
                None => 1,
            };
            let most = 100_000.0;
            if !(1.0..=most).contains(&times) || times.fract() != 0.0 {
                let message = "taps are a whole number from 1 to 100_000";
                self.error(Code::OutOfRange, self.first_line(node), message);
                return None;
            }
            let so_far = self.taps;
            self.taps += times as u64;
            if self.taps > MOST_TAPS {
                // Told once: what comes behind is too much, too.
                if so_far <= MOST_TAPS {
                    let message = format!(
                        "the tapes of this pond have more than {} taps together",
                        grouped(MOST_TAPS)
                    );
                    let diagnostic =
                        Diagnostic::new(Code::OutOfRange, self.first_line(node), message)
                            .with_help("tap less often, or hold the key");
                    self.report(diagnostic);
                }
                return None;
            }
            TapeAct::Tap { times: times as u32, every: every.max(1) }
        };
        Some(TapeStep { input, at, act })
    }

    /// A time of a tape in ticks, at least 1: tick 0 is the opening, and no input comes to it.
    fn tape_time(&mut self, node: Option<Node>) -> Option<u64> {
        let node = node?;
        let span = self.span(&node);
        let value = self.expr(&node, &mut Scope::reading(POND));
        let value = self.wants(value, &Ty::Num(Dim::TIME));
        if value.ty == Ty::Unknown {
            return None;
        }
        let Some(seconds) = constant(&value, &self.knob_values()) else {
            self.error(Code::WrongType, span, "a time of a tape is known before play");
            return None;
        };
        Some(self.program.ticks(seconds))
    }

    pub(super) fn expect_tape(&mut self, item: &Node) -> Option<String> {
        let node = item.child(S::OnTape)?;
        let name = text_of(&node)?;
        if !self.program.tapes.iter().any(|t| t.name == name) {
            let tapes = self.program.tapes.iter();
            let may_look = self.names.may_look_at(tapes.len());
            let tapes: Vec<String> = tapes.filter(|_| may_look).map(|t| t.name.clone()).collect();
            let span = self.span(&node);
            let mut diagnostic =
                Diagnostic::new(Code::UnknownName, span, format!("there is no tape \"{name}\""));
            if let Some(near) = crate::near::near_miss(&name, tapes.iter().map(String::as_str)) {
                diagnostic = diagnostic.with_help(format!("did you mean \"{near}\"?"));
            }
            self.report(diagnostic);
        }
        Some(name)
    }

    /// A zone's place and size.
    pub(super) fn zone(&mut self, item: &Node) {
        let Some(token) = item.name() else { return };
        let Some(Symbol::Zone(id)) = self.names.get(token.text()) else { return };
        let mut exprs = item.exprs();
        let Some(at) = self.constant_place(exprs.next()) else { return };
        let sizes: Vec<f64> = exprs.filter_map(|e| self.constant_length(Some(e))).collect();
        if sizes.iter().any(|s| *s <= 0.0) {
            let span = self.span(item);
            self.error(Code::Impossible, span, "a zone's sizes are above 0 u");
        }
        let shape = match sizes[..] {
            [radius] => ZoneShape::Circle { at, radius },
            [width, height] => ZoneShape::Box { low: at, high: (at.0 + width, at.1 + height) },
            _ => return,
        };
        self.program.zones[id.index()].shape = shape;
    }
}
