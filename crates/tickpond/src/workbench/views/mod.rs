//! The views of the drawer. Each has a folder with all that is its own: what it asks of the simulation, how it is
//! drawn, what its keys and clicks do. The rest of the workbench knows a view by its entry in the table below.

pub mod anatomy;
pub mod checks;
pub mod feed;
pub mod knobs;
pub mod lifelines;
pub mod list;
pub mod pins;
pub mod refused;
pub mod roster;
pub mod trends;

#[cfg(test)]
mod recording_tests;

use crossterm::event::{KeyCode, KeyModifiers};
use ratatui::buffer::Buffer as Cells;
use ratatui::layout::Rect;
use tickpond_lab::Timeline;

pub use list::DrawerView;
use list::each_view;

use super::answer::Answer;
use super::app::{App, Effect};
use super::command::DrawRun;
use super::keys;
use super::layout;
use super::palette::Palette;
use super::question::Question;
use super::snapshot::Seen;
use super::wish::Wish;

macro_rules! entries {
    ($($name:ident = $folder:ident),*) => {
        impl DrawerView {
            /// All that is its own.
            pub fn entry(self) -> &'static View {
                match self { $(DrawerView::$name => &$folder::VIEW),* }
            }
        }
    };
}

each_view!(entries);

impl App {
    /// The drawer's list, and the story of the selected entity beside it, for the views that share the room.
    pub(super) fn drawer_parts(&self, drawer: Rect) -> (Rect, Rect) {
        match self.drawer.view.entry().beside {
            Beside::Story => layout::drawer_parts(drawer, self.focus.is_some()),
            Beside::Nothing => (layout::drawer_body(drawer), Rect::default()),
        }
    }
}

/// A view of the drawer.
pub struct View {
    /// What it shows, for the help page.
    pub words: &'static str,
    pub beside: Beside,
    pub filter: Filter,
    /// What the simulation has to say to it, on the simulation's thread, while it is shown.
    pub answer: fn(&mut Asking<'_>, &mut Answer),
    pub draw: fn(&App, Rect, &mut Cells, &Palette),
    /// So many rows on or back.
    pub choose: fn(&mut App, isize) -> Vec<Effect>,
    /// Where the chosen row leads.
    pub enter: fn(&mut App) -> Vec<Effect>,
    /// A click at a column and a row of the screen, inside of the list.
    pub click: fn(&mut App, Rect, (u16, u16)) -> Vec<Effect>,
    /// What a picture of it is called.
    pub picture: fn(&App) -> String,
    /// The drawing of the run that shows the same; without one the screen is drawn as it stands.
    pub drawing: fn(&App) -> Option<DrawRun>,
    pub commands: &'static [Own],
}

/// What stands beside the list.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Beside {
    /// The story of the selected entity.
    Story,
    /// Nothing: the view needs the whole width.
    Nothing,
}

/// What can be typed to narrow a view.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Filter {
    /// Whom it lists.
    Entities,
    /// Which events it lists.
    Events,
    Nothing,
}

/// A command that works in one view alone.
pub struct Own {
    pub keys: &'static [(KeyModifiers, KeyCode)],
    /// For the status line; empty if it is not shown there.
    pub short: &'static str,
    /// For the help page.
    pub words: &'static str,
    pub act: fn(&mut App) -> Vec<Effect>,
}

/// What charts and lifelines can do with the stretch they show.
const NEARER: Own = Own {
    keys: &[keys::c('>')],
    short: "nearer",
    words: "half as long a stretch, around the present moment",
    act: |app| app.change_stretch(false),
};
const WIDER: Own = Own {
    keys: &[keys::c('<')],
    short: "",
    words: "a stretch twice as long",
    act: |app| app.change_stretch(true),
};
const ALL_OF_IT: Own = Own {
    keys: &[keys::c('0')],
    short: "",
    words: "the usual stretch again",
    act: |app| {
        app.drawer.stretch = None;
        Vec::new()
    },
};

/// What a view can ask, on the simulation's thread.
pub struct Asking<'a> {
    pub run: &'a mut dyn Timeline,
    pub wish: &'a Wish,
    pub question: &'a mut Question,
    /// Those alive, kind by kind, oldest first.
    pub entities: &'a [Seen],
    /// Whether the run stands still, so that ticks can be played again.
    pub stands: bool,
}

/// There is no drawing of the run that shows the same.
fn no_drawing(_: &App) -> Option<DrawRun> {
    None
}

/// The name of the view that is shown, for its picture.
fn by_name(app: &App) -> String {
    app.drawer.view.name().to_lowercase()
}

/// A row so many on, inside of the list.
fn moved(at: usize, by: isize, count: usize) -> usize {
    at.saturating_add_signed(by).min(count.saturating_sub(1))
}
