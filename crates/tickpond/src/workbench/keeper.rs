//! Looks after the text beside the screen: keeps what is not saved against a crash, and notices when
//! another program changes the file.

use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant, SystemTime};

use ropey::Rope;

use super::app::App;
use super::places;
use super::prompt::Prompt;

/// How long typing may go on before it is kept.
const KEPT_EVERY: Duration = Duration::from_millis(700);
/// How often the file is looked at.
const LOOKED_EVERY: Duration = Duration::from_millis(500);

/// The text as it is, for whoever has to end the program while the screen cannot.
#[derive(Default)]
pub struct Unsaved {
    path: Option<std::path::PathBuf>,
    name: String,
    /// None while it is saved.
    text: Option<Rope>,
}

impl Unsaved {
    /// Keeps it for the next start, if it is not saved.
    pub fn keep(&self) {
        if let Some(text) = &self.text {
            places::keep(self.path.as_deref(), &self.name, &text.to_string());
        }
    }
}

/// What was kept, and how the file was when it was looked at last.
pub struct Keeper {
    kept_version: u64,
    kept: Instant,
    looked: Instant,
    /// The file and when it was changed last.
    file: Option<(std::path::PathBuf, Option<SystemTime>)>,
    /// The file's text as it is known here.
    known: String,
    /// The version the shared text is of.
    shared_version: u64,
    unsaved: Arc<Mutex<Unsaved>>,
}

impl Keeper {
    pub fn new(app: &App) -> Keeper {
        let now = Instant::now();
        Keeper {
            kept_version: app.script.buffer.version(),
            kept: now,
            looked: now,
            file: app.path.clone().map(|path| (path.clone(), changed(&path))),
            known: app.file_text(),
            shared_version: u64::MAX,
            unsaved: Arc::default(),
        }
    }

    /// The text as it is at any time.
    pub fn unsaved(&self) -> Arc<Mutex<Unsaved>> {
        self.unsaved.clone()
    }

    fn share(&mut self, app: &App) {
        self.shared_version = app.script.buffer.version();
        if let Ok(mut unsaved) = self.unsaved.lock() {
            let text = (!app.script.buffer.is_saved()).then(|| app.script.buffer.rope());
            *unsaved = Unsaved { path: app.path.clone(), name: app.name.clone(), text };
        }
    }

    /// Keeps the text if it is not saved.
    pub fn keep(&mut self, app: &App) {
        self.kept = Instant::now();
        self.kept_version = app.script.buffer.version();
        if app.script.buffer.is_saved() {
            places::forget(app.path.as_deref(), &app.name);
        } else {
            places::keep(app.path.as_deref(), &app.name, &app.script.buffer.text());
        }
    }

    /// Does what is due; true if something on the screen has changed.
    pub fn look(&mut self, app: &mut App) -> bool {
        let typed = app.script.buffer.version() != self.kept_version;
        if app.script.buffer.version() != self.shared_version {
            self.share(app);
        }
        // An offer that is not answered yet must not be written over.
        let offered = matches!(app.prompt, Some(Prompt::Recover(_)));
        if typed && !offered && self.kept.elapsed() >= KEPT_EVERY {
            self.keep(app);
        }
        if self.looked.elapsed() < LOOKED_EVERY {
            return false;
        }
        self.looked = Instant::now();
        self.look_at_file(app)
    }

    fn look_at_file(&mut self, app: &mut App) -> bool {
        let Some(path) = app.path.clone() else {
            self.file = None;
            return false;
        };
        let now = changed(&path);
        match &self.file {
            Some((known, _)) if *known != path => {
                // Another pond, or another name.
                self.file = Some((path, now));
                self.known = app.file_text();
                return false;
            }
            Some((_, time)) if *time == now => return false,
            None => {
                self.file = Some((path, now));
                self.known = app.file_text();
                return false;
            }
            Some(_) => {}
        }
        self.file = Some((path.clone(), now));
        if now.is_none() {
            let words = format!("{} is gone; saving writes it again", path.display());
            app.message = Some((words, true));
            return true;
        }
        let Ok(theirs) = std::fs::read_to_string(&path) else { return false };
        if theirs == app.file_text() {
            // It was written from here, or the same was typed there.
            self.known = theirs;
            app.script.buffer.mark_saved();
            return true;
        }
        if theirs == self.known {
            return false;
        }
        self.known.clone_from(&theirs);
        let theirs = theirs.replace("\r\n", "\n");
        if app.script.buffer.is_saved() {
            app.script.buffer.put_all(&theirs);
            app.script.buffer.mark_saved();
            app.say_first("the file was changed by another program: taken up, Ctrl+Z goes back");
        } else if app.prompt.is_none() {
            app.prompt = Some(Prompt::Disk(theirs));
        }
        true
    }
}

fn changed(path: &std::path::Path) -> Option<SystemTime> {
    std::fs::metadata(path).and_then(|m| m.modified()).ok()
}
