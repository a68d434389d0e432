//! Values a person has pinned: they stay, with their line over time.

use std::collections::BTreeMap;
use std::sync::Arc;

use tickpond_lab::Run;
use tickpond_lab::gauge::Gauge;

use super::stretch::Stretch;

/// Most values of one that are kept.
const MOST_KEPT: usize = 40_000;
/// Most pins.
const MOST: usize = 50;
/// Ticks are played once more for values only as long as ticks times those alive are no more than this.
const MOST_AGAIN: usize = 300_000;

/// A pin as the screen shows it.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct PinAt {
    pub typed: String,
    /// Why it has no value at all.
    pub trouble: Option<String>,
    /// Its value now; none if somebody it names is not there.
    pub now: Option<String>,
    /// Its least and its most in the stretch.
    pub range: Option<(String, String)>,
    /// By column of the stretch the least and the most, as shares of that range; none where nothing is known.
    pub columns: Vec<Option<(f64, f64)>>,
}

/// The list of them.
#[derive(Default)]
pub struct Pins {
    list: Vec<Pin>,
    edition: (u64, u64),
}

struct Pin {
    typed: String,
    /// The text it was compiled for.
    version: Arc<str>,
    gauge: Result<Gauge, String>,
    values: BTreeMap<u64, Option<f64>>,
}

impl Pin {
    fn ready(&mut self, run: &Run) {
        let program = run.program();
        if !Arc::ptr_eq(&self.version, &program.text) {
            self.version = program.text.clone();
            self.gauge = Gauge::of(program, &self.typed);
        }
    }

    fn note(&mut self, run: &Run) {
        self.ready(run);
        let Ok(gauge) = &mut self.gauge else { return };
        self.values.insert(run.tick(), gauge.value(run.state()));
        while self.values.len() > MOST_KEPT {
            self.values.pop_first();
        }
    }
}

impl Pins {
    /// Whether nothing is pinned.
    pub fn is_empty(&self) -> bool {
        self.list.is_empty()
    }

    /// Pins a value; says why not.
    pub fn add(&mut self, run: &Run, typed: &str) -> Result<(), String> {
        let typed = typed.trim();
        if self.list.iter().any(|pin| pin.typed == typed) {
            return Err(format!("{typed} is pinned already"));
        }
        if self.list.len() >= MOST {
            return Err(format!("{MOST} values are pinned: x takes one away"));
        }
        let gauge = Gauge::of(run.program(), typed)?;
        let version = run.program().text.clone();
        self.list.push(Pin {
            typed: typed.into(),
            version,
            gauge: Ok(gauge),
            values: BTreeMap::new(),
        });
        Ok(())
    }

    /// Takes one away.
    pub fn forget(&mut self, at: usize) {
        if at < self.list.len() {
            self.list.remove(at);
        }
    }

    /// Notes the values of the present tick. Costs what a watch of each would.
    pub fn note(&mut self, run: &Run) {
        if self.edition != run.edition() {
            self.edition = run.edition();
            self.list.iter_mut().for_each(|pin| pin.values.clear());
        }
        self.list.iter_mut().for_each(|pin| pin.note(run));
    }

    /// Plays the ticks of a stretch up to the present one once more if values of them are not known, as far back as
    /// that is quick.
    pub fn fill(&mut self, run: &mut Run, (from, _): Stretch) {
        let tick = run.tick();
        let most = (MOST_AGAIN / run.state().live().max(1)) as u64;
        let from = from.max(tick.saturating_sub(most));
        let known = |pin: &Pin| pin.values.range(from..=tick).count() as u64 == tick - from + 1;
        let same = self.edition == run.edition();
        if self.is_empty() || same && self.list.iter().all(|pin| pin.gauge.is_err() || known(pin)) {
            return;
        }
        run.look_back(from, |run| self.note(run));
    }

