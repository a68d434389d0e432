//! What a number comes to: a duration in ticks, and what is done on every tick in a second.

use tickpond_lang::Span;
use tickpond_lang::syntax::{Node, NodeExt, SyntaxKind as S, is_expr};
use tickpond_lang::units::{self, Dim, parted};

use crate::document::Document;

/// Words to show behind a number.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Hint {
    /// The byte behind which they belong.
    pub at: u32,
    /// The words, such as `= 90 ticks`.
    pub words: String,
}

/// The hints of a text in its order.
pub fn hints(document: &Document) -> Vec<Hint> {
    let root = tickpond_lang::parse::parse(&document.text).root();
    let rate = rate(&root);
    let mut found = Vec::new();
    for node in root.descendants() {
        match node.kind() {
            S::NumberExpr => found.extend(duration(&node, rate)),
            S::Handler if node.child(S::EveryTick).is_some() => {
                let amounts = node.descendants().filter_map(|stmt| amount(&stmt));
                found.extend(amounts.filter_map(|amount| per_second(&amount, rate)));
            }
            _ => {}
        }
    }
    found.sort_by_key(|hint| hint.at);
    found
}

/// Ticks per second: what the header says, or the usual 60.
fn rate(root: &Node) -> f64 {
    let line = root.descendants().find(|node| node.kind() == S::RateLine);
    let number = line.and_then(|line| {
        let tokens = line.descendants_with_tokens().filter_map(|e| e.into_token());
        tokens.into_iter().find(|t| t.kind() == S::Number)
    });
    let rate = number.and_then(|token| parted(token.text()).number());
    rate.filter(|rate| *rate > 0.0).unwrap_or(60.0)
}

/// A number with a unit of time, in ticks.
fn duration(node: &Node, rate: f64) -> Option<Hint> {
    let token = node.token(S::Number)?;
    let written = parted(token.text());
    let unit = units::find(written.unit).filter(|u| u.dim == Dim::TIME && !u.is_ticks())?;
    let ticks = written.number()? * unit.factor * rate;
    let s = if ticks == 1.0 { "" } else { "s" };
    let end: u32 = token.text_range().end().into();
    Some(Hint { at: end, words: format!("= {} tick{s}", short(ticks)) })
}

/// The value a statement adds, or does on each firing, if it is a plain number.
fn amount(stmt: &Node) -> Option<Node> {
    let adds = match stmt.kind() {
        S::AssignStmt => stmt.token(S::PlusAssign).or(stmt.token(S::MinusAssign)).is_some(),
        S::TurnStmt => !tickpond_lang::tree::Along(stmt).is_toward(),
        S::DamageStmt | S::HealStmt => true,
        _ => false,
    };
    if !adds {
        return None;
    }
    let value = match stmt.kind() {
        // Behind the amount may stand whose doing it was.
        S::DamageStmt => {
            let target = usize::from(stmt.child(S::Target).is_none());
            stmt.exprs().nth(target)
        }
        _ => stmt.children().filter(|n| is_expr(n.kind())).last(),
    };
    value.filter(|node| {
        let bare = match node.kind() {
            S::UnaryExpr => node.expr(),
            _ => Some(node.clone()),
        };
        bare.is_some_and(|node| node.kind() == S::NumberExpr)
    })
}

fn per_second(value: &Node, rate: f64) -> Option<Hint> {
    let tokens = value.descendants_with_tokens().filter_map(|e| e.into_token());
    let token = tokens.into_iter().find(|t| t.kind() == S::Number)?;
    let written = parted(token.text());
    let unit = if written.unit.is_empty() { String::new() } else { format!(" {}", written.unit) };
    let span: Span = token.text_range().into();
    let second = short(written.number()? * rate);
    Some(Hint { at: span.end, words: format!("= {second}{unit} per s") })
}

/// A number with as many digits as say something.
fn short(number: f64) -> String {
    let text = format!("{number:.3}");
    text.trim_end_matches('0').trim_end_matches('.').to_string()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn told(line: &str, rate: &str) -> Vec<String> {
        let text = format!("pond \"t\" {{ arena 10 x 10{rate} }}\nkind midge {{\n{line}\n}}\n");
        hints(&Document::new(text)).into_iter().map(|hint| hint.words).collect()
    }

    #[rstest]
    #[case("after 1.5 s { end self }", &["= 90 ticks"])]
    #[case("every 250 ms { }", &["= 15 ticks"])]
    #[case("every 7 ticks { }", &[])]
    #[case("every 10 ms { }", &["= 0.6 ticks"])]
    #[case("on birth { wait 2 min; speed = 3 u/s }", &["= 7200 ticks"])]
    #[case("every tick { heading += 3 deg }", &["= 180 deg per s"])]
    #[case("every tick { turn by -0.5 deg }", &["= 30 deg per s"])]
    #[case("every tick { if age > 1 s { damage self by 0.1 credit maker } }", &["= 60 ticks", "= 6 per s"])]
    #[case("every tick { heading = 3 deg; heading += spin * 1 s }", &["= 60 ticks"])]
    #[case("every 1 s { heading += 3 deg }", &["= 60 ticks"])]
    fn a_number_is_told_in_other_terms(#[case] line: &str, #[case] wanted: &[&str]) {
        assert_eq!(told(line, ""), wanted);
    }

    #[rstest]
    fn the_rate_of_the_pond_counts() {
        assert_eq!(told("after 2 s { end self }", "; rate 50"), ["= 100 ticks"]);
    }
}
