//! `tickpond`, `tickpond demo` and `tickpond open FILE`: the workbench.

use std::path::PathBuf;

use clap::Args;

use super::say::complain;
use crate::failure::{Code, Failure, read_text};
use crate::ponds;
use crate::workbench::{self, Document, Ended};

#[derive(Args)]
pub struct DemoArgs {
    /// Name of a pond that comes with the program: `dusk`, `first_steps`, or one of the gallery, such as `rain`
    #[arg(default_value = "dusk")]
    name: String,
}

#[derive(Args)]
pub struct OpenArgs {
    /// The pond
    file: PathBuf,
}

/// Without arguments: the demo behind a list of ponds to choose from.
pub fn start() -> Result<(), Failure> {
    let text = ponds::SHIPPED[0].text;
    let document = Document { path: None, name: "dusk.pond".into(), text: text.into() };
    show(document, true)
}

/// Opens a shipped pond; it has no file until it is saved under a name.
pub fn demo(args: &DemoArgs) -> Result<(), Failure> {
    let Some(pond) = ponds::shipped(&args.name) else {
        let shipped = ponds::SHIPPED.iter().chain([ponds::LESSON]);
        let names: Vec<&str> = shipped.map(ponds::Shipped::name).collect();
        return Err(Failure::wrong(format!(
            "there is no demo `{}`\nhelp: there are {}",
            args.name,
            names.join(", ")
        )));
    };
    let (name, text) = (format!("{}.pond", pond.file), pond.text.into());
    let document = Document { path: None, name, text };
    show(document, false)
}

/// Opens a pond, broken or not: the workbench is where it gets mended.
pub fn open(args: &OpenArgs) -> Result<(), Failure> {
    let text = read_text(&args.file)?;
    let name = args.file.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
    workbench::remember_pond(&args.file);
    show(Document { path: Some(args.file.clone()), name, text }, false)
}

fn show(document: Document, asks: bool) -> Result<(), Failure> {
    use std::io::IsTerminal;
    if !std::io::stdin().is_terminal() || !std::io::stdout().is_terminal() {
        let words = "the workbench needs a terminal\nhelp: without one, use `tickpond run FILE`";
        return Err(Failure::wrong(words));
    }
    // The process that waits has nothing else to do.
    if let Some(status) = workbench::mind() {
        if let Some(signal) = workbench::signal_of(status) {
            complain(&format!(
                "error: the workbench was ended by signal {signal}\n\
                 help: open the pond again: what you typed is offered"
            ));
            std::process::exit(128 + signal);
        }
        std::process::exit(status.code().unwrap_or(Code::Files as i32));
    }
    let failed = |e| Failure { code: Code::Files, words: format!("the terminal failed: {e}") };
    match workbench::run(document, asks).map_err(failed)? {
        Ended::Quit => Ok(()),
        // As the system tells of a program that a signal has ended.
        Ended::Signal(signal) => std::process::exit(128 + signal),
    }
}
