//! A condition taken apart: what each part was, for whom, and since when it is false.

use std::collections::BTreeMap;
use std::sync::Arc;

use tickpond_lang::program::{BinaryOp, Expr, ExprKind, Program, StmtKind, Ty, walk};

use super::Asked;
use super::find::Found;
use crate::timeline::Timeline;

/// Signs that begin everything the question says and part its values: the first two that are nowhere in the text.
const SIGNS: [char; 6] = ['⁂', '⁑', '※', '⁜', '⁘', '⁛'];

/// A part of a condition.
struct Part {
    text: String,
    /// Whether it must hold; an `else if` needs what stands before it to be false.
    wanted: bool,
    /// What is said of it: the part itself, and values in it worth telling, as texts.
    asked: Vec<String>,
    /// Whether it is an entity that may be none.
    entity: bool,
}

/// What was heard of one in a tick: for each part whether it is as wanted, and its values.
type Answer = Vec<(bool, Vec<String>)>;

impl Asked<'_> {
    /// Tells of the parts of a condition; whether it was come to at all.
    pub(super) fn condition(
        &mut self,
        program: &Program,
        found: &Found,
        lines: &mut Vec<String>,
    ) -> bool {
        let condition = match (&found.stmt, &found.handler.event) {
            (Some(stmt), _) => match &stmt.kind {
                StmtKind::If { condition, .. } => condition,
                _ => return false,
            },
            (None, tickpond_lang::program::Event::When(condition)) => condition,
            _ => return false,
        };
        let mut all = Vec::new();
        for before in &found.before {
            all.push(part(program, before, false));
        }
        for expr in conjuncts(condition) {
            all.push(part(program, expr, true));
        }
        let mut signs = SIGNS.into_iter().filter(|sign| !program.text.contains(*sign));
        let (Some(mark), Some(gap)) = (signs.next(), signs.next()) else {
            lines.push("its condition cannot be asked apart".into());
            return true;
        };
        // What means nothing by itself is left out, and told.
        let mut skipped = Vec::new();
        if asking(program, found, &all, (mark, gap)).is_none() {
            let (asked, left): (Vec<Part>, Vec<Part>) = all.into_iter().partition(|part| {
                asking(program, found, std::slice::from_ref(part), (mark, gap)).is_some()
            });
            all = asked;
            skipped.extend(left.into_iter().map(|part| part.text));
        }
        let asking = asking(program, found, &all, (mark, gap)).filter(|_| !all.is_empty());
        let Some(asking) = asking else {
            lines.push("its condition cannot be asked apart".into());
            return true;
        };
        let said = match self.run.heard(self.from, asking, mark) {
            Ok(said) => said,
            Err(why) => {
                lines.push(format!("its condition could not be asked: {why}"));
                return true;
            }
        };
        // By one, by tick: what it was asked last in that tick.
        let mut heard: BTreeMap<u32, BTreeMap<u64, Answer>> = BTreeMap::new();
        for event in &said {
            let words = event.words.as_deref().unwrap_or("").trim_start_matches(mark);
            let answer = answer(&all, words, gap);
            heard.entry(event.who.number).or_default().insert(event.tick, answer);
        }
        if heard.is_empty() {
            if found.stmt.is_some() {
                lines.push(format!(
                    "it was not come to: `{}` did not get that far",
                    found.handler.head
                ));
            }
            return false;
        }
        self.tell(&all, &heard, (found, skipped.is_empty()), lines);
        for text in skipped {
            lines.push(format!("? cannot be asked by itself: {text}"));
        }
        true
    }

    fn tell(
        &self,
        parts: &[Part],
        heard: &BTreeMap<u32, BTreeMap<u64, Answer>>,
        (found, is_all): (&Found, bool),
        lines: &mut Vec<String>,
    ) {
        let holds = |answer: &Answer| answer.iter().filter(|(holds, _)| *holds).count();
        let last = |of: &BTreeMap<u64, Answer>| of.iter().next_back().map(|(t, a)| (*t, holds(a)));
        // The chosen one; else the one that was nearest to it, of these who was asked last.
        let chosen = self.chosen.map(|who| who.number).filter(|number| heard.contains_key(number));
        let nearest = heard.iter().max_by_key(|(_, of)| last(of).map(|(tick, held)| (held, tick)));
        let Some(number) = chosen.or(nearest.map(|(number, _)| *number)) else { return };
        let of = &heard[&number];
        let Some((tick, answer)) = of.iter().next_back() else { return };
        let kind = self.run.cast().kinds[found.kind.index()].name.clone();
        let name = match found.kind.index() {
            0 => "the pond".to_string(),
            _ => format!("{kind}#{number}"),
        };
        let times: usize = heard.values().map(BTreeMap::len).sum();
        let who = match (heard.len(), chosen) {
            (1, _) => format!("asked of {name} in {} ticks, last at {}", of.len(), self.at(*tick)),
            (count, Some(_)) => format!(
                "asked of {name} in {} ticks, last at {}; of {count} in {times}",
                of.len(),
                self.at(*tick)
            ),
            (count, None) => format!(
                "asked of {count} in {times} ticks; of {name}, of whom most holds, last at {}",
                self.at(*tick)
            ),
        };
        lines.push(match found.stmt {
            Some(_) => who,
            None => format!("{who}, as a tick begins: what changes in it comes after"),
        });
        let met = of.values().filter(|answer| holds(answer) == parts.len()).count();
        if met > 0 {
            let when = of.iter().rev().find(|(_, answer)| holds(answer) == parts.len());
            let when = when.map_or(String::new(), |(tick, _)| self.at(*tick));
            let all = if is_all { "all of it" } else { "all that could be asked" };
            lines.push(format!("{all} held in {met} of these ticks, last at {when}"));
        }
        for (at, part) in parts.iter().enumerate() {
            let Some((holds, values)) = answer.get(at) else { continue };
            let since = of
                .iter()
                .rev()
                .take_while(|(_, answer)| answer.get(at).is_some_and(|part| part.0 == *holds))
                .last()
                .map(|(tick, _)| *tick);
            let since = match since {
                Some(first) if of.keys().next() == Some(&first) => {
                    "ever since it was asked".to_string()
                }
                Some(first) => format!("since {}", self.at(first)),
                None => String::new(),
            };
            let word = match (holds, part.wanted) {
                (true, true) => "✓ true",
                (false, true) => "✗ false",
                (true, false) => "✓ false, as it must be",
                (false, false) => "✗ true, and what stands before it runs instead",
            };
            let seen = if values.is_empty() {
                String::new()
            } else {
                format!("  ({})", values.join(", "))
            };
            lines.push(format!("{word} {since}: {}{seen}", part.text));
        }
        // The one it failed for most often says most.
        if parts.len() > 1 && met == 0 {
            let failed = |at: usize| {
                heard
                    .values()
                    .flat_map(BTreeMap::values)
                    .filter(|a| a.get(at).is_some_and(|p| !p.0))
                    .count()
            };
            let most = (0..parts.len()).max_by_key(|at| failed(*at));
            if let Some(at) = most.filter(|at| failed(*at) > 0) {
                let (failed, text) = (failed(at), &parts[at].text);
                lines.push(format!("most often in the way: {text}, in {failed} of {times}"));
            }
        }
    }
}

