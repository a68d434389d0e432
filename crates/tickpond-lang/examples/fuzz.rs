//! Feeds damaged ponds, shipped ones and drawn ones, to the lexer, parser, checker and formatter for a bounded time.
//!
//! `cargo run --example fuzz -- SECONDS [SEED] [FILES…]`. Ponds are cut, mixed and repeated by chance;
//! none may make anything panic, lose a byte of the tree, point outside the text, or take long for its
//! length. What fails is written beside the program's working directory as `fuzz-failure.pond`, and the
//! exit code is 1.

use std::panic::catch_unwind;
use std::time::{Duration, Instant};

use tickpond_arbitrary::{Chance, Oddities, Pond};
use tickpond_lang::{compile, format::format, parse::parse};

/// Slowest allowed, for each byte and in all; linear time is far under it.
const SLOWEST: Duration = Duration::from_micros(60);
const GRACE: Duration = Duration::from_millis(400);
/// Longest text that is tried.
const LONGEST: usize = 60_000;

/// How many ponds are drawn.
const DRAWN: u64 = 200;

fn main() {
    let mut args = std::env::args().skip(1);
    let seconds: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(10);
    let seed: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(1);
    let corpus: Vec<String> = args.filter_map(|path| std::fs::read_to_string(path).ok()).collect();
    // Ponds over the whole grammar stand beside those that are named.
    let drawn = (0..DRAWN).map(|n| Pond::draw(seed ^ n, Oddities::of(seed ^ n)).text());
    let corpus: Vec<String> = corpus.into_iter().chain(drawn).collect();
    let words: Vec<&str> =
        corpus.iter().flat_map(|t| t.split_inclusive([' ', '\n', '(', '{', '}'])).collect();
    let mut chance = Chance::new(seed);
    let end = Instant::now() + Duration::from_secs(seconds);
    let mut tried = 0u64;
    while Instant::now() < end {
        let text = damaged(&mut chance, &corpus, &words);
        if let Err(reason) = check_again_if_slow(&text) {
            let _ = std::fs::write("fuzz-failure.pond", &text);
            eprintln!("seed {seed}, text {tried}: {reason}; see fuzz-failure.pond");
            std::process::exit(1);
        }
        tried += 1;
    }
    println!("{tried} texts in {seconds} s, none did harm");
}

/// A text of the corpus with a few stretches cut, swapped, repeated or filled with words.
fn damaged(chance: &mut Chance, corpus: &[String], words: &[&str]) -> String {
    let mut text: Vec<char> = corpus[chance.below(corpus.len())].chars().collect();
    for _ in 0..=chance.below(6) {
        let at = chance.below(text.len() + 1);
        let until = (at + chance.below(40)).min(text.len());
        match chance.below(5) {
            0 => drop(text.drain(at..until)),
            1 => {
                let word: Vec<char> = words[chance.below(words.len())].chars().collect();
                text.splice(at..at, word);
            }
            2 => {
                let piece: Vec<char> = text[at..until].to_vec();
                let times = (1 << chance.below(14)).min(LONGEST / piece.len().max(1) + 1);
                text.splice(at..at, piece.repeat(times));
            }
            3 => {
                let odd = ['{', '}', '(', ')', '"', '\u{0}', '\u{202e}', 'é', '\t', '\r', ';', '#'];
                text.splice(at..until, [odd[chance.below(odd.len())]]);
            }
            _ => {
                let other = chance.below(text.len() + 1);
                let piece: Vec<char> = text[at..until].to_vec();
                text.splice(other..other, piece);
            }
        }
        text.truncate(LONGEST);
    }
    text.into_iter().collect()
}

/// What is wrong with how a text is taken. A slow one is tried twice more: on a busy machine the clock
/// also counts what others do, and only a text that is slow each time is slow itself.
fn check_again_if_slow(text: &str) -> Result<(), String> {
    let mut fastest = check(text)?;
    for _ in 0..2 {
        if fastest <= GRACE + SLOWEST * text.len() as u32 {
            return Ok(());
        }
        fastest = fastest.min(check(text)?);
    }
    if fastest > GRACE + SLOWEST * text.len() as u32 {
        return Err(std::format!("{} bytes took {fastest:?}", text.len()));
    }
    Ok(())
}

/// How long the text took, or what was wrong.
fn check(text: &str) -> Result<Duration, String> {
    let clock = Instant::now();
    let harmless = catch_unwind(|| {
        let parsed = parse(text);
        if parsed.root().text() != text {
            return Err("the tree lost something".to_string());
        }
        for d in compile(text).diagnostics {
            if text.get(d.span.range()).is_none() {
                return Err(std::format!("{} points outside the text", d.code.as_str()));
            }
        }
        if let Ok(once) = format(text) {
            match format(&once) {
                Ok(twice) if twice == once => {}
                _ => return Err("formatting twice is not formatting once".to_string()),
            }
        }
        Ok(())
    });
    let took = clock.elapsed();
    match harmless {
        Err(_) => Err("a panic".into()),
        Ok(Err(reason)) => Err(reason),
        Ok(Ok(())) => Ok(took),
    }
}
