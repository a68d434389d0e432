//! Questions while a person types: nothing typed is taken for an answer, nothing is lost by one.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use rstest::rstest;

use super::app::{App, Document, Effect};
use super::keys::Place;
use super::menu::Menu;
use super::offer::Asks;
use super::prompt::{After, Prompt};
use super::recovery::{Left, fingerprint};

const TEXT: &str = "pond \"t\" { arena 9 x 9 }\n";

/// A hand at the keys, with a clock.
struct Hand {
    app: App,
    now: f64,
    _folder: tempfile::TempDir,
}

impl Hand {
    /// In a script that has been changed and lies in a file.
    fn new() -> Hand {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("t.pond");
        std::fs::write(&path, TEXT).unwrap();
        let document = Document { path: Some(path), name: "t.pond".into(), text: TEXT.into() };
        let mut app = App::new(document, false);
        app.resize(ratatui::layout::Rect::new(0, 0, 120, 40));
        app.bands.place = Place::Script;
        let mut hand = Hand { app, now: 10.0, _folder: folder };
        hand.types("//\n");
        hand
    }

    fn key(&mut self, code: KeyCode, with: KeyModifiers) -> Vec<Effect> {
        self.app.key(KeyEvent::new(code, with), self.now)
    }

    /// A key after so many seconds.
    fn after(&mut self, seconds: f64, code: KeyCode) -> Vec<Effect> {
        self.now += seconds;
        self.app.tick(self.now);
        self.key(code, KeyModifiers::NONE)
    }

    /// Ten letters a second.
    fn types(&mut self, words: &str) {
        for c in words.chars() {
            self.after(0.1, if c == '\n' { KeyCode::Enter } else { KeyCode::Char(c) });
        }
    }

    fn theirs(&mut self, text: &str) {
        self.app.tick(self.now);
        self.app.meet_file(text.as_bytes().to_vec());
        assert!(matches!(self.asks(), Some(Asks::Disk(_))));
    }

    fn asks(&self) -> Option<Asks> {
        self.app.offer().map(|offer| offer.asks.clone())
    }

    fn text(&self) -> String {
        self.app.script.buffer.text()
    }

    fn reads_difference(&self) -> bool {
        matches!(&self.app.over.menu, Some(Menu::Page { title, .. }) if title == "What differs")
    }
}

/// Whatever is typed while a question comes up is in the text, in its order, however slowly.
#[rstest]
fn what_is_typed_is_typed(
    #[values("kind kind", "tdktdk", "rotor", "kk")] words: &str,
    #[values(0.1, 0.4, 0.6, 3.0)] pace: f64,
    #[values(false, true)] is_left: bool,
) {
    let mut hand = Hand::new();
    let left = Left { text: "x".into(), ..Left::default() };
    match is_left {
        true => hand.app.put_offer(Asks::Recover(left)),
        false => hand.theirs("pond \"theirs\" { arena 9 x 9 }\n"),
    }
    let asked = hand.asks();
    for c in words.chars() {
        hand.after(pace, KeyCode::Char(c));
    }
    hand.types(".");
    assert_eq!(hand.text(), format!("//\n{words}.{TEXT}"));
    assert_eq!(hand.asks(), asked, "it is still asked");
    assert!(!hand.reads_difference());
}

#[rstest]
fn a_key_within_half_a_second_is_no_answer() {
    let mut hand = Hand::new();
    hand.theirs("theirs\n");
    hand.after(0.4, KeyCode::Char('t'));
    hand.after(0.1, KeyCode::Enter);
    assert!(hand.text().contains('t') && hand.asks().is_some());
    // The typing has just rested for half a second.
    hand.after(0.6, KeyCode::Char('t'));
    assert_eq!(hand.app.offer().unwrap().chosen(), Some(KeyCode::Char('t')));
    hand.after(0.1, KeyCode::Enter);
    assert_eq!((hand.text(), hand.asks()), ("theirs\n".to_string(), None));
    // And all is there to go back to.
    hand.key(KeyCode::Char('z'), KeyModifiers::CONTROL);
    assert!(hand.text().starts_with("//\nt"), "{}", hand.text());
}

