//! Hands on the live page: what they do is written into the book, to the byte. Those that need a browser are shown as
//! ignored where there is none.

#[macro_use]
#[allow(dead_code, reason = "each uses some of it")]
mod page;

use std::fs;
use std::process::Command;
use std::time::Duration;

use fantoccini::actions::{InputSource, MouseActions, PointerAction};
use fantoccini::key::Key;
use libtest_mimic::{Arguments, Failed, Trial};
use page::slipway::{Checked, SLIP, at, edit, hash, key, plays_the_file, select, slipway};
use page::{Browser, Done, Served, get, post, request, save};
use serde_json::{Value, json};

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");

fn nothing_changes_without_the_key() -> Done {
    let served = Served::start(SLIP)?;
    let key = served.key()?;
    let hash = hash(&served)?;
    let body = json!({
        "file": "pier.caltrin", "hash": hash, "gesture": null, "words": "no",
        "ops": [{ "number": { "at": at(SLIP, "600lm"), "to": 1.0 } }],
    });
    let port = served.address.rsplit(':').next().unwrap_or_default().to_owned();
    let (own, other) = (format!("http://127.0.0.1:{port}"), "http://evil.example".to_owned());
    let wrong = "0".repeat(key.len());
    let tries: [&[(&str, &str)]; 6] = [
        &[],
        &[("x-caltrin-key", &wrong)],
        &[("x-caltrin-key", &key[1..])],
        &[("x-caltrin-key", &key), ("origin", &other)],
        &[("x-caltrin-key", &key), ("origin", "null")],
        &[("x-caltrin-key", &key), ("host", "evil.example")],
    ];
    for path in ["edit", "rest", "undo", "redo", "settle", "restore"] {
        for headers in tries {
            let (status, _) = post(&format!("{}/{path}", served.address), headers, &body)?;
            assert_eq!(status, 403, "{path} {headers:?}");
        }
    }
    assert_eq!(request(&format!("{}/language?key={wrong}", served.address), None)?.0 / 100, 4);
    std::thread::sleep(Duration::from_millis(600));
    assert_eq!(served.text()?, SLIP);
    // With the key, and from the page itself, it is done.
    let right: [(&str, &str); 2] = [("x-caltrin-key", &key), ("origin", &own)];
    assert_eq!(post(&format!("{}/edit", served.address), &right, &body)?.0, 200);
    served.written(&SLIP.replace("600lm", "1lm"))
}

/// Other users of the machine can connect to the port too.
#[cfg(target_os = "linux")]
fn other_users_are_refused() -> Done {
    use std::os::unix::fs::MetadataExt;
    if fs::metadata("/proc/self")?.uid() != 0 {
        // Only the administrator can become somebody else.
        return Ok(());
    }
    let served = Served::start(SLIP)?;
    let ask = |user: &str| -> Checked<String> {
        let script = format!(
            "exec 3<>/dev/tcp/127.0.0.1/{0}; printf 'GET / HTTP/1.1\\r\\nHost: 127.0.0.1:{0}\\r\\nConnection: close\\r\\n\\r\\n' >&3; cat <&3",
            served.address.rsplit(':').next().unwrap_or_default()
        );
        let out = Command::new("setpriv")
            .args([&format!("--reuid={user}"), "--clear-groups", "bash", "-c", &script])
            .output()?;
        Ok(String::from_utf8_lossy(&out.stdout).into_owned())
    };
    let (own, other) = (ask("0")?, ask("65534")?);
    assert!(own.starts_with("HTTP/1.1 200") && own.contains("caltrin-key"), "{own}");
    assert!(other.starts_with("HTTP/1.1 403") && !other.contains("caltrin-key"), "{other}");
    Ok(())
}

fn a_book_that_is_shown_read_only_stays() -> Done {
    let folder = tempfile::tempdir()?;
    fs::write(folder.path().join("pier.caltrin"), SLIP)?;
    let served = Served::with(folder, 0, &["--read-only"])?;
    let ops = json!([{ "number": { "at": at(SLIP, "600lm"), "to": 1.0 } }]);
    let (status, told) = edit(&served, &served.key()?, &hash(&served)?, ops)?;
    assert_eq!((status, told["why"].as_str()), (403, Some("the book is shown read-only")));
    Ok(())
}

