//! Those in the arena by kind, and which of them are a crowd.

use ratatui::layout::Rect;
use tickpond_draw::colours::blend;
use tickpond_lab::Cast;
use tickpond_lab::cast::Member;
use tickpond_lang::program::KindId;

use super::View;
use super::crowd::{Crowd, Dots};
use crate::workbench::palette::{Palette, Rgb, Role};
use crate::workbench::snapshot::{Scene, Seen};
use crate::workbench::tint::Tone;

/// Those of a kind.
pub struct Group<'a> {
    pub kind: &'a Member,
    pub id: KindId,
    pub seen: &'a [Seen],
    /// The colour of the kind.
    pub colour: Rgb,
    /// Whether they are a crowd: the dots they are in.
    pub crowd: Option<Dots>,
}

impl Group<'_> {
    #[inline]
    pub fn is_crowd(&self) -> bool {
        self.crowd.is_some()
    }
}

/// The sign of a kind: its own, a spawner's, or the first letter of its name.
pub fn sign_of(kind: &Member) -> char {
    match kind.look.glyph {
        Some(glyph) => glyph,
        None if kind.is_spawner => '⌂',
        None => kind.name.chars().next().unwrap_or('?'),
    }
}

/// Where the mounts of one are, in u.
pub fn mounts_of(seen: &Seen, kind: &Member, y_up: bool) -> impl Iterator<Item = (f64, f64)> {
    let (sin, cos) = seen.heading.to_radians().sin_cos();
    let (x, y) = seen.at;
    kind.mounts.iter().map(move |mount| {
        let (along, left) = mount.at;
        let side = if y_up { left } else { -left };
        (x + along * cos - side * sin, y + along * sin + side * cos)
    })
}

/// Those alive by kind, larger bodies first, and the crowds among them. Costs the entities and the cells.
pub fn groups<'a>(
    scene: &'a Scene,
    cast: &'a Cast,
    view: &View,
    area: Rect,
    palette: &Palette,
) -> (Vec<Group<'a>>, Crowd) {
    let mut crowd = Crowd::new(area.area() as usize);
    let mut groups = Vec::new();
    for seen in scene.entities.chunk_by(|a, b| a.who.kind == b.who.kind) {
        let Some(first) = seen.first() else { continue };
        let id = first.who.kind;
        let Some(kind) = cast.kinds.get(id.index()) else { continue };
        let colour = palette.kind_rgb(kind.look.colour.as_deref(), id.index());
        let mut group = Group { kind, id, seen, colour, crowd: None };
        if !kind.is_spawner {
            for seen in seen {
                if let Some((at, dot)) = view.dot(seen.at) {
                    crowd.add(at, dot, colour_of(seen, &group, palette));
                }
            }
            group.crowd = crowd.end_of_kind();
        }
        groups.push(group);
    }
    groups.sort_by(|a, b| b.kind.body.reach().total_cmp(&a.kind.body.reach()));
    (groups, crowd)
}

/// The colour of one, by what colours stand for.
#[inline]
pub fn colour_of(seen: &Seen, group: &Group<'_>, palette: &Palette) -> Rgb {
    match seen.tone {
        Tone::Own => group.colour,
        Tone::Place(place) => palette.place_rgb(usize::from(place)),
        Tone::Share(share) => palette.share_rgb(f64::from(share)),
        Tone::Nothing => blend(palette.base(), palette.role_rgb(Role::Ghost), 0.5),
    }
}
