//! The terminal: entered last, left whatever happens.

use std::io::{self, Write};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use crossterm::clipboard::CopyToClipboard;
use crossterm::event::{
    self, DisableBracketedPaste, DisableMouseCapture, EnableBracketedPaste, EnableMouseCapture,
    Event, KeyCode, KeyEventKind, KeyboardEnhancementFlags, PopKeyboardEnhancementFlags,
    PushKeyboardEnhancementFlags,
};
use crossterm::execute;
use crossterm::terminal::{
    EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode,
};
use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;
use ratatui::layout::{Position, Rect};

use super::acts::ponds_menu;
use super::app::{App, Document, Effect};
use super::command::Command;
use super::inquiry::{Abilities, Inquiry};
use super::keeper::{Keeper, Unsaved};
use super::menu::Opening;
use super::minder::is_deserted;
use super::palette::Palette;
use super::pixels::Pixels;
use super::prompt::After;
use super::recovery;
use super::saving::save;
use super::settings::{Edits, Settings};
use super::sim::Simulation;
use super::{picture, places, screen};
use crate::showable::showable;

/// Longest time without looking for a new snapshot.
const PATIENCE: Duration = Duration::from_millis(25);

/// Most events taken in between two pictures.
const MOST_AT_ONCE: usize = 256;

/// How the workbench ended.
pub enum Ended {
    /// The person quit.
    Quit,
    /// The system asked for it, with a signal of this number.
    Signal(i32),
}

/// Opens the workbench and comes back when the person quits, or the system wants it to end.
///
/// # Errors
/// Whatever the terminal reports. The terminal is restored, and unsaved text is in a file.
pub fn run(document: Document, asks: bool) -> io::Result<Ended> {
    let mut app = App::new(document, false);
    let (settings, trouble) = Settings::read();
    app.settings = settings;
    app.said.message = trouble.map(|words| (words, true)).or(app.said.message);
    if asks {
        app.over.menu = Some(ponds_menu(true));
    }
    let before = std::panic::take_hook();
    // The message of a panic would be lost on the other screen: it is told below.
    std::panic::set_hook(Box::new(|_| {}));
    let pointer = if app.settings.pointer { Pointer::On } else { Pointer::Off };
    let mut guard = Screen::enter(pointer)?;
    let ended = catch_unwind(AssertUnwindSafe(|| work(&mut app, &mut guard)));
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
    let words = match recovery::rescue(&app.file.name, &app.file_text()) {
        Ok(path) => format!("your text is in {}", path.display()),
        Err(_) => format!("your text:\n{}", app.script.buffer.text()),
    };
    let _ = writeln!(io::stderr(), "{}", showable(&words));
}

/// What the terminal's keyboard tells.
#[derive(Clone, Copy, PartialEq)]
enum Keyboard {
    Presses,
    /// That keys go up, too.
    Releases,
}

/// Whether the terminal tells of the pointer.
#[derive(Clone, Copy, PartialEq)]
enum Pointer {
    Off,
    On,
}

/// The alternate screen and raw keys; left when dropped.
struct Screen {
    keyboard: Keyboard,
}

impl Screen {
    fn enter(pointer: Pointer) -> io::Result<Screen> {
        enable_raw_mode()?;
        // From here on dropping restores.
        let screen = Screen { keyboard: Keyboard::Presses };
        execute!(io::stdout(), EnterAlternateScreen, EnableBracketedPaste)?;
        if pointer == Pointer::On {
            execute!(io::stdout(), EnableMouseCapture)?;
        }
        Ok(screen)
    }

