//! What `run`, `test` and `draw` have in common: how a pond is played.

use std::path::Path;
use std::sync::Arc;

use clap::Args;
use indicatif::{ProgressBar, ProgressStyle};
use tickpond_lab::{Played, Player, Run, RunOptions, Sink, TapeChoice};
use tickpond_lang::lines::{LineCol, LineIndex};
use tickpond_lang::program::Program;
use tickpond_lang::{units, units::Dim};
use tickpond_sim::Guard;

use super::interrupt;
use super::say::{colour, complain, complain_as_it_is};
use crate::failure::{Code, Failure, read_text};
use crate::show;

/// Seconds a pond is played if nothing else is said.
const USUAL_SECONDS: f64 = 60.0;
/// Most ticks of one run.
const MOST_TICKS: u64 = 100_000_000;

/// How long and with what a pond is played
#[derive(Args, Clone)]
pub struct PlayArgs {
    /// Length of the run, such as `60s`, `2min` or `500ms` [default: what the pond's header says it `lasts`, or 60s]
    #[arg(long = "for", value_name = "TIME", conflicts_with = "ticks")]
    pub time: Option<String>,
    /// Length of the run in ticks after the opening tick 0
    #[arg(long, value_name = "N")]
    pub ticks: Option<u64>,
    /// Another value for a knob, such as `drift=8` or `reload=0.1s`; may be repeated
    #[arg(long, value_name = "NAME=VALUE", value_parser = name_and_value)]
    pub set: Vec<(String, String)>,
    /// Run the handlers of each phase in a shuffled order, by this seed if one is given; the result stays
    /// the same
    #[arg(long, value_name = "SEED", num_args = 0..=1, default_missing_value = "1")]
    pub shuffle: Option<u64>,
    /// Threads that run the handlers of a phase; the result stays the same. Worth it only where handlers ask
    /// more than they write: all else is one thread's work
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u8).range(1..=64))]
    pub threads: u8,
    /// Tape to play: a name in the pond, or a file with the steps of one [default: the tape marked
    /// `played`]
    #[arg(long, value_name = "NAME|FILE", conflicts_with = "no_tape")]
    pub tape: Option<String>,
    /// Play no tape, not even one marked `played`
    #[arg(long)]
    pub no_tape: bool,
}

fn name_and_value(text: &str) -> Result<(String, String), String> {
    match text.split_once('=') {
        Some((name, value)) if !name.trim().is_empty() && !value.trim().is_empty() => {
            Ok((name.trim().to_string(), value.trim().to_string()))
        }
        _ => Err("write it as NAME=VALUE, such as `drift=8`".into()),
    }
}

impl PlayArgs {
    /// How many ticks to play.
    pub fn length(&self, program: &Program) -> Result<u64, Failure> {
        let rate = program.rate;
        let ticks = match (&self.ticks, &self.time) {
            (Some(ticks), _) => *ticks,
            (None, Some(time)) => (seconds(time, rate)? * rate).round() as u64,
            (None, None) => program.lasts.unwrap_or((USUAL_SECONDS * rate).round() as u64),
        };
        if ticks > MOST_TICKS {
            return Err(Failure::wrong(format!("{ticks} ticks are more than {MOST_TICKS}")));
        }
        Ok(ticks)
    }

    /// The options of a run with this seed.
    pub fn options(&self, seed: u64) -> RunOptions {
        let tape = match &self.tape {
            Some(name) => TapeChoice::Named(name.clone()),
            None if self.no_tape => TapeChoice::Nothing,
            None => TapeChoice::Played,
        };
        RunOptions {
            seed,
            knobs: self.set.clone(),
            shuffle: self.shuffle,
            threads: usize::from(self.threads),
            tape,
            events: false,
            ..RunOptions::default()
        }
    }

    /// What is read to play a pond: its file, and that of the tape.
    pub fn reads<'a>(&'a self, pond: &'a Path) -> Vec<&'a Path> {
        std::iter::once(pond).chain(self.tape.as_deref().map(Path::new)).collect()
    }

    /// Reads and compiles a pond, and the tape's file if one is named.
    ///
    /// A file's steps are taken in as a tape of the pond with the file's name.
    pub fn load(&self, path: &Path) -> Result<Arc<Program>, Failure> {
        let program = load(path)?;
        let Some(name) = &self.tape else { return Ok(program) };
        let file = Path::new(name);
        if program.tapes.iter().any(|t| t.name == *name) || !file.exists() {
            return Ok(program);
        }
        let steps = read_text(file)?;
        let compiled = tickpond_lang::compile_with_tape(&program.text, name, &steps);
        if let Some(program) = compiled.program {
            return Ok(program);
        }
        let lines = LineIndex::new(&steps);
        let told = show::diagnostics(name, &steps, &lines, &compiled.diagnostics, colour());
        complain_as_it_is(told.trim_end_matches('\n'));
        Err(Failure::said(Code::Wrong))
    }
}

/// A length of time in seconds: `60s`, `2min`, `500ms`, `90ticks`; without a unit it is seconds.
pub fn seconds(text: &str, rate: f64) -> Result<f64, Failure> {
    let written = units::parted(text);
    match written.in_base(rate) {
        Some((seconds, Dim::TIME)) => Ok(seconds),
        Some((seconds, _)) if written.unit.is_empty() => Ok(seconds),
        _ => Err(Failure::wrong(format!(
            "`{text}` is no length of time\nhelp: write `60s`, `2min`, `500ms` or `90ticks`"
        ))),
    }
}

