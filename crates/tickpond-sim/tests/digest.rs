//! The digest holds every part of the state: a change of any of them changes it.

use crate::common::{Play, play};
use rstest::rstest;
use tickpond_sim::State;
use tickpond_sim::state::{Clock, Columns};

/// A pond that leaves something of every part of the state at the end of its ticks: what is asked for in the
/// phase of the ends is for the next tick.
const TEXT: &str = "pond \"full\" { arena 100 x 100; view 20 x 20 follows host; gravity (0, -1) u/s2 }
knob pace = 2 u/s
input fire = key f; input aim = pointer
message hail(n: number)
spots reeds { (60, 60) }
kind host {
    health 9
    body circle 2 u, sensor
    states { calm, wild }
    vars { n = 1; at = (3, 4); friend = self }
    mount back at (1 u, 0 u)
    on birth { spawn egg at back, attached; speed = pace; spin = 5 deg/s }
    every tick { spawn mote at (90, 90) }
    after 0.2 s { become wild for 60 s }
    after 3 ticks { wait 60 s; say \"late\" }
    after 4 ticks { spawn 4 egg at reeds, spaced 20 s, label \"late\", push 1 u/s, not within 1 u of stone { c = 3 }
        blast at here, radius 3 u, damage 0
        ray from here along heading, reach 9 u, hits stone as r { show r for 60 s } else { show r for 60 s }
        wave as some { spawn 2 mote at (80, 80), spaced 5 s } }
    while touching egg every 7 s { n += 1 }
    on hail(level) { say \"hail\" }
    when n > 99 { say \"many\" }
}
kind egg { body circle 1 u, sensor; vars { c = 1 } }
kind stone { body box 4 u x 1 u, solid }
kind mote {
    vars { c = 1 }
    on birth { end self because \"spent\" }
    on end {
        damage each host by 1; push each host by (0.1, 0) u/s; activate each host; end each egg where c > 5
        if nearest(egg) as e { attach e to nearest(host) at back; deactivate e }
        if nearest(host) as h { damage h by 0 credit h; heal h by 1 }
        send hail(3) to each host
        spawn stone at (5, 5)
        if nearest(stone) as s { end s because \"heavy\" }
    }
}
place host at (50, 50), label \"the host\"
place stone at (20, 20)
place egg at (50, 51)
watch spent = ended(mote because \"spent\") + peak(host or egg)
";

fn full() -> Play {
    let mut play = play(TEXT, 1);
    play.ticks(40);
    assert_eq!(play.state.stopped, None);
    play
}

fn host(play: &mut Play) -> &mut Columns {
    let kind = play.program().kind_named("host").unwrap();
    &mut play.state.kinds[kind.index()]
}

/// The digest of the state with one thing changed is another.
#[track_caller]
fn counts(change: impl FnOnce(&mut State)) {
    let mut play = full();
    let before = play.state.digest();
    change(&mut play.state);
    assert_ne!(play.state.digest(), before);
}

#[rstest]
fn the_same_state_has_the_same_digest() {
    assert_eq!(full().state.digest(), full().state.digest());
}

/// The parts of the state that differ when one thing is changed.
fn parts_that_differ(change: impl FnOnce(&mut State)) -> Vec<&'static str> {
    let mut play = full();
    let before = play.state.parts();
    change(&mut play.state);
    let pairs = before.into_iter().zip(play.state.parts());
    pairs.filter(|(before, after)| before != after).map(|(before, _)| before.0).collect()
}

#[rstest]
fn the_part_that_differs_is_told() {
    assert_eq!(parts_that_differ(|s| s.births[0].count += 1), ["births"]);
    assert_eq!(parts_that_differ(|s| s.ends[0].by.number += 1), ["ends"]);
    assert_eq!(parts_that_differ(|s| s.kinds[1].x[0] += 1.0), ["kinds"]);
    assert_eq!(parts_that_differ(|s| s.contacts[0].began += 1), ["contacts"]);
    let both = parts_that_differ(|s| (s.tick, s.totals[1].born) = (s.tick + 1, 77));
    assert_eq!(both, ["tick", "totals"]);
    // How often lines ran decides nothing.
    assert!(parts_that_differ(|s| s.fired[0] += 1).is_empty());
}

#[rstest]
fn what_is_of_the_whole_pond_counts() {
    counts(|s| s.tick += 1);
    counts(|s| s.seed += 1);
    counts(|s| s.knobs[0] += 1.0);
    counts(|s| s.born_in_all += 1);
    counts(|s| s.view.0 += 1.0);
    counts(|s| s.view.1 += 1.0);
    counts(|s| s.input.held ^= 1);
    counts(|s| s.input.places[1].0 += 1.0);
    counts(|s| s.input.places[1].1 += 1.0);
    counts(|s| s.solids = None);
}

#[rstest]
fn what_was_asked_for_and_is_still_to_come_counts() {
    counts(|s| s.births.iter_mut().for_each(|b| b.due += 1));
    counts(|s| s.births[0].count += 1);
    counts(|s| s.births[0].index += 1);
    counts(|s| s.births[0].spaced += 1);
    counts(|s| s.births[0].luck += 1);
    counts(|s| s.births[0].before += 1);
    counts(|s| s.births[0].batch += 1);
    counts(|s| s.births[0].wave += 1);
    counts(|s| s.births[0].speed = Some(77.0));
    counts(|s| s.births[0].facing = Some(77.0));
    counts(|s| s.births[0].health = Some(77.0));
    counts(|s| s.births[0].vel = Some((7.0, 7.0)));
    counts(|s| s.births[0].toward = Some((7.0, 7.0)));
    counts(|s| s.births[0].label = Some("another".into()));
    counts(|s| s.births[0].maker.number += 1);
    counts(|s| s.births[0].key.asker += 1);
    counts(|s| {
        let one = s.births.iter_mut().find(|b| !b.vars.is_empty()).unwrap();
        one.vars[0].1 = 7f64.to_bits();
    });
    counts(|s| {
        let one = s.births.iter_mut().find(|b| b.extras.is_some()).unwrap();
        one.extras.as_mut().unwrap().push_along += 1.0;
    });
    counts(|s| {
        let one = s.births.iter_mut().find(|b| b.extras.is_some()).unwrap();
        one.extras.as_mut().unwrap().filters.clear();
    });
    counts(|s| s.births.clear());
    counts(|s| s.letters.clear());
    counts(|s| s.letters.iter_mut().for_each(|l| l.luck += 1));
    counts(|s| s.letters.iter_mut().for_each(|l| l.from.number += 1));
    counts(|s| s.health[0].loss += 1.0);
    counts(|s| s.health[0].by.number += 1);
    counts(|s| s.health[0].target = s.ends[0].target);
    counts(|s| s.ends[0].words = Some("another".into()));
    counts(|s| s.ends[0].by.number += 1);
    counts(|s| s.ends[0].cause = tickpond_lang::program::Cause::Owner);
    counts(|s| s.ends.clear());
    counts(|s| s.pushes[0].by.0 += 1.0);
    counts(|s| s.pushes[0].by.1 += 1.0);
    counts(|s| s.pushes.clear());
    counts(|s| s.activations[0].on ^= true);
    counts(|s| s.activations.clear());
    counts(|s| s.attaching[0].to = None);
    counts(|s| s.attaching.clear());
    counts(|s| s.waits[0].due += 1);
    counts(|s| s.waits[0].at += 1);
    counts(|s| s.waits.clear());
}

#[rstest]
fn what_is_between_entities_and_what_was_counted_count() {
    counts(|s| s.attached.values_mut().for_each(|a| a.outlives ^= true));
    counts(|s| s.attached.values_mut().for_each(|a| a.mount += 1));
    counts(|s| s.attached.clear());
    counts(|s| s.contacts[0].began += 1);
    counts(|s| s.contacts[0].born_so ^= true);
    counts(|s| s.contacts.clear());
    counts(|s| s.touching.values_mut().for_each(|due| *due += 1));
    counts(|s| s.touching.clear());
    counts(|s| s.waves.values_mut().for_each(|w| w.live += 1));
    counts(|s| s.waves.values_mut().for_each(|w| w.unborn += 1));
    counts(|s| s.waves.clear());
    counts(|s| s.labels.values_mut().for_each(|l| *l = "another".into()));
    counts(|s| s.labels.clear());
    counts(|s| s.traces[0].until += 1);
    counts(|s| s.traces[0].to.0 += 1.0);
    counts(|s| s.traces.clear());
    counts(|s| s.tally.values_mut().for_each(|n| *n += 1));
    counts(|s| s.tally.clear());
    counts(|s| s.peaks[0].1 += 1);
    counts(|s| s.totals[1].born += 1);
    counts(|s| s.totals[1].peak += 1);
    counts(|s| s.totals[1].peak_tick += 1);
    counts(|s| s.totals[1].ended[3] += 1);
    counts(|s| s.mail_totals[0].sent += 1);
    counts(|s| s.mail_totals[0].heard += 1);
    counts(|s| s.mail_totals[0].unheard += 1);
}

#[rstest]
fn every_column_counts() {
    let changes: &[fn(&mut Columns)] = &[
        |c| c.number[0] ^= 1,
        |c| c.serial[0] ^= 1,
        |c| c.luck[0] ^= 1,
        |c| c.born[0] ^= 1,
        |c| c.batch[0] ^= 1,
        |c| c.first[0] ^= 1,
        |c| c.wave[0] ^= 1,
        |c| c.rests_since[0] = Clock::at(3),
        |c| c.slept[0] ^= 1,
        |c| c.made_open[0] ^= 1,
        |c| c.made_in_all[0] ^= 1,
        |c| c.made_ended[0] ^= 1,
        |c| c.still[0] ^= 1,
        |c| c.x[0] += 1.0,
        |c| c.y[0] += 1.0,
        |c| c.vx[0] += 1.0,
        |c| c.vy[0] += 1.0,
        |c| c.heading[0] += 1.0,
        |c| c.spin[0] += 1.0,
        |c| c.health[0] += 1.0,
        |c| c.down[0] ^= true,
        |c| c.bits[0].set(0, 77),
        |c| c.clocks[0][0] = Clock::STOPPED,
        |c| c.vars[0][0] ^= 1,
        |c| c.vars[1][0] ^= 1,
        |c| c.vars[2][0] ^= 1,
        |c| c.vars[3][0] ^= 1,
        |c| c.tracks[0].now[0] ^= 1,
        |c| c.tracks[0].back[0] ^= 1,
        |c| c.tracks[0].until[0] = Clock::at(9),
        |c| c.tracks[0].since[0] ^= 1,
        |c| c.tracks[0].seen[0] ^= 1,
    ];
    for (nth, change) in changes.iter().enumerate() {
        let mut play = full();
        let before = play.state.digest();
        change(host(&mut play));
        assert_ne!(play.state.digest(), before, "change {nth}");
    }
}
