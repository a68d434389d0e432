//! The table of the drawer's views: a name on the screen, and the folder that holds the view.

use crossterm::event::{KeyCode, KeyModifiers};

/// Hands all views to a macro, in the order of their keys: a new view is a new folder and a line here.
macro_rules! each_view {
    ($then:ident) => {
        $then! {
            Roster = roster,
            Feed = feed,
            Lifelines = lifelines,
            Trends = trends,
            Checks = checks,
            Knobs = knobs,
            Anatomy = anatomy,
            Refused = refused,
            Pins = pins
        }
    };
}
pub(super) use each_view;

macro_rules! names {
    ($($name:ident = $folder:ident),*) => {
        /// What the drawer shows.
        #[derive(Clone, Copy, PartialEq, Eq, Debug)]
        pub enum DrawerView { $($name),* }

        impl DrawerView {
            /// All views, in the order of their keys.
            pub const ALL: [DrawerView; [$(stringify!($name)),*].len()] = [$(DrawerView::$name),*];

            /// Its name on the screen.
            pub fn name(self) -> &'static str {
                match self { $(DrawerView::$name => stringify!($name)),* }
            }
        }
    };
}

each_view!(names);

impl Default for DrawerView {
    fn default() -> DrawerView {
        DrawerView::ALL[0]
    }
}

const fn digit(at: u8) -> (KeyModifiers, KeyCode) {
    (KeyModifiers::NONE, KeyCode::Char((b'1' + at) as char))
}

const DIGITS: [(KeyModifiers, KeyCode); 9] =
    [digit(0), digit(1), digit(2), digit(3), digit(4), digit(5), digit(6), digit(7), digit(8)];

impl DrawerView {
    /// The key that goes to it: the digit of its place.
    pub fn keys(self) -> &'static [(KeyModifiers, KeyCode)] {
        const { assert!(DrawerView::ALL.len() <= DIGITS.len()) };
        let at = self as usize;
        &DIGITS[at..=at]
    }
}
