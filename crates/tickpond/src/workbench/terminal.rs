//! The terminal: entered last, left whatever happens.

use std::io::{self, Write};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::Path;
use std::time::{Duration, Instant};

use crossterm::clipboard::CopyToClipboard;
use crossterm::event::{
    self, DisableBracketedPaste, DisableMouseCapture, EnableBracketedPaste, EnableMouseCapture,
    Event, KeyboardEnhancementFlags, PopKeyboardEnhancementFlags, PushKeyboardEnhancementFlags,
};
use crossterm::execute;
use crossterm::terminal::{
    EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode,
    supports_keyboard_enhancement,
};
use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;
use ratatui::layout::{Position, Rect};

use super::app::{App, Document, Effect};
use super::palette::Palette;
use super::sim::Simulation;
use super::{places, screen};

/// Longest time without looking for a new snapshot.
const PATIENCE: Duration = Duration::from_millis(25);

/// Opens the workbench and comes back when the person quits.
///
/// # Errors
/// Whatever the terminal reports. The terminal is restored, and unsaved text is in a file.
pub fn run(document: Document) -> io::Result<()> {
    let reports_release = supports_keyboard_enhancement().unwrap_or(false);
    let mut app = App::new(document, reports_release);
    let before = std::panic::take_hook();
    // The message of a panic would be lost on the other screen: it is told below.
    std::panic::set_hook(Box::new(|_| {}));
    let guard = Screen::enter(reports_release)?;
    let ended = catch_unwind(AssertUnwindSafe(|| work(&mut app)));
    drop(guard);
    std::panic::set_hook(before);
    let result = match ended {
        Ok(result) => result,
        Err(_) => Err(io::Error::other("the workbench failed; this is a fault of the program")),
    };
    if result.is_err() && !app.script.buffer.is_saved() {
        rescue(&app);
    }
    result
}

fn rescue(app: &App) {
    let words = match places::rescue(&app.name, &app.file_text()) {
        Some(path) => format!("your text is in {}", path.display()),
        None => format!("your text:\n{}", app.script.buffer.text()),
    };
    let _ = writeln!(io::stderr(), "{words}");
}

/// The alternate screen and raw keys; left when dropped.
struct Screen {
    enhanced: bool,
}

impl Screen {
    fn enter(enhanced: bool) -> io::Result<Screen> {
        enable_raw_mode()?;
        // From here on dropping restores.
        let screen = Screen { enhanced };
        execute!(io::stdout(), EnterAlternateScreen, EnableMouseCapture, EnableBracketedPaste)?;
        if enhanced {
            let flags = KeyboardEnhancementFlags::DISAMBIGUATE_ESCAPE_CODES
                | KeyboardEnhancementFlags::REPORT_EVENT_TYPES;
            execute!(io::stdout(), PushKeyboardEnhancementFlags(flags))?;
        }
        Ok(screen)
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        if self.enhanced {
            let _ = execute!(io::stdout(), PopKeyboardEnhancementFlags);
        }
        let _ = execute!(
            io::stdout(),
            DisableBracketedPaste,
            DisableMouseCapture,
            LeaveAlternateScreen,
            crossterm::cursor::Show
        );
        let _ = disable_raw_mode();
    }
}

fn work(app: &mut App) -> io::Result<()> {
    let palette = Palette::from_environment();
    let mut terminal = Terminal::new(CrosstermBackend::new(io::stdout()))?;
    let simulation = Simulation::start();
    let started = Instant::now();
    let size = terminal.size()?;
    let mut effects = app.resize(Rect::new(0, 0, size.width, size.height));
    effects.extend(app.compile());
    let mut seen = u64::MAX;
    let mut dirty = true;
    loop {
        for effect in std::mem::take(&mut effects) {
            if !carry_out(app, effect, &simulation) {
                return Ok(());
            }
            dirty = true;
        }
        let (number, snapshot) = simulation.latest();
        if number != seen {
            seen = number;
            app.observe(snapshot);
            dirty = true;
        }
        if simulation.has_failed() {
            let words =
                "the simulation failed, a fault of the program: save your text and start again";
            app.message = Some((words.into(), true));
        }
        if dirty {
            paint(app, &mut terminal, &palette)?;
            dirty = false;
        }
        // Everything that waits is taken in before the next picture.
        let mut patience = PATIENCE;
        while event::poll(patience)? {
            let now = started.elapsed().as_secs_f64();
            effects.extend(take_in(app, event::read()?, now));
            patience = Duration::ZERO;
            dirty = true;
        }
        effects.extend(app.tick(started.elapsed().as_secs_f64()));
        effects.extend(app.compile());
    }
}

fn paint(
    app: &App,
    terminal: &mut Terminal<CrosstermBackend<io::Stdout>>,
    palette: &Palette,
) -> io::Result<()> {
    terminal.draw(|frame| {
        let area = frame.area();
        if let Some((x, y)) = screen::draw(app, area, frame.buffer_mut(), palette) {
            frame.set_cursor_position(Position::new(x, y));
        }
    })?;
    Ok(())
}

fn take_in(app: &mut App, event: Event, now: f64) -> Vec<Effect> {
    match event {
        Event::Key(key) => app.key(key, now),
        Event::Mouse(mouse) => app.mouse(mouse),
        Event::Paste(text) => app.paste(&text),
        Event::Resize(width, height) => app.resize(Rect::new(0, 0, width, height)),
        _ => Vec::new(),
    }
}

/// Does what the state asks for; false to quit.
fn carry_out(app: &mut App, effect: Effect, simulation: &Simulation) -> bool {
    match effect {
        Effect::Tell(command) => simulation.tell(command),
        Effect::Save(path) => return save(app, &path),
        Effect::Clipboard(text) => {
            let _ = execute!(io::stdout(), CopyToClipboard::to_clipboard_from(text));
        }
        Effect::Quit => {
            return !app.script.buffer.is_saved() && app.message.as_ref().is_some_and(|m| m.1);
        }
    }
    true
}

/// Writes the text to its file; trouble is told, and the old file is as it was.
fn save(app: &mut App, path: &Path) -> bool {
    match places::write_whole(path, &app.file_text()) {
        Ok(()) => {
            places::remember_pond(path);
            app.saved(path.to_path_buf());
        }
        Err(error) => {
            let failure = crate::failure::Failure::writing(path, &error);
            app.message = Some((failure.words.replace('\n', "; "), true));
        }
    }
    true
}
