//! The moment that was marked, and what lies between it and the present one.

use ratatui::style::Style;
use tickpond_lab::between::Between;

use super::app::App;
use super::palette::{Palette, Role};

impl App {
    /// Marks the present moment; without a mark again if there is one.
    pub(super) fn mark_moment(&mut self) {
        let tick = self.snapshot.travel.tick;
        let rate = self.snapshot.cast.as_ref().map_or(60.0, |cast| cast.rate);
        let words = match self.drawer.mark.take() {
            Some(_) => "no moment is marked".to_string(),
            None => {
                self.drawer.mark = Some(tick);
                let at = tick as f64 / rate;
                format!(
                    "marked {at:.2} s: go to another moment, and the time strip tells what lies between; g ends"
                )
            }
        };
        self.said.message = Some((words, false));
    }

    /// What lies between the mark and the present moment, in pieces.
    pub(super) fn between_told(&self, palette: &Palette) -> Vec<(String, Style)> {
        let Some(between) = &self.snapshot.answer.between else { return Vec::new() };
        let rate = self.snapshot.cast.as_ref().map_or(60.0, |cast| cast.rate);
        told(between, rate, palette)
    }
}

fn told(between: &Between, rate: f64, palette: &Palette) -> Vec<(String, Style)> {
    let seconds = |tick: u64| tick as f64 / rate;
    let ticks = between.to - between.from;
    let plain = palette.style(Role::Plain);
    let mut pieces = vec![(
        format!(
            "◆ {:.2} to {:.2} s: {:.2} s, {ticks} tick{}   ",
            seconds(between.from),
            seconds(between.to),
            seconds(ticks),
            if ticks == 1 { "" } else { "s" }
        ),
        palette.style(Role::Caution),
    )];
    pieces.push((format!("+{} ", between.born), palette.style(Role::Birth)));
    pieces.push((format!("−{}   ", between.ended), palette.style(Role::End)));
    for kind in &between.kinds {
        let by = i64::from(kind.after) - i64::from(kind.before);
        let words = match by {
            0 => format!("{} {} as before   ", kind.name, kind.after),
            _ => format!("{} {}→{} ({by:+})   ", kind.name, kind.before, kind.after),
        };
        pieces.push((words, plain));
    }
    pieces
}
