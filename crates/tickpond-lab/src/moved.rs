//! Where the lines of one text are in another.

use std::time::Duration;

use similar::{Algorithm, DiffOp, capture_diff_slices_deadline};

/// How long two texts may be compared before what is found so far has to do.
const LONGEST: Duration = Duration::from_millis(200);

/// The lines of an older text in a newer one.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Moved {
    /// By line of the older text, from 0: its line in the newer one; none if it is gone. No list if all are where
    /// they were.
    lines: Option<Vec<Option<u32>>>,
}

impl Moved {
    /// Looks for the lines of one text in another. A changed line is where it was changed. Costs the lines that
    /// differ, and what is left of them after at most a fifth of a second.
    pub fn between(old: &str, new: &str) -> Moved {
        if old == new {
            return Moved::default();
        }
        let (a, b): (Vec<&str>, Vec<&str>) = (old.split('\n').collect(), new.split('\n').collect());
        let until = std::time::Instant::now() + LONGEST;
        let mut lines = vec![None; a.len()];
        for op in capture_diff_slices_deadline(Algorithm::Myers, &a, &b, Some(until)) {
            let (from, to) = (op.old_range(), op.new_range());
            let both = match op {
                DiffOp::Equal { .. } | DiffOp::Replace { .. } => from.len().min(to.len()),
                DiffOp::Delete { .. } | DiffOp::Insert { .. } => 0,
            };
            for at in 0..both {
                lines[from.start + at] = Some((to.start + at) as u32);
            }
        }
        Moved { lines: Some(lines) }
    }

    /// The same and then another move.
    pub fn then(&self, next: &Moved) -> Moved {
        let lines = match (&self.lines, &next.lines) {
            (None, lines) => lines.clone(),
            (Some(lines), _) => Some(lines.iter().map(|line| next.of((*line)?)).collect()),
        };
        Moved { lines }
    }

    /// The line in the newer text, both from 0.
    fn of(&self, line: u32) -> Option<u32> {
        match &self.lines {
            None => Some(line),
            Some(lines) => lines.get(line as usize).copied().flatten(),
        }
    }

    /// The line in the newer text of one of the older, both counted from 1.
    pub fn line(&self, line: u32) -> Option<u32> {
        self.of(line.checked_sub(1)?).map(|line| line + 1)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::same("a\nb\nc", "a\nb\nc", &[Some(1), Some(2), Some(3)])]
    #[case::above("a\nb", "// new\na\nb", &[Some(2), Some(3)])]
    #[case::changed("a\nb 1\nc", "a\nb 2\nc", &[Some(1), Some(2), Some(3)])]
    #[case::gone("a\nb\nc", "a\nc", &[Some(1), None, Some(2)])]
    #[case::beyond("a", "a\nb", &[Some(1), None])]
    fn a_line_is_found_in_the_newer_text(
        #[case] old: &str,
        #[case] new: &str,
        #[case] wanted: &[Option<u32>],
    ) {
        let moved = Moved::between(old, new);
        let found: Vec<Option<u32>> =
            (1..=wanted.len() as u32).map(|line| moved.line(line)).collect();
        let in_old = old.split('\n').count();
        assert_eq!(found[..in_old], wanted[..in_old]);
    }

    #[rstest]
    fn one_move_after_another_is_one_move() {
        let (a, b, c) = ("a\nb\nc", "x\na\nb\nc", "x\nb\nc\ny");
        let both = Moved::between(a, b).then(&Moved::between(b, c));
        assert_eq!([1, 2, 3].map(|line| both.line(line)), [None, Some(2), Some(3)]);
        assert_eq!(Moved::default().then(&Moved::between(a, b)).line(3), Some(4));
    }
}
