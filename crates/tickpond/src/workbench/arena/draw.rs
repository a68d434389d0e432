//! The arena on the screen: bodies in braille, glyphs, marks of births and ends.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};
use tickpond_lab::Cast;
use tickpond_lang::program::{Body, Cause, ZoneShape};

use super::{Camera, Layers, View};
use crate::workbench::palette::{Palette, Role};
use crate::workbench::snapshot::{Seen, Snapshot};

/// Bodies narrower than this, in dots, are drawn by their glyph alone.
const SMALLEST_OUTLINE: f64 = 6.0;

/// How the arena is looked at.
pub struct Looks<'a> {
    pub camera: &'a Camera,
    pub layers: Layers,
    pub focus: Option<&'a Seen>,
    pub cross: Option<(f64, f64)>,
    pub measured_from: Option<(f64, f64)>,
}

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
    let view = View::through(looks.camera, &cast.arena, area);
    let layers = looks.layers;
    frame(&view, cast, area, cells, palette);
    let mut dots = Dots::new(area);
    if layers.zones {
        zones(cast, &view, &mut dots, palette);
    }
    if layers.sight {
        sight(snapshot, cast, &view, &mut dots, palette);
    }
    for trace in snapshot.scene.traces.iter().filter(|_| layers.rays) {
        let role = if trace.left > 0.5 { Role::Strong } else { Role::Faint };
        match trace.radius {
            Some(radius) => {
                let role = if trace.left > 0.5 { Role::Caution } else { Role::Faint };
                ring(&view, trace.from, radius, &mut dots, palette.style(role));
            }
            None => line(&view, trace.from, trace.to, 1.0, &mut dots, palette.style(role)),
        }
    }
    for seen in &snapshot.scene.entities {
        if layers.bodies {
            outline(seen, cast, &view, &mut dots, palette);
        }
        if layers.headings {
            heading(seen, cast, &view, &mut dots, palette);
        }
    }
    if let (Some(from), Some(to)) = (looks.measured_from, looks.cross) {
        line(&view, from, to, 2.0, &mut dots, palette.style(Role::Caution));
    }
    dots.draw(cells);
    for mark in snapshot.scene.marks.iter().filter(|_| layers.marks) {
        if let Some((x, y)) = view.cell(mark.at) {
            let (glyph, role) = match mark.cause {
                None => ("+", Role::Birth),
                Some(cause) => (end_glyph(cause), Role::End),
            };
            // An older mark is fainter.
            let role = if mark.age > 0.3 { Role::Faint } else { role };
            cells.set_string(x, y, glyph, palette.style(role));
        }
    }
    if layers.spots {
        spots(cast, &view, cells, palette);
    }
    if layers.zones {
        zone_names(cast, &view, cells, palette);
    }
    for seen in &snapshot.scene.entities {
        if layers.mounts {
            mounts(seen, cast, &view, cells, palette);
        }
        if layers.glyphs {
            glyph(seen, cast, &view, cells, palette);
        }
    }
    if let Some(seen) = looks.focus {
        selected(seen, &view, area, cells, palette);
    }
    if let Some((x, y)) = looks.cross.and_then(|at| view.cell(at)) {
        cells.set_string(x, y, "✛", palette.style(Role::Caution).add_modifier(Modifier::BOLD));
    }
}

/// A line of dots from a body to where it faces.
fn heading(seen: &Seen, cast: &Cast, view: &View, dots: &mut Dots, palette: &Palette) {
    let Some(kind) = cast.kinds.get(seen.who.kind.index()) else { return };
    if view.cell(seen.at).is_none() {
        return;
    }
    let length = (kind.body.reach() * 1.6).max(3.0 * 4.0 / view.dots_per_u());
    let (sin, cos) = seen.heading.to_radians().sin_cos();
    let to = (seen.at.0 + cos * length, seen.at.1 + sin * length);
    line(view, seen.at, to, 1.0, dots, style_of(cast, seen, palette));
}

