//! Bodies that stand are not looked at anew: what comes out is what a search through all of them gives.

use crate::common::{Play, play};
use proptest::prelude::*;
use tickpond_sim::Engine;

/// Boxes and circles, of which some jump, turn, nap, end or fly now and then.
fn crowd(every: u64, speed: u64, edges: &str) -> String {
    format!(
        "pond \"p\" {{ arena 30 x 30; edges {edges}; rate 20 per s }}\n\
         kind a {{ body box 4 u x 2 u, sensor; vars {{ n = 0 }}; on touch any as t {{ n += 1 }} on part any as t {{ n += 10 }}\n\
           every {every} ticks {{ if n < 40 {{ pos = pos + (random(-3 .. 3), random(-3 .. 3)) }} else {{ heading = heading + 20 deg; n = 0 }} }} }}\n\
         kind b {{ body circle 1.5 u, sensor; vars {{ n = 0 }}; while touching a every 3 ticks as t {{ n += 1 }}\n\
           every {} ticks {{ deactivate self }} every 0.65 s {{ each b where not active as o {{ activate o }} }} }}\n\
         kind c {{ body box 3 u x 3 u, sensor; on touch b or c as t {{ push self by {speed} u/s along any angle }}\n\
           on leave arena {{ end self }} after {every} s {{ end self }} every 5 ticks {{ if count(c) < 9 {{ spawn c anywhere }} }} }}\n\
         kind p {{ body box 2 u x 2 u, solid fixed; on touch a {{ say \"x\" }} }}\n\
         place p at (9, 9)\nplace p at (10, 9)\n\
         after 1 ticks {{ spawn 25 a anywhere, facing 40 deg; spawn 25 b anywhere; spawn 6 c anywhere, facing 10 deg }}",
        every + 4
    )
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    #[test]
    fn who_stands_touches_whom_a_search_through_all_would_find(
        every in 2u64..30,
        speed in 0u64..20,
        edges in prop::sample::select(vec!["open", "wrap", "wall"]),
    ) {
        let text = crowd(every, speed, edges);
        let (mut knows, mut anew): (Play, Play) = (play(&text, 1), play(&text, 1));
        for _ in 0..120 {
            // A new engine has seen no tick: it looks at all.
            anew.engine = Engine::of(anew.engine.compiled.clone());
            knows.ticks(1);
            anew.ticks(1);
            prop_assert_eq!(&knows.state.contacts, &anew.state.contacts);
            prop_assert_eq!(knows.state.digest(), anew.state.digest());
        }
        prop_assert!(knows.events == anew.events);
        prop_assert!(!knows.state.contacts.is_empty());
    }
}

#[test]
fn a_jump_in_time_is_no_tick_that_was_looked_at() {
    let mut one = play(&crowd(7, 5, "wrap"), 1);
    one.ticks(60);
    let saved = one.state.clone();
    one.ticks(20);
    let (ahead, digest) = (one.state.clone(), one.state.digest());
    // Back and forth with one engine.
    one.state = saved;
    one.ticks(20);
    assert_eq!(one.state.digest(), digest);
    one.state = ahead;
    one.ticks(10);
    let digest = one.state.digest();
    let mut again = play(&crowd(7, 5, "wrap"), 1);
    again.ticks(90);
    assert_eq!(again.state.digest(), digest);
}
