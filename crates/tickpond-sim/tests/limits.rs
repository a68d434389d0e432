//! What a tick may take: each limit has its guard, its numbers are true, and what goes over it is left undone.

use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use crate::common::{Play, play};
use rstest::rstest;
use tickpond_lang::program::Limits;
use tickpond_sim::{Guard, Stopped};

fn until_stopped(text: &str, ticks: u64) -> (Play, Stopped) {
    let mut play = play(text, 1);
    for _ in 0..ticks {
        if play.state.stopped.is_some() {
            break;
        }
        play.ticks(1);
    }
    let stopped = play.state.stopped.clone().expect("a guard was reached");
    (play, stopped)
}

fn lines(play: &Play, stopped: &Stopped) -> Vec<(u32, u64)> {
    stopped.lines().map(|(site, times)| (play.program().line_of(site), times)).collect()
}

/// A pond with a limit, in an arena of 100 x 100.
fn limited(limit: &str, items: &str) -> String {
    format!("pond \"t\" {{ arena 100 x 100; limit {limit} }}\n{items}")
}

#[rstest]
fn letters_that_answer_themselves_are_cut_off() {
    let text = limited(
        "5_000 messages per tick",
        "message hi\nkind a { on hi {\nsend hi to all } }\nafter 3 ticks {\nsend hi to all }\n\
         place a at (1, 1)\nplace a at (2, 2)\nplace a at (3, 3)",
    );
    let (play, stopped) = until_stopped(&text, 9);
    assert_eq!((stopped.guard, stopped.tick), (Guard::Letters, 3));
    let [(line, times)] = lines(&play, &stopped)[..] else { panic!("{stopped:?}") };
    // Four hear each; the round that went over has at least as many as were left.
    assert!(line == 4 && times > 3_000 && times < 8_000, "{line} {times}");
    assert!(play.state.letters.is_empty());
}

#[rstest]
#[case::damage("damage o by 1")]
#[case::push("push o by 1 u/s along 0 deg")]
#[case::ends("end o")]
#[case::texts("say \"x\"")]
#[case::births("spawn a at here")]
#[case::activations("deactivate o")]
fn requests_of_a_tick_are_cut_off_and_none_is_carried_out(#[case] what: &str) {
    let text = limited(
        "3_000 requests per tick",
        &format!(
            "kind a {{ health 9; mount m at (1 u, 0 u); vars {{ n = 0 }}\nafter 5 ticks {{ n = 1; each a as o {{\n{what} }} }} }}\n\
             after 1 ticks {{ spawn 100 a anywhere }}"
        ),
    );
    let (play, stopped) = until_stopped(&text, 9);
    assert_eq!((stopped.guard, stopped.tick), (Guard::Requests, 6), "{what}");
    assert_eq!(lines(&play, &stopped)[0].0, 4, "{what}");
    let columns = play.columns("a");
    assert_eq!(columns.len(), 100, "{what}");
    assert!(columns.health.iter().all(|h| h == 9.0) && columns.vx.iter().all(|v| *v == 0.0));
    assert!(columns.vars[0].iter().all(|n| *n == 0), "what the phase writes is left undone, too");
    assert!(play.said().is_empty());
}

#[rstest]
fn below_the_limit_all_is_done() {
    let text = limited(
        "10_050 requests per tick, 30_000 steps per tick",
        "kind a { health 900; after 5 ticks { each a as o { damage o by 1 } } }\nafter 1 ticks { spawn 100 a anywhere }",
    );
    let mut play = play(&text, 1);
    play.ticks(7);
    assert_eq!(play.state.stopped, None);
    // `each` leaves the asker out.
    assert!(play.columns("a").health.iter().all(|h| h == 900.0 - 99.0));
}