/// Reads and compiles a pond; its errors are printed. Findings are left to `check`.
pub fn load(path: &Path) -> Result<Arc<Program>, Failure> {
    let text = read_text(path)?;
    let compiled = tickpond_lang::compile(&text);
    if let Some(program) = compiled.program {
        return Ok(program);
    }
    let lines = LineIndex::new(&text);
    let file = path.display().to_string();
    let told = show::diagnostics(&file, &text, &lines, &compiled.diagnostics, colour());
    complain_as_it_is(told.trim_end_matches('\n'));
    complain(&format!("{file}: {}", show::tally(&compiled.diagnostics)));
    Err(Failure::said(Code::Wrong))
}

/// A progress bar, hidden where standard error is no terminal.
fn bar(ticks: u64) -> ProgressBar {
    let bar = ProgressBar::new(ticks);
    if let Ok(style) = ProgressStyle::with_template("{bar:40} {pos}/{len} ticks") {
        bar.set_style(style);
    }
    bar
}

/// Plays a pond forward to its end or to a guard, into sinks; `shown` with a progress bar.
///
/// # Errors
/// [`Failure`] if the options do not fit, a sink fails, or the person wants to stop.
pub fn play(
    program: &Arc<Program>,
    options: &RunOptions,
    ticks: u64,
    sinks: &mut [&mut dyn Sink],
    shown: bool,
) -> Result<Player, Failure> {
    let mut player = Player::new(program.clone(), options).map_err(Failure::wrong)?;
    player.interrupt_by(interrupt::flag());
    let bar = if shown { bar(ticks) } else { ProgressBar::hidden() };
    loop {
        let next = (player.state().tick + 256).min(ticks);
        let goes_on = player.play_to(next, sinks).map_err(|e| Failure::writing_output(&e))?;
        bar.set_position(player.state().tick);
        if !goes_on || interrupt::wanted() {
            bar.finish_and_clear();
            return Err(stopped_by_hand(player.state().tick));
        }
        if next == ticks || player.state().stopped.is_some() {
            break;
        }
    }
    bar.finish_and_clear();
    player.close();
    Ok(player)
}

/// Plays a pond and keeps all of the run, for a drawing.
///
/// # Errors
/// As [`play`].
pub fn record(program: Arc<Program>, options: RunOptions, ticks: u64) -> Result<Run, Failure> {
    let mut run = Run::new(program, options).map_err(Failure::wrong)?;
    let bar = bar(ticks);
    while run.tick() < ticks && run.state().stopped.is_none() {
        if interrupt::wanted() {
            bar.finish_and_clear();
            return Err(stopped_by_hand(run.tick()));
        }
        let next = (run.tick() + 256).min(ticks);
        run.play_to(next);
        bar.set_position(run.tick());
    }
    bar.finish_and_clear();
    run.close();
    Ok(run)
}

fn stopped_by_hand(tick: u64) -> Failure {
    let words = format!("interrupted in tick {tick}: nothing was written");
    Failure { code: Code::Interrupted, words }
}

/// What a guard that stopped the run has to say.
pub fn guard_words(run: &impl Played, file: &Path) -> Option<String> {
    let stopped = run.state().stopped.as_ref()?;
    let program = run.program();
    let seconds = stopped.tick as f64 / program.rate;
    let guard = stopped.guard;
    let mut words =
        format!("the run stopped in tick {} ({seconds:.2} s): {}", stopped.tick, guard.words());
    let by = stopped.who.map(|who| format!("{}, ", tickpond_lab::naming::name_of(program, who)));
    let by = by.unwrap_or_default();
    let mut tell = |place: LineCol, what: &str| {
        let text = program.text.lines().nth(place.line as usize - 1).unwrap_or("").trim();
        let (file, line, col) = (file.display(), place.line, place.col);
        words.push_str(&format!("\n{file}:{line}:{col}: {by}{what}\n    {text}"));
    };
    // Of a number that is none it does not matter how often.
    let counted = |times| match guard {
        Guard::NotFinite => "this gives it".to_string(),
        _ => guard.counted(times),
    };
    for (site, times) in stopped.lines() {
        tell(program.place_of(site), &counted(times));
    }
    if let (None, Some(span)) = (stopped.site, stopped.span) {
        tell(program.lines.line_col(&program.text, span.start), &counted(1));
    }
    if let Some(limit) = guard.limit(&program.limits) {
        words.push_str(&format!(
            "\nlimit: {limit}; `limit {limit}` in the header, with another number, sets it"
        ));
    }
    words.push_str(&format!("\nhelp: {}", guard.help()));
    Some(words)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("60s", Some(60.0))]
    #[case("60", Some(60.0))]
    #[case("1.5 min", Some(90.0))]
    #[case("500ms", Some(0.5))]
    #[case("30ticks", Some(0.5))]
    #[case("60u", None)]
    #[case("soon", None)]
    #[case("", None)]
    fn a_length_of_time_is_read(#[case] text: &str, #[case] wanted: Option<f64>) {
        assert_eq!(seconds(text, 60.0).ok(), wanted);
    }
}
