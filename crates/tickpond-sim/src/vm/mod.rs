//! Runs register code for a block of entities at once.
//!
//! Each lane is one firing. An instruction is carried out for all lanes that are at it before the
//! next one is. Where lanes part at a branch, those with the lower place in the code go first, and
//! lanes that meet again go on together; code from blocks always meets again behind its branches.
//! Nothing a lane does can be seen by another: it reads the state of the phase's start and its own
//! registers, and everything it wants goes into the [`Outbox`].

mod act;
mod ask;
mod chosen;
mod draws;
mod find;
mod mail;
mod outbox;
mod overlay;
mod query;
mod reach;
mod step;
mod text;

use tickpond_lang::program::{Cause, KindId};

pub(crate) use act::related;
use chosen::Chosen;
pub use outbox::{Become, Fault, Outbox, Writes};
pub use text::number_text;

use crate::code::op::{Code, Op, Reg};
use crate::code::{Compiled, HandlerCode};
use crate::event::{Guard, Phase};
use crate::index::Index;
use crate::luck;
use crate::state::{EntityId, State};
use crate::wide::wide;

/// Most lanes in a block: their registers stay in the first-level cache.
pub const LANES: usize = 256;

/// What the code of a block reads, beside its registers.
#[derive(Clone, Copy)]
pub struct World<'a> {
    /// The program.
    pub compiled: &'a Compiled,
    /// The state as the phase found it.
    pub state: &'a State,
    /// The phase.
    pub phase: Phase,
    /// What its questions have in common.
    pub index: &'a Index,
}

/// Whose code a block runs, for requests and chance.
#[derive(Clone, Copy)]
pub struct Origin {
    /// The kind of all lanes.
    pub kind: KindId,
    /// What draws are keyed by.
    pub hash: u64,
    /// The handler's place in the roll of its kind.
    pub handler: u32,
    /// The cause of ends asked for.
    pub cause: Cause,
}

/// One word for each lane.
pub type Words = [u64; LANES];
/// The same, on the heap.
type Lanes = Box<Words>;

fn no_lanes() -> Lanes {
    Box::new([0; LANES])
}

impl Default for Block {
    fn default() -> Block {
        Block {
            rows: Vec::new(),
            others: no_lanes(),
            other_luck: no_lanes(),
            met: false,
            regs: Vec::new(),
            spare: no_lanes(),
            mask: no_lanes(),
            masks: false,
            first: None,
            asked: Vec::new(),
            draws: Vec::new(),
            lists: Vec::new(),
            free_lists: Vec::new(),
            drawn: None,
            drawn_rows: vec![0; LANES],
            ways: vec![(0, 0); LANES],
            kept_velocity: Vec::new(),
            failed: Chosen::first(0),
            steps: vec![0; LANES],
        }
    }
}

/// The lanes of a block and their registers.
pub struct Block {
    /// Row of each lane.
    pub rows: Vec<u32>,
    /// How many were born before the other party of each lane; 0 if there is none.
    others: Lanes,
    /// What the other party brings into each lane's chance; 0 if there is none.
    other_luck: Lanes,
    /// Whether a lane has another party.
    met: bool,
    /// A column of lanes for each register.
    regs: Vec<Lanes>,
    /// Where a whole column is worked out before it takes the place of another.
    spare: Lanes,
    /// All bits of the lanes that go through the code now, if they are many but not all.
    mask: Lanes,
    /// Whether [`Block::mask`] holds.
    masks: bool,
    /// The first row, if the lanes' rows follow one another.
    first: Option<u32>,
    /// Requests each lane has made.
    asked: Vec<u32>,
    /// Draws each lane has made.
    draws: Vec<u32>,
    /// What loops go through, and the places of those that have been gone through.
    lists: Vec<Vec<EntityId>>,
    free_lists: Vec<usize>,
    /// The kind of those that were last drawn by chance, and where each lane's stands: whoever comes
    /// upon one of them need not look for it.
    drawn: Option<KindId>,
    drawn_rows: Vec<u32>,
    /// Where letters are gathered.
    ways: Vec<(u32, u32)>,
    /// The velocity a replacement keeps, where that is not the one at the end; by lane, or fewer.
    pub kept_velocity: Vec<Option<(f64, f64)>>,
    /// The lanes whose firing ends with this instruction: a value was no finite number.
    failed: Chosen,
    /// How often each lane has gone back in this firing.
    steps: Vec<u32>,
}

