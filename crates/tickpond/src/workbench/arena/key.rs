//! The line below the arena: its scale, its sides, and what its colours stand for.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::style::Style;
use tickpond_lab::Cast;
use unicode_width::UnicodeWidthStr;

use super::{View, ground};
use crate::workbench::palette::{Palette, Role};
use crate::workbench::snapshot::Scene;
use crate::workbench::tint::Tint;

/// Pieces of the key, each a whole: one that has no room is left out with those behind it.
pub type Pieces = Vec<Vec<(String, Style)>>;

/// Scale, sides and colours, what matters most first.
pub fn pieces(scene: &Scene, cast: &Cast, view: &View, palette: &Palette) -> Pieces {
    let faint = palette.style(Role::Faint);
    let mut pieces = Vec::new();
    if scene.tint.tint != Tint::Kind {
        pieces.push(colours(scene, palette));
    }
    let (width, height) = view.sight();
    let arena = (cast.arena.high.0 - cast.arena.low.0, cast.arena.high.1 - cast.arena.low.1);
    let scale = if view.shows_all() {
        format!("{} x {} u", arena.0, arena.1)
    } else {
        let (x, y) = view.centre();
        format!("{width:.0} x {height:.0} u around ({x:.1}, {y:.1})")
    };
    pieces.push(vec![(scale, faint)]);
    pieces.push(vec![(ground::sides_told(&cast.arena), faint)]);
    pieces
}

/// What the colours stand for.
fn colours(scene: &Scene, palette: &Palette) -> Vec<(String, Style)> {
    let plain = Style::default();
    let key = &scene.tint;
    let mut parts = vec![(format!("colours: {} ", key.tint.words()), palette.style(Role::Strong))];
    for (place, name) in &key.names {
        let style = plain.fg(palette.paint(palette.place_rgb(usize::from(*place))));
        parts.push((format!("● {name} "), style));
    }
    if let Some((low, high)) = &key.range {
        parts.push((format!("{low} "), plain));
        for step in 0..8 {
            let colour = palette.share_rgb(f64::from(step) / 7.0);
            parts.push(("█".into(), plain.fg(palette.paint(colour))));
        }
        parts.push((format!(" {high}"), plain));
    }
    if key.names.is_empty() && key.range.is_none() {
        parts.push(("nobody here has one".into(), palette.style(Role::Faint)));
    }
    if !palette.is_coloured() {
        parts.push(("(without colours not to be seen)".into(), palette.style(Role::Faint)));
    }
    parts
}

/// Draws as many pieces as there is room for.
pub fn draw(pieces: &Pieces, row: Rect, cells: &mut Cells) {
    let mut x = row.x + 1;
    for piece in pieces {
        let width: usize = piece.iter().map(|(text, _)| text.width()).sum();
        if usize::from(x) + width > usize::from(row.right()) {
            return;
        }
        for (text, style) in piece {
            cells.set_string(x, row.y, text, *style);
            x += text.width() as u16;
        }
        x += 3;
    }
}
