//! The language server, driven over its standard input and output as an editor does.

mod editor;

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use editor::{Client, edited, place_of as at, position, uri};
use serde_json::{Value, json};

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
    assert!(text.contains("- range: 0..600 lm"), "{text}");
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

#[test]
fn files_that_change_on_disk_are_read_again() {
    let (_folder, [main, lamps, _]) = books();
    let mut client = Client::start();
    let able = json!({ "workspace": { "didChangeWatchedFiles": { "dynamicRegistration": true } } });
    let general = json!({ "positionEncodings": ["utf-16", "utf-8"] });
    let able = json!({ "workspace": able["workspace"], "general": general });
    let result = client
        .ask("initialize", json!({ "processId": null, "rootUri": null, "capabilities": able }));
    assert_eq!(result["capabilities"]["positionEncoding"], "utf-8");
    client.tell("initialized", json!({}));
    let asked = client.wait(|message| message["method"] == "client/registerCapability");
    assert_eq!(asked["params"]["registrations"][0]["method"], "workspace/didChangeWatchedFiles");
    client.send(&json!({ "jsonrpc": "2.0", "id": asked["id"], "result": null }));
    client.open(&main, MAIN);
    assert_eq!(client.diagnostics(&main), Vec::<Value>::new());
    fs::write(&lamps, LAMPS.replace("gust", "breeze")).expect("a file");
    let change = json!({ "uri": uri(&lamps), "type": 2 });
    client.tell("workspace/didChangeWatchedFiles", json!({ "changes": [change] }));
    let told = client.diagnostics(&main);
    assert_eq!(
        told[0]["message"].as_str().map(|m| m.starts_with("there is no name `gust`")),
        Some(true)
    );
    let first =
        client.ask("textDocument/documentSymbol", json!({ "textDocument": { "uri": uri(&main) } }));
    assert_eq!(first[0]["name"], "lamps.caltrin");
    client.tell("textDocument/didClose", json!({ "textDocument": { "uri": uri(&main) } }));
    client.ask("shutdown", Value::Null);
    client.tell("exit", Value::Null);
    assert_eq!(client.ended(), Some(0));
}

/// Changes of one book while another is being read leave neither unreported.
#[test]
fn every_open_book_is_reported_however_fast_they_change() {
    let folder = folder();
    let files: Vec<PathBuf> = (0..4).map(|n| folder.path().join(format!("b{n}.caltrin"))).collect();
    let text =
        |word: &str| format!("lightbook \"B\"\nlight a point {{ intensity 1lm * {word} }}\n");
    let mut client = Client::ready();
    for file in &files {
        client.open(file, &text("1"));
    }
    for round in 0..5 {
        for file in &files {
            let of = json!({ "uri": uri(file), "version": round + 2 });
            let change = json!({ "text": text(&format!("wrong_{round}")) });
            client.tell(
                "textDocument/didChange",
                json!({ "textDocument": of, "contentChanges": [change] }),
            );
        }
    }
    for file in &files {
        loop {
            let told = client.diagnostics(file);
            if told.iter().any(|one| one["message"].as_str().is_some_and(|m| m.contains("wrong_4")))
            {
                break;
            }
        }
    }
}

