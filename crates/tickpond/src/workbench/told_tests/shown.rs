//! What is written of what is on the screen, and the gallery to choose from.

use crossterm::event::{KeyCode, KeyModifiers};
use rstest::rstest;

use super::*;
use crate::workbench::acts::ponds_menu;
use crate::workbench::command::DrawRun;
use crate::workbench::menu::{Menu, Opening};

/// What Ctrl+E writes: the drawing of the run, or the screen.
fn written(desk: &mut Desk) -> Option<DrawRun> {
    let key = KeyEvent::new(KeyCode::Char('e'), KeyModifiers::CONTROL);
    match desk.app.key(key, 0.0).into_iter().next() {
        Some(Effect::Tell(Command::Export(_, drawing))) => Some(drawing),
        Some(Effect::Picture(..)) => None,
        other => panic!("{other:?}"),
    }
}

fn drawing(what: &'static str, kinds: &[&str], beside: bool) -> Option<DrawRun> {
    Some(DrawRun {
        what,
        kinds: kinds.iter().map(|kind| kind.to_string()).collect(),
        beside,
        stretch: None,
        from: None,
    })
}

#[rstest]
fn each_chart_is_written_as_the_drawing_that_shows_it() {
    let mut desk = desk();
    desk.to(60).letter('4');
    let mut all = Vec::new();
    for _ in Trend::ALL {
        all.push(written(&mut desk).map(|drawing| drawing.what));
        desk.press(KeyCode::Right);
    }
    let wanted =
        [Some("counts"), None, Some("ends"), Some("states"), Some("watches"), Some("lifetimes")];
    assert_eq!(all, wanted);
}

#[rstest]
fn the_run_before_is_written_if_it_is_on_the_screen() {
    let mut desk = desk();
    desk.to(60).letter('4');
    let alone = written(&mut desk);
    desk.letter('o');
    assert_eq!(alone, drawing("counts", &[], true));
    let turned = [written(&mut desk), {
        desk.letter('o');
        written(&mut desk)
    }];
    assert!(turned.contains(&drawing("counts", &[], false)), "{turned:?}");
}

#[rstest]
fn narrowed_lives_and_a_zoomed_arena_are_written_as_they_stand() {
    let mut desk = desk();
    desk.to(60).letter('3');
    assert_eq!(written(&mut desk), drawing("lifelines", &[], false));
    desk.letter('/').type_text("frog").press(KeyCode::Enter);
    assert_eq!(written(&mut desk), None);
    desk.app.bands.place = Place::Arena;
    // With the ways of the last second, as on the screen.
    let with_ways = drawing("arena", &[], false).map(|wanted| DrawRun { from: Some(0), ..wanted });
    assert_eq!(written(&mut desk), with_ways);
    desk.app.arena.layers.trails = false;
    assert_eq!(written(&mut desk), drawing("arena", &[], false));
    desk.app.arena.camera.nearer = 2.0;
    assert_eq!(written(&mut desk), None);
}

/// The drawing that the workbench hands over is one there is, for each that a view can ask for.
#[rstest]
fn every_drawing_a_view_asks_for_is_written(
    #[values("tick", "counts", "states", "watches", "ends", "lifetimes", "lifelines", "arena")]
    what: &'static str,
) {
    let folder = tempfile::tempdir().unwrap();
    let mut desk = desk();
    desk.to(60);
    let paths = ["x.svg", "x.pdf"].map(|name| folder.path().join(name));
    let asked = DrawRun { what, kinds: Vec::new(), beside: true, stretch: None, from: None };
    desk.settle(vec![Effect::Tell(Command::Export(paths.clone(), asked))]);
    assert!(desk.message().starts_with("wrote "), "{}", desk.message());
    assert!(std::fs::read_to_string(&paths[0]).unwrap().starts_with("<svg"));
    assert!(std::fs::read(&paths[1]).unwrap().starts_with(b"%PDF"));
}

