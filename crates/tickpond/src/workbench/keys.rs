//! The one table of commands: routing, the status line and the help page are made from it.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

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
    Faster,
    Slower,
    Restart,
    NextSeed,
    Script,
    Arena,
    Drawer,
    NextBand,
    PreviousBand,
    Zoom,
    Roster,
    Feed,
    Controls,
    Previous,
    Next,
    PageUp,
    PageDown,
    Choose,
    BirthLine,
    EndLine,
    Unselect,
    Save,
    SaveAs,
    Undo,
    Redo,
    Copy,
    Cut,
    Paste,
    SelectAll,
    Export,
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
}

/// One command.
pub struct Row {
    pub action: Action,
    pub keys: &'static [(KeyModifiers, KeyCode)],
    pub when: When,
    /// For the help page.
    pub words: &'static str,
    /// For the status line; empty if it is not shown there.
    pub short: &'static str,
}

const NONE: KeyModifiers = KeyModifiers::NONE;
const CTRL: KeyModifiers = KeyModifiers::CONTROL;
const SHIFT: KeyModifiers = KeyModifiers::SHIFT;

const fn c(c: char) -> (KeyModifiers, KeyCode) {
    (NONE, KeyCode::Char(c))
}

const fn ctrl(c: char) -> (KeyModifiers, KeyCode) {
    (CTRL, KeyCode::Char(c))
}

const fn k(code: KeyCode) -> (KeyModifiers, KeyCode) {
    (NONE, code)
}

const fn row(
    action: Action,
    keys: &'static [(KeyModifiers, KeyCode)],
    when: When,
    short: &'static str,
    words: &'static str,
) -> Row {
    Row { action, keys, when, words, short }
}

use Action as A;
use KeyCode::F;
use When::{Anywhere, Away, Entities};

/// All commands, in the order of the help page.
pub const TABLE: &[Row] = &[
    row(A::PlayPause, &[k(F(5)), c(' ')], Anywhere, "play", "play or pause"),
    row(A::StepOn, &[k(F(7)), c('.')], Anywhere, "tick on", "one tick on"),
    row(A::StepBack, &[k(F(6)), c(',')], Anywhere, "tick back", "one tick back"),
    row(A::SecondBack, &[c('[')], Away, "", "one second back"),
    row(A::SecondOn, &[c(']')], Away, "", "one second on"),
    row(A::ToStart, &[k(KeyCode::Home)], Away, "", "to the opening tick"),
    row(A::ToHead, &[k(KeyCode::End)], Away, "", "to the newest tick"),
    row(A::Slower, &[c('-')], Away, "", "half the speed"),
    row(A::Faster, &[c('+'), c('=')], Away, "", "twice the speed"),
    row(A::Restart, &[c('r')], Away, "restart", "start again with the same seed"),
    row(A::NextSeed, &[c('R')], Away, "", "start again with the next seed"),
    row(
        A::Controls,
        &[k(F(8)), c('p')],
        Anywhere,
        "controls",
        "take the play's own keys; Esc lets go",
    ),
    row(A::Script, &[k(F(2))], Anywhere, "script", "go to the script"),
    row(A::Arena, &[k(KeyCode::Esc), k(F(3))], Anywhere, "arena", "go to the arena"),
    row(A::Drawer, &[k(F(4))], Anywhere, "drawer", "go to the drawer"),
    row(A::NextBand, &[k(KeyCode::Tab)], Away, "", "next band"),
    row(A::PreviousBand, &[(SHIFT, KeyCode::BackTab)], Away, "", "band before"),
    row(A::Zoom, &[k(F(9)), c('z')], Anywhere, "", "this band on the whole screen, and back"),
    row(A::Roster, &[c('1')], Away, "", "drawer: who is alive"),
    row(A::Feed, &[c('2')], Away, "", "drawer: what happened"),
    row(A::Previous, &[k(KeyCode::Up), c('k')], Entities, "", "the one before"),
    row(A::Next, &[k(KeyCode::Down), c('j')], Entities, "", "the next one"),
    row(A::PageUp, &[k(KeyCode::PageUp)], Entities, "", "ten before"),
    row(A::PageDown, &[k(KeyCode::PageDown)], Entities, "", "ten on"),
    row(
        A::Choose,
        &[k(KeyCode::Enter)],
        Entities,
        "its line",
        "to its line; in the feed to its tick, too",
    ),
    row(A::BirthLine, &[c('b')], Entities, "", "to the line that made the selected one"),
    row(A::EndLine, &[c('e')], Entities, "", "to the line that ended the selected one"),
    row(A::Unselect, &[c('u')], Entities, "", "select none"),
    row(A::Save, &[ctrl('s')], Anywhere, "save", "save the text"),
    row(A::SaveAs, &[k(F(12))], Anywhere, "", "save the text under a name"),
    row(A::Undo, &[ctrl('z')], Anywhere, "", "undo in the text"),
    row(A::Redo, &[ctrl('y')], Anywhere, "", "redo in the text"),
    row(A::Cut, &[ctrl('x')], When::Script, "", "cut the selection, or the line"),
    row(A::Copy, &[ctrl('c')], When::Script, "", "copy the selection"),
    row(A::Paste, &[ctrl('v')], When::Script, "", "paste"),
    row(A::SelectAll, &[ctrl('a')], When::Script, "", "select everything"),
    row(A::Export, &[ctrl('e')], Anywhere, "", "write the counts chart as SVG and PDF"),
    row(A::Help, &[k(F(1)), c('?')], Anywhere, "keys", "this page"),
    row(A::Quit, &[ctrl('q'), c('q')], Anywhere, "quit", "quit; unsaved text is asked about"),
];

