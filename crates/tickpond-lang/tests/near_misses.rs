//! Each finding beside what looks much like it and is fine: the first is told, the second is not.

use rstest::rstest;
use tickpond_lang::compile;

const HEAD: &str = "pond \"t\" { arena 100 x 100 }\n";

/// The codes of all that is told about these items.
fn codes(items: &str) -> Vec<&'static str> {
    let text = format!("{HEAD}{items}");
    compile(&text).diagnostics.iter().map(|d| d.code.as_str()).collect()
}

/// The parts both have: who is there and hurts, so that only what a case is about can be told.
fn with_company(items: &str) -> String {
    format!(
        "kind midge {{ body circle 1 u, sensor; health 2; after 9 s {{ end self }} }}\n\
         spawner marsh {{ makes midge anywhere; every 2 s }}\nplace marsh\n\
         kind stone {{ body circle 1 u, sensor; on touch midge as m {{ damage m by 1 }} }}\n\
         place stone at (50, 50)\n{items}"
    )
}

#[rstest]
// A kind that is born again and again, and how it may end.
#[case::ends_by_itself(
    "F0602",
    "kind frog { look \"@\" }",
    "kind frog { look \"@\" }\nplace frog at (1, 1)"
)]
#[case::made_by_a_handler(
    "F0602",
    "kind drop { after 1 s { end self } }\nkind frog { look \"@\" }\nplace frog at (1, 1)",
    "kind drop { after 1 s { end self } }\nkind frog { every 1 s { spawn drop } }\nplace frog at (1, 1)"
)]
#[case::made_by_a_replacement(
    "F0602",
    "kind pod { after 1 s { end self } }\nkind shard { after 1 s { end self } }\nplace pod at (1, 1)",
    "kind pod { after 1 s { replace self with 2 shard } }\nkind shard { after 1 s { end self } }\nplace pod at (1, 1)"
)]
#[case::ends_after_a_time(
    "F0603",
    "kind drop { look \".\" }\nspawner cloud { makes drop anywhere; every 1 s }\nplace cloud",
    "kind drop { after 4 s { end self } }\nspawner cloud { makes drop anywhere; every 1 s }\nplace cloud"
)]
#[case::ends_at_the_edge(
    "F0603",
    "kind drop { on birth { speed = 3 u/s } }\nspawner cloud { makes drop anywhere; every 1 s }\nplace cloud",
    "kind drop { on birth { speed = 3 u/s }; on leave arena { end self } }\nspawner cloud { makes drop anywhere; every 1 s }\nplace cloud"
)]
#[case::only_so_many_are_kept(
    "F0603",
    "kind drop { look \".\" }\nspawner cloud { makes drop anywhere; every 1 s }\nplace cloud",
    "kind drop { look \".\" }\nspawner cloud { makes drop anywhere; every 1 s; keep at most 5 alive }\nplace cloud"
)]
#[case::placed_once_may_stay(
    "F0603",
    "kind drop { look \".\" }\nkind frog { every 1 s { spawn drop } }\nplace frog at (1, 1)",
    "kind drop { look \".\" }\nplace drop at (1, 1)"
)]
#[case::ended_by_another(
    "F0603",
    "kind drop { body circle 1 u, sensor }\nkind frog { every 1 s { spawn drop } }\nplace frog at (1, 1)",
    "kind drop { body circle 1 u, sensor }\nkind frog { body circle 1 u, sensor; every 1 s { spawn drop }; on touch drop as d { end d } }\nplace frog at (1, 1)"
)]
// Messages.
#[case::heard_by_a_kind(
    "F0604",
    "message dusk\nevery 1 s { send dusk to all }",
    "message dusk\nevery 1 s { send dusk to all }\nkind frog { on dusk { say \"dusk\" } }\nplace frog at (1, 1)"
)]
#[case::heard_by_the_pond(
    "F0604",
    "message lost\nkind frog { after 1 s { send lost to pond } }\nplace frog at (1, 1)",
    "message lost\nkind frog { after 1 s { send lost to pond } }\nplace frog at (1, 1)\non lost { say \"lost\" }"
)]
#[case::sent_and_not_only_heard(
    "F0604",
    "message dusk\nkind frog { on dusk { say \"dusk\" } }\nplace frog at (1, 1)",
    "message dusk\nkind frog { on dusk { say \"dusk\" } }\nplace frog at (1, 1)\nafter 1 s { send dusk to each frog }"
)]
// Health.
#[case::hurt_has_health(
    "F0605",
    "kind reed { body circle 1 u, sensor }\nkind frog { body circle 1 u, sensor; on touch reed as r { damage r by 1 } }\nplace reed at (1, 1)\nplace frog at (9, 9)",
    "kind reed { body circle 1 u, sensor; health 2 }\nkind frog { body circle 1 u, sensor; on touch reed as r { damage r by 1 } }\nplace reed at (1, 1)\nplace frog at (9, 9)"
)]
#[case::lowered_by_itself(
    "F0610",
    "kind frog { health 3 }\nplace frog at (1, 1)",
    "kind frog { health 3; every 1 s { damage self by 1 } }\nplace frog at (1, 1)"
)]
#[case::lowered_by_a_blast(
    "F0610",
    "kind frog { health 3 }\nplace frog at (1, 1)",
    "kind frog { health 3 }\nplace frog at (1, 1)\nafter 1 s { blast at (1, 1), radius 5 u, damage 2 }"
)]
// Periods.
#[case::one_tick_is_long_enough(
    "F0606",
    "kind frog { every 0.001 s { say \"now\" } }\nplace frog at (1, 1)",
    "kind frog { every 1 ticks { say \"now\" } }\nplace frog at (1, 1)"
)]
// Births that bring about themselves.
#[case::later_is_no_chain(
    "F0607",
    "kind a { on birth { spawn a }; after 1 s { end self } }\nplace a at (1, 1)",
    "kind a { after 1 s { spawn a; end self } }\nplace a at (1, 1)"
)]
#[case::another_kind_ends_the_chain(
    "F0607",
    "kind a { on birth { spawn b }; after 1 s { end self } }\nkind b { on birth { spawn a }; after 1 s { end self } }\nplace a at (1, 1)",
    "kind a { on birth { spawn b }; after 1 s { end self } }\nkind b { after 1 s { end self } }\nplace a at (1, 1)"
)]
// Moving.
#[case::speed_is_per_second(
    "F0608",
    "kind drop { every tick { pos += (0 u, -6 u) } }\nplace drop at (1, 1)",
    "kind drop { on birth { vel = (0 u/s, -6 u/s) } }\nplace drop at (1, 1)"
)]
#[case::a_jump_now_and_then(
    "F0608",
    "kind drop { every tick { pos += (0 u, -6 u) } }\nplace drop at (1, 1)",
    "kind drop { every 2 s { pos += (0 u, -6 u) } }\nplace drop at (1, 1)"
)]
// Touch.
#[case::both_have_bodies(
    "F0609",
    "kind frog { body circle 1 u, sensor; on touch drop { say \"wet\" } }\nkind drop { look \".\" }\nplace frog at (1, 1)\nplace drop at (5, 5)",
    "kind frog { body circle 1 u, sensor; on touch drop { say \"wet\" } }\nkind drop { body circle 1 u, sensor }\nplace frog at (1, 1)\nplace drop at (5, 5)"
)]
// States.
#[case::entered_by_a_handler(
    "F0611",
    "kind heron { states { idle, chase }; in state chase { every 1 s { say \"go\" } } }\nplace heron at (1, 1)",
    "kind heron { states { idle, chase }; after 1 s { become chase }; in state chase { every 1 s { say \"go\" } } }\nplace heron at (1, 1)"
)]
#[case::the_first_is_entered_at_birth(
    "F0611",
    "kind heron { states { chase, idle }; in state idle { every 1 s { say \"oh\" } } }\nplace heron at (1, 1)",
    "kind heron { states { chase, idle }; after 1 s { become idle }; in state chase { every 1 s { say \"go\" } } }\nplace heron at (1, 1)"
)]
// Two that write one field.
#[case::adding_does_not_clash(
    "F0612",
    "kind midge { vars { n = 0 }; every 1 s { n = 1 }; after 3 s { n = 2 } }\nplace midge at (1, 1)\nwatch w = sum(midge.n)",
    "kind midge { vars { n = 0 }; every 1 s { n += 1 }; after 3 s { n += 2 } }\nplace midge at (1, 1)\nwatch w = sum(midge.n)"
)]
#[case::different_fields_do_not_clash(
    "F0612",
    "kind midge { every 1 s { speed = 4 u/s }; after 3 s { speed = 0 u/s } }\nplace midge at (1, 1)",
    "kind midge { every 1 s { speed = 4 u/s }; after 3 s { spin = 9 deg/s } }\nplace midge at (1, 1)"
)]
// Variables.
#[case::read_by_a_watch(
    "F0613",
    "kind midge { vars { n = 0 }; every 1 s { n += 1 } }\nplace midge at (1, 1)",
    "kind midge { vars { n = 0 }; every 1 s { n += 1 } }\nplace midge at (1, 1)\nwatch w = sum(midge.n)"
)]
#[case::read_in_a_text(
    "F0613",
    "kind midge { vars { n = 0 }; every 1 s { n += 1 } }\nplace midge at (1, 1)",
    "kind midge { vars { n = 0 }; every 1 s { n += 1; say \"{n}\" } }\nplace midge at (1, 1)"
)]
// Knobs and the like.
#[case::a_knob_is_used(
    "F0601",
    "knob pace = 3 u/s\nkind midge { look \"m\" }\nplace midge at (1, 1)",
    "knob pace = 3 u/s\nkind midge { on birth { speed = pace } }\nplace midge at (1, 1)"
)]
#[case::a_zone_is_used(
    "F0601",
    "zone shade = box (0, 0) size 9 x 9\nkind midge { look \"m\" }\nplace midge at (1, 1)",
    "zone shade = box (0, 0) size 9 x 9\nkind midge { on enter shade { say \"cool\" } }\nplace midge at (1, 1)"
)]
#[case::an_input_is_used(
    "F0601",
    "input fire = key f\nkind midge { look \"m\" }\nplace midge at (1, 1)",
    "input fire = key f\nkind midge { on press fire { say \"fire\" } }\nplace midge at (1, 1)"
)]
#[case::a_behavior_is_used(
    "F0601",
    "behavior blinks { every 1 s { say \"blink\" } }\nkind firefly { look \"*\" }\nplace firefly at (1, 1)",
    "behavior blinks { every 1 s { say \"blink\" } }\nkind firefly { uses blinks }\nplace firefly at (1, 1)"
)]
// Others that may be gone.
#[case::asked_whether_it_is_there(
    "F0615",
    "kind frog { vars { prey: midge }; every 1 s { if random one of midge as m { prey = m } }; every tick { head toward prey } }\nkind midge { after 1 s { end self } }\nplace frog at (1, 1)\nplace midge at (9, 9)",
    "kind frog { vars { prey: midge }; every 1 s { if random one of midge as m { prey = m } }; every tick { if prey is alive { head toward prey } } }\nkind midge { after 1 s { end self } }\nplace frog at (1, 1)\nplace midge at (9, 9)"
)]
// Whole ticks.
#[case::a_whole_number_of_ticks(
    "H0701",
    "kind frog { every 0.11 s { say \"now\" } }\nplace frog at (1, 1)",
    "kind frog { every 0.1 s { say \"now\" } }\nplace frog at (1, 1)"
)]
fn one_step_apart(#[case] code: &str, #[case] mistake: &str, #[case] right: &str) {
    let told = codes(mistake);
    assert!(told.contains(&code), "{mistake}\nwas told {told:?}");
    assert_eq!(codes(right), [""; 0], "{right}");
}

#[rstest]
#[case::nothing_more("")]
#[case::a_group_that_is_hit(
    "kind drop { body circle 1 u, sensor; on first touch midge as m { damage m by 1; end self }; after 2 s { end self } }\nkind frog { every 1 s { spawn 3 drop, spread 30 deg, speed 9 u/s } }\nplace frog at (9, 9)"
)]
#[case::a_wave(
    "routine night { wait 1 s; wave as w { spawn 4 midge anywhere, spaced 0.25 s }; wait until count(w) == 0; say \"over\" }"
)]
#[case::a_life_in_states(
    "kind heron { states { wades, strikes }; after 2 s { become strikes for 1 s }; on becoming strikes { say \"strike\" } }\nplace heron at (20, 20)"
)]
#[case::a_routine(
    "routine night { wait 2 s; say \"night\"; wait until count(midge) > 3; say \"many\" }"
)]
fn a_pond_that_is_right_is_told_nothing(#[case] items: &str) {
    assert_eq!(codes(&with_company(items)), [""; 0], "{items}");
}
