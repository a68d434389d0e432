//! A band of the screen as a drawing.

use std::path::Path;

use ratatui::buffer::Buffer as Cells;
use ratatui::style::{Color, Modifier};
use tickpond_draw::grid::{GridCell, draw_grid, indexed};
use tickpond_draw::missing_signs;

use super::app::App;
use super::keys::Place;
use super::palette::Palette;
use super::screen;
use crate::drawing::{Format, bytes};
use crate::failure::Failure;
use crate::writing::write_new;

/// Draws a band as it stands on the screen to new files, in the format of each file's ending. Gives the signs that a
/// PDF has no picture for.
pub fn write(app: &App, place: Place, paths: &[impl AsRef<Path>]) -> Result<Vec<char>, Failure> {
    let Some(areas) = app.areas() else { return Ok(Vec::new()) };
    let mut cells = Cells::empty(app.bands.screen);
    // On paper the ground is white.
    let palette = Palette::full(super::settings::Theme::Light);
    screen::draw(app, app.bands.screen, &mut cells, &palette);
    let area = match place {
        Place::Script => areas.script,
        Place::Arena => areas.arena,
        Place::Drawer => areas.drawer,
    };
    let mut grid = Vec::with_capacity(area.area() as usize);
    for y in area.y..area.bottom() {
        for x in area.x..area.right() {
            grid.push(cells.cell((x, y)).map(cell).unwrap_or_default());
        }
    }
    let drawing = draw_grid(&app.file.name, usize::from(area.width), &grid);
    for path in paths {
        let path = path.as_ref();
        let bytes = bytes(&drawing, Format::of(path)?)?;
        write_new(path, &bytes).map_err(|e| Failure::writing(path, &e))?;
    }
    Ok(missing_signs(grid.iter().map(|cell| cell.symbol.as_str())))
}

fn cell(cell: &ratatui::buffer::Cell) -> GridCell {
    let colour = |colour: Color| match colour {
        Color::Indexed(number) => Some(indexed(number)),
        Color::Rgb(r, g, b) => Some((r, g, b)),
        _ => None,
    };
    let has = |modifier| cell.modifier.contains(modifier);
    let (mut front, mut ground) = (colour(cell.fg), colour(cell.bg));
    if has(Modifier::REVERSED) {
        ground = Some(front.unwrap_or((60, 66, 74)));
        front = Some((255, 255, 255));
    }
    GridCell {
        symbol: cell.symbol().to_string(),
        colour: front,
        ground,
        bold: has(Modifier::BOLD),
        faint: has(Modifier::DIM),
        struck: has(Modifier::CROSSED_OUT),
        underlined: has(Modifier::UNDERLINED),
    }
}
