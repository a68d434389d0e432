//! Who makes whom, how often, and who a request can be about.

use std::cell::{OnceCell, RefCell};
use std::collections::{HashMap, HashSet, VecDeque};
use std::rc::Rc;

use crate::program::walk;
use crate::program::*;

/// A birth that something asks for.
pub(super) struct Made<'p> {
    pub maker: KindId,
    /// The handler; `None` for a spawner's rule.
    pub handler: Option<&'p Handler>,
    pub birth: &'p Birth,
    /// The kinds that it can be of.
    pub kinds: Rc<[KindId]>,
    pub site: SiteId,
    /// Whether one maker asks for it again and again.
    pub again: bool,
    /// Whether the maker is gone by it: it replaces itself, or ends in the same breath.
    pub instead: bool,
}

/// Who makes whom in a program, found once: what is asked of it costs no walk through the program.
pub(super) struct Crowds<'p> {
    program: &'p Program,
    /// All births that are asked for but those of `place`.
    pub births: Vec<Made<'p>>,
    /// By kind: who makes it, each once; the pond is none.
    makers: Vec<Vec<KindId>>,
    /// By kind: whether the pond makes it, or it is placed.
    pub from_pond: Vec<bool>,
    /// By kind and variable: the values it can get, each with the kind that says so.
    values: HashMap<(KindId, VarName), Vec<(KindId, &'p Expr)>>,
    /// By kind and variable: the kinds of those values, of those that were asked for.
    held: RefCell<HashMap<(KindId, VarName), Vec<KindId>>>,
}

impl<'p> Crowds<'p> {
    /// Finds who makes whom. Costs one walk through the program.
    pub fn of(program: &'p Program) -> Crowds<'p> {
        let made = KindsMade::of(program);
        let births = births(program, &made);
        let mut makers = vec![Vec::new(); program.kinds.len()];
        let mut from_pond = vec![false; program.kinds.len()];
        let mut values: HashMap<(KindId, VarName), Vec<(KindId, &'p Expr)>> = HashMap::new();
        let mut see = |of: KindId, by: KindId, name: VarName, value: &'p Expr| {
            if !is_nobody(value) {
                values.entry((of, name)).or_default().push((by, value));
            }
        };
        for (kind, code) in (0u32..).map(KindId).zip(&program.kinds) {
            code.vars.iter().for_each(|var| see(kind, kind, var.name, &var.init));
            for handler in &code.handlers {
                walk::statements(&handler.body, &mut |stmt| {
                    if let StmtKind::Set(Field::Var(name), value) = &stmt.kind {
                        see(kind, kind, *name, value);
                    }
                });
            }
        }
        let placed = program.places.iter().map(|p| (POND, &p.birth, made.kinds(&p.birth.kind)));
        let asked = births.iter().map(|made| (made.maker, made.birth, made.kinds.clone()));
        for (maker, birth, kinds) in placed.chain(asked) {
            for kind in &*kinds {
                match maker {
                    POND => from_pond[kind.index()] = true,
                    maker => makers[kind.index()].push(maker),
                }
                birth.vars.iter().for_each(|(name, value)| see(*kind, maker, *name, value));
            }
        }
        for makers in &mut makers {
            makers.sort_unstable();
            makers.dedup();
        }
        Crowds { program, births, makers, from_pond, values, held: RefCell::default() }
    }
}

/// The kinds that births make; those of a value that can be any are found once.
struct KindsMade<'p> {
    program: &'p Program,
    any: OnceCell<Rc<[KindId]>>,
}

