//! Why a line did not run, asked with one key.

use super::*;

const REEDS: &str = "pond \"Why\" { arena 100 x 60 }
kind frog {
    health 5
    every 0.5 s { if health < 3 and age > 1 s { say \"weak\" } }
}
place frog at (10, 10)
place frog at (20, 10), health 2
";

#[rstest]
#[case((160, 48))]
#[case((80, 24))]
fn the_parts_of_a_condition_stand_on_a_page(#[case] size: (u16, u16)) {
    let mut desk = Desk::new(REEDS, size);
    desk.to(240);
    desk.press(KeyCode::F(2)).press(KeyCode::Down).press(KeyCode::Down).press(KeyCode::Down);
    desk.key(KeyCode::Char('b'), KeyModifiers::CONTROL);
    let screen = desk.screen();
    assert!(screen.contains("line 4: if health < 3 and age > 1 s"), "{screen}");
    assert!(screen.contains("asked of 2 in 16 ticks; of frog#2"), "{screen}");
    // Of the one that is selected.
    desk.press(KeyCode::Esc).press(KeyCode::F(3)).letter('j').letter('k');
    let focus = desk.app.focus.as_ref().unwrap().name();
    assert_eq!(focus, "frog#1");
    desk.press(KeyCode::F(2)).key(KeyCode::Char('b'), KeyModifiers::CONTROL);
    let screen = desk.screen();
    assert!(screen.contains("asked of frog#1 in 8 ticks"), "{screen}");
    assert!(
        screen.contains("✗ false ever since it was asked: health < 3 (health is 5"),
        "{screen}"
    );
    assert_eq!(desk.app.snapshot.travel.tick, 240, "the run stays where it is");
}

#[rstest]
fn a_text_that_does_not_play_cannot_be_asked() {
    let mut desk = Desk::new(REEDS, (160, 48));
    desk.to(60);
    desk.press(KeyCode::F(2)).type_text("kind ");
    desk.key(KeyCode::Char('b'), KeyModifiers::CONTROL);
    assert!(desk.message().contains("does not play"), "{}", desk.message());
}
