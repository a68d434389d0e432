//! What the colours in the arena stand for.

use tickpond_lang::program::{Program, Ty};

/// What the colours in the arena stand for.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Tint {
    #[default]
    Kind,
    /// The state of each one's first track.
    State,
    Health,
    Age,
    /// A number or a truth by its name, of all kinds that have one.
    Variable(String),
}

/// What one's colour is.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub enum Tone {
    /// That of its kind.
    #[default]
    Own,
    /// That of a place in a list of names.
    Place(u16),
    /// A share of what there can be, `0.0..=1.0`.
    Share(f32),
    /// It has nothing of the sort.
    Nothing,
}

/// What tones mean.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct TintKey {
    pub tint: Tint,
    /// Names with their places, of those that are to be seen.
    pub names: Vec<(u16, String)>,
    /// What no share and all of it stand for.
    pub range: Option<(String, String)>,
}

impl Tint {
    /// What it is about, in words.
    pub fn words(&self) -> &str {
        match self {
            Tint::Kind => "kind",
            Tint::State => "state",
            Tint::Health => "health",
            Tint::Age => "age",
            Tint::Variable(name) => name,
        }
    }

    /// All there is to choose from in a pond.
    pub fn choices(program: &Program) -> Vec<Tint> {
        let mut choices = vec![Tint::Kind];
        let kinds = || program.kinds.iter().skip(1);
        if kinds().any(|kind| !kind.tracks.is_empty()) {
            choices.push(Tint::State);
        }
        if kinds().any(|kind| kind.health.is_some()) {
            choices.push(Tint::Health);
        }
        choices.push(Tint::Age);
        let vars = kinds().flat_map(|kind| &kind.vars);
        for var in vars.filter(|var| matches!(var.ty, Ty::Num(_) | Ty::Truth)) {
            let choice = Tint::Variable(program.var_names[var.name.index()].clone());
            if !choices.contains(&choice) {
                choices.push(choice);
            }
        }
        choices
    }

    /// The one after this, around.
    pub fn next(&self, choices: &[Tint]) -> Tint {
        let at = choices.iter().position(|choice| choice == self);
        let next = at.map_or(0, |at| (at + 1) % choices.len().max(1));
        choices.get(next).cloned().unwrap_or_default()
    }
}
