//! Stacked counts in cells of a terminal: eighths of a cell, and of two colours in each.

/// What a part of a cell stands for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Layer {
    /// So many of a kind lived all through the column, by its place.
    Kind(usize),
    /// Up to here at most: more than lived all through it.
    Span,
    Empty,
}

/// A cell: so many eighths of one layer from the bottom, above them another. The same twice, if there is one alone.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Cell {
    pub low: Layer,
    pub eighths: u64,
    pub high: Layer,
}

/// How high each kind of a column is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Heights {
    /// Of each kind, in eighths.
    pub kinds: Vec<u64>,
    /// Whether it is larger than it should be: it would not be seen.
    pub enlarged: Vec<bool>,
}

/// The heights of a column's counts where `top` fills so many eighths: each right to an eighth, but whoever is there has one
/// as long as there are as many. What is too much is taken from the largest, so that all together stay as high as they are.
pub fn heights(counts: &[u32], top: u32, eighths: u64) -> Heights {
    let mut sum = 0;
    let mut reached = 0;
    let mut kinds: Vec<u64> = Vec::with_capacity(counts.len());
    for count in counts {
        sum += u64::from(*count);
        let upto = scaled(sum, top, eighths);
        kinds.push(upto - reached);
        reached = upto;
    }
    let mut enlarged = vec![false; counts.len()];
    let mut free =
        eighths.saturating_sub(kinds.iter().filter(|height| **height > 0).count() as u64);
    for (at, count) in counts.iter().enumerate() {
        if *count == 0 || kinds[at] > 0 || free == 0 {
            continue;
        }
        free -= 1;
        (kinds[at], enlarged[at]) = (1, true);
        // The last of the largest gives it, if it has one to spare.
        if let Some(largest) = kinds.iter_mut().max().filter(|height| **height > 1) {
            *largest -= 1;
        }
    }
    Heights { kinds, enlarged }
}

fn scaled(count: u64, top: u32, eighths: u64) -> u64 {
    (count * eighths * 2 / u64::from(top.max(1))).div_ceil(2).min(eighths)
}

/// The cells of a column from the bottom up: the counts stacked, and above them how far the most that lived at once
/// goes, where `top` fills all rows.
///
/// The height of all together is right to an eighth, and so is each layer's where no more than two meet in a cell, but
/// for what is [enlarged](Heights). Where more do, the highest of them keeps its height, and the others take turns from column
/// to column, each as often as it is high: over eight columns their heights are right again. What is empty keeps its part.
pub fn cells(column: usize, counts: &[u32], most: u32, top: u32, rows: u16) -> Vec<Cell> {
    let eighths = u64::from(rows) * 8;
    let mut layers: Vec<(Layer, u64)> = Vec::new();
    let mut reached = 0;
    let kinds = heights(counts, top, eighths).kinds;
    for (kind, height) in kinds.into_iter().enumerate().filter(|(_, height)| *height > 0) {
        layers.push((Layer::Kind(kind), height));
        reached += height;
    }
    // Somebody there is never nothing.
    let sum: u64 = counts.iter().map(|count| u64::from(*count)).sum();
    let most = u64::from(most).max(sum);
    for (layer, upto) in [
        (Layer::Span, scaled(most, top, eighths).max(u64::from(most > 0))),
        (Layer::Empty, eighths),
    ] {
        if upto > reached {
            layers.push((layer, upto - reached));
            reached = upto;
        }
    }
    let mut layers = layers.into_iter();
    let mut rest = layers.next();
    (0..rows)
        .map(|_| {
            let (mut room, mut parts) = (8, Vec::new());
            while let Some((layer, height)) = rest {
                let taken = height.min(room);
                parts.push((layer, taken));
                room -= taken;
                rest = if height > taken { Some((layer, height - taken)) } else { layers.next() };
                if room == 0 {
                    break;
                }
            }
            fitted(&parts, column)
        })
        .collect()
}

