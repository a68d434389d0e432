//! What a name means, and the fields of entities and pairs.

use super::checker::Checker;
use super::expr::unknown;
use super::names::Symbol;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::model::Sort;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};
use crate::units::Dim;

impl Checker {
    // Names.

    pub(super) fn name_expr(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let Some(token) = node.name() else { return unknown() };
        let name = token.text();
        let span = self.span(node);
        if let Some((id, ty)) = scope.find(name) {
            self.note_local(span, id, scope);
            return (ExprKind::Local(id), ty);
        }
        if let Some(bound) = scope.find_bound(name) {
            self.model.refer(span, bound.span);
            return (ExprKind::Bound(bound.id), bound.ty.clone());
        }
        if let Some(kinds) = scope.candidates.clone()
            && let Some(found) = self.field_of(&kinds, name)
        {
            self.note_field(span, &kinds, &found.0);
            return (ExprKind::Its(found.0), found.1);
        }
        if matches!(name, "true" | "false" | "self" | "here" | "maker" | "view" | "pond") {
            self.note_word(span, Sort::Word);
        }
        match name {
            "true" => return (ExprKind::Truth(true), Ty::Truth),
            "false" => return (ExprKind::Truth(false), Ty::Truth),
            "self" | "here" | "maker" => return self.own_word(name, span, scope),
            "view" if self.program.view.is_some() => return (ExprKind::View, Ty::PLACE),
            "pond" => {
                let message = "the pond is no entity; it only hears messages: `send … to pond`";
                self.error(Code::OutOfPlace, span, message);
                return unknown();
            }
            _ => {}
        }
        if let Some(param) = scope.find_param(name) {
            self.model.refer(span, param.span);
            return (param.value.kind.clone(), param.value.ty.clone());
        }
        if let Some((field, ty)) = self.own_field(scope, name) {
            self.note_field(span, &[scope.owner], &field);
            return (ExprKind::Own(field), ty);
        }
        self.symbol_expr(name, span, scope)
    }

    /// A field of the scope's owner; those of the behaviour in it go first.
    pub(super) fn own_field(&self, scope: &Scope, name: &str) -> Option<(Field, Ty)> {
        let part = scope.part.as_ref().and_then(|p| self.part_field(&[scope.owner], &p.name, name));
        part.or_else(|| self.field_of(&[scope.owner], name))
    }

    /// A field of a behaviour these kinds use: its variable, or its state.
    pub(super) fn part_field(
        &self,
        kinds: &[KindId],
        part: &str,
        name: &str,
    ) -> Option<(Field, Ty)> {
        if name == "state"
            && let Some(states) = self.states_of_track(kinds, part)
        {
            let track = self.program.track_names.iter().position(|n| n == part)?;
            return Some((Field::State(TrackName(track as u32)), Ty::State(states)));
        }
        self.var_field(kinds, &format!("{part}.{name}"))
    }

    pub(super) fn own_word(&mut self, name: &str, span: Span, scope: &Scope) -> (ExprKind, Ty) {
        if scope.owner == POND {
            let message = format!("`{name}` means an entity, and the pond is none");
            let diagnostic = Diagnostic::new(Code::OutOfPlace, span, message)
                .with_help("move this into a kind, or name the entity");
            self.report(diagnostic);
            return unknown();
        }
        let everyone = || self.program.entity_kinds().map(|(id, _)| id).collect();
        match name {
            "self" => (ExprKind::Me, Ty::Entity(vec![scope.owner])),
            "here" => (ExprKind::Own(Field::Pos), Ty::PLACE),
            _ => (ExprKind::Own(Field::Maker), Ty::Entity(everyone())),
        }
    }

    pub(super) fn symbol_expr(&mut self, name: &str, span: Span, scope: &Scope) -> (ExprKind, Ty) {
        self.note_symbol(name, span);
        match self.symbol(name) {
            Some(Symbol::Knob(id)) if id.index() < self.program.knobs.len() => {
                self.names.used(name);
                (ExprKind::Knob(id), Ty::Num(self.program.knobs[id.index()].dim))
            }
            Some(Symbol::Kind(id) | Symbol::Spawner(id)) => {
                self.names.used(name);
                (ExprKind::Kind(id), Ty::Kind)
            }
            Some(Symbol::Watch) => {
                let watch = self.names.watch_at(name).and_then(|at| self.program.watches.get(at));
                match watch.map(|w| w.value.clone()) {
                    Some(value) => (value.kind, value.ty),
                    None => {
                        let message = format!("the watch `{name}` is declared further down");
                        let diagnostic = Diagnostic::new(Code::OutOfPlace, span, message)
                            .with_help("move it above this line");
                        self.report(diagnostic);
                        unknown()
                    }
                }
            }
            Some(Symbol::Input(id)) if self.program.inputs[id.index()].pointer => {
                self.names.used(name);
                (ExprKind::Pointer(id), Ty::PLACE)
            }
            Some(Symbol::Spots(_)) => {
                let message = format!("`{name}` is a group of spots, not one place");
                let diagnostic = Diagnostic::new(Code::WrongSort, span, message)
                    .with_help(format!("write `{name}.1` for its first spot"));
                self.report(diagnostic);
                unknown()
            }
            Some(symbol) => {
                let message = format!("expected a value, found {} `{name}`", symbol.noun());
                self.error(Code::WrongSort, span, message);
                unknown()
            }
            None => self.pond_var(name, span, scope),
        }
    }

