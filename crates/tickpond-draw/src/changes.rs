//! The states of each kind: how often one is come to, how long one stays, and which change was taken by which line.

use std::collections::{BTreeMap, HashMap};

use tickpond_lab::{Run, Timeline};
use tickpond_lang::program::{Kind, Program};
use tickpond_sim::{EntityId, What};

use crate::axis::plain;
use crate::drawing::{Anchor, Drawing};
use crate::pens::{FAINT, GRID, INK, pen, pen_of};
use crate::plot::{LABEL, LEFT, NOTE, STRONG, TOP, WIDTH, fitted};
use crate::wanted::{Wanted, page};

const ROW: f64 = 20.0;
/// Most states and most changes of a track that are listed; what goes beyond is counted.
const MOST: usize = 16;
/// The longest bar of a change.
const BAR: f64 = 120.0;

/// One track of states of a kind.
struct Track {
    kind: String,
    /// Empty for the kind's own.
    name: String,
    states: Vec<String>,
    /// By state: how often one came to it, births among them.
    entered: Vec<usize>,
    /// By state: how long each stay was that is over by a change, in ticks.
    stays: Vec<Vec<u64>>,
    /// By state: how many were in it at the end, or when they ended.
    rests: Vec<usize>,
    /// From, to, the line that did it.
    changes: BTreeMap<(usize, usize, Option<u32>), usize>,
}

/// Where one entity is in one track, and since when.
struct Stay {
    track: usize,
    state: usize,
    since: u64,
}

/// For each kind with states, and each of its tracks: its states with how often one comes to them and how long one stays (the
/// median of stays that a change has ended; time in which one is inactive does not count), and beneath them the changes, with the line of
/// the script that took them: timed states go back without a line.
pub fn changes(run: &Run, wanted: &Wanted<'_>) -> Drawing {
    let tracks = tracks(run, wanted);
    let height = TOP + tracks.iter().map(height_of).sum::<f64>().max(60.0) + 20.0;
    let kept = run.record().kept_from();
    let more = (kept > 0).then(|| format!("who was born before tick {kept} is not in it"));
    let more: Vec<String> = more.into_iter().collect();
    let mut page = page(run, wanted, "states and their changes", height, &more);
    if tracks.is_empty() {
        let middle = (WIDTH / 2.0, TOP + 30.0);
        page.text(middle, Anchor::Middle, LABEL, wanted.why_empty("no kind here has states"));
    }
    let mut top = TOP;
    for track in &tracks {
        draw(&mut page, run, track, top);
        top += height_of(track);
    }
    page
}

fn height_of(track: &Track) -> f64 {
    let (states, changes) = (track.states.len(), track.changes.len());
    let rows = |count: usize| count.min(MOST) + usize::from(count > MOST);
    84.0 + (rows(states) + rows(changes).max(1)) as f64 * ROW
}

/// The tracks of a kind as they are told in events: their states by name.
fn states_of(program: &Program, kind: &Kind) -> Vec<(String, Vec<String>)> {
    let tracks = kind.tracks.iter().map(|track| {
        let states = track.states.iter();
        let states = states.map(|(state, _)| program.state_names[state.0 as usize].clone());
        (program.track_names[track.name.0 as usize].clone(), states.collect())
    });
    tracks.collect()
}

fn tracks(run: &Run, wanted: &Wanted<'_>) -> Vec<Track> {
    let span = wanted.ticks(run.record());
    let mut tracks: Vec<Track> = Vec::new();
    for (_, kind) in run.program().entity_kinds().filter(|(_, kind)| wanted.has(&kind.name)) {
        for (name, states) in states_of(run.program(), kind) {
            let count = states.len();
            tracks.push(Track {
                kind: kind.name.clone(),
                name,
                states,
                entered: vec![0; count],
                stays: vec![Vec::new(); count],
                rests: vec![0; count],
                changes: BTreeMap::new(),
            });
        }
    }
    let mut now: HashMap<EntityId, Vec<Stay>> = HashMap::new();
    let mut asleep: HashMap<EntityId, u64> = HashMap::new();
    let events = run.record().events().iter();
    for event in events.take_while(|event| (event.tick as usize) < span.end) {
        let counts = span.contains(&(event.tick as usize));
        match event.what {
            What::Born => {
                let cast = run.cast_at(event.tick);
                let kind = cast.kinds.get(event.who.kind.index()).map(|kind| kind.name.as_str());
                let own = tracks.iter_mut().enumerate();
                let own = own.filter(|(_, track)| Some(track.kind.as_str()) == kind);
                let stays = own.map(|(at, track)| {
                    track.entered[0] += usize::from(counts);
                    Stay { track: at, state: 0, since: event.tick }
                });
                let stays: Vec<Stay> = stays.collect();
                if !stays.is_empty() {
                    now.insert(event.who.id, stays);
                }
            }
            What::Became => {
                let (Some(stays), Some(name)) = (now.get_mut(&event.who.id), &event.words) else {
                    continue;
                };
                // Of tracks that have a state of this name, the one that is not in it.
                let found = stays.iter_mut().find_map(|stay| {
                    let states = &tracks[stay.track].states;
                    let to = states.iter().position(|state| **state == **name)?;
                    (to != stay.state).then_some((stay, to))
                });
                let Some((stay, to)) = found else { continue };
                let track = &mut tracks[stay.track];
                if counts {
                    let line = event.site.and_then(|site| run.line_of(event.tick, site));
                    track.entered[to] += 1;
                    track.stays[stay.state].push(event.tick - stay.since);
                    *track.changes.entry((stay.state, to, line)).or_default() += 1;
                }
                (stay.state, stay.since) = (to, event.tick);
            }
            What::Deactivated => {
                asleep.insert(event.who.id, event.tick);
            }
            What::Activated => {
                if let Some(from) = asleep.remove(&event.who.id) {
                    let stays = now.get_mut(&event.who.id).into_iter().flatten();
                    stays.for_each(|stay| stay.since += event.tick - from);
                }
            }
            What::Ended => {
                for stay in now.remove(&event.who.id).into_iter().flatten().filter(|_| counts) {
                    tracks[stay.track].rests[stay.state] += 1;
                }
            }
            _ => {}
        }
    }
    for stay in now.into_values().flatten() {
        tracks[stay.track].rests[stay.state] += 1;
    }
    tracks
}

