//! What the app holds, by what belongs together.

use std::collections::BTreeSet;
use std::path::PathBuf;
use std::sync::Arc;

use ratatui::layout::Rect;
use tickpond_ide::tunables::Tunable;
use tickpond_lab::moved::Moved;
use tickpond_lang::program::Program;

use super::arena::{Camera, Layers};
use super::keys::Place;
use super::menu::Menu;
use super::offer::Offer;
use super::prompt::{Asked, Prompt};
use super::snapshot::Snapshot;
use super::stretch::Stretch;
use super::tint::Tint;
use super::views::list::DrawerView;
use super::wish::{Sort, Trend};

/// The file of the text.
#[derive(Default)]
pub struct OpenFile {
    /// `None` for a shipped pond that has not been saved.
    pub path: Option<PathBuf>,
    pub name: String,
    /// What is in the file, as far as it was read from here or written.
    pub on_disk: Option<Vec<u8>>,
    /// Whether the file ends its lines with two characters; they are kept when it is saved.
    pub ends_with_crlf: bool,
    /// How many documents were opened before this one.
    pub number: u64,
}

/// What is known of the text on the screen.
#[derive(Default)]
pub struct Known {
    /// What the text means; none while it has errors, or is not compiled yet.
    pub program: Option<Arc<Program>>,
    /// The numbers of the text that can be turned; those of the last text that compiled.
    pub tunables: Vec<Tunable>,
    /// Where the lines of the text that plays are in the one on the screen, and between which these were looked for.
    pub moved: (Moved, Option<(Arc<str>, u64)>),
    /// What was searched last.
    pub searched: String,
    pub clipboard: String,
}

/// How the screen is divided, and where keys go.
pub struct Bands {
    pub place: Place,
    pub zoomed: bool,
    /// Whether the script is shown in place of where the keys go, until the next key.
    pub peeks: bool,
    pub screen: Rect,
    pub paused_by_size: bool,
}

impl Default for Bands {
    fn default() -> Bands {
        Bands {
            place: Place::Arena,
            zoomed: false,
            peeks: false,
            screen: Rect::default(),
            paused_by_size: false,
        }
    }
}

/// What is chosen in the drawer.
#[derive(Default)]
pub struct Drawer {
    pub view: DrawerView,
    /// What narrows the roster and the lifelines.
    pub filter: String,
    /// What narrows the feed.
    pub feed_filter: String,
    /// Distance of the chosen feed line from the newest; `None` follows the newest.
    pub feed_back: Option<usize>,
    pub sort: Sort,
    pub reversed: bool,
    pub trend: Trend,
    /// The series of the chart that is looked at alone; 0 for all.
    pub series: usize,
    /// How many earlier runs are drawn beneath the charts.
    pub overlay: usize,
    /// Which of the lines that made or ended something at the chart's cursor was gone to last, and where
    /// that was.
    pub here_at: ((u64, u64), usize),
    /// The ticks that charts and lifelines show, if that is not all, or the last of them.
    pub stretch: Option<Stretch>,
    /// The tick that was marked.
    pub mark: Option<u64>,
    /// The chosen row of checks and of knobs.
    pub check_at: usize,
    pub knob_at: usize,
    pub pin_at: usize,
    /// First line of lifelines and anatomy.
    pub top: usize,
}

/// How the arena is looked at.
#[derive(Default)]
pub struct ArenaLook {
    pub camera: Camera,
    pub layers: Layers,
    /// What colours stand for.
    pub tint: Tint,
    /// Whether it is drawn in pixels, where the terminal can.
    pub pixels: bool,
    /// The cross in the arena, in u.
    pub cross: Option<(f64, f64)>,
    /// Where a measured distance begins, in u.
    pub measured_from: Option<(f64, f64)>,
}

/// What lies over the screen.
#[derive(Default)]
pub struct Over {
    pub prompt: Option<Prompt>,
    /// How far the question has come.
    pub asked: Asked,
    /// Questions that came up by themselves; the first is shown.
    pub offers: Vec<Offer>,
    pub menu: Option<Menu>,
    /// First line of the help page, if that is open.
    pub help: Option<usize>,
    /// The pond that is looked at in the list of ponds.
    pub preview: Option<Preview>,
}

/// A pond that was looked at.
#[derive(Clone, Debug, Default)]
pub struct Preview {
    /// Its name among the shipped ones.
    pub file: &'static str,
    pub snapshot: Arc<Snapshot>,
}

/// What a guide has seen come true.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Guide {
    /// The words of the expectations that have held: they stay ticked off, whatever is edited later.
    pub done: BTreeSet<String>,
}
