//! One palette of our own: roles, never colours, are what views ask for.
//!
//! The colours of text are of the 256 every terminal has; those of kinds and of the arena are mixed, and where a terminal
//! has no more than the 256 the nearest of them stands for each. Without colour the roles differ by weight, underline and
//! reversal, and kinds by filling.

use ratatui::style::{Color, Modifier, Style};
use tickpond_draw::colours::{
    DARK_GROUND, Ground, LIGHT_GROUND, SHARED, blend, colour_of, little_to_much, rgb,
};
use tickpond_draw::grid::indexed;

use super::settings::Theme;

/// Red, green and blue.
pub type Rgb = (u8, u8, u8);

/// What a piece of the screen stands for.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Role {
    Plain,
    Strong,
    Faint,
    Word,
    Number,
    Text,
    Comment,
    Count,
    Selection,
    Chosen,
    Frame,
    FocusedFrame,
    Title,
    Trouble,
    Caution,
    Fine,
    Birth,
    End,
    Ghost,
    Cursor,
    Status,
    Key,
    Controls,
}

/// How many colours the terminal has.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Depth {
    None,
    /// The 256 every terminal has.
    Few,
    /// As many as can be mixed.
    Full,
}

/// Looks up styles.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Palette {
    depth: Depth,
    theme: Theme,
}

/// Fillings that tell kinds apart where there is no colour.
const SHADES: &[char] = &['█', '▒', '▓', '░'];

impl Palette {
    /// The usual palette, with colours or without.
    #[cfg(test)]
    pub fn new(coloured: bool) -> Palette {
        let depth = if coloured { Depth::Full } else { Depth::None };
        Palette { depth, theme: Theme::Dark }
    }

    /// A theme with all colours there are.
    pub fn full(theme: Theme) -> Palette {
        let depth = if theme == Theme::NoColour { Depth::None } else { Depth::Full };
        Palette { depth, theme }
    }

    /// That of a theme, as the terminal can show it; without colours if the person has asked for none.
    pub fn of(theme: Theme) -> Palette {
        let asked = std::env::var_os("NO_COLOR").is_some_and(|v| !v.is_empty());
        // A terminal that says it has no colours gets none.
        let none = std::env::var("TERM").is_ok_and(|term| term == "dumb" || term.ends_with("-m"));
        let all = std::env::var("COLORTERM").is_ok_and(|c| c == "truecolor" || c == "24bit");
        let depth = match (asked || none || theme == Theme::NoColour, all) {
            (true, _) => Depth::None,
            (false, true) => Depth::Full,
            (false, false) => Depth::Few,
        };
        Palette { depth, theme }
    }

    /// The colour of the terminal that is nearest to a mixed one.
    pub fn paint(self, colour: Rgb) -> Color {
        match self.depth {
            Depth::None => Color::Reset,
            Depth::Few => Color::Indexed(nearest(colour)),
            Depth::Full => Color::Rgb(colour.0, colour.1, colour.2),
        }
    }

    /// The ground of the arena; none where the theme has none.
    pub fn ground(self) -> Option<Ground> {
        match self.theme {
            _ if self.depth == Depth::None => None,
            Theme::Dark => Some(DARK_GROUND),
            Theme::Light => Some(LIGHT_GROUND),
            Theme::HighContrast | Theme::NoColour => None,
        }
    }

    /// What is mixed with colours to make them fainter: the ground, or what stands for it where there is none.
    pub fn base(self) -> Rgb {
        match self.theme {
            Theme::Light => rgb(LIGHT_GROUND.deep),
            Theme::Dark => rgb(DARK_GROUND.deep),
            Theme::HighContrast | Theme::NoColour => (0, 0, 0),
        }
    }

    /// The mixed colour of a role; what text has where the role has none of its own.
    pub fn role_rgb(self, role: Role) -> Rgb {
        match self.style(role).fg {
            Some(Color::Indexed(index)) => indexed(index),
            _ if self.theme == Theme::Light => (28, 37, 38),
            _ => (240, 246, 246),
        }
    }

    /// The ground of a part that is set off from the rest.
    pub fn band(self) -> Rgb {
        blend(self.base(), self.role_rgb(Role::Ghost), 0.3)
    }

