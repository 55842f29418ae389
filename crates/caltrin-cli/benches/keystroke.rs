//! What a keystroke costs in books of 10 to 10,000 lights: until its completion is answered, until its diagnostics
//! arrive, and until the whole book was read for them. `cargo bench -p caltrin-cli --bench keystroke`

#[path = "../tests/editor/mod.rs"]
mod editor;

use std::time::{Duration, Instant};

use editor::{Client, position, uri};
use serde_json::json;

const SIZES: [usize; 4] = [10, 100, 1_000, 10_000];
const KEYSTROKES: usize = 21;

fn main() {
    // `cargo test --benches` only builds it.
    if !std::env::args().any(|argument| argument == "--bench") {
        return;
    }
    println!("{:>8}{:>16}{:>16}{:>16}  median ms", "lights", "completion", "diagnostics", "whole");
    for size in SIZES {
        let [completion, first, whole] = keystrokes(size).map(|time| time.as_secs_f64() * 1e3);
        println!("{size:>8}{completion:>16.1}{first:>16.1}{whole:>16.1}");
    }
}

/// A book of so many lights, each with signals, chance and an event of its own.
fn book(size: usize) -> String {
    let mut text = String::from(
        "lightbook \"Row\"\ninput mist = 20% in 0%..100%\nsignal gust = drift(40%..100%, rate 1Hz)\n",
    );
    for n in 0..size {
        text += &format!(
            "light lamp_{n} point {{\n  event fault every 4s..9s\n  signal alive = 1 - pulse(at fault, lasts 300ms)\n  \
             position   ({n}m, 3m, 0m)\n  color      2400K\n  \
             intensity  600lm * gust * alive * held(90%..100%, every 60ms..200ms) * (1 - mist)\n}}\n"
        );
    }
    text
}

/// The medians of the times until completion, until the first diagnostics, and until the last.
fn keystrokes(size: usize) -> [Duration; 3] {
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let path = folder.path().join("book.caltrin");
    let mut text = book(size);
    let mut client = Client::ready();
    client.open(&path, &text);
    client.diagnostics(&path);
    let middle = text.len() / 2;
    let mut at = middle + text[middle..].find("* gust").expect("a signal") + 2;
    let (mut completions, mut diagnostics, mut whole) = (Vec::new(), Vec::new(), Vec::new());
    // Of a large book diagnostics come twice.
    let large = text.len() > 64 << 10;
    for n in 0..KEYSTROKES {
        // A letter is written into a name, and taken out again.
        let (range, letter) = match n % 2 {
            0 => (at..at, "g"),
            _ => (at - 1..at, ""),
        };
        let place =
            json!({ "start": position(&text, range.start), "end": position(&text, range.end) });
        text.replace_range(range.clone(), letter);
        at = range.start + letter.len();
        let document = json!({ "uri": uri(&path), "version": n + 2 });
        let change = json!({ "range": place, "text": letter });
        let start = Instant::now();
        client.tell(
            "textDocument/didChange",
            json!({ "textDocument": document, "contentChanges": [change] }),
        );
        let params =
            json!({ "textDocument": { "uri": uri(&path) }, "position": position(&text, at) });
        client.ask("textDocument/completion", params);
        completions.push(start.elapsed());
        client.diagnostics(&path);
        diagnostics.push(start.elapsed());
        if !large || client.diagnostics_within(&path, Duration::from_secs(5)).is_some() {
            whole.push(start.elapsed());
        }
    }
    [completions, diagnostics, whole].map(|mut all| {
        all.sort();
        all[all.len() / 2]
    })
}
