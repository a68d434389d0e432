//! What is chosen in the drawer and the feed, and where it leads: to an entity, a tick, a line.

use tickpond_sim::Who;

use super::app::{App, Effect};
use super::command::Command;
use super::keys::{Action, Place};
use super::layout::body;
use super::one::One;

use super::snapshot::Story;
use super::views::Filter;

impl App {
    pub(super) fn choose(&mut self, by: isize) -> Vec<Effect> {
        if self.bands.place == Place::Drawer {
            return (self.drawer.view.entry().choose)(self, by);
        }
        // Those the drawer lists, if it lists some; else all.
        let effects = match self.drawer.view.entry().filter {
            Filter::Entities => (self.drawer.view.entry().choose)(self, by),
            _ => {
                let all: Vec<Who> =
                    self.snapshot.scene.entities.iter().map(|seen| seen.who).collect();
                self.choose_among(&all, by)
            }
        };
        self.said.message = Some(match &self.focus {
            Some(one) => (format!("{} is selected", one.name()), false),
            None => ("there is nobody to select".into(), false),
        });
        effects
    }

    /// The next of those the drawer lists; as soon as the list is here.
    pub(super) fn choose_listed(&mut self, by: isize, listed: fn(&App) -> Vec<Who>) -> Vec<Effect> {
        if !self.is_listed() {
            return self.wait(match by {
                -1 => Action::Previous,
                1 => Action::Next,
                by if by < 0 => Action::PageUp,
                _ => Action::PageDown,
            });
        }
        let listed = listed(self);
        self.choose_among(&listed, by)
    }

    fn choose_among(&mut self, rows: &[Who], by: isize) -> Vec<Effect> {
        if rows.is_empty() {
            return Vec::new();
        }
        let now = rows.iter().position(|who| self.is_focus(*who));
        let to = now.map_or(0, |at| at.saturating_add_signed(by).min(rows.len() - 1));
        self.select(rows[to])
    }

    pub(super) fn select(&mut self, who: Who) -> Vec<Effect> {
        let one = self.snapshot.cast.as_ref().and_then(|cast| One::of(cast, who));
        self.select_one(one)
    }

    /// Selects one by its name, or none.
    pub(super) fn select_one(&mut self, one: Option<One>) -> Vec<Effect> {
        self.focus.clone_from(&one);
        self.follow();
        vec![Effect::Tell(Command::Focus(one))]
    }

    // Where the story of the selected one leads.

    pub(super) fn go_to_birth(&mut self, story: Option<Story>) -> Vec<Effect> {
        let story = story.as_ref();
        self.go_to_line(story.and_then(|s| s.born_line), story.and_then(|s| s.born_tick))
    }

    pub(super) fn go_to_end(&mut self, story: Option<Story>) -> Vec<Effect> {
        if let Some(story) = story.as_ref().filter(|story| story.alive) {
            self.said.message =
                Some((format!("{} is alive: nothing has ended it", story.name), false));
            return Vec::new();
        }
        let story = story.as_ref();
        self.go_to_line(story.and_then(|s| s.end_line), story.and_then(|s| s.end_tick))
    }

    pub(super) fn go_to_hurt(&mut self, story: Option<Story>) -> Vec<Effect> {
        if let Some(story) = story.as_ref().filter(|story| story.hurt.is_none()) {
            self.said.message = Some((format!("{} has not been hurt", story.name), false));
            return Vec::new();
        }
        let hurt = story.and_then(|s| s.hurt);
        self.go_to_line(hurt.and_then(|h| h.1), hurt.map(|h| h.0))
    }

    pub(super) fn go_to_maker(&mut self, story: Option<Story>) -> Vec<Effect> {
        match story.as_ref().map(|s| s.maker.clone()) {
            Some(Some(maker)) => {
                self.leave();
                self.select_one(Some(maker))
            }
            Some(None) => {
                self.said.message =
                    Some(("its maker is the pond, or is not on record".into(), false));
                Vec::new()
            }
            None => self.go_to_line(None, None),
        }
    }

    fn go_to_present_line(&mut self, story: Option<Story>) -> Vec<Effect> {
        let line =
            story.and_then(|s| if s.alive { s.born_line } else { s.end_line.or(s.born_line) });
        self.go_to_line(line, None)
    }

    pub(super) fn follow_choice(&mut self) -> Vec<Effect> {
        if self.bands.place == Place::Drawer {
            return (self.drawer.view.entry().enter)(self);
        }
        self.follow_selected()
    }

    /// To the line that made the selected one, or ended it.
    pub(super) fn follow_selected(&mut self) -> Vec<Effect> {
        self.with_story(Action::Choose, App::go_to_present_line)
    }

    /// Goes to a line, and to the tick it ran in if that is known.
    pub(super) fn go_to_line(&mut self, line: Option<u32>, tick: Option<u64>) -> Vec<Effect> {
        match line {
            Some(number) => {
                let Some(here) = self.line_here(number) else {
                    self.said.message =
                        Some((format!("line {number} is not in the text any more"), true));
                    return Vec::new();
                };
                self.leave();
                self.mark_line(here);
                self.said.message = Some((format!("line {}: F2 goes there", here + 1), false));
            }
            None if self.focus.is_none() => {
                self.said.message =
                    Some(("select an entity first: arrows or a click".into(), false));
            }
            None => self.said.message = Some(("no line is on record for that".into(), false)),
        }
        match tick.filter(|tick| line.is_some() && *tick <= self.snapshot.travel.head) {
            Some(tick) => {
                vec![Effect::Tell(Command::Play(false)), Effect::Tell(Command::Seek(tick))]
            }
            None => Vec::new(),
        }
    }

    /// Scrolls a line into the middle, so that what stands around it is seen, too.
    pub(super) fn centre(&mut self, line: usize) {
        let rows = self.areas().map_or(20, |a| usize::from(body(a.script).height));
        self.script.top = line.saturating_sub(rows.max(12) / 2);
        self.script.left = 0;
        self.scroll();
    }

    /// Puts the script's cursor on a line without going there.
    pub(super) fn mark_line(&mut self, line: usize) {
        let indent = self.script.buffer.line(line).chars().take_while(|c| *c == ' ').count();
        self.look_at(line, indent);
    }

    /// Puts the script's cursor somewhere and brings it in sight. Keys go on meaning what they meant: nobody types
    /// into the text by looking at a line of it. Where there is no room for the script beside the rest, it is shown
    /// until the next key.
    pub(super) fn look_at(&mut self, line: usize, column: usize) {
        self.script.buffer.go_to(line, column);
        let text = self.script.buffer.text();
        self.script.folds.show(&text, line);
        self.bands.peeks = self.areas().is_none_or(|areas| areas.script.is_empty());
        self.centre(line);
    }
}
