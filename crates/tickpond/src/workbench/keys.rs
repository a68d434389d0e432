//! Commands, the keys they are bound to, and where these work.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use super::views::list::DrawerView;

/// What a command does.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Action {
    PlayPause,
    StepOn,
    StepBack,
    SecondOn,
    SecondBack,
    ToStart,
    ToHead,
    ToTime,
    NextEvent,
    PreviousEvent,
    FirstBroken,
    PauseWhen,
    Branches,
    NewestBranch,
    Faster,
    Slower,
    Restart,
    NextSeed,
    EditsMode,
    Controls,
    RecordTape,
    PlayTape,
    Memory,
    Script,
    Arena,
    Drawer,
    NextBand,
    PreviousBand,
    Zoom,
    Back,
    Forward,
    /// To a view of the drawer.
    View(DrawerView),
    /// A command of a view of the drawer, by its place among them.
    Own(DrawerView, usize),
    Filter,
    Previous,
    Next,
    PageUp,
    PageDown,
    Choose,
    BirthLine,
    EndLine,
    HurtLine,
    Maker,
    Unselect,
    Follow,
    ZoomIn,
    ZoomOut,
    Fit,
    PanLeft,
    PanRight,
    PanUp,
    PanDown,
    Layers,
    Tint,
    Pixels,
    Guide,
    Pin,
    WhyNot,
    MarkMoment,
    Aim,
    PlaceHere,
    Measure,
    LineFirings,
    Complete,
    Tell,
    Definition,
    Uses,
    Rename,
    Find,
    FindNext,
    ReplaceAll,
    Comment,
    Format,
    NextRemark,
    Mute,
    Fold,
    FoldAll,
    Save,
    SaveAs,
    Open,
    Undo,
    Redo,
    Copy,
    Cut,
    Paste,
    SelectAll,
    Export,
    Theme,
    Palette,
    Help,
    Quit,
}

/// Where a command's keys work.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum When {
    Anywhere,
    /// Wherever letters are not typed into the text.
    Away,
    /// In the script alone.
    Script,
    /// In the arena and the drawer.
    Entities,
    /// In the arena alone.
    Arena,
    /// In one view of the drawer.
    In(DrawerView),
}

impl When {
    /// Whether it is met where the person is.
    pub fn is_here(self, place: Place, drawer: DrawerView) -> bool {
        match self {
            When::Anywhere => true,
            When::Away | When::Entities => place != Place::Script,
            When::Script => place == Place::Script,
            When::Arena => place == Place::Arena,
            When::In(view) => place == Place::Drawer && drawer == view,
        }
    }

    /// For the help page.
    pub fn words(self) -> &'static str {
        match self {
            // That letters are typed where text is goes without saying, and is said once on the page.
            When::Anywhere | When::Away => "",
            When::Script => "script",
            When::Entities => "arena, drawer",
            When::Arena => "arena",
            When::In(view) => view.name(),
        }
    }
}

/// One command.
#[derive(Clone, Debug)]
pub struct Row {
    pub action: Action,
    pub keys: &'static [(KeyModifiers, KeyCode)],
    pub when: When,
    /// For the help page.
    pub words: &'static str,
    /// For the status line; empty if it is not shown there.
    pub short: &'static str,
}

pub(super) const NONE: KeyModifiers = KeyModifiers::NONE;
pub(super) const CTRL: KeyModifiers = KeyModifiers::CONTROL;
pub(super) const SHIFT: KeyModifiers = KeyModifiers::SHIFT;
pub(super) const ALT: KeyModifiers = KeyModifiers::ALT;

pub(super) const fn c(c: char) -> (KeyModifiers, KeyCode) {
    (NONE, KeyCode::Char(c))
}

pub(super) const fn ctrl(c: char) -> (KeyModifiers, KeyCode) {
    (CTRL, KeyCode::Char(c))
}

pub(super) const fn alt(c: char) -> (KeyModifiers, KeyCode) {
    (ALT, KeyCode::Char(c))
}

pub(super) const fn k(code: KeyCode) -> (KeyModifiers, KeyCode) {
    (NONE, code)
}

pub(super) const fn shift(code: KeyCode) -> (KeyModifiers, KeyCode) {
    (SHIFT, code)
}

pub(super) const fn row(
    action: Action,
    keys: &'static [(KeyModifiers, KeyCode)],
    when: When,
    short: &'static str,
    words: &'static str,
) -> Row {
    Row { action, keys, when, words, short }
}

/// Whether plain letters would be typed where the person is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Place {
    Script,
    Arena,
    Drawer,
}

/// A letter with its case in it and no shift beside it.
pub(super) fn plain(key: KeyEvent) -> (KeyModifiers, KeyCode) {
    let modifiers = match key.code {
        KeyCode::Char(_) => key.modifiers - SHIFT,
        KeyCode::BackTab => SHIFT,
        _ => key.modifiers,
    };
    (modifiers, key.code)
}

/// Whether the key types something into a text.
pub(super) fn is_typed((modifiers, code): (KeyModifiers, KeyCode)) -> bool {
    modifiers == NONE
        && matches!(code, KeyCode::Char(_) | KeyCode::Tab | KeyCode::Enter | KeyCode::Delete)
}

/// The name of a key as people read it.
pub fn name((modifiers, code): (KeyModifiers, KeyCode)) -> String {
    let code = match code {
        KeyCode::Char(' ') => "Space".into(),
        KeyCode::Char(c) if modifiers == CTRL => c.to_uppercase().to_string(),
        KeyCode::Char(c) => c.to_string(),
        KeyCode::F(n) => format!("F{n}"),
        KeyCode::BackTab => "Tab".into(),
        KeyCode::PageUp => "PgUp".into(),
        KeyCode::PageDown => "PgDn".into(),
        KeyCode::Up => "↑".into(),
        KeyCode::Down => "↓".into(),
        KeyCode::Left => "←".into(),
        KeyCode::Right => "→".into(),
        KeyCode::Delete => "Del".into(),
        other => format!("{other:?}"),
    };
    match modifiers {
        CTRL => format!("Ctrl+{code}"),
        SHIFT => format!("Shift+{code}"),
        ALT => format!("Alt+{code}"),
        _ => code,
    }
}

/// All keys of a command.
pub fn names(row: &Row) -> String {
    row.keys.iter().map(|key| name(*key)).collect::<Vec<_>>().join(" or ")
}

/// The key of a command that works in a place, for the status line.
pub fn key_in(row: &Row, place: Place, drawer: DrawerView) -> Option<String> {
    let works = |key: &&(KeyModifiers, KeyCode)| !(place == Place::Script && is_typed(**key));
    // A plain key is easier to find than a numbered one.
    let is_numbered = |key: &&(KeyModifiers, KeyCode)| matches!(key.1, KeyCode::F(_));
    let key = row.keys.iter().filter(works).min_by_key(is_numbered);
    row.when.is_here(place, drawer).then(|| key.map(|key| name(*key))).flatten()
}

/// The key of a command that works while the play has the keys: one with a number.
pub fn key_in_play(row: &Row) -> Option<String> {
    let key = row.keys.iter().find(|key| matches!(key.1, KeyCode::F(_)));
    key.filter(|_| row.when == When::Anywhere).map(|key| name(*key))
}
