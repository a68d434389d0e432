//! Births: `spawn`, `place` and `makes` share their places and options.

use super::checker::Checker;
use super::names::Symbol;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic};
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};
use crate::tree;
use crate::units::Dim;

/// A birth of one, here, with nothing said.
pub(super) fn plain(kind: Expr) -> Birth {
    Birth {
        kind,
        count: None,
        place: Where::Here,
        facing: None,
        toward: None,
        speed: None,
        vel: None,
        spread: None,
        spaced: None,
        health: None,
        label: None,
        push: None,
        inactive: false,
        along: None,
        attached: None,
        keeps_velocity: false,
        filters: Vec::new(),
        vars: Vec::new(),
    }
}

impl Checker {
    /// The place and the options in `node`, for a birth of `kind`.
    pub(super) fn birth(&mut self, node: &Node, kind: Expr, scope: &mut Scope) -> Birth {
        let known = match kind.kind {
            ExprKind::Kind(id) => Some(id),
            _ => None,
        };
        let mut birth = plain(kind);
        let options: Vec<S> = node.children().map(|n| n.kind()).filter(is_option).collect();
        if let Some(twice) = options.iter().enumerate().find(|(i, o)| options[..*i].contains(o)) {
            let again = node.children_of(*twice.1).nth(1);
            let span = again.map_or(self.span(node), |n| self.span(&n));
            self.error(Code::Twice, span, "this option stands here twice");
        }
        for option in node.children() {
            let value = option.expr();
            match option.kind() {
                S::OptAt => birth.place = self.place_of_birth(&option, scope),
                S::OptFacing => {
                    birth.facing = Some(self.expr_of(value, &Ty::Num(Dim::ANGLE), scope))
                }
                S::OptToward => {
                    let toward = self.expr_or_unknown(value, self.span(&option), scope);
                    birth.toward = Some(self.as_place(toward));
                }
                S::OptSpeed => birth.speed = Some(self.expr_of(value, &Ty::Num(Dim::SPEED), scope)),
                S::OptVel => birth.vel = Some(self.expr_of(value, &Ty::Pair(Dim::SPEED), scope)),
                S::OptSpread => {
                    birth.spread = Some(self.expr_of(value, &Ty::Num(Dim::ANGLE), scope))
                }
                S::OptSpaced => {
                    birth.spaced = Some(self.expr_of(value, &Ty::Num(Dim::TIME), scope))
                }
                S::OptHealth => birth.health = Some(self.birth_health(&option, known, scope)),
                S::OptLabel => {
                    let token = option.token(S::Text);
                    birth.label = token.map(|t| self.text_parts(&t, scope));
                }
                S::OptPush => {
                    let push = self.expr_or_unknown(value, self.span(&option), scope);
                    let ty = match push.ty {
                        Ty::Pair(_) => Ty::Pair(Dim::SPEED),
                        _ => Ty::Num(Dim::SPEED),
                    };
                    birth.push = Some(self.wants(push, &ty));
                }
                S::OptAlong => self.along_mount(&option, scope, &mut birth),
                S::OptInactive => birth.inactive = true,
                S::OptAttached => birth.attached = Some(tree::Attached(&option).outlives()),
                S::OptKeeping => birth.keeps_velocity = true,
                S::NotWithin | S::ClearOf => {
                    let filter = self.place_filter(&option, scope);
                    birth.filters.extend(filter);
                }
                S::OptVars => self.birth_vars(&option, known, &mut birth, scope),
                _ => {}
            }
        }
        if let (Some(_), false) = (birth.attached, matches!(birth.place, Where::Mount(_))) {
            let diagnostic = Diagnostic::new(
                Code::OutOfPlace,
                self.span(node),
                "what is born attached is born at a mount",
            )
            .with_help("write `at` and one of the maker's mounts");
            self.report(diagnostic);
        }
        self.clash(node, &birth);
        birth
    }

    /// `along mouth`: the direction of a mount.
    fn along_mount(&mut self, option: &Node, scope: &mut Scope, birth: &mut Birth) {
        let Some(node) = option.expr() else { return };
        let name = (node.kind() == S::NameExpr).then(|| node.name()).flatten();
        let mounts = &self.program.kinds[scope.owner.index()].mounts;
        let mount = name.as_ref().and_then(|t| mounts.iter().position(|m| m.name == t.text()));
        if let Some(name) = &name {
            self.note_mount(name, &[scope.owner]);
        }
        match mount {
            Some(mount) => birth.along = Some(mount),
            None => birth.facing = Some(self.expr_of(Some(node), &Ty::Num(Dim::ANGLE), scope)),
        }
    }

