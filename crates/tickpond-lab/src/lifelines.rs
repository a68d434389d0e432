//! Lives side by side: who lived in a stretch of the run, what befell each, how each ended.

use std::sync::Arc;

use tickpond_lang::program::Cause;
use tickpond_sim::{What, Who};

use crate::timeline::Timeline;

/// One life as far as it lies in the stretch.
#[derive(Clone, Debug, PartialEq)]
pub struct Lane {
    /// Whose.
    pub who: Who,
    /// Its name.
    pub name: String,
    /// The tick of its birth.
    pub born: u64,
    /// The tick of its end, if that has come.
    pub ended: Option<(u64, Option<Cause>)>,
    /// What befell it in the stretch: tick and what, in order.
    pub marks: Vec<(u64, What)>,
    /// The states it came to in the stretch: tick and name, in order.
    pub states: Vec<(u64, String)>,
}

/// Lives side by side, and how many there are.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Lanes {
    /// The youngest of them, the eldest of these first.
    pub lanes: Vec<Lane>,
    /// How many there are, with those that are left out.
    pub all: usize,
}

/// The lives that reach into the ticks from `from` to the present one, the eldest first, at most `most`
/// of those `wanted`. Costs the events of the stretch and the living.
pub fn lifelines(
    run: &dyn Timeline,
    from: u64,
    most: usize,
    wanted: &dyn Fn(Who) -> bool,
) -> Lanes {
    let cast = run.cast();
    let events = run.events();
    let events = &events[events.partition_point(|e| e.tick < from)..];
    let lane = |who: Who, born: u64, ended| Lane {
        who,
        name: cast.name_of(who),
        born,
        ended,
        marks: Vec::new(),
        states: Vec::new(),
    };
    let mut lanes: Vec<Lane> = Vec::new();
    for alive in run.alive().into_iter().filter(|alive| wanted(alive.who)) {
        lanes.push(lane(alive.who, alive.born, None));
    }
    for event in events.iter().filter(|e| e.what == What::Ended) {
        // Kinds may have had other numbers when it ended: an edit renumbers them.
        let then = run.cast_at(event.tick);
        let kind = match Arc::ptr_eq(then, cast) {
            true => Some(event.who.kind),
            false => cast.kind_named(&then.kinds[event.who.kind.index()].name),
        };
        let Some(kind) = kind.filter(|kind| kind.index() > 0) else { continue };
        let who = Who { kind, ..event.who };
        if wanted(who) {
            let born = event.tick.saturating_sub(event.value.unwrap_or(0.0) as u64);
            lanes.push(lane(who, born, Some((event.tick, event.cause))));
        }
    }
    lanes.sort_by_key(|lane| (lane.born, lane.who.kind, lane.who.number));
    // The youngest are those of now: if there are too many, the eldest go.
    let all = lanes.len();
    let cut = all.saturating_sub(most);
    lanes.drain(..cut);
    let places: std::collections::HashMap<_, _> =
        lanes.iter().enumerate().map(|(at, lane)| (lane.who.id, at)).collect();
    for event in events {
        let Some(lane) = places.get(&event.who.id).map(|at| &mut lanes[*at]) else { continue };
        match event.what {
            What::Became => {
                let name = event.words.as_deref().unwrap_or("").to_string();
                lane.states.push((event.tick, name));
            }
            What::Born | What::Ended | What::Touched | What::Parted => {}
            what => lane.marks.push((event.tick, what)),
        }
    }
    Lanes { lanes, all }
}
