//! Walks over a program.

use super::*;

/// Calls `see` for every statement, those in blocks after the one that holds them.
pub fn statements<'p>(body: &'p [Stmt], see: &mut impl FnMut(&'p Stmt)) {
    for stmt in body {
        see(stmt);
        match &stmt.kind {
            StmtKind::If { then, otherwise, .. } => {
                statements(then, see);
                statements(otherwise, see);
            }
            StmtKind::Repeat { body, .. }
            | StmtKind::Wave { body, .. }
            | StmtKind::Each { body, .. } => statements(body, see),
            StmtKind::Ray(ray) => {
                statements(&ray.then, see);
                statements(&ray.otherwise, see);
            }
            _ => {}
        }
    }
}

/// Calls `see` for an expression and all those in it.
pub fn inside<'p>(expr: &'p Expr, see: &mut impl FnMut(&'p Expr)) {
    see(expr);
    match &expr.kind {
        ExprKind::Pair(a, b) | ExprKind::Binary(_, a, b) => {
            inside(a, see);
            inside(b, see);
        }
        ExprKind::Part(e, _)
        | ExprKind::Of(e, _)
        | ExprKind::Negate(e)
        | ExprKind::Not(e)
        | ExprKind::DirectionTo(e)
        | ExprKind::DistanceTo(e)
        | ExprKind::Alive(e)
        | ExprKind::Inside(e, _)
        | ExprKind::IsKind(e, _)
        | ExprKind::WaveCount(e) => inside(e, see),
        ExprKind::With { value, body, .. } => {
            inside(value, see);
            inside(body, see);
        }
        ExprKind::Near(a, b, c) => [a, b, c].into_iter().for_each(|e| inside(e, see)),
        ExprKind::Call(_, args) => args.iter().for_each(|e| inside(e, see)),
        ExprKind::Random { low, high, .. } => {
            inside(low, see);
            inside(high, see);
        }
        ExprKind::Query(query) => of_query(query, see),
        ExprKind::Text(parts) => of_text(parts, see),
        _ => {}
    }
}

fn of_text<'p>(parts: &'p [TextPart], see: &mut impl FnMut(&'p Expr)) {
    for part in parts {
        if let TextPart::Value(value) = part {
            inside(value, see);
        }
    }
}

fn of_query<'p>(query: &'p Query, see: &mut impl FnMut(&'p Expr)) {
    if let Some((distance, from)) = &query.within {
        inside(distance, see);
        from.iter().for_each(|e| inside(e, see));
    }
    query.condition.iter().chain(&query.value).for_each(|e| inside(e, see));
}

fn of_whom<'p>(whom: &'p Whom, see: &mut impl FnMut(&'p Expr)) {
    match whom {
        Whom::One(e) => inside(e, see),
        Whom::Each(query) => of_query(query, see),
    }
}

fn of_birth<'p>(birth: &'p Birth, see: &mut impl FnMut(&'p Expr)) {
    inside(&birth.kind, see);
    let options = [
        &birth.count,
        &birth.facing,
        &birth.toward,
        &birth.speed,
        &birth.vel,
        &birth.spread,
        &birth.spaced,
        &birth.health,
        &birth.push,
    ];
    options.into_iter().flatten().for_each(|e| inside(e, see));
    birth.vars.iter().for_each(|(_, e)| inside(e, see));
    birth.label.iter().for_each(|parts| of_text(parts, see));
    match &birth.place {
        Where::Point(e) | Where::Entity(e) => inside(e, see),
        Where::Around(a, b) | Where::Ring(a, b) => {
            inside(a, see);
            inside(b, see);
        }
        _ => {}
    }
    for filter in &birth.filters {
        match filter {
            Filter::NotInView(Some(e)) | Filter::NotNearKinds(e, _) => inside(e, see),
            Filter::NotNearPlace(a, b) => {
                inside(a, see);
                inside(b, see);
            }
            _ => {}
        }
    }
}

