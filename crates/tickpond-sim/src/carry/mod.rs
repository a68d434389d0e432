//! Takes a state over to an edited program, so that a run can go on where it is.
//!
//! Things are the same if they have the same name: kinds, variables, knobs, messages, inputs;
//! handlers have the same head, statements the same text. What is new starts fresh. An edit that
//! would make the state mean something else is refused with the reason: then the run is made again
//! from tick 0.

mod asked;

use std::collections::HashMap;

use tickpond_lang::program::{Kind, KindId, Program, SiteId, Ty};

use crate::code::Compiled;
use crate::code::layout::words_of;
use crate::state::{BY_HAND, Bits, Clock, Columns, NO_STATE, State, Touching, Widths};

/// Why a state cannot be taken over; each names what was edited.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum CannotCarry {
    /// The arena or its edges.
    Arena,
    /// The rate.
    Rate,
    /// What is placed at the start.
    Places,
    /// A kind is gone or has become something else.
    Kind(String),
    /// A kind's body.
    Body(String),
    /// A handler that waits.
    Waiting(String),
    /// A total of the whole run was asked for that had not been kept.
    History,
}

impl CannotCarry {
    /// The reason in words.
    pub fn words(&self) -> String {
        match self {
            CannotCarry::Arena => "the arena was edited".into(),
            CannotCarry::Rate => "the rate was edited".into(),
            CannotCarry::Places => "what is placed was edited".into(),
            CannotCarry::Kind(name) => format!("`{name}` was removed or renamed"),
            CannotCarry::Body(name) => format!("the body of `{name}` was edited"),
            CannotCarry::History => "a total of the whole run is new".into(),
            CannotCarry::Waiting(head) => format!("`{head}` was edited while it waits"),
        }
    }
}

/// The state of a run of `old`, as a state of `new`.
///
/// # Errors
/// [`CannotCarry`] if the edit is of a sort that means another run from the start.
pub fn carry(state: &State, old: &Compiled, new: &Compiled) -> Result<State, CannotCarry> {
    same_ground(&old.program, &new.program)?;
    let kinds = kind_map(&old.program, &new.program)?;
    let map = Map { old, new, kinds, sites: site_map(&old.program, &new.program) };
    map.state(state)
}

fn same_ground(old: &Program, new: &Program) -> Result<(), CannotCarry> {
    if old.arena != new.arena {
        return Err(CannotCarry::Arena);
    }
    if old.rate != new.rate {
        return Err(CannotCarry::Rate);
    }
    let lines = |p: &Program| -> Vec<String> {
        let mut lines: Vec<String> =
            p.places.iter().map(|place| site_text(p, place.site).to_string()).collect();
        lines.sort();
        lines
    };
    if lines(old) == lines(new) { Ok(()) } else { Err(CannotCarry::Places) }
}

fn site_text(program: &Program, site: SiteId) -> &str {
    program.text.get(program.sites[site.index()].span.range()).unwrap_or("")
}

/// From each old kind to the new one of its name.
fn kind_map(old: &Program, new: &Program) -> Result<Vec<KindId>, CannotCarry> {
    let mut map = vec![KindId(0)];
    for kind in old.kinds.iter().skip(1) {
        let id = new.kind_named(&kind.name).ok_or(CannotCarry::Kind(kind.name.clone()))?;
        let same_sort =
            |a: &Kind, b: &Kind| std::mem::discriminant(&a.role) == std::mem::discriminant(&b.role);
        let now = &new.kinds[id.index()];
        if !same_sort(kind, now) {
            return Err(CannotCarry::Kind(kind.name.clone()));
        }
        let solid_moved = kind.matter.solid && map.len() != id.index();
        if kind.body != now.body || kind.matter != now.matter || solid_moved {
            return Err(CannotCarry::Body(kind.name.clone()));
        }
        map.push(id);
    }
    Ok(map)
}

