//! What `run`, `test` and `draw` have in common: how a pond is played.

use std::path::Path;
use std::sync::Arc;

use clap::Args;
use indicatif::{ProgressBar, ProgressStyle};
use tickpond_lab::{Run, RunOptions, TapeChoice};
use tickpond_lang::lines::LineIndex;
use tickpond_lang::program::Program;
use tickpond_lang::{units, units::Dim};

use super::{colour, complain};
use crate::failure::{Code, Failure, read_text};
use crate::show;

/// Seconds a pond is played if nothing else is said.
const USUAL_SECONDS: f64 = 60.0;
/// Most ticks of one run.
const MOST_TICKS: u64 = 100_000_000;

/// How long and with what a pond is played
#[derive(Args, Clone)]
pub struct PlayArgs {
    /// Length of the run, such as `60s`, `2min` or `500ms` [default: 60s]
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
    /// Threads that run the handlers of a phase; the result stays the same
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
    pub fn length(&self, rate: f64) -> Result<u64, Failure> {
        let ticks = match (&self.ticks, &self.time) {
            (Some(ticks), _) => *ticks,
            (None, Some(time)) => (seconds(time, rate)? * rate).round() as u64,
            (None, None) => (USUAL_SECONDS * rate).round() as u64,
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
        for d in &compiled.diagnostics {
            complain(&show::diagnostic(name, &steps, &lines, d, colour()));
        }
        Err(Failure::said(Code::Wrong))
    }
}

fn seconds(text: &str, rate: f64) -> Result<f64, Failure> {
    let end = text.find(|c: char| !(c.is_ascii_digit() || c == '.' || c == '_'));
    let (digits, unit) = text.split_at(end.unwrap_or(text.len()));
    let number: Option<f64> = digits.replace('_', "").parse().ok();
    let factor = match unit.trim() {
        "" => Some(1.0),
        unit => match units::find(unit) {
            Some(unit) if unit.is_ticks() => Some(1.0 / rate),
            Some(unit) if unit.dim == Dim::TIME => Some(unit.factor),
            _ => None,
        },
    };
    match (number, factor) {
        (Some(number), Some(factor)) => Ok(number * factor),
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
    for d in &compiled.diagnostics {
        complain(&show::diagnostic(&file, &text, &lines, d, colour()));
    }
    complain(&format!("{file}: {}", show::tally(&compiled.diagnostics)));
    Err(Failure::said(Code::Wrong))
}

/// Plays a run of a pond to its end or to a guard, with a progress bar if a person looks on.
pub fn play(program: Arc<Program>, options: RunOptions, ticks: u64) -> Result<Run, Failure> {
    let mut run = Run::new(program, options).map_err(Failure::wrong)?;
    // Hidden by the library where standard error is no terminal.
    let bar = ProgressBar::new(ticks);
    if let Ok(style) = ProgressStyle::with_template("{bar:40} {pos}/{len} ticks") {
        bar.set_style(style);
    }
    while run.tick() < ticks && run.state().stopped.is_none() {
        let next = (run.tick() + 256).min(ticks);
        run.play_to(next);
        bar.set_position(run.tick());
    }
    bar.finish_and_clear();
    run.close();
    Ok(run)
}

/// What a guard that stopped the run has to say.
pub fn guard_words(run: &Run, file: &Path) -> Option<String> {
    let stopped = run.state().stopped.as_ref()?;
    let program = run.program();
    let seconds = stopped.tick as f64 / program.rate;
    let mut words = format!(
        "the run stopped in tick {} ({seconds:.2} s): {}",
        stopped.tick,
        stopped.guard.words()
    );
    let by = stopped.who.map(|who| format!("{} ", tickpond_lab::files::name_of(program, who)));
    let by = by.unwrap_or_default();
    for (site, times) in stopped.lines() {
        let place = program.place_of(site);
        let text = program.text.lines().nth(place.line as usize - 1).unwrap_or("").trim();
        words.push_str(&format!(
            "\n{}:{}:{}: {by}asked {times} time{} in that tick\n    {text}",
            file.display(),
            place.line,
            place.col,
            if times == 1 { "" } else { "s" }
        ));
    }
    words.push_str(match stopped.guard {
        tickpond_sim::Guard::Entities => {
            "\nhelp: give them a way to end, `keep at most N alive`, or raise `limit` in the header"
        }
        tickpond_sim::Guard::Births => {
            "\nhelp: spawn fewer at once, or raise `births per tick` in the header's `limit`"
        }
        tickpond_sim::Guard::BirthRounds => "\nhelp: put a delay before the birth",
        tickpond_sim::Guard::Steps => "\nhelp: repeat less often, or wait in between",
        tickpond_sim::Guard::NotFinite => "\nhelp: look for a division by zero on that line",
    });
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
