//! What the names of a text mean: where each is defined and used, and the type of its value. The checker notes it while
//! it resolves names, so that an editor never has to guess; mistakes elsewhere in the text take nothing away.

use std::collections::{BTreeMap, BTreeSet};

use crate::diagnostic::Span;
use crate::program::Ty;
use crate::units::Dim;

/// The sort of thing a name stands for.
#[derive(Clone, Copy, PartialEq, Eq, Debug, PartialOrd, Ord, Hash)]
pub enum Sort {
    /// A kind.
    Kind,
    /// A spawner.
    Spawner,
    /// A tag of kinds.
    Tag,
    /// A knob.
    Knob,
    /// A spot group.
    Spots,
    /// A zone.
    Zone,
    /// An input.
    Input,
    /// A message.
    Message,
    /// A behaviour.
    Behavior,
    /// A function that does something, or gives a value.
    Function,
    /// A watch.
    Watch,
    /// A routine.
    Routine,
    /// A variable of a kind, a spawner, a behaviour or the pond.
    Variable,
    /// A state of a track.
    State,
    /// A mount of a kind.
    Mount,
    /// A parameter of a message, a function, a behaviour or a spawner.
    Parameter,
    /// A value bound in a handler: by `as`, `let`, `from` or the head of a message.
    Local,
    /// A field every entity has.
    Field,
    /// A word of the language that stands where a name could: `self`, a cause, a colour, a type, a key.
    Word,
}

impl Sort {
    /// The noun, as a person calls it.
    pub fn noun(self) -> &'static str {
        match self {
            Sort::Kind => "kind",
            Sort::Spawner => "spawner",
            Sort::Tag => "tag",
            Sort::Knob => "knob",
            Sort::Spots => "spots",
            Sort::Zone => "zone",
            Sort::Input => "input",
            Sort::Message => "message",
            Sort::Behavior => "behaviour",
            Sort::Function => "function",
            Sort::Watch => "watch",
            Sort::Routine => "routine",
            Sort::Variable => "variable",
            Sort::State => "state",
            Sort::Mount => "mount",
            Sort::Parameter | Sort::Local => "value",
            Sort::Field => "field",
            Sort::Word => "word",
        }
    }

    /// Whether its name is known only inside the item that defines it.
    pub fn is_local(self) -> bool {
        matches!(self, Sort::Parameter | Sort::Local)
    }
}

/// A name where it is defined.
#[derive(Clone, Debug, PartialEq)]
pub struct Definition {
    /// As it is written.
    pub name: String,
    /// What it stands for.
    pub sort: Sort,
    /// Where the name stands.
    pub span: Span,
    /// The type of its value, for what has one.
    pub ty: Option<Ty>,
}

/// The names of one text.
#[derive(Clone, Debug, Default)]
pub struct Model {
    definitions: BTreeMap<Span, Definition>,
    /// A use and the definition it means. A name in a behaviour can mean the variables of several kinds.
    uses: BTreeSet<(Span, Span)>,
    /// Names that come with the language.
    built_in: BTreeMap<Span, Sort>,
    /// The quantity that is wanted where a value stands.
    wanted: BTreeMap<Span, Dim>,
}

impl Model {
    pub(crate) fn define(&mut self, name: &str, sort: Sort, span: Span, ty: Option<Ty>) {
        let new = Definition { name: name.to_string(), sort, span, ty };
        let known = self.definitions.entry(span).or_insert_with(|| new.clone());
        // The parameter of a function is also the local its body knows: the first sort stays, a type is added.
        if matches!(known.ty, None | Some(Ty::Unknown)) {
            known.ty = new.ty;
        }
    }

    pub(crate) fn refer(&mut self, span: Span, to: Span) {
        if span != to {
            self.uses.insert((span, to));
        }
    }

    pub(crate) fn built_in(&mut self, span: Span, sort: Sort) {
        self.built_in.insert(span, sort);
    }

    pub(crate) fn want(&mut self, span: Span, dim: Dim) {
        self.wanted.entry(span).or_insert(dim);
    }

    /// The quantity that is wanted of the value at this span, where that is known.
    pub fn wanted(&self, span: Span) -> Option<Dim> {
        self.wanted.get(&span).copied()
    }

    /// Every definition, in the order of the text.
    pub fn definitions(&self) -> impl Iterator<Item = &Definition> {
        self.definitions.values()
    }

    /// The definition whose name stands here.
    pub fn definition(&self, span: Span) -> Option<&Definition> {
        self.definitions.get(&span)
    }

    /// Every use with what it means, in the order of the text.
    pub fn uses(&self) -> impl Iterator<Item = (Span, &Definition)> {
        self.uses.iter().filter_map(|(span, to)| Some((*span, self.definitions.get(to)?)))
    }

    /// The names that come with the language, in the order of the text.
    pub fn words(&self) -> impl Iterator<Item = (Span, Sort)> {
        self.built_in.iter().map(|(span, sort)| (*span, *sort))
    }

    /// What the name at this span means: itself if it is defined there, else what it is a use of. A name can mean
    /// several things at once; they come in the order of the text.
    pub fn meanings(&self, span: Span) -> Vec<&Definition> {
        if let Some(own) = self.definitions.get(&span) {
            return vec![own];
        }
        let from = (span, Span { start: 0, end: 0 });
        let uses = self.uses.range(from..).take_while(|(at, _)| *at == span);
        uses.filter_map(|(_, to)| self.definitions.get(to)).collect()
    }

    /// The sort of a name that comes with the language.
    pub fn word(&self, span: Span) -> Option<Sort> {
        self.built_in.get(&span).copied()
    }

    /// Every place that would have to change with the name at this span: its definitions, their uses, and the other
    /// definitions that these uses mean as well. Empty for a name nothing is known of. Grows with all uses of the text
    /// for each round; two rounds are the usual number.
    pub fn same(&self, span: Span) -> Vec<Span> {
        let mut defined: BTreeSet<Span> = self.meanings(span).iter().map(|d| d.span).collect();
        let mut places = defined.clone();
        loop {
            let used = self.uses.iter().filter(|(_, to)| defined.contains(to));
            let used: BTreeSet<Span> = used.map(|(at, _)| *at).collect();
            let meant = self.uses.iter().filter(|(at, _)| used.contains(at)).map(|(_, to)| *to);
            let before = defined.len();
            defined.extend(meant.collect::<Vec<_>>());
            places.extend(used);
            places.extend(defined.iter().copied());
            if defined.len() == before {
                return places.into_iter().collect();
            }
        }
    }

    /// The span of the name at a byte, or of the one that ends there.
    pub fn name_at(&self, byte: u32) -> Option<Span> {
        let holds = |span: &Span| span.start <= byte && byte <= span.end;
        let defined = self.definitions.keys().copied();
        let used = self.uses.iter().map(|(at, _)| *at);
        let all = defined.chain(used).chain(self.built_in.keys().copied()).filter(holds);
        // At the seam of two names the one that begins here is meant.
        all.max_by_key(|span| span.start)
    }
}
