//! Looking around in the arena: panning, the cross, measuring.

use super::{View, parts};
use crate::workbench::app::App;
use crate::workbench::layout::body;
use crate::workbench::tint::Tint;

impl App {
    /// The arena as it is looked at now.
    pub fn arena_view(&self) -> Option<View> {
        let cast = self.snapshot.cast.as_ref()?;
        let area = self.areas().map(|a| a.arena).filter(|a| !a.is_empty());
        // Without an arena on the screen a usual size stands in.
        let area =
            area.map_or(ratatui::layout::Rect::new(0, 0, 80, 20), |area| parts(body(area)).0);
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

    /// Colours stand for the next thing there is.
    pub(in crate::workbench) fn next_tint(&mut self) {
        let choices = self.known.program.as_ref().map(|program| Tint::choices(program));
        let choices = choices.unwrap_or_default();
        self.arena.tint = self.arena.tint.next(&choices);
        let after = self.arena.tint.next(&choices);
        let words =
            format!("colours stand for {}; next: {}", self.arena.tint.words(), after.words());
        self.said.message = Some((words, false));
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
        let area = view.area();
        let within = |at: f64, low: u16, high: u16| {
            at.clamp(f64::from(low) + 0.5, (f64::from(high) - 0.5).max(f64::from(low) + 0.5))
        };
        let x = if columns == 0.0 { x } else { within(x + columns, area.x, area.right()) };
        let y = if rows == 0.0 { y } else { within(y + rows, area.y, area.bottom()) };
        self.arena.cross = Some(view.unplace_at(x, y));
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