impl Block {
    /// Makes ready for `rows`, at most [`LANES`], with registers for `code`. All that code can read
    /// before it writes is 0, and all that can be kept over a wait.
    pub fn prepare(&mut self, rows: &[u32], code: &Code) {
        self.rows.clear();
        self.rows.extend_from_slice(rows);
        let follow = rows.windows(2).all(|pair| pair[1] == pair[0] + 1);
        self.first = rows.first().copied().filter(|_| follow);
        self.begin(code);
    }

    /// The same for rows that follow one another, at most [`LANES`].
    pub fn prepare_stretch(&mut self, rows: std::ops::Range<u32>, code: &Code) {
        self.rows.clear();
        self.rows.extend(rows.clone());
        self.first = Some(rows.start);
        self.begin(code);
    }

    fn begin(&mut self, code: &Code) {
        let n = self.rows.len();
        if self.met {
            self.others.fill(0);
            self.other_luck.fill(0);
            self.met = false;
        }
        for column in [&mut self.asked, &mut self.draws] {
            column.clear();
            column.resize(n, 0);
        }
        self.lists.clear();
        self.free_lists.clear();
        self.drawn = None;
        self.kept_velocity.clear();
        let regs = usize::from(code.regs);
        if self.regs.len() < regs {
            self.regs.resize_with(regs, no_lanes);
        }
        for column in &mut self.regs[..usize::from(code.cleared).min(regs)] {
            column[..n].fill(0);
        }
    }

    /// How many lanes a loop over all of them goes through: a few beyond the last, so that it ends
    /// with a full step.
    fn width(&self) -> usize {
        self.rows.len().next_multiple_of(16).min(LANES)
    }

    /// Sets a register of the lanes to one word.
    fn fill(&mut self, to: Reg, lanes: Chosen, word: u64) {
        let column = &mut self.regs[usize::from(to)];
        if lanes.len() == self.rows.len() {
            column[..lanes.len()].fill(word);
        } else {
            for lane in lanes {
                column[lane % LANES] = word;
            }
        }
    }

    /// Sets a register of the lanes to the value of a function of another.
    #[inline(always)]
    fn map(&mut self, to: Reg, a: Reg, lanes: Chosen, f: impl Fn(u64) -> u64) {
        self.map2(to, (a, a), lanes, move |a, _| f(a));
    }

    /// Sets a register of the lanes to the value of a function of two others.
    #[inline(always)]
    fn map2(&mut self, to: Reg, (a, b): (Reg, Reg), lanes: Chosen, f: impl Fn(u64, u64) -> u64) {
        let (all, width) = (lanes.len() == self.rows.len(), self.width());
        let Block { regs, spare, mask, masks, .. } = self;
        let (to, a, b) = (usize::from(to), usize::from(a), usize::from(b));
        if all {
            let (a, b) = (&regs[a][..width], &regs[b][..width]);
            let spare = &mut spare[..width];
            wide(
                #[inline(always)]
                move || {
                    for ((spare, a), b) in spare.iter_mut().zip(a).zip(b) {
                        *spare = f(*a, *b);
                    }
                },
            );
            std::mem::swap(&mut regs[to], &mut self.spare);
        } else if *masks {
            // Many lanes are worked out faster side by side than one by one, the idle among them.
            let (a, b, old) = (&regs[a][..width], &regs[b][..width], &regs[to][..width]);
            let (spare, mask) = (&mut spare[..width], &mask[..width]);
            wide(
                #[inline(always)]
                move || {
                    for ((((spare, a), b), old), mask) in
                        spare.iter_mut().zip(a).zip(b).zip(old).zip(mask)
                    {
                        *spare = *old & !mask | f(*a, *b) & mask;
                    }
                },
            );
            std::mem::swap(&mut regs[to], &mut self.spare);
        } else {
            lanes.each(
                #[inline(always)]
                |lane| {
                    // A power of two: the remainder costs nothing and needs no check of the bounds.
                    let lane = lane % LANES;
                    let value = f(regs[a][lane], regs[b][lane]);
                    regs[to][lane] = value;
                },
            );
        }
    }

