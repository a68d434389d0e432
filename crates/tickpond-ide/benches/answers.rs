//! What an answer takes in a text of 2,000 lines, from the changed text on: an editor asks after each key.
//!
//! `cargo bench -p tickpond-ide --bench answers`. All of them grow with the text; completion behind a number compiles it
//! once for each unit. A key and what follows from it should stay below 20 ms.

use divan::{Bencher, black_box};
use tickpond_ide::coloured::pieces;
use tickpond_ide::complete::candidates;
use tickpond_ide::document::Document;
use tickpond_ide::folds::foldable;
use tickpond_ide::hints::hints;
use tickpond_ide::hover::hover;
use tickpond_ide::mends::offers;
use tickpond_ide::names::{name_at, renaming, uses};
use tickpond_ide::setting::formatting;
use tickpond_ide::signature::signature;
use tickpond_ide::symbols::symbols;
use tickpond_lang::Span;

fn main() {
    divan::main();
}

/// A pond of so many lines: kinds with handlers, and texts with values.
fn pond(lines: usize) -> String {
    let mut text = String::from(
        "pond \"Wide\" { arena 400 x 300 }\nknob drift = 6 u/s in 1 u/s .. 9 u/s \"how fast\"\nmessage warn(level: number)\n",
    );
    for nth in 0.. {
        text.push_str(&format!(
            "
// Number {nth}.
kind midge_{nth} {{
    look \"m\" teal
    body circle 0.5 u, sensor
    health 3
    vars {{ bites_{nth} = 0; worn = 0 s }}
    states {{ still, afraid }}
    on birth {{ heading = any angle; speed = drift }}
    on warn(level) from who {{
        bites_{nth} += level
        if state == still and age > 2 s {{ become afraid }}
    }}
    every 0.5 s {{
        if nearest(midge_{nth} within 20 u) as other {{ heading = direction to other }}
        say \"{{bites_{nth}}} of {{drift}}\"
    }}
    after 12.5 s {{ end self because \"worn\" }}
}}
place midge_{nth} at (10, 20)
"
        ));
        if text.matches('\n').count() >= lines {
            return text;
        }
    }
    text
}

/// A text whose middle is at the bar of `typed`, put behind the first line that holds `behind`, and that place.
fn typed(behind: &str, typed: &str) -> (String, u32) {
    let text = pond(2_000);
    let middle = text[text.len() / 2..].find(behind).unwrap() + text.len() / 2 + behind.len();
    let bar = typed.find('|').unwrap();
    let new = typed.replace('|', "");
    (format!("{}{new}{}", &text[..middle], &text[middle..]), (middle + bar) as u32)
}

#[divan::bench(args = [500, 1000, 2000, 4000])]
fn compiled(bencher: Bencher<'_, '_>, lines: usize) {
    let text = pond(lines);
    bencher.bench_local(|| Document::new(black_box(text.as_str())));
}

#[divan::bench]
fn completion_of_a_name(bencher: Bencher<'_, '_>) {
    let (text, at) = typed("age > 2 s { ", "speed = dr|; ");
    bencher.bench_local(|| candidates(&Document::new(black_box(text.as_str())), at));
}

#[divan::bench]
fn completion_of_a_unit(bencher: Bencher<'_, '_>) {
    let (text, at) = typed("age > 2 s { ", "speed = 3 |; ");
    bencher.bench_local(|| candidates(&Document::new(black_box(text.as_str())), at));
}

fn known(bencher: Bencher<'_, '_>, ask: impl Fn(&Document, u32)) {
    let (text, at) = typed("age > 2 s { ", "speed = dri|ft; ");
    let document = Document::new(text);
    bencher.bench_local(|| ask(black_box(&document), at));
}

#[divan::bench]
fn told_of_a_word(bencher: Bencher<'_, '_>) {
    known(bencher, |document, at| drop(hover(document, at)));
}

#[divan::bench]
fn all_uses(bencher: Bencher<'_, '_>) {
    known(bencher, |document, at| {
        let name = name_at(document, at).unwrap();
        black_box(uses(document, &name));
    });
}

#[divan::bench]
fn renamed(bencher: Bencher<'_, '_>) {
    known(bencher, |document, at| {
        let name = name_at(document, at).unwrap();
        black_box(renaming(document, &name, "pull").unwrap());
    });
}

#[divan::bench]
fn outline(bencher: Bencher<'_, '_>) {
    known(bencher, |document, _| drop(symbols(document)));
}

#[divan::bench]
fn folds(bencher: Bencher<'_, '_>) {
    known(bencher, |document, _| drop(foldable(document)));
}

#[divan::bench]
fn colours(bencher: Bencher<'_, '_>) {
    known(bencher, |document, _| drop(pieces(document)));
}

#[divan::bench]
fn inlay_hints(bencher: Bencher<'_, '_>) {
    known(bencher, |document, _| drop(hints(document)));
}

#[divan::bench]
fn called_with(bencher: Bencher<'_, '_>) {
    known(bencher, |document, at| drop(signature(document, at)));
}

#[divan::bench]
fn mends(bencher: Bencher<'_, '_>) {
    known(bencher, |document, at| drop(offers(document, Span { start: at, end: at })));
}

#[divan::bench]
fn set_out(bencher: Bencher<'_, '_>) {
    known(bencher, |document, _| drop(formatting(document, None)));
}
