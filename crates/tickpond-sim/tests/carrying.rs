//! A state is taken over to an edited text by names.

use crate::common::{Play, play};
use rstest::rstest;
use tickpond_sim::Engine;
use tickpond_sim::carry::{CannotCarry, carry};

const TEXT: &str = "pond \"t\" { arena 100 x 100 }
knob drift = 6 u/s
knob gap = 0.5 s
input fire = key f
message ho(n: number)
spots reeds { (10, 10), (20, 20) }
vars { total = 4 }
kind fly { health 3; vars { n = 2; home = here; what = drop }
  on birth { speed = drift }
  every 0.5 s { n += 1 }
  on ho(m) { n = m }
  after 9 s { end self because \"old\" } }
kind drop { after 5 s { end self } }
spawner src { makes fly at reeds; every gap; keep at most 9 alive }
place src at (50, 50)
routine r { wait 2 s; say \"two\"; wait 4 s; say \"six\" }
";

/// The run of the old text at a tick, and the same state as one of the new text.
fn carried(edit: impl Fn(&str) -> String, ticks: u64) -> Result<(Play, Play), CannotCarry> {
    let mut old = play(TEXT, 3);
    old.ticks(ticks);
    let mut new = play(&edit(TEXT), 3);
    new.events.clear();
    new.state = carry(&old.state, &old.engine.compiled, &new.engine.compiled)?;
    Ok((old, new))
}

fn var(play: &Play, kind: &str, name: &str, row: usize) -> f64 {
    let program = play.program();
    let id = program.kind_named(kind).unwrap();
    let name = program.var_names.iter().position(|n| n == name).unwrap() as u32;
    let word = play.engine.compiled.var_word(id, tickpond_lang::program::VarName(name)).unwrap();
    f64::from_bits(play.columns(kind).vars[word][row])
}

#[rstest]
fn variables_go_over_by_name_and_new_ones_start_fresh() {
    let edit = |t: &str| t.replace("n = 2; home = here", "extra = 7; home = here; n = 2");
    let (old, new) = carried(edit, 200).unwrap();
    assert!(old.count("fly") > 3);
    for row in 0..old.count("fly") {
        assert_eq!(var(&old, "fly", "n", row), var(&new, "fly", "n", row));
        assert_eq!(var(&old, "fly", "home", row), var(&new, "fly", "home", row));
        assert_eq!(var(&new, "fly", "extra", row), 7.0);
    }
}

#[rstest]
fn a_variable_of_another_type_starts_fresh() {
    let (_, new) = carried(
        |t| {
            t.replace("n = 2;", "n = 2 s;")
                .replace("n += 1", "n += 1 s")
                .replace("n = m", "n = 1 s")
        },
        200,
    )
    .unwrap();
    assert_eq!(var(&new, "fly", "n", 0), 2.0);
}

#[rstest]
fn kinds_may_change_places_in_the_text() {
    let edit = |t: &str| {
        let drop = "kind drop { after 5 s { end self } }\n";
        let head = "pond \"t\" { arena 100 x 100 }\n";
        t.replace(drop, "").replace(head, &format!("{head}kind carp {{ look \"c\" }}\n{drop}"))
    };
    let (old, mut new) = carried(edit, 200).unwrap();
    assert_eq!(old.count("fly"), new.count("fly"));
    assert_eq!(old.born("fly"), new.born("fly"));
    // A value of the type kind still means the same kind.
    let what = |play: &Play| {
        let kind = play.engine.compiled.kind_of_word(var(play, "fly", "what", 0).to_bits());
        play.program().kinds[kind.index()].name.clone()
    };
    assert_eq!((what(&old), what(&new)), ("drop".to_string(), "drop".to_string()));
    new.ticks(400);
    assert_eq!(new.count("carp"), 0);
}

#[rstest]
fn a_knob_takes_its_new_value_unless_it_was_turned_in_the_run() {
    let (_, new) = carried(|t| t.replace("drift = 6 u/s", "drift = 9 u/s"), 100).unwrap();
    assert_eq!(new.state.knobs[0], 9.0);
    let mut old = play(TEXT, 3);
    old.state.knobs[0] = 7.5;
    let new = play(&TEXT.replace("drift = 6 u/s", "drift = 9 u/s"), 3);
    let state = carry(&old.state, &old.engine.compiled, &new.engine.compiled).unwrap();
    assert_eq!(state.knobs[0], 7.5);
}

#[rstest]
fn clocks_go_on_where_they_were() {
    let (mut old, mut new) = carried(
        |t| t.replace("on birth { speed = drift }", "on birth { speed = drift; turn by 3 deg }"),
        190,
    )
    .unwrap();
    old.ticks(60);
    new.ticks(60);
    let count = old.count("fly").min(new.count("fly"));
    for row in 0..count.min(5) {
        assert_eq!(var(&old, "fly", "n", row), var(&new, "fly", "n", row), "row {row}");
    }
}

#[rstest]
fn a_routine_that_waits_goes_on_and_one_that_was_edited_refuses() {
    let (_, mut new) = carried(|t| t.replace("keep at most 9", "keep at most 5"), 200).unwrap();
    new.ticks(200);
    assert_eq!(new.said(), ["six"]);
    let refused = carried(|t| t.replace("say \"six\"", "say \"seven\""), 200).err();
    assert_eq!(refused, Some(CannotCarry::Waiting("routine r".into())));
    // Once it is over, nothing waits.
    assert!(carried(|t| t.replace("say \"six\"", "say \"seven\""), 400).is_ok());
}

#[rstest]
#[case::arena("arena 100 x 100", "arena 100 x 90", CannotCarry::Arena)]
#[case::rate("arena 100 x 100 }", "arena 100 x 100; rate 50 per s }", CannotCarry::Rate)]
#[case::moved("src at (50, 50)", "src at (51, 50)", CannotCarry::Places)]
#[case::more("place src at", "place drop at (1, 1)\nplace src at", CannotCarry::Places)]
#[case::renamed("kind drop", "kind drip", CannotCarry::Kind("drop".into()))]
#[case::body("kind drop {", "kind drop { body circle 2 u;", CannotCarry::Body("drop".into()))]
fn edits_that_mean_another_run_are_refused_with_the_reason(
    #[case] from: &str,
    #[case] to: &str,
    #[case] reason: CannotCarry,
) {
    let refused = carried(
        |t| {
            t.replace(from, to).replace(
                "what = drop",
                if to == "kind drip" { "what = drip" } else { "what = drop" },
            )
        },
        100,
    )
    .err();
    assert_eq!(refused, Some(reason.clone()));
    assert!(!reason.words().is_empty());
}

#[rstest]
fn firings_are_counted_on_by_the_text_of_their_lines() {
    let (old, new) = carried(|t| format!("// moved\n{t}"), 200).unwrap();
    let count = |play: &Play, text: &str| {
        let program = play.program();
        let at = program.sites.iter().position(|s| program.text[s.span.range()].starts_with(text));
        play.state.fired[at.unwrap()]
    };
    assert!(count(&old, "n += 1") > 0);
    assert_eq!(count(&old, "n += 1"), count(&new, "n += 1"));
    assert_eq!(count(&old, "makes fly"), count(&new, "makes fly"));
}

#[rstest]
fn keys_that_are_down_stay_down() {
    let mut old = play(TEXT, 3);
    old.key(true);
    let new = play(&TEXT.replace("input fire", "input other = key o\ninput fire"), 3);
    let state = carry(&old.state, &old.engine.compiled, &new.engine.compiled).unwrap();
    assert_eq!(state.input.held, 0b10);
}

/// Births that are still to come name a mount and a spot group.
const TO_COME: &str = "pond \"t\" { arena 100 x 100 }
spots low { (1, 1) }
spots high { (2, 90) }
place frog at (50, 50)
kind frog { mount left at (0 u, 3 u)
  mount tip at (5 u, 0 u)
  after 1 s { spawn 3 bit at tip, spaced 0.5 s; spawn 3 dot at high, spaced 0.5 s } }
kind bit { look \"b\" }
kind dot { look \"d\" }
";

#[rstest]
#[case::other_order("mount left at (0 u, 3 u)\n", "", "spots low { (1, 1) }\n", "", (3, 3))]
#[case::gone("mount tip at", "mount top at", "spots high", "spots higher", (1, 1))]
fn births_to_come_find_their_mounts_and_spots_by_name(
    #[case] mount: &str,
    #[case] new_mount: &str,
    #[case] spots: &str,
    #[case] new_spots: &str,
    #[case] born: (u64, u64),
) {
    let mut old = play(TO_COME, 3);
    old.ticks(70);
    let edited = TO_COME.replace(mount, new_mount).replace(spots, new_spots);
    let edited = edited.replace("bit at tip", "bit at here").replace("dot at high", "dot at here");
    let mut new = play(&edited, 3);
    new.state = carry(&old.state, &old.engine.compiled, &new.engine.compiled).unwrap();
    new.ticks(200);
    assert_eq!((new.born("bit"), new.born("dot")), born);
    assert!(new.columns("bit").x.iter().all(|x| *x == 55.0));
    assert!(new.columns("dot").y.iter().all(|y| *y == 90.0));
}

#[rstest]
#[case::before_that_nothing_waited_for_states("", 0)]
#[case::before_that_another_did("on becoming high { n = 9 }", 0)]
fn a_state_that_has_begun_before_the_edit_is_not_told_by_a_new_handler(
    #[case] old: &str,
    #[case] told: usize,
) {
    let text = |handlers: &str| {
        format!(
            "pond \"t\" {{ arena 9 x 9 }}\nkind a {{ states {{ low, high }}; vars {{ n = 0 }}\n\
             after 5 ticks {{ become high }}\n after 20 ticks {{ become low }}\n{handlers} }}\nplace a at (1, 1)\nwatch w = mean(a.n)"
        )
    };
    let mut before = play(&text(old), 1);
    before.ticks(10);
    let new = tickpond_lang::compile(&text("on becoming low { say \"low\" }")).program.unwrap();
    let mut engine = Engine::new(new);
    let mut state = carry(&before.state, &before.engine.compiled, &engine.compiled).unwrap();
    let mut events = Vec::new();
    let said = |events: &[tickpond_sim::Event]| {
        events.iter().filter(|e| e.what == tickpond_sim::What::Said).count()
    };
    (0..5).for_each(|_| engine.step(&mut state, &[], &mut events));
    assert_eq!(said(&events), told);
    // What begins after it is.
    (0..10).for_each(|_| engine.step(&mut state, &[], &mut events));
    assert_eq!(said(&events), told + 1);
}

#[rstest]
fn a_state_that_was_told_is_not_told_again_under_another_number() {
    let text = "pond \"t\" { arena 9 x 9 }\nkind a { states { low, high }\n\
        after 5 ticks { become high }\nafter 20 ticks { become low }\n\
        on becoming high { say \"high\" }\non becoming low { say \"low\" }\non quitting high { say \"off\" } }\nplace a at (1, 1)\n";
    let mut old = play(text, 1);
    old.ticks(10);
    assert_eq!(old.said(), ["low", "high"]);
    let mut new = play(&text.replace("{ low, high }", "{ other, high, low }"), 1);
    new.state = carry(&old.state, &old.engine.compiled, &new.engine.compiled).unwrap();
    new.events.clear();
    new.ticks(5);
    assert_eq!(new.said(), [""; 0]);
    new.ticks(10);
    // Handlers run by their heads as text.
    assert_eq!(new.said(), ["low", "off"]);
}

#[rstest]
#[case::another_before_it("mount left at (0 u, 3 u)", "mount new at (9 u, 9 u); mount left at (0 u, 3 u)", (55.0, 50.0), (50.0, 53.0))]
#[case::the_other_is_gone("mount left at (0 u, 3 u)", "mount other at (0 u, 3 u)", (55.0, 50.0), (50.0, 53.0))]
#[case::it_moved("mount tip at (5 u, 0 u)", "mount tip at (7 u, 0 u)", (57.0, 50.0), (50.0, 53.0))]
fn what_is_attached_hangs_on_by_the_name_of_its_mount(
    #[case] was: &str,
    #[case] now: &str,
    #[case] lamp: (f64, f64),
    #[case] bead: (f64, f64),
) {
    let text = "pond \"t\" { arena 100 x 100 }\nplace frog at (50, 50)\nkind frog { mount left at (0 u, 3 u)\n  mount tip at (5 u, 0 u)\n\
        after 1 ticks { spawn lamp at tip, attached; spawn bead at left, attached }\n  after 1 s { speed = 6 u/s } }\nkind lamp { look \"l\" }\nkind bead { look \"b\" }\n";
    let mut old = play(text, 3);
    old.ticks(10);
    let mut edited = text.replace(was, now);
    if !edited.contains("mount left") {
        edited = edited.replace("spawn bead at left", "spawn bead at other");
    }
    let mut new = play(&edited, 3);
    new.state = carry(&old.state, &old.engine.compiled, &new.engine.compiled).unwrap();
    new.ticks(1);
    let at = |play: &Play, kind: &str| (play.columns(kind).x[0], play.columns(kind).y[0]);
    assert_eq!((at(&new, "lamp"), at(&new, "bead")), (lamp, bead));
    // After a second the frog goes; what hung on a mount that is gone stays behind.
    new.ticks(80);
    assert_eq!(at(&new, "lamp").0 - lamp.0, new.columns("frog").x[0] - 50.0);
    assert_eq!(at(&new, "bead").0 > bead.0, edited.contains("mount left"));
}

#[rstest]
fn a_touch_keeps_its_rhythm_when_the_kinds_are_renumbered() {
    let text = "pond \"t\" { arena 100 x 100 }\nkind frog { body circle 3 u, sensor; while touching midge every 1 s { say \"t\" } }\n\
        kind midge { body circle 1 u, sensor }\nplace frog at (5, 5)\nplace midge at (5, 6)\n";
    let mut old = play(text, 1);
    old.ticks(30);
    assert_eq!(old.said(), ["t"], "as the touch begins");
    let mut new = play(&text.replacen("kind frog", "kind ant { look \"a\" }\nkind frog", 1), 1);
    new.state = carry(&old.state, &old.engine.compiled, &new.engine.compiled).unwrap();
    new.events.clear();
    new.ticks(30);
    assert_eq!(new.said(), [""; 0]);
    new.ticks(1);
    assert_eq!(new.said(), ["t"]);
}