/// The parts of a condition all of which must hold.
fn conjuncts(expr: &Expr) -> Vec<&Expr> {
    match &expr.kind {
        ExprKind::Binary(BinaryOp::And, a, b) => {
            conjuncts(a).into_iter().chain(conjuncts(b)).collect()
        }
        _ => vec![expr],
    }
}

/// A part as it is asked.
fn part(program: &Program, expr: &Expr, wanted: bool) -> Part {
    let text = |expr: &Expr| program.text[expr.span.range()].to_string();
    let mut asked = vec![text(expr)];
    // `!=` with `+-` is written as one.
    let written = match &expr.kind {
        ExprKind::Not(inner) if inner.span == expr.span => inner,
        _ => expr,
    };
    match &written.kind {
        ExprKind::Binary(op, a, b) if *op != BinaryOp::And && *op != BinaryOp::Or => {
            let told = [a, b].into_iter().filter(|side| !is_plain(side));
            asked.extend(told.map(|side| text(side)));
        }
        ExprKind::Near(value, ..) => asked.push(text(value)),
        _ => {}
    }
    Part { text: text(expr), wanted, asked, entity: matches!(expr.ty, Ty::Entity(_)) }
}

/// Whether a value is written in the text as it is.
fn is_plain(expr: &Expr) -> bool {
    matches!(
        expr.kind,
        ExprKind::Num(_) | ExprKind::Truth(_) | ExprKind::Kind(_) | ExprKind::State(_)
    )
}

/// The program with the question in it; none if it means nothing there, or if chance would be asked twice.
fn asking(
    program: &Program,
    found: &Found,
    parts: &[Part],
    (mark, gap): (char, char),
) -> Option<Arc<Program>> {
    // A text in the question would end the saying: what has one gets a name before it.
    let mut own = "asked_".to_string();
    while program.text.contains(&own) {
        own.push('_');
    }
    let mut lets = String::new();
    let said: Vec<String> = parts
        .iter()
        .flat_map(|part| &part.asked)
        .enumerate()
        .map(|(at, text)| {
            let text = text.replace('\n', " ");
            if !text.contains('"') {
                return format!("{{{text}}}");
            }
            lets += &format!("let {own}{at} = {text}\n");
            format!("{{{own}{at}}}")
        })
        .collect();
    let saying = format!("{lets}say \"{mark}{}\"", said.join(&gap.to_string()));
    let (at, words) = match &found.stmt {
        Some(_) => (found.begin, format!("{saying}\n")),
        None => (
            found.handler.span.start as usize,
            // A head of its own: two handlers with one head may not stand side by side.
            format!("every 1 ticks + 0 s {{ {saying} }}\n"),
        ),
    };
    let text = format!("{}{words}{}", &program.text[..at], &program.text[at..]);
    let compiled = tickpond_lang::compile(&text).program?;
    let mut chance = false;
    if let Some(tickpond_lang::program::Stmt { kind: StmtKind::If { condition, .. }, .. }) =
        &found.stmt
    {
        walk::inside(condition, &mut |expr| chance |= matches!(expr.kind, ExprKind::Random { .. }));
    }
    (!chance).then_some(compiled)
}

/// What was said, part by part.
fn answer(parts: &[Part], words: &str, gap: char) -> Answer {
    let mut values = words.split(gap);
    parts
        .iter()
        .map(|part| {
            let whole = values.next().unwrap_or("");
            let holds = match part.entity {
                true => !matches!(whole, "nobody" | "none" | "gone" | ""),
                false => whole == "true",
            };
            let told = part.asked.iter().skip(1).map(|text| {
                let value = values.next().unwrap_or("");
                format!("{text} is {value}")
            });
            let mut told: Vec<String> = told.collect();
            if part.entity && holds {
                told.push(format!("it is {whole}"));
            }
            (holds == part.wanted, told)
        })
        .collect()
}