/// A point at each mount.
fn mounts(seen: &Seen, cast: &Cast, view: &View, cells: &mut Cells, palette: &Palette) {
    let Some(kind) = cast.kinds.get(seen.who.kind.index()) else { return };
    let (sin, cos) = seen.heading.to_radians().sin_cos();
    for mount in &kind.mounts {
        let (along, left) = mount.at;
        let side = if cast.arena.y_up { left } else { -left };
        let at = (seen.at.0 + along * cos - side * sin, seen.at.1 + along * sin + side * cos);
        if let Some((x, y)) = view.cell(at) {
            cells.set_string(x, y, "◦", palette.style(Role::Caution));
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

/// Corners and sides of the arena, where the area has room around it.
fn frame(view: &View, cast: &Cast, area: Rect, cells: &mut Cells, palette: &Palette) {
    let style = palette.style(Role::Frame);
    let (left, top) = view.corner();
    let (width, height) = view.size();
    let (right, bottom) = (left + width, top + height);
    let clamp_x = |x: f64| (x.max(f64::from(area.x)) as u16).min(area.right() - 1);
    let clamp_y = |y: f64| (y.max(f64::from(area.y)) as u16).min(area.bottom() - 1);
    let (l, r) = (clamp_x(left), clamp_x(right - 0.01));
    let (t, b) = (clamp_y(top), clamp_y(bottom - 0.01));
    // A side that is out of sight is not drawn at the edge of what is seen.
    let shows_x = |x: f64| x >= f64::from(area.x) && x <= f64::from(area.right());
    let shows_y = |y: f64| y >= f64::from(area.y) && y <= f64::from(area.bottom());
    for x in l..=r {
        for (y, row) in [(top, t), (bottom, b)] {
            if shows_y(y) {
                cells.set_string(x, row, "┈", style);
            }
        }
    }
    for y in t..=b {
        for (x, column) in [(left, l), (right, r)] {
            if shows_x(x) {
                cells.set_string(column, y, "┊", style);
            }
        }
    }
    let whole = shows_x(left) && shows_x(right) && shows_y(top) && shows_y(bottom);
    if !whole {
        // Nearer, what matters is where one is looking.
        let (width, height) = view.sight();
        let (x, y) = view.centre();
        let words = format!(" {width:.0} x {height:.0} u around ({x:.1}, {y:.1}) ");
        let room = usize::from(area.width);
        cells.set_stringn(area.x, area.bottom() - 1, &words, room, style);
        return;
    }
    let (low, high) = (cast.arena.low, cast.arena.high);
    let label = |(x, y): (f64, f64)| format!("({x}, {y})");
    let up = cast.arena.y_up;
    let top_right = label((high.0, if up { high.1 } else { low.1 }));
    let bottom_left = label((low.0, if up { low.1 } else { high.1 }));
    let start = (r + 1).saturating_sub(top_right.len() as u16).max(l);
    cells.set_stringn(start, t, &top_right, usize::from(r + 1 - start), style);
    cells.set_stringn(l, b, &bottom_left, usize::from(r + 1 - l), style);
}

/// The outlines of the zones.
fn zones(cast: &Cast, view: &View, dots: &mut Dots, palette: &Palette) {
    let style = palette.style(Role::Frame);
    for zone in &cast.zones {
        match zone.shape {
            ZoneShape::Box { low, high } => rectangle(view, low, high, 2.0, dots, style),
            ZoneShape::Circle { at, radius } => {
                let steps = (radius * view.dots_per_u() * 3.0).clamp(8.0, 400.0) as u32;
                let (x, y) = view.place(at);
                for step in 0..steps {
                    let angle = f64::from(step) / f64::from(steps) * std::f64::consts::TAU;
                    let reach = radius * view.dots_per_u();
                    dots.put(x * 2.0 + reach * angle.cos(), y * 4.0 + reach * angle.sin(), style);
                }
            }
        }
    }
}

/// A zone's name stands inside it, at its middle.
fn zone_names(cast: &Cast, view: &View, cells: &mut Cells, palette: &Palette) {
    for zone in &cast.zones {
        let (middle, width) = match zone.shape {
            ZoneShape::Box { low, high } => {
                (((low.0 + high.0) / 2.0, (low.1 + high.1) / 2.0), high.0 - low.0)
            }
            ZoneShape::Circle { at, radius } => (at, radius * 2.0),
        };
        let Some((x, y)) = view.cell(middle) else { continue };
        let room = (width * view.dots_per_u() / 2.0) as usize;
        let name: String = zone.name.chars().take(room.saturating_sub(2)).collect();
        let start = x.saturating_sub(name.chars().count() as u16 / 2);
        cells.set_string(start, y, name, palette.style(Role::Faint));
    }
}

/// The rectangle the player sees.
fn sight(snapshot: &Snapshot, cast: &Cast, view: &View, dots: &mut Dots, palette: &Palette) {
    let Some(sight) = cast.view else { return };
    let (x, y) = snapshot.scene.view;
    let (low, high) = ((x - sight.half.0, y - sight.half.1), (x + sight.half.0, y + sight.half.1));
    rectangle(view, low, high, 6.0, dots, palette.style(Role::Ghost));
}

fn rectangle(
    view: &View,
    low: (f64, f64),
    high: (f64, f64),
    gap: f64,
    dots: &mut Dots,
    style: Style,
) {
    let corners = [low, (high.0, low.1), high, (low.0, high.1)];
    for side in 0..4 {
        line(view, corners[side], corners[(side + 1) % 4], gap, dots, style);
    }
}

/// A line of dots, so many dots apart.
fn line(view: &View, from: (f64, f64), to: (f64, f64), gap: f64, dots: &mut Dots, style: Style) {
    let (a, b) = (view.place(from), view.place(to));
    let (dx, dy) = ((b.0 - a.0) * 2.0, (b.1 - a.1) * 4.0);
    let steps = (dx.abs().max(dy.abs()) / gap).clamp(1.0, 2000.0) as u32;
    for step in 0..=steps {
        let t = f64::from(step) / f64::from(steps);
        dots.put(a.0 * 2.0 + dx * t, a.1 * 4.0 + dy * t, style);
    }
}

/// A circle of dots around a place.
fn ring(view: &View, at: (f64, f64), radius: f64, dots: &mut Dots, style: Style) {
    if !view.is_near(at, radius) {
        return;
    }
    let (cx, cy) = view.place(at);
    let reach = radius * view.dots_per_u();
    let steps = (reach * 6.0).clamp(8.0, 800.0) as u32;
    for step in 0..steps {
        let angle = f64::from(step) / f64::from(steps) * std::f64::consts::TAU;
        dots.put(cx * 2.0 + reach * angle.cos(), cy * 4.0 + reach * angle.sin(), style);
    }
}

fn spots(cast: &Cast, view: &View, cells: &mut Cells, palette: &Palette) {
    for spot in cast.spots.iter().flat_map(|group| &group.spots) {
        if let Some((x, y)) = view.cell(spot.at) {
            cells.set_string(x, y, "¤", palette.style(Role::Faint));
        }
    }
}

fn style_of(cast: &Cast, seen: &Seen, palette: &Palette) -> Style {
    let kind = &cast.kinds[seen.who.kind.index()];
    palette.kind(kind.look.colour.as_deref(), seen.who.kind.index())
}

fn glyph(seen: &Seen, cast: &Cast, view: &View, cells: &mut Cells, palette: &Palette) {
    let Some(kind) = cast.kinds.get(seen.who.kind.index()) else { return };
    let Some((x, y)) = view.cell(seen.at) else { return };
    let is_spawner = kind.is_spawner;
    let glyph = match kind.look.glyph {
        Some(glyph) => glyph,
        None if is_spawner => '⌂',
        None => kind.name.chars().next().unwrap_or('?'),
    };
    if is_spawner || !seen.active {
        // Who takes no part is there, and no more than that.
        cells.set_string(x, y, glyph.to_string(), palette.style(Role::Faint));
        return;
    }
    let style = style_of(cast, seen, palette);
    cells.set_string(x, y, glyph.to_string(), style.add_modifier(Modifier::BOLD));
}

fn selected(seen: &Seen, view: &View, area: Rect, cells: &mut Cells, palette: &Palette) {
    let Some((x, y)) = view.cell(seen.at) else { return };
    if let Some(cell) = cells.cell_mut((x, y)) {
        cell.modifier |= Modifier::REVERSED;
    }
    let style = palette.style(Role::Cursor);
    if x > area.x {
        cells.set_string(x - 1, y, "[", style);
    }
    if x + 1 < area.right() {
        cells.set_string(x + 1, y, "]", style);
    }
}

/// The outline of a body that is large enough to be seen.
fn outline(seen: &Seen, cast: &Cast, view: &View, dots: &mut Dots, palette: &Palette) {
    let Some(kind) = cast.kinds.get(seen.who.kind.index()) else { return };
    if kind.body.reach() * 2.0 * view.dots_per_u() < SMALLEST_OUTLINE
        || !view.is_near(seen.at, kind.body.reach())
    {
        return;
    }
    let style = style_of(cast, seen, palette);
    let (cx, cy) = view.place(seen.at);
    let flip = if cast.arena.y_up { -1.0 } else { 1.0 };
    let scale = view.dots_per_u();
    let mut put =
        |dx: f64, dy: f64| dots.put(cx * 2.0 + dx * scale, cy * 4.0 + dy * flip * scale, style);
    match kind.body {
        Body::None => {}
        Body::Circle { radius } => {
            ring(view, seen.at, radius, dots, style);
        }
        Body::Box { half, upright } => {
            let heading = if upright { 0.0 } else { seen.heading };
            let (sin, cos) = heading.to_radians().sin_cos();
            let steps = (half.0.max(half.1) * scale * 2.0).clamp(2.0, 400.0) as i32;
            for step in -steps..=steps {
                let t = f64::from(step) / f64::from(steps);
                for (x, y) in [
                    (half.0 * t, half.1),
                    (half.0 * t, -half.1),
                    (half.0, half.1 * t),
                    (-half.0, half.1 * t),
                ] {
                    put(x * cos - y * sin, x * sin + y * cos);
                }
            }
        }
    }
}

/// Braille dots, two by four in a cell.
struct Dots {
    area: Rect,
    cells: Vec<(u8, Style)>,
}

impl Dots {
    fn new(area: Rect) -> Dots {
        Dots { area, cells: vec![(0, Style::default()); area.area() as usize] }
    }

    fn put(&mut self, x: f64, y: f64, style: Style) {
        let (left, top) = (f64::from(self.area.x) * 2.0, f64::from(self.area.y) * 4.0);
        let (x, y) = (x - left, y - top);
        let (width, height) = (f64::from(self.area.width) * 2.0, f64::from(self.area.height) * 4.0);
        if x < 0.0 || y < 0.0 || x >= width || y >= height {
            return;
        }
        let (x, y) = (x as usize, y as usize);
        // Dots 1 2 3 7 in the left column, 4 5 6 8 in the right one, from the top.
        const BITS: [[u8; 2]; 4] = [[0x01, 0x08], [0x02, 0x10], [0x04, 0x20], [0x40, 0x80]];
        let at = y / 4 * usize::from(self.area.width) + x / 2;
        self.cells[at].0 |= BITS[y % 4][x % 2];
        self.cells[at].1 = style;
    }

    fn draw(&self, cells: &mut Cells) {
        for (at, (bits, style)) in self.cells.iter().enumerate().filter(|(_, c)| c.0 != 0) {
            let x = self.area.x + (at % usize::from(self.area.width)) as u16;
            let y = self.area.y + (at / usize::from(self.area.width)) as u16;
            let symbol = char::from_u32(0x2800 + u32::from(*bits)).unwrap_or(' ');
            cells.set_string(x, y, symbol.to_string(), *style);
        }
    }
}
