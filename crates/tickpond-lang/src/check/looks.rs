//! What a kind looks like and what its body is.

use super::checker::Checker;
use super::quoted::unquote;
use crate::diagnostic::{Code, Diagnostic};
use crate::model::Sort;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};
use crate::tree;
use crate::units::Dim;
use crate::words::COLOURS;

impl Checker {
    pub(super) fn look(&mut self, look: &Node, id: KindId) {
        let Some(token) = look.token(S::Text) else { return };
        let text = unquote(token.text());
        let mut chars = text.chars();
        let glyph = chars.next();
        let wide = glyph.is_some_and(|c| unicode_width::UnicodeWidthChar::width(c) != Some(1));
        if glyph.is_none() || chars.next().is_some() || wide {
            let diagnostic = Diagnostic::new(
                Code::OutOfRange,
                token.text_range(),
                "a look is one character, one cell wide",
            )
            .with_help("write for example `look \"∙\"`");
            self.report(diagnostic);
        }
        let colour = look.name();
        if let Some(colour) = &colour {
            let span = self.token_span(colour);
            self.note_word(span, Sort::Word);
        }
        if let Some(colour) = &colour
            && !COLOURS.contains(&colour.text())
        {
            let span = colour.text_range().into();
            self.unknown_name(span, colour.text(), "colour", COLOURS.iter().copied());
        }
        let colour = colour.map(|t| t.text().to_string());
        self.program.kinds[id.index()].look = Look { glyph, colour };
    }

    pub(super) fn body(&mut self, line: &Node, id: KindId) {
        let sizes: Vec<Option<f64>> = line.exprs().map(|e| self.constant_length(Some(e))).collect();
        let options: Vec<Node> = line.children_of(S::BodyOption).collect();
        let said = || options.iter().map(tree::BodyOption);
        let solid = said().any(|option| option.is_solid());
        let upright = said().any(|option| option.is_upright());
        let shape = tree::BodyLine(line);
        let body = match (shape.is_circle(), shape.is_box(), &sizes[..]) {
            (true, _, [Some(radius)]) => Body::Circle { radius: *radius },
            (_, true, [Some(width), Some(height)]) => {
                Body::Box { half: (width / 2.0, height / 2.0), upright }
            }
            _ => Body::None,
        };
        let flat = match body {
            Body::None => false,
            Body::Circle { radius } => radius <= 0.0,
            Body::Box { half, .. } => half.0 <= 0.0 || half.1 <= 0.0,
        };
        if flat {
            let span = self.span(line);
            self.error(Code::Impossible, span, "a body's sizes are above 0 u");
        }
        if solid && said().any(|option| option.is_sensor()) {
            let span = self.span(line);
            self.error(Code::Twice, span, "a body is a sensor or solid, not both");
        }
        if solid && shape.is_none() {
            let span = self.span(line);
            self.error(Code::Impossible, span, "what has no body cannot be solid");
        }
        let mut matter = Matter {
            solid,
            fixed: said().any(|option| option.is_fixed()),
            upright,
            weightless: said().any(|option| option.is_weightless()),
            ..Matter::default()
        };
        for option in &options {
            self.body_option(option, &mut matter);
            let says = tree::BodyOption(option);
            let words = [("bounce", says.is_bounce()), ("friction", says.is_friction())];
            let word = words.into_iter().find(|(_, said)| *said).map(|(word, _)| word);
            if let Some(word) = word.filter(|_| !matter.solid) {
                let span = self.span(option);
                let message = format!(
                    "only a solid has `{word}`: a sensor pushes nobody and nobody pushes it"
                );
                let finding = Diagnostic::new(Code::SensorBounces, span, message)
                    .with_help(format!("add `solid` to the body, or remove `{word}`"));
                self.remarks.push(finding);
            }
        }
        let kind = &mut self.program.kinds[id.index()];
        kind.body = body;
        kind.drifts |= matter.solid && !matter.fixed;
        kind.matter = matter;
    }

    fn body_option(&mut self, option: &Node, matter: &mut Matter) {
        if let Some(set) = option.child(S::KindSet) {
            matter.passes.extend(self.kind_set(&set));
            matter.passes.sort();
            matter.passes.dedup();
            return;
        }
        let says = tree::BodyOption(option);
        let is_drag = says.is_drag();
        let ty = Ty::Num(if is_drag { Dim::RATE } else { Dim::NONE });
        let Some(value) = option.expr().and_then(|n| self.constant_of(Some(n), &ty)) else {
            return;
        };
        // More than all of the speed would come back: each bounce would be harder than the one before.
        let (cell, range, bounds) = match () {
            () if says.is_bounce() => (&mut matter.bounce, 0.0..=1.0, "0 % to 100 %"),
            () if says.is_friction() => (&mut matter.friction, 0.0..=1.0e6, "0 % up to 1_000_000"),
            () if is_drag => (&mut matter.drag, 0.0..=1.0e6, "0 to 1_000_000 per s"),
            () => (&mut matter.weight, 1.0e-6..=1.0e6, "0.000_001 to 1_000_000"),
        };
        if range.contains(&value) {
            *cell = value;
        } else {
            let message = format!("this is out of its range, {bounds}");
            self.error(Code::OutOfRange, self.span(option), message);
        }
    }
}
