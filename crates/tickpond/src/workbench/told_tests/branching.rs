//! What an edit, a key or a new start in the past leaves behind: still there, named, listed, and gone back to.

use crossterm::event::{KeyCode, KeyModifiers};
use rstest::rstest;

use super::{Desk, TEXT};
use crate::workbench::app::Effect;
use crate::workbench::command::Command;
use crate::workbench::menu::Menu;

/// Played for 5 s, with a key at 0.6 s and 1.3 s; then back at 1 s.
fn played() -> Desk {
    let mut desk = Desk::new(TEXT, (160, 48));
    for tick in [36, 78] {
        desk.to(tick);
        let key = |down| Effect::Tell(Command::Key("hop".into(), down));
        desk.settle(vec![key(true)]);
        desk.to(tick + 1).settle(vec![key(false)]);
    }
    desk.to(300).settle(vec![Effect::Tell(Command::Seek(60))]);
    desk
}

fn said(desk: &Desk) -> usize {
    desk.app.snapshot.feed.iter().filter(|line| line.words.contains("hop")).count()
}

/// The text, the newest tick, and how often the key was heard up to it.
fn told(desk: &mut Desk) -> (String, u64, usize) {
    let (now, head) = (desk.app.snapshot.travel.tick, desk.app.snapshot.travel.head);
    desk.settle(vec![Effect::Tell(Command::Seek(head))]);
    let told = (desk.text(), head, said(desk));
    desk.settle(vec![Effect::Tell(Command::Seek(now))]);
    told
}

#[rstest]
fn a_knob_turned_in_the_past_and_taken_back_leaves_the_rest_of_the_run(
    #[values(1, 3)] times: usize,
    #[values(true, false)] by_undo: bool,
) {
    let mut desk = played();
    let before = told(&mut desk);
    assert_eq!((before.1, before.2), (300, 4), "two frogs heard it twice");
    desk.letter('6').press(KeyCode::Down);
    for _ in 0..times {
        desk.press(KeyCode::Right);
    }
    assert_eq!(desk.app.snapshot.travel.head, 60);
    for _ in 0..times {
        match by_undo {
            true => desk.key(KeyCode::Char('z'), KeyModifiers::CONTROL),
            false => desk.press(KeyCode::Left),
        };
    }
    assert!(desk.message().contains("as before"), "{}", desk.message());
    assert_eq!(desk.app.snapshot.travel.tick, 60);
    assert_eq!(told(&mut desk), before);
}

#[rstest]
fn a_branch_is_listed_by_what_left_it_and_gone_back_to() {
    let mut desk = played();
    let before = told(&mut desk);
    desk.letter('6').press(KeyCode::Down).press(KeyCode::Right).to(90);
    let after = told(&mut desk);
    desk.letter('B');
    let Some(Menu::Branches { rows, .. }) = &desk.app.over.menu else { panic!() };
    assert_eq!(rows.len(), 1);
    let row = &rows[0].1;
    assert!(
        row.starts_with("1, before `knob drift = 6.2 u/s in 1..20` in line 3 at 1.00 s"),
        "{row}"
    );
    assert!(row.ends_with(": 5.00 s, 4 keys and moves"), "{row}");
    let screen = desk.screen();
    assert!(screen.contains("Branches") && screen.contains("before `knob drift"), "{screen}");
    desk.press(KeyCode::Enter);
    assert!(desk.message().starts_with("back on branch 1, at 5.00 s"), "{}", desk.message());
    // The text that stands there is the one that plays.
    assert_eq!(told(&mut desk), before);
    assert_eq!(*desk.app.snapshot.script.text, *desk.text());
    // One key leads to what was left for it, and one back again.
    desk.letter('U');
    assert_eq!(told(&mut desk), after);
    desk.letter('U');
    assert_eq!(told(&mut desk), before);
}

#[rstest]
fn keys_in_the_past_leave_a_branch_too() {
    let mut desk = played();
    let before = told(&mut desk);
    desk.settle(vec![Effect::Tell(Command::Key("hop".into(), true))]);
    desk.to(70);
    assert_eq!(desk.app.snapshot.branches[0].words, "1, before the key of `hop` at 1.00 s");
    desk.letter('U');
    assert_eq!(told(&mut desk), before);
}

#[rstest]
fn without_a_branch_it_is_told_what_makes_one(#[values('B', 'U')] key: char) {
    let mut desk = Desk::new(TEXT, (160, 48));
    desk.letter(key);
    assert!(desk.message().starts_with("no branch: "), "{}", desk.message());
    assert!(desk.app.over.menu.is_none());
}

#[rstest]
fn what_is_let_go_of_is_told() {
    let mut desk = played();
    for _ in 0..=tickpond_lab::run::MOST_PASTS {
        desk.letter('R');
    }
    let words = "the oldest branch is let go of: 1, before starting again with seed 2";
    assert!(desk.message().contains(words), "{}", desk.message());
    assert!(desk.message().contains("started again with seed"), "{}", desk.message());
}
