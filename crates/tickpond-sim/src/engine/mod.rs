//! Plays a state forward.

pub(crate) mod fire;

use std::collections::HashMap;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use tickpond_lang::program::{InputId, KindId, Program};

use crate::code::{Compiled, Job};
pub(crate) use crate::firing::Firing;
use crate::firing::Rounds;
use crate::index::Index;
use crate::luck;
use crate::phase::due::Due;
use crate::phase::ending::{Ending, Solver};
use crate::phase::mailboxes::Boxes;
use crate::phase::search::TouchScratch;
use crate::phase::standing::Standing;
use crate::state::EntityId;
use crate::trace::Firings;
use crate::vm::{Block, Outbox};

/// What the player did before a tick.
#[derive(Clone, Copy, PartialEq, Debug)]
pub enum InputChange {
    /// A key went down or up.
    Key {
        /// Which input.
        input: InputId,
        /// Whether it went down.
        down: bool,
    },
    /// A pointer was moved.
    Move {
        /// Which input.
        input: InputId,
        /// Where to, in u.
        to: (f64, f64),
    },
    /// One was put there by hand.
    Place {
        /// What.
        kind: KindId,
        /// Where, in u.
        at: (f64, f64),
    },
}

/// Handlers that take their turn together: few, most often.
pub(crate) type Jobs = smallvec::SmallVec<[Job; 8]>;

/// A compiled program and the memory a tick needs while it runs. Nothing here outlives a tick: two
/// engines of one program play one state alike.
pub struct Engine {
    /// The program's code.
    pub compiled: Arc<Compiled>,
    /// Runs the handlers of each phase in an order shuffled by this seed: the result stays the same.
    pub shuffle: Option<u64>,
    /// How many threads run the handlers of a phase: the result stays the same.
    pub threads: usize,
    /// Fewest entities a second thread is used for.
    pub grain: usize,
    /// Where the firings of the next tick are listed, if somebody wants them.
    pub trace: Option<Vec<Firings>>,
    /// Whether each letter that is sent and heard is listed among the events. They are counted either
    /// way, and those unheard are always listed.
    pub lists_mail: bool,
    pool: Option<rayon::ThreadPool>,
    /// What each thread works with.
    workers: Vec<(Block, Outbox)>,
    pub(crate) block: Block,
    pub(crate) out: Outbox,
    pub(crate) due: Due,
    /// Where everybody stands while births are placed.
    pub(crate) standing: Standing,
    /// The rows whose clocks are due, and those whose clocks are not set yet.
    pub(crate) due_rows: Vec<u32>,
    pub(crate) fresh: Vec<u32>,
    pub(crate) ending: Ending,
    pub(crate) touch: TouchScratch,
    rounds: Rounds,
    pub(crate) mailboxes: Boxes,
    /// Letters that set a handler off and bring it nothing, by its kind and place there.
    pub(crate) counted: Vec<((KindId, usize), crate::firing::Counted)>,
    /// How many births of a kind each handler and asker has asked for in this tick.
    pub(crate) birth_counts: luck::Table<(u64, u32), u64>,
    /// How many were born in this tick.
    pub(crate) born_now: u64,
    /// Velocities of solids before the solver parted them, in this tick.
    pub(crate) before_impact: HashMap<EntityId, (f64, f64)>,
    pub(crate) solver: Solver,
    /// How often each site was refused something in this tick.
    pub(crate) refused: HashMap<u32, u64>,
    /// How many births each line has asked for in this tick.
    pub(crate) birth_lines: HashMap<u32, u64>,
    /// Whether a limit of the tick was gone over: no handler runs in what is left of it.
    pub(crate) halted: bool,
    /// What the questions of a phase have in common.
    index: Arc<Index>,
    /// Whether the state stays as it is for more than one handler: see [`Engine::hold_index`].
    index_holds: bool,
}

impl Engine {
    /// An engine for a program.
    pub fn new(program: Arc<Program>) -> Engine {
        Engine::of(Arc::new(Compiled::new(program)))
    }

    /// An engine for code that is compiled already.
    pub fn of(compiled: Arc<Compiled>) -> Engine {
        let sites = compiled.program.sites.len();
        let index = Arc::new(Index::new(&compiled));
        Engine {
            index,
            index_holds: false,
            compiled,
            shuffle: None,
            threads: 1,
            grain: 1024,
            trace: None,
            lists_mail: true,
            pool: None,
            workers: Vec::new(),
            block: Block::default(),
            out: Outbox::new(sites),
            due: Due::default(),
            standing: Standing::default(),
            due_rows: Vec::new(),
            fresh: Vec::new(),
            ending: Ending::default(),
            touch: TouchScratch::default(),
            rounds: Rounds::default(),
            mailboxes: Boxes::new(),
            counted: Vec::new(),
            birth_counts: luck::Table::default(),
            born_now: 0,
            before_impact: HashMap::new(),
            solver: Solver::default(),
            refused: HashMap::new(),
            birth_lines: HashMap::new(),
            halted: false,
        }
    }

    /// The program.
    pub fn program(&self) -> &Arc<Program> {
        &self.compiled.program
    }

    pub(crate) fn begin_tick(&mut self) {
        self.birth_counts.clear();
        self.born_now = 0;
        self.before_impact.clear();
        self.refused.clear();
        self.birth_lines.clear();
        self.halted = false;
        self.out.begin_tick();
    }

    /// Lets somebody else end a tick that takes long: as soon as the flag is set, the tick is given up, and
    /// what is left of the state is no state of the run: [`State::stopped`] says [`Guard::Interrupted`].
    pub fn interrupt_by(&mut self, stop: Arc<AtomicBool>) {
        self.out.stop = Some(stop);
    }

    /// Whether the tick is being given up.
    pub(crate) fn is_interrupted(&self) -> bool {
        self.out.stop.as_ref().is_some_and(|stop| stop.load(Ordering::Relaxed))
    }

    /// What questions asked now have in common. It is forgotten each time but where it is held.
    pub(crate) fn index(&mut self) -> Arc<Index> {
        if !self.index_holds {
            self.forget_index();
        }
        self.index.clone()
    }

    /// Holds the index from now on, or no longer: only while no handler sees another state than the one before it.
    pub(crate) fn hold_index(&mut self, holds: bool) {
        self.forget_index();
        self.index_holds = holds;
    }

    fn forget_index(&mut self) {
        match Arc::get_mut(&mut self.index) {
            Some(index) => index.forget(),
            None => self.index = Arc::new(Index::new(&self.compiled)),
        }
    }
}
