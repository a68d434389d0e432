//! More of what is told: selections, ways through time, the play's keys, quitting.

use super::*;

#[rstest]
fn looking_at_a_line_never_types_into_it(
    #[values((160, 48), (100, 30), (80, 24), (52, 15))] size: (u16, u16),
    #[values('b', 'e', 'h')] look: char,
) {
    let mut desk = Desk::new(TEXT, size);
    desk.to(400).letter('j').letter(look);
    desk.type_text("2/ended drop").press(KeyCode::Enter);
    assert_eq!(desk.text(), TEXT);
    assert_eq!((desk.app.bands.place, desk.app.drawer.view), (Place::Drawer, DrawerView::Feed));
}

#[rstest]
fn a_line_is_shown_until_the_next_key_where_there_is_no_room_beside() {
    let mut desk = Desk::new(TEXT, (80, 24));
    desk.to(60).letter('j').letter('b');
    assert!(desk.screen().contains("place frog at (10, 10)"), "{}", desk.screen());
    assert!(desk.message().contains("F2 goes there"), "{}", desk.message());
    desk.letter('.');
    assert!(!desk.screen().contains("place frog at (10, 10)"));
}

#[rstest]
fn who_is_selected_unseen_is_told() {
    let mut desk = desk();
    desk.to(60).letter('4').press(KeyCode::F(3)).letter('j');
    assert!(desk.message().contains("frog#1 is selected"), "{}", desk.message());
}

#[rstest]
fn what_is_open_is_not_told_as_failed() {
    let mut desk = desk();
    assert!(desk.screen().contains("1 hold, 1 open"), "{}", desk.screen());
    desk.to(200);
    assert!(desk.screen().contains(" 2 hold "), "{}", desk.screen());
}

#[rstest]
fn an_edit_that_made_no_difference_yet_says_so() {
    let mut desk = desk();
    desk.to(60).letter('6').press(KeyCode::Down).press(KeyCode::Right);
    desk.app.said.message = None;
    assert!(desk.screen().contains("no difference yet; from the start: w, r"), "{}", desk.screen());
    desk.key(KeyCode::Char('z'), KeyModifiers::CONTROL);
    assert!(desk.message().contains("edit taken back"), "{}", desk.message());
}

// A selection is a name.

#[rstest]
fn the_story_is_of_the_name_that_is_selected_whatever_is_played_anew() {
    let text = "pond \"t\" { arena 90 x 90 }\nkind a { look \"a\" }\nkind b { look \"b\" }\n\
        knob first = 1 in 0..1\nspawner bed { makes a at here; every 0.5 s }\nplace bed at (5, 5)\n\
        place b at (9, 9)\n";
    let mut desk = Desk::new(text, (160, 48));
    desk.to(300).letter('1').press(KeyCode::PageDown);
    let name = desk.app.focus.as_ref().unwrap().name();
    desk.letter('w');
    // Another kind comes before it, and another in its place.
    let other = text.replace("kind a {", "kind c { look \"c\" }\nplace c at (3, 3)\nkind a {");
    desk.app.script.buffer.put_all(&other.replace("every 0.5 s", "every 0.4 s"));
    desk.settle(Vec::new());
    let story = desk.app.story().expect("its story");
    assert_eq!((story.name.clone(), desk.app.focus.as_ref().unwrap().name()), (name.clone(), name));
    let seen = desk.app.seen_focus().expect("it lives");
    let place = story.values.iter().find(|v| v.0 == "place").unwrap();
    assert_eq!(place.1, format!("({:.1}, {:.1}) u", seen.at.0, seen.at.1));
}

#[rstest]
fn lines_are_those_of_the_text_on_the_screen() {
    let mut desk = desk();
    desk.to(60).letter('j');
    // Two lines more above, and an edit that means something.
    let moved = format!("// one\n// two\n{}", TEXT.replace("after 5 s", "after 6 s"));
    desk.app.script.buffer.put_all(&moved);
    desk.settle(Vec::new());
    desk.to(100).letter('b');
    assert_eq!(desk.app.script.buffer.cursor().0, 8, "where `place frog at (10, 10)` is now");
    assert!(desk.message().contains("line 9: F2"), "{}", desk.message());
}

// The way to a tick.

#[rstest]
fn a_long_way_is_told_and_can_be_stopped() {
    let mut desk = desk();
    desk.to(60);
    let mut seen = (*desk.worker.snapshot()).clone();
    seen.travel.goal = Some(90_000);
    desk.app.observe(Arc::new(seen));
    assert!(desk.screen().contains("on the way to 1500.00 s (Esc stops)"), "{}", desk.screen());
    let effects = desk.app.key(KeyEvent::new(KeyCode::Esc, KeyModifiers::NONE), 0.0);
    assert!(matches!(&effects[..], [Effect::Tell(Command::Halt)]), "{effects:?}");
}

