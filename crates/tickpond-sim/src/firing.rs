//! Firings of a handler that bring values along, and the rounds they go in.

use smallvec::SmallVec;

use crate::code::op::Reg;

/// One firing of a handler.
#[derive(Clone, Debug, Default)]
pub(crate) struct Firing {
    /// The row.
    pub row: u32,
    /// How many were born before the other party.
    pub other: u64,
    /// What the other party brings into its chance.
    pub other_luck: u64,
    /// Values of its event, in registers.
    pub words: SmallVec<[(Reg, u64); 1]>,
    /// The velocity a replacement keeps, if it is not the one at the end.
    pub kept_velocity: Option<(f64, f64)>,
}

/// The first firing of each row, the second, and so on; each round in the order of rows. The cost grows
/// with the firings and, if they come in no order, with the rows.
pub(crate) fn rounds(firings: &[Firing], rows: usize) -> Vec<Vec<&Firing>> {
    let mut rounds: Vec<Vec<&Firing>> = Vec::new();
    let mut file = |nth: usize, firing| {
        if rounds.len() <= nth {
            rounds.push(Vec::with_capacity(firings.len() >> nth.min(8)));
        }
        rounds[nth].push(firing);
    };
    if firings.is_sorted_by_key(|f| f.row) {
        let mut last = (u32::MAX, 0);
        for firing in firings {
            last = if last.0 == firing.row { (last.0, last.1 + 1) } else { (firing.row, 0) };
            file(last.1, firing);
        }
        return rounds;
    }
    // Sorted by counting: first how many each row has, then where each row's begin.
    let mut begins = vec![0u32; rows + 1];
    firings.iter().for_each(|f| begins[f.row as usize + 1] += 1);
    for row in 0..rows {
        begins[row + 1] += begins[row];
    }
    let mut order = vec![0u32; firings.len()];
    let mut next = begins.clone();
    for (at, firing) in firings.iter().enumerate() {
        let place = &mut next[firing.row as usize];
        order[*place as usize] = at as u32;
        *place += 1;
    }
    for at in &order {
        let firing = &firings[*at as usize];
        let row = firing.row as usize;
        let nth = next[row] - begins[row + 1];
        next[row] += 1;
        file(nth as usize, firing);
    }
    rounds
}