    /// Has the terminal tell that keys go up.
    fn hear_releases(&mut self) -> io::Result<()> {
        let flags = KeyboardEnhancementFlags::DISAMBIGUATE_ESCAPE_CODES
            | KeyboardEnhancementFlags::REPORT_EVENT_TYPES;
        self.keyboard = Keyboard::Releases;
        execute!(io::stdout(), PushKeyboardEnhancementFlags(flags))
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        if self.keyboard == Keyboard::Releases {
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

fn work(app: &mut App, held: &mut Screen) -> io::Result<Ended> {
    let mut palette = Palette::of(app.settings.theme);
    let mut keeper = Keeper::new();
    let ended = end_signals(keeper.unsaved())?;
    let mut terminal = Terminal::new(CrosstermBackend::new(io::stdout()))?;
    let simulation = Simulation::start();
    let started = Instant::now();
    let size = terminal.size()?;
    simulation.tell(Command::Memory(app.settings.memory_mib << 20));
    simulation.tell(Command::EditsFork(app.settings.edits == Edits::Fork));
    let mut effects = app.resize(Rect::new(0, 0, size.width, size.height));
    effects.extend(app.compile());
    let mut pixels = Pixels::default();
    let mut inquiry = Some(Inquiry::begin()?);
    let mut abilities = Abilities::default();
    let mut seen = u64::MAX;
    let mut dirty = true;
    loop {
        for effect in std::mem::take(&mut effects) {
            if !carry_out(app, effect, &simulation, &mut keeper) {
                // What was not saved was let go of.
                keeper.forget();
                return Ok(Ended::Quit);
            }
            palette = Palette::of(app.settings.theme);
            dirty = true;
        }
        let signal = ended.load(Ordering::Relaxed);
        if signal != 0 {
            // Asked to end from outside: nobody is there to ask, so the text is kept for the next start.
            keeper.keep(app);
            return Ok(Ended::Signal(signal as i32));
        }
        dirty |= keeper.look(app);
        let (number, snapshot) = simulation.latest();
        if number != seen {
            seen = number;
            app.observe(snapshot);
            dirty = true;
        }
        if simulation.has_failed() {
            let words =
                "the simulation failed, a fault of the program: save your text and start again";
            app.said.message = Some((words.into(), true));
        }
        if simulation.is_at_it() > STUCK * 2 && app.said.message.is_none() {
            app.said.message = Some(("this takes long; Esc gives it up".into(), false));
            dirty = true;
        }
        if dirty {
            // The screen may have another size already than the last event told.
            let size = terminal.size()?;
            let screen = Rect::new(0, 0, size.width, size.height);
            if screen != app.bands.screen {
                effects.extend(app.resize(screen));
            }
            if app.arena.pixels
                && inquiry.is_none()
                && !pixels.is_ready()
                && let Err(why) = pixels.begin(abilities)
            {
                app.arena.pixels = false;
                app.said.message =
                    Some((format!("this terminal draws no pixels: {why}; cells stay"), true));
            }
            dirty = !paint(app, &mut terminal, &mut pixels, &palette)?;
        }
        // Everything that waits is taken in before the next picture.
        let mut patience = PATIENCE;
        // Not for ever: a flood of events must not keep the picture from being drawn, and a terminal
        // that is gone reports events without end.
        let began = Instant::now();
        if let Some(asked) = &mut inquiry {
            // Answers may be among the keys.
            let now = started.elapsed().as_secs_f64();
            let come = asked.read(patience)?;
            dirty |= !come.is_empty();
            for event in come {
                effects.extend(take_in(app, event, now));
            }
            if asked.is_over() {
                abilities = asked.found();
                app.controls.reports_release = abilities.releases;
                if abilities.releases {
                    held.hear_releases()?;
                }
                inquiry = None;
                dirty |= app.arena.pixels;
            }
            patience = Duration::ZERO;
        }
        for _ in 0..MOST_AT_ONCE {
            if inquiry.is_some() {
                break;
            }
            let enough = patience.is_zero() && began.elapsed() > PATIENCE * 2;
            if enough || ended.load(Ordering::Relaxed) != 0 || !event::poll(patience)? {
                break;
            }
            let now = started.elapsed().as_secs_f64();
            let event = event::read()?;
            if simulation.is_at_it() > STUCK && is_escape(&event) {
                simulation.interrupt();
                dirty = true;
                break;
            }
            effects.extend(take_in(app, event, now));
            patience = Duration::ZERO;
            dirty = true;
        }
        effects.extend(app.tick(started.elapsed().as_secs_f64()));
        effects.extend(app.compile());
        effects.extend(app.wish());
    }
}

/// How long the simulation may be at one thing before Esc is meant for it.
const STUCK: Duration = Duration::from_millis(300);

fn is_escape(event: &Event) -> bool {
    matches!(event, Event::Key(key) if key.code == KeyCode::Esc && key.kind == KeyEventKind::Press)
}

/// How long the main loop has to end by itself after it was asked to.
const GRACE: Duration = Duration::from_millis(1500);

/// How often it is looked whether the terminal is still there.
const WATCHED_EVERY: Duration = Duration::from_millis(100);

/// The number of the signal with which the system asks the program to end, or 0. A terminal that is gone counts as
/// hung up, with a signal or without. Where the main loop does not come to see it, because such a terminal holds it up,
/// the text is kept and the program ended here.
fn end_signals(unsaved: Arc<Mutex<Unsaved>>) -> io::Result<Arc<AtomicUsize>> {
    use signal_hook::consts::{SIGHUP, SIGINT, SIGQUIT, SIGTERM, SIGUSR1, SIGUSR2};
    let ended = Arc::new(AtomicUsize::new(0));
    let mut signals =
        signal_hook::iterator::Signals::new([SIGTERM, SIGHUP, SIGINT, SIGQUIT, SIGUSR1, SIGUSR2])?;
    let told = ended.clone();
    std::thread::spawn(move || {
        let signal = loop {
            if let Some(signal) = signals.pending().next() {
                break signal;
            }
            if is_gone() || is_deserted() {
                break SIGHUP;
            }
            std::thread::sleep(WATCHED_EVERY);
        };
        told.store(signal as usize, Ordering::Relaxed);
        std::thread::sleep(GRACE);
        if let Ok(mut unsaved) = unsaved.lock() {
            let _ = unsaved.keep();
        }
        std::process::exit(128 + signal);
    });
    Ok(ended)
}

/// Whether the terminal is there no more.
fn is_gone() -> bool {
    let there = rustix::termios::tcgetattr(io::stdin());
    there.is_err_and(|error| error != rustix::io::Errno::INTR)
}

/// Draws a picture; false if there is to be another: the screen took another size meanwhile, or the arena is shown as it
/// was a moment ago.
fn paint(
    app: &App,
    terminal: &mut Terminal<CrosstermBackend<io::Stdout>>,
    pixels: &mut Pixels,
    palette: &Palette,
) -> io::Result<bool> {
    let mut drawn = true;
    terminal.draw(|frame| {
        let area = frame.area();
        if area != app.bands.screen {
            drawn = false;
            return;
        }
        if let Some((x, y)) = screen::draw(app, area, frame.buffer_mut(), palette) {
            frame.set_cursor_position(Position::new(x, y));
        }
        pixels.draw(app, frame.buffer_mut());
    })?;
    if let Some(told) = pixels.after(app).filter(|_| drawn) {
        let mut out = io::stdout();
        out.write_all(told.as_bytes())?;
        out.flush()?;
    }
    Ok(drawn && !pixels.is_late())
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
fn carry_out(app: &mut App, effect: Effect, simulation: &Simulation, keeper: &mut Keeper) -> bool {
    match effect {
        Effect::Tell(command) => simulation.tell(command),
        Effect::Save { path, over, after } => {
            if save(app, &path, over, after.clone()) {
                keeper.forget();
                match after {
                    After::Stay | After::Restart(_) | After::Tape(_) => {}
                    After::Quit => return false,
                    After::Open(what) => {
                        open(app, what);
                    }
                }
            }
        }
        Effect::Open(what) => {
            // What was not saved of the one before was let go of; if this one cannot be opened, it is still there.
            if open(app, what) {
                keeper.forget();
            }
        }
        Effect::KeepSettings => {
            if let Err(words) = app.settings.write() {
                app.said.message =
                    Some((format!("the setting holds until the end: {words}"), true));
            }
        }
        Effect::Taken(left) => {
            keeper.keep(app);
            left.forget();
        }
        Effect::SetAside(left) => {
            app.said.message = Some(match left.set_aside(&app.file.name) {
                Ok(path) => (format!("it is in {}", path.display()), false),
                Err(error) => (format!("it stays where it was: {error}"), true),
            });
        }
        Effect::Picture(place, paths) => {
            let names: Vec<String> = paths.iter().map(|p| p.display().to_string()).collect();
            app.said.message = Some(match picture::write(app, place, &paths) {
                Ok(missing) => {
                    let signs: String = missing.into_iter().collect();
                    let lacks = match signs.is_empty() {
                        true => String::new(),
                        false => format!("; the PDF has no picture for {signs}"),
                    };
                    (format!("wrote {}{lacks}", names.join(" and ")), false)
                }
                Err(failure) => (failure.words.replace('\n', "; "), true),
            });
        }
        Effect::Clipboard(text) => {
            let _ = execute!(io::stdout(), CopyToClipboard::to_clipboard_from(text));
        }
        Effect::Quit => return false,
    }
    true
}

/// Opens another pond in place of the one that is open; false if it cannot be, which is told.
pub(super) fn open(app: &mut App, what: Opening) -> bool {
    let document = match what {
        Opening::Stay => return false,
        Opening::Shipped(name) => Document {
            path: None,
            name: format!("{name}.pond"),
            text: crate::ponds::shipped(name).map_or("", |pond| pond.text).into(),
        },
        Opening::New => {
            Document { path: None, name: "new.pond".into(), text: crate::ponds::STARTER.into() }
        }
        Opening::File(path) => match crate::failure::read_text(&path) {
            Ok(text) => {
                places::remember_pond(&path);
                let name = path.file_name().map(|n| n.to_string_lossy().into_owned());
                Document { name: name.unwrap_or_default(), path: Some(path), text }
            }
            Err(failure) => {
                app.said.message = Some((failure.words.replace('\n', "; "), true));
                return false;
            }
        },
    };
    app.replace_document(document);
    let screen = app.bands.screen;
    let effects = app.resize(screen);
    app.said.outbox.extend(effects);
    true
}
