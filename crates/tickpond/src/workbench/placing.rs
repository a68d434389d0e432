//! Putting an entity or a spot somewhere: into the run, or into the text.

use tickpond_lang::lex::lex;
use tickpond_lang::syntax::SyntaxKind;

use super::app::{App, Effect};
use super::command::Command;

impl App {
    /// Puts something at a place: into the run, or into the text.
    pub(super) fn place_at(&mut self, typed: &str, (x, y): (f64, f64)) -> Vec<Effect> {
        let Some(cast) = self.snapshot.cast.clone() else { return Vec::new() };
        let at = format!("({}, {})", short(x), short(y));
        let is_new = typed.starts_with('+');
        let spot = typed.strip_prefix('+').unwrap_or(typed).trim().strip_prefix("spot ");
        if let Some(group) = spot.map(str::trim) {
            self.put_spot(group, is_new, &at);
            return Vec::new();
        }
        let (name, into_text) = match typed.strip_prefix('+') {
            Some(rest) => (rest.trim(), true),
            None => (typed, false),
        };
        if cast.kind_named(name).is_none_or(|id| id.index() == 0) {
            let kinds: Vec<&str> =
                cast.entity_kinds().map(|(_, kind)| kind.name.as_str()).collect();
            let words = format!("there is no kind `{name}`: {}", kinds.join(", "));
            self.said.message = Some((words, true));
            return Vec::new();
        }
        if into_text {
            let text = self.script.buffer.text();
            let gap = if text.ends_with('\n') || text.is_empty() { "" } else { "\n" };
            let end = text.len();
            self.script.buffer.put(end..end, &format!("{gap}place {name} at {at}\n"));
            self.say_first(&format!("placed in the text: place {name} at {at}"));
            return Vec::new();
        }
        vec![Effect::Tell(Command::Place(name.to_string(), (x, y)))]
    }

    /// Adds a spot to a group of the text; a new group is only made if that is asked for.
    fn put_spot(&mut self, group: &str, is_new: bool, at: &str) {
        let text = self.script.buffer.text();
        match (group_in(&text, group), is_new) {
            (Some((inside, is_empty)), _) => {
                let comma = if is_empty || text[..inside].ends_with(',') { "" } else { "," };
                self.script.buffer.put(inside..inside, &format!("{comma} {at}"));
            }
            (None, true) => {
                let end = text.len();
                let gap = if text.ends_with('\n') || text.is_empty() { "" } else { "\n" };
                self.script.buffer.put(end..end, &format!("{gap}spots {group} {{ {at} }}\n"));
            }
            (None, false) => {
                let known = self.known.program.iter().flat_map(|program| &program.spots);
                let known: Vec<&str> = known.map(|spots| spots.name.as_str()).collect();
                let known = if known.is_empty() { "none yet".into() } else { known.join(", ") };
                let words =
                    format!("there is no group `{group}` ({known}); `+spot {group}` makes one");
                self.said.message = Some((words, true));
                return;
            }
        }
        self.say_first(&format!("a spot of {group} at {at}"));
    }
}

/// The byte behind the last spot of a group, and whether it has none.
fn group_in(text: &str, group: &str) -> Option<(usize, bool)> {
    let (tokens, _) = lex(text);
    let tokens: Vec<_> = tokens.into_iter().filter(|t| !t.kind.is_trivia()).collect();
    let word = |at: usize| tokens.get(at).and_then(|t| text.get(t.span.range()));
    let head =
        (0..tokens.len()).find(|at| word(*at) == Some("spots") && word(*at + 1) == Some(group))?;
    let close = (head..tokens.len()).find(|at| tokens[*at].kind == SyntaxKind::CloseBrace)?;
    let last = tokens.get(close.checked_sub(1)?)?;
    Some((last.span.end as usize, last.kind == SyntaxKind::OpenBrace))
}

fn short(number: f64) -> String {
    let text = format!("{number:.1}");
    text.strip_suffix(".0").map_or(text.clone(), str::to_string)
}
