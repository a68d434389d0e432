//! Putting an entity or a spot somewhere: into the run, or into the text.

use super::app::{App, Effect};
use super::sim::Command;

impl App {
    /// Puts something at a place: into the run, or into the text.
    pub(super) fn place_at(&mut self, typed: &str, (x, y): (f64, f64)) -> Vec<Effect> {
        let Some(program) = self.snapshot.program.clone() else { return Vec::new() };
        let at = format!("({}, {})", short(x), short(y));
        if let Some(group) = typed.strip_prefix("spot ").map(str::trim) {
            self.put_spot(&program, group, &at);
            return Vec::new();
        }
        let (name, into_text) = match typed.strip_prefix('+') {
            Some(rest) => (rest.trim(), true),
            None => (typed, false),
        };
        if program.kind_named(name).is_none_or(|id| id.index() == 0) {
            let kinds: Vec<&str> =
                program.entity_kinds().map(|(_, kind)| kind.name.as_str()).collect();
            let words = format!("there is no kind `{name}`: {}", kinds.join(", "));
            self.message = Some((words, true));
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

    fn put_spot(&mut self, program: &tickpond_lang::program::Program, group: &str, at: &str) {
        let text = self.script.buffer.text();
        let known = program.spots.iter().any(|s| s.name == group);
        let head = format!("spots {group}");
        let place = text.find(&head).filter(|_| known).and_then(|from| {
            let open = text[from..].find('{')? + from;
            let close = text[open..].find('}')? + open;
            Some((open, close))
        });
        match place {
            Some((open, close)) => {
                let inside = text[open + 1..close].trim_end();
                let end = open + 1 + inside.len();
                let comma =
                    if inside.trim().is_empty() || inside.ends_with(',') { "" } else { "," };
                self.script.buffer.put(end..end, &format!("{comma} {at}"));
            }
            None => {
                let end = text.len();
                let gap = if text.ends_with('\n') || text.is_empty() { "" } else { "\n" };
                self.script.buffer.put(end..end, &format!("{gap}spots {group} {{ {at} }}\n"));
            }
        }
        self.say_first(&format!("a spot of {group} at {at}"));
    }
}

fn short(number: f64) -> String {
    let text = format!("{number:.1}");
    text.strip_suffix(".0").map_or(text.clone(), str::to_string)
}
