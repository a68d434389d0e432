//! What the drawer wants to know.

use super::stretch::Stretch;
use super::tint::Tint;
use super::views::list::DrawerView;

/// What the drawer shows.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Wish {
    pub view: DrawerView,
    /// What was typed to narrow the roster and the lifelines.
    pub filter: String,
    pub sort: Sort,
    pub reversed: bool,
    /// What was typed to narrow the feed.
    pub feed: String,
    pub trend: Trend,
    /// The series that is looked at alone, counted around; none is 0.
    pub series: usize,
    /// How many earlier runs are drawn, too; as many as are kept if that are fewer.
    pub overlay: usize,
    /// What the colours in the arena stand for.
    pub tint: Tint,
    /// The ticks that charts and lifelines show; all, or the last ten seconds, if none is chosen.
    pub stretch: Option<Stretch>,
    /// The tick that was marked.
    pub mark: Option<u64>,
    /// Columns of the drawer's list.
    pub columns: usize,
}

/// What the roster is sorted by.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub enum Sort {
    /// Kind by kind, oldest first.
    #[default]
    Name,
    Health,
    Age,
    Place,
    Speed,
    Maker,
}

impl Sort {
    pub const ALL: [Sort; 6] =
        [Sort::Name, Sort::Health, Sort::Age, Sort::Place, Sort::Speed, Sort::Maker];

    pub fn name(self) -> &'static str {
        match self {
            Sort::Name => "name",
            Sort::Health => "health",
            Sort::Age => "age",
            Sort::Place => "place",
            Sort::Speed => "speed",
            Sort::Maker => "maker",
        }
    }

    /// The one after it, around.
    pub fn next(self) -> Sort {
        let at = Sort::ALL.iter().position(|s| *s == self).unwrap_or(0);
        Sort::ALL[(at + 1) % Sort::ALL.len()]
    }
}

/// Which chart.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub enum Trend {
    #[default]
    Counts,
    Rates,
    Causes,
    States,
    Watches,
    Lives,
}

impl Trend {
    pub const ALL: [Trend; 6] =
        [Trend::Counts, Trend::Rates, Trend::Causes, Trend::States, Trend::Watches, Trend::Lives];

    pub fn name(self) -> &'static str {
        match self {
            Trend::Counts => "counts",
            Trend::Rates => "births and ends",
            Trend::Causes => "ends by cause",
            Trend::States => "states",
            Trend::Watches => "watches",
            Trend::Lives => "lengths of life",
        }
    }

    /// The one so many places on, around.
    pub fn on(self, by: isize) -> Trend {
        let at = Trend::ALL.iter().position(|t| *t == self).unwrap_or(0) as isize;
        Trend::ALL[(at + by).rem_euclid(Trend::ALL.len() as isize) as usize]
    }
}