/// The middle one of stays, of an even number the mean of both in the middle; in ticks.
fn median(stays: &[u64]) -> Option<f64> {
    let mut sorted = stays.to_vec();
    sorted.sort_unstable();
    let middle = sorted.len() / 2;
    match sorted.len() {
        0 => None,
        odd if odd % 2 == 1 => Some(sorted[middle] as f64),
        _ => Some((sorted[middle - 1] + sorted[middle]) as f64 / 2.0),
    }
}

fn draw(page: &mut Drawing, run: &Run, track: &Track, top: f64) {
    let rate = run.cast().rate;
    let columns = [LEFT + 170.0, LEFT + 250.0, LEFT + 380.0];
    let name = match track.name.is_empty() {
        true => track.kind.clone(),
        false => format!("{} · {}", track.kind, track.name),
    };
    page.rect(LEFT, top - 9.0, 4.0, 12.0, pen_of(run.cast(), &track.kind).colour);
    page.text((LEFT + 10.0, top), Anchor::Start, STRONG, &fitted(&name, 150.0, STRONG));
    for (x, words) in columns.iter().zip(["come to", "half stay at most", "in it at the end"]) {
        page.text((*x, top), Anchor::Start, NOTE, words);
    }
    let mut y = top + 22.0;
    for (at, state) in track.states.iter().take(MOST).enumerate() {
        page.line((LEFT, y + 5.0), (WIDTH - 16.0, y + 5.0), GRID, 1.0);
        page.rect(LEFT, y - 7.0, 8.0, 8.0, pen(run.cast().state_place(state)).colour);
        page.text((LEFT + 16.0, y), Anchor::Start, LABEL, &fitted(state, 140.0, LABEL));
        let half = median(&track.stays[at]);
        let cells = [
            track.entered[at].to_string(),
            half.map_or("-".into(), |ticks| format!("{} s", plain(ticks / rate))),
            track.rests[at].to_string(),
        ];
        for (x, cell) in columns.iter().zip(cells) {
            page.text((*x, y), Anchor::Start, LABEL, &cell);
        }
        y += ROW;
    }
    if track.states.len() > MOST {
        let words = format!("+{} more states", track.states.len() - MOST);
        page.text((LEFT + 16.0, y), Anchor::Start, NOTE, &words);
        y += ROW;
    }
    y += 8.0;
    if track.changes.is_empty() {
        page.text((LEFT + 16.0, y), Anchor::Start, NOTE, "no change was taken in this time");
        return;
    }
    let text = run.newest().text.clone();
    let mut changes: Vec<_> = track.changes.iter().collect();
    changes.sort_by_key(|(change, count)| (std::cmp::Reverse(**count), **change));
    let most = *changes[0].1 as f64;
    for ((from, to, line), count) in changes.iter().take(MOST) {
        let words = format!("{} → {}", track.states[*from], track.states[*to]);
        page.text((LEFT + 16.0, y), Anchor::Start, LABEL, &fitted(&words, 150.0, LABEL));
        let length = (BAR * **count as f64 / most).max(1.0);
        page.rect(
            columns[0],
            y - 8.0,
            length,
            9.0,
            pen(run.cast().state_place(&track.states[*to])).colour,
        );
        let at = columns[0] + BAR + 10.0;
        page.text((at, y), Anchor::Start, LABEL, &count.to_string());
        let says = match line {
            Some(line) => {
                let says = text.lines().nth(*line as usize - 1).unwrap_or("").trim();
                format!("line {line}: {says}")
            }
            None => "back, when its time was over".into(),
        };
        let ty = crate::drawing::Type { colour: if line.is_some() { INK } else { FAINT }, ..LABEL };
        page.text((at + 50.0, y), Anchor::Start, ty, &fitted(&says, WIDTH - 16.0 - at - 50.0, ty));
        y += ROW;
    }
    if changes.len() > MOST {
        let rest: usize = changes[MOST..].iter().map(|(_, count)| **count).sum();
        let words = format!("{rest} more, by {} other changes and lines", changes.len() - MOST);
        page.text((LEFT + 16.0, y), Anchor::Start, NOTE, &words);
    }
}
