//! Parts of expectations and handlers that the compiler asks for.

use tickpond_lang::program::*;

use super::layout::words_of;

fn turning(event: &Happening) -> Option<&Expr> {
    match event {
        Happening::Turns(condition) => Some(condition),
        _ => None,
    }
}

pub(super) fn those_of(check: &Check) -> Option<&Those> {
    match check {
        Check::LivesAtMost(those, _)
        | Check::LivesAtLeast(those, _)
        | Check::EndsBy(those, _)
        | Check::HurtAtMost(those, _) => Some(those),
        _ => None,
    }
}

pub(super) fn parts_of(check: &Check) -> (Option<&Expr>, Option<&Expr>) {
    match check {
        Check::Always(e) | Check::Never(e) | Check::InTheEnd(e) => (Some(e), None),
        Check::At(_, e) | Check::By(_, e) | Check::From(_, _, e) => (Some(e), None),
        Check::AfterWithin { event, holds, .. } | Check::AfterFor { event, holds, .. } => {
            (Some(holds), turning(event))
        }
        Check::LivesAtMost(..)
        | Check::LivesAtLeast(..)
        | Check::EndsBy(..)
        | Check::HurtAtMost(..) => (None, None),
    }
}

pub(super) fn has_clock(event: &Event) -> bool {
    matches!(event, Event::After(_) | Event::Every(_) | Event::WhileHeld(..) | Event::Routine(_))
}

pub(super) fn var_words(program: &Program) -> Vec<Vec<Option<u16>>> {
    let of_kind = |kind: &tickpond_lang::program::Kind| {
        let mut words = vec![None; program.var_names.len()];
        let mut next = 0;
        for var in &kind.vars {
            words[var.name.index()] = Some(next);
            next += u16::from(words_of(&var.ty));
        }
        words
    };
    program.kinds.iter().map(of_kind).collect()
}
