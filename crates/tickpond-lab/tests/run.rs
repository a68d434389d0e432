//! Time travel, edits, reports: the lab's promises on the demo.

use crate::common::{DUSK, program, run};
use rstest::rstest;
use tickpond_lab::files::{EventFile, SeriesFile, write_events};
use tickpond_lab::{Edited, Outcome, Player, Report, Run, RunOptions};

fn expectation(check: &str, kinds: &str, ticks: u64) -> (Outcome, Option<u64>) {
    let text = format!("pond \"t\" {{ arena 100 x 100 }}\n{kinds}\nexpect \"it\": {check}");
    let mut run = run(&text);
    run.play_to(ticks);
    run.close();
    (run.verdicts()[0].outcome(), run.verdicts()[0].failed)
}

#[rstest]
fn a_jump_back_and_forth_is_exact() {
    let mut run = run(DUSK);
    let mut digests = vec![run.state().digest()];
    for _ in 0..700 {
        run.step();
        digests.push(run.state().digest());
    }
    let record = run.record().clone();
    for tick in [699, 3, 0, 421, 420, 61, 700, 1] {
        run.seek(tick);
        assert_eq!(run.state().digest(), digests[tick as usize], "tick {tick}");
    }
    assert_eq!(run.head(), 700);
    assert_eq!(*run.record(), record, "looking changes nothing");
}

#[rstest]
fn keys_are_played_back() {
    let mut run = run(DUSK);
    run.play_to(100);
    run.press("fire", true);
    run.play_to(200);
    run.press("fire", false);
    run.play_to(400);
    let (digest, drops) = (run.state().digest(), Report::of(&run).kinds["drop"].born);
    assert_eq!(drops, 7, "held for 100 ticks, a drop every 15");
    run.seek(0);
    run.seek(400);
    assert_eq!(run.state().digest(), digest);
}

#[rstest]
fn a_key_in_the_past_begins_another_future() {
    let mut run = run(DUSK);
    run.play_to(300);
    run.seek(100);
    run.press("fire", true);
    assert_eq!(run.head(), 100);
    run.play_to(300);
    assert!(Report::of(&run).kinds["drop"].born > 0);
}

#[rstest]
fn an_edit_forks_where_it_is_and_both_sides_can_be_reached() {
    let mut run = run(DUSK);
    run.play_to(400);
    run.seek(300);
    let before = run.state().digest();
    let faster = program(&DUSK.replace("drift  = 6 u/s", "drift  = 18 u/s"));
    assert_eq!(run.edit(faster).unwrap(), Edited::Forked);
    assert_eq!(run.past().unwrap().record.len, 401, "the run before stays as the ghost");
    run.play_to(500);
    let after = run.state().digest();
    run.seek(300);
    assert_eq!(run.state().digest(), before);
    assert!((run.state().knobs[0] - 6.0).abs() < 1e-9);
    run.seek(500);
    assert_eq!(run.state().digest(), after);
    assert!((run.state().knobs[0] - 18.0).abs() < 1e-9);
}

#[rstest]
fn an_edit_that_cannot_fork_makes_the_run_again() {
    let mut edited = run(DUSK);
    edited.play_to(300);
    let moved = DUSK.replace("place frog at (80, 8)", "place frog at (60, 8)");
    assert!(matches!(edited.edit(program(&moved)).unwrap(), Edited::Remade(_)));
    let mut fresh = run(&moved);
    fresh.play_to(300);
    assert_eq!(edited.state().digest(), fresh.state().digest());
}

#[rstest]
#[case::at_the_start(0)]
#[case::in_play(300)]
fn a_comment_moves_the_lines_and_nothing_else(#[case] tick: u64) {
    let mut edited = run(DUSK);
    edited.play_to(400);
    edited.seek(tick);
    let commented = format!("// one more line\n{DUSK}");
    assert_eq!(edited.edit(program(&commented)).unwrap(), Edited::Same);
    assert!(edited.edits().is_empty() && edited.past().is_none());
    assert_eq!(edited.head(), 400, "what was played stays");
    edited.play_to(500);
    let mut plain = run(DUSK);
    plain.play_to(500);
    assert_eq!(edited.state().digest(), plain.state().digest());
    let line = |run: &Run| {
        let event = run.record().events().last().unwrap().clone();
        run.program_at(event.tick).line_of(event.site.unwrap())
    };
    assert_eq!(line(&edited), line(&plain) + 1);
    edited.seek(0);
    edited.seek(500);
    assert_eq!(edited.state().digest(), plain.state().digest());
}

#[rstest]
fn the_ghost_of_an_edit_typed_letter_by_letter_is_the_run_before_it() {
    let mut run = run(DUSK);
    run.play_to(300);
    run.seek(100);
    for drift in ["16", "18"] {
        run.edit(program(&DUSK.replace("= 6 u/s", &format!("= {drift} u/s")))).unwrap();
        run.step();
    }
    assert_eq!(run.past().unwrap().record.len, 301);
}

