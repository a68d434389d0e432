//! The arena in pixels, for terminals that can show them: the same water, bodies, crowds, names and marks as in cells, as
//! fine as the screen is.

mod base;
mod beings;
mod letters;
mod shown;
mod strokes;
#[cfg(test)]
mod tests;

pub use shown::Shown;
use tiny_skia::Pixmap;

use super::groups::groups;
use crate::workbench::palette::Palette;

/// The picture, with so many pixels to a cell; none if it would have no pixels, or more than a screen has. Costs the
/// pixels and the entities; of those out of sight no more than a look at their place.
pub fn raster(shown: &Shown<'_>, cell: (u16, u16), palette: &Palette) -> Option<Pixmap> {
    let area = shown.view.area();
    let (width, height) =
        (u32::from(area.width) * u32::from(cell.0), u32::from(area.height) * u32::from(cell.1));
    if width > 8000 || height > 8000 {
        return None;
    }
    let mut picture = Pixmap::new(width, height)?;
    let map = strokes::Map { view: shown.view, cell: (f32::from(cell.0), f32::from(cell.1)) };
    let layers = shown.looks.layers;
    let (groups, crowd) = groups(shown.scene, shown.cast, shown.view, area, palette);
    base::draw(shown, &map, &mut picture, palette);
    if layers.trails {
        beings::trails(shown, &groups, &map, &mut picture, palette);
    }
    if layers.rays {
        beings::traces(shown, &map, &mut picture, palette);
    }
    beings::crowds(&groups, &crowd, &map, &mut picture, palette);
    // Larger bodies lie below.
    for group in groups.iter().filter(|group| !group.is_crowd()) {
        for seen in group.seen {
            beings::one(seen, group, shown, &map, &mut picture, palette);
        }
    }
    if layers.marks {
        beings::marks(shown, &map, &mut picture, palette);
    }
    beings::chosen(shown, &map, &mut picture, palette);
    Some(picture)
}