#[rstest]
#[case::idea("thinned", "09_thinning")]
#[case::name("rays", "16_rays")]
#[case::number("27", "27_pointer")]
fn the_gallery_is_narrowed_by_name_and_idea(#[case] typed: &str, #[case] file: &'static str) {
    let mut desk = desk();
    desk.app.over.menu = Some(ponds_menu(true));
    desk.type_text(typed);
    let screen = desk.screen();
    let Some(Menu::Ponds { entries, typed, .. }) = &desk.app.over.menu else { panic!() };
    let fits = crate::workbench::menus::fitting_entries(entries, typed);
    assert_eq!(fits.iter().map(|e| e.what.clone()).collect::<Vec<_>>(), [Opening::Shipped(file)]);
    // The whole of what it is about stands beneath, however wide the screen.
    let idea = &fits[0].idea;
    let row = screen.lines().find(|line| line.contains(idea.split(' ').next().unwrap()));
    assert!(row.is_some(), "{idea} in {screen}");
}

#[rstest]
#[case((160, 50))]
#[case((80, 24))]
fn the_list_says_which_of_how_many_and_cuts_with_a_mark(#[case] size: (u16, u16)) {
    let mut desk = Desk::new(TEXT, size);
    desk.app.over.menu = Some(ponds_menu(true));
    for _ in 0..12 {
        desk.press(KeyCode::Down);
    }
    let screen = desk.screen();
    let Some(Menu::Ponds { entries, chosen, .. }) = &desk.app.over.menu else { panic!() };
    assert_eq!(*chosen, 12);
    if size.1 == 24 {
        assert!(screen.contains(&format!("13 of {}", entries.len())), "{screen}");
        assert!(screen.contains('…'), "{screen}");
    }
    assert!(screen.contains(&entries[12].name), "{screen}");
}

/// However long what is said, all of it can be read, and the way to the keys stays.
#[rstest]
fn a_long_message_takes_no_keys_away(
    #[values((160, 48), (110, 30), (80, 24), (52, 15))] size: (u16, u16),
    #[values(3, 30, 70, 100, 140)] length: usize,
) {
    let mut desk = Desk::new(TEXT, size);
    let words: Vec<String> = (0..length.div_ceil(5)).map(|at| format!("w{at:03}")).collect();
    desk.app.said.message = Some((words.join(" "), false));
    let screen = desk.screen();
    let last = screen.lines().last().unwrap();
    assert!(last.contains("? keys"), "{last:?}");
    for word in &words {
        assert!(screen.contains(word.as_str()), "{word} in {screen}");
    }
}

#[rstest]
fn what_is_too_long_for_three_rows_is_cut_with_a_mark() {
    let mut desk = Desk::new(TEXT, (80, 24));
    desk.app.said.message = Some((vec!["word"; 90].join(" "), true));
    let screen = desk.screen();
    let rows: Vec<&str> = screen.lines().rev().take(4).collect();
    assert!(rows[0].contains("? keys") && rows[1].trim_end().ends_with('…'), "{screen}");
    assert_eq!(screen.matches("word word").count() > 0, rows[3].contains("word word"));
}

#[rstest]
fn what_comes_with_the_program_plays_its_tape_and_a_pond_of_ones_own_does_not() {
    let dusk = crate::ponds::shipped("dusk").unwrap().text;
    let mut drops = Vec::new();
    for path in [None, Some(std::path::PathBuf::from("/tmp/no-such-folder/dusk.pond"))] {
        let document = Document { path, name: "dusk.pond".into(), text: dusk.into() };
        let mut desk = desk();
        desk.app.replace_document(document);
        desk.settle(Vec::new());
        desk.to(300);
        let kinds = &desk.app.snapshot.strip.kinds;
        drops.push(kinds.iter().any(|(name, most)| name == "drop" && *most > 0));
        let plays = desk.app.snapshot.play.plays.clone();
        assert_eq!(plays.is_some(), drops.last() == Some(&true), "{plays:?}");
    }
    assert_eq!(drops, [true, false]);
}