/// From each old site to the new one of the same kind and text; the nth to the nth.
fn site_map(old: &Program, new: &Program) -> Vec<Option<SiteId>> {
    let keys = |p: &Program| -> Vec<(String, String, u32)> {
        let mut seen: HashMap<(String, String), u32> = HashMap::new();
        let key = |at: usize| {
            let site = &p.sites[at];
            let text = site_text(p, SiteId(at as u32));
            (p.kinds[site.kind.index()].name.clone(), text.to_string())
        };
        (0..p.sites.len())
            .map(|at| {
                let key = key(at);
                let nth = seen.entry(key.clone()).or_insert(0);
                *nth += 1;
                (key.0, key.1, *nth)
            })
            .collect()
    };
    let new_keys: HashMap<_, _> =
        keys(new).into_iter().enumerate().map(|(at, key)| (key, SiteId(at as u32))).collect();
    keys(old).into_iter().map(|key| new_keys.get(&key).copied()).collect()
}

struct Map<'a> {
    old: &'a Compiled,
    new: &'a Compiled,
    kinds: Vec<KindId>,
    sites: Vec<Option<SiteId>>,
}

impl Map<'_> {
    fn state(&self, state: &State) -> Result<State, CannotCarry> {
        // Ends by words and credit are told apart only if somebody asks for them.
        if self.old.tallies.is_empty() && !self.new.tallies.is_empty() {
            return Err(CannotCarry::History);
        }
        let widths: Vec<Widths> = self.new.kinds.iter().map(|k| k.widths.clone()).collect();
        let fresh = State::empty(&self.new.program, &widths, state.seed);
        let mut next = state.clone();
        // Every field by its name, so that a new one does not compile before it is thought of here.
        let State {
            // These mean the same in every program.
            tick: _,
            seed: _,
            born_in_all: _,
            traces: _,
            view: _,
            solids: _,
            waves: _,
            labels: _,
            stopped: _,
            // These go over by name, one by one.
            knobs,
            kinds,
            slots,
            waits,
            touching,
            peaks,
            canon,
            input,
            totals,
            mail_totals,
            fired,
            // These are translated where they lie.
            births: _,
            letters: _,
            health: _,
            ends: _,
            pushes: _,
            activations: _,
            attaching: _,
            attached: _,
            tally: _,
            contacts: _,
        } = &mut next;
        (*kinds, *totals, *canon) = (fresh.kinds, fresh.totals, fresh.canon);
        *knobs = self.knobs(state);
        *peaks = self.peaks(state)?;
        *touching = self.touching(state);
        for (at, columns) in state.kinds.iter().enumerate() {
            let to = self.kinds[at];
            kinds[to.index()] = self.columns(KindId(at as u32), to, columns);
            totals[to.index()] = state.totals[at].clone();
            columns.id.iter().for_each(|id| slots.set_kind(*id, to));
        }
        *waits = state.waits.iter().map(|w| self.wait(state, w)).collect::<Result<_, _>>()?;
        *mail_totals = self.mail_totals(state);
        *input = self.input(state);
        *fired = vec![0; self.new.program.sites.len()];
        for (at, times) in state.fired.iter().enumerate() {
            if let Some(to) = self.sites[at] {
                fired[to.index()] = *times;
            }
        }
        self.requests(&mut next);
        Ok(next)
    }

    /// What was the most of several kinds together.
    fn peaks(&self, state: &State) -> Result<Vec<(Vec<KindId>, u64)>, CannotCarry> {
        let renamed = |kinds: &[KindId]| {
            let mut kinds: Vec<KindId> = kinds.iter().map(|k| self.kinds[k.index()]).collect();
            kinds.sort();
            kinds
        };
        let peak = |wanted: &Vec<KindId>| {
            let mut known = state.peaks.iter();
            let known = known.find(|(kinds, _)| renamed(kinds) == *wanted);
            known.map(|(_, peak)| (wanted.clone(), *peak)).ok_or(CannotCarry::History)
        };
        self.new.peaks.iter().map(peak).collect()
    }

    /// When `while touching` is due: handlers go over by their head.
    fn touching(&self, state: &State) -> std::collections::BTreeMap<Touching, u64> {
        let touching = state.touching.iter().filter_map(|(key, due)| {
            let to = self.kinds[key.kind.index()];
            let old = &self.old.kinds[key.kind.index()].handlers[key.handler as usize];
            let handlers = &self.new.kinds[to.index()].handlers;
            let same = |h: &crate::code::HandlerCode| {
                self.head(key.kind, old.site, false) == self.head(to, h.site, true)
                    && self.state_of(key.kind, old.state, false) == self.state_of(to, h.state, true)
            };
            let at = handlers.iter().position(same)?;
            Some((Touching { kind: to, handler: at as u32, ..*key }, *due))
        });
        touching.collect()
    }

    /// A knob that was turned in the run stays as it was turned.
    fn knobs(&self, state: &State) -> Vec<f64> {
        let old = &self.old.program.knobs;
        let value = |knob: &tickpond_lang::program::Knob| {
            let at = old.iter().position(|o| o.name == knob.name && o.dim == knob.dim)?;
            (state.knobs[at] != old[at].value).then_some(state.knobs[at])
        };
        self.new.program.knobs.iter().map(|knob| value(knob).unwrap_or(knob.value)).collect()
    }

    fn columns(&self, from: KindId, to: KindId, columns: &Columns) -> Columns {
        let mut next = columns.clone();
        let (old, new) = (&self.old.kinds[from.index()], &self.new.kinds[to.index()]);
        let rows = columns.len();
        next.vars = vec![vec![0; rows].into(); new.widths.vars];
        for var in &self.new.program.kinds[to.index()].vars {
            let name = &self.new.program.var_names[var.name.index()];
            let Some(at) = self.new.var_word(to, var.name) else { continue };
            let before = self.old_var(from, name, &var.ty);
            for part in 0..usize::from(words_of(&var.ty)) {
                next.vars[at + part] = match before {
                    Some(word) => columns.vars[word + part].clone(),
                    None => vec![self.first_word(&var.init, part); rows].into(),
                };
            }
            if matches!(var.ty, Ty::Kind | Ty::KindOf(_)) && before.is_some() {
                self.rename_kinds(&mut next.vars[at]);
            }
        }
        next.clocks = vec![vec![Clock::UNSET; rows].into(); new.widths.clocks];
        next.bits = vec![Bits::rows(rows); new.widths.words_of_bits];
        for handler in &new.handlers {
            let same = old.handlers.iter().find(|h| {
                self.head(from, h.site, false) == self.head(to, handler.site, true)
                    && self.state_of(from, h.state, false) == self.state_of(to, handler.state, true)
            });
            if let (Some(to), Some(from)) = (handler.clock, same.and_then(|h| h.clock)) {
                next.clocks[usize::from(to)] = columns.clocks[usize::from(from)].clone();
            }
            if let (Some(to), Some(from)) = (handler.held, same.and_then(|h| h.held)) {
                for row in 0..rows {
                    to.set(&mut next.bits, row, from.of(&columns.bits, row));
                }
            }
        }
        next.tracks = self.tracks(from, to, columns, rows);
        if let (Some(new), Some(old)) = (&new.spawner, &old.spawner) {
            next.clocks[usize::from(new.clock)] = columns.clocks[usize::from(old.clock)].clone();
        }
        next
    }

    /// Tracks and states go over by name; what an edit took away begins at the first.
    fn tracks(
        &self,
        from: KindId,
        to: KindId,
        columns: &Columns,
        rows: usize,
    ) -> Vec<crate::state::TrackColumns> {
        let (old, new) = (&self.old.program, &self.new.program);
        let tracks = new.kinds[to.index()].tracks.iter().map(|track| {
            let name = &new.track_names[track.name.0 as usize];
            let at = old.kinds[from.index()]
                .tracks
                .iter()
                .position(|t| old.track_names[t.name.0 as usize] == *name);
            let Some(at) = at else {
                return crate::state::TrackColumns {
                    now: vec![0; rows].into(),
                    back: vec![0; rows].into(),
                    until: vec![Clock::NEVER; rows].into(),
                    since: columns.born.clone(),
                    seen: vec![0; rows].into(),
                };
            };
            let before = &old.kinds[from.index()].tracks[at].states;
            let renamed = |state: &u64| {
                let Some((state, _)) = before.get(*state as usize) else { return *state };
                let name = &old.state_names[state.0 as usize];
                let states = track.states.iter();
                let at = states
                    .map(|(s, _)| &new.state_names[s.0 as usize])
                    .position(|state| state == name);
                at.unwrap_or(0) as u64
            };
            let mut next = columns.tracks[at].clone();
            for column in [&mut next.now, &mut next.back, &mut next.seen] {
                column.iter_mut().for_each(|state| *state = renamed(state));
            }
            let (told, tells) = (
                self.old.kinds[from.index()].tells_states,
                self.new.kinds[to.index()].tells_states,
            );
            if tells && !told {
                // It was not noted what was seen: all that has begun was, but of who never was awake.
                for row in 0..rows {
                    let awake = columns.is_active(row) || columns.age(row, u64::MAX) > 0;
                    next.seen[row] = if awake { next.now[row] } else { NO_STATE };
                }
            }
            next
        });
        tracks.collect()
    }

    /// The name of a state with its track's.
    fn state_of(
        &self,
        kind: KindId,
        state: Option<tickpond_lang::program::InState>,
        is_new: bool,
    ) -> Option<(&str, &str)> {
        let program = if is_new { &self.new.program } else { &self.old.program };
        let state = state?;
        let track = program.kinds[kind.index()].tracks.get(state.track)?;
        let name = track.states.get(state.state)?.0;
        let track = &program.track_names[track.name.0 as usize];
        Some((track, &program.state_names[name.0 as usize]))
    }

    fn head(&self, kind: KindId, site: SiteId, is_new: bool) -> &str {
        let compiled = if is_new { self.new } else { self.old };
        let handlers = &compiled.program.kinds[kind.index()].handlers;
        handlers.iter().find(|h| h.site == site).map_or("", |h| h.head.as_str())
    }

    /// The first word an old kind had for a variable of this name and type.
    fn old_var(&self, kind: KindId, name: &str, ty: &Ty) -> Option<usize> {
        let program = &self.old.program;
        let at = program.var_names.iter().position(|n| n == name)?;
        let name = tickpond_lang::program::VarName(at as u32);
        let var = program.var_of(kind, name)?;
        let same = match (&var.ty, ty) {
            (Ty::Entity(_), Ty::Entity(_)) | (Ty::KindOf(_), Ty::KindOf(_)) => true,
            (a, b) => a == b,
        };
        same.then(|| self.old.var_word(kind, name)).flatten()
    }

    /// A new variable's first value where it is plain; what would be drawn or read begins at 0.
    fn first_word(&self, init: &tickpond_lang::program::Expr, part: usize) -> u64 {
        use tickpond_lang::program::{ExprKind, constant};
        let knobs: Vec<f64> = self.new.program.knobs.iter().map(|k| k.value).collect();
        match &init.kind {
            ExprKind::Truth(truth) => u64::from(*truth),
            ExprKind::Kind(kind) => u64::from(self.new.kind_words[kind.index()]),
            ExprKind::Pair(x, y) => {
                let number = if part == 0 { x } else { y };
                constant(number, &knobs).unwrap_or(0.0).to_bits()
            }
            _ => constant(init, &knobs).unwrap_or(0.0).to_bits(),
        }
    }

    fn rename_kinds(&self, words: &mut [u64]) {
        for word in words {
            let kind = self.kinds[self.old.kind_of_word(*word).index()];
            *word = u64::from(self.new.kind_words[kind.index()]);
        }
    }

    fn site(&self, site: SiteId, kind: KindId) -> SiteId {
        let sites = &self.new.program.sites;
        let of_kind = || sites.iter().position(|s| s.kind == kind).unwrap_or(0);
        if site == BY_HAND {
            return site;
        }
        self.sites[site.index()].unwrap_or_else(|| SiteId(of_kind() as u32))
    }
}
