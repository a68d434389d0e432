//! A guide through a pond: its expectations one by one as steps, each ticked off when it has come true.
//!
//! A lesson is a pond. What is to be done stands in the words of an expectation, and how in the comment above it; the
//! program judges it as it judges any other.

use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use tickpond_lab::Outcome;

use super::app::App;
use super::fitted::fitted;
use super::held::Guide;
use super::layout::SMALLEST;
use super::palette::{Palette, Role};

/// How the first line of a lesson begins: it opens with its guide.
const LESSON: &str = "// Lesson";
/// Screens lower than this have one line for the guide.
const LOW: u16 = 22;

impl App {
    /// Whether the text asks to be gone through with its guide.
    pub(super) fn is_lesson(text: &str) -> bool {
        text.starts_with(LESSON)
    }

    /// Begins the guide, or ends it.
    pub(super) fn switch_guide(&mut self) {
        if self.guide.take().is_some() {
            self.said.message = Some(("the guide is over; G begins it anew".into(), false));
            return;
        }
        if self.snapshot.checks.is_empty() {
            let words = "nothing is expected in this pond: each `expect` would be a step";
            self.said.message = Some((words.into(), true));
            return;
        }
        self.guide = Some(Guide::default());
        self.tick_off();
    }

    /// Ticks off what holds by now.
    pub(super) fn tick_off(&mut self) {
        let Some(guide) = &mut self.guide else { return };
        let held = self.snapshot.checks.iter().filter(|check| check.outcome == Outcome::Held);
        guide.done.extend(held.map(|check| check.words.clone()));
    }

    /// How many rows the guide takes from the screen.
    pub(super) fn guide_rows(&self) -> u16 {
        match self.guide {
            None => 0,
            // On the lowest screens the bands need every row.
            Some(_) if self.bands.screen.height <= SMALLEST.1 => 0,
            Some(_) if self.bands.screen.height < LOW => 1,
            Some(_) => 2,
        }
    }

    /// The comment above a line of the text that plays, from 1: all its lines as one.
    fn comment_above(&self, line: u32) -> String {
        let text = &self.snapshot.script.text;
        let before: Vec<&str> = text.lines().take(line as usize - 1).collect();
        let comment = before.iter().rev().take_while(|line| line.trim_start().starts_with("//"));
        let mut lines: Vec<&str> =
            comment.map(|line| line.trim_start().trim_start_matches('/').trim()).collect();
        lines.reverse();
        lines.join(" ")
    }
}

/// Draws the step that is to be done next, and how.
pub fn draw(app: &App, area: Rect, cells: &mut Cells, palette: &Palette) {
    let (Some(guide), false) = (&app.guide, area.is_empty()) else { return };
    let checks = &app.snapshot.checks;
    let next = checks.iter().enumerate().find(|(_, check)| !guide.done.contains(&check.words));
    let ticks: String = checks
        .iter()
        .map(|check| if guide.done.contains(&check.words) { '✓' } else { '·' })
        .collect();
    let (words, how) = match next {
        Some((at, check)) => {
            let above = check.line.map_or(String::new(), |line| app.comment_above(line));
            (format!("step {} of {}: {}", at + 1, checks.len(), check.words), above)
        }
        None => (
            format!("all {} steps are done", checks.len()),
            "Ctrl+O opens another pond, G ends the guide".into(),
        ),
    };
    let width = usize::from(area.width);
    let ground = palette.is_coloured().then(|| palette.paint(palette.band()));
    let base = palette.style(Role::Strong);
    let (strong, plain) = match ground {
        Some(ground) => (base.bg(ground), palette.style(Role::Plain).bg(ground)),
        None => (base, palette.style(Role::Plain)),
    };
    let first = fitted(&format!(" {ticks}  {words}"), width);
    cells.set_stringn(area.x, area.y, format!("{first:width$}"), width, strong);
    if area.height > 1 {
        let second = fitted(&format!(" {how}"), width);
        cells.set_stringn(area.x, area.y + 1, format!("{second:width$}"), width, plain);
    }
}