    /// What the screen shows, in so many columns of a stretch.
    pub fn list(&mut self, run: &Run, (from, to): Stretch, columns: usize) -> Vec<PinAt> {
        let columns = columns.clamp(1, 800);
        let tick = run.tick();
        let per = ((to - from + 1) as f64 / columns as f64).max(1e-9);
        let shown = self.list.iter_mut().map(|pin| {
            pin.ready(run);
            let gauge = match &mut pin.gauge {
                Err(trouble) => {
                    let trouble = Some(trouble.clone());
                    return PinAt { typed: pin.typed.clone(), trouble, ..PinAt::default() };
                }
                Ok(gauge) => gauge,
            };
            let now = gauge.value(run.state()).map(|value| gauge.told(value));
            let values =
                pin.values.range(from..=to.min(tick)).filter_map(|(t, v)| Some((*t, (*v)?)));
            let values: Vec<(u64, f64)> = values.collect();
            let ends = values.iter().fold(None, |ends: Option<(f64, f64)>, (_, v)| {
                Some(ends.map_or((*v, *v), |(low, high)| (low.min(*v), high.max(*v))))
            });
            let (low, high) = ends.unwrap_or_default();
            let share = |value: f64| if high > low { (value - low) / (high - low) } else { 0.5 };
            let mut parts: Vec<Option<(f64, f64)>> = vec![None; columns];
            for (tick, value) in &values {
                let first = ((tick - from) as f64 / per) as usize;
                // Where a tick is wider than a column, all of its columns have its value.
                let last = ((((tick - from + 1) as f64 / per).ceil() as usize).max(first + 1))
                    .min(columns);
                for part in &mut parts[first.min(columns - 1)..last] {
                    let value = share(*value);
                    *part =
                        Some(part.map_or((value, value), |(a, b)| (a.min(value), b.max(value))));
                }
            }
            PinAt {
                typed: pin.typed.clone(),
                trouble: None,
                now,
                range: ends.map(|(low, high)| (gauge.told(low), gauge.told(high))),
                columns: parts,
            }
        });
        shown.collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use tickpond_lab::RunOptions;

    const POND: &str = "pond \"t\" { arena 90 x 60 }
kind frog { health 8; every 1 s { damage self by 1 } }
place frog at (10, 10)
";

    fn run(ticks: u64) -> Run {
        let mut run =
            Run::new(tickpond_lang::compile(POND).program.unwrap(), RunOptions::default()).unwrap();
        run.play_to(ticks);
        run
    }

    #[rstest]
    fn the_line_of_a_value_is_what_it_was() {
        let (mut run, mut pins) = (run(300), Pins::default());
        pins.add(&run, "frog#1.health").unwrap();
        pins.fill(&mut run, (0, 300));
        assert_eq!(run.tick(), 300);
        let shown = &pins.list(&run, (0, 300), 301)[0];
        assert_eq!(shown.now.as_deref(), Some("3"));
        assert_eq!(shown.range, Some(("3".into(), "8".into())));
        for (tick, part) in shown.columns.iter().enumerate() {
            let wanted = (8 - tick / 60 - 3) as f64 / 5.0;
            let (low, high) = part.unwrap();
            assert!((low - wanted).abs() < 1e-9 && low == high, "{low} at {tick}, not {wanted}");
        }
        // A column of two seconds goes from its least to its most.
        let (low, high) = pins.list(&run, (0, 300), 3)[0].columns[1].unwrap();
        assert!(low < high);
    }

    #[rstest]
    fn going_back_shows_what_was_known_and_no_more() {
        let (mut run, mut pins) = (run(300), Pins::default());
        pins.add(&run, "frog#1.health").unwrap();
        pins.fill(&mut run, (0, 300));
        run.seek(120);
        let shown = &pins.list(&run, (0, 300), 301)[0];
        assert_eq!(shown.now.as_deref(), Some("6"));
        assert!(shown.columns[120].is_some() && shown.columns[121].is_none());
    }

    #[rstest]
    fn another_run_has_values_of_its_own() {
        let (mut run, mut pins) = (run(120), Pins::default());
        pins.add(&run, "frog#1.health").unwrap();
        pins.fill(&mut run, (0, 120));
        run.restart(Some(5)).unwrap();
        pins.note(&run);
        let shown = &pins.list(&run, (0, 120), 10)[0];
        assert_eq!(shown.range, Some(("8".into(), "8".into())));
    }

    #[rstest]
    fn what_an_edit_takes_away_is_told() {
        let (mut run, mut pins) = (run(60), Pins::default());
        pins.add(&run, "count(frog) + 1").unwrap();
        assert_eq!(
            pins.add(&run, "count(frog) + 1"),
            Err("count(frog) + 1 is pinned already".into())
        );
        assert!(pins.add(&run, "count(newt)").unwrap_err().contains("newt"));
        let text = POND.replace("frog", "toad");
        run.edit(tickpond_lang::compile(&text).program.unwrap()).unwrap();
        let shown = &pins.list(&run, (0, 60), 10)[0];
        assert!(shown.trouble.as_ref().unwrap().contains("frog"), "{shown:?}");
        pins.forget(0);
        assert!(pins.is_empty());
    }
}
