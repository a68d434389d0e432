//! A misspelt name, wherever it stands: what was meant is told, and put in its place the pond is right.

use rstest::rstest;
use tickpond_lang::{Severity, compile};

/// A pond in which every sort of thing has a name.
const POND: &str = "pond \"Names\" { arena 80 x 40; view 20 x 10 }
knob pace = 6 u/s in 1..20 \"how fast\"
spots reeds { (1, 1), (2, 2) }
zone shade = box (0, 0) size 9 x 9
input fire = key f
message dusk(level: number)
behavior blinks { vars { lit = 0 }; every 1 s { lit += 1; say \"{lit}\" } }
kind midge {
    tag insect
    body circle 1 u, sensor
    health 2
    states { drifts_by, hides }
    uses blinks
    vars { bites = 0 }
    on birth { heading = any angle; speed = pace }
    on dusk(level) { bites += level }
    on enter shade { become hides for 2 s }
    in state hides { every 1 s { say \"{name} hides\" } }
    on end by damage { say \"{bites}\" }
    after 9 s { end self }
}
kind frog {
    body circle 1 u, sensor
    mount mouth at (1 u, 0 u)
    on press fire { spawn midge at reeds; spawn midge at mouth }
    on touch insect as prey { damage prey by 1 }
    every 1 s { if nearest(midge) as m { send dusk(3) to m } }
    every 2 s { if count(midge where bites > 2 and state == hides) > 3 { turn by 90 deg } }
}
spawner marsh { makes midge at reeds; every 2 s }
place marsh
place frog at reeds.1
watch seen = sum(midge.bites)
expect \"some\": at 4 s, count(midge) > 0
";

#[test]
fn the_pond_is_right() {
    let told = compile(POND).diagnostics;
    assert!(told.is_empty(), "{told:?}");
}

#[rstest]
#[case::kind_placed("place frog at", "frgo", "frog")]
#[case::kind_made("makes midge at", "mdige", "midge")]
#[case::kind_spawned("spawn midge at", "migde", "midge")]
#[case::kind_counted("count(midge where", "midg", "midge")]
#[case::kind_sought("nearest(midge)", "midgee", "midge")]
#[case::kind_summed("sum(midge.bites)", "mige", "midge")]
#[case::spawner_placed("place marsh", "mrash", "marsh")]
#[case::tag_touched("touch insect as", "insekt", "insect")]
#[case::knob_read("speed = pace", "pcae", "pace")]
#[case::spots_of_a_spawner("midge at reeds; every", "redes", "reeds")]
#[case::spots_numbered("frog at reeds.1", "reds", "reeds")]
#[case::mount_used("spawn midge at mouth", "muoth", "mouth")]
#[case::zone_entered("enter shade {", "shaed", "shade")]
#[case::input_pressed("press fire {", "fier", "fire")]
#[case::message_sent("send dusk(3)", "dsuk", "dusk")]
#[case::behavior_used("uses blinks", "blink", "blinks")]
#[case::state_become("become hides for", "hide", "hides")]
#[case::state_entered("in state hides {", "hieds", "hides")]
#[case::state_compared("state == hides)", "hdies", "hides")]
#[case::variable_added_to("bites += level", "bite", "bites")]
#[case::variable_read("where bites > 2", "btes", "bites")]
#[case::variable_said("{bites}", "bitse", "bites")]
#[case::parameter("bites += level", "levle", "level")]
#[case::bound_name("damage prey by", "pery", "prey")]
#[case::field_set("heading = any", "haeding", "heading")]
#[case::cause_of_an_end("end by damage {", "damge", "damage")]
fn a_misspelt_name_is_told_what_was_meant(
    #[case] place: &str,
    #[case] slip: &str,
    #[case] meant: &str,
) {
    let at = POND.find(place).unwrap_or_else(|| panic!("no {place}"));
    let within = place.find(meant).unwrap_or_else(|| panic!("no {meant} in {place}"));
    let (start, end) = (at + within, at + within + meant.len());
    let text = format!("{}{slip}{}", &POND[..start], &POND[end..]);
    let told = compile(&text).diagnostics;
    let here =
        told.iter().find(|d| d.severity == Severity::Error && d.span.start as usize == start);
    let here = here.unwrap_or_else(|| panic!("nothing told of {slip}: {told:?}"));
    assert_eq!(&text[here.span.range()], slip);
    let help = here.help.as_deref().unwrap_or_default();
    assert!(help.contains(&format!("`{meant}`")), "{slip}: {} / {help}", here.message);
    if let Some(mend) = &here.mend {
        let (from, to) = (mend.span.start as usize, mend.span.end as usize);
        let mended = format!("{}{}{}", &text[..from], mend.text, &text[to..]);
        assert_eq!(mended, POND);
    }
}

#[rstest]
#[case::nothing_like_it("place marsh", "place orchard", "orchard")]
#[case::too_short_to_guess("place marsh", "place x", "x")]
fn what_is_like_nothing_gets_no_guess(#[case] old: &str, #[case] new: &str, #[case] name: &str) {
    let told = compile(&POND.replace(old, new)).diagnostics;
    let here = told.iter().find(|d| d.message.contains(name));
    let here = here.unwrap_or_else(|| panic!("{told:?}"));
    assert!(here.mend.is_none() && !here.help.as_deref().unwrap_or("").contains("did you mean"));
}

#[rstest]
#[case::of_nothing("watch w = sum(3)")]
#[case::of_one("kind a { every 1 s { say \"{sum(self.health)}\" } }\nplace a at (1, 1)")]
fn a_sum_is_of_a_field_of_kinds(#[case] items: &str) {
    let told = compile(&format!("pond \"t\" {{ arena 9 x 9 }}\n{items}")).diagnostics;
    let here =
        told.iter().find(|d| d.message.contains("`sum`")).unwrap_or_else(|| panic!("{told:?}"));
    assert!(here.help.as_deref().is_some_and(|help| help.contains("sum(KIND.FIELD)")), "{here:?}");
}

#[rstest]
fn what_was_meant_is_not_looked_for_without_end() {
    // As many unknown names as known ones: a look at all for each would grow with the square.
    let kinds: String =
        (0..2_000).map(|n| format!("kind kind{n:05}x {{ look \"a\" }}\n")).collect();
    let places: String = (0..2_000).map(|n| format!("place kind{n:05}y at (1, 1)\n")).collect();
    let text = format!("pond \"t\" {{ arena 9 x 9 }}\n{kinds}{places}");
    let diagnostics = tickpond_lang::compile(&text).diagnostics;
    let unknown: Vec<_> =
        diagnostics.iter().filter(|d| d.code == tickpond_lang::Code::UnknownName).collect();
    assert_eq!(unknown.len(), 2_000);
    // The first are told what was meant, the last are told all the same that they are unknown.
    assert_eq!(unknown[0].help.as_deref(), Some("did you mean `kind00000x`?"));
    assert!(unknown[1_999].help.as_deref().is_some_and(|help| help.starts_with("declare it")));
}