    /// Makes ready for these lanes: those the next instructions are for.
    fn choose(&mut self, lanes: Chosen) {
        self.masks = lanes.len() < self.rows.len() && lanes.len() >= self.rows.len() / 8;
        if self.masks {
            lanes.spread(&mut self.mask);
        }
    }

    /// Loads a column of the lanes' rows.
    #[inline(always)]
    fn load<T: Copy>(&mut self, to: Reg, column: &[T], lanes: Chosen, f: impl Fn(T) -> u64) {
        let regs = &mut self.regs[usize::from(to)];
        match self.first {
            Some(first) if lanes.len() == self.rows.len() => {
                let column = &column[first as usize..first as usize + self.rows.len()];
                wide(
                    #[inline(always)]
                    move || {
                        for (word, value) in regs.iter_mut().zip(column) {
                            *word = f(*value);
                        }
                    },
                );
            }
            Some(first) if self.masks => {
                let column = &column[first as usize..first as usize + self.rows.len()];
                let mask = &self.mask;
                wide(
                    #[inline(always)]
                    move || {
                        for ((word, value), mask) in regs.iter_mut().zip(column).zip(mask.iter()) {
                            *word = *word & !mask | f(*value) & mask;
                        }
                    },
                );
            }
            _ => {
                let rows = &self.rows[..];
                lanes.each(
                    #[inline(always)]
                    |lane| {
                        regs[lane % LANES] = f(column[rows[lane] as usize]);
                    },
                );
            }
        }
    }

    /// Notes the other party of a lane: how many were born before it, and what it brings into the
    /// lane's chance.
    pub fn meet(&mut self, lane: usize, other: u64, luck: u64) {
        self.others[lane] = other;
        self.other_luck[lane] = luck;
        self.met = true;
    }

    /// Notes the velocity a replacement of a lane keeps.
    pub fn keep_velocity(&mut self, lane: usize, velocity: (f64, f64)) {
        if self.kept_velocity.len() <= lane {
            self.kept_velocity.resize(lane + 1, None);
        }
        self.kept_velocity[lane] = Some(velocity);
    }

    /// How many were born before the other party of a lane, and which request of the lane's comes now.
    #[inline]
    pub fn next_request(&mut self, lane: usize) -> (u64, u32) {
        let nth = self.asked[lane];
        self.asked[lane] += 1;
        (self.others[lane], nth)
    }

