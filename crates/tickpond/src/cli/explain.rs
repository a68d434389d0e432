//! `tickpond explain CODE`

use clap::Args;
use tickpond_lang::{Code, explain::explain as page, explain::title};

use super::say::print;
use crate::failure::Failure;

#[derive(Args)]
pub struct ExplainArgs {
    /// The code, such as E0401; without one, all codes are listed
    code: Option<String>,
}

/// Prints the page on a code, or the list of all.
pub fn explain(args: &ExplainArgs) -> Result<(), Failure> {
    let Some(text) = &args.code else {
        let line = |code: &Code| format!("{}  {}\n", code.as_str(), title(*code));
        return print(&Code::ALL.iter().map(line).collect::<String>());
    };
    match Code::named(text.trim()) {
        Some(code) => print(page(code)),
        None => Err(Failure::wrong(format!(
            "there is no code `{text}`\nhelp: `tickpond explain` lists them all"
        ))),
    }
}
