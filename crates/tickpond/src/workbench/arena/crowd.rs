//! Crowds: how many are in a cell, and of which kinds, where single ones cannot be told apart.
//!
//! Everyone is a dot at its place to an eighth of a cell; the number in a cell is its brightness, in steps that the key
//! names. A second kind that is a quarter of a cell or more lends it its colour behind the dots.

use ratatui::buffer::Buffer as Cells;
use ratatui::style::Style;
use tickpond_draw::colours::blend;

use super::canvas::{Canvas, bits_of};
use crate::workbench::palette::{Palette, Rgb};

/// Fewer than these are no crowd, however close they are.
const FEWEST: usize = 40;
/// Fillings for the steps where colours cannot be mixed; the least has dots.
const SHADES: [char; 4] = ['░', '▒', '▓', '█'];

/// Whether so many in so many cells, of so many that there are, are a crowd: more than one or two to a cell, or
/// letters all over.
pub fn is_crowd(seen: usize, cells: usize, of: usize) -> bool {
    seen > FEWEST && (seen * 2 > cells * 3 || seen * 10 > of)
}

/// What is in a cell of the crowd.
#[derive(Clone, Copy, Default)]
struct Inside {
    count: u32,
    /// The most of one kind, and their mean colour; and the second most.
    most: (u32, Rgb),
    second: (u32, Rgb),
}

/// Of one kind in a cell: how many, the sums of their colours' parts, the dots of braille they are in.
#[derive(Clone, Copy, Default)]
struct Own {
    count: u32,
    sums: [u32; 3],
    bits: u8,
}

/// Cells with the dots of braille that are taken in each.
pub type Dots = Vec<(u32, u8)>;

/// The crowd, cell by cell.
pub struct Crowd {
    cells: Vec<Inside>,
    /// Of the kind that is being added.
    own: Vec<Own>,
    /// How many of it there are, and in which cells.
    count: usize,
    touched: Vec<u32>,
}

impl Crowd {
    /// Nobody in so many cells.
    pub fn new(cells: usize) -> Crowd {
        let (own, touched) = (vec![Own::default(); cells], Vec::new());
        Crowd { cells: vec![Inside::default(); cells], own, count: 0, touched }
    }

    /// Adds one of the kind that is being added, by its cell and the number of its dot in it.
    #[inline]
    pub fn add(&mut self, at: usize, dot: u8, (r, g, b): Rgb) {
        let own = &mut self.own[at];
        if own.count == 0 {
            self.touched.push(at as u32);
        }
        self.count += 1;
        own.count += 1;
        own.bits |= bits_of(dot);
        for (sum, part) in own.sums.iter_mut().zip([r, g, b]) {
            *sum += u32::from(part);
        }
    }

    /// All of a kind have been added. If they are a crowd they are part of it, and these are their dots; if not, they
    /// are as if they had never been.
    pub fn end_of_kind(&mut self) -> Option<Dots> {
        let is_crowd =
            is_crowd(std::mem::take(&mut self.count), self.touched.len(), self.cells.len());
        let mut dots = Vec::with_capacity(if is_crowd { self.touched.len() } else { 0 });
        for at in self.touched.drain(..) {
            let Own { count, sums, bits } = std::mem::take(&mut self.own[at as usize]);
            if !is_crowd {
                continue;
            }
            dots.push((at, bits));
            let [r, g, b] = sums.map(|sum| (sum / count.max(1)) as u8);
            let (own, inside) = ((count, (r, g, b)), &mut self.cells[at as usize]);
            inside.count += count;
            if count > inside.most.0 {
                inside.second = inside.most;
                inside.most = own;
            } else if count > inside.second.0 {
                inside.second = own;
            }
        }
        is_crowd.then_some(dots)
    }

    /// Upper ends of the steps of brightness: from one to the most that are in a cell, each as many times more.
    pub fn steps(&self) -> Vec<u32> {
        steps(self.cells.iter().map(|inside| inside.count).max().unwrap_or(0))
    }

    /// Lends each cell its brightness.
    pub fn paint(&self, canvas: &mut Canvas, palette: &Palette) {
        if !palette.is_coloured() {
            return;
        }
        for (at, colour, share) in self.grounds() {
            let ground = canvas.ground(at);
            let beneath = ground.unwrap_or(palette.base());
            *ground = Some(blend(beneath, colour, share));
        }
    }

    /// The cells that anybody of the crowd is in, with the colour that lies behind the dots and how much of it does.
    pub fn grounds(&self) -> Vec<(usize, Rgb, f64)> {
        let steps = self.steps();
        let cells = self.cells.iter().enumerate().filter(|(_, inside)| inside.count > 0);
        let of = |(at, inside): (usize, &Inside)| {
            let step = step_of(inside.count, &steps);
            let behind =
                if inside.second.0 * 4 >= inside.count { inside.second } else { inside.most };
            (at, behind.1, brightness(step, steps.len()))
        };
        cells.map(of).collect()
    }

