//! `tickpond check PATH...`

use std::path::{Path, PathBuf};

use clap::{Args, ValueEnum};
use serde::Serialize;
use tickpond_lang::lines::LineIndex;
use tickpond_lang::{Compilation, Diagnostic, Severity};

use super::{complain, print};
use crate::failure::{Code, Failure, read_text};
use crate::show;

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
    let files = ponds_in(&args.paths)?;
    let (mut errors, mut findings, mut hints, mut accepted) = (0, 0, 0, 0);
    let mut reports = Vec::new();
    for file in &files {
        let text = read_text(file)?;
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
            "accepted": accepted
        });
        print(&format!("{object:#}\n"))?;
    }
    match (errors, findings) {
        (0, 0) => Ok(()),
        (0, _) if args.deny == Some(Deny::Findings) => Err(Failure::said(Code::Expectation)),
        (0, _) => Ok(()),
        _ => Err(Failure::said(Code::Wrong)),
    }
}

fn show_all(file: &Path, text: &str, compiled: &Compilation) -> Result<(), Failure> {
    use std::io::IsTerminal;
    let colour = std::io::stdout().is_terminal() && super::colour();
    let lines = LineIndex::new(text);
    let name = file.display().to_string();
    let mut out = String::new();
    for d in &compiled.diagnostics {
        out.push_str(&show::diagnostic(&name, text, &lines, d, colour));
        out.push('\n');
    }
    let accepted = match compiled.accepted.len() {
        0 => String::new(),
        count => format!("; {count} accepted"),
    };
    out.push_str(&format!("{name}: {}{accepted}\n", show::tally(&compiled.diagnostics)));
    print(&out)
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
    let report = |diagnostic: &'a Diagnostic| {
        let at = lines.line_col(text, diagnostic.span.start);
        DiagnosticReport { line: at.line, col: at.col, diagnostic }
    };
    diagnostics.iter().map(report).collect()
}

/// The files named, and all ponds in the folders named, in the order of their names.
pub fn ponds_in(paths: &[PathBuf]) -> Result<Vec<PathBuf>, Failure> {
    let mut files = Vec::new();
    for path in paths {
        if path.is_dir() {
            let before = files.len();
            collect(path, &mut files)?;
            if files.len() == before {
                complain(&format!("{}: no ponds in this folder", path.display()));
            }
        } else {
            files.push(path.clone());
        }
    }
    Ok(files)
}

fn collect(folder: &Path, files: &mut Vec<PathBuf>) -> Result<(), Failure> {
    let entries = std::fs::read_dir(folder).map_err(|e| Failure::reading(folder, &e))?;
    let mut paths: Vec<PathBuf> = entries.filter_map(|e| Some(e.ok()?.path())).collect();
    paths.sort();
    for path in paths {
        if path.is_dir() {
            collect(&path, files)?;
        } else if path.extension().is_some_and(|e| e == "pond") {
            files.push(path);
        }
    }
    Ok(())
}