/// Line ends, rights, links and every other byte stay.
#[cfg(unix)]
fn edits_change_the_bytes_that_are_meant() -> Done {
    use std::os::unix::fs::{MetadataExt, symlink};
    let text = SLIP.replace('\n', "\r\n").replace("swell\r\n\r\nswitch", "swell\r\n\r\n\r\nswitch");
    let folder = tempfile::tempdir()?;
    let real = folder.path().join("real.caltrin");
    fs::write(&real, &text)?;
    fs::set_permissions(&real, std::os::unix::fs::PermissionsExt::from_mode(0o600))?;
    symlink(&real, folder.path().join("pier.caltrin"))?;
    let served = Served::with(folder, 0, &[])?;
    let key = served.key()?;
    let mut now = text.clone();
    for (op, from, to) in [
        (json!({ "number": { "at": at(&text, "600lm"), "to": 750.0 } }), "600lm", "750lm"),
        (json!({ "color": { "at": at(&text, "#c8a878"), "to": "2400K" } }), "#c8a878", "2400K"),
        (
            json!({ "point": { "at": at(&text, "(1m, 3m, 2m)"), "to": [1.0, -3.0, 2.5] } }),
            "(1m, 3m, 2m)",
            "(1m, -3m, 2.5m)",
        ),
        (json!({ "hour": { "at": at(&text, "18:00"), "to": 6.5 } }), "18:00", "06:30"),
        (
            json!({ "line": { "of": "cradle", "word": "reach", "to": "1m..8m" } }),
            "400cd * winch\r\n",
            "400cd * winch\r\n  reach      1m..8m\r\n",
        ),
        (
            json!({ "remove_line": { "of": "cradle", "word": "reach" } }),
            "  reach      1m..8m\r\n",
            "",
        ),
    ] {
        // Ranges are those of the text as it was: each is moved to where its place is now.
        let op = match op.as_object().and_then(|op| op.values().next()).and_then(|op| op.get("at"))
        {
            Some(_) => {
                let mut op = op.clone();
                let (_, inner) =
                    op.as_object_mut().and_then(|op| op.iter_mut().next()).ok_or("an operation")?;
                inner["at"] = json!(at(&now, from));
                op
            }
            None => op,
        };
        let (status, told) = edit(&served, &key, &hash(&served)?, json!([op]))?;
        assert_eq!(status, 200, "{told}");
        now = now.replacen(from, to, 1);
        served.written(&now)?;
    }
    let about = fs::symlink_metadata(served.book())?;
    assert!(about.file_type().is_symlink());
    assert_eq!(fs::metadata(served.book())?.mode() & 0o777, 0o600);
    // What cannot be done says why, and changes nothing.
    for (op, status) in [
        (json!({ "number": { "at": [0, 3], "to": 1.0 } }), 422),
        (json!({ "expression": { "at": at(&now, "750lm * swell"), "to": "750lm *" } }), 422),
        (json!({ "move_stops": { "curve": "sag", "to": [[1, 9.0]] } }), 422),
        (json!({ "jump": {} }), 400),
    ] {
        let (found, told) = edit(&served, &key, &hash(&served)?, json!([op]))?;
        assert_eq!(found, status, "{told}");
        assert!(told["why"].as_str().is_some_and(|why| !why.is_empty()), "{told}");
    }
    let body = json!({ "file": "../pier.caltrin", "hash": hash(&served)?, "words": "", "ops": [] });
    let (status, _) = post(&format!("{}/edit", served.address), &[("x-caltrin-key", &key)], &body)?;
    assert_eq!(status, 404);
    served.written(&now)
}

