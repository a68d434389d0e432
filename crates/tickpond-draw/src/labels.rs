//! Names beside what they name, where they lie on no other.

use crate::drawing::{Anchor, Drawing, Type};
use crate::plot::width_of;

/// The room that names have, and what of it is taken.
pub(crate) struct Labels {
    /// Left, top, right, bottom.
    within: [f64; 4],
    taken: Vec<[f64; 4]>,
    /// The names that had none.
    pub without_room: Vec<String>,
}

impl Labels {
    /// Nothing is taken of what lies between left, top, right and bottom.
    pub fn within(within: [f64; 4]) -> Labels {
        Labels { within, taken: Vec::new(), without_room: Vec::new() }
    }

    /// Writes a name at the first of some places where it has room.
    pub fn put(
        &mut self,
        page: &mut Drawing,
        places: &[(f64, f64, Anchor)],
        ty: Type<'_>,
        name: &str,
    ) {
        let wide = width_of(name, ty);
        for (x, y, anchor) in places {
            let left = match anchor {
                Anchor::Start => *x,
                Anchor::Middle => x - wide / 2.0,
                Anchor::End => x - wide,
            };
            let own = [left, y - ty.size * 0.8, left + wide, y + ty.size * 0.25];
            let [l, t, r, b] = self.within;
            let fits = own[0] >= l && own[1] >= t && own[2] <= r && own[3] <= b;
            let lies_on = |other: &[f64; 4]| {
                own[0] < other[2] && other[0] < own[2] && own[1] < other[3] && other[1] < own[3]
            };
            if fits && !self.taken.iter().any(lies_on) {
                page.text((*x, *y), *anchor, ty, name);
                self.taken.push(own);
                return;
            }
        }
        self.without_room.push(name.to_string());
    }
}
