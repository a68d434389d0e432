//! The pond's header: arena, edges, rate, limit.

use super::checker::Checker;
use super::quoted::text_of;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt};
use crate::tree::{self, Origin};
use crate::units::{Dim, grouped};

/// Largest width or height of an arena in u.
const LARGEST_ARENA: f64 = 1.0e6;
/// Largest entity limit.
const LARGEST_LIMIT: f64 = 5.0e6;

impl Checker {
    pub(super) fn header(&mut self, root: &Node, items: &[Node]) {
        let mut headers = items.iter().filter(|n| n.kind() == S::Header);
        let Some(header) = headers.next() else {
            if items.is_empty() && !self.has_errors() {
                let diagnostic =
                    Diagnostic::new(Code::Impossible, self.span(root), "this pond is empty")
                        .with_help("begin with `pond \"My pond\" { arena 160 x 90 }`");
                self.report(diagnostic);
            } else if !self.has_errors() {
                let diagnostic = Diagnostic::new(
                    Code::Impossible,
                    crate::diagnostic::Span { start: 0, end: 0 },
                    "the pond has no header",
                )
                .with_help("begin with `pond \"My pond\" { arena 160 x 90 }`");
                self.report(diagnostic);
            }
            return;
        };
        if let Some(second) = headers.next() {
            let diagnostic =
                Diagnostic::new(Code::Twice, self.span(second), "a pond has one header")
                    .with_label(self.span(header), "the first is here");
            self.report(diagnostic);
        }
        self.program.title = text_of(header).unwrap_or_default();
        let mut seen: Vec<S> = Vec::new();
        for line in header.children() {
            if seen.contains(&line.kind()) && line.kind() != S::Broken {
                self.error(Code::Twice, self.span(&line), "this stands in the header twice");
            }
            seen.push(line.kind());
            // Units such as ticks need the rate first.
            if line.kind() == S::RateLine {
                self.rate(&line);
            }
        }
        for line in header.children() {
            match line.kind() {
                S::ArenaLine => self.arena(&line),
                S::EdgesLine => self.edges(&line),
                S::LimitLine => self.limits(&line),
                S::LastsLine => self.lasts(&line),
                S::GravityLine => self.gravity(&line),
                _ => {}
            }
        }
    }

    fn rate(&mut self, line: &Node) {
        let Some(rate) = self.constant_of(line.expr(), &Ty::Num(Dim::RATE)) else { return };
        if (1.0..=1000.0).contains(&rate) {
            self.program.rate = rate;
        } else {
            let diagnostic = Diagnostic::new(
                Code::Impossible,
                self.span(line),
                format!("a rate of {rate} ticks per second cannot be played"),
            )
            .with_help("write a rate from `1 per s` to `1000 per s`; 60 is common");
            self.report(diagnostic);
        }
    }

    fn limits(&mut self, line: &Node) {
        // The others grow with the number of entities.
        let mut parts: Vec<Node> = line.children_of(S::LimitPart).collect();
        parts.sort_by_key(|part| !tree::LimitPart(part).is_of_entities());
        let mut seen: Vec<String> = Vec::new();
        for part in parts {
            let words = tree::LimitPart(&part).words();
            if seen.contains(&words) {
                self.error(Code::Twice, self.span(&part), "this limit is set twice");
                continue;
            }
            seen.push(words.clone());
            let Some(limit) = self.constant_of(part.expr(), &Ty::Num(Dim::NONE)) else { continue };
            let most = match words.as_str() {
                "rounds" => 1000.0,
                "steps" => 1.0e8,
                "steps per tick" => 1.0e9,
                "messages per tick" | "requests per tick" => 1.0e8,
                "text per tick" => 1.0e9,
                "looks per tick" => 1.0e12,
                "touches" => 1.0e7,
                _ => LARGEST_LIMIT,
            };
            if !(1.0..=most).contains(&limit) || limit.fract() != 0.0 {
                let diagnostic = Diagnostic::new(
                    Code::Impossible,
                    self.span(&part),
                    "this limit cannot be kept",
                )
                .with_help(format!("write a whole number from 1 to {}", grouped(most as u64)));
                self.report(diagnostic);
                continue;
            }
            let limits = &mut self.program.limits;
            match words.as_str() {
                "births per tick" => limits.births = limit as u64,
                "births waiting" => limits.waiting = limit as u64,
                "rounds" => limits.rounds = limit as u32,
                "steps" => limits.steps = limit as u32,
                "steps per tick" => limits.steps_in_all = limit as u64,
                "messages per tick" => limits.letters = limit as u64,
                "requests per tick" => limits.requests = limit as u64,
                "text per tick" => limits.text = limit as u64,
                "looks per tick" => limits.looks = limit as u64,
                "touches" => limits.touches = limit as u64,
                _ => *limits = Limits::for_entities(limit as usize),
            }
        }
    }

