//! Looking around in the arena: panning, the cross, measuring.

use super::View;
use crate::workbench::app::App;
use crate::workbench::layout::body;

impl App {
    /// The arena as it is looked at now.
    pub fn arena_view(&self) -> Option<View> {
        let cast = self.snapshot.cast.as_ref()?;
        let area = self.areas().map(|a| a.arena).filter(|a| !a.is_empty());
        // Without an arena on the screen a usual size stands in.
        let area = area.map_or(ratatui::layout::Rect::new(0, 0, 80, 20), body);
        Some(View::through(&self.arena.camera, &cast.arena, area))
    }

    /// Looks a fifth of what is in sight to a side.
    pub(in crate::workbench) fn pan(&mut self, right: f64, down: f64) {
        let Some(cast) = self.snapshot.cast.clone() else { return };
        let Some(view) = self.arena_view() else { return };
        let (width, height) = view.sight();
        let up = if cast.arena.y_up { -down } else { down };
        let (x, y) = view.centre();
        let arena = &cast.arena;
        let x = (x + right * width / 5.0).clamp(arena.low.0, arena.high.0);
        let y = (y + up * height / 5.0).clamp(arena.low.1, arena.high.1);
        self.arena.camera.centre = Some((x, y));
        self.arena.camera.follows = false;
    }

    pub(in crate::workbench) fn switch_cross(&mut self) {
        self.arena.cross = match self.arena.cross {
            Some(_) => None,
            None => Some(self.cross_or_middle()),
        };
        if self.arena.cross.is_some() {
            let words = "arrows move the cross; i puts something there, d measures, x ends";
            self.said.message = Some((words.into(), false));
        } else {
            self.arena.measured_from = None;
        }
    }

    /// The cross, else the selected one, else what is in the middle.
    pub(in crate::workbench) fn cross_or_middle(&self) -> (f64, f64) {
        let selected = self.seen_focus().map(|seen| seen.at);
        let middle = || self.arena_view().map(|view| view.centre());
        self.arena.cross.or(selected).or_else(middle).unwrap_or((0.0, 0.0))
    }

    /// Moves the cross by cells; false if there is none.
    pub(in crate::workbench) fn move_cross(&mut self, columns: f64, rows: f64) -> bool {
        let (Some(at), Some(view)) = (self.arena.cross, self.arena_view()) else { return false };
        let (x, y) = view.place(at);
        // The middle of the next cell.
        let (x, y) = (x.floor() + columns, y.floor() + rows);
        let area = view.area();
        let x = x.clamp(f64::from(area.x), f64::from(area.right().saturating_sub(1)));
        let y = y.clamp(f64::from(area.y), f64::from(area.bottom().saturating_sub(1)));
        self.arena.cross = Some(view.unplace(x as u16, y as u16));
        if let Some(from) = self.arena.measured_from {
            self.tell_distance(from);
        }
        true
    }

    /// The first time from here, the second time the distance to the cross.
    pub(in crate::workbench) fn measure(&mut self) {
        match self.arena.measured_from.take() {
            Some(from) => self.tell_distance(from),
            None => {
                let at = self.cross_or_middle();
                self.arena.measured_from = Some(at);
                self.arena.cross = Some(at);
                let words = "measuring from here: move the cross with the arrows, d ends";
                self.said.message = Some((words.into(), false));
            }
        }
    }

    fn tell_distance(&mut self, from: (f64, f64)) {
        let Some(cast) = self.snapshot.cast.clone() else { return };
        let to = self.cross_or_middle();
        let (dx, dy) = tickpond_sim::space::offset(&cast.arena, from, to);
        let direction = tickpond_sim::angle::direction(dx, dy).unwrap_or(0.0);
        let words = format!(
            "from ({:.1}, {:.1}) to ({:.1}, {:.1}): {:.2} u, {direction:.1} deg",
            from.0,
            from.1,
            to.0,
            to.1,
            (dx * dx + dy * dy).sqrt()
        );
        self.said.message = Some((words, false));
    }
}