    /// What stands out on a filling of a colour, at its best: nearly black or nearly white.
    pub fn upon(self, (r, g, b): Rgb) -> Rgb {
        // Relative luminance with a gamma of 2; at 0.18 black and white stand out alike.
        let part = |part: u8| (f64::from(part) / 255.0).powi(2);
        let light = 0.2126 * part(r) + 0.7152 * part(g) + 0.0722 * part(b);
        if light > 0.18 { (8, 12, 16) } else { (250, 253, 253) }
    }

    /// The mixed colour of a kind, by its look or its place among the kinds.
    pub fn kind_rgb(self, look: Option<&str>, kind: usize) -> Rgb {
        let named = colour_of(look, kind);
        rgb(match self.theme {
            Theme::Dark | Theme::NoColour => named.dark,
            Theme::Light => named.light,
            Theme::HighContrast => named.contrast,
        })
    }

    /// The colour of a share of what there can be: ever further from the ground.
    pub fn share_rgb(self, share: f64) -> Rgb {
        match self.theme {
            Theme::Light => blend(little_to_much(1.0 - share), (0, 0, 0), 0.35),
            _ => little_to_much(share),
        }
    }

    /// A colour as the theme has it: deeper on light ground, the strongest of its sort for contrast.
    fn tone(self, colour: u8) -> u8 {
        match self.theme {
            Theme::Dark | Theme::NoColour => colour,
            Theme::Light => match colour {
                37 => 24,
                71 => 28,
                172 => 130,
                167 => 124,
                244 | 245 => 240,
                240 => 248,
                252 | 255 => 235,
                69 => 25,
                70 => 64,
                168 => 125,
                98 => 54,
                137 => 94,
                166 => 130,
                other => other,
            },
            Theme::HighContrast => match colour {
                37 => 51,
                71 | 70 => 46,
                172 | 166 => 226,
                167 => 203,
                240 | 244 | 245 => 252,
                69 => 117,
                168 => 213,
                98 => 183,
                137 => 223,
                other => other,
            },
        }
    }

    pub fn style(self, role: Role) -> Style {
        let (colour, modifier) = look(role);
        let colour = colour.map(|colour| self.tone(colour));
        // Whatever was drawn beneath must not shine through.
        let style = Style::reset().add_modifier(modifier);
        match colour {
            Some(colour) if self.is_coloured() => {
                let style = style.fg(Color::Indexed(colour));
                // On colour reversal is not needed to set a selection off.
                match role {
                    Role::Selection => {
                        let ground = match self.theme {
                            Theme::Light => 153,
                            Theme::HighContrast => 18,
                            _ => 24,
                        };
                        style.bg(Color::Indexed(ground)).remove_modifier(Modifier::REVERSED)
                    }
                    Role::Controls => {
                        style.bg(Color::Indexed(172)).remove_modifier(Modifier::REVERSED)
                    }
                    // A terminal's own dimming would make the chosen colour too dark to read.
                    _ => style.remove_modifier(Modifier::DIM),
                }
            }
            _ => style,
        }
    }

    /// The style of a kind: by the colour of its look, else by its place among the kinds.
    pub fn kind(self, look: Option<&str>, kind: usize) -> Style {
        if !self.is_coloured() {
            return Style::default();
        }
        Style::default().fg(self.paint(self.kind_rgb(look, kind)))
    }

    /// The mixed colour of one of several things that are no kinds, by its place among them.
    pub fn place_rgb(self, place: usize) -> Rgb {
        self.kind_rgb(None, place % SHARED + 1)
    }

    /// Whether colours tell things apart.
    pub fn is_coloured(self) -> bool {
        self.depth != Depth::None
    }

    /// The filling of a kind in areas.
    pub fn shade(self, place: usize) -> char {
        if self.is_coloured() { '█' } else { SHADES[place % SHADES.len()] }
    }
}

/// The nearest of the 256 colours, without the first 16, which every terminal has its own of.
fn nearest((r, g, b): Rgb) -> u8 {
    // The cube's levels are 0, 95, 135, 175, 215, 255; the greys go from 8 in steps of 10.
    let level = |part: u8| match part {
        0..=47 => 0,
        48..=114 => 1,
        _ => (part - 35) / 40,
    };
    let cube = 16 + 36 * level(r) + 6 * level(g) + level(b);
    let mean = (u16::from(r) + u16::from(g) + u16::from(b)) / 3;
    let grey = 232 + (mean.saturating_sub(3) / 10).min(23) as u8;
    let away = |index: u8| {
        let (x, y, z) = indexed(index);
        let part = |a: u8, b: u8| u32::from(a.abs_diff(b)).pow(2);
        part(x, r) + part(y, g) + part(z, b)
    };
    if away(grey) < away(cube) { grey } else { cube }
}