/// Calls `see` for the expressions of one statement, those of the blocks in it left out.
pub fn of_statement<'p>(stmt: &'p Stmt, see: &mut impl FnMut(&'p Expr)) {
    match &stmt.kind {
        StmtKind::Set(_, e)
        | StmtKind::Add(_, e)
        | StmtKind::Let(_, e)
        | StmtKind::Wait(e)
        | StmtKind::WaitUntil(e)
        | StmtKind::Show(_, e) => inside(e, see),
        StmtKind::Spawn(b) | StmtKind::SpawnAs(b, _) | StmtKind::Replace(b) => of_birth(b, see),
        StmtKind::Become { time, .. } => time.iter().for_each(|e| inside(e, see)),
        StmtKind::Push { target, by, along } => {
            of_whom(target, see);
            inside(by, see);
            along.iter().for_each(|e| inside(e, see));
        }
        StmtKind::Ray(ray) => {
            ray.from.iter().for_each(|e| inside(e, see));
            inside(&ray.along, see);
            inside(&ray.reach, see);
            of_query(&ray.hits, see);
        }
        StmtKind::Blast(blast) => {
            inside(&blast.at, see);
            inside(&blast.radius, see);
            blast.damage.iter().chain(&blast.push).for_each(|e| inside(e, see));
        }
        StmtKind::Attach { target, owner, .. } => {
            inside(target, see);
            owner.iter().for_each(|e| inside(e, see));
        }
        StmtKind::Detach(whom)
        | StmtKind::Activate(whom, _)
        | StmtKind::End { target: whom, .. } => {
            of_whom(whom, see);
        }
        StmtKind::Each { query, .. } => of_query(query, see),
        StmtKind::Damage { target, amount, credit } => {
            of_whom(target, see);
            inside(amount, see);
            credit.iter().for_each(|e| inside(e, see));
        }
        StmtKind::Heal { target, amount } => {
            of_whom(target, see);
            inside(amount, see);
        }
        StmtKind::Send { values, to, .. } => {
            values.iter().for_each(|e| inside(e, see));
            match to {
                Target::One(e) => inside(e, see),
                Target::Each(query) => of_query(query, see),
                Target::Pond | Target::All => {}
            }
        }
        StmtKind::If { condition, .. } => inside(condition, see),
        StmtKind::Repeat { times, .. } => times.iter().for_each(|e| inside(e, see)),
        StmtKind::Say(parts) => of_text(parts, see),
        StmtKind::Wave { .. } => {}
    }
}

/// Calls `see` for every expression of a handler's head.
pub fn of_event<'p>(event: &'p Event, see: &mut impl FnMut(&'p Expr)) {
    match event {
        Event::After(e)
        | Event::Every(e)
        | Event::WhileHeld(_, e)
        | Event::When(e)
        | Event::Line(_, e) => inside(e, see),
        Event::Touch { other, .. } | Event::Part(other) => {
            other.filter.iter().for_each(|e| inside(e, see));
        }
        Event::WhileTouching(other, e) | Event::Impact(other, e) => {
            other.filter.iter().for_each(|e| inside(e, see));
            inside(e, see);
        }
        _ => {}
    }
}

fn of_check<'p>(check: &'p Check, see: &mut impl FnMut(&'p Expr)) {
    let (holds, event) = match check {
        Check::Always(e) | Check::Never(e) | Check::InTheEnd(e) => (Some(e), None),
        Check::At(_, e) | Check::By(_, e) | Check::From(_, _, e) => (Some(e), None),
        Check::AfterWithin { event, holds, .. } | Check::AfterFor { event, holds, .. } => {
            (Some(holds), Some(event))
        }
        Check::LivesAtMost(t, _)
        | Check::LivesAtLeast(t, _)
        | Check::EndsBy(t, _)
        | Check::HurtAtMost(t, _) => (t.condition.as_ref(), None),
    };
    holds.iter().for_each(|e| inside(e, see));
    if let Some(Happening::Turns(e)) = event {
        inside(e, see);
    }
}

/// Calls `see` for every expression of a program.
pub fn everywhere<'p>(program: &'p Program, see: &mut impl FnMut(&'p Expr)) {
    for kind in &program.kinds {
        kind.vars.iter().for_each(|v| inside(&v.init, see));
        kind.health.iter().for_each(|e| inside(e, see));
        for handler in &kind.handlers {
            of_event(&handler.event, see);
            statements(&handler.body, &mut |stmt| of_statement(stmt, see));
        }
        if let Role::Spawner(rule) = &kind.role {
            of_birth(&rule.birth, see);
            rule.birth.count.iter().for_each(|e| inside(e, see));
            match &rule.rhythm {
                Rhythm::Every { period: e, .. } | Rhythm::AgainAfterEnd(e) => inside(e, see),
                Rhythm::Once => {}
            }
            let keep = rule.keep.as_ref().map(|(e, _)| e);
            let lines = [&rule.keep_at_most, &rule.at_most, &rule.from, &rule.until];
            lines.into_iter().flatten().chain(keep).for_each(|e| inside(e, see));
        }
    }
    program.places.iter().for_each(|p| of_birth(&p.birth, see));
    program.watches.iter().for_each(|w| inside(&w.value, see));
    program.expects.iter().for_each(|e| of_check(&e.check, see));
}