#[rstest]
fn where_nothing_plays_there_is_no_way_anywhere() {
    let mut desk = Desk::new("pond", (160, 48));
    desk.letter('t').type_text("600 s").press(KeyCode::Enter);
    assert_eq!(desk.app.snapshot.travel.goal, None);
    assert!(!desk.screen().contains("on the way"));
}

#[rstest]
fn what_is_done_on_the_way_back_happens_where_it_leads() {
    let mut desk = desk();
    desk.to(2000);
    // All in one read: back, and a place there.
    desk.settle(vec![
        Effect::Tell(Command::Seek(30)),
        Effect::Tell(Command::Place("frog".into(), (3.0, 3.0))),
        Effect::Tell(Command::Step(1)),
    ]);
    let s = &desk.app.snapshot;
    assert_eq!((s.travel.tick, s.travel.head, s.scene.entities.len()), (31, 31, 3));
}

#[rstest]
fn what_was_missed_while_suspended_is_not_played_all_at_once() {
    let mut desk = desk();
    desk.worker.obey(Command::Play(true));
    // An hour without a word.
    desk.worker.was_away(std::time::Duration::from_secs(3600));
    desk.worker.pass();
    let tick = desk.worker.snapshot().travel.tick;
    assert!((1..=20).contains(&tick), "{tick} ticks of 216,000");
}

// The play's keys.

#[rstest]
#[case('q')]
#[case('r')]
#[case('T')]
#[case(':')]
fn while_the_play_has_the_keys_all_are_its_own(#[case] c: char) {
    let mut desk = desk();
    desk.to(60).letter('T').letter('p');
    assert!(desk.app.snapshot.play.recording.is_some());
    let effects = desk.app.key(KeyEvent::new(KeyCode::Char(c), KeyModifiers::NONE), 0.0);
    assert!(effects.is_empty() && desk.app.over.menu.is_none() && desk.app.over.prompt.is_none());
    assert!(desk.message().contains("Esc gives the keys back"), "{}", desk.message());
    let effects = desk.app.key(KeyEvent::new(KeyCode::F(7), KeyModifiers::NONE), 0.0);
    assert!(matches!(&effects[..], [Effect::Tell(Command::Step(1))]), "{effects:?}");
}

#[rstest]
fn esc_gives_the_keys_back_though_another_key_comes_right_behind_it() {
    let mut desk = desk();
    desk.to(60).letter('p').key(KeyCode::Char('4'), KeyModifiers::ALT);
    assert!(!desk.app.controls.on);
    assert_eq!(desk.app.drawer.view, DrawerView::Trends);
    // An input's own key latches.
    desk.letter('p').key(KeyCode::Char('h'), KeyModifiers::ALT);
    assert!(desk.app.controls.on);
    assert_eq!(desk.app.controls.latched().collect::<Vec<_>>(), ["hop"]);
}

#[rstest]
fn the_status_line_shows_the_keys_that_work_in_play() {
    let mut desk = desk();
    desk.to(60).letter('p');
    desk.app.said.message = None;
    let screen = desk.screen();
    let status = screen.lines().last().unwrap();
    assert!(status.contains("F5 play") && status.contains("F8 give the keys back"), "{status}");
    assert!(!status.contains("restart") && !status.contains("Space"), "{status}");
    assert!(screen.contains("pointer moves aim, h hop"), "{screen}");
}

#[rstest]
fn a_pointer_of_the_play_goes_where_it_is_moved() {
    let mut desk = desk();
    desk.to(60).letter('p');
    let arena = crate::workbench::layout::body(desk.app.areas().unwrap().arena);
    let moved = MouseEvent {
        kind: MouseEventKind::Moved,
        column: arena.x + arena.width / 2,
        row: arena.y + arena.height / 2,
        modifiers: KeyModifiers::NONE,
    };
    let effects = desk.app.mouse(moved);
    let Some(Effect::Tell(Command::Point(name, at))) = effects.first() else {
        panic!("{effects:?}")
    };
    assert_eq!(name, "aim");
    assert!((at.0 - 20.0).abs() < 2.0 && (at.1 - 10.0).abs() < 2.0, "{at:?}");
}

#[rstest]
fn quitting_asks_when_a_recording_or_a_long_run_would_be_lost() {
    let mut desk = desk();
    desk.to(60).letter('T').letter('q');
    assert!(
        matches!(&desk.app.over.prompt, Some(Prompt::LoseRun(words, After::Quit)) if words.contains("recorded"))
    );
    desk.press(KeyCode::Esc);
    assert_eq!(desk.app.over.prompt, None);
    desk.letter('q');
    desk.app.key(KeyEvent::new(KeyCode::Char('d'), KeyModifiers::NONE), 1.0);
    let effects = desk.app.key(KeyEvent::new(KeyCode::Enter, KeyModifiers::NONE), 1.0);
    assert!(matches!(&effects[..], [Effect::Quit]));
    let mut desk = Desk::new(TEXT, (160, 48));
    desk.to(60 * 60 * 11).letter('q');
    assert!(
        matches!(&desk.app.over.prompt, Some(Prompt::LoseRun(words, After::Quit)) if words.contains("11 minutes"))
    );
}