/// The layers of a cell; of more than two the one whose turn it is.
fn fitted(parts: &[(Layer, u64)], column: usize) -> Cell {
    match parts {
        [] => Cell { low: Layer::Empty, eighths: 8, high: Layer::Empty },
        [(only, _)] => Cell { low: *only, eighths: 8, high: *only },
        [(low, eighths), (high, _)] => Cell { low: *low, eighths: *eighths, high: *high },
        [below @ .., (Layer::Empty, empty)] => {
            // The height of all together is what the eye follows.
            Cell { low: whose_turn(below, column), eighths: 8 - empty, high: Layer::Empty }
        }
        _ => {
            // The highest keeps its height; the others take turns beside it, on the side they are on.
            let (mut largest, mut height) = (0, 0);
            for (at, (_, own)) in parts.iter().enumerate() {
                if *own > height {
                    (largest, height) = (at, *own);
                }
            }
            let mut others = parts.to_vec();
            let (layer, _) = others.remove(largest);
            let turn = whose_turn(&others, column);
            let is_below = parts[..largest].iter().any(|part| part.0 == turn);
            match is_below {
                true => Cell { low: turn, eighths: 8 - height, high: layer },
                false => Cell { low: layer, eighths: height, high: turn },
            }
        }
    }
}

/// The layer at a height that goes up and down with the column, so that each comes up as often as it is high.
fn whose_turn(parts: &[(Layer, u64)], column: usize) -> Layer {
    let all: u64 = parts.iter().map(|part| part.1).sum();
    // Spread over the columns, and so that in as many as there are eighths each comes up once.
    let step =
        (1..all).filter(|step| gcd(*step, all) == 1).min_by_key(|step| step.abs_diff(all * 5 / 8));
    let at = column as u64 % all.max(1) * step.unwrap_or(1) % all.max(1);
    let mut sum = 0;
    let found = parts.iter().find(|part| {
        sum += part.1;
        at < sum
    });
    found.map_or(Layer::Empty, |part| part.0)
}

