//! The fields of the state, each declared once: its type, its first value, what it is in the digest, what a copy
//! of it takes. Copying, copying in place, the digest by parts and the size follow from that. Taking a state over to
//! another program names every field, too (`carry`), so a new one does not compile before it is thought of there.

use std::collections::BTreeMap;
use std::sync::Arc;

use tickpond_lang::program::{KindId, Program};

use super::birth::BirthRequest;
use super::canon::Canon;
use super::columns::{Columns, Widths};
use super::contacts::{Contact, Touching};
use super::digest::{Digest, said_of, untold};
use super::letters::Letters;
use super::requests::{
    ActiveRequest, AttachRequest, Attachment, EndRequest, HealthRequest, PushRequest, Trace, Wait,
};
use super::slots::{EntityId, Slots};
use super::solids::Solids;
use super::totals::{InputState, MailTotals, TallyKey, Totals, Wave};
use crate::event::Stopped;

/// What the first values are made of.
pub(super) struct Opening<'a> {
    pub program: &'a Program,
    pub widths: &'a [Widths],
    pub seed: u64,
    /// The middle of the arena.
    pub middle: (f64, f64),
}

macro_rules! state {
    ($($(#[$doc:meta])* $vis:vis $name:ident: $ty:ty = $first:expr, $digest:expr, $bytes:expr;)*) => {
        /// The state of a run at the end of a tick.
        #[derive(Debug, PartialEq)]
        pub struct State {
            $($(#[$doc])* $vis $name: $ty,)*
        }

        /// A copy into memory that is there already costs a good deal less than one into new.
        impl Clone for State {
            fn clone(&self) -> State {
                State { $($name: self.$name.clone(),)* }
            }

            fn clone_from(&mut self, other: &State) {
                $(self.$name.clone_from(&other.$name);)*
            }
        }

        impl State {
            /// Before anything was born.
            pub(super) fn unborn(opening: &Opening<'_>) -> State {
                State { $($name: {
                    let first: fn(&Opening<'_>) -> $ty = $first;
                    first(opening)
                },)* }
            }

            /// Hashes of the state by part: of two states that differ, those of the parts that do. A part that decides
            /// nothing has the hash of nothing.
            pub fn parts(&self) -> Vec<(&'static str, u64)> {
                vec![$((stringify!($name), {
                    let digest: fn(&mut Digest<'_>, &$ty) = $digest;
                    Digest::of(&self.canon, |hash| digest(hash, &self.$name))
                }),)*]
            }

            /// About how many bytes a copy takes, without the little things that do not grow with the crowd.
            pub fn bytes(&self) -> usize {
                let mut bytes = 4096;
                $(bytes += {
                    let bytes: fn(&$ty) -> usize = $bytes;
                    bytes(&self.$name)
                };)*
                bytes
            }
        }
    };
}

/// Of what does not grow with the crowd.
fn little<T>(_: &T) -> usize {
    0
}

fn list<T>(list: &[T]) -> usize {
    size_of_val(list)
}

/// A tree has about as much again beside what it holds.
fn tree<K, V>(tree: &BTreeMap<K, V>) -> usize {
    tree.len() * size_of::<(K, V)>() * 2
}

state! {
    /// The tick that has just been played; 0 is the opening.
    pub tick: u64 = |_| 0, |d, tick| d.word(*tick), little;
    /// The seed of all chance.
    pub seed: u64 = |opening| opening.seed, |d, seed| d.word(*seed), little;
    /// Values of the knobs in base units.
    pub knobs: Vec<f64> = |opening| opening.program.knobs.iter().map(|k| k.value).collect(),
        |d, knobs| d.knobs(knobs), little;
    /// The entities, kind by kind, in the order of the program's kinds.
    pub kinds: Vec<Columns> = |opening| opening.widths.iter().map(Columns::new).collect(),
        |d, kinds| d.kinds(kinds), |kinds| kinds.iter().map(Columns::bytes).sum();
    /// From identity to kind and row.
    pub slots: Slots = |_| Slots::default(), |d, slots| d.words(slots.words()), Slots::bytes;
    /// How many were ever born, the pond among them.
    pub born_in_all: u64 = |_| 0, |d, born| d.word(*born), little;
    /// Births asked for and not yet due.
    pub births: Vec<BirthRequest> = |_| Vec::new(), |d, births| d.births(births), |list| self::list(list);
    /// Letters not yet delivered.
    pub letters: Letters = |_| Letters::default(), |d, letters| d.letters(letters), Letters::bytes;
    /// Damage and healing not yet settled.
    pub health: Vec<HealthRequest> = |_| Vec::new(), |d, health| d.health(health), |list| self::list(list);
    /// Ends not yet carried out.
    pub ends: Vec<EndRequest> = |_| Vec::new(), |d, ends| d.ends(ends), |list| self::list(list);
    /// Pushes not yet carried out.
    pub pushes: Vec<PushRequest> = |_| Vec::new(), |d, pushes| d.pushes(pushes), |list| self::list(list);
    /// Activations not yet settled.
    pub activations: Vec<ActiveRequest> = |_| Vec::new(), |d, asked| d.activations(asked), |list| self::list(list);
    /// Attachments not yet made.
    pub attaching: Vec<AttachRequest> = |_| Vec::new(), |d, asked| d.attaching(asked), |list| self::list(list);
    /// Who hangs on whom.
    pub attached: BTreeMap<EntityId, Attachment> = |_| BTreeMap::new(),
        |d, attached| d.attached(attached), tree;
    /// Rays that are shown.
    pub traces: Vec<Trace> = |_| Vec::new(), |d, traces| d.traces(traces), |list| self::list(list);
    /// The middle of the view.
    pub view: (f64, f64) =
        |opening| opening.program.view.map_or(opening.middle, |view| view.at),
        |d, view| d.numbers(&[view.0, view.1]), little;
    /// The solver's bodies; none in a pond without solid kinds.
    pub solids: Option<Box<Solids>> = |opening| Solids::for_program(opening.program),
        |d, solids| d.solids(solids.as_deref()),
        |solids| solids.as_ref().map_or(0, |solids| solids.bytes());
    /// Ends by kind, cause, words and the kind that did it; kept if an expectation or a watch asks.
    pub tally: BTreeMap<TallyKey, u64> = |_| BTreeMap::new(), |d, tally| d.tally(tally), tree;
    /// Handlers that wait.
    pub waits: Vec<Wait> = |_| Vec::new(), |d, waits| d.waits(waits), |list| self::list(list);
    /// Who touches whom, ascending.
    pub contacts: Vec<Contact> = |_| Vec::new(), |d, contacts| d.contacts(contacts), |list| self::list(list);
    /// When `while touching` is due, for each handler and pair that touches.
    pub touching: BTreeMap<Touching, u64> = |_| BTreeMap::new(),
        |d, touching| d.touching(touching), tree;
    /// Most that ever lived of several kinds together, of those a program asks for: the kinds, ascending.
    pub peaks: Vec<(Vec<KindId>, u64)> = |_| Vec::new(), |d, peaks| d.peaks(peaks), little;
    /// The order the digest goes in.
    pub(crate) canon: Arc<Canon> = |opening| Arc::new(Canon::of(opening.program)), untold, little;
    /// Waves with members alive or unborn.
    pub waves: BTreeMap<u64, Wave> = |_| BTreeMap::new(), |d, waves| d.waves(waves), tree;
    /// Labels by identity.
    pub labels: BTreeMap<EntityId, Arc<str>> = |_| BTreeMap::new(), |d, labels| d.labels(labels), tree;
    /// The keys.
    pub input: InputState = |opening| InputState {
            places: vec![opening.middle; opening.program.inputs.len()],
            ..InputState::default()
        }, |d, input| d.input(input), little;
    /// Totals by kind.
    pub totals: Vec<Totals> = |opening| vec![Totals::default(); opening.program.kinds.len()],
        |d, totals| d.totals(totals), little;
    /// Totals by message.
    pub mail_totals: Vec<MailTotals> =
        |opening| vec![MailTotals::default(); opening.program.messages.len()],
        |d, totals| d.mail_totals(totals), little;
    /// How often each site fired. Not part of the digest: it can be remade from the run.
    pub fired: Vec<u64> = |opening| vec![0; opening.program.sites.len()], untold, |list| self::list(list);
    /// Why the run paused by itself, if it did.
    pub stopped: Option<Stopped> = |_| None, untold, little;
}

impl State {
    /// A hash of everything that decides how the run goes on; equal states have equal digests, whatever the
    /// order of the definitions in the text. The lines of requests and what the solver keeps of contacts are
    /// left out.
    pub fn digest(&self) -> u64 {
        Digest::of(&self.canon, |d| d.words(self.parts().into_iter().map(|(_, hash)| hash)))
    }
}

impl State {
    /// All that is said of a birth, as words that do not depend on the order of the text.
    pub(crate) fn said_of(&self, birth: &BirthRequest) -> (Vec<u64>, u64) {
        said_of(&self.canon, birth)
    }
}
