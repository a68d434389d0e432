//! What it takes to play a run again that another has taken the place of.

use std::collections::BTreeMap;
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::input::Input;
use crate::options::{OptionsError, TapeChoice};

/// How a run was played: with it the same run can be played again, to the last bit.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Recipe {
    /// What made the run that took its place, in words.
    pub before: String,
    /// The seed of all chance.
    pub seed: u64,
    /// Knobs with other values than in the text.
    pub knobs: Vec<(String, String)>,
    /// The tape that was played.
    pub tape: TapeChoice,
    /// The versions of the text, with the first tick each played.
    pub texts: Vec<(u64, Arc<str>)>,
    /// What the player did, by the tick before which it came.
    pub keys: BTreeMap<u64, Vec<Input>>,
    /// The last tick that was played.
    pub head: u64,
}

impl Recipe {
    /// The text that played last.
    pub fn newest(&self) -> Arc<str> {
        self.texts.last().map_or_else(|| "".into(), |(_, text)| text.clone())
    }

    /// The last tick up to which two of them play the same; none if they differ from the beginning.
    pub fn parts_from(&self, other: &Recipe) -> Option<u64> {
        let opens_alike =
            (self.seed, &self.knobs, &self.tape) == (other.seed, &other.knobs, &other.tape);
        if !opens_alike {
            return None;
        }
        let texts =
            first_difference(&self.texts, &other.texts, |a, b| a.0 == b.0 && a.1 == b.1, |t| t.0);
        let keys = |recipe: &Recipe| -> Vec<(u64, Vec<Input>)> {
            recipe.keys.iter().map(|(tick, keys)| (*tick, keys.clone())).collect()
        };
        let keys = first_difference(&keys(self), &keys(other), |a, b| a == b, |k| k.0);
        let first = texts.unwrap_or(u64::MAX).min(keys.unwrap_or(u64::MAX));
        first.checked_sub(1).map(|tick| tick.min(self.head).min(other.head))
    }

    /// About how many bytes it takes.
    pub fn bytes(&self) -> usize {
        let keys: usize = self.keys.values().map(|keys| 80 + keys.len() * 64).sum();
        self.texts.iter().map(|(_, text)| text.len() + 32).sum::<usize>() + keys + self.before.len()
    }
}

/// Why a branch cannot be gone back to.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum BranchError {
    /// There is none of this number, or it was let go of.
    #[error("there is no branch {0}")]
    Unknown(u64),
    /// Its text does not compile: it was kept by another version of the program.
    #[error("a text of branch {0} cannot be read any more")]
    Text(u64),
    /// A knob set from outside, or the tape, does not fit.
    #[error(transparent)]
    Options(#[from] OptionsError),
    /// It took long and was given up; the branch is still kept.
    #[error("given up on the way, at {0:.2} s of the branch")]
    GivenUp(f64),
}

/// The first tick of what stands in one list and not in the other.
fn first_difference<T>(
    a: &[T],
    b: &[T],
    is_same: impl Fn(&T, &T) -> bool,
    tick: impl Fn(&T) -> u64,
) -> Option<u64> {
    let alike = a.iter().zip(b).take_while(|(a, b)| is_same(a, b)).count();
    [a.get(alike), b.get(alike)].into_iter().flatten().map(tick).min()
}

/// What an edit changed, in a few words: the line, if it is one.
pub(crate) fn what_changed(old: &str, new: &str) -> String {
    let (a, b): (Vec<&str>, Vec<&str>) = (old.lines().collect(), new.lines().collect());
    let same = a.iter().zip(&b).take_while(|(a, b)| a == b).count();
    let (a, b) = (&a[same..], &b[same..]);
    let behind = a.iter().rev().zip(b.iter().rev()).take_while(|(a, b)| a == b).count();
    let (gone, come) = (&a[..a.len() - behind], &b[..b.len() - behind]);
    let shown = |line: &str| {
        // Columns that are lined up in the text are not in a list.
        let line = line.split_whitespace().collect::<Vec<_>>().join(" ");
        let cut: String = line.chars().take(32).collect();
        if cut.len() < line.len() { format!("`{cut}…`") } else { format!("`{cut}`") }
    };
    let place = same + 1;
    match (gone, come) {
        ([_], [line]) => format!("{} in line {place}", shown(line)),
        ([], [line]) => format!("{} came in line {place}", shown(line)),
        ([line], []) => format!("{} went from line {place}", shown(line)),
        (_, lines) => {
            format!("an edit of {} lines from line {place} on", lines.len().max(gone.len()))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("a\nb\nc", "a\n  x   y\nc", "`x y` in line 2")]
    #[case("a\nc", "a\nb\nc", "`b` came in line 2")]
    #[case("a\nb\nc", "a\nc", "`b` went from line 2")]
    #[case("a\nb\nc\nd", "a\nx\ny\nd", "an edit of 2 lines from line 2 on")]
    fn an_edit_is_named_by_its_line(#[case] old: &str, #[case] new: &str, #[case] words: &str) {
        assert_eq!(what_changed(old, new), words);
    }

    fn recipe(texts: &[(u64, &str)], keys: &[u64]) -> Recipe {
        Recipe {
            texts: texts.iter().map(|(tick, text)| (*tick, Arc::from(*text))).collect(),
            keys: keys.iter().map(|tick| (*tick, vec![Input::Key("f".into(), true)])).collect(),
            head: 100,
            ..Recipe::default()
        }
    }

    #[rstest]
    #[case::the_same(recipe(&[(0, "a"), (9, "b")], &[5]), Some(100))]
    #[case::another_text(recipe(&[(0, "a"), (9, "c")], &[5]), Some(8))]
    #[case::a_text_more(recipe(&[(0, "a"), (9, "b"), (50, "c")], &[5]), Some(49))]
    #[case::a_key_less(recipe(&[(0, "a"), (9, "b")], &[]), Some(4))]
    #[case::from_the_beginning(recipe(&[(0, "x")], &[5]), None)]
    fn what_two_runs_have_in_common(#[case] other: Recipe, #[case] tick: Option<u64>) {
        let one = recipe(&[(0, "a"), (9, "b")], &[5]);
        assert_eq!((one.parts_from(&other), other.parts_from(&one)), (tick, tick));
    }
}