fn gcd(a: u64, b: u64) -> u64 {
    if b == 0 { a } else { gcd(b, a % b) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    /// How many eighths of a layer the cells show.
    fn height(cells: &[Cell], layer: Layer) -> u64 {
        let of = |cell: &Cell| {
            let low = if cell.low == layer { cell.eighths } else { 0 };
            low + if cell.high == layer { 8 - cell.eighths } else { 0 }
        };
        cells.iter().map(of).sum()
    }

    #[rstest]
    fn three_of_a_kind_each_are_seen_each() {
        let cells = cells(0, &[1, 1, 1], 3, 3, 5);
        for kind in 0..3 {
            assert!((13..=14).contains(&height(&cells, Layer::Kind(kind))), "{cells:?}");
        }
    }

    #[rstest]
    fn nine_of_a_hundred_are_nine_of_a_hundred() {
        let cells = cells(0, &[91, 9], 100, 100, 5);
        assert_eq!(height(&cells, Layer::Kind(1)), 4, "of forty");
    }

    #[rstest]
    fn what_was_not_there_all_the_time_is_the_span() {
        let cells = cells(0, &[2, 0], 4, 4, 4);
        assert_eq!([height(&cells, Layer::Kind(0)), height(&cells, Layer::Span)], [16, 16]);
    }

    #[rstest]
    fn where_many_meet_each_is_as_high_as_it_is_over_some_columns() {
        let (counts, top) = ([1u32, 1, 10, 1], 13u32);
        for rows in 1..9u16 {
            let columns = 8 * 7 * 5 * 3;
            for (kind, count) in counts.iter().enumerate() {
                let all: u64 = (0..columns)
                    .map(|column| height(&cells(column, &counts, 13, top, rows), Layer::Kind(kind)))
                    .sum();
                let seen = all as f64 / columns as f64;
                let right = f64::from(*count) * f64::from(rows) * 8.0 / f64::from(top);
                let drawn = heights(&counts, top, u64::from(rows) * 8);
                let thin = drawn.enlarged.iter().filter(|enlarged| **enlarged).count() as f64;
                assert!(
                    seen <= right + 1.0 && seen >= right - 1.0 - thin,
                    "kind {kind}: {seen} for {right} in {rows} rows"
                );
                assert!(all > 0, "nobody is left out");
            }
        }
    }

    /// In how many eighths a kind is seen, over as many columns as make the turns come out even.
    fn seen(counts: &[u32], top: u32, rows: u16, kind: usize) -> u64 {
        let columns = 8 * 7 * 5 * 3;
        let of = |column| {
            height(&cells(column, counts, counts.iter().sum(), top, rows), Layer::Kind(kind))
        };
        (0..columns).map(of).sum()
    }

    #[rstest]
    fn two_frogs_among_a_thousand_midges_are_seen_and_told_to_be_larger_than_they_are() {
        let counts = [900, 240, 2, 2];
        let drawn = heights(&counts, 1144, 40);
        // 900 / 1144 * 40 = 31.5, 1140 / 1144 * 40 = 39.9; the largest gives two.
        assert_eq!(drawn.kinds, [29, 9, 1, 1]);
        assert_eq!(drawn.enlarged, [false, false, true, true]);
        for kind in 2..4 {
            assert!(seen(&counts, 1144, 5, kind) > 0);
        }
        assert_eq!(heights(&[900, 0, 0], 1144, 40).enlarged, [false; 3], "who is not there is not");
    }

    #[rstest]
    fn where_there_is_no_eighth_to_give_nobody_gets_one() {
        let drawn = heights(&[1; 12], 9000, 8);
        assert_eq!(drawn.kinds.iter().sum::<u64>(), 8);
        assert_eq!(drawn.enlarged.iter().filter(|enlarged| **enlarged).count(), 8);
    }

    proptest! {
        /// Whoever is there is seen, and all together are as high as they are.
        #[test]
        fn nobody_who_is_there_is_hidden(
            counts in prop::collection::vec(prop_oneof![0u32..4, 0u32..3000], 0..9),
            spare in 0u32..300,
            rows in 2u16..9,
        ) {
            let sum: u32 = counts.iter().sum();
            let (top, eighths) = ((sum + spare).max(1), u64::from(rows) * 8);
            let drawn = heights(&counts, top, eighths);
            let alive = counts.iter().filter(|count| **count > 0).count() as u64;
            let all: u64 = drawn.kinds.iter().sum();
            prop_assert!(all == scaled(u64::from(sum), top, eighths) || all == alive);
            let thin = drawn.enlarged.iter().filter(|enlarged| **enlarged).count() as f64;
            for (kind, count) in counts.iter().enumerate() {
                let right = f64::from(*count) * eighths as f64 / f64::from(top);
                let height = drawn.kinds[kind] as f64;
                prop_assert_eq!(height > 0.0, *count > 0);
                prop_assert!(height <= right + 1.0 && height >= right - 1.0 - thin, "{} {}", height, right);
                prop_assert_eq!(drawn.enlarged[kind], *count > 0 && height > right && right < 1.0 && {
                    let before: u32 = counts[..kind].iter().sum();
                    scaled(u64::from(before), top, eighths) == scaled(u64::from(before + count), top, eighths)
                });
                prop_assert!(*count == 0 || seen(&counts, top, rows, kind) > 0);
            }
        }

        /// The heights read back from the cells are those of the counts, to within an eighth.
        #[test]
        fn heights_can_be_read_back(
            counts in prop::collection::vec(0u32..300, 0..7),
            more in 0u32..100,
            spare in 0u32..300,
            rows in 1u16..9,
        ) {
            let sum: u32 = counts.iter().sum();
            let (most, top) = (sum + more, (sum + more + spare).max(1));
            let cells = cells(0, &counts, most, top, rows);
            prop_assert_eq!(cells.len(), usize::from(rows));
            let right = |count: u32| f64::from(count) * f64::from(rows) * 8.0 / f64::from(top);
            let all = u64::from(rows) * 8 - height(&cells, Layer::Empty);
            let alive = counts.iter().filter(|count| **count > 0).count() as u64;
            prop_assert!((all as f64 - right(most)).abs() <= 1.0 || all == alive, "{} for {}", all, right(most));
            // Where no more than two layers end in a cell each can be read.
            let mut ends = vec![0.0];
            for count in counts.iter().copied().chain([more]).filter(|count| *count > 0) {
                ends.push(ends[ends.len() - 1] + right(count));
            }
            let in_cell = |row: u16| {
                let inside = |end: &&f64| {
                    **end > f64::from(row) * 8.0 - 1.0 && **end < f64::from(row + 1) * 8.0 + 1.0
                };
                ends.iter().skip(1).filter(inside).count()
            };
            let drawn = heights(&counts, top, u64::from(rows) * 8);
            let as_they_are = !drawn.enlarged.contains(&true);
            if as_they_are && (0..rows).all(|row| in_cell(row) <= 1) {
                for (kind, count) in counts.iter().enumerate() {
                    let seen = height(&cells, Layer::Kind(kind)) as f64;
                    prop_assert!((seen - right(*count)).abs() <= 1.0, "{} for {}", seen, count);
                }
            }
        }
    }
}