impl<'p> KindsMade<'p> {
    fn of(program: &'p Program) -> KindsMade<'p> {
        KindsMade { program, any: OnceCell::new() }
    }

    fn kinds(&self, kind: &Expr) -> Rc<[KindId]> {
        let find = || walk::kinds_made(self.program, kind).into();
        match (&kind.kind, &kind.ty) {
            (ExprKind::Kind(_), _) | (_, Ty::KindOf(_)) => find(),
            _ => self.any.get_or_init(find).clone(),
        }
    }
}

fn births<'p>(program: &'p Program, made: &KindsMade) -> Vec<Made<'p>> {
    let mut births = Vec::new();
    for (maker, handler) in walk::handlers(program) {
        in_block((maker, handler), &handler.body, is_once(handler), made, &mut births);
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
            kinds: made.kinds(&rule.birth.kind),
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
    (maker, handler): (KindId, &'p Handler),
    body: &'p [Stmt],
    once: bool,
    made: &KindsMade,
    births: &mut Vec<Made<'p>>,
) {
    let ends = body.iter().any(|stmt| {
        matches!(&stmt.kind, StmtKind::Replace(_))
            || matches!(&stmt.kind, StmtKind::End { target: Whom::One(e), .. } if e.kind == ExprKind::Me)
    });
    let ends = ends || matches!(handler.event, Event::End(_));
    for stmt in body {
        let mut inside = |body: &'p [Stmt], once: bool| {
            in_block((maker, handler), body, once, made, births);
        };
        match &stmt.kind {
            StmtKind::Spawn(birth) | StmtKind::SpawnAs(birth, _) | StmtKind::Replace(birth) => {
                births.push(Made {
                    maker,
                    handler: Some(handler),
                    birth,
                    kinds: made.kinds(&birth.kind),
                    site: stmt.site,
                    again: !once && !ends,
                    instead: ends,
                });
            }
            StmtKind::If { then, otherwise, .. } => {
                inside(then, once);
                inside(otherwise, once);
            }
            StmtKind::Repeat { times, body, .. } => inside(body, once && times.is_some()),
            StmtKind::Each { body, .. } | StmtKind::Wave { body, .. } => inside(body, once),
            StmtKind::Ray(ray) => {
                inside(&ray.then, once);
                inside(&ray.otherwise, once);
            }
            _ => {}
        }
    }
}

