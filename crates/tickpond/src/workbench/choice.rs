//! What is chosen in the drawer and the feed, and where it leads: to an entity, a tick, a line.

use tickpond_sim::Who;

use super::app::{App, DrawerView, Effect};
use super::keys::Place;
use super::layout::body;
use super::roster;
use super::sim::Command;

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
                DrawerView::Lifelines => return self.choose_lane(by),
                DrawerView::Roster => return self.choose_row(by),
            }
        }
        let entities = &self.snapshot.entities;
        if entities.is_empty() {
            return Vec::new();
        }
        let now = self.focus.and_then(|who| entities.iter().position(|s| s.who.id == who.id));
        let to = match now {
            Some(at) => at.saturating_add_signed(by).min(entities.len() - 1),
            None => 0,
        };
        self.select(entities[to].who)
    }

    fn move_in_feed(&mut self, by: isize) {
        let count = self.snapshot.feed.len();
        let back = self.feed_back.unwrap_or(0).saturating_add_signed(-by);
        // One below the newest follows again.
        let follows = by > 0 && self.feed_back.is_none_or(|b| (b as isize) < by);
        self.feed_back = (!follows && count > 0).then(|| back.min(count - 1));
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
        let now = self.focus.and_then(|who| rows.iter().position(|w| w.id == who.id));
        let to = now.map_or(0, |at| at.saturating_add_signed(by).min(rows.len() - 1));
        self.select(rows[to])
    }

    pub(super) fn select(&mut self, who: Who) -> Vec<Effect> {
        self.focus = Some(who);
        vec![Effect::Tell(Command::Focus(Some(who)))]
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
        let story = self.snapshot.story.as_ref();
        let line =
            story.and_then(|s| if s.alive { s.born_line } else { s.end_line.or(s.born_line) });
        self.go_to_line(line, None)
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
        self.leave();
        self.mark_line(Some(lines[at]));
        Vec::new()
    }

    fn follow_feed(&mut self) -> Vec<Effect> {
        let at = self.feed_choice().or_else(|| self.snapshot.feed.len().checked_sub(1));
        let Some(line) = at.and_then(|at| self.snapshot.feed.get(at)).cloned() else {
            return Vec::new();
        };
        self.leave();
        let mut effects = self.select(line.who);
        effects.push(Effect::Tell(Command::Play(false)));
        effects.push(Effect::Tell(Command::Seek(line.tick)));
        self.mark_line(line.line);
        // The feed now ends at that tick.
        self.feed_back = None;
        effects
    }

    /// Goes to a line, and to the tick it ran in if that is known.
    pub(super) fn go_to_line(&mut self, line: Option<u32>, tick: Option<u64>) -> Vec<Effect> {
        match line {
            Some(number) => {
                self.leave();
                self.mark_line(line);
                // Keys go on meaning what they meant: nobody types into the text by looking at a line of it.
                // Only where the script is not to be seen beside the rest it takes its place.
                if self.areas().is_none_or(|areas| areas.script.is_empty()) {
                    self.place = Place::Script;
                } else {
                    self.message = Some((format!("line {number}: F2 goes there"), false));
                }
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
    fn mark_line(&mut self, line: Option<u32>) {
        if let Some(line) = line {
            let line = line as usize - 1;
            let indent = self.script.buffer.line(line).chars().take_while(|c| *c == ' ').count();
            self.script.buffer.go_to(line, indent);
            let text = self.script.buffer.text();
            self.script.folds.show(&text, line);
            self.centre(line);
        }
    }
}