#[rstest]
#[case('r')]
#[case('R')]
fn a_recording_is_not_lost_by_starting_again(#[case] c: char) {
    let mut desk = desk();
    desk.to(60).letter('T').letter(c);
    assert!(matches!(&desk.app.over.prompt, Some(Prompt::LoseRun(..))));
    assert_eq!((desk.app.snapshot.travel.tick, desk.app.snapshot.play.recording), (60, Some(60)));
    desk.choose('d');
    assert_eq!((desk.app.snapshot.travel.tick, desk.app.snapshot.play.recording), (0, None));
    assert!(desk.app.open(Opening::New).iter().any(|e| matches!(e, Effect::Open(_))));
    desk.letter('T');
    assert!(desk.app.open(Opening::New).is_empty(), "asked first");
}

#[rstest]
fn one_that_is_not_born_yet_is_not_gone() {
    let text = format!("{TEXT}after 1 s {{ spawn frog at (3, 3) }}\n");
    let mut desk = Desk::new(&text, (160, 48));
    desk.to(90).letter('j').letter('j').letter('j').to(30);
    let screen = desk.screen();
    assert!(
        screen.contains("frog#3  not alive at this tick") && screen.contains("not born so far"),
        "{screen}"
    );
    desk.to(400);
    assert!(desk.screen().contains("gone"), "{}", desk.screen());
}

#[rstest]
fn every_question_fits_a_small_screen() {
    let mut desk = Desk::new(TEXT, (80, 24));
    let left = || After::Open(Opening::New);
    let prompts = [
        Prompt::Unsaved(After::Quit),
        Prompt::Unsaved(left()),
        Prompt::Over("a/long/way/to/some/marsh/and/further/on/small.pond".into(), After::Stay),
        Prompt::LoseRun(crate::workbench::prompt::RECORDING.into(), After::Quit),
        Prompt::SaveAs("small.pond".into(), After::Stay),
    ];
    for prompt in prompts {
        desk.app.over.prompt = Some(prompt.clone());
        let screen = desk.screen();
        let status = screen.lines().last().unwrap().trim_end();
        let ends = ["Esc stay", "t take theirs", "Esc does not"];
        assert!(ends.iter().any(|end| status.ends_with(end)), "{prompt:?}: {status}");
    }
}

// Pictures.

#[rstest]
fn each_chart_has_a_picture_of_its_own_name() {
    let mut desk = desk();
    desk.to(60).letter('4');
    let mut names = std::collections::BTreeSet::new();
    for _ in Trend::ALL {
        let key = KeyEvent::new(KeyCode::Char('e'), KeyModifiers::CONTROL);
        for effect in desk.app.key(key, 0.0) {
            match effect {
                Effect::Picture(_, paths) | Effect::Tell(Command::Export(paths, _)) => {
                    names.insert(paths[0].clone());
                }
                _ => {}
            }
        }
        desk.press(KeyCode::Right);
    }
    assert_eq!(names.len(), Trend::ALL.len(), "{names:?}");
}

#[rstest]
fn a_character_that_steers_the_terminal_is_shown_as_a_picture() {
    let text = TEXT.replace("\"old\"", "\"a\u{1b}bc\u{7}d\u{9b}e\"");
    let desk = Desk::new(&text, (160, 48));
    let screen = desk.screen();
    assert!(screen.contains("\"a␛bc␇d\u{fffd}e\""), "{screen}");
    let area = desk.app.bands.screen;
    let mut cells = Cells::empty(area);
    screen::draw(&desk.app, area, &mut cells, &Palette::new(true));
    assert!(cells.content.iter().all(|c| !c.symbol().chars().any(crate::showable::steers)));
}

#[rstest]
fn every_sign_the_program_draws_has_a_picture_in_a_pdf() {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR"));
    let mut files = vec![root.join("src/workbench"), root.join("../../ponds")];
    let mut signs = std::collections::BTreeSet::new();
    while let Some(path) = files.pop() {
        if path.is_dir() {
            files.extend(std::fs::read_dir(&path).unwrap().flatten().map(|e| e.path()));
            continue;
        }
        let is_test = path.to_string_lossy().contains("test");
        let ends = path.extension().and_then(|e| e.to_str());
        if !is_test && matches!(ends, Some("rs" | "pond")) {
            let text = std::fs::read_to_string(&path).unwrap();
            // Letters of examples in other alphabets are nobody's sign.
            let text = text.split("#[cfg(test)]").next().unwrap().to_string();
            signs.extend(
                text.chars().filter(|c| !c.is_ascii() && !('\u{2800}'..='\u{28ff}').contains(c)),
            );
        }
    }
    assert!(signs.len() > 20, "{signs:?}");
    let signs: String = signs.iter().collect();
    assert_eq!(tickpond_draw::missing_signs([signs.as_str()]), Vec::<char>::new());
}
