//! Who plays, and on what ground: all that a view needs to know of a pond beside what happened in it.
//!
//! Events and records speak of kinds by number; a cast knows their names and looks. It holds no rules, so a
//! recording that no program of the language made can have one, too.

use std::sync::Arc;

use tickpond_lang::program::{
    Arena, Body, Event, KindId, Look, Mount, POND, Program, Role, Spots, View, Zone,
};
use tickpond_sim::Who;

/// Who plays, and on what ground.
#[derive(Clone, Debug)]
pub struct Cast {
    /// The pond's title.
    pub title: String,
    /// Ticks per second.
    pub rate: f64,
    /// The arena.
    pub arena: Arena,
    /// What the pond's view shows, if it has one.
    pub view: Option<View>,
    /// Named stretches of the arena.
    pub zones: Vec<Zone>,
    /// Groups of named places.
    pub spots: Vec<Spots>,
    /// The pond first, then kinds and spawners by their numbers.
    pub kinds: Vec<Member>,
    /// What the player can do.
    pub inputs: Vec<Control>,
    /// The names of all states, each once, in the order of the alphabet: a state has the same place, and so the same
    /// colour, everywhere.
    pub states: Vec<String>,
}

/// A kind as it is seen.
#[derive(Clone, Debug)]
pub struct Member {
    /// Its name.
    pub name: String,
    /// Whether it makes others.
    pub is_spawner: bool,
    /// How it is drawn.
    pub look: Look,
    /// Its body.
    pub body: Body,
    /// Its mounts.
    pub mounts: Vec<Mount>,
}

/// Something the player can do.
#[derive(Clone, Debug)]
pub struct Control {
    /// Its name.
    pub name: String,
    /// The key's name as written; empty for a pointer.
    pub key: String,
    /// Whether it is a pointer: a place, not a key.
    pub pointer: bool,
    /// Whether something happens for as long as it is held.
    pub holds: bool,
}

impl Cast {
    /// The cast of a program.
    pub fn of(program: &Program) -> Cast {
        let kinds = program.kinds.iter().map(|kind| Member {
            name: kind.name.clone(),
            is_spawner: matches!(kind.role, Role::Spawner(_)),
            look: kind.look.clone(),
            body: kind.body,
            mounts: kind.mounts.clone(),
        });
        let handlers = || program.kinds.iter().flat_map(|kind| &kind.handlers);
        let inputs = program.inputs.iter().enumerate().map(|(at, input)| Control {
            name: input.name.clone(),
            key: input.key.clone(),
            pointer: input.pointer,
            holds: handlers()
                .any(|h| matches!(&h.event, Event::WhileHeld(id, _) if id.index() == at)),
        });
        Cast {
            title: program.title.clone(),
            rate: program.rate,
            arena: program.arena.clone(),
            view: program.view,
            zones: program.zones.clone(),
            spots: program.spots.clone(),
            kinds: kinds.collect(),
            inputs: inputs.collect(),
            states: states_of(program),
        }
    }

    /// The place of a state among all; 0 for one it does not know.
    pub fn state_place(&self, name: &str) -> usize {
        self.states.binary_search_by(|known| known.as_str().cmp(name)).unwrap_or(0)
    }

    /// The same, to be shared.
    pub fn shared(program: &Program) -> Arc<Cast> {
        Arc::new(Cast::of(program))
    }

    /// The kind with this name; the pond has none.
    pub fn kind_named(&self, name: &str) -> Option<KindId> {
        let at = self.kinds.iter().skip(1).position(|kind| kind.name == name)?;
        Some(KindId(at as u32 + 1))
    }

    /// The kinds that are no spawners and not the pond.
    pub fn entity_kinds(&self) -> impl Iterator<Item = (KindId, &Member)> + '_ {
        let kinds = self.kinds.iter().enumerate().skip(1).filter(|(_, kind)| !kind.is_spawner);
        kinds.map(|(at, kind)| (KindId(at as u32), kind))
    }

    /// An entity's name as people read it: `midge#12`, or `pond`.
    pub fn name_of(&self, who: Who) -> String {
        match (who.kind, self.kinds.get(who.kind.index())) {
            (POND, _) => "pond".into(),
            (_, Some(kind)) => format!("{}#{}", kind.name, who.number),
            (_, None) => format!("#{}", who.number),
        }
    }
}

fn states_of(program: &Program) -> Vec<String> {
    let tracks = program.kinds.iter().flat_map(|kind| &kind.tracks);
    let names = tracks.flat_map(|track| &track.states).map(|(name, _)| name.0 as usize);
    let names = names.map(|name| program.state_names[name].clone());
    names.collect::<std::collections::BTreeSet<String>>().into_iter().collect()
}