#[rstest]
fn births_that_wait_are_bounded_and_take_no_memory_of_their_own() {
    let text = limited(
        "2_000 births waiting",
        "kind a { look \"a\" }\nevery 2 ticks {\nspawn 900 a at (1, 1), spaced 1000 s }",
    );
    let (play, stopped) = until_stopped(&text, 20);
    // Two requests fit, less what was born of them; of the third the rest is refused.
    assert_eq!((stopped.guard, stopped.tick), (Guard::Waiting, 6));
    let waiting: u32 = play.state.births.iter().map(|b| b.count).sum();
    assert!(waiting <= 2_000 && play.state.births.len() <= 3, "{waiting}");
    assert_eq!(lines(&play, &stopped), [(4, 900 * 3 - 2 - 2_000)]);
}

#[rstest]
#[case::repeat("repeat 60 times {\nn += 1 }", 3)]
#[case::each("each a as o {\nn += 1 }", 3)]
#[case::loops_in_loops("each a as o { each a as p {\nn += 1 } }", 3)]
fn steps_are_counted_for_each_firing(#[case] body: &str, #[case] line: u32) {
    let text = limited(
        "50 steps",
        &format!(
            "kind a {{ vars {{ n = 0 }}; after 9 ticks {{\n{body} }} }}\n\
             after 1 ticks {{ spawn 70 a anywhere }}"
        ),
    );
    let (play, stopped) = until_stopped(&text, 20);
    assert_eq!(stopped.guard, Guard::Steps);
    // The loop's own line, not that of the last statement in it; and whose firing it was.
    assert_eq!(lines(&play, &stopped), [(line, 51)]);
    assert_eq!(stopped.who.map(|who| who.number), Some(1));
}

/// A firing has as many steps as it may, whoever runs beside it.
#[rstest]
fn neighbours_do_not_add_up(#[values(1, 2)] threads: usize) {
    let text = limited(
        "2_000 entities, 1_500 steps",
        "kind m { vars { a = 0; b = 0; n = 0 }\n\
         after 1 s { repeat 2 times as i { let k = (2 - i) * a + (i - 1) * b; repeat k times { n += 1 } } } }\n\
         after 1 s { spawn 520 m at (1, 1); spawn m at (1, 1) { a = 1_000; b = 1 }; spawn 79 m at (1, 1)\n\
         spawn m at (1, 1) { a = 1; b = 1_000 }; spawn 499 m at (1, 1) }",
    );
    let mut play = play(&text, 1);
    (play.engine.threads, play.engine.grain) = (threads, 1);
    play.ticks(130);
    assert_eq!(play.state.stopped, None);
    let counted = play.columns("m").vars[2].iter().filter(|n| f64::from_bits(**n) == 1001.0);
    assert_eq!(counted.count(), 2);
}

#[rstest]
fn steps_of_all_firings_are_counted_in_a_tick() {
    let items = "kind m { vars { n = 0 }; every 5 ticks {\nrepeat 30 times { n += 1 } } }\n\
                 after 1 ticks { spawn 100 m at (1, 1) }";
    let mut fits = play(&limited("3_000 steps per tick", items), 1);
    fits.ticks(20);
    assert_eq!(fits.state.stopped, None);
    let (play, stopped) = until_stopped(&limited("2_999 steps per tick", items), 20);
    assert_eq!((stopped.guard, stopped.tick), (Guard::StepsInAll, 6));
    assert_eq!(lines(&play, &stopped)[0].0, 3);
    assert!(play.columns("m").vars[0].iter().all(|n| *n == 0), "the phase is left undone");
}

#[rstest]
fn no_handler_runs_after_a_limit_of_the_tick() {
    let text = limited(
        "100 steps per tick",
        "message hi\nkind a { body circle 1 u; health 5; vars { n = 0 }\n\
         after 3 ticks { repeat 500 times { n += 1 } }\nevery tick { say \"thinks {age}\" }\non hi { say \"hears\" } }\n\
         place a at (1, 1)",
    );
    let (mut play, stopped) = until_stopped(&text, 9);
    assert_eq!((stopped.guard, stopped.tick), (Guard::StepsInAll, 3));
    assert_eq!(play.said().len(), 2, "{:?}", play.said());
    play.ticks(1);
    assert_eq!(play.said().len(), 3, "the next tick is as any other");
}

