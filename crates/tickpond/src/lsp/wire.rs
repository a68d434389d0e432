//! Messages of the protocol as bytes. Whatever comes in, the next message is found: what cannot be read is answered with why,
//! and reading goes on.

use std::io::{self, BufRead, Read, Write};

use lsp_server::{ErrorCode, Message};
use serde_json::{Value, json};

/// Longest message that is read, in bytes.
pub const LONGEST: u64 = 16 << 20;
/// Longest message that is passed over by its length. Nobody sends more: such a length is wrong, so the next header is looked for.
const LONGEST_SKIPPED: u64 = 1 << 30;
/// Longest line of a header, in bytes.
const LONGEST_LINE: u64 = 4 << 10;
const LENGTH: &str = "content-length:";

/// What came in.
#[derive(Debug)]
pub enum Came {
    /// A message, and how many bytes it had.
    Message(Message, u64),
    /// Something else, and the answer to it.
    Broken(Value),
}

/// The next message; none when the input has ended.
///
/// # Errors
/// Input that cannot be read.
pub fn read(input: &mut impl BufRead) -> io::Result<Option<Came>> {
    let length = match header(input)? {
        None => return Ok(None),
        Some(Ok(length)) => length,
        Some(Err(words)) => return Ok(Some(Came::Broken(broken(ErrorCode::ParseError, words)))),
    };
    if length > LONGEST {
        if length <= LONGEST_SKIPPED {
            io::copy(&mut input.take(length), &mut io::sink())?;
        }
        let words = format!("a message of {length} bytes; {LONGEST} are the most that are read");
        return Ok(Some(Came::Broken(broken(ErrorCode::ParseError, words))));
    }
    // Grows with what really comes.
    let mut body = Vec::new();
    if input.take(length).read_to_end(&mut body)? as u64 != length {
        return Ok(None);
    }
    Ok(Some(message(&body).map_or_else(Came::Broken, |message| Came::Message(message, length))))
}

/// The length that a header names, or what is wrong with it; none at the end.
fn header(input: &mut impl BufRead) -> io::Result<Option<Result<u64, String>>> {
    let mut length: Option<Result<u64, String>> = None;
    let mut strange: Option<String> = None;
    loop {
        let mut line = Vec::new();
        if input.take(LONGEST_LINE).read_until(b'\n', &mut line)? == 0 {
            return Ok(None);
        }
        let line = String::from_utf8_lossy(&line);
        let line = line.trim_end_matches(['\r', '\n']);
        // Behind a message whose length was wrong the header begins within a line.
        if let Some(at) = line.to_ascii_lowercase().rfind(LENGTH) {
            let number = line[at + LENGTH.len()..].trim();
            length = Some(number.parse().map_err(|_| {
                let number: String = number.chars().take(40).collect();
                format!("`Content-Length` is `{number}`, which is no number of bytes")
            }));
            continue;
        }
        match (line.is_empty(), length.take(), line.contains(':')) {
            (true, Some(length), _) => return Ok(Some(length)),
            (true, None, _) => {
                let words = "a header without `Content-Length`".to_string();
                return Ok(Some(Err(strange.take().unwrap_or(words))));
            }
            // Another field, such as `Content-Type`.
            (false, known, true) => length = known,
            (false, known, false) => {
                length = known;
                strange = Some("a line of a header that is no field of one".to_string());
            }
        }
    }
}

/// The message in a body, or the answer to what is none.
fn message(body: &[u8]) -> Result<Message, Value> {
    let value: Value = serde_json::from_slice(body).map_err(|error| {
        broken(ErrorCode::ParseError, format!("a message that is no JSON: {error}"))
    })?;
    let has = |key: &str| value.get(key).is_some();
    let id = value.get("id").cloned();
    let is_id = id.as_ref().is_none_or(|id| {
        id.is_string() || id.as_i64().is_some_and(|number| i32::try_from(number).is_ok())
    });
    let refused = |words: &str| {
        let mut answer = broken(ErrorCode::InvalidRequest, words.to_string());
        if let Some(id) = id.clone().filter(|id| id.is_string() || id.is_number()) {
            answer["id"] = id;
        }
        answer
    };
    let is_answer = has("id") && (has("result") || has("error"));
    if !value.is_object() || !value["method"].is_string() && !is_answer {
        return Err(refused("neither a request nor an answer nor a notification"));
    }
    if !is_id {
        // As a message without one it would never be answered.
        return Err(refused("an `id` is a text or a whole number of 32 bits"));
    }
    serde_json::from_value(value).map_err(|_| refused("a message that the protocol does not know"))
}

