//! Items: first their names are declared, then their parts defined, then their handlers checked.

use super::checker::Checker;
use super::empty::empty_kind;
use super::names::Symbol;
use super::params::Param;
use super::scope::Scope;
use crate::diagnostic::{Code, Diagnostic, Span};
use crate::model::Sort;
use crate::program::*;
use crate::syntax::SyntaxKind as S;
use crate::syntax::{Node, NodeExt, Token};
use crate::tree;
use crate::units::{self, Dim};
use crate::words::{KEYS, RESERVED};

/// Most inputs: the tick keeps their keys as the bits of a word.
const MOST_INPUTS: usize = 64;

impl Checker {
    // First pass: names.

    pub(super) fn declare(&mut self, items: &[Node]) {
        // Kinds and tags first: parameters can be narrowed to them.
        for item in items {
            let Some(token) = item.name() else { continue };
            let span: Span = token.text_range().into();
            match item.kind() {
                S::Kind => {
                    let id = self.push_kind(&token, Role::Entity);
                    self.declare_name(&token, Symbol::Kind(id));
                }
                S::Spawner => {
                    let rule = self.empty_rule(span);
                    let id = self.push_kind(&token, Role::Spawner(Box::new(rule)));
                    self.declare_name(&token, Symbol::Spawner(id));
                }
                _ => {}
            }
        }
        self.declare_tags(items);
        for item in items.iter().filter(|n| n.kind() == S::Kind) {
            if let Some(id) = self.kind_of_item(item) {
                self.tags(item, id);
            }
        }
        for item in items {
            if let Some(token) = item.name() {
                self.declare_item(item, &token);
            }
        }
    }

    fn declare_item(&mut self, item: &Node, token: &Token) {
        match item.kind() {
            S::Knob => {
                let id = KnobId(self.program.knobs.len() as u32);
                self.declare_name(token, Symbol::Knob(id));
                self.knob(item, token);
            }
            S::Spots => {
                let id = SpotsId(self.program.spots.len() as u32);
                self.program.spots.push(Spots { name: token.text().into(), spots: vec![] });
                self.declare_name(token, Symbol::Spots(id));
            }
            S::Zone => {
                let id = ZoneId(self.program.zones.len() as u32);
                let shape = ZoneShape::Circle { at: (0.0, 0.0), radius: 0.0 };
                self.program.zones.push(Zone { name: token.text().into(), shape });
                self.declare_name(token, Symbol::Zone(id));
            }
            S::Input => {
                let id = InputId(self.program.inputs.len() as u32);
                self.declare_name(token, Symbol::Input(id));
                self.input(item, token);
            }
            S::Message => {
                let id = MessageId(self.program.messages.len() as u32);
                let params = self.params(item.child(S::Params));
                let params = params.into_iter().map(|param| (param.name, param.ty)).collect();
                self.program.messages.push(Message { name: token.text().into(), params });
                self.declare_name(token, Symbol::Message(id));
            }
            S::Behavior => {
                self.behaviors.push(item.clone());
                self.declare_name(token, Symbol::Behavior(self.behaviors.len() - 1));
            }
            S::Function => {
                self.functions.push(item.clone());
                self.declare_name(token, Symbol::Function(self.functions.len() - 1));
            }
            S::ValueFunction => {
                self.value_functions.push(item.clone());
                self.declare_name(token, Symbol::ValueFunction(self.value_functions.len() - 1));
            }
            S::Watch => self.declare_name(token, Symbol::Watch),
            // One that is muted may have the name of another.
            S::Routine if tree::Item(item).is_muted() => {
                let span = self.token_span(token);
                self.model.define(token.text(), Sort::Routine, span, None);
            }
            S::Routine => self.declare_name(token, Symbol::Routine),
            _ => {}
        }
    }

    fn declare_tags(&mut self, items: &[Node]) {
        for item in items.iter().filter(|n| n.kind() == S::Kind) {
            for token in item.children_of(S::TagLine).flat_map(|n| n.names().collect::<Vec<_>>()) {
                let known = matches!(self.names.get(token.text()), Some(Symbol::Tag(_)));
                if !known {
                    let id = TagId(self.program.tags.len() as u32);
                    self.program.tags.push(token.text().into());
                    self.declare_name(&token, Symbol::Tag(id));
                }
            }
        }
    }

