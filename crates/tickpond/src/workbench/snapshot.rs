//! What the screen knows of the run: plain data, made on the simulation's thread.

use std::collections::BTreeMap;
use std::sync::Arc;

use tickpond_lab::Run;
use tickpond_lab::judge::Outcome;
use tickpond_lab::naming::name_of;
use tickpond_lang::program::{Cause, KindId, Program, Role};
use tickpond_sim::vm::number_text;
use tickpond_sim::{Event, Phase, What, Who};

use super::answer::Answer;
use super::befell::Befell;
use super::one::One;
use super::silhouette::{Strip, strip};

/// Most lines of the feed that are handed to the screen.
const FEED_LINES: usize = 600;
/// Most events that are looked at for those lines.
const FEED_LOOKS: usize = 300_000;
/// Most events of the selected entity that are handed to the screen.
const STORY_LINES: usize = 200;

/// A moment of the run as the screen shows it.
#[derive(Clone, Debug, Default)]
pub struct Snapshot {
    /// The number of the document whose run this is of.
    pub document: u64,
    pub tick: u64,
    pub head: u64,
    /// The tick that is gone to.
    pub goal: Option<u64>,
    pub seed: u64,
    pub playing: bool,
    pub speed: f64,
    /// The program that plays; `None` before the first one.
    pub program: Option<Arc<Program>>,
    /// Those alive, kind by kind, oldest first; the pond left out.
    pub entities: Vec<Seen>,
    pub strip: Strip,
    pub feed: Vec<FeedLine>,
    /// The newest text: from the next tick on it plays, and the lines told of are its lines.
    pub text: Arc<str>,
    /// How often lines of it ran up to this tick: those on which something can, from 1.
    pub ran: Vec<(u32, u64)>,
    pub checks: Vec<CheckLine>,
    pub story: Option<Story>,
    /// Whom the story is of: what the person had selected when this was made.
    pub focus: Option<One>,
    /// What a guard that stopped the run has to say.
    pub stopped: Option<StopLine>,
    /// What was just born or ended, for the arena's marks.
    pub marks: Vec<Mark>,
    /// Rays that are shown: from, to, and the share of their time that is left.
    pub traces: Vec<Trace>,
    /// The middle of the pond's view.
    pub view: (f64, f64),
    /// What became of the last request.
    pub notice: Option<Notice>,
    /// Inputs that are down.
    pub held: Vec<String>,
    /// What the drawer asked for.
    pub answer: Answer,
    /// Conditions the play pauses at.
    pub stops: Vec<StopAt>,
    /// The tick a tape is recorded from.
    pub recording: Option<u64>,
    /// The names of the tapes of the newest text.
    pub tapes: Vec<String>,
    /// The name of the tape that is played.
    pub plays: Option<String>,
    /// The text of the tape that was recorded last.
    pub tape: Option<String>,
    /// Whether an edit parted this run from the one before.
    pub edited: bool,
    /// How many keyframes there are, and how many bytes they take.
    pub memory: (usize, usize),
    /// Kind names with how many live, without looking at each.
    pub counts: Vec<usize>,
}

/// A condition the play pauses at.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct StopAt {
    pub typed: String,
    pub on: bool,
    /// Why it cannot be asked.
    pub trouble: Option<String>,
    /// When it last became true, in ticks.
    pub met: Option<u64>,
}

/// A ray or the reach of a blast that is shown for a while.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Trace {
    pub from: (f64, f64),
    pub to: (f64, f64),
    /// How far a blast reaches, in u.
    pub radius: Option<f64>,
    /// The share of its time that is left, `0.0..=1.0`.
    pub left: f64,
}

/// A short word of the simulation to the person; the number tells a new one from an old one.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Notice {
    pub number: u64,
    pub words: String,
    pub is_trouble: bool,
}

/// A living entity.
#[derive(Clone, Debug, PartialEq)]
pub struct Seen {
    pub who: Who,
    pub at: (f64, f64),
    pub heading: f64,
    pub speed: f64,
    pub health: Option<f64>,
    pub age: f64,
    pub maker: Option<Who>,
    /// Whether it takes part.
    pub active: bool,
}

/// A line of the feed.
#[derive(Clone, Debug, PartialEq)]
pub struct FeedLine {
    pub tick: u64,
    pub phase: Phase,
    pub what: What,
    pub who: Who,
    /// Its name in the text that played then; `None` for the pond.
    pub one: Option<One>,
    pub words: String,
    pub line: Option<u32>,
}

