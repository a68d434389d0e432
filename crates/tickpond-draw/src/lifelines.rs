//! Lives side by side: a lane for each entity, with its states, what befell it, and its end.

use tickpond_lab::lifelines::{Lane, lifelines as lanes_of};
use tickpond_lab::{Run, Timeline};
use tickpond_lang::program::Cause;
use tickpond_sim::What;

use crate::axis::plain;
use crate::axis::round_between;
use crate::drawing::{Anchor, Drawing, Type};
use crate::pens::{FAINT, GRID, INK, pen, pen_of};
use crate::plot::{LABEL, LEFT, NOTE, TOP, WIDTH, fitted, width_of};
use crate::wanted::{Wanted, page};

/// Most lanes of a drawing.
const MOST: usize = 60;
const ROW: f64 = 14.0;
/// Room for names at the left, and for ends at the right.
const NAMES: f64 = 50.0;
const RIGHT: f64 = 110.0;
/// Seconds that are shown if nothing is said.
const USUAL: f64 = 10.0;

/// Lives from the first wanted tick to the run's present one (ten seconds, if no tick is named), the youngest
/// below; of more than sixty the youngest. A lane is as long as a life; a change of state is a change of its colour,
/// a stroke above it a hurt, a dot beneath it a message; at its end stands the cause.
pub fn lifelines(run: &Run, wanted: &Wanted<'_>) -> Drawing {
    let rate = run.cast().rate;
    let now = run.tick();
    let from = wanted.from.unwrap_or(now.saturating_sub((rate * USUAL) as u64)).min(now);
    let cast = run.cast().clone();
    let has = |who: tickpond_sim::Who| {
        cast.kinds.get(who.kind.index()).is_some_and(|kind| wanted.has(&kind.name))
    };
    let all = lanes_of(run, from, usize::MAX, &has).lanes;
    let lanes = &all[all.len().saturating_sub(MOST)..];
    let mut more = vec![format!("shown: {} s to {} s", seconds(from, rate), seconds(now, rate))];
    more.push(match all.len() > MOST {
        true => format!("{MOST} of {} lives: the youngest", all.len()),
        false if all.len() == 1 => "1 life".into(),
        false => format!("{} lives", all.len()),
    });
    let states = state_names(lanes);
    let kinds = kind_names(run, lanes);
    let height = TOP + lanes.len().max(4) as f64 * ROW + 76.0;
    let kept = Wanted { from: None, to: None, ..wanted.clone() };
    let mut page = page(run, &kept, "lives side by side", height, &more);
    let left = LEFT + NAMES;
    let right = WIDTH - RIGHT;
    let x = |tick: u64| {
        let share = (tick.max(from) - from) as f64 / (now - from).max(1) as f64;
        left + share * (right - left)
    };
    let base = TOP + lanes.len().max(4) as f64 * ROW;
    for mark in round_between(from as f64 / rate, now as f64 / rate, 8, false) {
        let tick = mark * rate;
        if tick < from as f64 - 0.5 || tick > now as f64 + 0.5 {
            continue;
        }
        let at = x(tick.round().max(0.0) as u64);
        page.line((at, TOP - 4.0), (at, base), GRID, 1.0);
        page.text((at, base + 17.0), Anchor::Middle, LABEL, &plain(mark));
    }
    page.text(((left + right) / 2.0, base + 35.0), Anchor::Middle, NOTE, "time (s)");
    for (row, lane) in lanes.iter().enumerate() {
        let y = TOP + 10.0 + row as f64 * ROW;
        one(&mut page, run, lane, (y, left, right), &x, (from, now));
    }
    if lanes.is_empty() {
        let middle = ((left + right) / 2.0, TOP + 24.0);
        page.text(middle, Anchor::Middle, LABEL, wanted.why_empty("nobody lived in this time"));
    }
    key(&mut page, run, (&kinds, &states), base + 58.0);
    page
}

fn seconds(tick: u64, rate: f64) -> String {
    plain(tick as f64 / rate)
}

/// The states that lanes come to, in alphabetical order.
fn state_names(lanes: &[Lane]) -> Vec<String> {
    let mut names: Vec<String> =
        lanes.iter().flat_map(|lane| lane.states.iter().map(|(_, name)| name.clone())).collect();
    names.sort();
    names.dedup();
    names
}

