//! Pushes and attachments: what is asked for is carried out in move; what hangs on a mount goes
//! where the mount goes.

use tickpond_lang::program::{KindId, Role};

use crate::angle;
use crate::engine::Engine;
use crate::event::{Event, Phase, What};
use crate::space;
use crate::state::{AttachRequest, Attachment, Chains, EntityId, State};

/// How far from its mount one may have been and still have been at it, in u: solids are rounded.
const AT_MOUNT: f64 = 1.0e-3;

/// How many a mount may hang on, one above the other, for something to be attached to it: each is asked whether it is the one
/// that is to be attached.
const MOST_ABOVE: usize = 1_000;

/// One that hangs on another: how deep, and who and where it is.
struct Hanging {
    depth: u32,
    serial: u64,
    kind: KindId,
    row: usize,
    root: EntityId,
    attachment: Attachment,
}

impl Engine {
    /// Adds up the pushes of each entity, in the order of the roll.
    pub(crate) fn pushes(&self, state: &mut State) {
        if state.pushes.is_empty() {
            return;
        }
        let mut pushes = std::mem::take(&mut state.pushes);
        pushes.sort_by_key(|push| push.key);
        for push in &pushes {
            let Some((kind, row)) = state.find(push.target) else { continue };
            let moves = &self.compiled.program.kinds[kind.index()];
            let columns = &mut state.kinds[kind.index()];
            let fixed = moves.matter.fixed || !matches!(moves.role, Role::Entity);
            if fixed || !columns.is_active(row) {
                continue;
            }
            let (vx, vy) = (columns.vx[row] + push.by.0, columns.vy[row] + push.by.1);
            if vx.is_finite() && vy.is_finite() {
                (columns.vx[row], columns.vy[row]) = (vx + 0.0, vy + 0.0);
            }
        }
        pushes.clear();
        state.pushes = pushes;
    }

    /// Makes and undoes attachments; of several requests for one entity the last of the roll stands.
    pub(crate) fn attachments(&mut self, state: &mut State, events: &mut Vec<Event>) {
        if state.attaching.is_empty() {
            return;
        }
        let mut requests = std::mem::take(&mut state.attaching);
        requests.sort_by_key(|r| r.key);
        for request in requests {
            let AttachRequest { target, to, by, site, .. } = request;
            let Some(who) = state.who(target) else { continue };
            let words = match to {
                Some(to) if state.find(to.owner).is_none() => continue,
                Some(to) => {
                    if let Some(why) = why_refused(state, to.owner, target) {
                        let mut event = Event::new(state.tick, Phase::Move, What::Refused, who);
                        event.words = Some(why.into());
                        event.site = Some(site);
                        events.push(event);
                        continue;
                    }
                    state.attached.insert(target, to);
                    "attached"
                }
                None => {
                    if state.attached.remove(&target).is_none() {
                        continue;
                    }
                    "let go"
                }
            };
            let mut event = Event::new(state.tick, Phase::Move, What::Attached, who);
            event.other = Some(to.and_then(|to| state.who(to.owner)).unwrap_or(by));
            event.words = Some(words.into());
            event.site = Some(site);
            events.push(event);
        }
    }

    /// Puts what hangs on a mount where the mount is now.
    pub(crate) fn carry_attached(&self, state: &mut State) {
        if state.attached.is_empty() {
            return;
        }
        let chains = Chains::of(&state.attached);
        let mut order: Vec<Hanging> = state
            .attached
            .iter()
            .zip(chains.each())
            .filter_map(|((id, attachment), (depth, root))| {
                let (kind, row) = state.find(*id)?;
                let serial = state.kinds[kind.index()].serial[row];
                Some(Hanging { depth, serial, kind, row, root, attachment: *attachment })
            })
            .collect();
        // Owners first, so that a chain moves as a whole.
        order.sort_unstable_by_key(|hanging| (hanging.depth, hanging.serial));
        let program = self.compiled.program.clone();
        for Hanging { kind, row, root, attachment, .. } in order {
            let Some((owner_kind, owner_row)) = state.find(attachment.owner) else { continue };
            let owner = &state.kinds[owner_kind.index()];
            let Some(mount) =
                program.kinds[owner_kind.index()].mounts.get(attachment.mount as usize)
            else {
                continue;
            };
            let heading = owner.heading[owner_row];
            let (dx, dy) = angle::turned(mount.at.0, mount.at.1, heading);
            let (x, y) = (owner.x[owner_row] + dx, owner.y[owner_row] + dy);
            // A mount goes round with a spin: v = w x r, w in rad/s.
            let spin = spin_of(state, root).to_radians();
            let vel = (owner.vx[owner_row] - spin * dy, owner.vy[owner_row] + spin * dx);
            let old_owner = owner.old_x.get(owner_row).zip(owner.old_y.get(owner_row));
            let old_owner = old_owner.map(|(x, y)| (*x, *y));
            let arena = &program.arena;
            let (wrap_x, wrap_y) = space::wraps(arena);
            let x = if wrap_x { space::wrapped(x, arena.low.0, arena.high.0) } else { x };
            let y = if wrap_y { space::wrapped(y, arena.low.1, arena.high.1) } else { y };
            let columns = &mut state.kinds[kind.index()];
            if let (Some(owner), false) = (old_owner, columns.old_x.is_empty()) {
                // It goes with its owner. Where it was not at the mount before, it was put there: a jump, as
                // is that of an owner, and nothing between is touched.
                let was = (columns.old_x[row], columns.old_y[row]);
                let off = space::offset(arena, owner, was);
                let strays = libm::hypot(off.0, off.1) - libm::hypot(mount.at.0, mount.at.1);
                if strays.abs() > AT_MOUNT {
                    columns.old_x.set(row, owner.0 + dx);
                    columns.old_y.set(row, owner.1 + dy);
                }
            }
            (columns.x[row], columns.y[row]) = (x + 0.0, y + 0.0);
            (columns.vx[row], columns.vy[row]) = (vel.0 + 0.0, vel.1 + 0.0);
            columns.heading[row] = angle::normal(heading + mount.facing);
        }
    }
}

/// What speaks against attaching one to another, if anything does.
fn why_refused(state: &State, owner: EntityId, target: EntityId) -> Option<&'static str> {
    let mut at = owner;
    for _ in 0..=MOST_ABOVE {
        if at == target {
            return Some("it would hang on itself");
        }
        at = state.attached.get(&at)?.owner;
    }
    Some("what it would hang on hangs on more than 1,000 others")
}

/// The spin of the one all of a chain hang on, in deg/s: what hangs faces where its mount does, whatever spin
/// it has of its own.
fn spin_of(state: &State, root: EntityId) -> f64 {
    state.find(root).map_or(0.0, |(kind, row)| {
        let columns = &state.kinds[kind.index()];
        if columns.is_active(row) { columns.spin[row] } else { 0.0 }
    })
}