    fn declare_name(&mut self, token: &Token, symbol: Symbol) {
        let name = token.text();
        let span: Span = token.text_range().into();
        self.model.define(name, symbol.sort(), span, None);
        if RESERVED.contains(&name) || units::find(name).is_some() {
            let what = if RESERVED.contains(&name) { "a word of the language" } else { "a unit" };
            let diagnostic = Diagnostic::new(Code::NameClash, span, format!("`{name}` is {what}"))
                .with_help("choose another name");
            self.report(diagnostic);
            // Declared all the same: those who use it are not to blame.
            self.names.declare(name, symbol, span);
        } else if let Some(first) = self.names.declared_at(name) {
            let noun = self.names.get(name).map_or("something", Symbol::noun);
            let diagnostic = Diagnostic::new(
                Code::NameClash,
                span,
                format!("`{name}` is already the name of {noun} declared above"),
            )
            .with_label(first, "declared here")
            .with_help("all names of a pond are different: choose another");
            self.report(diagnostic);
        } else {
            self.names.declare(name, symbol, span);
        }
    }

    fn push_kind(&mut self, token: &Token, role: Role) -> KindId {
        self.program.kinds.push(empty_kind(token.text(), token.text_range().into(), role));
        KindId(self.program.kinds.len() as u32 - 1)
    }

    fn empty_rule(&mut self, span: Span) -> SpawnerRule {
        let kind = Expr { kind: ExprKind::Kind(POND), ty: Ty::Unknown, span };
        SpawnerRule {
            birth: super::birth::plain(kind),
            site: SiteId(0),
            rhythm: Rhythm::Once,
            keep_at_most: None,
            keep: None,
            at_most: None,
            from: None,
            until: None,
            muted: false,
        }
    }

    fn input(&mut self, item: &Node, token: &Token) {
        let key = item.names().nth(1);
        if let Some(key) = &key {
            let span = self.token_span(key);
            self.note_word(span, Sort::Word);
        }
        let key = key.map(|t| t.text().to_string());
        let key = key.or_else(|| item.token(S::Number).map(|t| t.text().trim().to_string()));
        let key = key.unwrap_or_default();
        if self.program.inputs.len() == MOST_INPUTS {
            let message = format!("a pond has at most {MOST_INPUTS} inputs");
            let diagnostic = Diagnostic::new(Code::OutOfRange, token.text_range(), message)
                .with_help("remove those you do not need");
            self.report(diagnostic);
        }
        if tree::Item(item).is_pointer() {
            self.program.inputs.push(Input {
                name: token.text().into(),
                key: String::new(),
                pointer: true,
            });
            return;
        }
        let named = KEYS.contains(&key.as_str());
        if !named && key.chars().count() != 1 && !key.is_empty() {
            let span = self.span(item);
            let diagnostic =
                Diagnostic::new(Code::UnknownName, span, format!("there is no key `{key}`"))
                    .with_help("write one letter or digit, or space, enter, left, right, up, down");
            self.report(diagnostic);
        }
        let key = key.to_lowercase();
        self.program.inputs.push(Input { name: token.text().into(), key, pointer: false });
    }

    // Second pass: parts, in an order that lets texts use each other freely.

    pub(super) fn define(&mut self, items: &[Node]) {
        let kinds: Vec<(KindId, &Node)> = items
            .iter()
            .filter(|n| n.kind() == S::Kind)
            .filter_map(|item| Some((self.kind_of_item(item)?, item)))
            .collect();
        for (id, item) in &kinds {
            self.add_track(item, "", *id);
        }
        for (id, item) in &kinds {
            self.variables(item, *id);
        }
        for (id, item) in &kinds {
            self.uses(item, *id);
        }
        for item in items {
            match item.kind() {
                S::Vars => self.vars_of(item, Scope::handler(POND)),
                S::Spawner => {
                    if let Some(id) = self.kind_of_item(item) {
                        self.spawner_vars(item, id);
                    }
                }
                S::Spots => self.spots(item),
                S::Zone => self.zone(item),
                S::Tape => self.tape(item),
                _ => {}
            }
        }
        for (id, item) in kinds {
            self.kind_parts(item, id);
        }
    }

