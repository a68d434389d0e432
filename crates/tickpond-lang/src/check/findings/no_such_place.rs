//! F0627: a condition on the place of a birth that no place meets: nothing is ever born there.

use crate::diagnostic::{Code, Diagnostic};
use crate::program::walk;
use crate::program::*;

pub(super) fn find(program: &Program) -> Vec<Diagnostic> {
    let mut found: Vec<Diagnostic> = Vec::new();
    let asked = walk::births(program).into_iter().map(|(_, _, birth, site)| (birth, site));
    let placed = program.places.iter().map(|placed| (&placed.birth, placed.site));
    for (birth, site) in asked.chain(placed) {
        for filter in &birth.filters {
            let Some((span, why)) = never(program, birth, filter) else { continue };
            let span = span.unwrap_or(program.sites[site.index()].span);
            let message = format!("no place meets this condition: {why}");
            found.push(
                Diagnostic::new(Code::NoSuchPlace, span, message)
                    .with_help("make the distance smaller, or choose the place otherwise"),
            );
        }
    }
    found
}

/// Why a condition never holds, and where that is told.
fn never(
    program: &Program,
    birth: &Birth,
    filter: &Filter,
) -> Option<(Option<crate::diagnostic::Span>, String)> {
    let knobs: Vec<f64> = program.knobs.iter().map(|k| k.value).collect();
    let arena = &program.arena;
    let (width, height) = arena.size();
    match filter {
        Filter::NotInView(wider) => {
            let view = program.view.as_ref()?;
            let wider = wider.as_ref().map_or(Some(0.0), |e| constant(e, &knobs))?;
            let (w, h) = (2.0 * (view.half.0 + wider), 2.0 * (view.half.1 + wider));
            // A view that moves shows all of the arena only if it is twice as large.
            let needed = if view.follows.is_some() { 2.0 } else { 1.0 };
            let centred = view.follows.is_some() || view.at == arena.middle();
            let chosen = !matches!(
                birth.place,
                Where::Point(_)
                    | Where::Entity(_)
                    | Where::Mount(_)
                    | Where::Here
                    | Where::Spots(..)
            );
            (chosen && centred && w >= needed * width && h >= needed * height)
                .then(|| (None, "the view shows the whole arena".into()))
        }
        Filter::NotNearPlace(distance, from) => {
            let far = constant(distance, &knobs)?;
            let ExprKind::Pair(x, y) = &from.kind else {
                return (far >= width.hypot(height) && is_chosen(&birth.place))
                    .then(|| (Some(distance.span), format!("the whole arena is within {far} u")));
            };
            let at = (constant(x, &knobs)?, constant(y, &knobs)?);
            // The farthest there can be from it, and from where.
            let farthest = match &birth.place {
                Where::Point(place) => {
                    let ExprKind::Pair(px, py) = &place.kind else { return None };
                    way(arena, at, (constant(px, &knobs)?, constant(py, &knobs)?))
                }
                Where::Spots(group, _) => {
                    let spots = program.spots[group.index()].spots.iter();
                    spots.map(|spot| way(arena, at, spot.at)).fold(0.0, f64::max)
                }
                place if is_chosen(place) => {
                    let corners = [arena.low.0, arena.high.0]
                        .into_iter()
                        .flat_map(|x| [(x, arena.low.1), (x, arena.high.1)]);
                    corners
                        .map(|corner| way(arena, at, corner))
                        .fold(0.0, f64::max)
                        .max(halfway(arena))
                }
                _ => return None,
            };
            (far > farthest)
                .then(|| (Some(distance.span), format!("all of them are within {far} u of there")))
        }
        Filter::NotNearKinds(distance, kinds) => {
            let far = constant(distance, &knobs)?;
            let across = if arena.edges.left == Edge::Wrap { width / 2.0 } else { width };
            let along = if arena.edges.low == Edge::Wrap { height / 2.0 } else { height };
            let name = &program.kinds[kinds.first()?.index()].name;
            (far > across.hypot(along) && is_chosen(&birth.place)).then(|| {
                (
                    Some(distance.span),
                    format!("while there is a `{name}`, the whole arena is within {far} u of it"),
                )
            })
        }
        Filter::ClearOfSolid => None,
    }
}

/// Whether the place is one of the arena, chosen by chance.
fn is_chosen(place: &Where) -> bool {
    matches!(place, Where::Anywhere | Where::InZone(_) | Where::Edge(_))
}

/// The distance between two places, the shortest way on wrapped axes.
fn way(arena: &Arena, a: (f64, f64), b: (f64, f64)) -> f64 {
    let (width, height) = arena.size();
    let short = |way: f64, length: f64, edge: Edge| match edge {
        Edge::Wrap => (way.abs() % length).min(length - way.abs() % length),
        _ => way.abs(),
    };
    short(a.0 - b.0, width, arena.edges.left).hypot(short(a.1 - b.1, height, arena.edges.low))
}

/// On wrapped axes the farthest place is no corner.
fn halfway(arena: &Arena) -> f64 {
    let (width, height) = arena.size();
    let half = |length: f64, edge: Edge| if edge == Edge::Wrap { length / 2.0 } else { 0.0 };
    half(width, arena.edges.left).hypot(half(height, arena.edges.low))
}

#[cfg(test)]
mod tests {
    use super::super::codes;
    use rstest::rstest;

    #[rstest]
    #[case::too_far("spawn a anywhere, not within 20 u of (5, 5)", &["F0627"])]
    #[case::far_enough("spawn a anywhere, not within 6 u of (5, 5)", &[])]
    #[case::of_a_corner("spawn a anywhere, not within 14 u of (0, 0)", &[])]
    #[case::beyond_the_other_corner("spawn a anywhere, not within 15 u of (0, 0)", &["F0627"])]
    #[case::a_given_place("spawn a at (3, 3), not within 2 u of (4, 3)", &["F0627"])]
    #[case::spots("spawn a at reeds, not within 5 u of (1, 1)", &[])]
    #[case::all_spots("spawn a at reeds, not within 30 u of (1, 1)", &["F0627"])]
    #[case::of_a_kind("spawn a anywhere, not within 15 u of b", &["F0627"])]
    #[case::not_so_far_of_a_kind("spawn a anywhere, not within 3 u of b", &[])]
    #[case::all_in_view("spawn a anywhere, not within view widened by 3 u", &["F0627"])]
    #[case::beside_the_view("spawn a anywhere, not within view", &[])]
    fn a_condition_can_be_met(#[case] line: &str, #[case] wanted: &[&str]) {
        let text = format!(
            "pond \"t\" {{ arena 10 x 10; view 6 x 6 }}\nplace b at (1, 1)\nspots reeds {{ (1, 1), (9, 9) }}\nplace b at reeds\n\
             kind a {{ after 1 s {{ end self }} }}\nkind b {{ after 1 s {{ {line} }} }}"
        );
        assert_eq!(codes(&text), wanted);
    }
}
