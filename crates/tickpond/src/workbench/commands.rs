//! The one table of commands: routing, the status line, the palette, the help page and the list in
//! `docs/workbench.md` are made from it. What a view of the drawer can do stands with the view.

use std::sync::LazyLock;

use crossterm::event::{KeyCode, KeyEvent};

use super::keys::{
    ALT, Action, Place, Row, SHIFT, When, alt, c, ctrl, is_typed, k, plain, row, shift,
};
#[cfg(test)]
use super::keys::{NONE, key_in, name};
use super::views::DrawerView;

use Action as A;
use KeyCode::F;
use When::{Anywhere, Away, Entities};

/// The headings of the help page, each with the first command below it.
pub const GROUPS: &[(&str, Action)] = &[
    ("Time", A::PlayPause),
    ("Going places", A::Script),
    ("Drawer", A::View(DrawerView::ALL[0])),
    ("The selected one", A::Previous),
    ("Arena", A::Follow),
    ("Script", A::LineFirings),
    ("Text and program", A::Save),
];

/// All commands, in the order of the help page.
pub static TABLE: LazyLock<Vec<Row>> = LazyLock::new(|| {
    let mut table = BEFORE_VIEWS.to_vec();
    for view in DrawerView::ALL {
        table.push(Row {
            action: A::View(view),
            keys: view.keys(),
            when: Away,
            words: view.entry().words,
            short: "",
        });
    }
    table.extend_from_slice(ABOUT_VIEWS);
    for view in DrawerView::ALL {
        let own = view.entry().commands.iter().enumerate();
        table.extend(own.map(|(at, own)| Row {
            action: A::Own(view, at),
            keys: own.keys,
            when: When::In(view),
            words: own.words,
            short: own.short,
        }));
    }
    table.extend_from_slice(BEHIND_VIEWS);
    table
});

const BEFORE_VIEWS: &[Row] = &[
    row(A::PlayPause, &[k(F(5)), c(' ')], Anywhere, "play", "play or pause"),
    row(A::StepOn, &[k(F(7)), c('.')], Anywhere, "tick on", "one tick on"),
    row(A::StepBack, &[k(F(6)), c(',')], Anywhere, "tick back", "one tick back"),
    row(A::SecondBack, &[c('[')], Away, "", "one second back"),
    row(A::SecondOn, &[c(']')], Away, "", "one second on"),
    row(A::ToStart, &[k(KeyCode::Home)], Away, "", "to the opening tick"),
    row(A::ToHead, &[k(KeyCode::End)], Away, "", "to the newest tick"),
    row(A::ToTime, &[c('t')], Away, "", "to a time that is typed: 12.5 s, 740 ticks"),
    row(
        A::NextEvent,
        &[c('n')],
        Away,
        "",
        "to the next event of the selected one; else of the feed's filter",
    ),
    row(A::PreviousEvent, &[c('N')], Away, "", "to the event before"),
    row(A::FirstBroken, &[c('!')], Away, "", "to the first tick an expectation failed in"),
    row(A::PauseWhen, &[c('c')], Away, "", "pause when a typed condition becomes true"),
    row(
        A::MarkMoment,
        &[c('g')],
        Away,
        "",
        "mark this moment, and tell what lies between it and the present one; again: no mark",
    ),
    row(A::Pin, &[c('P')], Away, "", "pin a value: a field of one, a watch, any expression"),
    row(A::Slower, &[c('-')], Away, "", "half the speed"),
    row(A::Faster, &[c('+'), c('=')], Away, "", "twice the speed"),
    row(A::Restart, &[c('r')], Away, "restart", "start again with the same seed"),
    row(A::NextSeed, &[c('R')], Away, "", "start again with the next seed"),
    row(A::EditsMode, &[c('w')], Away, "", "edits: go on from here, or run anew up to here"),
    row(
        A::Controls,
        &[k(F(8)), c('p')],
        Anywhere,
        "controls",
        "take the play's own keys; Esc lets go",
    ),
    row(A::RecordTape, &[c('T')], Away, "", "record a tape; again: name it and put it in the text"),
    row(A::PlayTape, &[c('Y')], Away, "", "play one of the tapes in the text, from the start"),
    row(
        A::Branches,
        &[c('B')],
        Away,
        "",
        "branches: what an edit, a key in the past or a new start left behind, to go back to",
    ),
    row(A::NewestBranch, &[c('U')], Away, "", "back to the newest branch; again: and forth"),
    row(A::Memory, &[c('M')], Away, "", "tell how much memory the way back takes"),
    row(A::Script, &[k(F(2))], Anywhere, "script", "go to the script"),
    row(A::Arena, &[k(KeyCode::Esc), k(F(3))], Anywhere, "arena", "go to the arena"),
    row(A::Drawer, &[k(F(4))], Anywhere, "drawer", "go to the drawer"),
    row(A::NextBand, &[k(KeyCode::Tab)], Away, "", "next band"),
    row(A::PreviousBand, &[(SHIFT, KeyCode::BackTab)], Away, "", "band before"),
    row(A::Zoom, &[k(F(9)), c('z')], Anywhere, "", "this band on the whole screen, and back"),
    row(
        A::Back,
        &[(ALT, KeyCode::Left), c('(')],
        Anywhere,
        "",
        "back to the tick, entity and line before",
    ),
    row(A::Forward, &[(ALT, KeyCode::Right), c(')')], Anywhere, "", "forward again"),
];

