//! Turning a knob: its number in the text changes.

use crate::workbench::app::{App, Effect};
use crate::workbench::prompt::Ask;

impl App {
    /// Turns the chosen knob so many steps: the number in the text changes.
    pub(super) fn turn_knob(&mut self, steps: f64) -> Vec<Effect> {
        match self.known.tunables.get(self.drawer.knob_at).map(|tunable| tunable.stepped(steps)) {
            Some(new) => self.put_knob(&new, false),
            None => self.said.message = Some(("this pond has no numbers to turn".into(), false)),
        }
        Vec::new()
    }

    /// Asks for a value of the chosen knob.
    pub(super) fn ask_knob(&mut self) -> Vec<Effect> {
        if self.known.tunables.is_empty() {
            self.said.message = Some(("this pond has no numbers to turn".into(), false));
        } else {
            self.ask(Ask::KnobValue, "");
        }
        Vec::new()
    }

    /// Gives the chosen knob a typed value, in the unit it has in the text.
    pub(in crate::workbench) fn set_knob(&mut self, typed: &str) {
        let Some(tunable) = self.known.tunables.get(self.drawer.knob_at) else { return };
        let number = typed.strip_suffix(tunable.unit.as_str()).unwrap_or(typed).trim();
        let Ok(value) = number.replace('_', "").parse::<f64>() else {
            let words = format!("`{typed}` is no number in {}", unit_name(&tunable.unit));
            self.said.message = Some((words, true));
            return;
        };
        if let Some((low, high)) = tunable.range.filter(|(l, h)| !(*l..=*h).contains(&value)) {
            let words = format!("{} goes from {low} to {high} {}", tunable.name, tunable.unit);
            self.said.message = Some((words, true));
            return;
        }
        let new = tunable.clamped(value);
        self.put_knob(&new, true);
    }

    fn put_knob(&mut self, new: &str, typed: bool) {
        // What cannot be compiled has no numbers that could be told apart.
        if self.script.is_broken() {
            let words = "put the errors in the text right first: numbers are turned there";
            self.said.message = Some((words.into(), true));
            return;
        }
        let Some(tunable) = self.known.tunables.get(self.drawer.knob_at).cloned() else { return };
        let old = self.script.buffer.text();
        let gap = if tunable.unit.is_empty() { "" } else { " " };
        let unit = format!("{gap}{}", tunable.unit);
        let name = &tunable.name;
        if old.get(tunable.span.range()) == Some(new) {
            let at_its_end = tunable.range.is_some_and(|(l, h)| [l, h].contains(&tunable.value));
            let words = match typed {
                false if at_its_end => format!("{name} is at its end: {new}{unit}"),
                _ => format!("{name} is {new}{unit} already"),
            };
            self.said.message = Some((words, false));
            return;
        }
        self.script.buffer.put(tunable.span.range(), new);
        let words =
            format!("{name} = {new}{unit}; was {}{unit}, Ctrl+Z takes it back", tunable.value);
        self.say_first(&words);
    }
}

fn unit_name(unit: &str) -> &str {
    if unit.is_empty() { "no unit" } else { unit }
}
