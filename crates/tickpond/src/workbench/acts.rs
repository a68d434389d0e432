//! Carrying out the commands of the key table.

use super::app::{App, Effect};
use super::command::{Command, Hunt};
use super::history::Stand;
use super::keys::{Action, Place};
use super::menu::{Entry, Menu, Opening};
use super::places;
use super::prompt::{After, Ask, Prompt};
use super::settings::Edits;
use super::views::{DrawerView, Filter};

impl App {
    /// Carries out a command, wherever it was asked for.
    pub fn act(&mut self, action: Action) -> Vec<Effect> {
        // What is chosen and turned on the screen is a part of the text as it is now, not as it was when it was
        // compiled last: several keys can come at once.
        let mut effects = self.compile();
        effects.extend(self.do_it(action));
        effects
    }

    fn do_it(&mut self, action: Action) -> Vec<Effect> {
        self.go_where(action);
        let second = self.snapshot.cast.as_ref().map_or(60, |p| p.rate as i64);
        let tell = |command| vec![Effect::Tell(command)];
        match action {
            Action::PlayPause => return tell(Command::PlayPause),
            Action::StepOn => return tell(Command::Step(1)),
            Action::StepBack => return tell(Command::Step(-1)),
            Action::SecondOn => return tell(Command::Step(second)),
            Action::SecondBack => return tell(Command::Step(-second)),
            Action::ToStart => return self.seek(0),
            Action::ToHead => return self.seek(u64::MAX),
            Action::ToTime => self.ask(Ask::Time, ""),
            Action::NextEvent => return self.hunt(true),
            Action::PreviousEvent => return self.hunt(false),
            Action::FirstBroken => {
                self.leave();
                return tell(Command::FirstBroken);
            }
            Action::PauseWhen => self.ask(Ask::PauseWhen, ""),
            Action::Faster => return self.change_speed(2.0),
            Action::Slower => return self.change_speed(0.5),
            Action::Restart => return self.restart(0),
            Action::NextSeed => return self.restart(1),
            Action::EditsMode => return self.switch_edits(),
            Action::PlayTape => self.ask_tape(),
            Action::RecordTape => match self.snapshot.play.recording {
                Some(_) => self.ask(Ask::TapeName, ""),
                None => return tell(Command::Tape(None)),
            },
            Action::Branches => self.list_branches(),
            Action::NewestBranch => return self.newest_branch(),
            Action::Memory => self.tell_memory(),
            Action::Script => {
                let effects = self.let_go();
                self.bands.place = Place::Script;
                return effects;
            }
            Action::Arena => self.bands.place = Place::Arena,
            Action::Drawer => self.bands.place = Place::Drawer,
            Action::NextBand => self.bands.place = next(self.bands.place),
            Action::PreviousBand => self.bands.place = next(self.bands.place),
            Action::Zoom => self.bands.zoomed = !self.bands.zoomed,
            Action::Back => return self.travel(true),
            Action::Forward => return self.travel(false),
            Action::View(view) => self.go_to_drawer(view),
            Action::Own(view, at) => {
                let own = view.entry().commands.get(at);
                return own.map_or_else(Vec::new, |own| (own.act)(self));
            }
            Action::Filter => self.ask_filter(),
            Action::Controls => return self.take_controls(),
            Action::Previous => return self.choose(-1),
            Action::Next => return self.choose(1),
            Action::PageUp => return self.choose(-10),
            Action::PageDown => return self.choose(10),
            Action::Choose => return self.follow_choice(),
            Action::BirthLine => return self.with_story(action, App::go_to_birth),
            Action::EndLine => return self.with_story(action, App::go_to_end),
            Action::HurtLine => return self.with_story(action, App::go_to_hurt),
            Action::Maker => return self.with_story(action, App::go_to_maker),
            Action::Unselect => {
                self.arena.camera.follows = false;
                return self.select_one(None);
            }
            Action::Follow => {
                self.arena.camera.follows = !self.arena.camera.follows;
                self.follow();
                let words = match (self.arena.camera.follows, &self.focus) {
                    (true, None) => "follows whoever is selected next",
                    (true, _) => "follows the selected one",
                    _ => "follows nobody",
                };
                self.said.message = Some((words.into(), false));
            }
            Action::ZoomIn => self.arena.camera.zoom(1.4),
            Action::ZoomOut => self.arena.camera.zoom(1.0 / 1.4),
            Action::Fit => self.arena.camera.fit(),
            Action::PanLeft => self.pan(-1.0, 0.0),
            Action::PanRight => self.pan(1.0, 0.0),
            Action::PanUp => self.pan(0.0, -1.0),
            Action::PanDown => self.pan(0.0, 1.0),
            Action::Layers => self.over.prompt = Some(Prompt::Layers),
            Action::Pin => {
                let one = self.focus.as_ref().map(|one| format!("{}.health", one.name()));
                self.ask(Ask::Pin, one.unwrap_or_default());
            }
            Action::Tint => self.next_tint(),
            Action::Pixels => {
                self.arena.pixels = !self.arena.pixels;
                let words = if self.arena.pixels { "drawn in pixels" } else { "drawn in cells" };
                self.said.message = Some((words.into(), false));
            }
            Action::MarkMoment => self.mark_moment(),
            Action::Aim => self.switch_cross(),
            Action::PlaceHere => {
                let at = self.cross_or_middle();
                self.ask(Ask::PlaceWhat(at), "");
            }
            Action::Measure => self.measure(),
            Action::LineFirings => self.firings_of_line(),
            Action::WhyNot => return self.ask_why_not(),
            Action::Complete => self.complete(),
            Action::Tell => self.tell_word(),
            Action::Definition => self.go_to_definition(),
            Action::Uses => self.go_to_use(),
            Action::Rename => match self.name_here() {
                Some(name) => self.ask(Ask::Rename, name.text),
                None => {
                    self.said.message = Some(("there is no name under the cursor".into(), false))
                }
            },
            Action::Find => {
                let typed = self.script.buffer.selected_text().unwrap_or_default();
                self.ask(Ask::Find, typed.lines().next().unwrap_or(""));
            }
            Action::FindNext => self.find_next(),
            Action::ReplaceAll => {
                let what =
                    self.script.buffer.selected_text().unwrap_or(self.known.searched.clone());
                match what.is_empty() {
                    true => {
                        let words = "search for something first (Ctrl+F), or select it";
                        self.said.message = Some((words.into(), false));
                    }
                    false => self.ask(Ask::ReplaceBy(what), ""),
                }
            }
            Action::Comment => self.comment(),
            Action::Format => self.format(),
            Action::NextRemark => self.next_remark(),
            Action::Mute => self.mute(),
            Action::Fold => {
                let (line, _) = self.script.buffer.cursor();
                let text = self.script.buffer.text();
                if self.script.folds.toggle(&text, line) {
                    self.script.leave_folds(false);
                } else {
                    self.said.message = Some(("nothing to fold here".into(), false));
                }
            }
            Action::FoldAll => {
                let text = self.script.buffer.text();
                self.script.folds.toggle_all(&text);
                self.script.leave_folds(false);
            }
            Action::Save => return self.save(After::Stay),
            Action::SaveAs => self.ask_name(After::Stay),
            Action::Open => {
                self.over.menu = Some(ponds_menu(false));
                self.look_ahead();
            }
            Action::Undo => self.undo_or_redo(true),
            Action::Redo => self.undo_or_redo(false),
            Action::Copy => return self.copy(),
            Action::Cut => {
                self.known.clipboard = self.script.buffer.cut();
                return vec![Effect::Clipboard(self.known.clipboard.clone())];
            }
            Action::Paste => {
                let text = self.known.clipboard.clone();
                self.script.buffer.insert(&text);
            }
            Action::SelectAll => self.script.buffer.select_all(),
            Action::Export => return self.export(),
            Action::Guide => self.switch_guide(),
            Action::Theme => {
                self.settings.theme = self.settings.theme.next();
                self.said.message = Some((format!("theme: {}", self.settings.theme.name()), false));
                return vec![Effect::KeepSettings];
            }
            Action::Palette => {
                self.over.menu = Some(Menu::Commands { typed: String::new(), chosen: 0 });
            }
            Action::Help => self.over.help = Some(0),
            Action::Quit => return self.quit(),
        }
        Vec::new()
    }

