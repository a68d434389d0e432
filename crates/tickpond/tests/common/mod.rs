//! The real program in a real terminal: a private tmux server that ends with the test.
#![allow(dead_code, reason = "each test file uses its part")]

use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use std::rc::Rc;
use std::time::{Duration, Instant};

use tempfile::TempDir;

/// How long a test waits for something to appear before it fails: no measure of speed.
const PATIENCE: Duration = Duration::from_secs(30);

pub const PROGRAM: &str = env!("CARGO_BIN_EXE_tickpond");

/// The demo pond in the repository.
pub fn dusk() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../ponds/dusk.pond")
}

/// The first child of a process.
fn child_of(process: u32) -> Option<u32> {
    let children = std::fs::read_to_string(format!("/proc/{process}/task/{process}/children"));
    children.ok()?.split_whitespace().next()?.parse().ok()
}

/// A program in a terminal of its own.
pub struct Session {
    pub folder: Rc<TempDir>,
    socket: PathBuf,
}

impl Session {
    /// Starts the program in a new folder, in a terminal of this size.
    pub fn start(args: &str, width: u16, height: u16) -> Session {
        let folder = Rc::new(tempfile::tempdir().unwrap());
        let session = Session { socket: folder.path().join("tmux"), folder };
        session.launch(args, width, height);
        session
    }

    /// The same with a file in the folder.
    pub fn with_file(name: &str, text: &str, args: &str) -> Session {
        let folder = Rc::new(tempfile::tempdir().unwrap());
        std::fs::write(folder.path().join(name), text).unwrap();
        let session = Session { socket: folder.path().join("tmux"), folder };
        session.launch(args, 160, 48);
        session
    }

    /// Another terminal in the same folder.
    pub fn beside(&self, args: &str) -> Session {
        let session =
            Session { socket: self.folder.path().join("tmux2"), folder: self.folder.clone() };
        session.launch(args, 160, 48);
        session
    }

    /// What tmux knows of the terminal, such as `alternate_on`.
    pub fn flag(&self, name: &str) -> String {
        let output = self.tmux(&["display-message", "-p", &format!("#{{{name}}}")]);
        String::from_utf8_lossy(&output.stdout).trim().to_string()
    }

    /// The process that has the screen: the child of the one that waits for it.
    pub fn inner(&self) -> u32 {
        child_of(self.process()).expect("the workbench in a process of its own")
    }

    /// Sends a process a signal, by its name.
    pub fn signal_to(&self, process: u32, name: &str) -> &Session {
        let process = process.to_string();
        assert!(Command::new("kill").args(["-s", name, &process]).status().unwrap().success());
        self
    }

    /// The command line that runs the program in the session's folder.
    fn command(&self, args: &str) -> String {
        let home = self.folder.path().join("home");
        std::fs::create_dir_all(&home).unwrap();
        // The shell outlives the program, so that what it leaves behind can be seen.
        format!(
            "cd {0}; HOME={1} XDG_STATE_HOME={1} XDG_CONFIG_HOME={1} {PROGRAM} {args}; \
             echo \"exit code $?\"; sleep 600",
            self.folder.path().display(),
            home.display()
        )
    }

    fn launch(&self, args: &str, width: u16, height: u16) {
        let command = self.command(args);
        let (w, h) = (width.to_string(), height.to_string());
        let output =
            self.tmux(&["-f", "/dev/null", "new-session", "-d", "-x", &w, "-y", &h, &command]);
        assert!(output.status.success(), "tmux: {}", String::from_utf8_lossy(&output.stderr));
        self.tmux(&["set", "-g", "escape-time", "0"]);
    }

    /// Starts the program once more, in the same folder and terminal.
    pub fn again(&self, args: &str) -> &Session {
        let command = self.command(args);
        self.tmux(&["respawn-pane", "-k", &command]);
        self
    }

    /// Closes the terminal, as a person closes a window.
    pub fn close(&self) {
        self.tmux(&["kill-server"]);
    }

    /// Opens a terminal again, in the same folder.
    pub fn reopen(&self, args: &str) {
        self.launch(args, 160, 48);
    }

