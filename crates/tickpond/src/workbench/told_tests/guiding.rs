//! The guided start, and a look at the ponds in the list.

use super::*;
use crate::ponds::LESSON;
use crate::workbench::held::Guide;

fn lesson(size: (u16, u16)) -> Desk {
    let mut desk = desk();
    desk.app.resize(Rect::new(0, 0, size.0, size.1));
    let document =
        Document { path: None, name: "first_steps.pond".into(), text: LESSON.text.into() };
    desk.app.replace_document(document);
    desk.settle(Vec::new());
    desk
}

fn edit(desk: &mut Desk, from: &str, to: &str) {
    let text = desk.text();
    assert!(text.contains(from), "{text}");
    desk.app.script.buffer.put_all(&text.replacen(from, to, 1));
    desk.settle(Vec::new());
}

#[rstest]
#[case((160, 48))]
#[case((110, 30))]
#[case((80, 24))]
fn each_step_is_ticked_off_when_it_has_happened(#[case] size: (u16, u16)) {
    let mut desk = lesson(size);
    let step = |desk: &Desk, words: &str| {
        assert!(desk.screen().contains(words), "no {words:?} in\n{}", desk.screen());
    };
    step(&desk, "······  step 1 of 6: let it play until the first drop falls");
    step(&desk, "Space plays and pauses.");
    desk.to(200);
    step(&desk, "✓·····  step 2 of 6: more rain: turn gap down to 0.5 s or less");
    edit(&mut desk, "gap = 2 s", "gap = 0.4 s");
    desk.to(900);
    desk.to(1500);
    step(&desk, "step 5 of 6: faster rain");
    edit(&mut desk, "speed 12 u/s", "speed 30 u/s");
    desk.to(1700);
    step(&desk, "step 6 of 6: let drops dry up");
    edit(&mut desk, "    on touch lily", "    after 1 s { end self }\n    on touch lily");
    desk.to(2000);
    step(&desk, "✓✓✓✓✓✓  all 6 steps are done");
    // Done is done, wherever one goes.
    desk.settle(vec![Effect::Tell(Command::Seek(0))]);
    step(&desk, "all 6 steps are done");
    desk.press(KeyCode::F(3)).letter('G');
    assert!(!desk.screen().contains("steps are done"), "{}", desk.screen());
}

#[rstest]
fn the_guide_takes_no_room_where_there_is_none() {
    let mut desk = desk();
    let before = desk.app.areas().unwrap();
    assert!(before.guide.is_empty());
    desk.press(KeyCode::F(3)).letter('G');
    assert!(desk.app.guide.is_some());
    let with = desk.app.areas().unwrap();
    assert_eq!((with.guide.height, with.status), (2, before.status));
    assert_eq!(with.guide.bottom(), with.status.y);
    assert_eq!(with.drawer.bottom(), with.guide.y);
    assert!(desk.screen().contains("step 2 of 2: later"), "{}", desk.screen());
}

#[rstest]
fn a_pond_without_expectations_has_no_steps() {
    let mut desk = Desk::new("pond \"t\" { arena 9 x 9 }", (160, 48));
    desk.press(KeyCode::F(3)).letter('G');
    assert_eq!(desk.app.guide, None::<Guide>);
    assert!(desk.message().contains("nothing is expected"), "{}", desk.message());
}

#[rstest]
#[case((160, 48), true)]
#[case((110, 30), true)]
#[case((80, 24), false)]
fn the_list_of_ponds_shows_what_the_chosen_one_looks_like(
    #[case] size: (u16, u16),
    #[case] wanted: bool,
) {
    let mut desk = Desk::new(TEXT, size);
    desk.key(KeyCode::Char('o'), KeyModifiers::CONTROL).type_text("rain");
    let shown = desk.screen();
    assert!(shown.contains("02 rain"), "{shown}");
    assert_eq!(shown.contains("after 5 s"), wanted, "{shown}");
    let was = desk.app.over.preview.as_ref().unwrap().file;
    assert_eq!(was, "02_rain");
    desk.press(KeyCode::Down);
    assert_ne!(desk.app.over.preview.as_ref().map(|seen| seen.file), None);
}
