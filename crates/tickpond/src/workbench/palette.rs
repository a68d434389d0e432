//! One palette of our own: roles, never colours, are what views ask for.
//!
//! The colours are of the 256 every terminal has, middle tones that can be read on dark and light.
//! Without colour the roles differ by weight, underline and reversal.

use ratatui::style::{Color, Modifier, Style};

use super::settings::Theme;

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

/// Looks up styles.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Palette {
    coloured: bool,
    theme: Theme,
}

/// Colours of kinds by the name a look can give, then those for kinds that give none.
const KIND_COLOURS: &[(&str, u8)] = &[
    ("teal", 37),
    ("blue", 69),
    ("lime", 70),
    ("rose", 168),
    ("amber", 172),
    ("violet", 98),
    ("sand", 137),
    ("orange", 166),
    ("grey", 245),
    ("white", 252),
];

/// Fillings that tell kinds apart where there is no colour.
const SHADES: &[char] = &['█', '▒', '▓', '░'];

impl Palette {
    /// The usual palette, with colours or without.
    #[cfg(test)]
    pub fn new(coloured: bool) -> Palette {
        Palette { coloured, theme: Theme::Dark }
    }

    /// That of a theme; without colours if the person has asked for none.
    pub fn of(theme: Theme) -> Palette {
        let asked = std::env::var_os("NO_COLOR").is_some_and(|v| !v.is_empty());
        // A terminal that says it has no colours gets none.
        let none = std::env::var("TERM").is_ok_and(|term| term == "dumb" || term.ends_with("-m"));
        Palette { coloured: !asked && !none && theme != Theme::NoColour, theme }
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
            Some(colour) if self.coloured => {
                let style = style.fg(Color::Indexed(colour));
                // On colour reversal is not needed to set a selection off.
                match role {
                    Role::Selection => {
                        style.bg(Color::Indexed(24)).remove_modifier(Modifier::REVERSED)
                    }
                    Role::Controls => {
                        style.bg(Color::Indexed(172)).remove_modifier(Modifier::REVERSED)
                    }
                    _ => style,
                }
            }
            _ => style,
        }
    }

    /// The style of a kind: by the colour of its look, else by its place among the kinds.
    pub fn kind(self, colour: Option<&str>, place: usize) -> Style {
        if !self.coloured {
            return Style::default();
        }
        let named = colour.and_then(|c| KIND_COLOURS.iter().find(|(name, _)| *name == c));
        let (_, index) = named.unwrap_or(&KIND_COLOURS[place % KIND_COLOURS.len()]);
        Style::default().fg(Color::Indexed(self.tone(*index)))
    }

    /// Whether colours tell things apart.
    pub fn is_coloured(self) -> bool {
        self.coloured
    }

    /// The filling of a kind in areas.
    pub fn shade(self, place: usize) -> char {
        if self.coloured { '█' } else { SHADES[place % SHADES.len()] }
    }
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
