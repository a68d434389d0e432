//! The colours a look can name, as they are on each ground: one table for screens and paper.
//!
//! They were searched for by their least distance to each other, as people with any of the three common colour
//! blindnesses see them, and by their contrast with the ground; the tests hold both.

/// A colour on each ground.
#[derive(Clone, Copy, Debug)]
pub struct Named {
    /// As the language knows it.
    pub name: &'static str,
    /// On dark ground.
    pub dark: &'static str,
    /// On light ground and on paper.
    pub light: &'static str,
    /// On black ground, for the strongest contrast.
    pub contrast: &'static str,
}

/// The ground of the arena: where it is deep, and along its sides.
#[derive(Clone, Copy, Debug)]
pub struct Ground {
    /// In the middle.
    pub deep: &'static str,
    /// Along the sides.
    pub shallow: &'static str,
}

/// Colours in the order in which kinds without one of their own take them.
pub const COLOURS: [Named; 10] = [
    Named { name: "teal", dark: "#0098ab", light: "#157173", contrast: "#6bd2bb" },
    Named { name: "amber", dark: "#f1b206", light: "#7c6708", contrast: "#f7b355" },
    Named { name: "rose", dark: "#f53e74", light: "#78003f", contrast: "#d4789e" },
    Named { name: "blue", dark: "#86b5f8", light: "#1f3272", contrast: "#6d91fb" },
    Named { name: "violet", dark: "#a672fe", light: "#6f2a97", contrast: "#bcaffe" },
    Named { name: "lime", dark: "#a6ff89", light: "#215b11", contrast: "#a8fd96" },
    Named { name: "sand", dark: "#d6cdb3", light: "#48340e", contrast: "#bda77f" },
    Named { name: "grey", dark: "#aeaeae", light: "#4f5656", contrast: "#dee1e1" },
    Named { name: "white", dark: "#f1f6f6", light: "#1d2020", contrast: "#f8fdfd" },
    Named { name: "orange", dark: "#e97e24", light: "#982c00", contrast: "#fd6423" },
];

/// How many of the colours kinds without one of their own share: the ones farthest from each other.
pub const SHARED: usize = 6;

/// The water by night.
pub const DARK_GROUND: Ground = Ground { deep: "#0b1a21", shallow: "#10272f" };
/// The water by day.
pub const LIGHT_GROUND: Ground = Ground { deep: "#dcebed", shallow: "#edf5f3" };

/// From little to much: ever lighter, so that it can be read in grey and by everybody.
pub const LITTLE_TO_MUCH: [&str; 5] = ["#3f5fa8", "#2f8f9d", "#63b56f", "#d8c23a", "#fff4b8"];

/// The colour of a kind: that of its look, else the one whose turn it is. Kinds are counted from 1.
pub fn colour_of(look: Option<&str>, kind: usize) -> Named {
    let named = look.and_then(|look| COLOURS.iter().find(|named| named.name == look));
    *named.unwrap_or(&COLOURS[kind.saturating_sub(1) % SHARED])
}

/// Red, green and blue of a colour as it is written in the tables: `#rrggbb`.
pub fn rgb(hex: &str) -> (u8, u8, u8) {
    let part = |at: usize| hex.get(at..at + 2).and_then(|two| u8::from_str_radix(two, 16).ok());
    (part(1).unwrap_or(0), part(3).unwrap_or(0), part(5).unwrap_or(0))
}

/// A colour on the way from one to another, `share` of the way.
pub fn blend(from: (u8, u8, u8), to: (u8, u8, u8), share: f64) -> (u8, u8, u8) {
    let share = share.clamp(0.0, 1.0);
    let mix = |a: u8, b: u8| (f64::from(a) + (f64::from(b) - f64::from(a)) * share).round() as u8;
    (mix(from.0, to.0), mix(from.1, to.1), mix(from.2, to.2))
}

/// The colour of a share of what there can be, `0.0..=1.0`.
pub fn little_to_much(share: f64) -> (u8, u8, u8) {
    let steps = LITTLE_TO_MUCH.len() - 1;
    let at = share.clamp(0.0, 1.0) * steps as f64;
    let low = (at as usize).min(steps - 1);
    blend(rgb(LITTLE_TO_MUCH[low]), rgb(LITTLE_TO_MUCH[low + 1]), at - low as f64)
}

