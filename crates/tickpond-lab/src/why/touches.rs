//! Touches that do not happen: how near the two came, and what keeps them apart.

use tickpond_lang::program::{Body, KindId, Other, POND, Program};
use tickpond_sim::{Event, What, Who};

use super::{Asked, times};

/// Most pairs that are looked at in all ticks together.
const MOST_PAIRS: usize = 3_000_000;

/// How near two came.
struct Nearest {
    tick: u64,
    one: Who,
    other: Who,
    /// From middle to middle, in u.
    middles: f64,
    /// From rim to rim, in u; as little as it can have been for boxes.
    gap: f64,
}

impl Asked<'_> {
    /// Tells why a kind did not touch others.
    pub(super) fn touch(
        &mut self,
        program: &Program,
        kind: KindId,
        other: &Other,
        lines: &mut Vec<String>,
    ) {
        let name = |kind: KindId| program.kinds[kind.index()].name.as_str();
        let touched = |event: &&Event| {
            event.what == What::Touched
                && event.other.is_some_and(|with| {
                    (event.who.kind == kind && other.kinds.contains(&with.kind))
                        || (with.kind == kind && other.kinds.contains(&event.who.kind))
                })
        };
        let count = self.window().filter(touched).count();
        let last = self.window().filter(touched).last().map(|event| self.at(event.tick));
        if let Some(last) = last {
            lines.push(format!("in this time they began to touch {}", times(count, &last)));
        }
        let own = &program.kinds[kind.index()];
        if matches!(own.body, Body::None) {
            lines.push(format!("a `{}` has no body: it touches nothing", own.name));
            return;
        }
        let mut can = Vec::new();
        for id in &other.kinds {
            let with = &program.kinds[id.index()];
            if matches!(with.body, Body::None) {
                lines.push(format!("a `{}` has no body", with.name));
            } else if own.matter.passes.contains(id) {
                lines.push(format!("a `{}` passes `{}`", own.name, with.name));
            } else if with.matter.passes.contains(&kind) {
                lines.push(format!("a `{}` passes `{}`", with.name, own.name));
            } else if *id != POND {
                can.push(*id);
            }
        }
        if other.but_maker {
            lines.push("its maker is left out".into());
        }
        if let Some(filter) = &other.filter {
            let text = &program.text[filter.span.range()];
            lines.push(format!("only of those counts a touch of whom this holds: {text}"));
        }
        for id in std::iter::once(&kind).chain(&can) {
            let columns = &self.run.state().kinds[id.index()];
            let resting = (0..columns.len()).filter(|row| !columns.is_active(*row)).count();
            if resting > 0 {
                let all = columns.len();
                lines.push(format!(
                    "{resting} of {all} {} are inactive: they touch nothing",
                    name(*id)
                ));
            }
        }
        if can.is_empty() {
            return;
        }
        match self.nearest(program, kind, &can) {
            Ok(Some(near)) => {
                let about = match (own.body, program.kinds[near.other.kind.index()].body) {
                    (Body::Circle { .. }, Body::Circle { .. }) => "",
                    _ => "at least ",
                };
                let apart = match near.gap {
                    gap if gap > 0.0 => format!("{about}{gap:.2} u from rim to rim"),
                    _ => "their bodies met".to_string(),
                };
                lines.push(format!(
                    "nearest: {} and {} at {}, {:.2} u from middle to middle, {apart}",
                    self.name(near.one),
                    self.name(near.other),
                    self.at(near.tick),
                    near.middles
                ));
                self.birth(&near, lines);
            }
            Ok(None) => lines.push("never two of them were there at once in this time".into()),
            Err(()) => lines.push("there are too many of them to tell how near they came".into()),
        }
    }

    /// The maker of one is told if it was the other: some kinds leave it out.
    fn birth(&self, near: &Nearest, lines: &mut Vec<String>) {
        let state = self.run.state();
        for (one, other) in [(near.one, near.other), (near.other, near.one)] {
            let Some((kind, row)) = state.find(one.id) else { continue };
            if state.who(state.kinds[kind.index()].maker[row]) == Some(other) {
                lines.push(format!("{} was made by {}", self.name(one), self.name(other)));
            }
        }
    }

    /// How near any two of them came in the ticks that are looked at.
    fn nearest(
        &mut self,
        program: &Program,
        kind: KindId,
        others: &[KindId],
    ) -> Result<Option<Nearest>, ()> {
        let chosen = self.chosen;
        let live = |kind: KindId| self.run.state().kinds[kind.index()].len().max(1);
        let own = if chosen.is_some() { 1 } else { live(kind) };
        let pairs: usize = others.iter().map(|other| own * live(*other)).sum();
        if pairs > MOST_PAIRS {
            return Err(());
        }
        let tick = self.run.tick();
        let from = self.from.max(tick.saturating_sub((MOST_PAIRS / pairs.max(1)) as u64));
        let reach = |kind: KindId| program.kinds[kind.index()].body.reach();
        let mut nearest: Option<Nearest> = None;
        self.run.look_back(from, |run| {
            let state = run.state();
            let a = &state.kinds[kind.index()];
            for row in 0..a.len() {
                let one = state.who_at(kind, row);
                if chosen.is_some_and(|who| who.number != one.number) {
                    continue;
                }
                for other in others {
                    let b = &state.kinds[other.index()];
                    for with in 0..b.len() {
                        if *other == kind && with == row {
                            continue;
                        }
                        let places = ((a.x[row], a.y[row]), (b.x[with], b.y[with]));
                        let arena = &run.program().arena;
                        let (dx, dy) = tickpond_sim::space::offset(arena, places.0, places.1);
                        let middles = dx.hypot(dy);
                        let gap = middles - reach(kind) - reach(*other);
                        if nearest.as_ref().is_none_or(|known| gap < known.gap) {
                            let other = state.who_at(*other, with);
                            nearest = Some(Nearest { tick: run.tick(), one, other, middles, gap });
                        }
                    }
                }
            }
        });
        Ok(nearest)
    }
}
