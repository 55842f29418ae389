//! The language server, driven over its standard input and output as an editor does.

use std::fs;
use std::io::{BufRead, BufReader, Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::thread;
use std::time::{Duration, Instant};

use serde_json::{Value, json};

/// How long anything may take before the test gives up.
const PATIENCE: Duration = Duration::from_secs(60);

struct Client {
    child: Child,
    input: Option<ChildStdin>,
    messages: Receiver<Value>,
    /// Messages that were read and not yet asked for.
    waiting: Vec<Value>,
    next: i64,
}

impl Client {
    fn start() -> Self {
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
    fn ready() -> Self {
        let mut client = Client::start();
        let result = client
            .ask("initialize", json!({ "processId": null, "rootUri": null, "capabilities": {} }));
        assert_eq!(result["capabilities"]["positionEncoding"], "utf-16");
        client.tell("initialized", json!({}));
        client
    }

    fn raw(&mut self, bytes: &[u8]) {
        let input = self.input.as_mut().expect("the input is open");
        input.write_all(bytes).and_then(|()| input.flush()).expect("the server reads");
    }

    fn send(&mut self, message: &Value) {
        let text = message.to_string();
        self.raw(format!("Content-Length: {}\r\n\r\n{text}", text.len()).as_bytes());
    }

    fn tell(&mut self, method: &str, params: Value) {
        self.send(&json!({ "jsonrpc": "2.0", "method": method, "params": params }));
    }

    /// Sends a request and returns its id.
    fn request(&mut self, method: &str, params: Value) -> i64 {
        self.next += 1;
        self.send(
            &json!({ "jsonrpc": "2.0", "id": self.next, "method": method, "params": params }),
        );
        self.next
    }

    /// The first message that fits.
    fn wait(&mut self, fits: impl Fn(&Value) -> bool) -> Value {
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

    fn answer(&mut self, id: i64) -> Value {
        self.wait(|message| message["id"] == id && message.get("method").is_none())
    }

    fn ask(&mut self, method: &str, params: Value) -> Value {
        let id = self.request(method, params);
        let answer = self.answer(id);
        assert!(answer.get("error").is_none(), "{method}: {answer}");
        answer["result"].clone()
    }

    fn open(&mut self, path: &Path, text: &str) {
        let item = json!({ "uri": uri(path), "languageId": "caltrin", "version": 1, "text": text });
        self.tell("textDocument/didOpen", json!({ "textDocument": item }));
    }

    /// The diagnostics of a file when they come next.
    fn diagnostics(&mut self, path: &Path) -> Vec<Value> {
        let uri = uri(path);
        let told = self.wait(|message| {
            message["method"] == "textDocument/publishDiagnostics"
                && message["params"]["uri"] == uri
        });
        told["params"]["diagnostics"].as_array().expect("a list").clone()
    }

    /// The exit status after the input was closed or the client said `exit`.
    fn ended(mut self) -> Option<i32> {
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

fn uri(path: &Path) -> String {
    format!("file://{}", path.display())
}

/// The position of a byte, in UTF-16.
fn position(text: &str, at: usize) -> Value {
    let line = text[..at].matches('\n').count();
    let start = text[..at].rfind('\n').map_or(0, |n| n + 1);
    json!({ "line": line, "character": text[start..at].encode_utf16().count() })
}

fn at(path: &Path, text: &str, word: &str) -> Value {
    let byte = text.find(word).unwrap_or_else(|| panic!("no `{word}`"));
    json!({ "textDocument": { "uri": uri(path) }, "position": position(text, byte) })
}

/// A text with edits applied, from the last to the first.
fn edited(text: &str, edits: &Value) -> String {
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

fn folder() -> tempfile::TempDir {
    tempfile::tempdir().expect("a folder")
}

const MAIN: &str = "lightbook \"Mäin\"\nuse \"lamps.caltrin\"\ninput mist = 20% in 0%..100%\n\
    light mast[4] spot {\n  intensity  600lm * gust * (1 - mist)\n  color      #ffb060\n}\n";
const LAMPS: &str =
    "lightbook \"Lamps\"\n// how the wind blows\nsignal gust = drift(40%..100%, rate 1Hz)\n";
const WALK: &str = "rehearses \"main.caltrin\"\nrehearsal r { 1s mist = 50%; 2s expect mast.intensity above 1lm; 3s end }\n";

/// A folder with a book, what it uses and its rehearsals.
fn books() -> (tempfile::TempDir, [PathBuf; 3]) {
    let folder = folder();
    let files =
        ["main.caltrin", "lamps.caltrin", "walk.caltrin"].map(|name| folder.path().join(name));
    for (file, text) in files.iter().zip([MAIN, LAMPS, WALK]) {
        fs::write(file, text).expect("a file");
    }
    (folder, files)
}

#[test]
fn a_session_of_writing() {
    let (_folder, [main, lamps, walk]) = books();
    let mut client = Client::ready();
    client.open(&main, MAIN);
    assert_eq!(client.diagnostics(&main), Vec::<Value>::new());
    // A word is mistyped, and put right by the change that is offered.
    let place = MAIN.find("gust").expect("it is there");
    let range = json!({ "start": position(MAIN, place), "end": position(MAIN, place + 4) });
    let change = json!({ "range": range, "text": "gsut" });
    let of = json!({ "uri": uri(&main), "version": 2 });
    client
        .tell("textDocument/didChange", json!({ "textDocument": of, "contentChanges": [change] }));
    let told = client.diagnostics(&main);
    assert_eq!(told.len(), 1, "{told:?}");
    assert_eq!(told[0]["message"], "there is no name `gsut`; did you mean `gust`?");
    assert_eq!(told[0]["range"], range);
    let wrong = MAIN.replace("gust", "gsut");
    let context = json!({ "diagnostics": [] });
    let actions = client.ask(
        "textDocument/codeAction",
        json!({ "textDocument": { "uri": uri(&main) }, "range": range, "context": context }),
    );
    assert_eq!(actions[0]["title"], "Write `gust`");
    assert_eq!(edited(&wrong, &actions[0]["edit"]["changes"][uri(&main)]), MAIN);
    let of = json!({ "uri": uri(&main), "version": 3 });
    client.tell(
        "textDocument/didChange",
        json!({ "textDocument": of, "contentChanges": [{ "text": MAIN }] }),
    );
    assert_eq!(client.diagnostics(&main), Vec::<Value>::new());
    // Completion, tooltip, signature.
    let params = at(&main, MAIN, "ust * (1");
    let items = client.ask("textDocument/completion", params);
    assert_eq!(items["items"][0]["label"], "gust");
    let hover = client.ask("textDocument/hover", at(&main, MAIN, "gust"));
    let text = hover["contents"]["value"].as_str().expect("a text");
    assert!(text.contains("signal gust = drift") && text.contains("how the wind blows"), "{text}");
    assert!(text.contains("range: 40%..100%") || text.contains("- range:"), "{text}");
    let hover = client.ask("textDocument/hover", at(&main, MAIN, "mast[4]"));
    let text = hover["contents"]["value"].as_str().expect("a text");
    assert!(text.contains('█') && text.contains("10 s"), "{text}");
    let hints = client.ask("textDocument/inlayHint", json!({ "textDocument": { "uri": uri(&main) }, "range": { "start": { "line": 0, "character": 0 }, "end": { "line": 99, "character": 0 } } }));
    assert_eq!(hints.as_array().map(Vec::len), Some(1), "{hints}");
    // From the book to what it uses, and back.
    let found = client.ask("textDocument/definition", at(&main, MAIN, "gust"));
    assert_eq!(found["uri"], uri(&lamps));
    let mut params = at(&lamps, LAMPS, "gust");
    client.open(&lamps, LAMPS);
    params["context"] = json!({ "includeDeclaration": true });
    let found = client.ask("textDocument/references", params);
    assert_eq!(found.as_array().map(Vec::len), Some(2), "{found}");
    // A name is changed in both files, from the one that is used.
    let mut params = at(&lamps, LAMPS, "gust");
    params["newName"] = json!("wind");
    let edit = client.ask("textDocument/rename", params);
    assert_eq!(edited(MAIN, &edit["changes"][uri(&main)]), MAIN.replace("gust", "wind"));
    assert_eq!(edited(LAMPS, &edit["changes"][uri(&lamps)]), LAMPS.replace("gust", "wind"));
    // And in a file of rehearsals that is not open.
    let mut params = at(&main, MAIN, "mast");
    params["newName"] = json!("pole");
    let edit = client.ask("textDocument/rename", params);
    assert_eq!(edited(WALK, &edit["changes"][uri(&walk)]), WALK.replace("mast", "pole"));
    let mut params = at(&main, MAIN, "mast");
    params["newName"] = json!("mist");
    let id = client.request("textDocument/rename", params);
    let refused = client.answer(id);
    assert_eq!(refused["error"]["message"], "`mist` already stands for something here");
    // An unsaved change of the used book is seen by the one that uses it.
    let of = json!({ "uri": uri(&lamps), "version": 2 });
    let broken = LAMPS.replace("gust", "breeze");
    client.tell(
        "textDocument/didChange",
        json!({ "textDocument": of, "contentChanges": [{ "text": broken }] }),
    );
    loop {
        let told = client.diagnostics(&main);
        if told
            .iter()
            .any(|one| one["message"].as_str().is_some_and(|m| m.contains("no name `gust`")))
        {
            break;
        }
    }
    assert_eq!(fs::read_to_string(&lamps).expect("the file"), LAMPS, "nothing is written");
    // Colors and format.
    let found =
        client.ask("textDocument/documentColor", json!({ "textDocument": { "uri": uri(&main) } }));
    assert_eq!(found.as_array().map(Vec::len), Some(1));
    let params = json!({ "textDocument": { "uri": uri(&main) }, "color": found[0]["color"], "range": found[0]["range"] });
    let found = client.ask("textDocument/colorPresentation", params);
    assert_eq!(found[0]["label"], "#ffb060");
    assert!(found.as_array().is_some_and(|all| {
        all.iter().any(|one| one["label"].as_str().is_some_and(|l| l.starts_with("oklch(")))
    }));
    let crooked = MAIN.replace("  intensity  600lm", "      intensity 600lm");
    let of = json!({ "uri": uri(&main), "version": 4 });
    client.tell(
        "textDocument/didChange",
        json!({ "textDocument": of, "contentChanges": [{ "text": crooked }] }),
    );
    let options = json!({ "tabSize": 2, "insertSpaces": true });
    let edits = client.ask(
        "textDocument/formatting",
        json!({ "textDocument": { "uri": uri(&main) }, "options": options }),
    );
    assert_eq!(edited(&crooked, &edits), MAIN);
    // The end.
    assert_eq!(client.ask("shutdown", Value::Null), Value::Null);
    let id = client.request("textDocument/hover", at(&main, MAIN, "gust"));
    assert_eq!(client.answer(id)["error"]["code"], -32600);
    client.tell("exit", Value::Null);
    assert_eq!(client.ended(), Some(0));
}

#[test]
fn every_request_is_answered_at_every_word_of_the_demo() {
    let text = include_str!("../../caltrin/books/pier.caltrin");
    let folder = folder();
    let path = folder.path().join("pier.caltrin");
    let mut client = Client::ready();
    client.open(&path, text);
    client.diagnostics(&path);
    let methods = [
        "completion",
        "hover",
        "signatureHelp",
        "definition",
        "documentHighlight",
        "prepareRename",
    ];
    let (tokens, _) = caltrin::lang::syntax::lex(text);
    // All of them take a minute; `CALTRIN_PROOFS=full` asks for that.
    let step = if std::env::var_os("CALTRIN_PROOFS").is_some() { 1 } else { 11 };
    let mut taken: Vec<(Duration, &str)> = Vec::new();
    for token in tokens.iter().step_by(step) {
        for method in methods {
            let params = json!({ "textDocument": { "uri": uri(&path) }, "position": position(text, token.start) });
            let start = Instant::now();
            client.ask(&format!("textDocument/{method}"), params);
            taken.push((start.elapsed(), method));
        }
    }
    for method in
        ["documentSymbol", "foldingRange", "semanticTokens/full", "documentColor", "documentLink"]
    {
        let start = Instant::now();
        let found = client.ask(
            &format!("textDocument/{method}"),
            json!({ "textDocument": { "uri": uri(&path) } }),
        );
        assert!(!found.is_null(), "{method}");
        taken.push((start.elapsed(), method));
    }
    for method in methods {
        let mut own: Vec<Duration> =
            taken.iter().filter(|(_, m)| *m == method).map(|(t, _)| *t).collect();
        own.sort();
        println!("{method}: median {:?}, slowest {:?}", own[own.len() / 2], own[own.len() - 1]);
    }
    assert!(taken.len() > 200, "{}", taken.len());
}

#[test]
fn bad_input_is_answered_as_the_protocol_says() {
    let (_folder, [main, ..]) = books();
    let mut client = Client::ready();
    client.open(&main, MAIN);
    let no_id = |message: &Value| message.get("error").is_some() && message["id"].is_null();
    client.raw(b"Content-Length: 9\r\n\r\n{\"a\": [1,");
    assert_eq!(client.wait(no_id)["error"]["code"], -32700);
    client.raw(b"Content-Length: 13\r\n\r\n{\"not\": true}");
    assert_eq!(client.wait(no_id)["error"]["code"], -32600);
    client.raw(b"Hello\r\n");
    assert_eq!(client.wait(no_id)["error"]["code"], -32700);
    let id = client.request("textDocument/fly", json!({}));
    assert_eq!(client.answer(id)["error"]["code"], -32601);
    let id = client.request("textDocument/hover", json!({ "position": 3 }));
    assert_eq!(client.answer(id)["error"]["code"], -32602);
    // Positions far away, documents that are not open, and what is no file.
    for (line, character) in
        [(0, 4_000_000_000u32), (4_000_000_000u32, 0), (4_000_000_000, 4_000_000_000)]
    {
        let place = json!({ "textDocument": { "uri": uri(&main) }, "position": { "line": line, "character": character } });
        for method in ["hover", "completion", "definition", "signatureHelp", "prepareRename"] {
            client.ask(&format!("textDocument/{method}"), place.clone());
        }
    }
    for other in ["file:///nowhere/at-all.caltrin", "untitled:Untitled-1", "https://example.org/a"]
    {
        let place =
            json!({ "textDocument": { "uri": other }, "position": { "line": 0, "character": 0 } });
        assert_eq!(client.ask("textDocument/hover", place), Value::Null);
    }
    let id = client.request("textDocument/hover", json!({ "textDocument": { "uri": "not a uri" }, "position": { "line": 0, "character": 0 } }));
    assert!(client.answer(id).get("error").is_some());
    // A request that is canceled while it waits.
    let text = "a".repeat(3_000_000);
    let of = json!({ "uri": uri(&main), "version": 2 });
    client.tell(
        "textDocument/didChange",
        json!({ "textDocument": of, "contentChanges": [{ "text": text }] }),
    );
    let ids: Vec<i64> = (0..30)
        .map(|_| {
            client.request(
                "textDocument/documentSymbol",
                json!({ "textDocument": { "uri": uri(&main) } }),
            )
        })
        .collect();
    let last = *ids.last().expect("some");
    client.tell("$/cancelRequest", json!({ "id": last }));
    let answers: Vec<Value> = ids.iter().map(|id| client.answer(*id)).collect();
    for answer in &answers {
        let canceled = answer["error"]["code"] == -32800;
        assert!(canceled || answer.get("error").is_none(), "{answer}");
    }
    // Half a book, and one that is nothing but brackets.
    for text in [&MAIN[..MAIN.len() / 2], &"{(".repeat(4000), "\u{feff}", ""] {
        let of = json!({ "uri": uri(&main), "version": 3 });
        client.tell(
            "textDocument/didChange",
            json!({ "textDocument": of, "contentChanges": [{ "text": text }] }),
        );
        let place = json!({ "textDocument": { "uri": uri(&main) }, "position": { "line": 1, "character": 0 } });
        client.ask("textDocument/completion", place);
    }
    // The client dies.
    assert_eq!(client.ended(), Some(1));
}

#[test]
fn an_end_before_the_beginning_is_one() {
    assert_eq!(Client::start().ended(), Some(1));
    let mut client = Client::start();
    let id = client.request("textDocument/hover", json!({}));
    assert_eq!(client.answer(id)["error"]["code"], -32002);
    client.tell("exit", Value::Null);
    assert_eq!(client.ended(), Some(1));
    let mut client = Client::start();
    let id = client.request("initialize", json!({ "capabilities": 3 }));
    assert_eq!(client.answer(id)["error"]["code"], -32602);
    assert_eq!(client.ended(), Some(1));
}
