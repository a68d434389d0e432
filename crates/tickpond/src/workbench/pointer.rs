//! What the pointer does: pick, drag, scroll, go to a moment.

use crossterm::event::{KeyCode, KeyEvent, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};

use super::app::{App, Effect};
use super::arena::{View, parts};
use super::command::Command;
use super::keys::{Action, Place};
use super::layout::{Areas, body};
use super::script::draw::gutter_width;
use super::snapshot::Seen;
use super::strip;
use super::waiting::Came;

impl App {
    /// Arrow keys in the arena go to the nearest entity on that side.
    pub(super) fn point(&mut self, key: KeyEvent) -> Vec<Effect> {
        let (columns, rows) = match key.code {
            KeyCode::Left => (-1.0, 0.0),
            KeyCode::Right => (1.0, 0.0),
            _ => (0.0, 0.0),
        };
        if self.arena.cross.is_some() {
            self.move_cross(columns, rows);
            return Vec::new();
        }
        match key.code {
            KeyCode::Left => self.choose(-1),
            KeyCode::Right => self.choose(1),
            _ => Vec::new(),
        }
    }

    /// Takes in a pointer event.
    pub fn mouse(&mut self, mouse: MouseEvent) -> Vec<Effect> {
        if self.queue(Came::Mouse(mouse)) {
            return Vec::new();
        }
        let Some(areas) = self.areas() else { return Vec::new() };
        let at = Position::new(mouse.column, mouse.row);
        if self.over.help.is_some() || self.over.prompt.is_some() || self.over.menu.is_some() {
            return Vec::new();
        }
        if self.controls.on
            && areas.arena.contains(at)
            && let Some(effects) = self.point_play(mouse)
        {
            return effects;
        }
        match mouse.kind {
            MouseEventKind::ScrollUp => return self.wheel(at, &areas, -3),
            MouseEventKind::ScrollDown => return self.wheel(at, &areas, 3),
            MouseEventKind::Down(MouseButton::Left) | MouseEventKind::Drag(MouseButton::Left) => {}
            _ => return Vec::new(),
        }
        let drags = matches!(mouse.kind, MouseEventKind::Drag(_));
        if areas.strip.contains(at) {
            if !drags {
                self.leave();
            }
            let tick = strip::tick_at(&self.snapshot.strip, areas.strip, mouse.column);
            return vec![Effect::Tell(Command::Play(false)), Effect::Tell(Command::Seek(tick))];
        }
        if areas.script.contains(at) {
            self.bands.place = Place::Script;
            self.click_script(body(areas.script), at.x, at.y, drags);
        } else if areas.arena.contains(at) && !drags {
            self.bands.place = Place::Arena;
            return self.click_arena(parts(body(areas.arena)).0, at.x, at.y);
        } else if areas.drawer.contains(at) && !drags {
            self.bands.place = Place::Drawer;
            return self.click_drawer(&areas, at.x, at.y);
        }
        Vec::new()
    }

    fn wheel(&mut self, at: Position, areas: &Areas, by: isize) -> Vec<Effect> {
        if areas.script.contains(at) {
            let last = self.script.buffer.line_count() - 1;
            self.script.top = self.script.top.saturating_add_signed(by).min(last);
            return Vec::new();
        }
        if areas.arena.contains(at) {
            self.arena.camera.zoom(if by < 0 { 1.2 } else { 1.0 / 1.2 });
            return Vec::new();
        }
        if areas.drawer.contains(at) {
            self.bands.place = Place::Drawer;
            return self.choose(by);
        }
        Vec::new()
    }

    fn click_script(&mut self, text: Rect, x: u16, y: u16, drags: bool) {
        let line = self.script.line_at(usize::from(y.saturating_sub(text.y)));
        let column =
            usize::from(x.saturating_sub(text.x + gutter_width(self.script.buffer.line_count())))
                + self.script.left;
        if drags {
            self.script.buffer.drag_to(line, column);
        } else {
            self.script.buffer.go_to(line, column);
        }
    }

    fn click_arena(&mut self, area: Rect, x: u16, y: u16) -> Vec<Effect> {
        let Some(cast) = self.snapshot.cast.clone() else { return Vec::new() };
        let view = View::through(&self.arena.camera, &cast.arena, area);
        let place = view.unplace(x, y);
        if self.arena.cross.is_some() {
            self.arena.cross = Some(place);
            self.move_cross(0.0, 0.0);
            return Vec::new();
        }
        // As far as three cells away counts as meant.
        let reach = 6.0 / view.dots_per_u();
        let distance = |seen: &Seen| {
            let (dx, dy) = (seen.at.0 - place.0, seen.at.1 - place.1);
            (dx * dx + dy * dy).sqrt()
        };
        let nearest =
            self.snapshot.scene.entities.iter().min_by(|a, b| distance(a).total_cmp(&distance(b)));
        match nearest.filter(|seen| distance(seen) <= reach).map(|seen| seen.who) {
            Some(who) => self.select(who),
            None => self.act(Action::Unselect),
        }
    }

    /// A pointer input of the play goes where the pointer is.
    fn point_play(&mut self, mouse: MouseEvent) -> Option<Vec<Effect>> {
        let cast = self.snapshot.cast.clone()?;
        if !cast.inputs.iter().any(|input| input.pointer) {
            return None;
        }
        let moves = matches!(
            mouse.kind,
            MouseEventKind::Moved | MouseEventKind::Drag(_) | MouseEventKind::Down(_)
        );
        let area = parts(body(self.areas()?.arena)).0;
        if !moves {
            return None;
        }
        let at =
            View::through(&self.arena.camera, &cast.arena, area).unplace(mouse.column, mouse.row);
        let pointers = cast.inputs.iter().filter(|input| input.pointer);
        Some(pointers.map(|i| Effect::Tell(Command::Point(i.name.clone(), at))).collect())
    }

    fn click_drawer(&mut self, areas: &Areas, x: u16, y: u16) -> Vec<Effect> {
        if y == areas.drawer.y {
            return match super::screen::drawer_tab_at(areas.drawer, x) {
                Some(view) => {
                    self.go_to_drawer(view);
                    Vec::new()
                }
                None => Vec::new(),
            };
        }
        let (list, _) = self.drawer_parts(areas.drawer);
        (self.drawer.view.entry().click)(self, list, (x, y))
    }
}