fn look(role: Role) -> (Option<u8>, Modifier) {
    let none = Modifier::empty();
    match role {
        Role::Plain | Role::Text => (if role == Role::Text { Some(71) } else { None }, none),
        Role::Strong | Role::Title => (None, Modifier::BOLD),
        Role::Faint | Role::Comment => (Some(244), Modifier::DIM),
        Role::Word => (Some(37), Modifier::BOLD),
        Role::Number => (Some(172), none),
        Role::Count => (Some(71), none),
        Role::Selection => (Some(255), Modifier::REVERSED),
        Role::Chosen => (None, Modifier::REVERSED),
        Role::Frame => (Some(240), none),
        Role::FocusedFrame => (Some(37), Modifier::BOLD),
        Role::Trouble => (Some(167), Modifier::BOLD),
        Role::Caution => (Some(172), none),
        Role::Fine => (Some(71), none),
        Role::Birth => (Some(71), none),
        Role::End => (Some(167), none),
        Role::Ghost => (Some(245), none),
        Role::Cursor => (None, Modifier::BOLD),
        Role::Status => (None, none),
        Role::Key => (Some(37), Modifier::BOLD),
        Role::Controls => (Some(232), Modifier::REVERSED),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    fn no_other_of_the_256_is_nearer() {
        let away = |index: u8, (r, g, b): Rgb| {
            let (x, y, z) = indexed(index);
            let part = |a: u8, b: u8| u32::from(a.abs_diff(b)).pow(2);
            part(x, r) + part(y, g) + part(z, b)
        };
        for at in 0..500u32 {
            let colour = ((at * 37 % 256) as u8, (at * 101 % 256) as u8, (at * 59 % 256) as u8);
            let found = nearest(colour);
            let best = (16..=255).map(|index| away(index, colour)).min();
            // The cube's nearest and the nearest grey are looked at; a level of the cube is the nearest by its part.
            assert_eq!(Some(away(found, colour)), best, "{colour:?}");
        }
    }

    /// Of WCAG 2.1.
    fn contrast(a: Rgb, b: Rgb) -> f64 {
        let part = |part: u8| {
            let c = f64::from(part) / 255.0;
            if c <= 0.03928 { c / 12.92 } else { ((c + 0.055) / 1.055).powf(2.4) }
        };
        let light = |(r, g, b): Rgb| 0.2126 * part(r) + 0.7152 * part(g) + 0.0722 * part(b);
        let (a, b) = (light(a), light(b));
        (a.max(b) + 0.05) / (a.min(b) + 0.05)
    }

    const ROLES: [Role; 16] = [
        Role::Faint,
        Role::Word,
        Role::Number,
        Role::Text,
        Role::Comment,
        Role::Count,
        Role::FocusedFrame,
        Role::Trouble,
        Role::Caution,
        Role::Fine,
        Role::Birth,
        Role::End,
        Role::Ghost,
        Role::Key,
        Role::Frame,
        Role::Selection,
    ];

    #[rstest]
    #[case::dark(Theme::Dark, &[(0, 0, 0), (16, 20, 24)], 4.5)]
    #[case::light(Theme::Light, &[(255, 255, 255)], 4.5)]
    #[case::high(Theme::HighContrast, &[(0, 0, 0)], 7.0)]
    fn every_role_can_be_read(#[case] theme: Theme, #[case] grounds: &[Rgb], #[case] least: f64) {
        let palette = Palette::full(theme);
        for role in ROLES {
            let style = palette.style(role);
            let Some(Color::Indexed(front)) = style.fg else { panic!("{role:?} has no colour") };
            let grounds = match style.bg {
                Some(Color::Indexed(own)) => vec![indexed(own)],
                _ => grounds.to_vec(),
            };
            // A frame is a line and no text.
            let least = if role == Role::Frame { 2.0 } else { least };
            for ground in grounds {
                let ratio = contrast(indexed(front), ground);
                assert!(ratio >= least, "{role:?} on {ground:?}: {ratio:.2}");
            }
        }
    }

    #[rstest]
    fn what_stands_on_a_filling_can_be_read() {
        let palette = Palette::full(Theme::Dark);
        for kind in 1..=6 {
            let filling = palette.kind_rgb(None, kind);
            assert!(contrast(palette.upon(filling), filling) >= 4.5, "kind {kind}");
        }
    }
}
