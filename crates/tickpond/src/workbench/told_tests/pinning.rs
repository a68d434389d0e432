//! Values that were pinned, and checks beside the numbers that move them.

use super::*;

const FROG: &str = "pond \"Pins\" { arena 100 x 60 }
knob bite = 1 in 0..6 \"how much it is hurt\"
kind frog { health 8; every 1 s { damage self by bite }; after 30 s { end self } }
place frog at (10, 10)
watch frogs = count(frog)
expect \"it stays well\": always count(frog where health > 2) == 1
";

fn pinned(size: (u16, u16)) -> Desk {
    let mut desk = Desk::new(FROG, size);
    desk.to(240).press(KeyCode::F(3));
    desk.letter('P').type_text("frog#1.health").press(KeyCode::Enter);
    desk.letter('P').type_text("frogs").press(KeyCode::Enter);
    desk.letter('9');
    desk.settle(Vec::new());
    desk
}

fn row(desk: &Desk, words: &str) -> String {
    let screen = desk.screen();
    screen
        .lines()
        .find(|row| row.trim_start().starts_with(words))
        .unwrap_or_else(|| panic!("{screen}"))
        .into()
}

#[rstest]
#[case((160, 48))]
#[case((110, 30))]
#[case((80, 24))]
fn a_pinned_value_stays_with_its_line(#[case] size: (u16, u16)) {
    let mut desk = pinned(size);
    let health = row(&desk, "frog#1.health");
    assert!(health.contains(" 4 4 … 8"), "{health}");
    assert!(health.chars().any(|sign| ('\u{2801}'..='\u{28ff}').contains(&sign)), "{health}");
    assert!(row(&desk, "frogs ").contains(" 1 1 … 1"), "{}", desk.screen());
    // Back in time it is what it was, and of what comes after nothing is said.
    desk.settle(vec![Effect::Tell(Command::Seek(130))]);
    desk.settle(Vec::new());
    assert!(row(&desk, "frog#1.health").contains(" 6 6 … 8"), "{}", desk.screen());
    desk.letter('x');
    desk.settle(Vec::new());
    assert!(!desk.screen().contains("frog#1.health  "), "{}", desk.screen());
    assert!(row(&desk, "frogs ").contains(" 1 1 … 1"));
}

#[rstest]
fn who_is_gone_has_no_value() {
    let mut desk = pinned((160, 48));
    desk.to(1900);
    desk.settle(Vec::new());
    assert!(row(&desk, "frog#1.health").contains("not there"), "{}", desk.screen());
    assert!(row(&desk, "frogs ").contains(" 0 0 … 1") || row(&desk, "frogs ").contains(" 0 0 … 0"));
}

#[rstest]
fn what_cannot_be_pinned_is_told() {
    let mut desk = pinned((160, 48));
    desk.letter('P').type_text("count(newt)").press(KeyCode::Enter);
    assert!(desk.message().contains("newt"), "{}", desk.message());
    desk.letter('P').type_text("frogs").press(KeyCode::Enter);
    assert!(desk.message().contains("pinned already"), "{}", desk.message());
}

#[rstest]
fn enter_goes_to_the_line_of_a_watch_or_of_the_one_that_is_named() {
    let mut desk = pinned((160, 48));
    desk.press(KeyCode::Enter);
    desk.settle(Vec::new());
    assert_eq!(desk.app.focus.as_ref().unwrap().name(), "frog#1");
    desk.press(KeyCode::Down).press(KeyCode::Enter);
    assert!(desk.message().contains("line 5"), "{}", desk.message());
}

#[rstest]
#[case((160, 48))]
#[case((80, 24))]
fn checks_stand_beside_the_numbers_that_move_them(#[case] size: (u16, u16)) {
    let mut desk = Desk::new(FROG, size);
    desk.to(200).press(KeyCode::F(3)).letter('6');
    assert!(desk.screen().contains("✓ it stays well"), "{}", desk.screen());
    // Hurt by six in a second it is not well: the verdict turns as soon as it plays.
    for _ in 0..5 {
        desk.press(KeyCode::Right);
    }
    desk.to(400);
    desk.settle(Vec::new());
    assert!(desk.screen().contains("✗ it stays well"), "{}", desk.screen());
}