#[rstest]
fn counts_in_the_record_equal_a_recount() {
    let mut run = run(DUSK);
    run.play_to(1500);
    for series in &run.record().kinds {
        let mut live = 0;
        for tick in 0..=1500 {
            live = live + series.born.get(tick).unwrap() - series.ended.get(tick).unwrap();
            assert_eq!(Some(live), series.live.get(tick), "{} at {tick}", series.name);
        }
        assert_eq!(series.lives.len(), series.ended.iter().sum::<u32>() as usize);
    }
}

// Expectations.

const FLIES: &str = "kind fly { after 1 s { end self } }\n\
    spawner src { makes fly at here; every 0.5 s }\nplace src\n";

#[rstest]
#[case::always_held("always count(fly) <= 2", Outcome::Held, None)]
#[case::always_failed("always count(fly) <= 1", Outcome::Failed, Some(60))]
#[case::never("never count(fly) == 2", Outcome::Failed, Some(60))]
#[case::at("at 0.5 s, count(fly) == 1", Outcome::Held, None)]
#[case::by_met("by 1 s, count(fly) == 2", Outcome::Held, None)]
#[case::by_missed("by 0.9 s, count(fly) == 2", Outcome::Failed, Some(54))]
#[case::by_not_yet("by 100 s, count(fly) == 9", Outcome::Untried, None)]
#[case::from("from 0.6 s to 0.9 s, always count(fly) == 1", Outcome::Held, None)]
#[case::from_on("from 1 s on, always count(fly) == 2", Outcome::Held, None)]
#[case::in_the_end("in the end always ended(fly) > 5", Outcome::Held, None)]
#[case::in_the_end_not("in the end always count(fly) == 0", Outcome::Failed, Some(300))]
#[case::lives_at_most("each fly lives at most 1 s", Outcome::Held, None)]
#[case::lives_too_long("each fly lives at most 0.9 s", Outcome::Failed, Some(85))]
#[case::lives_at_least("each fly lives at least 1 s", Outcome::Held, None)]
#[case::ends_by("each fly ends by timer", Outcome::Held, None)]
#[case::ends_by_other("each fly ends by damage or edge", Outcome::Failed, Some(90))]
#[case::after_within("after fly born, within 0.5 s, count(fly) == 2", Outcome::Held, None)]
#[case::after_in_vain("after fly born, within 0.2 s, count(fly) == 7", Outcome::Failed, Some(42))]
#[case::after_for("after fly ends, for 0.1 s, count(fly) == 2", Outcome::Held, None)]
#[case::turning_true("after count(fly) == 1, within 0.5 s, count(fly) == 2", Outcome::Held, None)]
#[case::no_occasion(
    "after fly ends by damage, within 1 s, count(fly) == 0",
    Outcome::Untried,
    None
)]
fn expectations_are_judged(
    #[case] check: &str,
    #[case] outcome: Outcome,
    #[case] tick: Option<u64>,
) {
    assert_eq!(expectation(check, FLIES, 300), (outcome, tick));
}

// Files.

#[rstest]
fn the_report_is_the_contract_and_twice_the_same() {
    let report = || {
        let mut run = run(DUSK);
        run.play_to(1200);
        run.close();
        serde_json::to_value(Report::of(&run)).unwrap()
    };
    let (a, b) = (report(), report());
    assert_eq!(a, b);
    assert_eq!(a["ticks"], 1200);
    assert_eq!(a["knobs"]["drift"], serde_json::json!({"value": 6.0, "unit": "u/s"}));
    assert_eq!(a["stopped"], serde_json::Value::Null);
    let midge = &a["kinds"]["midge"];
    let ended: u64 =
        midge["ended"].as_object().unwrap().values().map(|n| n.as_u64().unwrap()).sum();
    assert_eq!(midge["born"].as_u64().unwrap(), midge["live"].as_u64().unwrap() + ended);
}

#[rstest]
fn the_tables_hold_a_row_a_tick_and_a_line_an_event() {
    let mut run = run(DUSK);
    run.play_to(600);
    let mut player = Player::new(program(DUSK), &RunOptions::default()).unwrap();
    let (mut series, mut events) = (SeriesFile::new(Vec::new()), EventFile::new(Vec::new()));
    assert!(player.play_to(600, &mut [&mut series, &mut events]).unwrap());
    let (series, events) = (series.finish().unwrap(), events.finish().unwrap());
    // What is written as it plays is what a recorded run keeps.
    let mut kept = Vec::new();
    write_events(run.record().events(), &run.versions(), &mut kept).unwrap();
    assert!(events == kept);
    player.close();
    run.close();
    assert_eq!(Report::of(&player), Report::of(&run));
    let mut table = csv::Reader::from_reader(&series[..]);
    assert_eq!(table.headers().unwrap().iter().next(), Some("tick"));
    assert_eq!(table.records().count(), 601);
    let lines: Vec<serde_json::Value> = events
        .split(|b| *b == b'\n')
        .filter(|l| !l.is_empty())
        .map(|l| serde_json::from_slice(l).unwrap())
        .collect();
    assert_eq!(lines.len(), run.record().events().len());
    assert!(lines.iter().all(|l| l["event"] != "born" || l["line"].is_u64()));
}