/// The answer to what cannot be read: nobody knows which request it was.
fn broken(code: ErrorCode, words: String) -> Value {
    json!({ "jsonrpc": "2.0", "id": null, "error": { "code": code as i32, "message": words } })
}

/// Writes a message.
///
/// # Errors
/// Output that cannot be written.
pub fn write(output: &mut impl Write, message: &Value) -> io::Result<()> {
    let text = message.to_string();
    write!(output, "Content-Length: {}\r\n\r\n{text}", text.len())?;
    output.flush()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const NEXT: &str = "Content-Length: 33\r\n\r\n{\"jsonrpc\":\"2.0\",\"method\":\"next\"}";

    /// What comes of an input: methods of messages, codes of answers to what is none.
    fn all(input: &[u8]) -> Vec<String> {
        let mut input = io::BufReader::with_capacity(64, input);
        let mut found = Vec::new();
        while let Some(came) = read(&mut input).unwrap() {
            found.push(match came {
                Came::Message(Message::Notification(note), _) => note.method,
                Came::Message(message, _) => format!("{message:?}"),
                Came::Broken(answer) => format!("{} {}", answer["error"]["code"], answer["id"]),
            });
        }
        found
    }

    fn framed(body: &str) -> String {
        format!("Content-Length: {}\r\n\r\n{body}", body.len())
    }

    #[rstest]
    #[case::no_json(framed("{nonsense"), "-32700 null")]
    #[case::far_too_deep(framed(&"[".repeat(100_000)), "-32700 null")]
    #[case::a_length_of_words("Content-Length: many\r\n\r\n".into(), "-32700 null")]
    #[case::a_negative_length("Content-Length: -4\r\n\r\n{}{}".into(), "-32700 null")]
    #[case::far_too_long("Content-Length: 100000000000000\r\n\r\n{}".into(), "-32700 null")]
    #[case::more_than_there_are("Content-Length: 99999999999999999999999999\r\n\r\n".into(), "-32700 null")]
    #[case::no_length("Content-Type: x\r\n\r\n".into(), "-32700 null")]
    #[case::an_endless_line(format!("{}\r\n\r\n", "x".repeat(100_000)), "-32700 null")]
    #[case::several_at_once(framed("[]"), "-32600 null")]
    #[case::a_number(framed("3"), "-32600 null")]
    #[case::no_method(framed("{\"id\":3}"), "-32600 3")]
    #[case::a_large_id(framed("{\"id\":3000000000,\"method\":\"x\"}"), "-32600 3000000000")]
    #[case::half_an_id(framed("{\"id\":1.5,\"method\":\"x\"}"), "-32600 1.5")]
    #[case::no_id(framed("{\"id\":true,\"method\":\"x\"}"), "-32600 null")]
    fn what_cannot_be_read_is_answered_and_the_next_is_read(
        #[case] input: String,
        #[case] answer: &str,
    ) {
        assert_eq!(all(format!("{input}{NEXT}").as_bytes()), [answer, "next"]);
    }

    #[rstest]
    fn what_is_too_long_is_passed_over() {
        let long = LONGEST as usize + 1;
        let input = format!("Content-Length: {long}\r\n\r\n{}{NEXT}", "x".repeat(long));
        assert_eq!(all(input.as_bytes()), ["-32700 null", "next"]);
    }

    #[rstest]
    fn bytes_that_are_no_text_are_answered() {
        let mut input = b"Content-Length: 2\r\n\r\n\xff\xfe".to_vec();
        input.extend(NEXT.as_bytes());
        assert_eq!(all(&input), ["-32700 null", "next"]);
    }

    #[rstest]
    #[case::nothing("")]
    #[case::half_a_header("Content-Len")]
    #[case::half_a_body("Content-Length: 99\r\n\r\n{\"id\"")]
    fn what_ends_in_the_middle_is_the_end(#[case] input: &str) {
        assert_eq!(all(input.as_bytes()), [""; 0]);
    }

    #[rstest]
    fn what_is_written_can_be_read() {
        let mut out = Vec::new();
        write(&mut out, &json!({ "jsonrpc": "2.0", "method": "\u{1F438}" })).unwrap();
        assert_eq!(all(&out), ["\u{1F438}"]);
        let mixed = "content-type: x\r\nCONTENT-LENGTH:  33 \r\n\r\n".to_string() + &NEXT[22..];
        assert_eq!(all(mixed.as_bytes()), ["next"]);
    }
}