    /// `not within view widened by 4 u`, `not within 3 u of frog`, `clear of solid`
    pub(super) fn place_filter(&mut self, node: &Node, scope: &mut Scope) -> Option<Filter> {
        if node.kind() == S::ClearOf {
            return Some(Filter::ClearOfSolid);
        }
        let length = Ty::Num(Dim::LENGTH);
        let mut exprs = node.exprs();
        if tree::NotWithin(node).is_of_view() {
            if self.program.view.is_none() {
                let diagnostic =
                    Diagnostic::new(Code::Impossible, self.span(node), "the pond has no view")
                        .with_help("add a line such as `view 80 x 45 follows frog` to the header");
                self.report(diagnostic);
            }
            let wider = exprs.next().map(|n| self.expr_of(Some(n), &length, scope));
            return Some(Filter::NotInView(wider));
        }
        let distance = self.expr_of(exprs.next(), &length, scope);
        let of = exprs.next()?;
        let named = (of.kind() == S::NameExpr).then(|| of.name()).flatten();
        let is_kinds = |token: &Token| {
            matches!(
                self.names.get(token.text()),
                Some(Symbol::Kind(_) | Symbol::Spawner(_) | Symbol::Tag(_))
            ) && scope.find(token.text()).is_none()
        };
        if let Some(token) = named.filter(is_kinds) {
            return Some(Filter::NotNearKinds(distance, self.kinds_named(&token)));
        }
        let place = self.expr(&of, scope);
        Some(Filter::NotNearPlace(distance, self.as_place(place)))
    }

    fn clash(&mut self, node: &Node, birth: &Birth) {
        let pairs = [
            (birth.facing.is_some() && birth.toward.is_some(), "facing", "toward"),
            (birth.along.is_some() && birth.toward.is_some(), "along", "toward"),
            (birth.speed.is_some() && birth.vel.is_some(), "speed", "vel"),
            (
                node.child(S::OptAlong).is_some() && node.child(S::OptFacing).is_some(),
                "along",
                "facing",
            ),
        ];
        for (clashes, a, b) in pairs {
            if clashes {
                let message = format!("`{a}` and `{b}` say the same thing twice");
                let diagnostic = Diagnostic::new(Code::Twice, self.span(node), message)
                    .with_help(format!("keep one of `{a}` and `{b}`"));
                self.report(diagnostic);
            }
        }
    }

    fn birth_health(&mut self, option: &Node, known: Option<KindId>, scope: &mut Scope) -> Expr {
        if let Some(kind) = known.map(|id| &self.program.kinds[id.index()])
            && kind.health.is_none()
        {
            let message = format!("`{}` has no health to set", kind.name);
            let diagnostic = Diagnostic::new(Code::NoSuchField, self.span(option), message)
                .with_help("give the kind a line `health 3`");
            self.report(diagnostic);
        }
        self.expr_of(option.expr(), &Ty::Num(Dim::NONE), scope)
    }

    fn birth_vars(
        &mut self,
        option: &Node,
        known: Option<KindId>,
        birth: &mut Birth,
        scope: &mut Scope,
    ) {
        let Some(kind) = known else {
            let span = self.span(option);
            let message = "variables can be given only where the kind is named";
            self.error(Code::OutOfPlace, span, message);
            for var in option.children_of(S::Var) {
                self.look_at_values(&var, scope);
            }
            return;
        };
        for var in option.children_of(S::Var) {
            let Some(token) = var.name() else { continue };
            if kind == POND {
                // What is no kind has been reported.
                continue;
            }
            let name = self.program.var_names.iter().position(|n| n == token.text());
            let name = name.map(|at| VarName(at as u32));
            let ty = name.and_then(|n| self.program.var_of(kind, n).map(|v| v.ty.clone()));
            let value = self.expr_or_unknown(var.expr(), self.span(&var), scope);
            match (name, ty) {
                (Some(name), Some(ty)) => {
                    let span = self.token_span(&token);
                    self.note_field(span, &[kind], &Field::Var(name));
                    let value = self.wants(value, &ty);
                    self.holds_only(&value, &ty, token.text());
                    birth.vars.push((name, value));
                }
                _ => self.no_such_var(&token, kind),
            }
        }
    }

    fn no_such_var(&mut self, token: &Token, kind: KindId) {
        let kind = &self.program.kinds[kind.index()];
        let sort = match kind.role {
            Role::Spawner(_) => format!("parameter of `{}` called", kind.name),
            _ => format!("variable of `{}` called", kind.name),
        };
        let names: Vec<String> =
            kind.vars.iter().map(|v| self.program.var_names[v.name.index()].clone()).collect();
        let span = self.shifted(token.text_range().into());
        self.unknown_name(span, token.text(), &sort, names.iter().map(String::as_str));
    }

