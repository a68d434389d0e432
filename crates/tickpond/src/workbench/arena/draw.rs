//! The arena on the screen: water, bodies, crowds, glyphs, marks of births and ends.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};
use tickpond_draw::colours::blend;
use tickpond_lab::Cast;
use tickpond_lab::cast::Member;
use tickpond_lang::program::{Cause, ZoneShape};

use super::canvas::{Canvas, faded};
use super::groups::{Group, colour_of, groups, mounts_of, sign_of};
use super::looks::Looks;
use super::put::put;
use super::{View, bodies, crowd, ground, key, lines, parts};
use crate::workbench::fitted::fitted;
use crate::workbench::palette::{Palette, Role};
use crate::workbench::snapshot::{Scene, Seen, Snapshot};

/// How much of a body's filling is its colour; the rest is water.
const BODY: f64 = 0.72;
/// The same of one that takes no part.
const RESTING: f64 = 0.28;

/// Draws the arena and everyone in it. Costs the cells and the entities; of those out of sight no more than
/// a look at their place.
pub fn draw(
    snapshot: &Snapshot,
    cast: &Cast,
    looks: &Looks<'_>,
    area: Rect,
    cells: &mut Cells,
    palette: &Palette,
) {
    if area.width < 4 || area.height < 2 {
        return;
    }
    let (area, key_row) = parts(area);
    let view = View::through(looks.camera, &cast.arena, area);
    let (scene, layers) = (&snapshot.scene, looks.layers);
    let mut canvas = Canvas::new(area);
    if layers.water {
        ground::paint(&view, cast, layers.zones, &mut canvas, palette);
    }
    ground::sides(&view, cast, area, cells, palette);
    if layers.spots {
        spots(cast, &view, layers.names, cells, palette);
    }
    if layers.zones {
        lines::zones(cast, &view, &mut canvas, palette);
        if layers.names {
            zone_names(cast, &view, cells, palette);
        }
    }
    if layers.sight {
        lines::sight(scene, cast, &view, &mut canvas, palette);
        if let Some(sight) = cast.view.filter(|_| layers.names) {
            let top = if cast.arena.y_up { sight.half.1 } else { -sight.half.1 };
            let (x, y) = view.place((scene.view.0 - sight.half.0, scene.view.1 + top));
            name_at("view", (x + 1.0, y + 1.0), &view, cells, palette);
        }
    }
    let (groups, crowd) = groups(scene, cast, &view, area, palette);
    if layers.trails {
        trails(scene, &groups, &view, &mut canvas, palette);
    }
    if layers.rays {
        lines::traces(scene, &view, &mut canvas, palette);
    }
    crowd.paint(&mut canvas, palette);
    for (at, bits) in groups.iter().filter_map(|group| group.crowd.as_ref()).flatten() {
        let at = *at as usize;
        canvas.dots_in(at, *bits, palette.is_coloured().then(|| crowd.dots(at)));
    }
    // What is drawn first lies on top: the smallest, and of these the youngest.
    for group in groups.iter().rev().filter(|group| !group.is_crowd()) {
        for seen in group.seen.iter().rev() {
            let colour = colour_of(seen, group, palette);
            if layers.bodies && bodies::shows(&group.kind.body, &view) {
                let share = if seen.active { BODY } else { RESTING };
                let colour = faded(palette, colour, share);
                bodies::fill(&group.kind.body, seen.at, seen.heading, &view, &mut canvas, colour);
            }
            if layers.headings {
                let colour = palette.is_coloured().then_some(colour);
                lines::heading(seen, cast, &view, &mut canvas, colour);
            }
        }
    }
    if let (Some(from), Some(to)) = (looks.measured_from, looks.cross) {
        let colour = palette.is_coloured().then(|| palette.role_rgb(Role::Caution));
        lines::line_over(&view, from, to, 2.0, &mut canvas, colour);
    }
    canvas.draw(cells, palette);
    if !palette.is_coloured() {
        crowd.shade(&canvas, cells);
    }
    if layers.marks {
        marks(scene, &view, cells, palette);
    }
    for group in groups.iter().filter(|group| !group.is_crowd()) {
        for seen in group.seen {
            if layers.mounts {
                mounts(seen, group.kind, &view, cast.arena.y_up, cells, palette);
            }
            if layers.glyphs {
                glyph(seen, group, &view, &canvas, cells, palette);
            }
        }
    }
    if let Some(seen) = looks.focus {
        if let Some(group) =
            groups.iter().find(|group| group.is_crowd() && group.id == seen.who.kind)
        {
            glyph(seen, group, &view, &canvas, cells, palette);
        }
        selected(seen, &view, area, cells, palette);
    }
    if let Some(at) = looks.cross.and_then(|at| view.cell(at)) {
        put(cells, at, "✛", palette.style(Role::Caution).add_modifier(Modifier::BOLD));
    }
    if key_row.height > 0 {
        let mut pieces = key::pieces(scene, cast, &view, palette);
        if let Some(group) = groups.iter().find(|group| group.is_crowd()) {
            let colour = group.colour;
            pieces.insert(0, crowd::key(&crowd.steps(), colour, palette));
        }
        if layers.trails && scene.no_trails {
            pieces.push(vec![("too many for trails".into(), palette.style(Role::Faint))]);
        }
        key::draw(&pieces, key_row, cells);
    }
}

