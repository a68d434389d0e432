//! What the pointer does: pick, drag, scroll, go to a moment.

use crossterm::event::{KeyCode, KeyEvent, MouseButton, MouseEvent, MouseEventKind};
use ratatui::layout::{Position, Rect};

use super::app::{App, DrawerView, Effect};
use super::arena::View;
use super::keys::{Action, Place};
use super::layout::{self, Areas, body};
use super::script::draw::GUTTER;
use super::sim::Command;
use super::snapshot::Seen;
use super::{feed, roster, strip};

impl App {
    /// Arrow keys in the arena go to the nearest entity on that side.
    pub(super) fn point(&mut self, key: KeyEvent) -> Vec<Effect> {
        match key.code {
            KeyCode::Left => self.choose(-1),
            KeyCode::Right => self.choose(1),
            _ => Vec::new(),
        }
    }

    /// Takes in a pointer event.
    pub fn mouse(&mut self, mouse: MouseEvent) -> Vec<Effect> {
        let Some(areas) = self.areas() else { return Vec::new() };
        let at = Position::new(mouse.column, mouse.row);
        if self.help.is_some() || self.prompt.is_some() {
            return Vec::new();
        }
        match mouse.kind {
            MouseEventKind::ScrollUp => return self.wheel(at, &areas, -3),
            MouseEventKind::ScrollDown => return self.wheel(at, &areas, 3),
            MouseEventKind::Down(MouseButton::Left) | MouseEventKind::Drag(MouseButton::Left) => {}
            _ => return Vec::new(),
        }
        let drags = matches!(mouse.kind, MouseEventKind::Drag(_));
        if areas.strip.contains(at) {
            let tick = strip::tick_at(&self.snapshot.strip, areas.strip, mouse.column);
            return vec![Effect::Tell(Command::Play(false)), Effect::Tell(Command::Seek(tick))];
        }
        if areas.script.contains(at) {
            self.place = Place::Script;
            self.click_script(body(areas.script), at.x, at.y, drags);
        } else if areas.arena.contains(at) && !drags {
            self.place = Place::Arena;
            return self.click_arena(body(areas.arena), at.x, at.y);
        } else if areas.drawer.contains(at) && !drags {
            self.place = Place::Drawer;
            return self.click_drawer(&areas, at.y);
        }
        Vec::new()
    }

    fn wheel(&mut self, at: Position, areas: &Areas, by: isize) -> Vec<Effect> {
        if areas.script.contains(at) {
            let last = self.script.buffer.line_count() - 1;
            self.script.top = self.script.top.saturating_add_signed(by).min(last);
            return Vec::new();
        }
        if areas.drawer.contains(at) {
            self.place = Place::Drawer;
            return self.choose(by);
        }
        Vec::new()
    }

    fn click_script(&mut self, text: Rect, x: u16, y: u16, drags: bool) {
        let line = self.script.line_at(usize::from(y.saturating_sub(text.y)));
        let column = usize::from(x.saturating_sub(text.x + GUTTER)) + self.script.left;
        if drags {
            self.script.buffer.drag_to(line, column);
        } else {
            self.script.buffer.go_to(line, column);
        }
    }

    fn click_arena(&mut self, area: Rect, x: u16, y: u16) -> Vec<Effect> {
        let Some(program) = self.snapshot.program.clone() else { return Vec::new() };
        let view = View::new(&program.arena, area);
        let place = view.unplace(x, y);
        // As far as three cells away counts as meant.
        let reach = 6.0 / view.dots_per_u();
        let distance = |seen: &Seen| {
            let (dx, dy) = (seen.at.0 - place.0, seen.at.1 - place.1);
            (dx * dx + dy * dy).sqrt()
        };
        let nearest =
            self.snapshot.entities.iter().min_by(|a, b| distance(a).total_cmp(&distance(b)));
        match nearest.filter(|seen| distance(seen) <= reach).map(|seen| seen.who) {
            Some(who) => self.select(who),
            None => self.act(Action::Unselect),
        }
    }

    fn click_drawer(&mut self, areas: &Areas, y: u16) -> Vec<Effect> {
        let (list, _) = layout::drawer_parts(areas.drawer);
        let row = usize::from(y.saturating_sub(list.y));
        match self.drawer {
            DrawerView::Roster => {
                let top = roster::top(self, usize::from(list.height));
                let at = (top + row).checked_sub(1);
                match at.and_then(|at| self.snapshot.entities.get(at)).map(|s| s.who) {
                    Some(who) => self.select(who),
                    None => Vec::new(),
                }
            }
            DrawerView::Feed => {
                let top = feed::top(self, usize::from(list.height));
                let count = self.snapshot.feed.len();
                self.feed_back = count.checked_sub(top + row + 1);
                Vec::new()
            }
        }
    }
}