    fn place_of_birth(&mut self, option: &Node, scope: &mut Scope) -> Where {
        if let Some(anywhere) = option.child(S::Anywhere) {
            let zone = anywhere.name().and_then(|token| self.zone_named(&token));
            return zone.map_or(Where::Anywhere, Where::InZone);
        }
        if let Some(around) = option.child(S::Around).or_else(|| option.child(S::OnRing)) {
            let mut exprs = around.exprs();
            let place = self.expr_or_unknown(exprs.next(), self.span(&around), scope);
            let place = self.as_place(place);
            let distance = self.expr_of(exprs.next(), &Ty::Num(Dim::LENGTH), scope);
            return match around.kind() {
                S::Around => Where::Around(place, distance),
                _ => Where::Ring(place, distance),
            };
        }
        if let Some(edge) = option.child(S::AlongEdge) {
            let side = tree::AtSide(&edge).side().unwrap_or(Side::Bottom);
            return Where::Edge(side);
        }
        let Some(node) = option.expr() else { return Where::Here };
        if let Some(place) = self.named_place(&node, option, scope) {
            return place;
        }
        let place = self.expr(&node, scope);
        match (&place.ty, &place.kind) {
            (Ty::Entity(_), _) => Where::Entity(place),
            (_, ExprKind::Own(Field::Pos)) => Where::Here,
            _ => Where::Point(self.wants(place, &Ty::PLACE)),
        }
    }

    /// A mount of the owner or spots of a group, if the name is one of those.
    fn named_place(&mut self, node: &Node, option: &Node, scope: &Scope) -> Option<Where> {
        let (base, number) = match node.kind() {
            S::NameExpr => (node.clone(), None),
            S::FieldExpr => (node.expr()?, Some(node.token(S::Number)?)),
            _ => return None,
        };
        let token = base.name()?;
        if scope.find(token.text()).is_some() {
            return None;
        }
        let owner = &self.program.kinds[scope.owner.index()];
        if let Some(mount) = owner.mounts.iter().position(|m| m.name == token.text()) {
            self.note_mount(&token, &[scope.owner]);
            return Some(Where::Mount(mount));
        }
        let Some(Symbol::Spots(id)) = self.symbol_at(&token) else {
            return self.foreign_mount(&token);
        };
        self.names.used(token.text());
        let pick = match number {
            Some(number) => Pick::Nth(self.spot_number(id, &number)?),
            None if option.child(S::EachSpot).is_some() => Pick::Each,
            None => Pick::Chance,
        };
        Some(Where::Spots(id, pick))
    }

    /// A mount of some other kind: say whose it is instead of "there is no value".
    fn foreign_mount(&mut self, token: &Token) -> Option<Where> {
        let kinds = &self.program.kinds;
        let owner = kinds.iter().find(|k| k.mounts.iter().any(|m| m.name == token.text()))?;
        let message =
            format!("`{}` is a mount of `{}`, not of this kind", token.text(), owner.name);
        let span = self.shifted(token.text_range().into());
        self.error(Code::WrongSort, span, message);
        Some(Where::Here)
    }

    /// The kind a name means where something is to be born.
    pub(super) fn kind_to_make(&mut self, token: &Token, scope: &Scope) -> Expr {
        let span = self.shifted(token.text_range().into());
        let name = token.text();
        let unknown = Expr { kind: ExprKind::Kind(POND), ty: Ty::Unknown, span };
        if let Some((id, ty)) = scope.find(name) {
            self.note_local(span, id, scope);
            return self.wants(Expr { kind: ExprKind::Local(id), ty, span }, &Ty::Kind);
        }
        match self.symbol_at(token) {
            Some(Symbol::Kind(id) | Symbol::Spawner(id)) => {
                self.names.used(name);
                return Expr { kind: ExprKind::Kind(id), ty: Ty::Kind, span };
            }
            Some(symbol) => {
                let message = format!("expected a kind, found {} `{name}`", symbol.noun());
                self.error(Code::WrongSort, span, message);
                return unknown;
            }
            None => {}
        }
        if let Some(param) = scope.find_param(name) {
            self.model.refer(span, param.span);
            return self.wants(param.value.clone(), &Ty::Kind);
        }
        if let Some((field, ty)) = self.own_field(scope, name) {
            self.note_field(span, &[scope.owner], &field);
            return self.wants(Expr { kind: ExprKind::Own(field), ty, span }, &Ty::Kind);
        }
        let kinds = self.names.of(|s| matches!(s, Symbol::Kind(_) | Symbol::Spawner(_)));
        self.unknown_name(span, name, "kind", kinds.iter().map(String::as_str));
        unknown
    }
}

fn is_option(kind: &S) -> bool {
    matches!(
        kind,
        S::OptAt
            | S::OptFacing
            | S::OptToward
            | S::OptSpeed
            | S::OptVel
            | S::OptSpread
            | S::OptSpaced
            | S::OptHealth
            | S::OptLabel
            | S::OptVars
            | S::OptPush
            | S::OptAlong
            | S::OptInactive
            | S::OptAttached
            | S::OptKeeping
    )
}