    fn pond_var(&mut self, name: &str, span: Span, scope: &Scope) -> (ExprKind, Ty) {
        let var_name = self.places.vars.get(name).map(|at| VarName(*at));
        if let Some(var) = var_name.and_then(|n| self.program.var_of(POND, n)) {
            let found = (ExprKind::PondVar(var.name), var.ty.clone());
            let field = Field::Var(var.name);
            self.note_field(span, &[POND], &field);
            return found;
        }
        let mut candidates = self.names.of(|s| {
            matches!(
                s,
                Symbol::Knob(_)
                    | Symbol::Kind(_)
                    | Symbol::Spawner(_)
                    | Symbol::Spots(_)
                    | Symbol::Watch
            )
        });
        if self.names.may_look_at(scope.locals.len()) {
            candidates.extend(scope.names());
        }
        let mounts = &self.program.kinds[scope.owner.index()].mounts;
        candidates.extend(mounts.iter().map(|mount| mount.name.clone()));
        candidates.extend(self.field_names(&[scope.owner]));
        candidates.extend(scope.candidates.iter().flat_map(|kinds| self.field_names(kinds)));
        self.unknown_name(span, name, "value", candidates.iter().map(String::as_str));
        unknown()
    }

    // Fields.

    /// The field with this name that all these kinds have, and its type.
    pub(super) fn field_of(&self, kinds: &[KindId], name: &str) -> Option<(Field, Ty)> {
        let number = |field, dim| Some((field, Ty::Num(dim)));
        let kind_of = |id: &KindId| &self.program.kinds[id.index()];
        let entities = kinds.iter().all(|id| !matches!(kind_of(id).role, Role::Pond));
        if entities {
            match name {
                "pos" => return Some((Field::Pos, Ty::PLACE)),
                "vel" => return Some((Field::Vel, Ty::Pair(Dim::SPEED))),
                "heading" => return number(Field::Heading, Dim::ANGLE),
                "speed" => return number(Field::Speed, Dim::SPEED),
                "spin" => return number(Field::Spin, Dim::SPIN),
                "age" => return number(Field::Age, Dim::TIME),
                "health" if kinds.iter().any(|id| kind_of(id).health.is_some()) => {
                    return number(Field::Health, Dim::NONE);
                }
                "name" => return Some((Field::Name, Ty::Text)),
                "label" => return Some((Field::Label, Ty::Text)),
                "active" => return Some((Field::Active, Ty::Truth)),
                "down" if kinds.iter().any(|id| kind_of(id).health.is_some()) => {
                    return Some((Field::Down, Ty::Truth));
                }
                "resting" if kinds.iter().any(|id| kind_of(id).matter.solid) => {
                    return Some((Field::Resting, Ty::Truth));
                }
                "state" => {
                    if let Some(states) = self.states_of_track(kinds, "") {
                        return Some((Field::State(TrackName(0)), Ty::State(states)));
                    }
                }
                "maker" => {
                    let everyone = self.program.entity_kinds().map(|(id, _)| id).collect();
                    return Some((Field::Maker, Ty::Entity(everyone)));
                }
                _ => {}
            }
        }
        self.var_field(kinds, name)
    }

    fn var_field(&self, kinds: &[KindId], name: &str) -> Option<(Field, Ty)> {
        let at = self.program.var_names.iter().position(|n| n == name)?;
        let var_name = VarName(at as u32);
        let mut types = kinds.iter().map(|id| self.program.var_of(*id, var_name).map(|v| &v.ty));
        let first = types.next()??.clone();
        types.all(|ty| ty == Some(&first)).then_some((Field::Var(var_name), first))
    }