#[rstest]
fn what_waits_goes_on_waiting_when_the_phase_is_left_undone() {
    let text = limited(
        "100 steps per tick",
        "kind a { vars { n = 0 }; after 5 ticks { repeat 500 times { n += 1 } } }\nplace a at (1, 1)\n\
         routine r { wait 5 ticks; say \"on\" }",
    );
    let (mut play, _) = until_stopped(&text, 9);
    assert!(play.said().is_empty());
    play.ticks(3);
    assert_eq!(play.said(), ["on"]);
}

#[rstest]
#[case::sensors("sensor")]
#[case::solids("solid")]
fn bodies_in_one_place_are_bounded(#[case] sort: &str) {
    let text = limited(
        "1_000 touches",
        &format!(
            "kind a {{ body circle 1 u, {sort}; on touch a {{\nsay \"x\" }} }}\n\
             after 2 ticks {{ spawn 200 a around (50, 50) within 0.5 u }}\n\
             kind b {{ after 2 ticks {{ spawn a at here }} }}\nplace b at (50, 50)"
        ),
    );
    let (_, stopped) = until_stopped(&text, 9);
    assert_eq!(stopped.guard, Guard::Touches);
}

#[rstest]
fn a_touch_guard_names_the_handlers_that_wait_for_them() {
    let text = limited(
        "50 touches",
        "kind a { body circle 1 u; on touch b {\nsay \"x\" } }\nkind b { body circle 1 u }\n\
         after 2 ticks { spawn 10 a around (50, 50) within 0.1 u; spawn 10 b around (50, 50) within 0.1 u }",
    );
    let (play, stopped) = until_stopped(&text, 9);
    assert_eq!(lines(&play, &stopped), [(2, 100)]);
    assert!(play.said().is_empty() && play.state.contacts.is_empty());
}

/// However fast and far something flies, a tick is done.
#[rstest]
#[case::along(0.0)]
#[case::across(45.0)]
fn what_flies_far_costs_no_more_than_the_arena(
    #[case] heading: f64,
    #[values(5e3, 1e9)] speed: f64,
) {
    let text = format!(
        "pond \"t\" {{ arena 160 x 90; edges open }}\n\
         kind a {{ body circle 0.2 u, sensor; vars {{ n = 0 }}; on touch a {{ n += 1 }}\n\
         on birth {{ heading = {heading} deg; speed = {speed} u/s }} }}\nafter 2 ticks {{ spawn 300 a anywhere }}"
    );
    let mut play = play(&text, 1);
    play.ticks(5);
    assert_eq!(play.count("a"), 300);
}

#[rstest]
fn a_tick_can_be_given_up_from_outside() {
    let text = limited(
        "100_000_000 steps, 1_000_000_000 steps per tick",
        "kind a { vars { n = 0 }; after 2 ticks { repeat 90_000_000 times { n += 1 } } }\nplace a at (1, 1)",
    );
    let mut play = play(&text, 1);
    let stop = Arc::new(AtomicBool::new(false));
    play.engine.interrupt_by(stop.clone());
    play.ticks(1);
    assert_eq!(play.state.stopped, None);
    stop.store(true, std::sync::atomic::Ordering::Relaxed);
    play.ticks(1);
    assert_eq!(play.state.stopped.as_ref().map(|s| s.guard), Some(Guard::Interrupted));
}

/// What the checker lets pass is not too deep for what comes after it.
#[rstest]
#[case::blocks(format!("after 1 ticks {{ {}say \"deep\"{} }}", "if 1 > 0 { ".repeat(92), " }".repeat(92)))]
#[case::functions((0..4).map(|at| {
    let call = if at == 0 { "say \"deep\"".to_string() } else { format!("f{}(x)", at - 1) };
    format!("to f{at}(x: number) {{ {}{call}{} }}\n", "if x > 0 { ".repeat(27), " }".repeat(27))
}).collect::<String>() + "after 1 ticks { f3(1) }")]
#[case::values((0..140).map(|at| match at {
    0 => "value v0(x: number) = x\n".to_string(),
    _ => format!("value v{at}(x: number) = v{}(x) + 1\n", at - 1),
}).collect::<String>() + "after 1 ticks { if v139(1) > 100 { say \"deep\" } }")]
fn the_deepest_there_is_plays(#[case] items: String) {
    let mut play = play(&limited("50 entities", &items), 1);
    play.ticks(2);
    assert_eq!(play.said(), ["deep"]);
}