/// The kinds of lanes, by their numbers.
fn kind_names(run: &Run, lanes: &[Lane]) -> Vec<String> {
    let mut kinds: Vec<usize> = lanes.iter().map(|lane| lane.who.kind.index()).collect();
    kinds.sort_unstable();
    kinds.dedup();
    kinds.into_iter().filter_map(|kind| Some(run.cast().kinds.get(kind)?.name.clone())).collect()
}

fn one(
    page: &mut Drawing,
    run: &Run,
    lane: &Lane,
    (y, left, right): (f64, f64, f64),
    x: &dyn Fn(u64) -> f64,
    (from, now): (u64, u64),
) {
    const SMALL: Type<'_> = Type { size: 9.5, bold: false, colour: INK };
    let kind = run.cast().kinds.get(lane.who.kind.index()).map_or("", |kind| kind.name.as_str());
    let own = pen_of(run.cast(), kind);
    page.text((left - 8.0, y + 3.0), Anchor::End, SMALL, &fitted(&lane.name, 96.0, SMALL));
    let end = lane.ended.map_or(now, |(tick, _)| tick);
    let (begin, stop) = (x(lane.born), x(end).max(x(lane.born) + 1.0));
    page.rect(begin, y - 2.0, stop - begin, 4.0, own.colour);
    // From each change of state on the lane has the state's colour, beneath its own.
    let changes = lane.states.iter();
    let ends = lane.states.iter().skip(1).map(|(tick, _)| *tick).chain([end]);
    for ((tick, name), until) in changes.zip(ends) {
        let place = run.cast().state_place(name);
        let (begin, stop) = (x(*tick), x(until).max(x(*tick) + 1.0));
        page.rect(begin, y + 2.0, stop - begin, 2.5, pen(place).colour);
    }
    for (tick, what) in lane.marks.iter().filter(|(tick, _)| *tick >= from) {
        let at = x(*tick);
        match what {
            What::Hurt | What::Damaged | What::Healed => {
                page.line((at, y - 6.0), (at, y - 2.0), INK, 1.4);
            }
            What::Heard => page.dot(at, y + 5.5, 1.1, FAINT),
            _ => {}
        }
    }
    if let Some((_, cause)) = lane.ended {
        page.line((stop, y - 5.0), (stop, y + 5.0), INK, 1.6);
        let words = cause.map_or("ended", Cause::name);
        page.text((right + 12.0, y + 3.0), Anchor::Start, SMALL, words);
    } else {
        let faint = Type { colour: FAINT, ..SMALL };
        page.text((right + 12.0, y + 3.0), Anchor::Start, faint, "alive");
    }
}

/// What colours and marks mean, on one line; what finds no room is counted.
fn key(page: &mut Drawing, run: &Run, (kinds, states): (&[String], &[String]), y: f64) {
    let mut x = LEFT;
    let kinds = kinds.iter().map(|kind| (kind.clone(), pen_of(run.cast(), kind).colour, 4.0));
    let colour = |state: &str| pen(run.cast().state_place(state)).colour;
    let states = states.iter().map(|state| (format!("state {state}"), colour(state), 2.5));
    let all: Vec<(String, &str, f64)> = kinds.chain(states).collect();
    let room = WIDTH - 230.0;
    for (at, (name, colour, thick)) in all.iter().enumerate() {
        let name = fitted(name, 150.0, NOTE);
        let width = 24.0 + width_of(&name, NOTE) + 16.0;
        if x + width > room {
            let more = format!("+{} more", all.len() - at);
            page.text((x, y), Anchor::Start, NOTE, &more);
            break;
        }
        page.rect(x, y - 4.0 - thick / 2.0, 18.0, *thick, colour);
        page.text((x + 24.0, y), Anchor::Start, NOTE, &name);
        x += width;
    }
    page.line((room + 30.0, y - 8.0), (room + 30.0, y - 2.0), INK, 1.4);
    page.text((room + 36.0, y), Anchor::Start, NOTE, "hurt or healed");
    page.dot(room + 126.0, y - 3.5, 1.4, FAINT);
    page.text((room + 132.0, y), Anchor::Start, NOTE, "message heard");
}