    /// The colour of the dots of a cell.
    pub fn dots(&self, at: usize) -> Rgb {
        self.cells[at].most.1
    }

    /// Without colours a filling says how many there are.
    pub fn shade(&self, canvas: &Canvas, cells: &mut Cells) {
        let (steps, area) = (self.steps(), canvas.area());
        for (at, inside) in self.cells.iter().enumerate().filter(|(_, inside)| inside.count > 1) {
            let step = step_of(inside.count, &steps);
            let x = area.x + (at % usize::from(area.width)) as u16;
            let y = area.y + (at / usize::from(area.width)) as u16;
            if let Some(cell) = cells.cell_mut((x, y)).filter(|_| step > 0) {
                cell.set_char(SHADES[(step - 1).min(3)]);
            }
        }
    }
}

/// How much of the crowd's colour lies behind a cell of a step.
fn brightness(step: usize, of: usize) -> f64 {
    0.1 + 0.62 * step as f64 / (of.max(2) - 1) as f64
}

/// The step a number falls into.
pub fn step_of(count: u32, steps: &[u32]) -> usize {
    steps.partition_point(|upper| *upper < count).min(steps.len().saturating_sub(1))
}

/// Upper ends of at most five steps up to the most: 1, and then each as many times more as the one before.
pub fn steps(most: u32) -> Vec<u32> {
    let mut steps = vec![1];
    for at in 1..5 {
        let upper = f64::from(most).powf(f64::from(at) / 4.0).round() as u32;
        if steps.last().is_some_and(|last| upper > *last) {
            steps.push(upper);
        }
    }
    steps
}

/// The key to the steps: a swatch and the number it goes up to.
pub fn key(steps: &[u32], colour: Rgb, palette: &Palette) -> Vec<(String, Style)> {
    let plain = Style::default();
    let mut parts = vec![("a cell of the crowd ".to_string(), plain)];
    for (at, upper) in steps.iter().enumerate() {
        let swatch = if palette.is_coloured() {
            let ground = blend(palette.base(), colour, brightness(at, steps.len()));
            ("⣤⣤".to_string(), plain.fg(palette.paint(colour)).bg(palette.paint(ground)))
        } else {
            let sign = if at == 0 { '⠄' } else { SHADES[(at - 1).min(3)] };
            (sign.to_string().repeat(2), plain)
        };
        parts.push(swatch);
        let least = if at == 0 { 1 } else { steps[at - 1] + 1 };
        let told = if least == *upper { format!("{upper} ") } else { format!("{least}-{upper} ") };
        parts.push((told, plain));
    }
    parts
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(1, &[1])]
    #[case(2, &[1, 2])]
    #[case(16, &[1, 2, 4, 8, 16])]
    #[case(10_000, &[1, 10, 100, 1000, 10_000])]
    fn steps_go_up_to_the_most(#[case] most: u32, #[case] wanted: &[u32]) {
        assert_eq!(steps(most), wanted);
        assert_eq!(step_of(most, wanted), wanted.len() - 1);
        assert_eq!(step_of(1, wanted), 0);
    }

    #[rstest]
    #[case::a_handful_on_one_cell(40, 1, 1000, false)]
    #[case::a_heap(41, 20, 1000, true)]
    #[case::few_and_far_between(100, 90, 1000, false)]
    #[case::letters_all_over(170, 169, 1000, true)]
    fn a_crowd_is_told_from_a_few(
        #[case] seen: usize,
        #[case] cells: usize,
        #[case] of: usize,
        #[case] wanted: bool,
    ) {
        assert_eq!(is_crowd(seen, cells, of), wanted);
    }

    #[rstest]
    fn the_kinds_of_a_cell_are_those_with_the_most() {
        let mut crowd = Crowd::new(2);
        for (count, colour) in [(82, (10, 0, 0)), (89, (0, 20, 0)), (84, (0, 0, 30))] {
            (0..count).for_each(|_| crowd.add(1, 2, colour));
            assert_eq!(crowd.end_of_kind(), Some(vec![(1, 0x02)]));
        }
        let inside = crowd.cells[1];
        assert_eq!((inside.count, inside.most, inside.second.0), (255, (89, (0, 20, 0)), 84));
        // A few are no part of it, though they lie where it is.
        (0..40).for_each(|_| crowd.add(1, 3, (1, 1, 1)));
        assert_eq!((crowd.end_of_kind(), crowd.cells[1].count), (None, 255));
        assert_eq!(crowd.cells[0].count, 0);
    }
}