    pub(super) fn kind_of_item(&mut self, item: &Node) -> Option<KindId> {
        // By place, not by name: a second kind of the same name is a kind of its own.
        let span: Span = item.name()?.text_range().into();
        let at = self.program.kinds.iter().position(|k| k.name_span == span)?;
        Some(KindId(at as u32))
    }

    fn tags(&mut self, item: &Node, id: KindId) {
        let mut tags = Vec::new();
        for token in item.children_of(S::TagLine).flat_map(|n| n.names().collect::<Vec<_>>()) {
            if let Some(Symbol::Tag(tag)) = self.symbol_at(&token) {
                tags.push(tag);
            }
        }
        tags.sort();
        tags.dedup();
        self.program.kinds[id.index()].tags = tags;
    }

    fn variables(&mut self, item: &Node, id: KindId) {
        for vars in item.children_of(S::Vars) {
            self.vars_of(&vars, Scope::handler(id));
        }
    }

    /// Variables of the scope's owner, or of the behaviour in it.
    pub(super) fn vars_of(&mut self, vars: &Node, scope: Scope) {
        for var in vars.children_of(S::Var) {
            if let (Some(token), Some(kinds)) = (var.name(), var.child(S::KindSet)) {
                self.entity_var(&token, &kinds, &scope);
                continue;
            }
            let (Some(token), Some(value)) = (var.name(), var.expr()) else { continue };
            // Chance is allowed: it is drawn at birth.
            let init = self.expr(&value, &mut scope.clone());
            // A pair without a unit is a place, here as elsewhere.
            let init = super::expr::with_unit_of(&init, &Ty::PLACE).unwrap_or(init);
            if matches!(init.ty, Ty::Text | Ty::Wave | Ty::Ray(_) | Ty::Impact(_)) {
                let message = format!("a variable cannot hold {}", init.ty.noun());
                self.error(Code::WrongType, init.span, message);
                continue;
            }
            let part = scope.part.as_ref().map_or("", |part| part.name.as_str());
            self.add_var(&token, init.ty.clone(), init, (scope.owner, part));
        }
    }

    /// `prey: frog or midge` holds entities of these kinds, and begins as nobody.
    fn entity_var(&mut self, token: &Token, kinds: &Node, scope: &Scope) {
        let held = self.kind_set(kinds);
        let Some(first) = held.first() else { return };
        // Numbers begin at 1: there is no such entity.
        let nobody = ExprKind::Named(*first, 0);
        let ty = Ty::Entity(held.clone());
        let init = Expr { kind: nobody, ty: ty.clone(), span: self.span(kinds) };
        let part = scope.part.as_ref().map_or("", |part| part.name.as_str());
        self.add_var(token, ty, init, (scope.owner, part));
    }

    fn add_var(&mut self, token: &Token, ty: Ty, init: Expr, (id, part): (KindId, &str)) {
        let span: Span = token.text_range().into();
        let name = token.text();
        if matches!(ty, Ty::Kind | Ty::KindOf(_)) {
            self.values_of_kinds.insert(name.to_string());
        }
        let taken = RESERVED.contains(&name) || units::find(name).is_some();
        let full = if part.is_empty() { name.to_string() } else { format!("{part}.{name}") };
        let var_name = self.var_name(&full);
        self.model.define(name, Sort::Variable, span, Some(ty.clone()));
        if taken {
            let diagnostic = Diagnostic::new(
                Code::NameClash,
                span,
                format!("`{name}` is built in and cannot be a variable"),
            )
            .with_help("choose another name");
            self.report(diagnostic);
            // It is there all the same, so that this stays the only message.
        }
        if let Some(first) = self.places.declared.get(&(id, var_name)).copied() {
            let diagnostic =
                Diagnostic::new(Code::Twice, span, format!("the variable `{name}` stands twice"))
                    .with_label(first, "the first is here");
            self.report(diagnostic);
            return;
        }
        self.places.declared.insert((id, var_name), span);
        self.program.kinds[id.index()].vars.push(Var { name: var_name, ty, init, span });
    }