    /// `lasts 90 s`
    fn lasts(&mut self, line: &Node) {
        let Some(time) = self.constant_of(line.expr(), &Ty::Num(Dim::TIME)) else { return };
        let ticks = time * self.program.rate;
        if (0.5..=1.0e8).contains(&ticks) {
            self.program.lasts = Some(ticks.round() as u64);
        } else {
            let message = "a run lasts from 1 to 100_000_000 ticks";
            self.error(Code::OutOfRange, self.span(line), message);
        }
    }

    fn gravity(&mut self, line: &Node) {
        let Some(node) = line.expr() else { return };
        let pull = self.expr(&node, &mut Scope::reading(POND));
        let pull = self.wants(pull, &Ty::Pair(Dim::ACCELERATION));
        let ExprKind::Pair(x, y) = &pull.kind else { return };
        match (constant(x, &[]), constant(y, &[])) {
            (Some(x), Some(y)) => self.program.gravity = (x, y),
            _ => {
                let message = "gravity is known before play, so it cannot depend on a knob";
                self.error(Code::WrongType, self.span(&node), message);
            }
        }
    }

    /// `view 80 x 45 follows frog at (40, 20)`
    pub(super) fn view(&mut self, items: &[Node]) {
        let header = items.iter().find(|n| n.kind() == S::Header);
        let Some(line) = header.and_then(|h| h.child(S::ViewLine)) else { return };
        let mut exprs = line.exprs();
        let mut side = || exprs.next();
        let (width, height, at) = (side(), side(), side());
        let (Some(width), Some(height)) =
            (self.constant_length(width), self.constant_length(height))
        else {
            return;
        };
        if width <= 0.0 || height <= 0.0 {
            self.error(Code::Impossible, self.span(&line), "a view's sides are above 0 u");
            return;
        }
        let arena = &self.program.arena;
        let middle = ((arena.low.0 + arena.high.0) / 2.0, (arena.low.1 + arena.high.1) / 2.0);
        let at = at.and_then(|n| self.constant_place(Some(n))).unwrap_or(middle);
        let follows = line.name().and_then(|token| match self.symbol_at(&token) {
            Some(super::names::Symbol::Kind(id)) => {
                self.names.used(token.text());
                Some(id)
            }
            _ => {
                let kinds = self.names.of(|s| matches!(s, super::names::Symbol::Kind(_)));
                let span = token.text_range().into();
                self.unknown_name(span, token.text(), "kind", kinds.iter().map(String::as_str));
                None
            }
        });
        self.program.view = Some(View { half: (width / 2.0, height / 2.0), at, follows });
    }