/// Trails of those that are no crowd; all of them where nobody of the kind is left.
fn trails(
    scene: &Scene,
    groups: &[Group<'_>],
    view: &View,
    canvas: &mut Canvas,
    palette: &Palette,
) {
    for trail in &scene.trails {
        let group = groups.iter().find(|group| group.id == trail.kind);
        if group.is_some_and(Group::is_crowd) {
            continue;
        }
        let colour = group.map_or(palette.role_rgb(Role::Ghost), |group| group.colour);
        lines::trail(trail, view, canvas, (palette, colour));
    }
}

/// What was just born or ended, fainter as it gets older.
fn marks(scene: &Scene, view: &View, cells: &mut Cells, palette: &Palette) {
    for mark in &scene.marks {
        let Some(at) = view.cell(mark.at) else { continue };
        let (glyph, role) = match mark.cause {
            None => ("+", Role::Birth),
            Some(cause) => (end_glyph(cause), Role::End),
        };
        let fresh = mark.left > 0.5;
        let style = match faded(palette, palette.role_rgb(role), 0.35 + 0.65 * mark.left) {
            Some(colour) => Style::reset().fg(palette.paint(colour)),
            None => palette.style(if fresh { role } else { Role::Faint }),
        };
        let weight = if fresh { Modifier::BOLD } else { Modifier::empty() };
        put(cells, at, glyph, style.add_modifier(weight));
    }
}

/// A point at each mount.
fn mounts(
    seen: &Seen,
    kind: &Member,
    view: &View,
    y_up: bool,
    cells: &mut Cells,
    palette: &Palette,
) {
    for at in mounts_of(seen, kind, y_up) {
        if let Some(at) = view.cell(at) {
            put(cells, at, "◦", palette.style(Role::Caution));
        }
    }
}

/// The glyph an end leaves for a moment, by its cause.
pub fn end_glyph(cause: Cause) -> &'static str {
    match cause {
        Cause::Damage => "x",
        Cause::Impact => "!",
        Cause::Touch => "*",
        Cause::Zone => "~",
        Cause::Edge => ">",
        Cause::Line => "|",
        Cause::Replaced => "%",
        Cause::Timer => "o",
        Cause::Script => "#",
        Cause::Owner => "&",
        Cause::Limit => "=",
    }
}

/// A zone's name stands on its upper side, beneath everything that lives.
fn zone_names(cast: &Cast, view: &View, cells: &mut Cells, palette: &Palette) {
    for zone in &cast.zones {
        let (low, high) = match zone.shape {
            ZoneShape::Box { low, high } => (low, high),
            ZoneShape::Circle { at: (x, y), radius } => {
                ((x - radius, y - radius), (x + radius, y + radius))
            }
        };
        let top = if cast.arena.y_up { high.1 } else { low.1 };
        let middle = match zone.shape {
            ZoneShape::Box { .. } => low.0,
            ZoneShape::Circle { at, .. } => at.0,
        };
        // Inside, below the outline.
        let (x, y) = view.place((middle, top));
        let room = ((high.0 - low.0) * view.cells_per_u()) as usize;
        let name: String = fitted(&zone.name, room.saturating_sub(2));
        let x = match zone.shape {
            ZoneShape::Box { .. } => x + 1.0,
            ZoneShape::Circle { .. } => x - name.chars().count() as f64 / 2.0,
        };
        name_at(&name, (x, y + 1.0), view, cells, palette);
    }
}