    /// Waits until what was typed is kept against a crash.
    pub fn wait_until_kept(&self, words: &str) {
        let folder = self.folder.path().join("home/tickpond/unsaved");
        self.until("the text to be kept", || {
            let files = std::fs::read_dir(&folder).into_iter().flatten().flatten();
            let mut texts = files.filter_map(|f| std::fs::read_to_string(f.path()).ok());
            texts.any(|text| text.contains(words))
        });
    }

    /// Waits until something is so.
    pub fn until(&self, what: &str, is_so: impl Fn() -> bool) {
        let start = Instant::now();
        while !is_so() {
            assert!(start.elapsed() < PATIENCE, "waited in vain for {what}");
            std::thread::sleep(Duration::from_millis(40));
        }
    }

    /// The process of the program: the child of the shell in the pane.
    pub fn process(&self) -> u32 {
        let output = self.tmux(&["display-message", "-p", "#{pane_pid}"]);
        let shell = String::from_utf8_lossy(&output.stdout).trim().parse().unwrap();
        child_of(shell).expect("a running program")
    }

    /// Sends the program a signal, by its name.
    pub fn signal(&self, name: &str) -> &Session {
        // What cannot be handed on is sent to the one that has the screen.
        let process = if name == "KILL" { self.inner() } else { self.process() };
        self.signal_to(process, name)
    }

    /// A file in the session's folder.
    pub fn read(&self, name: &str) -> String {
        std::fs::read_to_string(self.folder.path().join(name)).unwrap()
    }

    /// Writes a file in the session's folder.
    pub fn write(&self, name: &str, text: &str) -> &Session {
        std::fs::write(self.folder.path().join(name), text).unwrap();
        self
    }

    fn tmux(&self, args: &[&str]) -> Output {
        Command::new("tmux").arg("-u").arg("-S").arg(&self.socket).args(args).output().unwrap()
    }

    /// Presses keys, by the names tmux gives them.
    pub fn press(&self, keys: &[&str]) -> &Session {
        let mut args = vec!["send-keys"];
        args.extend(keys);
        self.tmux(&args);
        self
    }

    /// Answers a question that one key answers, once it has been on the screen for a moment.
    pub fn answer(&self, key: &str) -> &Session {
        std::thread::sleep(std::time::Duration::from_millis(700));
        self.press(&[key])
    }

    /// Chooses what loses something: it holds behind Enter.
    pub fn choose(&self, key: &str) -> &Session {
        self.answer(key).wait_for("Enter does it");
        self.press(&["Enter"])
    }

    /// Types a text as it is.
    pub fn type_text(&self, text: &str) -> &Session {
        self.tmux(&["send-keys", "-l", text]);
        self
    }

    /// Pastes a text, as a terminal that marks pastes does.
    pub fn paste(&self, text: &str) -> &Session {
        let path = self.folder.path().join("paste");
        std::fs::write(&path, text).unwrap();
        self.tmux(&["load-buffer", &path.display().to_string()]);
        self.tmux(&["paste-buffer", "-p", "-r"]);
        self
    }

    pub fn resize(&self, width: u16, height: u16) -> &Session {
        self.tmux(&["resize-window", "-x", &width.to_string(), "-y", &height.to_string()]);
        self
    }

    pub fn screen(&self) -> String {
        let output = self.tmux(&["capture-pane", "-p"]);
        String::from_utf8_lossy(&output.stdout).into_owned()
    }

    /// Waits until the screen passes, and gives it.
    pub fn wait(&self, what: &str, passes: impl Fn(&str) -> bool) -> String {
        let start = Instant::now();
        loop {
            let screen = self.screen();
            if passes(&screen) {
                return screen;
            }
            assert!(start.elapsed() < PATIENCE, "waited in vain for {what}:\n{screen}");
            std::thread::sleep(Duration::from_millis(40));
        }
    }

    pub fn wait_for(&self, text: &str) -> String {
        self.wait(text, |screen| screen.contains(text))
    }

    /// The number behind a word on the screen, such as the count in the arena's head.
    pub fn number(screen: &str, word: &str) -> Option<f64> {
        let rest = &screen[screen.find(word)? + word.len()..];
        let number: String =
            rest.trim_start().chars().take_while(|c| c.is_ascii_digit() || *c == '.').collect();
        number.parse().ok()
    }
}

impl Drop for Session {
    fn drop(&mut self) {
        self.tmux(&["kill-server"]);
    }
}
