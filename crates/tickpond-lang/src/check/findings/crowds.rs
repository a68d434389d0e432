//! Who makes whom, how often, and who a request can be about.

use std::collections::{HashMap, HashSet};

use crate::program::walk;
use crate::program::*;

/// A birth that something asks for.
pub(super) struct Made<'p> {
    pub maker: KindId,
    /// The handler; `None` for a spawner's rule.
    pub handler: Option<&'p Handler>,
    pub birth: &'p Birth,
    pub site: SiteId,
    /// Whether one maker asks for it again and again.
    pub again: bool,
    /// Whether the maker is gone by it: it replaces itself, or ends in the same breath.
    pub instead: bool,
}

/// All births that are asked for but those of `place`.
pub(super) fn births(program: &Program) -> Vec<Made<'_>> {
    let mut births = Vec::new();
    for (maker, handler) in walk::handlers(program) {
        let mut once = is_once(handler);
        in_block(maker, handler, &handler.body, &mut once, &mut births);
    }
    for (i, kind) in program.kinds.iter().enumerate() {
        let Role::Spawner(rule) = &kind.role else { continue };
        if rule.muted {
            continue;
        }
        let capped = [&rule.keep_at_most, &rule.at_most, &rule.until];
        let bounded = capped.into_iter().any(Option::is_some)
            || rule.keep.is_some()
            || !matches!(rule.rhythm, Rhythm::Every { .. });
        births.push(Made {
            maker: KindId(i as u32),
            handler: None,
            birth: &rule.birth,
            site: rule.site,
            again: !bounded,
            instead: false,
        });
    }
    births
}

/// Whether the moment of a handler comes at most once for one entity.
fn is_once(handler: &Handler) -> bool {
    let once =
        matches!(handler.event, Event::Birth | Event::After(_) | Event::End(_) | Event::Routine(_));
    once && handler.state.is_none()
}

fn in_block<'p>(
    maker: KindId,
    handler: &'p Handler,
    body: &'p [Stmt],
    once: &mut bool,
    births: &mut Vec<Made<'p>>,
) {
    let ends = body.iter().any(|stmt| {
        matches!(&stmt.kind, StmtKind::Replace(_))
            || matches!(&stmt.kind, StmtKind::End { target: Whom::One(e), .. } if e.kind == ExprKind::Me)
    });
    let ends = ends || matches!(handler.event, Event::End(_));
    for stmt in body {
        match &stmt.kind {
            StmtKind::Spawn(birth) | StmtKind::SpawnAs(birth, _) | StmtKind::Replace(birth) => {
                let instead = ends || matches!(stmt.kind, StmtKind::Replace(_));
                let again = !*once && !instead;
                let birth: &Birth = birth;
                let handler = Some(handler);
                births.push(Made { maker, handler, birth, site: stmt.site, again, instead });
            }
            StmtKind::If { then, otherwise, .. } => {
                in_block(maker, handler, then, once, births);
                in_block(maker, handler, otherwise, once, births);
            }
            StmtKind::Repeat { times, body, .. } => {
                let mut inside = *once && times.is_some();
                in_block(maker, handler, body, &mut inside, births);
            }
            StmtKind::Each { body, .. } | StmtKind::Wave { body, .. } => {
                in_block(maker, handler, body, once, births);
            }
            StmtKind::Ray(ray) => {
                in_block(maker, handler, &ray.then, once, births);
                in_block(maker, handler, &ray.otherwise, once, births);
            }
            _ => {}
        }
    }
}

/// The kinds of which there are ever more, each with the line that makes them.
pub(super) fn endless(program: &Program) -> HashMap<KindId, SiteId> {
    let births = births(program);
    let mut endless: HashMap<KindId, SiteId> = HashMap::new();
    loop {
        let before = endless.len();
        for made in &births {
            let more =
                made.again || endless.contains_key(&made.maker) || breeds(program, &births, made);
            if more {
                for kind in walk::kinds_made(program, &made.birth.kind) {
                    endless.entry(kind).or_insert(made.site);
                }
            }
        }
        if endless.len() == before {
            return endless;
        }
    }
}