fn saves_of_other_programs_are_merged_or_both_are_shown() -> Done {
    let served = Served::start(SLIP)?;
    let key = served.key()?;
    let before = hash(&served)?;
    save(&served.book(), &SLIP.replace("400cd", "450cd"))?;
    served.until(|state| state["texts"][0]["hash"] != before)?;
    // An edit for the text before counts where the save changed nothing.
    let ops = |piece: &str, to: f64| json!([{ "number": { "at": at(SLIP, piece), "to": to } }]);
    assert_eq!(edit(&served, &key, &before, ops("600lm", 700.0))?.0, 200);
    let merged = SLIP.replace("400cd", "450cd").replace("600lm", "700lm");
    served.written(&merged)?;
    let (status, told) = edit(&served, &key, &before, ops("400cd", 500.0))?;
    assert_eq!(
        (status, told["why"].as_str().map(|why| why.contains("another program"))),
        (409, Some(true))
    );
    served.written(&merged)?;
    // Undone, the other program's change stays.
    assert_eq!(
        post(&format!("{}/undo", served.address), &[("x-caltrin-key", &key)], &json!({}))?.0,
        200
    );
    served.written(&SLIP.replace("400cd", "450cd"))?;
    let history = served.state()?["history"].clone();
    assert_eq!(history.as_array().map(Vec::len), Some(1), "{history}");
    assert_eq!(
        (&history[0]["own"], &history[0]["words"]),
        (&json!(false), &json!("changed by another program"))
    );
    // Both at one place, before the page's is written: the file is shown, and the page's is kept until one is taken.
    let now = hash(&served)?;
    let text = served.text()?;
    let body = json!({
        "file": "pier.caltrin", "hash": now, "gesture": "held", "words": "held",
        "ops": [{ "number": { "at": at(&text, "600lm"), "to": 800.0 } }],
    });
    assert_eq!(
        post(&format!("{}/edit", served.address), &[("x-caltrin-key", &key)], &body)?.0,
        200
    );
    save(&served.book(), &text.replace("600lm", "900lm"))?;
    let state = served.until(|state| {
        let shown = state["texts"][0]["text"].as_str().is_some_and(|text| text.contains("900lm"));
        shown && state["refused"].as_array().is_some_and(|all| !all.is_empty())
    });
    // Where the page's came first, the save replaced it: it is a change of another program.
    let Ok(state) = state else {
        return served.written(&text.replace("600lm", "900lm"));
    };
    assert!(state["refused"][0]["text"].as_str().is_some_and(|text| text.contains("800lm")));
    let settled = json!({ "file": "pier.caltrin", "mine": true });
    assert_eq!(
        post(&format!("{}/settle", served.address), &[("x-caltrin-key", &key)], &settled)?.0,
        200
    );
    served.written(&text.replace("600lm", "800lm"))
}

fn versions_come_back_after_a_crash() -> Done {
    let served = Served::start(SLIP)?;
    let key = served.key()?;
    for to in [700.0, 800.0] {
        let text = served.text()?;
        let piece = if to > 750.0 { "700lm" } else { "600lm" };
        let ops = json!([{ "number": { "at": at(&text, piece), "to": to } }]);
        assert_eq!(edit(&served, &key, &hash(&served)?, ops)?.0, 200);
        served.written(&SLIP.replace("600lm", &format!("{to}lm")))?;
    }
    let served = Served::with(served.killed(), 0, &[])?;
    let all: Value = serde_json::from_str(&get(&format!("{}/versions.json", served.address))?.1)?;
    assert_eq!((all.as_array().map(Vec::len), &all[1]["words"]), (Some(2), &json!("a test")));
    let first = json!({ "n": all[1]["n"] });
    let restored =
        post(&format!("{}/restore", served.address), &[("x-caltrin-key", &served.key()?)], &first)?;
    assert_eq!(restored.0, 200, "{}", restored.1);
    served.written(SLIP)?;
    // That can be undone too.
    post(&format!("{}/undo", served.address), &[("x-caltrin-key", &served.key()?)], &json!({}))?;
    served.written(&SLIP.replace("600lm", "800lm"))
}

