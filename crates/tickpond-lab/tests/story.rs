//! What a run leaves behind: event lines, reports, versions, ghosts.

use std::sync::Arc;

use rstest::rstest;
use serde_json::Value;
use tickpond_lab::files::{SeriesFile, write_events};
use tickpond_lab::{Edited, Player, Report, Run, RunOptions};
use tickpond_lang::program::Program;

const TEXT: &str = "pond \"t\" { arena 100 x 100; edges open, margin 2 u }
knob bite = 1
input fire = key f
message ho(n: number)
place frog at (50, 10), facing 90 deg
place fly at (50, 40)
kind frog { body circle 1 u; health 9
  on press fire { spawn drop at here, speed 60 u/s; send ho(3) to each fly; send ho(1) to all }
  every 1 s { say \"at {age}\" } }
kind drop { body circle 0.5 u
  on first touch fly as t { damage t by bite credit maker; end self because \"spent\" }
  on leave arena { end self } }
kind fly { body circle 1 u; health 2
  on ho(n) { say \"{n}\" } }
watch flies = count(fly)
watch hit = ended(fly by damage) > 0
";

fn program(text: &str) -> Arc<Program> {
    let compiled = tickpond_lang::compile(text);
    compiled.program.unwrap_or_else(|| panic!("{:?}", compiled.diagnostics))
}

fn run() -> Run {
    Run::new(program(TEXT), RunOptions::default()).unwrap()
}

/// Fires twice, a second apart, and plays four seconds.
fn fired() -> Run {
    let mut run = run();
    for at in [30, 90] {
        run.play_to(at);
        run.press("fire", true);
        run.step();
        run.press("fire", false);
    }
    run.play_to(240);
    run
}

fn lines(run: &Run) -> Vec<Value> {
    let mut bytes = Vec::new();
    write_events(run.record().events(), &run.versions(), &mut bytes).unwrap();
    let lines = bytes.split(|b| *b == b'\n').filter(|l| !l.is_empty());
    lines.map(|l| serde_json::from_slice(l).unwrap()).collect()
}

fn of<'l>(lines: &'l [Value], event: &str, entity: &str) -> Vec<&'l Value> {
    lines.iter().filter(|l| l["event"] == event && l["entity"] == entity).collect()
}

#[rstest]
fn an_end_tells_cause_line_credit_and_length_of_life() {
    let lines = lines(&fired());
    let end = of(&lines, "ended", "fly#1")[0];
    assert_eq!(end["cause"], "damage");
    assert_eq!(end["phase"], "ends");
    assert_eq!(end["other"], "frog#1", "the credit goes to the maker of the drop");
    assert_eq!(end["line"], 11);
    assert!((end["value"].as_f64().unwrap() - end["tick"].as_f64().unwrap() / 60.0).abs() < 1e-9);
    let spent = of(&lines, "ended", "drop#1")[0];
    assert_eq!((&spent["cause"], &spent["words"]), (&"touch".into(), &"spent".into()));
}

#[rstest]
fn a_birth_tells_its_maker_and_line_and_the_placed_the_pond() {
    let lines = lines(&fired());
    let drop = of(&lines, "born", "drop#1")[0];
    assert_eq!(
        (&drop["other"], &drop["line"], &drop["tick"]),
        (&"frog#1".into(), &8.into(), &31.into())
    );
    let frog = of(&lines, "born", "frog#1")[0];
    assert_eq!(
        (&frog["other"], &frog["line"], &frog["tick"]),
        (&"pond".into(), &5.into(), &0.into())
    );
}

#[rstest]
fn hurts_and_touches_are_told() {
    let lines = lines(&fired());
    let hurts = of(&lines, "hurt", "fly#1");
    assert_eq!(hurts.len(), 2);
    assert!(hurts.iter().all(|h| h["value"] == 1.0 && h["other"] == "frog#1"));
    assert_eq!(lines.iter().filter(|l| l["event"] == "touched").count(), 2);
}

#[rstest]
fn messages_are_told_from_both_sides() {
    let run = fired();
    let lines = lines(&run);
    let sent = of(&lines, "sent", "frog#1");
    assert_eq!(sent.len(), 4, "two at each press");
    assert!(sent.iter().all(|s| s["message"] == "ho"));
    let unheard: Vec<_> = lines.iter().filter(|l| l["event"] == "unheard").collect();
    assert!(
        unheard.iter().any(|l| l["entity"] == "pond")
            && unheard.iter().any(|l| l["entity"] == "frog#1")
    );
    let totals = &Report::of(&run).messages["ho"];
    assert_eq!(totals.sent, 4);
    assert_eq!(totals.heard as usize, lines.iter().filter(|l| l["event"] == "heard").count());
    assert_eq!(totals.unheard as usize, unheard.len());
}

#[rstest]
fn what_is_said_is_told() {
    let lines = lines(&fired());
    let said: Vec<&str> =
        of(&lines, "said", "frog#1").iter().map(|l| l["words"].as_str().unwrap()).collect();
    assert_eq!(said, ["at 1 s", "at 2 s", "at 3 s", "at 4 s"]);
}

#[rstest]
fn the_report_adds_up() {
    let report = Report::of(&fired());
    let drops = &report.kinds["drop"];
    assert_eq!((drops.born, drops.live, drops.peak), (2, 0, 1));
    assert_eq!(drops.ended["touch"], 2);
    assert_eq!(drops.ended.len(), 1, "causes that never were are left out");
    let life = drops.lifetime_s.as_ref().unwrap();
    assert!(life.min <= life.median && life.median <= life.max && life.max < 1.0);
    assert_eq!(report.watches["flies"], Some(0.0));
    assert_eq!(report.watches["hit"], Some(1.0));
    assert!(report.kinds["frog"].lifetime_s.is_none());
}

#[rstest]
fn a_series_holds_conditions_as_numbers() {
    let tape = "tape \"shot\" played { at 31 ticks tap fire, 2 times every 1 s }\n";
    let options = RunOptions { tape: tickpond_lab::TapeChoice::Played, ..RunOptions::default() };
    let mut player = Player::new(program(&format!("{TEXT}{tape}")), &options).unwrap();
    let mut series = SeriesFile::new(Vec::new());
    assert!(player.play_to(240, &mut [&mut series]).unwrap());
    let bytes = series.finish().unwrap();
    let mut table = csv::Reader::from_reader(&bytes[..]);
    let head: Vec<String> = table.headers().unwrap().iter().map(String::from).collect();
    assert_eq!(head, ["tick", "frog", "drop", "fly", "flies", "hit"]);
    let rows: Vec<csv::StringRecord> = table.records().map(Result::unwrap).collect();
    assert_eq!((&rows[0][5], &rows[240][5]), ("0", "1"));
    assert_eq!(&rows[240][0], "240");
}

#[rstest]
fn events_name_the_version_their_line_belongs_to() {
    let mut run = run();
    run.play_to(70);
    let edited = format!("// first\n{}", TEXT.replace("at {age}", "now {age}"));
    assert_eq!(run.edit(program(&edited)).unwrap(), Edited::Forked);
    run.play_to(200);
    let lines = lines(&run);
    let said: Vec<(String, i64, i64)> = of(&lines, "said", "frog#1")
        .iter()
        .map(|l| {
            (
                l["words"].as_str().unwrap().into(),
                l["line"].as_i64().unwrap(),
                l["version"].as_i64().unwrap(),
            )
        })
        .collect();
    let wanted = [("at 1 s", 9, 0), ("now 2 s", 10, 1), ("now 3 s", 10, 1)];
    assert_eq!(said, wanted.map(|(words, line, version)| (words.to_string(), line, version)));
}

#[rstest]
fn a_kind_that_an_edit_brings_has_a_series_from_the_start() {
    let mut run = run();
    run.play_to(60);
    let more = format!(
        "{TEXT}kind midge {{ after 1 s {{ end self }} }}\nafter 2 s {{ spawn midge at (1, 1) }}\n"
    );
    assert_eq!(run.edit(program(&more)).unwrap(), Edited::Forked);
    run.play_to(150);
    let series = run.record().kinds.iter().find(|s| s.name == "midge").unwrap();
    assert_eq!(series.live.len(), 151);
    assert_eq!(series.born.iter().sum::<u32>(), 1);
    assert!(series.live.over(0..60).all(|n| n == 0));
}

#[rstest]
fn a_restart_begins_again_and_keeps_the_run_before_as_the_ghost() {
    let mut run = fired();
    let before = run.record().clone();
    run.restart(Some(9)).unwrap();
    assert_eq!((run.tick(), run.head(), run.state().seed), (0, 0, 9));
    let past = run.past().unwrap();
    assert_eq!(past.record.kinds, before.kinds);
    assert_eq!((past.number, past.parted), (1, 0));
    run.play_to(240);
    assert!(
        run.state().totals.iter().all(|t| t.born < 2),
        "nobody presses the keys of the run before"
    );
}

#[rstest]
fn an_edit_made_in_the_past_is_another_future() {
    let mut run = fired();
    run.seek(60);
    run.edit(program(&TEXT.replace("knob bite = 1", "knob bite = 2"))).unwrap();
    assert_eq!(run.head(), 60);
    run.play_to(240);
    // The second press was after the edit, and is forgotten with the rest of that future.
    assert_eq!(Report::of(&run).kinds["drop"].born, 1);
}

#[rstest]
fn a_knob_turned_from_outside_stays_turned_over_an_edit() {
    let options = RunOptions { knobs: vec![("bite".into(), "2".into())], ..RunOptions::default() };
    let mut run = Run::new(program(TEXT), options).unwrap();
    run.play_to(20);
    run.edit(program(&TEXT.replace("at {age}", "now {age}"))).unwrap();
    run.step();
    assert_eq!(run.state().knobs, [2.0]);
    let gone = TEXT.replace("knob bite = 1", "").replace("by bite", "by 1");
    assert!(run.edit(program(&gone)).is_err(), "the knob that was set is no more");
}

#[rstest]
fn looking_back_and_playing_on_makes_no_second_future() {
    let mut run = fired();
    let (digest, record) = (run.state().digest(), run.record().clone());
    run.seek(10);
    run.play_to(240);
    assert_eq!(run.state().digest(), digest);
    assert_eq!(*run.record(), record);
}

#[rstest]
fn going_back_before_an_edit_and_on_again_counts_by_the_text_of_then() {
    let mut run = run();
    run.play_to(60);
    // The kinds stand in another order in the edited text.
    let fly = "kind fly { body circle 1 u; health 2\n  on ho(n) { say \"{n}\" } }\n";
    let moved = TEXT.replace(fly, "").replace("kind frog", &format!("{fly}kind frog"));
    assert_eq!(run.edit(program(&moved)).unwrap(), Edited::Forked);
    run.play_to(120);
    run.seek(30);
    run.press("fire", true);
    run.play_to(50);
    let live = |name: &str| {
        let series = run.record().kinds.iter().find(|s| s.name == name).unwrap();
        (series.live.get(50).unwrap(), series.born.iter().sum::<u32>())
    };
    assert_eq!((live("frog"), live("fly"), live("drop")), ((1, 1), (1, 1), (1, 1)));
}
