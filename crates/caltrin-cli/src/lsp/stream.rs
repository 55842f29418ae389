//! Messages on standard input and output. What cannot be read is answered as the protocol says, and
//! the next message is read.

use std::io::{self, BufRead, Read, Write};
use std::thread::{self, JoinHandle};

use crossbeam_channel::unbounded;
use lsp_server::{Connection, ErrorCode, Message};
use serde_json::json;

/// Largest message that is read.
const LARGEST: u64 = 256 << 20;
/// After so many headers in a row that are none, what follows is not the protocol.
const MOST_BROKEN: u32 = 20;

/// Connects to standard input and output. The second part ends when all messages are written.
pub fn connect() -> (Connection, JoinHandle<()>) {
    let (sender, outgoing) = unbounded::<Message>();
    let (incoming, receiver) = unbounded::<Message>();
    let writer = thread::spawn(move || {
        for message in outgoing {
            if message.write(&mut io::stdout().lock()).is_err() {
                return;
            }
        }
    });
    thread::spawn(move || {
        let mut input = io::stdin().lock();
        let mut broken = 0;
        while broken < MOST_BROKEN {
            match read(&mut input) {
                Ok(Some(Ok(message))) => {
                    broken = 0;
                    if incoming.send(message).is_err() {
                        return;
                    }
                }
                Ok(Some(Err(refused))) => {
                    broken += 1;
                    if refuse(&refused).is_err() {
                        return;
                    }
                }
                Ok(None) | Err(_) => return,
            }
        }
    });
    (Connection { sender, receiver }, writer)
}

/// Why a message was not read.
struct Refused {
    code: ErrorCode,
    why: String,
}

fn refused(code: ErrorCode, why: impl Into<String>) -> Refused {
    Refused { code, why: why.into() }
}

/// Answers a message that has no id that could be read.
fn refuse(refused: &Refused) -> io::Result<()> {
    let answer = json!({
        "jsonrpc": "2.0", "id": null,
        "error": { "code": refused.code as i32, "message": refused.why },
    });
    let text = answer.to_string();
    let mut out = io::stdout().lock();
    write!(out, "Content-Length: {}\r\n\r\n{text}", text.len())?;
    out.flush()
}

/// The next message; `None` at the end of the input.
fn read(input: &mut impl BufRead) -> io::Result<Option<Result<Message, Refused>>> {
    let mut size = None;
    let mut line = Vec::new();
    loop {
        line.clear();
        // No header is that long.
        if input.take(4096).read_until(b'\n', &mut line)? == 0 {
            return Ok(None);
        }
        let header = String::from_utf8_lossy(&line);
        let header = header.trim_end_matches(['\r', '\n']);
        if header.is_empty() {
            break;
        }
        match header.split_once(':') {
            Some((name, value)) if name.eq_ignore_ascii_case("content-length") => {
                size = value.trim().parse::<u64>().ok();
            }
            Some(_) => {}
            None => {
                let why = "expected a header such as `Content-Length: 42`";
                return Ok(Some(Err(refused(ErrorCode::ParseError, why))));
            }
        }
    }
    let Some(size) = size else {
        let why = "a message has no `Content-Length`";
        return Ok(Some(Err(refused(ErrorCode::ParseError, why))));
    };
    let mut body = input.take(size);
    if size > LARGEST {
        io::copy(&mut body, &mut io::sink())?;
        let why = format!("a message can have at most {} MiB", LARGEST >> 20);
        return Ok(Some(Err(refused(ErrorCode::InvalidRequest, why))));
    }
    let mut text = Vec::new();
    body.read_to_end(&mut text)?;
    if (text.len() as u64) < size {
        return Ok(None);
    }
    Ok(Some(match serde_json::from_slice::<serde_json::Value>(&text) {
        Err(error) => Err(refused(ErrorCode::ParseError, error.to_string())),
        Ok(value) => serde_json::from_value(value)
            .map_err(|error| refused(ErrorCode::InvalidRequest, error.to_string())),
    }))
}