async fn numbers_are_turned_by_pointer_keys_and_typing() -> Done {
    let served = Served::start(SLIP)?;
    let browser = slipway(&served).await?;
    select(&browser, "lantern").await?;
    let knob = "lantern intensity";
    let level =
        || async { Ok::<_, Failed>(browser.named(knob).await?.attr("aria-valuenow").await?) };
    assert_eq!(level().await?.as_deref(), Some("600"));
    assert_eq!(browser.named(knob).await?.attr("role").await?.as_deref(), Some("spinbutton"));
    browser.drag(knob, (80.0, 0.0)).await?;
    browser.until("return document.querySelector('[aria-label=\"lantern intensity\"]').getAttribute('aria-valuenow') > 600").await?;
    browser.until("return document.getElementById('saved').textContent === 'written'").await?;
    let turned = level().await?.ok_or("a value")?;
    served.written(&SLIP.replace("600lm", &format!("{turned}lm")))?;
    plays_the_file(&served)?;
    // By keys: a step, and back to where it was.
    browser.press(&format!("{}z", key(Key::Control))).await?;
    served.written(SLIP)?;
    browser.until("return document.querySelector('[aria-label=\"lantern intensity\"]').getAttribute('aria-valuenow') === '600'").await?;
    browser.named(knob).await?.send_keys(&key(Key::Up)).await?;
    browser.until("return document.getElementById('status').textContent.startsWith('lantern intensity: 600lm to')").await?;
    browser.until("return document.getElementById('saved').textContent === 'written'").await?;
    let stepped = level().await?.ok_or("a value")?;
    assert_ne!(stepped, "600");
    served.written(&SLIP.replace("600lm", &format!("{stepped}lm")))?;
    // Typed.
    browser.until("return !document.querySelector('input.spin')").await?;
    browser.named(knob).await?.send_keys(&key(Key::Enter)).await?;
    browser.until("return document.activeElement.matches('input.spin')").await?;
    browser.client.active_element().await?.send_keys(&format!("1234{}", key(Key::Enter))).await?;
    served.written(&SLIP.replace("600lm", "1234lm"))?;
    plays_the_file(&served)?;
    browser.close().await
}

async fn stops_of_a_curve_are_taken_hold_of() -> Done {
    let served = Served::start(SLIP)?;
    let browser = slipway(&served).await?;
    browser.press("u").await?;
    let stop = "sag stop 2 level";
    assert_eq!(browser.named(stop).await?.attr("role").await?.as_deref(), Some("slider"));
    assert_eq!(
        browser.named(stop).await?.attr("aria-valuetext").await?.as_deref(),
        Some("80% at 1s")
    );
    // Time and value at once; the columns stay aligned.
    browser.drag(stop, (24.0, 20.0)).await?;
    browser.until("return document.getElementById('saved').textContent === 'written' && document.getElementById('undo').disabled === false").await?;
    let told = browser.named(stop).await?.attr("aria-valuetext").await?.ok_or("a value")?;
    let (value, place) = told.split_once(" at ").ok_or("a place")?;
    let written = served.text()?;
    let line = written.lines().find(|line| line.contains("#cc8844")).ok_or("the stop")?;
    assert_eq!(
        line.split_whitespace().collect::<Vec<_>>(),
        [place, &format!("{value},"), "#cc8844", "smooth"]
    );
    assert!(value != "80%" && place != "1s", "{told}");
    assert_eq!(caltrin::lang::format(&written).as_deref(), Ok(&*written));
    let others = |text: &str| {
        text.lines().filter(|line| !line.contains('%')).map(str::to_owned).collect::<Vec<_>>()
    };
    assert_eq!(others(&written), others(SLIP));
    plays_the_file(&served)?;
    browser.press(&format!("{}z", key(Key::Control))).await?;
    served.written(SLIP)?;
    // By keys: up by a step of the value, to the right by one of the grid.
    browser.until("return document.querySelector('[aria-label=\"sag stop 2 level\"]').getAttribute('aria-valuetext') === '80% at 1s'").await?;
    browser.named(stop).await?.send_keys(&key(Key::Up)).await?;
    served.written(&SLIP.replace("80%", "81%"))?;
    browser.until("return document.querySelector('[aria-label=\"sag stop 2 level\"]').getAttribute('aria-valuetext') === '81% at 1s'").await?;
    browser.named(stop).await?.send_keys(&key(Key::Delete)).await?;
    let without: String = SLIP.split_inclusive('\n').filter(|line| !line.contains("80%")).collect();
    served.written(&without)?;
    browser.press(&format!("{}z", key(Key::Control))).await?;
    served.written(&SLIP.replace("80%", "81%"))?;
    browser.press(&format!("{}z", key(Key::Control))).await?;
    served.written(SLIP)?;
    // The seam is closed, an easing chosen.
    let click = |text: &str| {
        format!(
            "[...document.querySelectorAll('.curve button')].find((b) => b.textContent === '{text}').click()"
        )
    };
    browser.until("return [...document.querySelectorAll('.curve button')].some((b) => b.textContent === 'Close seam')").await?;
    browser.ask(&click("Close seam")).await?;
    let closed = SLIP.replace("4s  90%, ", "4s  100%,");
    let closed = caltrin::lang::format(&closed).map_err(|_| "a book")?;
    served.written(&closed)?;
    browser.until("return ![...document.querySelectorAll('.curve button')].some((b) => b.textContent === 'Close seam')").await?;
    browser.named("sag stop 3 level").await?.click().await?;
    browser.named("sag stop 3 easing").await?.select_by_label("jump").await?;
    served.until(|state| state["history"][0]["words"] == "sag, stop 3: linear to jump")?;
    let eased = closed.replace("60%,   #ffcc88", "60%,   #ffcc88  jump");
    let eased = caltrin::lang::format(&eased).map_err(|_| "a book")?;
    served.written(&eased)?;
    plays_the_file(&served)?;
    browser.close().await
}