const ABOUT_VIEWS: &[Row] = &[row(
    A::Filter,
    &[c('/')],
    Away,
    "",
    "narrow the roster, the lifelines or the feed by typing",
)];

const BEHIND_VIEWS: &[Row] = &[
    row(A::Previous, &[k(KeyCode::Up), c('k')], Entities, "", "the one before"),
    row(A::Next, &[k(KeyCode::Down), c('j')], Entities, "", "the next one"),
    row(A::PageUp, &[k(KeyCode::PageUp)], Entities, "", "ten before"),
    row(A::PageDown, &[k(KeyCode::PageDown)], Entities, "", "ten on"),
    row(
        A::Choose,
        &[k(KeyCode::Enter)],
        Entities,
        "its line",
        "to its line; in feed and checks to its tick, too; in trends to what did it",
    ),
    row(A::BirthLine, &[c('b')], Entities, "", "to its birth, and the line that made it"),
    row(A::EndLine, &[c('e')], Entities, "", "to its end, and the line that ended it"),
    row(A::HurtLine, &[c('h')], Entities, "", "to when it was last hurt, and the line"),
    row(A::Maker, &[c('m')], Entities, "", "select its maker"),
    row(A::Unselect, &[c('u')], Entities, "", "select none"),
    row(A::Follow, &[c('f')], When::Arena, "follow", "keep the selected one in the middle"),
    row(A::ZoomIn, &[c('>')], When::Arena, "", "nearer"),
    row(A::ZoomOut, &[c('<')], When::Arena, "", "further away"),
    row(A::Fit, &[c('0')], When::Arena, "", "the whole arena again"),
    row(A::PanLeft, &[shift(KeyCode::Left), c('H')], When::Arena, "", "look to the left"),
    row(A::PanRight, &[shift(KeyCode::Right), c('L')], When::Arena, "", "look to the right"),
    row(A::PanUp, &[shift(KeyCode::Up), c('K')], When::Arena, "", "look up"),
    row(A::PanDown, &[shift(KeyCode::Down), c('J')], When::Arena, "", "look down"),
    row(A::Layers, &[c('v')], When::Arena, "layers", "what is drawn: switch layers on and off"),
    row(
        A::Tint,
        &[c('C')],
        When::Arena,
        "colours",
        "what colours stand for: kind, state, health, age, or a variable",
    ),
    row(
        A::Pixels,
        &[c('X')],
        When::Arena,
        "",
        "draw it in pixels, where the terminal can, or in cells",
    ),
    row(A::Aim, &[c('x')], When::Arena, "", "a cross to move with the arrows, and away"),
    row(A::PlaceHere, &[c('i')], When::Arena, "", "put an entity or a spot at the cross"),
    row(A::Measure, &[c('d')], When::Arena, "", "measure from here to the cross"),
    row(A::LineFirings, &[ctrl('l')], When::Script, "", "what this line did: in the feed"),
    row(A::WhyNot, &[ctrl('b')], When::Script, "why not", "why this line did not run"),
    row(A::Complete, &[ctrl(' ')], When::Script, "", "what could stand here"),
    row(A::Tell, &[ctrl('w')], When::Script, "", "what the word under the cursor means"),
    row(A::Definition, &[ctrl('d')], When::Script, "", "to where the name is defined"),
    row(A::Uses, &[ctrl('u')], When::Script, "", "to the next use of the name"),
    row(A::Rename, &[ctrl('t')], When::Script, "", "rename it everywhere"),
    row(A::Find, &[ctrl('f')], When::Script, "", "search"),
    row(A::FindNext, &[ctrl('n')], When::Script, "", "next match"),
    row(A::ReplaceAll, &[ctrl('r')], When::Script, "", "replace every match"),
    row(A::Comment, &[ctrl('k')], When::Script, "", "comment lines out, or in"),
    row(A::Format, &[alt('f')], Anywhere, "", "format the text"),
    row(A::NextRemark, &[alt('n')], Anywhere, "", "to the next error or finding"),
    row(A::Mute, &[alt('m')], When::Script, "", "mute the handler under the cursor, or not"),
    row(A::Fold, &[alt('o')], When::Script, "", "fold this item, or unfold it"),
    row(A::FoldAll, &[alt('a')], When::Script, "", "fold all items, or none"),
    row(A::Save, &[ctrl('s')], Anywhere, "save", "save the text"),
    row(A::SaveAs, &[k(F(12))], Anywhere, "", "save the text under a name"),
    row(A::Open, &[ctrl('o')], Anywhere, "", "open another pond"),
    row(A::Undo, &[ctrl('z')], Anywhere, "", "undo in the text: knobs, mutes and spots, too"),
    row(A::Redo, &[ctrl('y')], Anywhere, "", "redo in the text"),
    row(A::Cut, &[ctrl('x')], When::Script, "", "cut the selection, or the line"),
    row(A::Copy, &[ctrl('c')], When::Script, "", "copy the selection"),
    row(A::Paste, &[ctrl('v')], When::Script, "", "paste"),
    row(A::SelectAll, &[ctrl('a')], When::Script, "", "select everything"),
    row(A::Export, &[ctrl('e')], Anywhere, "", "write this view as SVG and PDF"),
    row(
        A::Guide,
        &[c('G')],
        Away,
        "",
        "go through what is expected, step by step; again: no guide",
    ),
    row(A::Theme, &[alt('t')], Anywhere, "", "next theme"),
    row(A::Palette, &[ctrl('p'), c(':')], Anywhere, "find", "find a command by its words"),
    row(A::Help, &[k(F(1)), c('?')], Anywhere, "keys", "this page"),
    row(A::Quit, &[ctrl('q'), c('q')], Anywhere, "quit", "quit; unsaved text is asked about"),
];

