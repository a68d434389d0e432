//! Looks after the text beside the screen: keeps what is not saved against a crash, and notices when
//! another program changes the file.

use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant, SystemTime};

use ropey::Rope;
use tickpond_lab::Recipe;

use super::app::App;
use super::offer::Asks;
use super::recovery::{self, Left, Recovery};
use crate::reading::read_bytes;

/// How long typing may go on before it is kept. A text so large that keeping it takes long is kept less often, so that
/// no more than a tenth of the time goes into that.
const KEPT_EVERY: Duration = Duration::from_millis(130);
/// How often the file is looked at.
const LOOKED_EVERY: Duration = Duration::from_millis(500);

/// The text as it is, for whoever has to end the program while the screen cannot.
#[derive(Default)]
pub struct Unsaved {
    path: Option<PathBuf>,
    name: String,
    /// None while it is saved.
    text: Option<Rope>,
    /// What was in its file, as [`recovery::fingerprint`] has it.
    base: Option<u64>,
    /// What can be gone back to.
    branches: Vec<Arc<Recipe>>,
    recovery: Recovery,
}

impl Unsaved {
    /// Keeps it for the next start, if it is not saved; else nothing is kept.
    ///
    /// # Errors
    /// What the system reports.
    pub fn keep(&mut self) -> std::io::Result<()> {
        match &self.text {
            Some(text) => {
                let (path, text) = (self.path.as_deref(), text.to_string());
                self.recovery.keep(path, &self.name, &text, self.base, &self.branches)
            }
            None => {
                self.recovery.forget();
                Ok(())
            }
        }
    }
}

/// What was kept, and how the file was when it was looked at last.
pub struct Keeper {
    /// The version that was kept, and whether it was saved.
    kept_state: State,
    kept: Instant,
    /// How long it took.
    took: Duration,
    looked: Instant,
    /// The file as it was when it was looked at.
    file: Option<(PathBuf, Option<Stamp>)>,
    /// The document that is open, by its number.
    document: Option<u64>,
    /// The version and the document the shared text is of.
    shared: Option<Shared>,
    unsaved: Arc<Mutex<Unsaved>>,
    /// When the document was opened, and when it was last looked for what another window left of it.
    opened: Instant,
    sought: Option<Instant>,
    /// What was offered.
    offered: Vec<Left>,
    /// Whether it was told that nothing can be kept.
    told: bool,
}

/// How often and how long it is looked for what another window left behind.
const SOUGHT_EVERY: Duration = Duration::from_millis(250);
const SOUGHT_FOR: Duration = Duration::from_secs(3);

/// The version of a text, its file, whether it is saved, which bytes are known of the file, and the newest branch.
type Shared = (u64, Option<PathBuf>, bool, Option<(usize, usize)>, Option<u64>);

/// When a file was changed, and how long it is.
type Stamp = (SystemTime, u64);

impl Keeper {
    pub fn new() -> Keeper {
        let now = Instant::now();
        Keeper {
            kept_state: (0, true, None),
            kept: now,
            took: Duration::ZERO,
            looked: now,
            file: None,
            document: None,
            shared: None,
            unsaved: Arc::default(),
            opened: now,
            sought: None,
            offered: Vec::new(),
            told: false,
        }
    }

    /// The text as it is at any time.
    pub fn unsaved(&self) -> Arc<Mutex<Unsaved>> {
        self.unsaved.clone()
    }

    fn share(&mut self, app: &App) {
        let is_saved = app.script.buffer.is_saved();
        let on_disk = app.file.on_disk.as_ref().map(|bytes| (bytes.as_ptr() as usize, bytes.len()));
        let branch = app.snapshot.branches.last().map(|branch| branch.number);
        let now = (app.script.buffer.version(), app.file.path.clone(), is_saved, on_disk, branch);
        if self.shared.as_ref() == Some(&now) {
            return;
        }
        self.shared = Some(now);
        if let Ok(mut unsaved) = self.unsaved.lock() {
            unsaved.text = (!is_saved).then(|| app.script.buffer.rope());
            unsaved.path.clone_from(&app.file.path);
            unsaved.name.clone_from(&app.file.name);
            unsaved.branches =
                app.snapshot.branches.iter().map(|branch| branch.recipe.clone()).collect();
            unsaved.base = app.file.on_disk.as_deref().map(recovery::fingerprint);
        }
    }