async fn colors_and_places_are_taken_hold_of() -> Done {
    let served = Served::start(SLIP)?;
    let browser = slipway(&served).await?;
    select(&browser, "lantern").await?;
    // A named color changes where it is named.
    browser.named("lantern color rope: #c8a878").await?.click().await?;
    let text = browser.named("lantern color rope as text").await?;
    text.send_keys(&format!("{}a", key(Key::Control))).await?;
    text.send_keys(&format!("2400K{}", key(Key::Tab))).await?;
    served.written(&SLIP.replace("#c8a878", "2400K"))?;
    browser.press(&format!("{}z", key(Key::Control))).await?;
    served.written(SLIP)?;
    browser
        .ask("document.querySelector('[aria-label=\"lantern color rope hue\"]').focus()")
        .await?;
    browser.client.active_element().await?.send_keys(&key(Key::Right)).await?;
    browser.until("return document.getElementById('status').textContent.startsWith('lantern color rope: #c8a878 to #')").await?;
    browser.until("return document.getElementById('saved').textContent === 'written'").await?;
    let told = browser
        .ask("return document.getElementById('status').textContent.split(' to ')[1]")
        .await?;
    served.written(&SLIP.replace("#c8a878", told.as_str().unwrap_or_default()))?;
    browser.press(&format!("{}z", key(Key::Control))).await?;
    served.written(SLIP)?;
    // A lamp is moved by keys in steps, and dragged along the ground.
    browser.named("lantern position").await?.send_keys(&key(Key::Right)).await?;
    served.written(&SLIP.replace("(1m, 3m, 2m)", "(1.1m, 3m, 2m)"))?;
    browser.until("return document.getElementById('saved').textContent === 'written'").await?;
    browser.named("lantern position").await?.send_keys(&key(Key::PageUp)).await?;
    served.written(&SLIP.replace("(1m, 3m, 2m)", "(1.1m, 3.1m, 2m)"))?;
    browser.drag("lantern position", (40.0, 30.0)).await?;
    browser.until("return document.getElementById('saved').textContent === 'written'").await?;
    let state = served.until(|state| state["history"].as_array().map(Vec::len) == Some(3))?;
    let words = state["history"][0]["words"].as_str().unwrap_or_default().to_owned();
    let point = words.strip_prefix("lantern: position ").ok_or("a point")?;
    assert!(point.contains(", 3.1m, ") && !point.starts_with("(1.1m"), "{words}");
    served.written(&SLIP.replace("(1m, 3m, 2m)", point))?;
    plays_the_file(&served)?;
    // A light more where the place is clicked.
    browser.ask("const add = document.getElementById('add'); add.value = 'point'; add.dispatchEvent(new Event('change'));").await?;
    browser.ask("document.getElementById('canvas').dispatchEvent(new MouseEvent('click', { clientX: document.getElementById('canvas').getBoundingClientRect().x + 60, clientY: document.getElementById('canvas').getBoundingClientRect().y + 40 }))").await?;
    served.until(|state| {
        state["lights"]
            .as_array()
            .is_some_and(|all| all.iter().any(|light| light["name"] == "lamp_1"))
    })?;
    let text = served.until(|state| state["waiting"] == false).and_then(|_| served.text())?;
    assert!(
        text.starts_with(&SLIP.replace("(1m, 3m, 2m)", point))
            && text.contains("\n\nlight lamp_1 point {\n  position   (")
    );
    assert_eq!(caltrin::lang::format(&text).as_deref(), Ok(&*text));
    browser.close().await
}

