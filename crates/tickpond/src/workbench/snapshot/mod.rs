//! What the screen knows of the run: plain data, made on the simulation's thread.

mod feed;
mod moments;
mod story;
mod types;

pub(in crate::workbench) use feed::fits;
pub use feed::{feed, feed_line};
pub use moments::{hurt, marks, traces};
pub use story::story;
pub use types::*;

use std::collections::BTreeMap;

use tickpond_lab::{Run, Timeline};
use tickpond_lang::program::KindId;

use crate::workbench::answer::Answer;
use crate::workbench::befell::Befell;
use crate::workbench::one::One;
use crate::workbench::silhouette::strip;
use crate::workbench::tint::Tone;

impl Snapshot {
    /// A run at its present place, at normal speed, with a time strip of so many columns and the
    /// story of one entity.
    pub fn of(run: &Run, columns: usize, focus: Option<&One>, befell: &mut Befell) -> Snapshot {
        let (state, program) = (run.state(), run.program());
        let held =
            program.inputs.iter().enumerate().filter(|(i, _)| state.input.held >> i & 1 == 1);
        Snapshot {
            document: 0,
            travel: Travel {
                tick: run.tick(),
                head: run.head(),
                goal: None,
                edited: run.is_edited(),
                memory: run.memory(),
                takes: run.takes(),
            },
            play: Play {
                seed: state.seed,
                held: held.map(|(_, input)| input.name.clone()).collect(),
                tapes: run.newest().tapes.iter().map(|tape| tape.name.clone()).collect(),
                plays: run.tape_played(),
                ..Play::default()
            },
            cast: Some(run.cast().clone()),
            scene: Scene {
                entities: entities(run),
                counts: state.kinds.iter().map(|c| c.len()).collect(),
                marks: marks(run, 1.0),
                traces: traces(run, 1.0, std::iter::empty()),
                view: state.view,
                ..Scene::default()
            },
            strip: strip(run, columns),
            feed: feed(run, ""),
            script: Script { text: run.newest().text.clone(), ran: ran(run) },
            checks: checks(run),
            selected: Selected {
                focus: focus.cloned(),
                story: focus.and_then(|one| story(run, one, befell)),
            },
            stopped: state.stopped.as_ref().map(|s| StopLine {
                tick: s.tick,
                words: s.guard.words().to_string(),
                limit: s.guard.limit(&program.limits),
                entity: s.who.map(|who| tickpond_lab::naming::name_of(program, who)),
                lines: s
                    .lines()
                    .map(|(site, _)| program.line_of(site))
                    .chain(s.span.map(|span| program.lines.line(span.start)))
                    .filter_map(|line| run.line_at(s.tick, line))
                    .fold(Vec::new(), |mut lines, line| {
                        if !lines.contains(&line) {
                            lines.push(line);
                        }
                        lines
                    }),
            }),
            notice: None,
            page: None,
            answer: Answer::default(),
            stops: Vec::new(),
            pins: Vec::new(),
            branches: branches(run),
            gone_back: None,
        }
    }
}

fn branches(run: &Run) -> Vec<Branch> {
    let one = |past: &tickpond_lab::Past| Branch {
        number: past.number,
        words: past.words(),
        parted: past.parted,
        recipe: past.recipe.clone(),
    };
    run.pasts().iter().map(one).collect()
}

/// How often each line ran on which something can; of several things on one the one that ran most.
fn ran(run: &Run) -> Vec<(u32, u64)> {
    let (tick, program) = (run.tick(), run.program());
    let mut ran: BTreeMap<u32, u64> = BTreeMap::new();
    for (site, fired) in program.sites.iter().zip(&run.state().fired) {
        if let Some(line) = run.line_at(tick, program.lines.line(site.span.start)) {
            let known = ran.entry(line).or_default();
            *known = (*known).max(*fired);
        }
    }
    ran.into_iter().collect()
}

/// Those alive, kind by kind, oldest first.
pub fn entities(run: &Run) -> Vec<Seen> {
    let (state, program) = (run.state(), run.program());
    let mut seen = Vec::with_capacity(state.live());
    for (k, kind) in program.kinds.iter().enumerate().skip(1) {
        let id = KindId(k as u32);
        let c = &state.kinds[k];
        for row in 0..c.len() {
            let (vx, vy) = (c.vx[row], c.vy[row]);
            seen.push(Seen {
                who: state.who_at(id, row),
                at: (c.x[row], c.y[row]),
                heading: c.heading[row],
                speed: (vx * vx + vy * vy).sqrt(),
                health: kind.health.as_ref().map(|_| c.health[row]),
                age: c.age(row, state.tick) as f64 / program.rate,
                maker: state.who(c.maker[row]),
                active: c.is_active(row),
                tone: Tone::Own,
                hurt: None,
            });
        }
    }
    seen
}

/// The expectations and how they stand.
pub fn checks(run: &Run) -> Vec<CheckLine> {
    let program = run.program();
    let expects = program.expects.iter().zip(run.verdicts());
    expects
        .map(|(expect, verdict)| CheckLine {
            words: expect.words.clone(),
            line: run.line_at(run.tick(), program.lines.line(expect.span.start)),
            outcome: verdict.outcome(),
            failed: verdict.failed,
            saw: verdict.saw.clone(),
        })
        .collect()
}