    // Time.

    pub(super) fn stand(&self) -> Stand {
        Stand {
            tick: self.snapshot.travel.tick,
            who: self.focus.clone(),
            cursor: self.script.buffer.cursor(),
            place: self.bands.place,
        }
    }

    pub(super) fn seek(&mut self, tick: u64) -> Vec<Effect> {
        self.leave();
        vec![Effect::Tell(Command::Seek(tick))]
    }

    fn travel(&mut self, back: bool) -> Vec<Effect> {
        let now = self.stand();
        let to = if back { self.history.back(now) } else { self.history.forward(now) };
        let Some(to) = to else {
            let side = if back { "back" } else { "forward" };
            self.said.message = Some((format!("there is nothing further {side}"), false));
            return Vec::new();
        };
        // Nobody comes to type into the text by going back.
        if to.place != Place::Script {
            self.bands.place = to.place;
        }
        self.look_at(to.cursor.0, to.cursor.1);
        self.bands.peeks &= to.place == Place::Script;
        let mut effects = self.select_one(to.who);
        effects.push(Effect::Tell(Command::Play(false)));
        effects.push(Effect::Tell(Command::Seek(to.tick)));
        effects
    }

    fn hunt(&mut self, on: bool) -> Vec<Effect> {
        self.leave();
        let filtered = self.drawer.view.entry().filter == Filter::Events
            && !self.drawer.feed_filter.is_empty();
        let hunt = match &self.focus {
            Some(one) if !filtered => Hunt::Of(one.clone()),
            _ => Hunt::Like(self.drawer.feed_filter.clone()),
        };
        vec![Effect::Tell(Command::Find(hunt, on))]
    }