#[rstest]
fn other_limits_grow_with_that_of_entities() {
    let (usual, more) = (Limits::default(), Limits::for_entities(100_000));
    assert_eq!(Limits::for_entities(10).letters, usual.letters);
    assert_eq!(more.letters, usual.letters * 2);
    assert_eq!(
        (usual.letters, usual.steps_in_all, usual.waiting),
        (1_000_000, 10_000_000, 500_000)
    );
}

#[rstest]
#[case::entities(Guard::Entities, "7 entities")]
#[case::waiting(Guard::Waiting, "7 births waiting")]
#[case::steps(Guard::StepsInAll, "70_000 steps per tick")]
#[case::letters(Guard::Letters, "70_000 messages per tick")]
#[case::requests(Guard::Requests, "70_000 requests per tick")]
#[case::touches(Guard::Touches, "70_000 touches")]
fn a_limit_is_told_as_it_is_set(#[case] guard: Guard, #[case] limit: &str) {
    let play = play(&limited(limit, "kind a { look \"a\" }\nplace a at (1, 1)"), 1);
    assert_eq!(guard.limit(&play.program().limits).as_deref(), Some(limit));
}

// Bytes of text, and looks.

#[rstest]
fn a_text_that_grows_is_cut_at_the_longest() {
    // Eight letters that double each second: 4,096 after nine of them.
    let text = limited(
        "50 entities",
        "kind a { look \"a\"; after 1 s { replace self with a at here, label \"{label}{label}\" } }\n\
         place a at (1, 1), label \"abcdefgh\"",
    );
    let mut play = play(&text, 1);
    let label = |play: &Play| {
        let id = play.columns("a").id[0];
        play.state.labels[&id].to_string()
    };
    play.ticks(9 * 61 + 5);
    assert_eq!(label(&play), "abcdefgh".repeat(512));
    play.ticks(5 * 61);
    let label = label(&play);
    // The sign for what is left out has three bytes.
    assert_eq!(label, format!("{}abcde…", "abcdefgh".repeat(511)));
    assert!(play.state.stopped.is_none());
}

#[rstest]
fn text_of_a_tick_is_cut_off_and_none_is_said() {
    // Ten say a hundred letters and their number of one digit, five times each: 5,050 bytes.
    let words = "x".repeat(100);
    let text = |limit: u32| {
        limited(
            &format!("{limit} text per tick"),
            &format!(
                "kind a {{ vars {{ n = 0 }}\nafter 3 ticks {{ n = 1; repeat 5 times as i {{\nsay \"{words}{{i}}\" }} }} }}\n\
                 after 1 ticks {{ spawn 10 a anywhere }}"
            ),
        )
    };
    let (play, stopped) = until_stopped(&text(5_049), 9);
    assert_eq!(stopped.guard, Guard::Text);
    let [(line, bytes)] = lines(&play, &stopped)[..] else { panic!("{stopped:?}") };
    assert!(line == 4 && bytes > 5_049, "{line} {bytes}");
    assert!(!play.events.iter().any(|e| e.what == tickpond_sim::What::Said), "the phase is undone");
    assert_eq!(play.columns("a").vars[0][0], 0f64.to_bits());
    let mut play = crate::common::play(&text(5_050), 1);
    play.ticks(9);
    assert!(play.state.stopped.is_none());
    let said = play.events.iter().filter(|e| e.what == tickpond_sim::What::Said).count();
    assert_eq!(said, 50);
}