/// An expectation and how it stands.
#[derive(Clone, Debug, PartialEq)]
pub struct CheckLine {
    pub words: String,
    /// Its line in the newest text, if it still has one.
    pub line: Option<u32>,
    pub outcome: Outcome,
    pub failed: Option<u64>,
    /// What was seen when it failed.
    pub saw: Option<Arc<str>>,
}

/// A guard that stopped the run.
#[derive(Clone, Debug, PartialEq)]
pub struct StopLine {
    pub tick: u64,
    pub words: String,
    /// Whose fault it was, if it was one's.
    pub entity: Option<String>,
    /// The lines that did most of it, none twice.
    pub lines: Vec<u32>,
    /// The limit that was reached, as the header sets it.
    pub limit: Option<String>,
}

impl StopLine {
    /// What happened, to whom, and where.
    pub fn told(&self) -> String {
        let entity = self.entity.iter().map(|name| format!(", {name}"));
        let lines: Vec<String> = self.lines.iter().map(u32::to_string).collect();
        let lines = match lines.len() {
            0 => None,
            1 => Some(format!(", line {}", lines[0])),
            _ => Some(format!(", lines {}", lines.join(", "))),
        };
        let limit = self.limit.iter().map(|limit| format!(" (limit {limit})"));
        std::iter::once(self.words.clone()).chain(entity).chain(lines).chain(limit).collect()
    }
}

/// The selected entity: its values if it lives, and its history.
#[derive(Clone, Debug, PartialEq)]
pub struct Story {
    pub name: String,
    pub alive: bool,
    /// Name and value.
    pub values: Vec<(String, String)>,
    /// Its events, oldest first, up to the present tick.
    pub events: Vec<FeedLine>,
    /// The line that made it.
    pub born_line: Option<u32>,
    /// The line that ended it.
    pub end_line: Option<u32>,
    /// Who made it.
    pub maker: Option<One>,
    /// When it was born, if that is on record.
    pub born_tick: Option<u64>,
    /// When it ended, if that is on record.
    pub end_tick: Option<u64>,
    /// The last time it was hurt: tick and line.
    pub hurt: Option<(u64, Option<u32>)>,
}

/// A birth or an end a moment ago.
#[derive(Clone, Debug, PartialEq)]
pub struct Mark {
    pub at: (f64, f64),
    /// `None` for a birth.
    pub cause: Option<Cause>,
    /// Seconds since.
    pub age: f64,
}

impl Snapshot {
    /// A run at its present place, at normal speed, with a time strip of so many columns and the
    /// story of one entity.
    pub fn of(run: &Run, columns: usize, focus: Option<&One>, befell: &mut Befell) -> Snapshot {
        let (state, program) = (run.state(), run.program());
        let held =
            program.inputs.iter().enumerate().filter(|(i, _)| state.input.held >> i & 1 == 1);
        Snapshot {
            document: 0,
            goal: None,
            focus: focus.cloned(),
            edited: run.is_edited(),
            tick: run.tick(),
            head: run.head(),
            seed: state.seed,
            playing: false,
            speed: 1.0,
            program: Some(program.clone()),
            entities: entities(run),
            strip: strip(run, columns),
            feed: feed(run, ""),
            text: run.newest().text.clone(),
            ran: ran(run),
            checks: checks(run),
            story: focus.and_then(|one| story(run, one, befell)),
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
            marks: marks(run),
            traces: traces(run),
            view: state.view,
            notice: None,
            answer: Answer::default(),
            stops: Vec::new(),
            recording: None,
            tape: None,
            tapes: run.newest().tapes.iter().map(|tape| tape.name.clone()).collect(),
            plays: run.tape_played(),
            memory: run.memory(),
            counts: state.kinds.iter().map(|c| c.len()).collect(),
            held: held.map(|(_, input)| input.name.clone()).collect(),
        }
    }
}

fn traces(run: &Run) -> Vec<Trace> {
    let tick = run.tick();
    let shown = run.state().traces.iter();
    shown
        .map(|trace| {
            let whole = (trace.until - trace.since).max(1) as f64;
            let left = trace.until.saturating_sub(tick) as f64 / whole;
            Trace { from: trace.from, to: trace.to, radius: trace.radius, left: left.min(1.0) }
        })
        .collect()
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
            });
        }
    }
    seen
}