    fn change_speed(&mut self, factor: f64) -> Vec<Effect> {
        vec![Effect::Tell(Command::Faster(factor))]
    }

    fn restart(&mut self, seeds_on: u64) -> Vec<Effect> {
        self.end_run(After::Restart(seeds_on))
    }

    fn switch_edits(&mut self) -> Vec<Effect> {
        let (edits, words) = match self.settings.edits {
            Edits::Fork => (Edits::Restart, "edits: the run is played anew up to the present tick"),
            Edits::Restart => (Edits::Fork, "edits: the run goes on from the present tick"),
        };
        self.settings.edits = edits;
        self.said.message = Some((words.into(), false));
        vec![Effect::Tell(Command::EditsFork(edits == Edits::Fork)), Effect::KeepSettings]
    }

    fn tell_memory(&mut self) {
        let (count, _) = self.snapshot.travel.memory;
        let takes = self.snapshot.travel.takes;
        let mib = |bytes: usize| format!("{:.1}", bytes as f64 / f64::from(1 << 20));
        let most = self.settings.memory_mib;
        let words = format!(
            "the way back takes {} of at most {most} MiB: {count} keyframes {}, counts {}, events {}, branches {}",
            mib(takes.keyframes + takes.counts + takes.events + takes.branches),
            mib(takes.keyframes),
            mib(takes.counts),
            mib(takes.events),
            mib(takes.branches)
        );
        self.said.message = Some((words, false));
    }

    fn take_controls(&mut self) -> Vec<Effect> {
        if self.controls.on {
            return self.let_go();
        }
        let inputs = self.snapshot.cast.as_ref().map_or(0, |p| p.inputs.len());
        if inputs == 0 {
            let words = "this pond has no inputs: add `input fire = key f`";
            self.said.message = Some((words.into(), false));
        } else {
            self.controls.on = true;
            if self.bands.place == Place::Script {
                self.bands.place = Place::Arena;
            }
        }
        Vec::new()
    }

    // Drawer.

    fn ask_filter(&mut self) {
        match self.drawer.view.entry().filter {
            Filter::Events => self.ask(Ask::FeedFilter, self.drawer.feed_filter.clone()),
            Filter::Entities => self.ask(Ask::Filter, self.drawer.filter.clone()),
            Filter::Nothing => {
                self.drawer.view = DrawerView::Roster;
                self.ask(Ask::Filter, self.drawer.filter.clone());
            }
        }
    }
}

/// The list of ponds to open.
pub fn ponds_menu(is_start: bool) -> Menu {
    let mut entries: Vec<Entry> = places::recent_ponds()
        .into_iter()
        .map(|path| Entry {
            name: path.display().to_string(),
            idea: String::new(),
            what: Opening::File(path),
        })
        .collect();
    entries.extend(crate::ponds::SHIPPED.iter().map(|pond| {
        let name = match pond.file == pond.name() {
            true => format!("demo: {}", pond.name()),
            false => pond.file.replace('_', " "),
        };
        Entry { name, idea: pond.idea(), what: Opening::Shipped(pond.file) }
    }));
    let new = Entry {
        name: "a new pond".into(),
        idea: "a small one to start from".into(),
        what: Opening::New,
    };
    let guided = Entry {
        name: "a guided start".into(),
        idea: "Five minutes: six small things to do, each ticked off when it has happened.".into(),
        what: Opening::Shipped(crate::ponds::LESSON.file),
    };
    // Behind the demo: the gallery is long.
    let demo = entries.iter().position(|entry| matches!(entry.what, Opening::Shipped(_)));
    let at = demo.map_or(entries.len(), |at| at + 1);
    entries.insert(at, new);
    entries.insert(at, guided);
    Menu::Ponds { typed: String::new(), chosen: 0, entries, is_start }
}

fn next(place: Place) -> Place {
    match place {
        Place::Script | Place::Drawer => Place::Arena,
        Place::Arena => Place::Drawer,
    }
}
