//! Values as text.

use std::sync::Arc;

use tickpond_lang::lex::LONGEST_TEXT;
use tickpond_lang::units::Dim;

use super::block::Block;
use super::chosen::Chosen;
use super::outbox::Outbox;
use super::step::Run;
use crate::code::op::TextOp;
use crate::event::What;
use crate::state::EntityId;

/// A number with at most three decimals and its unit, as a person writes it.
pub fn number_text(value: f64, dim: Dim) -> String {
    let rounded = format!("{value:.3}");
    let short = rounded.trim_end_matches('0').trim_end_matches('.');
    let short = if short == "-0" { "0" } else { short };
    if dim == Dim::NONE { short.to_string() } else { format!("{short} {dim}") }
}

impl Run<'_> {
    pub(super) fn say(&self, block: &mut Block, lanes: Chosen, parts: &[TextOp], out: &mut Outbox) {
        for lane in lanes {
            let words = self.render(block, lane, parts, out);
            self.note(block, lane, What::Said, Some(words), out);
        }
    }

    /// A text; one that comes to more than [`LONGEST_TEXT`] is cut there and ends in `…`.
    pub(super) fn render(
        &self,
        block: &Block,
        lane: usize,
        parts: &[TextOp],
        out: &mut Outbox,
    ) -> Arc<str> {
        let mut text = String::new();
        for part in parts {
            if text.len() > LONGEST_TEXT {
                break;
            }
            match part {
                TextOp::Words(words) => text.push_str(words),
                TextOp::Number(reg, dim) => {
                    text.push_str(&number_text(block.number(*reg, lane), *dim));
                }
                TextOp::Pair(reg, dim) => {
                    let (x, y) = (block.number(*reg, lane), block.number(*reg + 1, lane));
                    let unit = if *dim == Dim::NONE { String::new() } else { format!(" {dim}") };
                    let [x, y] = [x, y].map(|n| number_text(n, Dim::NONE));
                    text.push_str(&format!("({x}, {y}){unit}"));
                }
                TextOp::Truth(reg) => {
                    text.push_str(if block.word(*reg, lane) != 0 { "true" } else { "false" });
                }
                TextOp::Kind(reg) => {
                    let kind = self.world.compiled.kind_of_word(block.word(*reg, lane));
                    text.push_str(&self.world.compiled.program.kinds[kind.index()].name);
                }
                TextOp::State(reg) => {
                    let names = &self.world.compiled.program.state_names;
                    let at = block.word(*reg, lane) as usize;
                    text.push_str(names.get(at).map_or("none", String::as_str));
                }
                TextOp::Label(reg) => {
                    let id = EntityId::from_word(block.word(*reg, lane));
                    match self.world.state.labels.get(&id) {
                        Some(label) => text.push_str(label),
                        None => text.push_str(&self.name_of(id)),
                    }
                }
                TextOp::Entity(reg) => {
                    let id = EntityId::from_word(block.word(*reg, lane));
                    text.push_str(&self.name_of(id));
                }
            }
        }
        if text.len() > LONGEST_TEXT {
            text.truncate(text.floor_char_boundary(LONGEST_TEXT - '…'.len_utf8()));
            text.push('…');
        }
        out.spend_text(text.len());
        text.into()
    }

    fn name_of(&self, id: EntityId) -> String {
        match self.world.state.who(id) {
            Some(who) => {
                let kind = &self.world.compiled.program.kinds[who.kind.index()];
                format!("{}#{}", kind.name, who.number)
            }
            None => "gone".into(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(6.0, Dim::SPEED, "6 u/s")]
    #[case(0.25, Dim::TIME, "0.25 s")]
    #[case(1.0 / 3.0, Dim::NONE, "0.333")]
    #[case(-0.0001, Dim::NONE, "0")]
    #[case(100.0, Dim::NONE, "100")]
    fn numbers_read_as_they_are_written(#[case] value: f64, #[case] dim: Dim, #[case] text: &str) {
        assert_eq!(number_text(value, dim), text);
    }
}