/// Whether what is born brings forth its maker's kind again, while the maker stays.
fn breeds(program: &Program, births: &[Made], made: &Made) -> bool {
    if made.instead || made.maker == POND {
        return false;
    }
    let (mut seen, mut open) = (HashSet::new(), walk::kinds_made(program, &made.birth.kind));
    while let Some(kind) = open.pop() {
        if kind == made.maker {
            return true;
        }
        if seen.insert(kind) {
            let next = births.iter().filter(|m| m.maker == kind);
            open.extend(next.flat_map(|m| walk::kinds_made(program, &m.birth.kind)));
        }
    }
    false
}

/// The kinds of which there may be several copies, at once or one after the other.
pub(super) fn several(program: &Program) -> HashSet<KindId> {
    let many = |birth: &Birth| {
        let each = matches!(birth.place, Where::Spots(_, Pick::Each));
        each || birth.count.as_ref().is_some_and(|n| constant(n, &[]).is_none_or(|n| n > 1.0))
    };
    let mut lines: HashMap<KindId, usize> = HashMap::new();
    let mut count = |birth: &Birth, many: bool| {
        for kind in walk::kinds_made(program, &birth.kind) {
            *lines.entry(kind).or_default() += if many { 2 } else { 1 };
        }
    };
    program.places.iter().for_each(|placed| count(&placed.birth, many(&placed.birth)));
    let births = births(program);
    for made in &births {
        // A rule with a rhythm makes one after the other, even where it is capped.
        let rhythm = match (&program.kinds[made.maker.index()].role, made.handler) {
            (Role::Spawner(rule), None) => !matches!(rule.rhythm, Rhythm::Once),
            _ => false,
        };
        count(made.birth, made.again || rhythm || many(made.birth));
    }
    let over_one = lines.into_iter().filter(|(_, lines)| *lines > 1).map(|(kind, _)| kind);
    let mut several: HashSet<KindId> = over_one.collect();
    loop {
        let before = several.len();
        for made in &births {
            if several.contains(&made.maker) {
                several.extend(walk::kinds_made(program, &made.birth.kind));
            }
        }
        if several.len() == before {
            return several;
        }
    }
}

/// The kinds a request of `owner` can be about: those of all values that what is named can have.
pub(super) fn whom(program: &Program, owner: KindId, whom: &Whom) -> Vec<KindId> {
    match whom {
        Whom::Each(query) => query.kinds.clone(),
        Whom::One(one) => kinds_of(program, owner, one, &mut Vec::new()),
    }
}

/// The kinds of all entities that an expression of `owner` can be; `seen` are variables that are being followed.
fn kinds_of(program: &Program, owner: KindId, one: &Expr, seen: &mut Vec<VarName>) -> Vec<KindId> {
    let by_type = |expr: &Expr| match &expr.ty {
        Ty::Entity(kinds) => kinds.clone(),
        _ => Vec::new(),
    };
    match &one.kind {
        ExprKind::Own(Field::Maker) => makers(program, &[owner]),
        ExprKind::Of(entity, Field::Maker) => makers(program, &by_type(entity)),
        ExprKind::Own(Field::Var(name)) if seen.contains(name) => Vec::new(),
        ExprKind::Own(Field::Var(name)) => {
            seen.push(*name);
            let values = values(program, owner, *name);
            let kinds = values.iter().flat_map(|(of, value)| kinds_of(program, *of, value, seen));
            let mut kinds: Vec<KindId> = kinds.collect();
            kinds.sort();
            kinds.dedup();
            kinds
        }
        _ => by_type(one),
    }
}

/// All values a variable of a kind can get, each with the kind that says so; nobody is none.
pub(super) fn values(program: &Program, owner: KindId, name: VarName) -> Vec<(KindId, &Expr)> {
    let mut values: Vec<(KindId, &Expr)> = Vec::new();
    let mut see = |of: KindId, value| {
        if !is_nobody(value) {
            values.push((of, value));
        }
    };
    program.var_of(owner, name).iter().for_each(|var| see(owner, &var.init));
    for handler in &program.kinds[owner.index()].handlers {
        walk::statements(&handler.body, &mut |stmt| match &stmt.kind {
            StmtKind::Set(Field::Var(set), value) if *set == name => see(owner, value),
            _ => {}
        });
    }
    let asked = walk::births(program).into_iter().map(|(maker, _, birth, _)| (maker, birth));
    for (maker, birth) in asked.chain(program.places.iter().map(|p| (POND, &p.birth))) {
        let given = birth.vars.iter().filter(|(given, _)| *given == name);
        if walk::kinds_made(program, &birth.kind).contains(&owner) {
            given.for_each(|(_, value)| see(maker, value));
        }
    }
    values
}

