//! Conditions that a person types while a pond plays: which entities meet one, whether one holds.
//!
//! A condition is compiled as an expectation at the end of the pond's own text, so that it means what it
//! would mean there; the pond that plays is not touched.

use std::sync::Arc;

use tickpond_lang::program::{KindId, Program};
use tickpond_sim::{Engine, State};

use crate::typed::{first_error, one_line};

/// A typed condition made ready for one version of a pond.
pub struct Probe {
    engine: Engine,
    expect: usize,
    kinds: Vec<KindId>,
}

/// Compiles the pond with one more line, and gives the place of the expectation on it.
fn with_line(program: &Program, line: &str) -> Result<(Arc<Program>, usize), String> {
    let text = format!("{}\n{line}\n", program.text);
    let compiled = tickpond_lang::compile(&text);
    match compiled.program {
        Some(with) if with.expects.len() == program.expects.len() + 1 => {
            let at = with.expects.len() - 1;
            Ok((with, at))
        }
        Some(_) => Err("one condition is wanted, on one line".into()),
        None => {
            let first = first_error(&compiled.diagnostics);
            Err(first.unwrap_or_else(|| "this is no condition".into()))
        }
    }
}

impl Probe {
    /// A question such as `midge where health < 2` or `midge`.
    ///
    /// # Errors
    /// What the checker says of it.
    pub fn of_entities(program: &Program, typed: &str) -> Result<Probe, String> {
        let typed = one_line(typed, "condition")?;
        let line = format!("expect \"asked\": each {typed} lives at least 0 s");
        let (with, expect) = with_line(program, &line)?;
        let engine = Engine::new(with);
        use tickpond_lang::program::Check;
        let kinds = match &engine.program().expects[expect].check {
            Check::LivesAtLeast(those, _) => those.kinds.clone(),
            _ => return Err("a kind is wanted, and perhaps `where` and a condition".into()),
        };
        Ok(Probe { engine, expect, kinds })
    }

    /// A condition of the pond such as `count(drop) > 40`.
    ///
    /// # Errors
    /// What the checker says of it.
    pub fn of_pond(program: &Program, typed: &str) -> Result<Probe, String> {
        let typed = one_line(typed, "condition")?;
        let (with, expect) = with_line(program, &format!("expect \"asked\": always {typed}"))?;
        Ok(Probe { engine: Engine::new(with), expect, kinds: Vec::new() })
    }

    /// Whether the condition of the pond holds; the state is of the same version.
    pub fn holds(&mut self, state: &State) -> bool {
        self.engine.holds(state, self.expect) == Some(tickpond_sim::Holds::Yes)
    }

    /// The rows that meet the condition, kind by kind.
    pub fn those(&mut self, state: &State) -> Vec<(KindId, Vec<u32>)> {
        let kinds = self.kinds.clone();
        kinds
            .into_iter()
            .filter(|kind| kind.index() < state.kinds.len())
            .map(|kind| {
                let rows: Vec<u32> = (0..state.kinds[kind.index()].len() as u32).collect();
                let meets = self.engine.those(state, self.expect, kind, &rows);
                (kind, rows.into_iter().zip(meets).filter(|(_, m)| *m).map(|(r, _)| r).collect())
            })
            .collect()
    }
}