    /// Names of all fields these kinds have, for near misses.
    pub(super) fn field_names(&self, kinds: &[KindId]) -> Vec<String> {
        let built_in = crate::words::FIELDS.iter().map(|n| n.to_string());
        let vars = kinds.iter().flat_map(|id| &self.program.kinds[id.index()].vars);
        let may_look = self.names.may_look_at(vars.clone().count() * kinds.len());
        let vars =
            vars.filter(|_| may_look).map(|v| self.program.var_names[v.name.index()].clone());
        // All variables of one kind are its fields.
        let is_field = |name: &String| kinds.len() == 1 || self.field_of(kinds, name).is_some();
        let built_in = built_in.filter(|name| self.field_of(kinds, name).is_some());
        built_in.chain(vars.filter(is_field)).collect()
    }

    pub(super) fn field_expr(&mut self, node: &Node, scope: &mut Scope) -> (ExprKind, Ty) {
        let Some(base_node) = node.expr() else { return unknown() };
        if let Some(number) = node.token(S::Number) {
            return self.spot_expr(&base_node, &number);
        }
        let Some(token) = node.name() else { return unknown() };
        if let Some(found) = self.field_of_part(&base_node, &token, scope) {
            return found;
        }
        let base = self.expr(&base_node, scope);
        match base.ty.clone() {
            Ty::Ray(kinds) => self.ray_field(base, kinds, &token),
            Ty::Impact(kinds) => self.impact_field(base, kinds, &token),
            Ty::Pair(dim) => match token.text() {
                side @ ("x" | "y") => {
                    self.note_part(&token);
                    (ExprKind::Part(base.into(), usize::from(side == "y") as u8), Ty::Num(dim))
                }
                _ => {
                    let diagnostic = Diagnostic::new(
                        Code::NoSuchField,
                        self.shifted(token.text_range().into()),
                        format!("{} has `x` and `y`, not `{}`", base.ty.noun(), token.text()),
                    );
                    self.report(diagnostic);
                    unknown()
                }
            },
            Ty::Entity(kinds) => self.entity_field(base, &kinds, &token),
            Ty::Unknown => unknown(),
            other => {
                let message = format!("{} has no fields", other.noun());
                let diagnostic = Diagnostic::new(Code::NoSuchField, self.span(node), message);
                let source = node.text().to_string();
                self.report(match other {
                    Ty::Kind => diagnostic.with_help(format!(
                        "write `sum({source})` for all of them, or name one: `nearest(…)`"
                    )),
                    _ => diagnostic,
                });
                unknown()
            }
        }
    }

    /// `flashes.state`, `lily#2.flashes.state`: a field of a behaviour.
    fn field_of_part(
        &mut self,
        base: &Node,
        token: &Token,
        scope: &mut Scope,
    ) -> Option<(ExprKind, Ty)> {
        let part = base.name()?;
        if !matches!(self.names.get(part.text()), Some(Symbol::Behavior(_))) {
            return None;
        }
        self.names.used(part.text());
        self.symbol_at(&part);
        let (kinds, entity) = match base.kind() {
            S::NameExpr => match &scope.candidates {
                Some(kinds) => (kinds.clone(), None),
                None => (vec![scope.owner], None),
            },
            S::FieldExpr => {
                let entity = self.expr(&base.expr()?, scope);
                match &entity.ty {
                    Ty::Entity(kinds) => (kinds.clone(), Some(entity)),
                    _ => return None,
                }
            }
            _ => return None,
        };
        let span = self.token_span(token);
        let Some((field, ty)) = self.part_field(&kinds, part.text(), token.text()) else {
            let message = format!("there is no `{}.{}` here", part.text(), token.text());
            let diagnostic = Diagnostic::new(Code::NoSuchField, span, message)
                .with_help(format!("the kind needs a line `uses {}`", part.text()));
            self.report(diagnostic);
            return Some(unknown());
        };
        self.note_field(span, &kinds, &field);
        let kind = match entity {
            None if scope.candidates.is_some() => ExprKind::Its(field),
            None => ExprKind::Own(field),
            Some(entity) => match entity.kind {
                ExprKind::Me => ExprKind::Own(field),
                ExprKind::It => ExprKind::Its(field),
                _ => ExprKind::Of(entity.into(), field),
            },
        };
        Some((kind, ty))
    }

    fn ray_field(&mut self, base: Expr, kinds: Vec<KindId>, token: &Token) -> (ExprKind, Ty) {
        let ExprKind::Local(local) = base.kind else { return unknown() };
        self.note_part(token);
        match token.text() {
            "target" => (ExprKind::RayPart(local, RayPart::Target), Ty::Entity(kinds)),
            "length" => (ExprKind::RayPart(local, RayPart::Length), Ty::Num(Dim::LENGTH)),
            "place" => (ExprKind::RayPart(local, RayPart::Place), Ty::PLACE),
            other => self.no_part("a ray", "`target`, `length` and `place`", other, token),
        }
    }