/// The plugin folder for an editor, in that editor. Without the editor there is nothing to try.
#[test]
fn the_plugin_folder_works_in_its_editor() {
    if Command::new("nvim").arg("--version").output().is_err() {
        eprintln!("nvim is not installed; scripts/install-debian.sh installs it on Debian");
        return;
    }
    let (folder, [main, ..]) = books();
    let plugin = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../editors/neovim");
    fs::write(&main, MAIN.replace("gust", "gsut")).expect("a file");
    let out = folder.path().join("out.txt");
    let script = folder.path().join("try.lua");
    let said = format!(
        "vim.wait(30000, function() return #vim.diagnostic.get(0) > 0 end, 20)\n\
         local out = io.open({out:?}, 'w')\n\
         for _, told in ipairs(vim.diagnostic.get(0)) do out:write(told.message, '\\n') end\n\
         local params = {{ textDocument = vim.lsp.util.make_text_document_params(), position = {{ line = 3, character = 4 }} }}\n\
         for _, answer in pairs(vim.lsp.buf_request_sync(0, 'textDocument/completion', params, 30000)) do\n\
           out:write(answer.result.items[1].label, '\\n')\n\
         end\n\
         out:write(vim.bo.filetype, ' ', vim.bo.commentstring, '\\n')\n\
         out:close()\n\
         vim.cmd('qa!')\n"
    );
    fs::write(&script, said).expect("a file");
    let done = Command::new("nvim")
        .args(["--headless", "-u", "NONE", "-i", "NONE"])
        .arg("--cmd")
        .arg(format!("set runtimepath+={}", plugin.display()))
        .arg("--cmd")
        .arg(format!("let g:caltrin_command = '{}'", env!("CARGO_BIN_EXE_caltrin")))
        .args(["--cmd", "filetype plugin on"])
        .arg(&main)
        .arg("-c")
        .arg(format!("luafile {}", script.display()))
        .stdin(Stdio::null())
        .output()
        .expect("the editor runs");
    let found = fs::read_to_string(&out).unwrap_or_else(|_| panic!("{done:?}"));
    let wanted = "there is no name `gsut`; did you mean `gust`?\nlight\ncaltrin // %s\n";
    assert_eq!(found, wanted, "{done:?}");
}

/// In a large book the part that has changed is reported first, then the whole: with the same result.
#[test]
fn a_large_book_is_reported_in_parts_and_whole() {
    let folder = folder();
    let file = folder.path().join("row.caltrin");
    let lights: String = (0..1_500)
        .map(|n| {
            format!("light lamp_{n} point {{\n  position ({n}m, 3m, 0m)\n  intensity 600lm\n}}\n")
        })
        .collect();
    let mut text = format!("lightbook \"Row\"\n{lights}signal idle = 40%\n");
    assert!(text.len() > 64 << 10);
    let mut client = Client::ready();
    client.open(&file, &text);
    let first = client.diagnostics(&file);
    let idle = |told: &[Value]| -> Vec<u64> {
        let code = |one: &&Value| one["message"].as_str().is_some_and(|m| m.contains("`idle`"));
        let line = |one: &Value| one["range"]["start"]["line"].as_u64();
        told.iter().filter(code).filter_map(line).collect()
    };
    assert_eq!(idle(&first), [6_001]);
    let mut version = 1;
    let mut change = |client: &mut Client, word: &str, by: &str| {
        let at = text.find(word).expect("the word");
        let place =
            json!({ "start": position(&text, at), "end": position(&text, at + word.len()) });
        text.replace_range(at..at + word.len(), by);
        version += 1;
        let of = json!({ "uri": uri(&file), "version": version });
        client.tell(
            "textDocument/didChange",
            json!({ "textDocument": of, "contentChanges": [{ "range": place, "text": by }] }),
        );
        let part = client.diagnostics(&file);
        let patience = std::time::Duration::from_secs(20);
        let whole = client.diagnostics_within(&file, patience);
        // The whole was as quick as the part if nothing more comes.
        (part.clone(), whole.unwrap_or(part))
    };
    // A line more in a light in the middle.
    let (part, whole) = change(&mut client, "(700m, 3m, 0m)", "(701m, 3m, 0m)\n  color 2400K");
    assert_eq!([idle(&part), idle(&whole)], [[6_002], [6_002]]);
    assert_eq!(part, whole);
    // An error in a light, and its end.
    let (part, whole) = change(&mut client, "(901m, 3m, 0m)", "(901m, 3m)");
    for told in [&part, &whole] {
        let wrong = told.iter().find(|one| one["severity"] == 1).expect("an error");
        assert_eq!(wrong["range"]["start"]["line"], 1 + 901 * 4 + 1 + 1);
    }
    let (part, whole) = change(&mut client, "(901m, 3m)", "(901m, 3m, 0m)");
    // Warnings of a book with errors are not known: they come with the whole.
    assert!(part.is_empty());
    assert_eq!(idle(&whole), [6_002]);
    client.ask("shutdown", Value::Null);
    client.tell("exit", Value::Null);
    assert_eq!(client.ended(), Some(0));
}