async fn typing_and_gestures_have_one_history() -> Done {
    let served = Served::start(SLIP)?;
    let browser = slipway(&served).await?;
    browser.until("return document.querySelector('.cm-content') !== null").await?;
    select(&browser, "lantern").await?;
    browser.named("lantern intensity").await?.send_keys(&key(Key::Up)).await?;
    browser.until("return document.getElementById('saved').textContent === 'written' && !document.getElementById('undo').disabled").await?;
    let turned = served.text()?;
    assert_ne!(turned, SLIP);
    // The editor has the text that the gesture left, and what is typed is written too.
    let shown = "return document.querySelector('.cm-content').cmView?.view?.state.doc.toString() ?? [...document.querySelectorAll('.cm-line')].length";
    browser.ask(shown).await?;
    browser.ask("document.querySelector('.cm-content').focus()").await?;
    let editor = browser.client.active_element().await?;
    editor.send_keys(&format!("{}{}", key(Key::Control), key(Key::Home))).await?;
    editor.send_keys(&format!("// by hand{}", key(Key::Enter))).await?;
    let typed = served.until(|state| state["history"].as_array().map(Vec::len) == Some(2))?;
    assert!(
        typed["history"][0]["words"]
            .as_str()
            .is_some_and(|words| words.starts_with("typed in line"))
    );
    served.until(|state| state["waiting"] == false)?;
    let text = served.text()?;
    assert!(text.contains("// by hand") && text.len() > turned.len());
    // Undone from the text: first the typing, then the gesture.
    editor.send_keys(&format!("{}z", key(Key::Control))).await?;
    served.written(&turned)?;
    editor.send_keys(&format!("{}z", key(Key::Control))).await?;
    served.written(SLIP)?;
    editor.send_keys(&format!("{}y", key(Key::Control))).await?;
    served.written(&turned)?;
    // The services of the language are those of other editors.
    editor.send_keys(&format!("{}{}", key(Key::Control), key(Key::End))).await?;
    editor.send_keys("signal more = loo").await?;
    browser.until("return [...document.querySelectorAll('.cm-tooltip-autocomplete li')].some((li) => li.textContent.includes('loop'))").await?;
    browser.until("return document.querySelector('.cm-lint-marker-error') !== null").await?;
    browser.close().await
}

async fn a_gesture_survives_saves_errors_and_reloads() -> Done {
    let served = Served::start(SLIP)?;
    let browser = slipway(&served).await?;
    select(&browser, "lantern").await?;
    let [x, y] = browser.middle("lantern intensity").await?;
    let to =
        |by: f64| PointerAction::MoveTo { duration: Some(Duration::from_millis(40)), x: x + by, y };
    let still = || PointerAction::Pause { duration: Duration::from_millis(4000) };
    let hand = MouseActions::new("hand".to_owned())
        .then(to(0.0))
        .then(PointerAction::Down { button: 0 })
        .then(to(20.0))
        .then(to(40.0))
        .then(still())
        .then(to(80.0))
        .then(PointerAction::Up { button: 0 });
    // Another program saves while the hand holds still.
    let other = async {
        let mut text = served.text()?;
        for _ in 0..30 {
            tokio::time::sleep(Duration::from_millis(100)).await;
            text = served.text()?;
            if text != SLIP {
                break;
            }
        }
        save(&served.book(), &text.replace("400cd", "430cd"))?;
        Ok::<String, Failed>(text)
    };
    let (moved, held) = tokio::join!(browser.client.perform_actions(hand), other);
    moved?;
    let held = held?;
    assert!(held != SLIP && held.contains("400cd"), "the hand rested, so it was written");
    served.until(|state| {
        state["waiting"] == false && state["history"].as_array().map(Vec::len) == Some(2)
    })?;
    let text = served.text()?;
    let [first, second] = [&held, &text].map(|text| {
        let line = text.lines().find(|line| line.contains("lm * swell")).unwrap_or_default();
        line.split_whitespace().nth(1).unwrap_or_default().to_owned()
    });
    assert!(first != "600lm" && second != "600lm" && first != second, "{first} {second}");
    served.written(&SLIP.replace("600lm", &second).replace("400cd", "430cd"))?;
    // A reload in the middle of a gesture leaves what it came to.
    browser.until("return document.getElementById('saved').textContent === 'written'").await?;
    select(&browser, "cradle").await?;
    browser.named("cradle intensity").await?.send_keys(&key(Key::Up)).await?;
    served.until(|state| {
        state["texts"][0]["text"].as_str().is_some_and(|text| !text.contains("430cd"))
    })?;
    browser.client.refresh().await?;
    browser.until("return document.body.dataset.drawn !== undefined").await?;
    served.until(|state| state["waiting"] == false)?;
    let stepped = served.text()?;
    assert!(!stepped.contains("430cd") && stepped.contains("cd * winch"));
    // A book that is broken elsewhere can be turned even so, and shows what is wrong.
    save(&served.book(), &stepped.replace("starts off", "starts of"))?;
    browser.until("return document.getElementById('told').textContent.includes('error')").await?;
    select(&browser, "lantern").await?;
    browser.named("lantern intensity").await?.send_keys(&key(Key::Up)).await?;
    served.until(|state| state["waiting"] == false && state["history"][0]["own"] == true)?;
    let turned = served.text()?;
    assert!(turned.contains("starts of;") && !turned.contains(&second));
    save(&served.book(), &turned.replace("starts of;", "starts off;"))?;
    browser.until("return document.getElementById('told').hidden || document.getElementById('told').className === 'warnings'").await?;
    // A second page shows the same, and undoes for both.
    let other = slipway(&served).await?;
    other.press(&format!("{}z", key(Key::Control))).await?;
    served.until(|state| {
        state["texts"][0]["text"].as_str().is_some_and(|text| text.contains(&second))
    })?;
    browser.until("return document.getElementById('redo').disabled === false").await?;
    other.close().await?;
    browser.close().await
}

