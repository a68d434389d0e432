//! Why a line did not run: what its condition was made of, who did not come, who did not hear.
//!
//! The ticks before the present one are played once more, with the question put into the text, so that a condition
//! means what it means there, or looked at one by one. What was asked in vain is told as such.

mod condition;
mod find;
mod letters;
mod moments;
mod touches;

use tickpond_lang::program::{Event, POND, StmtKind};
use tickpond_sim::Who;

use crate::run::Run;
use crate::timeline::Timeline;
use find::{Found, found};

/// Seconds that are looked back.
const SECONDS: f64 = 10.0;
/// Most questions that are asked: of each one alive in each tick that is looked at.
const MOST: usize = 150_000;

/// Why something did not run, in lines.
#[derive(Clone, Debug, PartialEq)]
pub struct WhyNot {
    /// What was asked about.
    pub title: String,
    /// What is known, what matters most first.
    pub lines: Vec<String>,
}

/// What is looked at: the run, who was chosen, and how far back.
pub(crate) struct Asked<'a> {
    run: &'a mut Run,
    /// Who was chosen, alive or not.
    chosen: Option<Who>,
    /// The first tick that is looked at; what came before is not known.
    from: u64,
}

/// Why the line of the newest text, from 1, did not run, or what became of what it sends. `chosen` is the one it is
/// asked of; of several that of whom most holds.
pub fn why_not(run: &mut Run, line: u32, chosen: Option<Who>) -> WhyNot {
    let program = run.newest().clone();
    let title = |head: &str| format!("line {line}: {head}");
    let Some(found) = found(&program, line, chosen.map(|who| who.kind)) else {
        let lines = vec![
            "there is no handler and no `if` on this line".into(),
            "go to the head of one, or into it".into(),
        ];
        return WhyNot { title: title("nothing to ask of"), lines };
    };
    let Found { kind, handler, .. } = &found;
    let of = program.kinds[kind.index()].name.clone();
    let chosen = chosen.filter(|who| who.kind == *kind);
    let mut lines = Vec::new();
    let alive = run.state().kinds[kind.index()].len();
    let ticks = (SECONDS * program.rate) as u64;
    let back = ticks.min((MOST / alive.max(1)) as u64).max(1);
    let from = run.one_text_from(back);
    let mut asked = Asked { run, chosen, from };
    let heading = match &found.stmt {
        Some(stmt) => {
            program.text[program.sites[stmt.site.index()].span.range()].trim().to_string()
        }
        None => handler.head.clone(),
    };
    if handler.muted {
        lines.push("it is muted: `off` stands before it".into());
        return WhyNot { title: title(&heading), lines };
    }
    if alive == 0 && *kind != POND {
        lines.push(format!("no {of} is alive at {}", asked.at(asked.run.tick())));
    }
    asked.state(&program, &found, &mut lines);
    match found.stmt.as_ref().map(|stmt| &stmt.kind) {
        Some(StmtKind::If { .. }) => {
            let reached = asked.condition(&program, &found, &mut lines);
            if !reached {
                asked.handler(&program, &found, &mut lines);
            }
        }
        Some(StmtKind::Send { message, .. }) => asked.sent(*message, &mut lines),
        _ => asked.handler(&program, &found, &mut lines),
    }
    let seconds = (asked.run.tick() - from) as f64 / program.rate;
    lines.push(format!("looked at: the last {seconds:.2} s"));
    WhyNot { title: title(&heading), lines }
}

/// How often, and when last: `once, at 2.00 s`, `3 times, last at 2.00 s`.
pub(crate) fn times(count: usize, last: &str) -> String {
    match count {
        1 => format!("once, at {last}"),
        _ => format!("{count} times, last at {last}"),
    }
}

impl Asked<'_> {
    /// A tick in seconds.
    pub(crate) fn at(&self, tick: u64) -> String {
        format!("{:.2} s", tick as f64 / self.run.program().rate)
    }

    /// A name as people read it.
    pub(crate) fn name(&self, who: Who) -> String {
        self.run.cast().name_of(who)
    }

    /// How often a handler ran, and what keeps it from running.
    fn handler(
        &mut self,
        program: &tickpond_lang::program::Program,
        found: &Found,
        lines: &mut Vec<String>,
    ) {
        let ran = self.run.state().fired.get(found.handler.site.index()).copied().unwrap_or(0);
        lines.push(match ran {
            0 => format!("`{}` has not run so far", found.handler.head),
            1 => format!("`{}` has run once so far", found.handler.head),
            _ => format!("`{}` has run {ran} times so far", found.handler.head),
        });
        match &found.handler.event {
            Event::When(_) => {
                self.condition(program, found, lines);
            }
            Event::Touch { other, .. }
            | Event::Part(other)
            | Event::WhileTouching(other, _)
            | Event::Impact(other, _) => self.touch(program, found.kind, other, lines),
            Event::Message { message, .. } => self.heard_by(*message, found, lines),
            _ => self.moment(program, found, lines),
        }
    }

    /// Whether those who have the handler are in the state it belongs to.
    fn state(
        &self,
        program: &tickpond_lang::program::Program,
        found: &Found,
        lines: &mut Vec<String>,
    ) {
        let Some(wanted) = found.handler.state else { return };
        let kind = &program.kinds[found.kind.index()];
        let name = |state: usize| {
            let (name, _) = kind.tracks[wanted.track].states[state];
            program.state_names[name.0 as usize].as_str()
        };
        let columns = &self.run.state().kinds[found.kind.index()];
        let Some(track) = columns.tracks.get(wanted.track) else { return };
        let inside = (0..columns.len()).filter(|row| track.now[*row] as usize == wanted.state);
        let mut words = format!(
            "it belongs to the state `{}`: {} of {} {} in it",
            name(wanted.state),
            inside.count(),
            columns.len(),
            if columns.len() == 1 { "is" } else { "are" },
        );
        let row = self.chosen.and_then(|who| self.run.state().find(who.id)).map(|found| found.1);
        if let (Some(who), Some(row)) = (self.chosen, row) {
            let now = track.now[row] as usize;
            words.push_str(&format!("; {} is in `{}`", self.name(who), name(now)));
        }
        lines.push(words);
    }
}
