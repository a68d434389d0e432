//! What is chosen in the drawer and the feed, and where it leads: to an entity, a tick, a line.

use tickpond_sim::Who;

use super::app::{App, DrawerView, Effect};
use super::keys::{Action, Place};
use super::layout::body;
use super::one::One;
use super::roster;
use super::sim::Command;
use super::snapshot::Story;

impl App {
    pub(super) fn choose(&mut self, by: isize) -> Vec<Effect> {
        if self.place == Place::Drawer {
            let moved =
                |at: usize, count: usize| at.saturating_add_signed(by).min(count.saturating_sub(1));
            match self.drawer {
                DrawerView::Feed => {
                    self.move_in_feed(by);
                    return Vec::new();
                }
                DrawerView::Trends => {
                    let names = self.snapshot.answer.chart.as_ref().map_or(0, |c| c.names);
                    let at = (self.series as isize + by.signum()).rem_euclid(names as isize + 1);
                    self.series = at as usize;
                    return Vec::new();
                }
                DrawerView::Checks => {
                    self.check_at = moved(self.check_at, self.check_rows());
                    return Vec::new();
                }
                DrawerView::Knobs => {
                    self.knob_at = moved(self.knob_at, self.tunables.len());
                    return Vec::new();
                }
                DrawerView::Anatomy => {
                    self.drawer_top = moved(self.drawer_top, self.snapshot.answer.anatomy.len());
                    return Vec::new();
                }
                DrawerView::Lifelines | DrawerView::Roster => return self.choose_listed(by),
            }
        }
        // Those the drawer lists, if it lists some; else all.
        let effects = match self.drawer {
            DrawerView::Roster | DrawerView::Lifelines => self.choose_listed(by),
            _ => {
                let all: Vec<Who> = self.snapshot.entities.iter().map(|seen| seen.who).collect();
                self.choose_among(&all, by)
            }
        };
        self.message = Some(match &self.focus {
            Some(one) => (format!("{} is selected", one.name()), false),
            None => ("there is nobody to select".into(), false),
        });
        effects
    }

    fn move_in_feed(&mut self, by: isize) {
        let count = self.snapshot.feed.len();
        let back = self.feed_back.unwrap_or(0).saturating_add_signed(-by);
        // One below the newest follows again.
        let follows = by > 0 && self.feed_back.is_none_or(|b| (b as isize) < by);
        self.feed_back = (!follows && count > 0).then(|| back.min(count - 1));
    }

    /// The next of those the drawer lists; as soon as the list is here.
    fn choose_listed(&mut self, by: isize) -> Vec<Effect> {
        if !self.is_listed() {
            return self.wait(match by {
                -1 => Action::Previous,
                1 => Action::Next,
                by if by < 0 => Action::PageUp,
                _ => Action::PageDown,
            });
        }
        match self.drawer {
            DrawerView::Roster => self.choose_row(by),
            _ => self.choose_lane(by),
        }
    }

    fn choose_row(&mut self, by: isize) -> Vec<Effect> {
        let rows: Vec<Who> = roster::rows(&self.snapshot).map(|seen| seen.who).collect();
        self.choose_among(&rows, by)
    }

    fn choose_lane(&mut self, by: isize) -> Vec<Effect> {
        let rows: Vec<Who> = self.snapshot.answer.lanes.iter().map(|lane| lane.who).collect();
        self.choose_among(&rows, by)
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
        let one = self.snapshot.program.as_ref().and_then(|program| One::of(program, who));
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
            self.message = Some((format!("{} is alive: nothing has ended it", story.name), false));
            return Vec::new();
        }
        let story = story.as_ref();
        self.go_to_line(story.and_then(|s| s.end_line), story.and_then(|s| s.end_tick))
    }

    pub(super) fn go_to_hurt(&mut self, story: Option<Story>) -> Vec<Effect> {
        if let Some(story) = story.as_ref().filter(|story| story.hurt.is_none()) {
            self.message = Some((format!("{} has not been hurt", story.name), false));
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
                self.message = Some(("its maker is the pond, or is not on record".into(), false));
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

    /// The chosen feed line, counted from the oldest.
    pub fn feed_choice(&self) -> Option<usize> {
        let back = self.feed_back?;
        (self.snapshot.feed.len()).checked_sub(back + 1)
    }

    pub(super) fn follow_choice(&mut self) -> Vec<Effect> {
        if self.place == Place::Drawer {
            match self.drawer {
                DrawerView::Feed => return self.follow_feed(),
                DrawerView::Checks => return self.follow_check(),
                DrawerView::Knobs => {
                    let line = self.tunables.get(self.knob_at).map(|t| t.line);
                    return self.go_to_line(line, None);
                }
                DrawerView::Trends => return self.follow_here(),
                DrawerView::Anatomy => {
                    let lines = &self.snapshot.answer.anatomy;
                    let line = lines.get(self.drawer_top).and_then(|l| l.line());
                    return self.go_to_line(line, None);
                }
                _ => {}
            }
        }
        self.with_story(Action::Choose, App::go_to_present_line)
    }

    /// To the next of the lines that made or ended something where the chart's cursor is.
    fn follow_here(&mut self) -> Vec<Effect> {
        let here = &self.snapshot.answer.here;
        let lines: Vec<u32> = here.lines.iter().filter_map(|line| line.line).collect();
        let Some(count) = std::num::NonZeroUsize::new(lines.len()) else {
            let words = match self.snapshot.playing {
                true => "pause first: then the lines of this moment are known",
                false => "nothing was born or ended here by a line: , and . step",
            };
            self.message = Some((words.into(), false));
            return Vec::new();
        };
        let at = if self.here_at.0 == here.ticks { (self.here_at.1 + 1) % count } else { 0 };
        self.here_at = (here.ticks, at);
        self.go_to_line(Some(lines[at]), None)
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
        self.feed_back = None;
        effects
    }

    /// Goes to a line, and to the tick it ran in if that is known.
    pub(super) fn go_to_line(&mut self, line: Option<u32>, tick: Option<u64>) -> Vec<Effect> {
        match line {
            Some(number) => {
                let Some(here) = self.line_here(number) else {
                    self.message =
                        Some((format!("line {number} is not in the text any more"), true));
                    return Vec::new();
                };
                self.leave();
                self.mark_line(here);
                self.message = Some((format!("line {}: F2 goes there", here + 1), false));
            }
            None if self.focus.is_none() => {
                self.message = Some(("select an entity first: arrows or a click".into(), false));
            }
            None => self.message = Some(("no line is on record for that".into(), false)),
        }
        match tick.filter(|tick| line.is_some() && *tick <= self.snapshot.head) {
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
    fn mark_line(&mut self, line: usize) {
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
        self.peeks = self.areas().is_none_or(|areas| areas.script.is_empty());
        self.centre(line);
    }
}