/// The command a key stands for.
pub fn action_of(key: KeyEvent, place: Place, drawer: DrawerView) -> Option<Action> {
    let wanted = plain(key);
    let row = TABLE.iter().find(|row| {
        row.when.is_here(place, drawer)
            && row.keys.iter().any(|k| *k == wanted && !(is_typed(*k) && place == Place::Script))
    })?;
    Some(row.action)
}

/// The list of keys for the docs: a table for each heading.
#[cfg(test)]
pub fn markdown() -> String {
    let mut text = String::new();
    for row in TABLE.iter() {
        if let Some((title, _)) = GROUPS.iter().find(|(_, first)| *first == row.action) {
            text.push_str(&format!("\n### {title}\n\n| keys | where | what |\n|---|---|---|\n"));
        }
        let keys: Vec<String> = row.keys.iter().map(|key| format!("`{}`", name(*key))).collect();
        text.push_str(&format!("| {} | {} | {} |\n", keys.join(", "), row.when.words(), row.words));
    }
    text
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    fn no_key_means_two_things_in_one_place() {
        for place in [Place::Script, Place::Arena, Place::Drawer] {
            for view in DrawerView::ALL {
                for row in TABLE.iter().filter(|row| row.when.is_here(place, view)) {
                    for (modifiers, code) in row.keys {
                        let found = action_of(KeyEvent::new(*code, *modifiers), place, view);
                        let typed = place == Place::Script && is_typed((*modifiers, *code));
                        if !typed {
                            assert_eq!(found, Some(row.action), "{}", row.words);
                        }
                    }
                }
            }
        }
    }

    #[rstest]
    fn letters_are_typed_into_the_script() {
        for c in [' ', 'q', '?', 'z', '1', 'r'] {
            let key = KeyEvent::new(KeyCode::Char(c), NONE);
            assert_eq!(action_of(key, Place::Script, DrawerView::Roster), None);
            assert!(action_of(key, Place::Arena, DrawerView::Roster).is_some());
        }
    }

    #[rstest]
    fn every_command_of_the_status_line_has_a_key_in_the_script() {
        for row in TABLE.iter().filter(|r| !r.short.is_empty() && r.when == Anywhere) {
            assert!(key_in(row, Place::Script, DrawerView::Roster).is_some(), "{}", row.words);
        }
    }

    #[rstest]
    fn the_docs_list_every_key() {
        let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/workbench.md");
        let text = std::fs::read_to_string(path).unwrap();
        let (begin, end) = ("<!-- keys -->\n", "<!-- end of keys -->");
        let from = text.find(begin).expect("a place for the keys") + begin.len();
        let to = text.find(end).expect("an end of the keys");
        let wanted = format!("{}\n", markdown());
        if std::env::var_os("REMAKE").is_some() {
            let new = format!("{}{wanted}{}", &text[..from], &text[to..]);
            std::fs::write(path, new).unwrap();
        } else {
            assert_eq!(&text[from..to], wanted, "REMAKE=1 writes it anew");
        }
    }

    #[rstest]
    fn each_heading_begins_with_a_command() {
        for (title, first) in GROUPS {
            assert!(TABLE.iter().any(|row| row.action == *first), "{title}");
        }
        assert_eq!(TABLE[0].action, GROUPS[0].1);
    }
}
