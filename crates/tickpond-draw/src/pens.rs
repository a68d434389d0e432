//! Pens: colour, dashes and marker of a series. Each alone tells series apart, so a drawing can be read in grey.

use tickpond_lab::Cast;

use crate::colours::{COLOURS, SHARED, colour_of};
use crate::drawing::{Drawing, Step};

/// The colour of what is read first.
pub(crate) const INK: &str = "#1c2526";
/// The colour of what explains.
pub(crate) const FAINT: &str = "#5d6b6c";
/// The colour of lines to read values by.
pub(crate) const GRID: &str = "#dfe5e5";
/// The colours of the runs beneath, the first the darkest.
pub(crate) const GREYS: [&str; 3] = ["#8f9b9b", "#b4bdbd", "#d3dada"];

/// Colour, dashes and marker of a series.
#[derive(Clone, Copy)]
pub(crate) struct Pen {
    pub colour: &'static str,
    pub dashes: &'static [f64],
    marker: Marker,
}

#[derive(Clone, Copy)]
enum Marker {
    Disc,
    Square,
    Triangle,
    Diamond,
    Cross,
    Ring,
}

/// Dashes and markers by place; as many as there are colours that are shared.
const LINES: [(&[f64], Marker); SHARED] = [
    (&[], Marker::Disc),
    (&[7.0, 3.0], Marker::Square),
    (&[2.0, 2.0], Marker::Triangle),
    (&[10.0, 3.0, 2.0, 3.0], Marker::Diamond),
    (&[5.0, 2.0, 5.0, 2.0, 1.0, 2.0], Marker::Cross),
    (&[1.0, 3.0], Marker::Ring),
];

/// The pen of the series in a place.
pub(crate) fn pen(place: usize) -> Pen {
    let (dashes, marker) = LINES[place % SHARED];
    Pen { colour: COLOURS[place % SHARED].light, dashes, marker }
}

/// The pen of a kind: its own colour, if it has one, and dashes and marker by its place among all kinds, so that it
/// is the same in every drawing of a pond.
pub(crate) fn pen_of(cast: &Cast, name: &str) -> Pen {
    let place = cast.kind_named(name).map_or(0, |kind| kind.index() - 1);
    let kind = cast.kinds.get(place + 1);
    if kind.is_some_and(|kind| kind.is_spawner) {
        // Spawners are many a pond's background: their colour is nobody else's.
        return Pen { colour: FAINT, ..pen(place) };
    }
    let look = kind.and_then(|kind| kind.look.colour.as_deref());
    Pen { colour: colour_of(look, place + 1).light, ..pen(place) }
}

impl Pen {
    /// The same dashes and marker, in the colour of another place.
    pub fn in_colour_of(self, place: usize) -> Pen {
        Pen { colour: pen(place).colour, ..self }
    }

    /// The same, in the grey of a run beneath, by its place.
    pub fn greyed(self, place: usize) -> Pen {
        Pen { colour: GREYS[place.min(GREYS.len() - 1)], ..self }
    }

    /// Its marker at a place.
    pub fn mark(&self, page: &mut Drawing, (x, y): (f64, f64)) {
        let r = 3.6;
        let (left, top, right, base) = (x - r, y - r, x + r, y + r);
        match self.marker {
            Marker::Disc => page.dot(x, y, r, self.colour),
            Marker::Square => page.rect(left, top, 2.0 * r, 2.0 * r, self.colour),
            Marker::Triangle => {
                let steps = vec![
                    Step::Move(x, top),
                    Step::Line(right, base),
                    Step::Across(left),
                    Step::Close,
                ];
                page.shape(steps, self.colour);
            }
            Marker::Diamond => {
                let steps = vec![
                    Step::Move(x, top),
                    Step::Line(right, y),
                    Step::Line(x, base),
                    Step::Line(left, y),
                    Step::Close,
                ];
                page.shape(steps, self.colour);
            }
            Marker::Cross => {
                let steps = vec![
                    Step::Move(left, top),
                    Step::Line(right, base),
                    Step::Move(right, top),
                    Step::Line(left, base),
                ];
                page.path(steps, self.colour, 1.6, &[]);
            }
            Marker::Ring => page.ring(x, y, r, self.colour, 1.4),
        }
    }
}
