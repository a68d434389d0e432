//! One palette of our own: roles, never colours, are what views ask for.
//!
//! The colours are of the 256 every terminal has, middle tones that can be read on dark and light.
//! Without colour the roles differ by weight, underline and reversal.

use ratatui::style::{Color, Modifier, Style};

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
    /// The palette, with colours or without.
    pub fn new(coloured: bool) -> Palette {
        Palette { coloured }
    }

    /// With colours, unless the person has asked for none.
    pub fn from_environment() -> Palette {
        Palette::new(std::env::var_os("NO_COLOR").is_none_or(|v| v.is_empty()))
    }

    pub fn style(self, role: Role) -> Style {
        let (colour, modifier) = look(role);
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
        Style::default().fg(Color::Indexed(*index))
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