/// The last lines of the feed up to the present tick that meet a filter: all its words must fit. A word
/// is `line:12`, the name of an event, of a phase, or a part of what the line says; with `-` before it, it
/// must not fit.
pub fn feed(run: &Run, filter: &str) -> Vec<FeedLine> {
    let events = run.events();
    let words: Vec<&str> = filter.split_whitespace().collect();
    let mut lines: Vec<FeedLine> = Vec::new();
    for event in events.iter().rev().take(FEED_LOOKS) {
        let line = feed_line(run, event);
        if words.iter().all(|word| fits(&line, word)) {
            lines.push(line);
        }
        if lines.len() == FEED_LINES {
            break;
        }
    }
    lines.reverse();
    lines
}

pub(super) fn fits(line: &FeedLine, word: &str) -> bool {
    if let Some(word) = word.strip_prefix('-') {
        return word.is_empty() || !fits(line, word);
    }
    if let Some(number) = word.strip_prefix("line:") {
        return number.parse().ok() == line.line;
    }
    line.what.name() == word || line.phase.name() == word || line.words.contains(word)
}

pub(super) fn feed_line(run: &Run, event: &Event) -> FeedLine {
    let program = run.program_at(event.tick);
    FeedLine {
        tick: event.tick,
        phase: event.phase,
        what: event.what,
        who: event.who,
        one: One::of(program, event.who),
        words: words_of(program, event),
        line: event.site.and_then(|site| run.line_of(event.tick, site)),
    }
}