/// The name of a place from a point of the screen on, as much of it as lies in the area.
fn name_at(name: &str, (x, y): (f64, f64), view: &View, cells: &mut Cells, palette: &Palette) {
    let area = view.area();
    let across = f64::from(area.x)..f64::from(area.right());
    let along = f64::from(area.y)..f64::from(area.bottom());
    if across.contains(&x) && along.contains(&y) {
        let name = fitted(name, usize::from(area.right() - x as u16));
        put(cells, (x as u16, y as u16), &name, palette.style(Role::Faint));
    }
}

/// The spots, and beside the first of each group that is in sight its name.
fn spots(cast: &Cast, view: &View, names: bool, cells: &mut Cells, palette: &Palette) {
    for group in &cast.spots {
        let seen: Vec<(u16, u16)> =
            group.spots.iter().filter_map(|spot| view.cell(spot.at)).collect();
        if let Some((x, y)) = seen.first().filter(|_| names) {
            name_at(&group.name, (f64::from(x + 2), f64::from(*y)), view, cells, palette);
        }
        for at in seen {
            put(cells, at, "¤", palette.style(Role::Faint));
        }
    }
}

fn glyph(
    seen: &Seen,
    group: &Group<'_>,
    view: &View,
    canvas: &Canvas,
    cells: &mut Cells,
    palette: &Palette,
) {
    let Some((x, y)) = view.cell(seen.at) else { return };
    let is_spawner = group.kind.is_spawner;
    let glyph = sign_of(group.kind);
    let filling = canvas.filling(x, y).filter(|_| palette.is_coloured());
    let mut style = Style::reset().add_modifier(Modifier::BOLD);
    if is_spawner || !seen.active {
        // Who takes no part is there, and no more than that.
        style = palette.style(Role::Faint);
    } else if let Some(filling) = filling {
        style = style.fg(palette.paint(palette.upon(filling))).bg(palette.paint(filling));
    } else if palette.is_coloured() {
        style = style.fg(palette.paint(colour_of(seen, group, palette)));
    }
    if let Some(left) = seen.hurt {
        // A flash that fades.
        let beneath = filling.unwrap_or(palette.base());
        let flash = blend(beneath, palette.role_rgb(Role::Trouble), 0.3 + 0.7 * left);
        style = match palette.is_coloured() {
            true => style.fg(palette.paint(palette.upon(flash))).bg(palette.paint(flash)),
            false => style.add_modifier(Modifier::REVERSED),
        };
    }
    if let Some(filling) = filling.filter(|_| seen.speed > 1e-3 && seen.active) {
        let style = Style::reset().fg(palette.paint(palette.upon(filling)));
        bow(seen, group.kind, (x, y), view, canvas, cells, style);
    }
    put(cells, (x, y), glyph.encode_utf8(&mut [0; 4]), style);
}

/// An arrow inside the rim of a body that moves, where it has room beside the glyph.
fn bow(
    seen: &Seen,
    kind: &Member,
    middle: (u16, u16),
    view: &View,
    canvas: &Canvas,
    cells: &mut Cells,
    style: Style,
) {
    const ARROWS: [&str; 8] = ["→", "↗", "↑", "↖", "←", "↙", "↓", "↘"];
    let reach = kind.body.thinnest() - 0.5 / view.cells_per_u();
    let (sin, cos) = seen.heading.to_radians().sin_cos();
    let Some(at) = view.cell((seen.at.0 + cos * reach, seen.at.1 + sin * reach)) else { return };
    if at == middle || reach <= 0.0 || canvas.filling(at.0, at.1).is_none() {
        return;
    }
    let up = if view.is_y_up() { sin } else { -sin };
    let octant = (up.atan2(cos) / std::f64::consts::FRAC_PI_4).round() as i32;
    put(cells, at, ARROWS[octant.rem_euclid(8) as usize], style);
}

fn selected(seen: &Seen, view: &View, area: Rect, cells: &mut Cells, palette: &Palette) {
    let Some((x, y)) = view.cell(seen.at) else { return };
    if let Some(cell) = cells.cell_mut((x, y)) {
        cell.modifier |= Modifier::REVERSED;
    }
    let style = palette.style(Role::Cursor);
    if x > area.x {
        put(cells, (x - 1, y), "[", style);
    }
    if x + 1 < area.right() {
        put(cells, (x + 1, y), "]", style);
    }
}