#[rstest]
fn a_key_with_a_modifier_is_no_answer(
    #[values(KeyModifiers::CONTROL, KeyModifiers::ALT, KeyModifiers::SHIFT)] with: KeyModifiers,
    #[values('k', 't', 'd')] c: char,
) {
    let mut hand = Hand::new();
    hand.theirs("theirs\n");
    hand.now += 1.0;
    hand.key(KeyCode::Char(c), with);
    assert_eq!(hand.app.offer().and_then(|offer| offer.chosen()), None);
    assert!(!hand.reads_difference());
    // At quitting, too.
    hand.app.over.offers.clear();
    (hand.app.over.menu, hand.app.over.prompt) = (None, None);
    hand.app.put_prompt(Prompt::Unsaved(After::Quit));
    hand.now += 1.0;
    hand.key(KeyCode::Char('d'), with);
    assert!(hand.key(KeyCode::Enter, KeyModifiers::NONE).is_empty());
    assert_eq!(hand.app.over.prompt, Some(Prompt::Unsaved(After::Quit)));
    assert!(hand.app.over.asked.unheard, "and that it was none is told");
}

#[rstest]
fn at_quitting_what_loses_something_holds_behind_enter() {
    let mut hand = Hand::new();
    hand.key(KeyCode::Char('q'), KeyModifiers::CONTROL);
    // Typed in a hurry it is nothing.
    hand.types("ds");
    assert_eq!(hand.app.over.prompt, Some(Prompt::Unsaved(After::Quit)));
    assert!(hand.after(0.6, KeyCode::Char('d')).is_empty());
    // Another key takes it back.
    assert!(hand.after(0.1, KeyCode::Char('x')).is_empty());
    assert!(hand.after(0.1, KeyCode::Enter).is_empty());
    hand.after(0.6, KeyCode::Char('d'));
    assert!(matches!(hand.after(0.1, KeyCode::Enter)[..], [Effect::Quit]));
}

#[rstest]
fn what_differs_goes_with_its_question() {
    let mut hand = Hand::new();
    hand.theirs("theirs\n");
    hand.after(1.0, KeyCode::Char('d'));
    assert!(hand.reads_difference());
    // Turning its pages is no answer, and no other command is swallowed.
    hand.after(0.1, KeyCode::Down);
    assert!(hand.reads_difference());
    let effects = hand.key(KeyCode::Char('s'), KeyModifiers::CONTROL);
    assert!(effects.iter().any(|e| matches!(e, Effect::Save { .. })), "{effects:?}");
    assert!(!hand.reads_difference());
    assert!(!hand.text().starts_with("//\nd\u{13}"));
    // With the page still open one can choose; the page goes with the question.
    hand.after(1.0, KeyCode::Char('d'));
    hand.after(1.0, KeyCode::Char('k'));
    assert!(hand.reads_difference());
    hand.after(0.1, KeyCode::Enter);
    assert!(!hand.reads_difference() && hand.asks().is_none());
    // So it does when the file becomes what it was.
    hand.theirs("theirs again\n");
    hand.after(1.0, KeyCode::Char('d'));
    let known = hand.app.file.on_disk.clone().unwrap();
    hand.app.meet_file(known);
    assert!(!hand.reads_difference() && hand.asks().is_none());
}

/// A text that was left behind was typed into what was in the file then.
#[rstest]
#[case::as_it_was(Some(fingerprint(TEXT.as_bytes())), false)]
#[case::changed_since(Some(fingerprint(b"pond \"t\" { arena 8 x 8 }\n")), true)]
#[case::not_known(None, true)]
fn a_text_that_is_taken_up_knows_what_it_was_typed_into(
    #[case] base: Option<u64>,
    #[case] asks: bool,
) {
    let mut hand = Hand::new();
    let left = Left { text: format!("{TEXT}// kept\n"), base, ..Left::default() };
    hand.app.put_offer(Asks::Recover(left));
    hand.after(1.0, KeyCode::Char('r'));
    assert!(matches!(hand.after(0.1, KeyCode::Enter)[..], [Effect::Tell(_), Effect::Taken(_)]));
    assert!(hand.text().ends_with("// kept\n"));
    let wanted = asks.then(|| Asks::Disk(TEXT.to_string()));
    assert_eq!(hand.asks(), wanted);
    // Saving would write over theirs: it does not.
    let path = hand.app.file.path.clone().unwrap();
    assert_eq!(super::saving::save(&mut hand.app, &path, false, After::Stay), !asks);
    let file = std::fs::read_to_string(&path).unwrap();
    assert_eq!(file == TEXT, asks, "{file}");
}