    /// Notes which document is open, and says so if it is open elsewhere.
    fn meet(&mut self, app: &mut App) {
        self.document = Some(app.file.number);
        self.kept_state = state(app);
        (self.file, self.shared) = (None, None);
        (self.opened, self.sought) = (Instant::now(), None);
        let path = app.file.path.clone();
        let is_alone = match self.unsaved.lock() {
            Ok(mut unsaved) => unsaved.recovery.open(path.as_deref(), &app.file.name),
            Err(_) => true,
        };
        if !is_alone {
            let words = format!("{} is open in another window, too", app.file.name);
            app.said.message = Some((words, true));
        }
    }

    /// Offers what was typed and never saved in a window that did not end well. One that is just ending is waited for.
    fn seek(&mut self, app: &mut App) -> bool {
        let is_due = self.sought.is_none_or(|sought| sought.elapsed() >= SOUGHT_EVERY);
        let is_over = self.sought.is_some() && self.opened.elapsed() > SOUGHT_FOR;
        let asks = app.over.prompt.is_some() || app.offer().is_some();
        if !is_due || is_over || asks || !app.script.buffer.is_saved() {
            return false;
        }
        self.sought = Some(Instant::now());
        let text = app.script.buffer.text();
        let left = recovery::left_behind(app.file.path.as_deref(), &app.file.name, &text);
        let Some(left) = left.filter(|left| !self.offered.contains(left)) else { return false };
        self.offered.push(left.clone());
        app.put_offer(Asks::Recover(left));
        true
    }

    /// Keeps the text if it is not saved.
    pub fn keep(&mut self, app: &mut App) {
        self.share(app);
        let began = Instant::now();
        self.kept = began;
        self.kept_state = state(app);
        let kept = self.unsaved.lock().map(|mut unsaved| unsaved.keep());
        self.took = began.elapsed();
        if let Ok(Err(error)) = kept
            && !std::mem::replace(&mut self.told, true)
        {
            let words =
                format!("what you type cannot be kept against a crash: {error}; save often");
            app.said.message = Some((words, true));
        }
    }

    /// Forgets what was kept.
    pub fn forget(&mut self) {
        if let Ok(mut unsaved) = self.unsaved.lock() {
            unsaved.recovery.forget();
        }
    }

    /// Does what is due; true if something on the screen has changed.
    pub fn look(&mut self, app: &mut App) -> bool {
        let mut changed = false;
        if self.document != Some(app.file.number) {
            self.meet(app);
            changed = true;
        }
        changed |= self.seek(app);
        self.share(app);
        if self.kept_state != state(app) && self.kept.elapsed() >= KEPT_EVERY.max(self.took * 9) {
            let said = app.said.message.clone();
            self.keep(app);
            changed |= said != app.said.message;
        }
        if self.looked.elapsed() < LOOKED_EVERY {
            return changed;
        }
        self.looked = Instant::now();
        self.look_at_file(app) || changed
    }

    /// Looks at the file, whether it is due or not.
    #[cfg(test)]
    pub fn look_now(&mut self, app: &mut App) {
        self.file = None;
        self.look_at_file(app);
    }

    fn look_at_file(&mut self, app: &mut App) -> bool {
        let Some(path) = app.file.path.clone() else {
            self.file = None;
            return false;
        };
        let now = (path.clone(), stamp(&path));
        // While something is asked it is left for later: nothing is taken as seen that was not told.
        let lies_over = app.over.menu.is_some() && !app.holds_choice();
        if self.file.as_ref() == Some(&now) || app.over.prompt.is_some() || lies_over {
            return false;
        }
        let gone = now.1.is_none();
        self.file = Some(now);
        if gone {
            if app.file.on_disk.take().is_none() {
                return false;
            }
            app.script.buffer.mark_unsaved();
            let words = format!("{} is gone; saving writes it again", path.display());
            app.said.message = Some((words, true));
            return true;
        }
        let Ok(theirs) = read_bytes(&path) else { return false };
        app.meet_file(theirs)
    }
}

/// What makes a text worth keeping, or not worth it any more: a change of it, or its file being gone.
fn state(app: &App) -> State {
    let branch = app.snapshot.branches.last().map(|branch| branch.number);
    (app.script.buffer.version(), app.script.buffer.is_saved(), branch)
}

/// The version of a text, whether it is saved, and the newest branch.
type State = (u64, bool, Option<u64>);

fn stamp(path: &Path) -> Option<Stamp> {
    let there = std::fs::metadata(path).ok()?;
    Some((there.modified().ok()?, there.len()))
}