fn words_of(program: &Program, event: &Event) -> String {
    let who = name_of(program, event.who);
    let other = event.other.map(|o| name_of(program, o)).unwrap_or_default();
    let message = event.message.map(|m| program.messages[m.index()].name.as_str()).unwrap_or("");
    let words = event.words.as_deref().unwrap_or("");
    let value = event.value.map(|v| format!("{}", (v * 1000.0).round() / 1000.0));
    let value = value.unwrap_or_default();
    let quoted = if words.is_empty() { String::new() } else { format!(" \"{words}\"") };
    match event.what {
        What::Born => format!("{who} by {other}"),
        What::Ended => {
            let life = event.value.unwrap_or(0.0) / program.rate;
            let cause = event.cause.map_or("", Cause::name);
            let by = if other == who { String::new() } else { format!(" by {other}") };
            format!("{who} {cause}{quoted}{by}, lived {life:.2} s")
        }
        What::Outvoted => {
            format!("{who} {}{quoted}: came too late", event.cause.map_or("", Cause::name))
        }
        What::Touched => format!("{who} and {other}"),
        What::Hurt => format!("{who} -{value} by {other}"),
        What::Damaged => format!("{who} {value} asked by {other}"),
        What::Healed => format!("{who} +{value} by {other}"),
        What::Sent if other.is_empty() => format!("{who} {message} to {value}"),
        What::Sent => format!("{who} {message} to {other}"),
        What::Heard => format!("{who} {message} from {other}"),
        What::Unheard if message.is_empty() => format!("{who}{quoted}, asked by {other}"),
        What::Unheard => format!("{who} {message}{quoted} from {other}"),
        What::Stale => format!("{who} asked \"{words}\" of one that is gone"),
        What::Missed => format!("{who} was still waiting"),
        What::Said => format!("{who}: {words}"),
        What::Refused | What::NoPlace => format!("{who}{quoted}"),
        What::Parted => format!("{who} and {other} no longer"),
        What::Became => format!("{who} {words}"),
        What::Activated | What::Deactivated => format!("{who} by {other}"),
        What::Downed => format!("{who} by {other}, and stays"),
        What::Attached => format!("{who} {words}, {other}"),
        What::Crowded => format!("{who} still lies over {other}"),
    }
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

/// What is known of one entity, alive or not; nothing if there is no such kind.
pub fn story(run: &Run, one: &One, befell: &mut Befell) -> Option<Story> {
    let (state, program) = (run.state(), run.program());
    let kind = one.kind_in(program)?;
    let columns = &state.kinds[kind.index()];
    let row = (0..columns.len()).find(|row| columns.number[*row] == one.number());
    let own = befell.of(run, one);
    // The newest of each sort: after an edit in the past the same name may be born again.
    let event_of = |what: What| {
        let about = |e: &&&Event| e.what == what && one.is(run.program_at(e.tick), e.who);
        own.iter().rev().find(about).copied()
    };
    let line_of = |event: Option<&Event>| {
        let event = event?;
        event.site.and_then(|site| run.line_of(event.tick, site))
    };
    let (born, ended, hurt) = (event_of(What::Born), event_of(What::Ended), event_of(What::Hurt));
    // A maker is of the text that played then.
    let maker = born.and_then(|e| One::of(run.program_at(e.tick), e.other?));
    Some(Story {
        name: one.name(),
        alive: row.is_some(),
        values: row.map_or_else(Vec::new, |row| values(run, kind, row)),
        events: own.iter().rev().take(STORY_LINES).rev().map(|e| feed_line(run, e)).collect(),
        born_line: line_of(born),
        end_line: line_of(ended),
        maker,
        born_tick: born.map(|e| e.tick),
        end_tick: ended.map(|e| e.tick),
        hurt: hurt.map(|e| (e.tick, line_of(Some(e)))),
    })
}

fn values(run: &Run, kind: KindId, row: usize) -> Vec<(String, String)> {
    use tickpond_lang::program::Ty;
    use tickpond_lang::units::Dim;
    let (state, program) = (run.state(), run.program());
    let c = &state.kinds[kind.index()];
    let number = |value: f64, dim: Dim| number_text(value, dim);
    let speed = (c.vx[row] * c.vx[row] + c.vy[row] * c.vy[row]).sqrt();
    let mut values = vec![
        ("place".into(), format!("({:.1}, {:.1}) u", c.x[row], c.y[row])),
        ("heading".into(), format!("{:.1} deg", c.heading[row])),
        ("speed".into(), number(speed, Dim::SPEED)),
        ("age".into(), format!("{:.2} s", c.age(row, state.tick) as f64 / program.rate)),
    ];
    for (track, told) in c.tracks.iter().zip(&program.kinds[kind.index()].tracks) {
        let own = &program.track_names[told.name.0 as usize];
        let state_name = told.states.get(track.now[row] as usize);
        let state_name = state_name.map_or("", |(s, _)| &program.state_names[s.0 as usize]);
        let timed = match track.until[row] {
            tickpond_sim::state::NEVER => String::new(),
            until => {
                format!(" for {:.2} s", until.saturating_sub(state.tick) as f64 / program.rate)
            }
        };
        let name = if own.is_empty() { "state" } else { own };
        values.push((name.to_string(), format!("{state_name}{timed}")));
    }
    if !c.is_active(row) {
        values.push(("active".into(), "no: it takes no part".into()));
    }
    if c.down[row] {
        values.push(("down".into(), "yes: its health came to 0".into()));
    }
    if program.kinds[kind.index()].health.is_some() {
        values.push(("health".into(), number(c.health[row], Dim::NONE)));
    }
    let mut word = 0;
    for var in &program.kinds[kind.index()].vars {
        let name = program.var_names[var.name.index()].clone();
        let bits = c.vars[word][row];
        let text = match &var.ty {
            Ty::Num(dim) => number(f64::from_bits(bits), *dim),
            Ty::Truth => (bits != 0).to_string(),
            Ty::Kind | Ty::KindOf(_) => {
                program.kinds.get(bits as usize).map(|k| k.name.clone()).unwrap_or_default()
            }
            Ty::Pair(dim) => {
                let second = f64::from_bits(c.vars[word + 1][row]);
                format!("({:.1}, {second:.1}) {dim}", f64::from_bits(bits))
            }
            Ty::Entity(_) => {
                let id = tickpond_sim::EntityId::from_word(bits);
                state.who(id).map_or("gone".into(), |w| name_of(program, w))
            }
            _ => String::new(),
        };
        word += if matches!(var.ty, Ty::Pair(_)) { 2 } else { 1 };
        values.push((name, text));
    }
    if let Role::Spawner(_) = program.kinds[kind.index()].role {
        values.push((
            "made".into(),
            format!("{} in all, {} alive", c.made_in_all[row], c.made_open[row]),
        ));
    }
    values
}

/// The births and ends of the last half second of play.
pub fn marks(run: &Run) -> Vec<Mark> {
    let (now, rate) = (run.tick(), run.program().rate);
    let from = now.saturating_sub((rate * 0.5) as u64);
    let state = run.state();
    let events = run.events();
    let start = events.partition_point(|e| e.tick < from);
    let mut marks = Vec::new();
    for event in events[start..].iter().rev().take(400) {
        let age = (now - event.tick) as f64 / rate;
        match event.what {
            What::Born => {
                if let Some((kind, row)) = state.find(event.who.id) {
                    let c = &state.kinds[kind.index()];
                    marks.push(Mark { at: (c.x[row], c.y[row]), cause: None, age });
                }
            }
            What::Ended => {
                if let Some(at) = event.place {
                    marks.push(Mark { at, cause: event.cause, age });
                }
            }
            _ => {}
        }
    }
    marks
}