#[cfg(test)]
mod tests {
    use palette::color_difference::Wcag21RelativeContrast;
    use palette::{IntoColor, LinSrgb, Oklab, Srgb};
    use rstest::rstest;

    use super::*;

    fn srgb(hex: &str) -> Srgb<f64> {
        let (r, g, b) = rgb(hex);
        Srgb::new(r, g, b).into_format()
    }

    /// Machado, Oliveira and Fernandes 2009, severity 1.0: protanopia, deuteranopia, tritanopia.
    const SEEN: [[[f64; 3]; 3]; 4] = [
        [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]],
        [
            [0.152286, 1.052583, -0.204868],
            [0.114503, 0.786281, 0.099216],
            [-0.003882, -0.048116, 1.051998],
        ],
        [
            [0.367322, 0.860646, -0.227968],
            [0.280085, 0.672501, 0.047413],
            [-0.011820, 0.042940, 0.968881],
        ],
        [
            [1.255528, -0.076749, -0.178779],
            [-0.078411, 0.930809, 0.147602],
            [0.004733, 0.691367, 0.303900],
        ],
    ];

    fn seen(hex: &str, by: &[[f64; 3]; 3]) -> Oklab<f64> {
        let c: LinSrgb<f64> = srgb(hex).into_linear();
        let [r, g, b] =
            by.map(|row| (row[0] * c.red + row[1] * c.green + row[2] * c.blue).clamp(0.0, 1.0));
        LinSrgb::new(r, g, b).into_color()
    }

    fn least_distance(colours: &[&str]) -> f64 {
        let mut least = f64::INFINITY;
        for by in &SEEN {
            let seen: Vec<Oklab<f64>> = colours.iter().map(|c| seen(c, by)).collect();
            for (at, a) in seen.iter().enumerate() {
                for b in &seen[..at] {
                    let d = (a.l - b.l).powi(2) + (a.a - b.a).powi(2) + (a.b - b.b).powi(2);
                    least = least.min(d.sqrt());
                }
            }
        }
        least
    }

    #[rstest]
    #[case::dark(|n: &Named| n.dark, &["#000000", "#101418", DARK_GROUND.deep, DARK_GROUND.shallow], 4.0)]
    #[case::light(|n: &Named| n.light, &["#ffffff", LIGHT_GROUND.deep, LIGHT_GROUND.shallow], 4.0)]
    #[case::contrast(|n: &Named| n.contrast, &["#000000"], 6.9)]
    fn every_colour_stands_out_from_its_ground(
        #[case] of: fn(&Named) -> &'static str,
        #[case] grounds: &[&str],
        #[case] least: f64,
    ) {
        for named in &COLOURS {
            for ground in grounds {
                let ratio = srgb(of(named)).relative_contrast(srgb(ground));
                assert!(ratio >= least, "{} on {ground}: {ratio:.2}", named.name);
            }
        }
    }

    #[rstest]
    #[case::dark(|n: &Named| n.dark, 0.12, 0.09)]
    #[case::light(|n: &Named| n.light, 0.065, 0.05)]
    #[case::contrast(|n: &Named| n.contrast, 0.1, 0.08)]
    fn colours_stay_apart_for_every_eye(
        #[case] of: fn(&Named) -> &'static str,
        #[case] shared: f64,
        #[case] all: f64,
    ) {
        let colours: Vec<&str> = COLOURS.iter().map(of).collect();
        let least = least_distance(&colours[..SHARED]);
        assert!(least >= shared, "of those that are shared: {least:.3}");
        let least = least_distance(&colours);
        assert!(least >= all, "of all: {least:.3}");
    }

    #[rstest]
    fn little_to_much_grows_ever_lighter() {
        let lightness = |at: usize| {
            let (r, g, b) = little_to_much(at as f64 / 20.0);
            let lab: Oklab<f64> = Srgb::new(r, g, b).into_format::<f64>().into_color();
            lab.l
        };
        for at in 1..=20 {
            assert!(lightness(at) > lightness(at - 1), "step {at}");
        }
    }

    #[rstest]
    fn the_language_knows_the_same_colours() {
        let names: Vec<&str> = COLOURS.iter().map(|named| named.name).collect();
        assert_eq!(names, tickpond_lang::words::COLOURS);
    }
}