/// What each question costs, worked out by the page: a bare count is one look, what does not read the asker one for each
/// asker and one for each living once a phase, all else one for each living of the kinds, or near, and one for itself.
#[rstest]
// Ten of a, twenty of b, all in one place but for five of b, who are 50 u away; one of a asks in all but the last cases.
#[case::bare_count("if a#1 == self { n = count(b) }", 1)]
#[case::condition_of_all("if a#1 == self { n = count(b where k > 0) }", 1 + 20)]
#[case::by_all_ten("n = count(b where k > 0)", 10 + 20)]
#[case::reads_the_asker("if a#1 == self { n = count(b where k > self.n) }", 20)]
#[case::reads_the_asker_by_all("n = count(b where k > self.n)", 200)]
#[case::near("if a#1 == self { n = count(b within 10 u) }", 1 + 15)]
#[case::near_with_a_condition("if a#1 == self { n = count(b within 10 u where k > 0) }", 1 + 15)]
#[case::two_kinds("if a#1 == self { n = count(a or b where k > self.n) }", 30)]
#[case::nearest("if a#1 == self { if nearest(b) as f { n = 1 } }", 20)]
#[case::is_there_one("if a#1 == self { if any(b where k > 0) { n = 1 } }", 1)]
#[case::sum("if a#1 == self { n = sum(b.k) }", 1 + 20)]
#[case::list("if a#1 == self { each b where k > self.n as f { n = 1 } }", 1 + 20)]
#[case::one_by_chance("if a#1 == self { if random one of b where k > 0 as f { n = 1 } }", 1 + 20)]
#[case::nested("if a#1 == self { n = count(b where count(a where k > self.n) > 0) }", 20 + 20 * 10)]
fn what_is_asked_is_counted(#[case] asks: &str, #[case] looks: u64) {
    let text = |limit: u64| {
        limited(
            &format!("{limit} looks per tick"),
            &format!(
                "kind a {{ vars {{ n = 0; k = 1 }}\nafter 5 ticks {{ {asks} }} }}\nkind b {{ vars {{ k = 1; n = 0 }} }}\n\
                 after 1 ticks {{ spawn 10 a at (20, 20); spawn 15 b at (20, 20); spawn 5 b at (20, 70) }}"
            ),
        )
    };
    for (limit, is_kept) in [(looks - 1, false), (looks, true)] {
        for threads in [1, 2] {
            if limit == 0 {
                continue;
            }
            let mut play = play(&text(limit), 1);
            (play.engine.threads, play.engine.grain) = (threads, 2);
            for _ in 0..9 {
                if play.state.stopped.is_none() {
                    play.ticks(1);
                }
            }
            let stopped = play.state.stopped.as_ref().map(|s| s.guard);
            assert_eq!(
                stopped,
                (!is_kept).then_some(Guard::Looks),
                "limit {limit}, {threads} threads"
            );
        }
    }
}

#[rstest]
fn questions_in_questions_are_stopped_and_told() {
    // A hundred ask of a hundred how many of a hundred: a million looks and more.
    let text = limited(
        "100_000 looks per tick",
        "kind a { vars { x = 1; n = 0 }\nevery tick {\nn = count(a where count(a where count(a where x > n) > n) > n) } }\n\
         after 1 ticks { spawn 100 a anywhere }",
    );
    let (play, stopped) = until_stopped(&text, 9);
    assert_eq!((stopped.guard, lines(&play, &stopped)[0].0), (Guard::Looks, 4));
    assert!(stopped.guard.counted(7).contains("at least 7 looks"));
    // Some seconds of work: a thousand each that ask of a thousand how many of a thousand are stopped in the first tick.
    let usual = Limits::default().looks;
    assert!((100_000_000..1_000_000_000).contains(&usual), "{usual}");
}

#[rstest]
#[case::a_name(format!("kind {} {{ }}", "a".repeat(101)), "a name of 101 characters; 100 are the most")]
#[case::a_text(format!("after 1 s {{ say \"{}\" }}", "a".repeat(4_095)), "a text of 4097 bytes; 4096 are the most")]
fn names_and_texts_have_a_longest_length(#[case] item: String, #[case] words: &str) {
    let compiled = tickpond_lang::compile(&format!("pond \"t\" {{ arena 9 x 9 }}\n{item}\n"));
    let told: Vec<&str> = compiled.diagnostics.iter().map(|d| d.message.as_str()).collect();
    assert!(compiled.program.is_none() && told.contains(&words), "{told:?}");
}