async fn the_page_can_be_used_by_name_alone() -> Done {
    let served = Served::start(PIER)?;
    let browser = Browser::showing(&served, (1280, 800), true).await?;
    select(&browser, "mast").await?;
    browser.press("u").await?;
    browser.named("hunting stop 3 level").await?;
    browser.named("mast intensity").await?;
    // Everything that takes part has a name, and no two stops or knobs have the same.
    let names = "const all = [...document.querySelectorAll('[role=slider], [role=spinbutton]')].map((e) => e.getAttribute('aria-label'));\
                 return [all.length, new Set(all).size, all.filter((name) => !name).length]";
    let found: [u64; 3] = serde_json::from_value(browser.ask(names).await?)?;
    assert!(found[0] > 20 && found[0] == found[1] && found[2] == 0, "{found:?}");
    // Nothing that is needed lies below the window.
    let fits = "return document.documentElement.scrollHeight <= innerHeight && document.documentElement.scrollWidth <= innerWidth";
    assert_eq!(browser.ask(fits).await?, true);
    // All that can be done is in one list.
    browser.press(&format!("{}k", key(Key::Control))).await?;
    browser
        .named("Search commands")
        .await?
        .send_keys(&format!("from above{}", key(Key::Enter)))
        .await?;
    browser
        .until("return document.getElementById('view').textContent === 'From the front'")
        .await?;
    browser.accessible().await?;
    browser.close().await
}

fn main() {
    let arguments = Arguments::from_args();
    let mut trials = vec![
        Trial::test("nothing_changes_without_the_key", nothing_changes_without_the_key),
        #[cfg(target_os = "linux")]
        Trial::test("other_users_are_refused", other_users_are_refused),
        Trial::test("a_book_that_is_shown_read_only_stays", a_book_that_is_shown_read_only_stays),
        #[cfg(unix)]
        Trial::test("edits_change_the_bytes_that_are_meant", edits_change_the_bytes_that_are_meant),
        Trial::test("saves_of_other_programs_are_merged", || {
            saves_of_other_programs_are_merged_or_both_are_shown()
        }),
        Trial::test("versions_come_back_after_a_crash", versions_come_back_after_a_crash),
    ];
    in_browser!(trials:
        numbers_are_turned_by_pointer_keys_and_typing,
        stops_of_a_curve_are_taken_hold_of,
        colors_and_places_are_taken_hold_of,
        typing_and_gestures_have_one_history,
        a_gesture_survives_saves_errors_and_reloads,
        the_page_can_be_used_by_name_alone
    );
    libtest_mimic::run(&arguments, trials).exit();
}
