//! Going through the feed.

use ratatui::layout::Rect;

use super::draw::top;
use crate::workbench::app::{App, Effect};
use crate::workbench::command::Command;

pub fn choose(app: &mut App, by: isize) -> Vec<Effect> {
    app.move_in_feed(by);
    Vec::new()
}

pub fn enter(app: &mut App) -> Vec<Effect> {
    app.follow_feed()
}

pub fn click(app: &mut App, list: Rect, (_, y): (u16, u16)) -> Vec<Effect> {
    let row = usize::from(y.saturating_sub(list.y));
    let top = top(app, usize::from(list.height));
    app.drawer.feed_back = app.snapshot.feed.len().checked_sub(top + row + 1);
    Vec::new()
}

impl App {
    fn move_in_feed(&mut self, by: isize) {
        let count = self.snapshot.feed.len();
        let back = self.drawer.feed_back.unwrap_or(0).saturating_add_signed(-by);
        // One below the newest follows again.
        let follows = by > 0 && self.drawer.feed_back.is_none_or(|b| (b as isize) < by);
        self.drawer.feed_back = (!follows && count > 0).then(|| back.min(count - 1));
    }

    /// The chosen feed line, counted from the oldest.
    pub fn feed_choice(&self) -> Option<usize> {
        let back = self.drawer.feed_back?;
        (self.snapshot.feed.len()).checked_sub(back + 1)
    }

    fn follow_feed(&mut self) -> Vec<Effect> {
        let at = self.feed_choice().or_else(|| self.snapshot.feed.len().checked_sub(1));
        let Some(line) = at.and_then(|at| self.snapshot.feed.get(at)).cloned() else {
            return Vec::new();
        };
        self.leave();
        let mut effects = self.select_one(line.one);
        effects.push(Effect::Tell(Command::Play(false)));
        effects.push(Effect::Tell(Command::Seek(line.tick)));
        if let Some(here) = line.line.and_then(|line| self.line_here(line)) {
            self.mark_line(here);
        }
        // The feed now ends at that tick.
        self.drawer.feed_back = None;
        effects
    }
}