    /// How many lanes there are.
    pub fn len(&self) -> usize {
        self.rows.len()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// A word of a lane.
    pub fn word(&self, reg: Reg, lane: usize) -> u64 {
        self.regs[usize::from(reg)][lane]
    }

    /// A number of a lane.
    pub fn number(&self, reg: Reg, lane: usize) -> f64 {
        f64::from_bits(self.word(reg, lane))
    }

    /// Sets a word of a lane.
    pub fn set(&mut self, reg: Reg, lane: usize, word: u64) {
        self.regs[usize::from(reg)][lane] = word;
    }

    fn put(&mut self, reg: Reg, lane: usize, number: f64) {
        self.set(reg, lane, number.to_bits());
    }

    /// Ends the firing of a lane with the present instruction.
    fn fail(&mut self, lane: usize) {
        self.failed = self.failed.join(Chosen::one(lane));
    }

    /// Keeps a list for a loop and gives its place.
    fn keep_list(&mut self, list: Vec<EntityId>) -> usize {
        match self.free_lists.pop() {
            Some(at) => {
                self.lists[at] = list;
                at
            }
            None => {
                self.lists.push(list);
                self.lists.len() - 1
            }
        }
    }

    /// All words of a lane.
    pub fn words(&self, regs: Reg, lane: usize) -> Vec<u64> {
        (0..regs).map(|reg| self.word(reg, lane)).collect()
    }

    /// Copies the first words of a lane.
    pub fn copy_words(&self, lane: usize, to: &mut [u64]) {
        to.iter_mut().zip(&self.regs).for_each(|(word, reg)| *word = reg[lane]);
    }
}

/// Lanes at one place in the code.
#[derive(Clone, Copy)]
struct Group {
    at: u32,
    lanes: Chosen,
}

/// Runs a handler for all lanes of the block, which [`Block::prepare`] has made ready.
pub fn run_handler(
    world: World<'_>,
    origin: Origin,
    handler: &HandlerCode,
    block: &mut Block,
    out: &mut Outbox,
) {
    out.fire(handler.site, block.len() as u64);
    run(world, origin, &handler.code, 0, block, out);
}

/// Runs code from a place in it for all lanes of the block.
pub fn run(
    world: World<'_>,
    origin: Origin,
    code: &Code,
    at: u32,
    block: &mut Block,
    out: &mut Outbox,
) {
    let mut now = Group { at, lanes: Chosen::first(block.len()) };
    let mut waiting: Vec<Group> = Vec::new();
    // No lane has gone back more often than all have together.
    let mut steps = 0u32;
    let limits = &world.compiled.program.limits;
    let base = luck::draw_base(world.state.seed, world.state.tick, origin.hash);
    let run = step::Run { world, origin, code, base };
    block.failed = Chosen::first(0);
    if code.loops() {
        block.steps.fill(0);
    }
    out.look_up(limits);
    // Whether the block knows which lanes are meant.
    let mut chosen = false;
    loop {
        if now.lanes.is_empty() {
            match waiting.pop() {
                Some(next) => now = next,
                None => break,
            }
            chosen = false;
        }
        // Lanes further back in the code go first; lanes at the same place go together.
        if let Some(next) = waiting.last() {
            if next.at < now.at {
                let at = waiting.partition_point(|g| g.at > now.at);
                waiting.insert(at, now);
                now = waiting.pop().unwrap_or(now);
                chosen = false;
            }
            while let Some(met) = waiting.pop_if(|g| g.at == now.at) {
                now.lanes = now.lanes.join(met.lanes);
                chosen = false;
            }
        }
        match &code.ops[now.at as usize] {
            Op::Jump(to) => {
                now.at = *to;
                continue;
            }
            Op::Back(to, site) => {
                out.spend_steps(now.lanes.len() as u64, *site);
                out.look_up(limits);
                if out.is_over() {
                    break;
                }
                let counts = &mut block.steps;
                now.lanes.each(
                    #[inline(always)]
                    |lane| counts[lane % LANES] += 1,
                );
                steps += 1;
                if steps > limits.steps {
                    let past = |lane: &usize| block.steps[*lane] > limits.steps;
                    for lane in now.lanes.into_iter().filter(past).collect::<Vec<_>>() {
                        let times = u64::from(block.steps[lane]);
                        run.fault(block, lane, (Guard::Steps, Some(*site), times), out);
                    }
                    now.lanes = now.lanes.without(std::mem::take(&mut block.failed));
                    chosen = false;
                }
                now.at = *to;
                continue;
            }
            Op::Finite(reg) => {
                if let Some(bad) = now.lanes.not_finite(&block.regs[usize::from(*reg)]) {
                    for lane in bad {
                        run.not_finite(block, lane, out);
                    }
                    now.lanes = now.lanes.without(std::mem::take(&mut block.failed));
                    chosen = false;
                }
                now.at += 1;
                continue;
            }
            Op::JumpIfNot(condition, to) => {
                let (hold, fail) = now.lanes.part(&block.regs[usize::from(*condition)]);
                if fail.is_empty() {
                    now.at += 1;
                } else if hold.is_empty() {
                    now.at = *to;
                } else {
                    chosen = false;
                    let at = waiting.partition_point(|g| g.at > *to);
                    waiting.insert(at, Group { at: *to, lanes: fail });
                    now = Group { at: now.at + 1, lanes: hold };
                }
                continue;
            }
            Op::Done | Op::Wait(_) | Op::WaitBorn => {
                match &code.ops[now.at as usize] {
                    Op::Wait(time) => run.wait(block, now.lanes, Some(*time), now.at + 1, out),
                    Op::WaitBorn => run.wait(block, now.lanes, None, now.at + 1, out),
                    _ => {}
                }
                now.lanes = Chosen::first(0);
                continue;
            }
            Op::SendToAny { query, send, with, site, past } => {
                if run.send_to_any(block, now.lanes, (*query, *send, *with), *site, out) {
                    now.at = *past;
                    continue;
                }
            }
            op => {
                if !chosen {
                    block.choose(now.lanes);
                    chosen = true;
                }
                run.step(op, block, now.lanes, out);
                if !block.failed.is_empty() {
                    now.lanes = now.lanes.without(std::mem::take(&mut block.failed));
                    chosen = false;
                }
            }
        }
        now.at += 1;
    }
}