/// Whether plain letters would be typed where the person is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Place {
    Script,
    Arena,
    Drawer,
}

/// The command a key stands for.
pub fn action_of(key: KeyEvent, place: Place) -> Option<Action> {
    let wanted = plain(key);
    let row = TABLE.iter().find(|row| {
        let here = match row.when {
            When::Anywhere => true,
            When::Away | When::Entities => place != Place::Script,
            When::Script => place == Place::Script,
        };
        here && row.keys.iter().any(|k| *k == wanted && !(is_typed(*k) && place == Place::Script))
    })?;
    Some(row.action)
}

/// A letter with its case in it and no shift beside it.
fn plain(key: KeyEvent) -> (KeyModifiers, KeyCode) {
    let modifiers = match key.code {
        KeyCode::Char(_) => key.modifiers - SHIFT,
        KeyCode::BackTab => SHIFT,
        _ => key.modifiers,
    };
    (modifiers, key.code)
}

/// Whether the key types something into a text.
fn is_typed((modifiers, code): (KeyModifiers, KeyCode)) -> bool {
    modifiers == NONE && matches!(code, KeyCode::Char(_) | KeyCode::Tab | KeyCode::Enter)
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
        other => format!("{other:?}"),
    };
    match modifiers {
        CTRL => format!("Ctrl+{code}"),
        SHIFT => format!("Shift+{code}"),
        _ => code,
    }
}

/// The key of a command that works in a place, for the status line.
pub fn key_in(row: &Row, place: Place) -> Option<String> {
    let here = match row.when {
        Anywhere => true,
        Away | Entities => place != Place::Script,
        When::Script => place == Place::Script,
    };
    let works = |key: &&(KeyModifiers, KeyCode)| !(place == Place::Script && is_typed(**key));
    // A plain key is easier to find than a numbered one.
    let is_numbered = |key: &&(KeyModifiers, KeyCode)| matches!(key.1, KeyCode::F(_));
    let key = row.keys.iter().filter(works).min_by_key(is_numbered);
    here.then(|| key.map(|key| name(*key))).flatten()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    fn no_key_means_two_things_in_one_place() {
        for place in [Place::Script, Place::Arena, Place::Drawer] {
            for row in TABLE {
                for (modifiers, code) in row.keys {
                    let found = action_of(KeyEvent::new(*code, *modifiers), place);
                    let typed = place == Place::Script && is_typed((*modifiers, *code));
                    let elsewhere = place == Place::Script && matches!(row.when, Away | Entities)
                        || place != Place::Script && row.when == When::Script;
                    if !typed && !elsewhere {
                        assert_eq!(found, Some(row.action), "{}", row.words);
                    }
                }
            }
        }
    }

    #[rstest]
    fn letters_are_typed_into_the_script() {
        for c in [' ', 'q', '?', 'z', '1', 'r'] {
            let key = KeyEvent::new(KeyCode::Char(c), NONE);
            assert_eq!(action_of(key, Place::Script), None);
            assert!(action_of(key, Place::Arena).is_some());
        }
    }

    #[rstest]
    fn every_command_of_the_status_line_has_a_key_in_the_script() {
        for row in TABLE.iter().filter(|r| !r.short.is_empty() && r.when == Anywhere) {
            assert!(key_in(row, Place::Script).is_some(), "{}", row.words);
        }
    }
}