impl Crowds<'_> {
    /// By kind: the line that makes ever more of it, if one does.
    pub fn endless(&self) -> Vec<Option<SiteId>> {
        let circles = self.circles();
        // Who brings forth its own kind again, while it stays.
        let breeds = |made: &Made| {
            let back = |kind: &KindId| circles[kind.index()] == circles[made.maker.index()];
            !made.instead && made.maker != POND && made.kinds.iter().any(back)
        };
        let mut endless = vec![None; self.program.kinds.len()];
        self.spread(
            |made| made.again || breeds(made),
            |kind, made| {
                let first = endless[kind.index()].is_none();
                endless[kind.index()].get_or_insert(made.site);
                first
            },
        );
        endless
    }

    /// By kind: whether there may be several copies, at once or one after the other.
    pub fn several(&self) -> Vec<bool> {
        let program = self.program;
        let many = |birth: &Birth| {
            let each = matches!(birth.place, Where::Spots(_, Pick::Each));
            each || birth.count.as_ref().is_some_and(|n| constant(n, &[]).is_none_or(|n| n > 1.0))
        };
        let mut lines = vec![0usize; program.kinds.len()];
        for placed in &program.places {
            let kinds = walk::kinds_made(program, &placed.birth.kind);
            let count = if many(&placed.birth) { 2 } else { 1 };
            kinds.iter().for_each(|kind| lines[kind.index()] += count);
        }
        for made in &self.births {
            // A rule with a rhythm makes one after the other, even where it is capped.
            let rhythm = match (&program.kinds[made.maker.index()].role, made.handler) {
                (Role::Spawner(rule), None) => !matches!(rule.rhythm, Rhythm::Once),
                _ => false,
            };
            let count = if made.again || rhythm || many(made.birth) { 2 } else { 1 };
            made.kinds.iter().for_each(|kind| lines[kind.index()] += count);
        }
        let mut several: Vec<bool> = lines.into_iter().map(|lines| lines > 1).collect();
        let begin = several.clone();
        self.spread(
            |made| begin[made.maker.index()],
            |kind, _| !std::mem::replace(&mut several[kind.index()], true),
        );
        several
    }

    /// Calls `take` with the kinds of the births that begin something, then with those that these kinds make, and so on
    /// where `take` says that the kind is new.
    fn spread(&self, begins: impl Fn(&Made) -> bool, mut take: impl FnMut(KindId, &Made) -> bool) {
        let mut of_maker: Vec<Vec<usize>> = vec![Vec::new(); self.program.kinds.len()];
        for (at, made) in self.births.iter().enumerate() {
            of_maker[made.maker.index()].push(at);
        }
        let mut open: VecDeque<usize> =
            (0..self.births.len()).filter(|at| begins(&self.births[*at])).collect();
        while let Some(at) = open.pop_front() {
            let made = &self.births[at];
            for kind in &*made.kinds {
                if take(*kind, made) {
                    open.extend(&of_maker[kind.index()]);
                }
            }
        }
    }

    /// By kind: the number of its circle. Kinds that bring forth each other, however many lie between, are of one circle
    /// (strongly connected components, by two searches in depth).
    fn circles(&self) -> Vec<usize> {
        let count = self.program.kinds.len();
        let (mut ahead, mut back) = (vec![Vec::new(); count], vec![Vec::new(); count]);
        for made in self.births.iter().filter(|made| made.maker != POND) {
            for kind in &*made.kinds {
                ahead[made.maker.index()].push(kind.index());
                back[kind.index()].push(made.maker.index());
            }
        }
        let mut seen = vec![false; count];
        let mut order = Vec::with_capacity(count);
        for start in 0..count {
            in_depth(&ahead, start, &mut seen, |kind| order.push(kind));
        }
        seen.fill(false);
        let mut circles = vec![0; count];
        for (number, start) in order.into_iter().rev().enumerate() {
            in_depth(&back, start, &mut seen, |kind| circles[kind] = number);
        }
        circles
    }

    /// The kinds a request of `owner` can be about: those of all values that what is named can have.
    pub fn whom(&self, owner: KindId, whom: &Whom) -> Vec<KindId> {
        match whom {
            Whom::Each(query) => query.kinds.clone(),
            Whom::One(one) => self.kinds_of(owner, one),
        }
    }

    /// The kinds of all entities that an expression of `owner` can be.
    fn kinds_of(&self, owner: KindId, one: &Expr) -> Vec<KindId> {
        let ExprKind::Own(Field::Var(name)) = one.kind else {
            return self.kinds_of_value(owner, one);
        };
        if let Some(known) = self.held.borrow().get(&(owner, name)) {
            return known.clone();
        }
        // Variables that are given each other's values are followed once each.
        let mut seen = HashSet::from([(owner, name)]);
        let (mut open, mut kinds) = (vec![(owner, name)], Vec::new());
        while let Some((of, name)) = open.pop() {
            for (by, value) in self.values(of, name) {
                match value.kind {
                    ExprKind::Own(Field::Var(other)) if seen.insert((*by, other)) => {
                        open.push((*by, other));
                    }
                    ExprKind::Own(Field::Var(_)) => {}
                    _ => kinds.extend(self.kinds_of_value(*by, value)),
                }
            }
        }
        kinds.sort_unstable();
        kinds.dedup();
        self.held.borrow_mut().insert((owner, name), kinds.clone());
        kinds
    }

    /// The same of what is no variable of its own.
    fn kinds_of_value(&self, owner: KindId, value: &Expr) -> Vec<KindId> {
        let by_type = |expr: &Expr| match &expr.ty {
            Ty::Entity(kinds) => kinds.clone(),
            _ => Vec::new(),
        };
        match &value.kind {
            ExprKind::Own(Field::Maker) => self.makers(&[owner]),
            ExprKind::Of(entity, Field::Maker) => self.makers(&by_type(entity)),
            _ => by_type(value),
        }
    }

    /// All values a variable of a kind can get, each with the kind that says so; nobody is none.
    pub fn values(&self, owner: KindId, name: VarName) -> &[(KindId, &Expr)] {
        self.values.get(&(owner, name)).map_or(&[], |values| values)
    }

    /// The kinds that make any of these; the pond is none.
    pub fn makers(&self, of: &[KindId]) -> Vec<KindId> {
        let makers = of.iter().flat_map(|kind| &self.makers[kind.index()]);
        let mut makers: Vec<KindId> = makers.copied().collect();
        makers.sort_unstable();
        makers.dedup();
        makers
    }
}

/// Calls `leave` with what is reached from a place and was not seen, each behind all that is reached from it.
fn in_depth(next: &[Vec<usize>], start: usize, seen: &mut [bool], mut leave: impl FnMut(usize)) {
    if std::mem::replace(&mut seen[start], true) {
        return;
    }
    let mut path = vec![(start, 0)];
    while let Some((here, nth)) = path.last_mut() {
        let to = next[*here].get(*nth).copied();
        *nth += 1;
        match to {
            Some(to) if !std::mem::replace(&mut seen[to], true) => path.push((to, 0)),
            Some(_) => {}
            None => {
                leave(*here);
                path.pop();
            }
        }
    }
}

/// Whether a value is what a variable begins with that is declared by its kinds.
pub(super) fn is_nobody(value: &Expr) -> bool {
    matches!(value.kind, ExprKind::Named(_, 0))
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
pub(super) fn ways_out(crowds: &Crowds) -> Vec<WaysOut> {
    let program = crowds.program;
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
            StmtKind::End { target, .. } => out(&crowds.whom(owner, target), meeting),
            StmtKind::Damage { target, .. } => {
                let kinds = crowds.whom(owner, target);
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
                out(&crowds.kinds_of(owner, target), false);
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