#[rstest]
fn knobs_can_be_set_from_outside() {
    let options =
        RunOptions { knobs: vec![("flock".into(), "20".into())], ..RunOptions::default() };
    let mut many = Run::new(program(DUSK), options).unwrap();
    many.play_to(900);
    let mut few = run(DUSK);
    few.play_to(900);
    assert!(Report::of(&many).kinds["midge"].born > Report::of(&few).kinds["midge"].born);
    let wrong = RunOptions { knobs: vec![("flok".into(), "20".into())], ..RunOptions::default() };
    let error = Run::new(program(DUSK), wrong).err().unwrap().to_string();
    assert!(error.contains("`flok`") && error.contains("`flock`"), "{error}");
}

#[test]
fn letters_that_nobody_lists_are_counted_and_heard_all_the_same() {
    let text = "pond \"t\" { arena 10 x 10 }\nmessage nudge\n\
        kind frog { vars { heard = 0 } every 10 ticks { send nudge to each frog } on nudge { heard += 1 } }\n\
        place frog at (1, 1)\nplace frog at (5, 5)\n";
    let play = |text: &str, events: bool| {
        let program = tickpond_lang::compile(text).program.unwrap();
        let mut run = Run::new(program, RunOptions { events, ..RunOptions::default() }).unwrap();
        run.play_to(60);
        let mail = run.record().events().iter().filter(|e| e.message.is_some()).count();
        (run.state().digest(), run.state().mail_totals.clone(), mail)
    };
    let (listed, counted) = (play(text, true), play(text, false));
    assert_eq!((listed.0, &listed.1), (counted.0, &counted.1));
    assert_eq!(counted.1[0].heard, 12);
    assert_eq!((listed.2, counted.2), (24, 0));
    // An expectation about mail wants the list.
    let expects = format!("{text}expect \"one\": after nudge sent, within 1 s, count(frog) == 2\n");
    let compiled = tickpond_lang::compile(&expects);
    assert!(compiled.program.is_some(), "{:?}", compiled.diagnostics);
    assert_eq!(play(&expects, false).2, 24);
}

/// What is kept of a tenth of two hours of the demo, with keys, stays under a small setting; so do two thousand kinds.
#[rstest]
fn long_runs_stay_within_the_memory() {
    let within = |run: &Run, budget: usize| {
        let tickpond_lab::Takes { keyframes, events, branches, counts } = run.takes();
        let all = keyframes + events + branches + counts;
        assert!(all <= budget, "{:?} of {budget}", run.takes());
    };
    let mut demo = run(DUSK);
    demo.set_memory(16 << 20);
    for tick in (0..43_200).step_by(600) {
        demo.press("fire", true);
        demo.play_to(tick + 300);
        demo.press("fire", false);
        demo.play_to(tick + 600);
        within(&demo, 16 << 20);
    }
    assert_eq!(demo.tick(), 43_200);
    let kinds: String = (0..2_000)
        .map(|n| format!("kind k{n} {{ after 2 s {{ end self }} }}\nplace k{n} at (5, 5)\n"))
        .collect();
    let mut many = run(&format!("pond \"t\" {{ arena 40 x 20; limit 100_000 entities }}\n{kinds}"));
    many.set_memory(32 << 20);
    many.play_to(4_000);
    within(&many, 32 << 20);
    assert_eq!(many.record().kinds[1_999].live.get(119), Some(1));
    assert_eq!(many.record().kinds[1_999].live.get(121), Some(0));
}

/// A setting of little memory holds for all that can be made again.
#[rstest]
fn events_and_keyframes_stay_within_the_memory() {
    let text = "pond \"t\" { arena 40 x 20 }\nkind frog { every 1 tick { say \"a text of some length, by {name}\" } }\n\
        spawner bed { makes frog at (5, 5); 20 at a time }\nplace bed at (1, 1)\n";
    let program = tickpond_lang::compile(text).program.unwrap();
    let mut run = Run::new(program, RunOptions::default()).unwrap();
    run.set_memory(4 << 20);
    run.play_to(2_000);
    let takes = run.takes();
    assert!(takes.events <= 1 << 20 && takes.keyframes <= 2 << 20, "{takes:?}");
    assert!(run.record().kept_from() > 0, "some were dropped");
    // They are made again when they are looked at.
    run.seek(50);
    run.recall();
    let said = |run: &Run| run.events().iter().filter(|e| e.tick == 50).count();
    assert_eq!(said(&run), 20);
    // A setting that is made smaller holds at once.
    run.seek(2_000);
    run.set_memory(1 << 20);
    assert!(run.takes().events <= 256 << 10, "{:?}", run.takes());
}
