//! `tickpond check PATH...`

use std::path::{Path, PathBuf};

use clap::{Args, ValueEnum};
use serde::Serialize;
use tickpond_lang::lines::{LineCol, LineIndex};
use tickpond_lang::{Compilation, Diagnostic, Severity};

use super::say::{complain, print, print_as_it_is};
use crate::failure::{Code, Failure, read_text};
use crate::show;
use crate::showable::showable;

#[derive(Args)]
pub struct CheckArgs {
    /// Ponds, or folders that are searched for ponds
    #[arg(required = true)]
    paths: Vec<PathBuf>,
    /// Print one JSON object instead of text
    #[arg(long)]
    json: bool,
    /// What to treat as a failure beside errors
    #[arg(long, value_name = "WHAT")]
    deny: Option<Deny>,
}

#[derive(Clone, Copy, PartialEq, ValueEnum)]
enum Deny {
    /// Findings
    Findings,
}

/// One file in the JSON report.
#[derive(Serialize)]
struct FileReport<'a> {
    file: String,
    diagnostics: Vec<DiagnosticReport<'a>>,
    accepted: Vec<DiagnosticReport<'a>>,
}

/// One diagnostic in the JSON report: the diagnostic and its place as people count.
#[derive(Serialize)]
struct DiagnosticReport<'a> {
    line: u32,
    col: u32,
    #[serde(flatten)]
    diagnostic: &'a Diagnostic,
}

/// Reports errors and findings of every pond.
pub fn check(args: &CheckArgs) -> Result<(), Failure> {
    let files = ponds_in(&args.paths);
    let (mut errors, mut findings, mut hints, mut accepted) = (0, 0, 0, 0);
    let (mut reports, mut unreadable) = (Vec::new(), Vec::new());
    let mut unread: Option<Code> = files.unread;
    for file in &files.ponds {
        let text = match read_text(file) {
            Ok(text) => text,
            Err(failure) => {
                // The others are checked all the same.
                complain(&format!("error: {}", failure.words));
                let words = failure.words.lines().next().unwrap_or_default().to_string();
                unreadable
                    .push(serde_json::json!({"file": file.display().to_string(), "words": words}));
                unread = Some(failure.code);
                continue;
            }
        };
        let compiled = tickpond_lang::compile(&text);
        let count = |severity| {
            compiled.diagnostics.iter().filter(|d: &&Diagnostic| d.severity == severity).count()
        };
        errors += count(Severity::Error);
        findings += count(Severity::Finding);
        hints += count(Severity::Hint);
        accepted += compiled.accepted.len();
        if args.json {
            reports.push(json(file, &text, &compiled));
        } else {
            show_all(file, &text, &compiled)?;
        }
    }
    if args.json {
        let object = serde_json::json!({
            "files": reports, "errors": errors, "findings": findings, "hints": hints,
            "accepted": accepted, "unreadable": unreadable
        });
        print(&format!("{object:#}\n"))?;
    }
    match (errors, findings) {
        (0, _) if unread.is_some() => Err(Failure::said(unread.unwrap_or(Code::Files))),
        (0, 0) => Ok(()),
        (0, _) if args.deny == Some(Deny::Findings) => Err(Failure::said(Code::Expectation)),
        (0, _) => Ok(()),
        _ => Err(Failure::said(Code::Wrong)),
    }
}

fn show_all(file: &Path, text: &str, compiled: &Compilation) -> Result<(), Failure> {
    use std::io::IsTerminal;
    let colour = std::io::stdout().is_terminal() && super::say::colour();
    let lines = LineIndex::new(text);
    let name = file.display().to_string();
    let mut out = show::diagnostics(&name, text, &lines, &compiled.diagnostics, colour);
    let accepted = match compiled.accepted.len() {
        0 => String::new(),
        count => format!("; {count} accepted"),
    };
    let tally = show::tally(&compiled.diagnostics);
    out.push_str(&format!("{}: {tally}{accepted}\n", showable(&name)));
    print_as_it_is(&out)
}

fn json(file: &Path, text: &str, compiled: &Compilation) -> serde_json::Value {
    let lines = LineIndex::new(text);
    let report = FileReport {
        file: file.display().to_string(),
        diagnostics: reports(text, &lines, &compiled.diagnostics),
        accepted: reports(text, &lines, &compiled.accepted),
    };
    serde_json::to_value(report).unwrap_or_default()
}

fn reports<'a>(
    text: &str,
    lines: &LineIndex,
    diagnostics: &'a [Diagnostic],
) -> Vec<DiagnosticReport<'a>> {
    // They come in the order of their places: of a line with many its characters are counted once.
    let (mut known, mut from) = (LineCol { line: 0, col: 1 }, 0);
    let report = |diagnostic: &'a Diagnostic| {
        let (start, line) = (diagnostic.span.start, lines.line(diagnostic.span.start));
        known = match line == known.line && start >= from {
            true => {
                let between = text.get(from as usize..start as usize).unwrap_or("");
                LineCol { line, col: known.col + between.chars().count() as u32 }
            }
            false => lines.line_col(text, start),
        };
        from = start;
        DiagnosticReport { line: known.line, col: known.col, diagnostic }
    };
    diagnostics.iter().map(report).collect()
}

/// Ponds that were looked for.
pub struct Found {
    /// The files named, and all ponds in the folders named, in the order of their names.
    pub ponds: Vec<PathBuf>,
    /// What it comes to if a folder could not be looked through; that has been said.
    pub unread: Option<Code>,
}

/// Looks for the files named, and all ponds in the folders named. In a folder links are not followed: they can lead
/// out of it, or around.
pub fn ponds_in(paths: &[PathBuf]) -> Found {
    let mut found = Found { ponds: Vec::new(), unread: None };
    for path in paths {
        if path.is_dir() {
            let before = found.ponds.len();
            collect(path, &mut found);
            if found.ponds.len() == before {
                complain(&format!("{}: no ponds in this folder", path.display()));
            }
        } else {
            found.ponds.push(path.clone());
        }
    }
    found
}

fn collect(folder: &Path, found: &mut Found) {
    let entries = match std::fs::read_dir(folder) {
        Ok(entries) => entries,
        Err(error) => {
            complain(&format!("error: {}", Failure::reading(folder, &error).words));
            found.unread = Some(Code::Files);
            return;
        }
    };
    let mut entries: Vec<std::fs::DirEntry> = entries.flatten().collect();
    entries.sort_by_key(std::fs::DirEntry::file_name);
    for entry in entries {
        let path = entry.path();
        match entry.file_type() {
            Ok(sort) if sort.is_dir() => collect(&path, found),
            Ok(sort) if sort.is_file() && path.extension().is_some_and(|e| e == "pond") => {
                found.ponds.push(path);
            }
            _ => {}
        }
    }
}