/// Whether a value is what a variable begins with that is declared by its kinds.
pub(super) fn is_nobody(value: &Expr) -> bool {
    matches!(value.kind, ExprKind::Named(_, 0))
}

/// The kinds that make any of these; the pond is none.
pub(super) fn makers(program: &Program, of: &[KindId]) -> Vec<KindId> {
    let makes =
        |birth: &Birth| walk::kinds_made(program, &birth.kind).iter().any(|kind| of.contains(kind));
    let made = births(program);
    let makers = made.iter().filter(|made| makes(made.birth)).map(|made| made.maker);
    let mut makers: Vec<KindId> = makers.filter(|maker| *maker != POND).collect();
    makers.sort();
    makers.dedup();
    makers
}

/// How a kind can end.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct WaysOut {
    /// By a moment that somebody has to be met for: a touch, an impact, a ray.
    pub by_meeting: bool,
    /// By any other.
    pub otherwise: bool,
}

/// How each kind can end, by its place in the list of kinds. Handlers whose moment cannot come end nobody.
pub(super) fn ways_out(program: &Program) -> Vec<WaysOut> {
    let health = program.kinds.iter().map(|k| k.health.is_some()).collect::<Vec<_>>();
    let mut ways = vec![WaysOut::default(); program.kinds.len()];
    for (owner, handler) in walk::handlers(program) {
        if super::moments::never_comes(program, owner, &handler.event).is_some() {
            continue;
        }
        let touch = matches!(
            handler.event,
            Event::Touch { .. } | Event::Part(_) | Event::WhileTouching(..) | Event::Impact(..)
        );
        let mut out = |kinds: &[KindId], meeting: bool| {
            for kind in kinds {
                let way = &mut ways[kind.index()];
                *(if meeting { &mut way.by_meeting } else { &mut way.otherwise }) = true;
            }
        };
        in_rays(&handler.body, touch, &mut |stmt, meeting| match &stmt.kind {
            StmtKind::Replace(_) => out(&[owner], meeting),
            StmtKind::End { target, .. } => out(&whom(program, owner, target), meeting),
            StmtKind::Damage { target, .. } => {
                let kinds = whom(program, owner, target);
                let kinds: Vec<KindId> = kinds.into_iter().filter(|k| health[k.index()]).collect();
                out(&kinds, meeting);
            }
            StmtKind::Blast(blast) if blast.damage.is_some() => {
                let kinds = (0..health.len()).map(|k| KindId(k as u32));
                let kinds: Vec<KindId> =
                    kinds.filter(|k| health[k.index()] && !blast.spares.contains(k)).collect();
                out(&kinds, true);
            }
            StmtKind::Spawn(birth) | StmtKind::SpawnAs(birth, _)
                if birth.attached == Some(false) =>
            {
                // It ends with its owner.
                out(&walk::kinds_made(program, &birth.kind), false);
            }
            StmtKind::Attach { target, outlives: false, .. } => {
                out(&whom(program, owner, &Whom::One(target.clone())), false);
            }
            _ => {}
        });
    }
    ways
}

/// Calls `see` for every statement, and whether somebody has to be met for it to be done.
fn in_rays<'p>(body: &'p [Stmt], meeting: bool, see: &mut impl FnMut(&'p Stmt, bool)) {
    for stmt in body {
        see(stmt, meeting);
        match &stmt.kind {
            StmtKind::If { then, otherwise, .. } => {
                in_rays(then, meeting, see);
                in_rays(otherwise, meeting, see);
            }
            StmtKind::Repeat { body, .. }
            | StmtKind::Wave { body, .. }
            | StmtKind::Each { body, .. } => in_rays(body, meeting, see),
            StmtKind::Ray(ray) => {
                in_rays(&ray.then, true, see);
                in_rays(&ray.otherwise, meeting, see);
            }
            _ => {}
        }
    }
}