    fn spawner_vars(&mut self, item: &Node, id: KindId) {
        let params = item.child(S::Params);
        let tokens: Vec<Token> = params
            .iter()
            .flat_map(|p| p.children_of(S::Param).filter_map(|n| n.name()).collect::<Vec<_>>())
            .collect();
        for (Param { ty, default, .. }, token) in self.params(params).into_iter().zip(tokens) {
            let span: Span = token.text_range().into();
            let init = match default {
                Some(node) => {
                    let value = self.expr(&node, &mut Scope::reading(POND));
                    self.wants(value, &ty)
                }
                None => {
                    let diagnostic = Diagnostic::new(
                        Code::Syntax,
                        span,
                        format!("the parameter `{}` has no default", token.text()),
                    )
                    .with_help("give it one: `gap: time = 1 s`");
                    self.report(diagnostic);
                    Expr { kind: ExprKind::Num(0.0), ty: Ty::Unknown, span }
                }
            };
            self.add_var(&token, ty, init, (id, ""));
        }
        self.variables(item, id);
    }

    fn spots(&mut self, item: &Node) {
        let Some(token) = item.name() else { return };
        let Some(Symbol::Spots(id)) = self.names.get(token.text()) else { return };
        let mut spots = Vec::new();
        for spot in item.children_of(S::Spot) {
            let Some(at) = self.constant_place(spot.expr()) else { continue };
            let facing = spot.child(S::OptFacing).and_then(|n| n.expr());
            let facing = facing.and_then(|n| self.constant_of(Some(n), &Ty::Num(Dim::ANGLE)));
            spots.push(Spot { at, facing, span: self.span(&spot) });
        }
        if spots.is_empty() && !self.has_errors() {
            let message = format!("the spot group `{}` is empty", token.text());
            let diagnostic = Diagnostic::new(Code::Impossible, token.text_range(), message)
                .with_help("add a spot such as `(12, 80)`");
            self.report(diagnostic);
        }
        self.program.spots[id.index()].spots = spots;
    }

    fn kind_parts(&mut self, item: &Node, id: KindId) {
        self.once(item, &[S::LookLine, S::BodyLine, S::HealthLine, S::Vars, S::StatesLine]);
        self.program.kinds[id.index()].drifts = item.child(S::DriftsLine).is_some();
        if let Some(look) = item.child(S::LookLine) {
            self.look(&look, id);
        }
        if let Some(body) = item.child(S::BodyLine) {
            self.body(&body, id);
        }
        if let Some(node) = item.child(S::HealthLine).and_then(|n| n.expr()) {
            let health = self.expr(&node, &mut Scope::reading(POND));
            let health = self.wants(health, &Ty::Num(Dim::NONE));
            if constant(&health, &self.knob_values()).is_some_and(|h| h <= 0.0) {
                let diagnostic =
                    Diagnostic::new(Code::OutOfRange, health.span, "health at birth is above 0")
                        .with_help("leave the line out if it cannot be hurt");
                self.report(diagnostic);
            }
            self.program.kinds[id.index()].health = Some(health);
        }
        for mount in item.children_of(S::Mount) {
            let Some(name) = mount.name() else { continue };
            let span = self.token_span(&name);
            self.model.define(name.text(), Sort::Mount, span, None);
            self.places.mounts.entry((id, name.text().to_string())).or_insert(span);
            let Some(at) = self.constant_place(mount.expr()) else { continue };
            let facing = mount.child(S::OptFacing).and_then(|n| n.expr());
            let facing = facing.and_then(|n| self.constant_of(Some(n), &Ty::Num(Dim::ANGLE)));
            let mount = Mount { name: name.text().to_string(), at, facing: facing.unwrap_or(0.0) };
            self.program.kinds[id.index()].mounts.push(mount);
        }
    }

    pub(super) fn once(&mut self, item: &Node, kinds: &[S]) {
        for kind in kinds {
            let mut lines = item.children_of(*kind);
            if let (Some(first), Some(second)) = (lines.next(), lines.next()) {
                let diagnostic =
                    Diagnostic::new(Code::Twice, self.span(&second), "this stands here twice")
                        .with_label(self.span(&first), "the first is here");
                self.report(diagnostic);
            }
        }
    }
}