    fn impact_field(&mut self, base: Expr, kinds: Vec<KindId>, token: &Token) -> (ExprKind, Ty) {
        let ExprKind::Local(local) = base.kind else { return unknown() };
        self.note_part(token);
        match token.text() {
            "other" => (ExprKind::RayPart(local, RayPart::Target), Ty::Entity(kinds)),
            "speed" => (ExprKind::RayPart(local, RayPart::Speed), Ty::Num(Dim::SPEED)),
            "velocity" => (ExprKind::RayPart(local, RayPart::Velocity), Ty::Pair(Dim::SPEED)),
            other => self.no_part("an impact", "`other`, `speed` and `velocity`", other, token),
        }
    }

    /// Notes a part of a value: `x`, `target`.
    fn note_part(&mut self, token: &Token) {
        let span = self.token_span(token);
        self.note_word(span, Sort::Field);
    }

    fn no_part(&mut self, noun: &str, parts: &str, name: &str, token: &Token) -> (ExprKind, Ty) {
        let span = self.shifted(token.text_range().into());
        self.error(Code::NoSuchField, span, format!("{noun} has {parts}, not `{name}`"));
        unknown()
    }

    /// Who of these has no such field: all, or those that lack what the others have.
    pub(super) fn lacks(&self, kinds: &[KindId], field: &str) -> String {
        let without = |id: &&KindId| self.field_of(&[**id], field).is_none();
        let lacking: Vec<&KindId> = kinds.iter().filter(without).collect();
        let name = |id: &KindId| format!("`{}`", self.program.kinds[id.index()].name);
        match (kinds, lacking.as_slice()) {
            ([one], _) => format!("{} has no field `{field}`", name(one)),
            (_, [one]) => format!("{} has no field `{field}`", name(one)),
            (_, []) => format!("`{field}` is not the same in all this can be"),
            (_, [one, other]) => {
                format!("{} and {} have no field `{field}`", name(one), name(other))
            }
            (_, [one, rest @ ..]) => {
                format!("{} and {} others have no field `{field}`", name(one), rest.len())
            }
        }
    }

    fn entity_field(&mut self, base: Expr, kinds: &[KindId], token: &Token) -> (ExprKind, Ty) {
        if let Some((field, ty)) = self.field_of(kinds, token.text()) {
            let span = self.token_span(token);
            self.note_field(span, kinds, &field);
            let kind = match base.kind {
                ExprKind::Me => ExprKind::Own(field),
                ExprKind::It => ExprKind::Its(field),
                _ => ExprKind::Of(base.into(), field),
            };
            return (kind, ty);
        }
        let near = self.field_names(kinds);
        let near = crate::near::near_miss(token.text(), near.iter().map(String::as_str));
        let span = self.shifted(token.text_range().into());
        let message = self.lacks(kinds, token.text());
        let mut diagnostic = Diagnostic::new(Code::NoSuchField, span, message);
        if let Some(near) = near {
            diagnostic =
                diagnostic.with_help(format!("did you mean `{near}`?")).with_mend(span, near);
        } else {
            diagnostic = diagnostic.with_help(give_it(token.text()));
        }
        self.report(diagnostic);
        unknown()
    }

    fn spot_expr(&mut self, base: &Node, number: &Token) -> (ExprKind, Ty) {
        let span = self.span(base);
        let name = base.name();
        let group = name.as_ref().and_then(|t| self.names.get(t.text()).map(|s| (t, s)));
        let Some((token, Symbol::Spots(id))) = group else {
            if let (Some(token), None) = (&name, &group) {
                let groups = self.names.of(|symbol| matches!(symbol, Symbol::Spots(_)));
                let groups = groups.iter().map(String::as_str);
                self.unknown_name(span, token.text(), "spot group", groups);
                return unknown();
            }
            self.error(Code::WrongSort, span, "only a spot group has numbered places");
            return unknown();
        };
        self.names.used(token.text());
        self.symbol_at(token);
        match self.spot_number(id, number) {
            Some(at) => (ExprKind::Spot(id, at), Ty::PLACE),
            None => unknown(),
        }
    }

    /// A spot's number in the text counts from 1; the result from 0.
    pub(super) fn spot_number(&mut self, id: SpotsId, number: &Token) -> Option<u32> {
        let count = self.program.spots[id.index()].spots.len() as u32;
        let at: u32 = number.text().trim().parse().unwrap_or(0);
        if (1..=count).contains(&at) {
            return Some(at - 1);
        }
        let name = &self.program.spots[id.index()].name;
        let message = format!("`{name}` has {count} spots, numbered from 1");
        let span = self.shifted(number.text_range().into());
        self.error(Code::OutOfRange, span, message);
        None
    }
}

/// What to do where kinds lack a field.
pub(super) fn give_it(field: &str) -> String {
    format!("give it one, `vars {{ {field} = 0 }}`, or ask only those that have it")
}