/// The times clocks are set to: periods, delays, waits.
pub fn clock_times(program: &Program) -> Vec<&Expr> {
    let mut times: Vec<&Expr> = Vec::new();
    for (_, handler) in handlers(program) {
        match &handler.event {
            Event::Every(t)
            | Event::After(t)
            | Event::WhileHeld(_, t)
            | Event::WhileTouching(_, t) => times.push(t),
            _ => {}
        }
        statements(&handler.body, &mut |stmt| match &stmt.kind {
            StmtKind::Wait(t) | StmtKind::Become { time: Some(t), .. } => times.push(t),
            _ => {}
        });
    }
    for kind in &program.kinds {
        if let Role::Spawner(rule) = &kind.role
            && let Rhythm::Every { period, .. } = &rule.rhythm
        {
            times.push(period);
        }
    }
    // A behaviour's line stands in every kind that uses it.
    times.sort_by_key(|t| t.span);
    times.dedup_by_key(|t| t.span);
    times
}

/// The kinds a request can be about; `None` if they are not known here.
pub fn whom(whom: &Whom) -> Option<&[KindId]> {
    match whom {
        Whom::Each(query) => Some(&query.kinds),
        Whom::One(e) => match &e.kind {
            // Whoever the maker may be is not known here.
            ExprKind::Own(Field::Maker) | ExprKind::Of(_, Field::Maker) => None,
            _ => match &e.ty {
                Ty::Entity(kinds) => Some(kinds),
                _ => None,
            },
        },
    }
}

/// Where a request says whom.
pub fn whom_span(program: &Program, whom: &Whom, site: SiteId) -> crate::diagnostic::Span {
    match whom {
        Whom::One(e) => e.span,
        Whom::Each(_) => program.sites[site.index()].span,
    }
}

/// All handlers that are not muted, with their kinds.
pub fn handlers(program: &Program) -> impl Iterator<Item = (KindId, &Handler)> {
    let kinds = program.kinds.iter().enumerate();
    kinds
        .flat_map(|(i, kind)| kind.handlers.iter().map(move |h| (KindId(i as u32), h)))
        .filter(|(_, h)| !h.muted)
}

/// The kinds a value of the type kind can be: itself if it is named, else any that is named as a
/// value somewhere, as the default or the argument of a parameter.
pub fn kinds_made(program: &Program, kind: &Expr) -> Vec<KindId> {
    match kind.kind {
        ExprKind::Kind(id) => vec![id],
        _ => match &kind.ty {
            Ty::KindOf(these) => these.clone(),
            _ => kind_values(program),
        },
    }
}

fn kind_values(program: &Program) -> Vec<KindId> {
    let mut found = Vec::new();
    let mut see = |expr: &Expr| {
        if let ExprKind::Kind(id) = expr.kind {
            found.push(id);
        }
    };
    for var in program.kinds.iter().flat_map(|k| &k.vars) {
        see(&var.init);
    }
    for place in &program.places {
        place.birth.vars.iter().for_each(|(_, value)| see(value));
    }
    for (_, handler) in handlers(program) {
        statements(&handler.body, &mut |stmt| match &stmt.kind {
            StmtKind::Set(_, value) | StmtKind::Let(_, value) => see(value),
            StmtKind::Spawn(birth) | StmtKind::SpawnAs(birth, _) | StmtKind::Replace(birth) => {
                birth.vars.iter().for_each(|(_, v)| see(v));
            }
            StmtKind::Send { values, .. } => values.iter().for_each(&mut see),
            _ => {}
        });
    }
    found.sort();
    found.dedup();
    found
}

/// Births a kind asks for: the handler or rule they stand in, and the birth.
pub fn births(program: &Program) -> Vec<(KindId, Option<&Handler>, &Birth, SiteId)> {
    let mut births = Vec::new();
    for (kind, handler) in handlers(program) {
        statements(&handler.body, &mut |stmt| {
            if let StmtKind::Spawn(birth) | StmtKind::SpawnAs(birth, _) | StmtKind::Replace(birth) =
                &stmt.kind
            {
                births.push((kind, Some(handler), birth.as_ref(), stmt.site));
            }
        });
    }
    for (i, kind) in program.kinds.iter().enumerate() {
        if let Role::Spawner(rule) = &kind.role
            && !rule.muted
        {
            births.push((KindId(i as u32), None, &rule.birth, rule.site));
        }
    }
    births
}
