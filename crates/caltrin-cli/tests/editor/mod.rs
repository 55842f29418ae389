//! A client of the language server, for tests and benchmarks.
#![allow(dead_code, reason = "each uses some of it")]

use std::io::{BufRead, BufReader, Read, Write};
use std::path::Path;
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::thread;
use std::time::{Duration, Instant};

use serde_json::{Value, json};

/// How long anything may take before the test gives up.
const PATIENCE: Duration = Duration::from_secs(60);

/// An editor that is connected to the server.
pub struct Client {
    child: Child,
    input: Option<ChildStdin>,
    messages: Receiver<Value>,
    /// Messages that were read and not yet asked for.
    waiting: Vec<Value>,
    next: i64,
}

impl Client {
    pub fn start() -> Self {
        let mut child = Command::new(env!("CARGO_BIN_EXE_caltrin"))
            .arg("lsp")
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .spawn()
            .expect("the server starts");
        let mut output = BufReader::new(child.stdout.take().expect("an output"));
        let (sender, messages) = channel();
        thread::spawn(move || {
            loop {
                let mut size = 0;
                loop {
                    let mut line = String::new();
                    if output.read_line(&mut line).unwrap_or(0) == 0 {
                        return;
                    }
                    match line.trim_end().split_once(": ") {
                        Some((_, value)) => size = value.parse().expect("a length"),
                        None => break,
                    }
                }
                let mut body = vec![0; size];
                output.read_exact(&mut body).expect("a whole message");
                let message = serde_json::from_slice(&body).expect("JSON");
                if sender.send(message).is_err() {
                    return;
                }
            }
        });
        let input = child.stdin.take();
        Client { child, input, messages, waiting: Vec::new(), next: 0 }
    }

    /// A client that has introduced itself, with columns in UTF-16.
    pub fn ready() -> Self {
        let mut client = Client::start();
        let result = client
            .ask("initialize", json!({ "processId": null, "rootUri": null, "capabilities": {} }));
        assert_eq!(result["capabilities"]["positionEncoding"], "utf-16");
        client.tell("initialized", json!({}));
        client
    }

    pub fn raw(&mut self, bytes: &[u8]) {
        let input = self.input.as_mut().expect("the input is open");
        input.write_all(bytes).and_then(|()| input.flush()).expect("the server reads");
    }

    pub fn send(&mut self, message: &Value) {
        let text = message.to_string();
        self.raw(format!("Content-Length: {}\r\n\r\n{text}", text.len()).as_bytes());
    }

    pub fn tell(&mut self, method: &str, params: Value) {
        self.send(&json!({ "jsonrpc": "2.0", "method": method, "params": params }));
    }

    /// Sends a request and returns its id.
    pub fn request(&mut self, method: &str, params: Value) -> i64 {
        self.next += 1;
        self.send(
            &json!({ "jsonrpc": "2.0", "id": self.next, "method": method, "params": params }),
        );
        self.next
    }

    /// The first message that fits.
    pub fn wait(&mut self, fits: impl Fn(&Value) -> bool) -> Value {
        if let Some(n) = self.waiting.iter().position(&fits) {
            return self.waiting.remove(n);
        }
        loop {
            let message = self.messages.recv_timeout(PATIENCE).expect("the server answers");
            if fits(&message) {
                return message;
            }
            self.waiting.push(message);
        }
    }

    pub fn answer(&mut self, id: i64) -> Value {
        self.wait(|message| message["id"] == id && message.get("method").is_none())
    }

    pub fn ask(&mut self, method: &str, params: Value) -> Value {
        let id = self.request(method, params);
        let answer = self.answer(id);
        assert!(answer.get("error").is_none(), "{method}: {answer}");
        answer["result"].clone()
    }

    pub fn open(&mut self, path: &Path, text: &str) {
        let item = json!({ "uri": uri(path), "languageId": "caltrin", "version": 1, "text": text });
        self.tell("textDocument/didOpen", json!({ "textDocument": item }));
    }

    /// The diagnostics of a file when they come next, unless none come in this time.
    pub fn diagnostics_within(&mut self, path: &Path, time: Duration) -> Option<Vec<Value>> {
        let uri = uri(path);
        let fits = |message: &Value| {
            message["method"] == "textDocument/publishDiagnostics"
                && message["params"]["uri"] == uri
        };
        let start = Instant::now();
        while !self.waiting.iter().any(&fits) {
            let left = time.checked_sub(start.elapsed())?;
            self.waiting.push(self.messages.recv_timeout(left).ok()?);
        }
        let told = self.wait(fits);
        told["params"]["diagnostics"].as_array().cloned()
    }

    /// The diagnostics of a file when they come next.
    pub fn diagnostics(&mut self, path: &Path) -> Vec<Value> {
        let uri = uri(path);
        let told = self.wait(|message| {
            message["method"] == "textDocument/publishDiagnostics"
                && message["params"]["uri"] == uri
        });
        told["params"]["diagnostics"].as_array().expect("a list").clone()
    }

    /// The exit status after the input was closed or the client said `exit`.
    pub fn ended(mut self) -> Option<i32> {
        drop(self.input.take());
        let start = Instant::now();
        while start.elapsed() < PATIENCE {
            if let Some(status) = self.child.try_wait().expect("a child") {
                return status.code();
            }
            thread::sleep(Duration::from_millis(10));
        }
        let _ = self.child.kill();
        panic!("the server did not end");
    }
}

impl Drop for Client {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

pub fn uri(path: &Path) -> String {
    format!("file://{}", path.display())
}

/// The position of a byte, in UTF-16.
pub fn position(text: &str, at: usize) -> Value {
    let line = text[..at].matches('\n').count();
    let start = text[..at].rfind('\n').map_or(0, |n| n + 1);
    json!({ "line": line, "character": text[start..at].encode_utf16().count() })
}

pub fn place_of(path: &Path, text: &str, word: &str) -> Value {
    let byte = text.find(word).unwrap_or_else(|| panic!("no `{word}`"));
    json!({ "textDocument": { "uri": uri(path) }, "position": position(text, byte) })
}

/// A text with edits applied, from the last to the first.
pub fn edited(text: &str, edits: &Value) -> String {
    let byte = |position: &Value| {
        let line = position["line"].as_u64().expect("a line") as usize;
        let start: usize = text.split_inclusive('\n').take(line).map(str::len).sum();
        let units = position["character"].as_u64().expect("a column") as usize;
        let mut left = units;
        let mut at = start;
        for c in text[start..].chars() {
            if left == 0 {
                break;
            }
            left -= c.len_utf16();
            at += c.len_utf8();
        }
        at
    };
    let mut all: Vec<(usize, usize, String)> = edits
        .as_array()
        .expect("a list of edits")
        .iter()
        .map(|edit| {
            let range = &edit["range"];
            let new = edit["newText"].as_str().expect("a text").to_owned();
            (byte(&range["start"]), byte(&range["end"]), new)
        })
        .collect();
    all.sort();
    let mut out = text.to_owned();
    for (start, end, new) in all.into_iter().rev() {
        out.replace_range(start..end, &new);
    }
    out
}