    fn arena(&mut self, line: &Node) {
        let sizes: Vec<Option<f64>> = line.exprs().map(|e| self.constant_length(Some(e))).collect();
        let [Some(width), Some(height)] = sizes[..] else { return };
        let possible = |size: f64| size > 0.0 && size <= LARGEST_ARENA;
        if !possible(width) || !possible(height) {
            let diagnostic = Diagnostic::new(
                Code::Impossible,
                self.span(line),
                format!("an arena of {width} x {height} u holds nothing that can be played"),
            )
            .with_help("both sides must be above 0 and at most 1_000_000 u");
            self.report(diagnostic);
            return;
        }
        let arena = &mut self.program.arena;
        arena.y_up = !tree::ArenaLine(line).goes_down();
        arena.low = (0.0, 0.0);
        arena.high = (width, height);
        let natural = if arena.y_up { Side::Bottom } else { Side::Top };
        match tree::ArenaLine(line).origin() {
            // What is no origin the parser has told of.
            None => {}
            Some(Origin::Middle) => {
                arena.low = (-width / 2.0, -height / 2.0);
                arena.high = (width / 2.0, height / 2.0);
            }
            Some(Origin::Corner(up, across)) => {
                if up != natural {
                    arena.low.1 = -height;
                    arena.high.1 = 0.0;
                }
                if across == Side::Right {
                    arena.low.0 = -width;
                    arena.high.0 = 0.0;
                }
            }
        }
    }

    fn edges(&mut self, line: &Node) {
        for rule in line.children_of(S::EdgeRule) {
            let Some(edge) = tree::EdgeRule(&rule).edge() else { continue };
            let mut sides = tree::EdgeRule(&rule).sides();
            if sides.is_empty() {
                // An edge rule without a side is for all those not named elsewhere.
                let named: Vec<Side> = line
                    .children_of(S::EdgeRule)
                    .flat_map(|rule| tree::EdgeRule(&rule).sides())
                    .collect();
                sides = vec![Side::Left, Side::Right, Side::Top, Side::Bottom];
                sides.retain(|side| !named.contains(side));
            }
            let y_up = self.program.arena.y_up;
            let edges = &mut self.program.arena.edges;
            for side in sides {
                match (side, y_up) {
                    (Side::Left, _) => edges.left = edge,
                    (Side::Right, _) => edges.right = edge,
                    (Side::Top, true) | (Side::Bottom, false) => edges.high = edge,
                    (Side::Top, false) | (Side::Bottom, true) => edges.low = edge,
                }
            }
        }
        let edges = self.program.arena.edges;
        let half_wrapped = |a: Edge, b: Edge| (a == Edge::Wrap) != (b == Edge::Wrap);
        if half_wrapped(edges.left, edges.right) || half_wrapped(edges.low, edges.high) {
            let diagnostic = Diagnostic::new(
                Code::Impossible,
                self.span(line),
                "an edge can only wrap together with the one opposite",
            )
            .with_help("write `wrap left right` or `wrap top bottom`");
            self.report(diagnostic);
        }
        for part in line.children_of(S::WallPart) {
            let Some(share) = self.constant_of(part.expr(), &Ty::Num(Dim::NONE)) else { continue };
            let is_bounce = tree::WallPart(&part).is_bounce();
            let most = if is_bounce { 1.0 } else { 10.0 };
            if !(0.0..=most).contains(&share) {
                let most = if is_bounce { "100 %" } else { "1000 %" };
                let message = format!("what a wall has of this is `0 %` to `{most}`");
                self.error(Code::OutOfRange, self.span(&part), message);
            } else if is_bounce {
                self.program.arena.bounce = share;
            } else {
                self.program.arena.friction = share;
            }
        }
        let walls = [edges.left, edges.right, edges.low, edges.high].contains(&Edge::Wall);
        if let Some(part) = line.children_of(S::WallPart).next().filter(|_| !walls) {
            let message = "no edge of this arena is a wall";
            self.error(Code::Impossible, self.span(&part), message);
        }
        if let Some(margin) = line.expr().and_then(|e| self.constant_length(Some(e))) {
            if margin < 0.0 {
                self.error(Code::OutOfRange, self.span(line), "a margin is 0 u or more");
            } else {
                self.program.arena.margin = margin;
            }
        }
    }
}
