//! Hands on the place and on time: reach, cone, aim, height, walls and posts; steps of sequences, lines of rehearsals,
//! taps; numbers in the text itself. Each by pointer and by keyboard, with the bytes that it writes.

#[macro_use]
#[allow(dead_code, reason = "each uses some of it")]
mod page;

use std::time::Duration;

use fantoccini::Locator;
use fantoccini::actions::{
    Actions, InputSource, KeyAction, KeyActions, MouseActions, PointerAction,
};
use fantoccini::key::Key;
use libtest_mimic::{Arguments, Failed};
use page::slipway::{Checked, SLIP, key, plays_the_file, press, select, slipway, undone};
use page::{Browser, Done, Served, get, request};
use serde_json::{Value, json};

/// The slipway with something solid, a scripted scene and a rehearsal.
fn yard() -> String {
    let more = r#"
sequence haul at hauled {
  0s..1s    lantern.intensity  900lm  smooth
  2s        mark taut
  +1.5s     lantern.intensity  100lm
  6s        return over 1s
}

wall shed { along (-2m, 0m, -3m)..(3m, 0m, -3m); height 3m }
post pile[3] { position (-1m, 0m, 4m), (2m, 0m, 0m); radius 30cm; height 2m }

rehearsal evening {
  1s   hauled
  5s   expect lantern.intensity above 0lm for 1s
  14s  end
}
"#;
    let text = SLIP
        .replace("  cone       20deg..60deg\n", "  cone       20deg..60deg\n  reach      1m..6m\n");
    let text = caltrin::lang::format(&(text + more)).expect("a book");
    assert!(caltrin::lang::format(&text).as_deref() == Ok(&*text));
    text
}

/// The yard with an input that dims its lantern.
fn misty() -> String {
    let text = yard()
        .replace("event hauled\n", "event hauled\n\ninput mist = 30% in 0%..100%\n")
        .replace("600lm * swell", "600lm * swell * (1 - mist)");
    caltrin::lang::format(&text).expect("a book")
}

/// Waits until the file is written, and gives its text.
async fn settled(served: &Served, browser: &Browser, changes: usize) -> Checked<String> {
    // What a drag sends is on its way one after the other.
    for _ in 0..3 {
        browser.until("return (document.body.dataset.open ?? '0') === '0'").await?;
        tokio::time::sleep(Duration::from_millis(40)).await;
    }
    served.until(|state| {
        state["history"].as_array().map(Vec::len) == Some(changes) && state["waiting"] == false
    })?;
    browser.until("return document.getElementById('saved').textContent === 'written'").await?;
    served.text()
}

/// The text between two pieces.
fn between<'t>(text: &'t str, before: &str, after: &str) -> &'t str {
    let rest = text.split_once(before).map_or("", |(_, rest)| rest);
    rest.split_once(after).map_or("", |(found, _)| found)
}

async fn reach_cone_aim_and_height_follow_the_hand() -> Done {
    let book = yard();
    let served = Served::start(&book)?;
    let browser = slipway(&served).await?;
    select(&browser, "cradle").await?;
    for (name, keys, from, to) in [
        ("cradle reach", Key::Right, "1m..6m", "1m..6.1m"),
        ("cradle inner reach", Key::Up, "1m..6m", "1.1m..6m"),
        ("cradle cone", Key::Right, "20deg..60deg", "20deg..61deg"),
        ("cradle inner cone", Key::Left, "20deg..60deg", "19deg..60deg"),
        ("cradle aim", Key::Right, "aim        (0m, -1m, 0m)", "aim        (0.1m, -5m, 0m)"),
        ("cradle height", Key::Up, "(4m, 5m, 0m)", "(4m, 5.1m, 0m)"),
    ] {
        press(&browser, name, &key(keys)).await?;
        served.written(&book.replace(from, to)).map_err(|why| format!("{name}: {why:?}"))?;
        undone(&served, &browser, &book).await?;
    }
    plays_the_file(&served)?;
    // With the pointer each goes where it is dragged, and nothing else changes.
    for (n, (name, by, before, after)) in [
        ("cradle reach", (-30.0, 0.0), "1m..", "m\n"),
        ("cradle cone", (20.0, 0.0), "20deg..", "deg"),
        ("cradle aim", (24.0, 16.0), "aim        (", ")"),
        ("cradle height", (0.0, -30.0), "(4m, ", "m, 0m)"),
    ]
    .into_iter()
    .enumerate()
    {
        let old = between(&book, before, after).to_owned();
        browser.drag(name, by).await?;
        let text = settled(&served, &browser, 1).await?;
        let new = between(&text, before, after).to_owned();
        assert!(!old.is_empty() && !new.is_empty() && old != new, "{n} {name}: {old} {new}");
        let line = |text: &str, value: &str| {
            format!("{before}{value}{}", if text.is_empty() { "" } else { after })
        };
        assert_eq!(text, book.replace(&line("x", &old), &line("x", &new)), "{name}");
        let grown = |v: &str| v.trim_end_matches('m').parse::<f64>().unwrap_or(f64::NAN);
        match name {
            "cradle aim" => assert!(new.starts_with(|c: char| c.is_ascii_digit()), "{new}"),
            "cradle cone" => assert!(grown(&new) > 60.0, "{new}"),
            "cradle reach" => assert!(grown(&new) < grown(&old), "{new}"),
            _ => assert!(grown(&new) > grown(&old), "{name} {new}"),
        }
        undone(&served, &browser, &book).await?;
    }
    browser.close().await
}

async fn walls_and_posts_are_moved_made_copied_and_removed() -> Done {
    let book = yard();
    let served = Served::start(&book)?;
    let browser = slipway(&served).await?;
    for (name, keys, from, to) in [
        ("shed start", Key::Left, "along (-2m, 0m, -3m)", "along (-2.1m, 0m, -3m)"),
        ("shed end", Key::Down, "..(3m, 0m, -3m)", "..(3m, 0m, -2.9m)"),
        ("pile[0] position", Key::Up, "(-1m, 0m, 4m)", "(-1m, 0m, 3.9m)"),
        ("pile[2] position", Key::Right, "(2m, 0m, 0m)", "(2.05m, 0m, 0m)"),
    ] {
        press(&browser, name, &key(keys)).await?;
        served.written(&book.replace(from, to)).map_err(|why| format!("{name}: {why:?}"))?;
        undone(&served, &browser, &book).await?;
    }
    browser.named("pile[0] position").await?.click().await?;
    press(&browser, "pile radius", &key(Key::Right)).await?;
    served.written(&book.replace("radius 30cm", "radius 35cm"))?;
    undone(&served, &browser, &book).await?;
    // Heights are taken hold of from the front.
    browser.press("v").await?;
    press(&browser, "pile height", &key(Key::Up)).await?;
    served.written(&book.replace("height 2m", "height 2.1m"))?;
    undone(&served, &browser, &book).await?;
    browser.press("v").await?;
    // A wall is dragged by its end; with the grid of a meter it lands on whole ones.
    browser.named("Grid of the place").await?.select_by_label("1 m").await?;
    browser.drag("shed end", (45.0, 0.0)).await?;
    let text = settled(&served, &browser, 1).await?;
    let end = between(&text, "..(", "m, 0m, -3m)").to_owned();
    assert!(end.parse::<i32>().is_ok_and(|x| x > 3), "{end}");
    assert_eq!(text, book.replace("..(3m,", &format!("..({end}m,")));
    undone(&served, &browser, &book).await?;
    // Copied beside itself, and removed.
    browser.named("shed start").await?.click().await?;
    browser.press("d").await?;
    let copy = "wall shed_1 { along (-1m, 0m, -3m)..(4m, 0m, -3m); height 3m }\n";
    let (before, after) = book.split_once("post pile").ok_or("a post")?;
    served.written(&format!("{before}{copy}post pile{after}"))?;
    browser
        .until("return document.querySelector('[aria-label=\"shed_1 start\"]') !== null")
        .await?;
    browser.press(&key(Key::Delete)).await?;
    served.written(&book)?;
    // A light is copied with all of its lines, a meter aside.
    select(&browser, "lantern").await?;
    browser.press("d").await?;
    served.until(|state| {
        state["lights"]
            .as_array()
            .is_some_and(|all| all.iter().any(|one| one["name"] == "lantern_1"))
    })?;
    let text = settled(&served, &browser, 3).await?;
    assert!(
        text.contains(
            "\n\nlight lantern_1 point {\n  position   (2m, 3m, 2m)\n  color      rope\n"
        ),
        "{text}"
    );
    undone(&served, &browser, &book).await?;
    // A new post where the place is clicked.
    browser.ask("const add = document.getElementById('add'); add.value = 'post'; add.dispatchEvent(new Event('change'));").await?;
    browser.ask("const box = document.getElementById('canvas').getBoundingClientRect(); document.getElementById('canvas').dispatchEvent(new MouseEvent('click', { clientX: box.x + 60, clientY: box.y + 40 }))").await?;
    served.until(|state| {
        state["texts"][0]["text"]
            .as_str()
            .is_some_and(|text| text.contains("\npost post_1 { position ("))
    })?;
    plays_the_file(&served)?;
    browser.close().await
}

async fn steps_and_rehearsal_lines_are_dragged_on_their_lanes() -> Done {
    let book = yard();
    let served = Served::start(&book)?;
    let browser = slipway(&served).await?;
    browser.named("Rehearsal").await?.select_by_label("evening").await?;
    browser.until("return document.querySelectorAll('.step').length > 5").await?;
    for (name, keys, from, to) in [
        ("haul step 2 time", Key::Right, "2s      mark", "2.1s    mark"),
        ("haul step 3 time", Key::Left, "+1.5s", "+1.4s"),
        ("haul step 1 end", Key::Right, "0s..1s  lantern", "0s..1.1s  lantern"),
        ("haul step 4 time", Key::PageUp, "6s      return", "7s      return"),
        ("evening line 1 time", Key::Right, "1s   hauled", "1.1s  hauled"),
    ] {
        press(&browser, name, &key(keys)).await?;
        let wanted = caltrin::lang::format(&book.replace(from, to)).map_err(|_| "a book")?;
        assert_ne!(wanted, book, "{name}");
        served.written(&wanted).map_err(|why| format!("{name}: {why:?}"))?;
        plays_the_file(&served)?;
        undone(&served, &browser, &book).await?;
    }
    // In the rehearsal the sequence starts at 1 s, so its third step is seen at 4.5 s of 20 s.
    let place = "const e = document.querySelector('[aria-label=\"haul step 3 time\"]'); return parseFloat(e.style.left)";
    browser.until("return document.querySelector('[aria-label=\"haul step 3 time\"]').style.left.startsWith('22.5')").await?;
    assert_eq!(browser.ask(place).await?, json!(22.5));
    // A drag over a tenth of the lane is two seconds of twenty.
    let wide = browser
        .ask("return document.querySelector('.track').getBoundingClientRect().width")
        .await?;
    browser.drag("haul step 4 time", (wide.as_f64().ok_or("a width")? / 10.0, 0.0)).await?;
    let text = settled(&served, &browser, 1).await?;
    let moved: f64 =
        between(&text, "taut\n  +1.5s   lantern.intensity  100lm\n  ", "s ").parse()?;
    assert!((moved - 8.0).abs() < 0.15, "{moved}");
    undone(&served, &browser, &book).await?;
    // A step goes no farther than its neighbor.
    browser.drag("haul step 2 time", (-wide.as_f64().ok_or("a width")?, 0.0)).await?;
    let text = settled(&served, &browser, 1).await?;
    let told = served.state()?["history"].clone();
    assert_eq!(between(&text, "900lm  smooth\n  ", " "), "0s", "{told}");
    undone(&served, &browser, &book).await?;
    // A span of the ruler repeats.
    browser.press(" ").await?;
    let ruler = "const b = document.getElementById('ruler').getBoundingClientRect(); return [b.x, b.y + b.height / 2, b.width]";
    let [x, y, wide]: [f64; 3] = serde_json::from_value(browser.ask(ruler).await?)?;
    let to = |share: f64| PointerAction::MoveTo {
        duration: Some(Duration::from_millis(40)),
        x: (x + share * wide).round(),
        y: y.round(),
    };
    let shift = |down: bool| {
        let value = char::from(Key::Shift);
        let keys = KeyActions::new("keys".to_owned());
        keys.then(if down { KeyAction::Down { value } } else { KeyAction::Up { value } })
    };
    browser.client.perform_actions(shift(true)).await?;
    let hand = MouseActions::new("hand".to_owned())
        .then(to(0.1))
        .then(PointerAction::Down { button: 0 })
        .then(to(0.12))
        .then(to(0.15))
        .then(PointerAction::Up { button: 0 });
    browser.client.perform_actions(Actions::from(hand)).await?;
    browser.client.perform_actions(shift(false)).await?;
    browser
        .until("return document.getElementById('loop').textContent.startsWith('Repeat 2')")
        .await?;
    browser.press(" ").await?;
    for _ in 0..12 {
        tokio::time::sleep(Duration::from_millis(150)).await;
        let now = browser.ask("return window.caltrin.now").await?.as_f64().ok_or("a moment")?;
        assert!((1.9..=3.1).contains(&now), "{now}");
    }
    browser.press("o").await?;
    browser.until("return document.getElementById('loop').textContent === 'Repeat'").await?;
    browser.close().await
}

/// Taps keys for so long, with so long between them, in milliseconds.
async fn tap(browser: &Browser, times: &[(u64, u64)]) -> Done {
    browser.client.find(Locator::Css("body")).await?;
    let mut keys = KeyActions::new("keys".to_owned());
    for (on, off) in times {
        let pause = |ms: &u64| KeyAction::Pause { duration: Duration::from_millis(*ms) };
        keys = keys
            .then(KeyAction::Down { value: 't' })
            .then(pause(on))
            .then(KeyAction::Up { value: 't' })
            .then(pause(off));
    }
    browser.client.perform_actions(keys).await?;
    Ok(())
}

async fn taps_become_a_rhythm_or_stops() -> Done {
    let book = yard();
    let served = Served::start(&book)?;
    let browser = slipway(&served).await?;
    select(&browser, "lantern").await?;
    tap(&browser, &[(120, 280), (120, 480), (120, 0)]).await?;
    browser.named("Taps").await?;
    let click = |words: &str| {
        format!(
            "[...document.querySelectorAll('.taps button')].find((b) => b.textContent.startsWith('{words}')).click()"
        )
    };
    browser.ask(&click("Multiply the intensity of lantern")).await?;
    let text = settled(&served, &browser, 1).await?;
    let written = between(&text, "intensity  600lm * swell * rhythm(", ")").to_owned();
    assert_eq!(text, book.replace("600lm * swell", &format!("600lm * swell * rhythm({written})")));
    let times: Vec<f64> = written
        .split(", ")
        .filter_map(|part| part.split_once(' ')?.1.strip_suffix("ms")?.parse().ok())
        .collect();
    assert_eq!(times.len(), 6, "{written}");
    // As it was tapped, to what a driver of browsers can keep.
    for (found, wanted) in times.iter().zip([120.0, 280.0, 120.0, 480.0, 120.0]) {
        assert!((found - wanted).abs() < 60.0, "{written}");
    }
    plays_the_file(&served)?;
    undone(&served, &browser, &book).await?;
    // As a curve of its own.
    tap(&browser, &[(100, 300), (100, 0)]).await?;
    browser.named("Taps").await?;
    browser.ask(&click("New curve taps_1")).await?;
    let text = settled(&served, &browser, 1).await?;
    assert!(text.starts_with(&book) && text.contains("\n\ncurve taps_1 {\n  0s"), "{text}");
    plays_the_file(&served)?;
    undone(&served, &browser, &book).await?;
    // As stops of the curve that is open, with the values that it has there.
    browser.press("u").await?;
    browser.named("sag stop 1 level").await?;
    tap(&browser, &[(60, 240), (60, 0)]).await?;
    browser.named("Taps").await?;
    browser.ask(&click("Add 1 stops to sag")).await?;
    let text = settled(&served, &browser, 1).await?;
    let grown: Vec<&str> = text.lines().filter(|line| line.ends_with("100%,  #ffcc88")).collect();
    assert_eq!(grown.len(), 2, "{text}");
    browser.close().await
}

async fn numbers_are_turned_in_the_text() -> Done {
    let served = Served::start(SLIP)?;
    let browser = slipway(&served).await?;
    browser.until("return document.querySelector('.cm-content') !== null").await?;
    // The cursor goes into `600lm` by a search in the editor.
    browser.ask("document.querySelector('.cm-content').focus()").await?;
    let editor = browser.client.active_element().await?;
    editor.send_keys(&format!("{}f", key(Key::Control))).await?;
    browser.until("return document.querySelector('.cm-search input') !== null").await?;
    let field = browser.client.find(Locator::Css(".cm-search input")).await?;
    field.send_keys(&format!("600lm{}{}", key(Key::Enter), key(Key::Escape))).await?;
    browser.ask("document.querySelector('.cm-content').focus()").await?;
    let editor = browser.client.active_element().await?;
    editor.send_keys(&key(Key::Right)).await?;
    let grip = "Turn 600lm";
    assert_eq!(browser.named(grip).await?.attr("role").await?.as_deref(), Some("slider"));
    editor.send_keys(&format!("{}{}", key(Key::Control), key(Key::Up))).await?;
    served.until(|state| {
        state["waiting"] == false && state["history"].as_array().map(Vec::len) == Some(1)
    })?;
    let text = served.text()?;
    let turned = between(&text, "intensity  ", " * swell").to_owned();
    assert_eq!(text, SLIP.replace("600lm", &turned));
    assert_eq!(turned, "602lm");
    undone(&served, &browser, SLIP).await?;
    browser.drag(grip, (60.0, 0.0)).await?;
    let text = settled(&served, &browser, 1).await?;
    let turned = between(&text, "intensity  ", " * swell").to_owned();
    assert_eq!(text, SLIP.replace("600lm", &turned));
    assert!(turned.trim_end_matches("lm").parse::<f64>().is_ok_and(|v| v > 610.0), "{turned}");
    plays_the_file(&served)?;
    browser.close().await
}

async fn stops_are_copied_and_a_curve_is_made_longer() -> Done {
    let book =
        format!("{SLIP}\ncurve calm {{ columns level, tint; 0s 50%, #ffffff; 3s 40%, #ffffff }}\n");
    let book = caltrin::lang::format(&book).map_err(|_| "a book")?;
    let served = Served::start(&book)?;
    let browser = slipway(&served).await?;
    browser.press("u").await?;
    browser.named("sag stop 2 level").await?.click().await?;
    browser.named("Copy to").await?.select_by_label("calm").await?;
    let copied = book.replace("0s 50%, #ffffff; 3s", "0s 50%, #ffffff; 1s 80%, #cc8844 smooth; 3s");
    served.written(&caltrin::lang::format(&copied).map_err(|_| "a book")?)?;
    undone(&served, &browser, &book).await?;
    // A length beyond the last stop is written; back at the last stop it goes.
    press(&browser, "sag length", &key(Key::PageUp)).await?;
    let text = settled(&served, &browser, 1).await?;
    let length = between(&text, "\n  length ", "\n").trim().to_owned();
    assert!(length.trim_end_matches('s').parse::<f64>().is_ok_and(|v| v > 4.0), "{text}");
    browser.until("return ![...document.querySelectorAll('.curve button')].some((b) => b.textContent === 'Close seam')").await?;
    plays_the_file(&served)?;
    press(&browser, "sag length", &key(Key::Home)).await?;
    served.written(&book)?;
    browser.close().await
}

/// What is done by hand is kept as a rehearsal that plays the same, and the movement of an input as a curve.
async fn what_was_done_is_kept_and_plays_the_same() -> Done {
    let book = misty();
    let served = Served::start(&book)?;
    let browser = slipway(&served).await?;
    let slide = |to: f64| {
        format!(
            "const e = document.querySelector('[aria-label=\"mist\"]'); e.value = {to}; e.dispatchEvent(new Event('input'))"
        )
    };
    let click = |of: &str, words: &str| {
        format!(
            "[...document.querySelectorAll('{of} button')].find((b) => b.textContent.startsWith('{words}')).click()"
        )
    };
    browser.press("w").await?;
    tokio::time::sleep(Duration::from_millis(300)).await;
    browser.ask(&click(".events", "hauled")).await?;
    for n in 0..12 {
        browser.ask(&slide(0.3 + 0.05 * f64::from(n))).await?;
        tokio::time::sleep(Duration::from_millis(60)).await;
    }
    browser.press(" ").await?;
    browser.until("return document.body.dataset.drawn === document.body.dataset.good").await?;
    tokio::time::sleep(Duration::from_millis(800)).await;
    let pictures = "return [...document.querySelectorAll('.lane[data-light] canvas')].map((c) => c.toDataURL())";
    let before = browser.ask(pictures).await?;
    browser.press("w").await?;
    browser.named("Keep what was done").await?;
    let shown = browser.named("The rehearsal as it is written").await?.text().await?;
    assert!(shown.contains("s hauled") && shown.contains("mist = 85%"), "{shown}");
    browser.ask(&click(".take", "Keep as rehearsal")).await?;
    let text = settled(&served, &browser, 1).await?;
    let (kept, more) = text.split_once("\n\nrehearsal take_1 {").ok_or("a rehearsal")?;
    assert_eq!(kept.trim_end(), book.trim_end());
    assert!(more.lines().count() > 12, "{text}");
    assert_eq!(caltrin::lang::format(&text).as_deref(), Ok(&*text));
    // Its rehearsal is chosen, and the lanes are what they were, to the pixel.
    browser.until("return document.getElementById('rehearsal').value === 'take_1'").await?;
    browser.until("return document.querySelectorAll('.track.rehearsal .step').length > 12").await?;
    browser.until("return document.body.dataset.drawn === document.body.dataset.good").await?;
    tokio::time::sleep(Duration::from_millis(800)).await;
    assert!(browser.ask(pictures).await? == before, "the lanes differ");
    // What it does in the book is what was done, to the bit.
    let opened = caltrin::read(&text, "pier.caltrin");
    let program = opened.checked.as_ref().ok_or("a good book")?.program().clone();
    let take =
        program.rehearsals().iter().find(|one| one.name == "take_1").ok_or("the rehearsal")?;
    let set: Vec<f64> = take
        .deeds
        .iter()
        .filter_map(|(_, deed)| match deed {
            caltrin::core::program::Deed::Set(
                _,
                _,
                caltrin::core::program::Constant::Scalar(v),
            ) => Some(*v),
            _ => None,
        })
        .collect();
    let wanted: Vec<f64> = (0..12).map(|n| f64::from(30 + 5 * n) / 100.0).collect();
    assert_eq!(set, wanted);
    // An expectation is taken from what the lane shows.
    select(&browser, "lantern").await?;
    browser.press(&key(Key::Home)).await?;
    tokio::time::sleep(Duration::from_millis(200)).await;
    browser.press("x").await?;
    let expected = served.until(|state| {
        state["history"][0]["words"]
            .as_str()
            .is_some_and(|words| words.starts_with("take_1: expect lantern.intensity above"))
    })?;
    served.until(|state| state["waiting"] == false)?;
    let words =
        expected["history"][0]["words"].as_str().unwrap_or_default().replacen("take_1: ", "", 1);
    assert!(
        served.text()?.contains(&format!("  0s      {words}\n")) || served.text()?.contains(&words),
        "{words}"
    );
    // The movement as a curve, with fewer stops where more may differ.
    browser.ask("document.getElementById('forget').click()").await?;
    browser.press("w").await?;
    for n in 0..10 {
        browser.ask(&slide(0.3 + 0.04 * f64::from(n % 5))).await?;
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    browser.press("w").await?;
    browser.named("Tolerance of mist").await?;
    browser.ask(&click(".take", "Keep as a curve of")).await?;
    served.until(|state| {
        state["curves"]
            .as_array()
            .is_some_and(|all| all.iter().any(|one| one["name"] == "mist_moved_1"))
    })?;
    browser.named("mist_moved_1 stop 1 level").await?;
    browser.close().await
}

/// What a variant shows is what comes of writing it, to the bit; nothing is written by showing it.
fn variants_are_what_comes_of_choosing_them() -> Done {
    use caltrin::core::Run;
    use caltrin::core::quantity::{Seconds, Seed};
    let book = SLIP.replace("600lm * swell", "600lm * held(20%..100%, every 80ms..300ms)");
    let served = Served::start(&book)?;
    served.until(|state| !state["good"].is_null())?;
    let (key, hash) = (served.key()?, page::slipway::hash(&served)?);
    let variants = json!([
        [{ "seed": { "of": "lantern", "to": 77 } }],
        [{ "number": { "at": page::slipway::at(&book, "600lm"), "to": 640.0 } }],
        [{ "use": { "file": "stock" } }, { "times": { "of": "lantern", "word": "intensity", "by": "gas_mantle()" } }],
        [{ "times": { "of": "lantern", "word": "intensity", "by": "none_such()" } }],
        [{ "number": { "at": [0, 2], "to": 1.0 } }],
    ]);
    let body = json!({ "file": "pier.caltrin", "hash": hash, "of": "lantern", "seed": 9, "rehearsal": null, "from": 3.0, "to": 9.0, "variants": variants });
    let address = format!("{}/try", served.address);
    assert_eq!(page::post(&address, &[], &body)?.0, 403);
    let (status, told) = page::post(&address, &[("x-caltrin-key", &key)], &body)?;
    assert_eq!(status, 200, "{told}");
    assert_eq!(served.text()?, book);
    for n in [3, 4] {
        assert!(told["variants"][n]["why"].as_str().is_some_and(|why| !why.is_empty()), "{told}");
    }
    for n in 0..3 {
        let (status, made) = page::slipway::edit(&served, &key, &hash, variants[n].clone())?;
        assert_eq!(status, 200, "{made}");
        served.until(|state| state["waiting"] == false)?;
        let text = served.text()?;
        assert_ne!(text, book);
        let opened = caltrin::read(&text, "pier.caltrin");
        let checked = opened.checked.as_ref().ok_or("a good book")?;
        let id = checked.program().light_named("lantern").ok_or("the light")?;
        let mut run = Run::with_seed(checked, Seed(9));
        let mut lamp = vec![0.0; run.width(id)];
        let levels: Vec<f32> = serde_json::from_value(told["variants"][n]["level"].clone())?;
        assert_eq!(levels.len(), 240);
        for (k, level) in levels.iter().enumerate() {
            run.advance(Seconds(3.0 + (k as f64 + 0.5) / 240.0 * 6.0));
            run.read(id, 0, &mut lamp);
            assert_eq!(lamp[0].to_bits(), level.to_bits(), "variant {n}, column {k}");
        }
        page::post(&format!("{}/undo", served.address), &[("x-caltrin-key", &key)], &json!({}))?;
        served.written(&book)?;
    }
    // Those for another text are refused.
    let stale = json!({ "file": "pier.caltrin", "hash": "0".repeat(32), "of": "lantern", "seed": 9, "rehearsal": null, "from": 0.0, "to": 1.0, "variants": [] });
    assert_eq!(page::post(&address, &[("x-caltrin-key", &key)], &stale)?.0, 409);
    Ok(())
}

async fn a_variant_is_chosen_by_pointer_and_by_keys() -> Done {
    let book = SLIP.replace("600lm * swell", "600lm * held(20%..100%, every 80ms..300ms)");
    let served = Served::start(&book)?;
    let browser = slipway(&served).await?;
    select(&browser, "lantern").await?;
    browser.named("lantern intensity").await?;
    browser.press("y").await?;
    browser.named("Other random seeds of lantern").await?;
    browser
        .until("return document.querySelectorAll('.card button:not(:disabled)').length === 6")
        .await?;
    let first = "return document.querySelector('.card button').getAttribute('aria-label')";
    let label = browser.ask(first).await?.as_str().unwrap_or_default().to_owned();
    browser.named(&label).await?.send_keys(&key(Key::Enter)).await?;
    let seed = label.strip_prefix("Choose seed ").ok_or("a seed")?;
    let line = "  intensity  600lm * held(20%..100%, every 80ms..300ms)\n";
    served
        .written(&book.replace(line, &format!("{line}  seed       {seed}\n")))
        .or_else(|_| served.written(&book.replace(line, &format!("{line}  seed {seed}\n"))))?;
    plays_the_file(&served)?;
    undone(&served, &browser, &book).await?;
    // Neighbors of its numbers, with the pointer.
    browser.ask("[...document.querySelectorAll('.feeds button')].find((b) => b.textContent === 'Vary').click()").await?;
    browser.named("Neighbors of its numbers of lantern").await?;
    browser
        .until("return document.querySelectorAll('.card button:not(:disabled)').length === 6")
        .await?;
    let label = browser.ask(first).await?.as_str().unwrap_or_default().to_owned();
    browser.named(&label).await?.click().await?;
    let text = settled(&served, &browser, 1).await?;
    let differs = page::difference(&book, &text);
    assert!(differs.contains("held(") && text.lines().count() == book.lines().count(), "{differs}");
    undone(&served, &browser, &book).await?;
    // And the stock, which the book then uses.
    browser.ask("[...document.querySelectorAll('.feeds button')].find((b) => b.textContent === 'Stock').click()").await?;
    browser
        .until("return document.querySelectorAll('.card button:not(:disabled)').length > 8")
        .await?;
    browser.named("Choose gas_mantle()").await?.click().await?;
    let text = settled(&served, &browser, 1).await?;
    assert!(
        text.contains("\nuse \"stock\"\n") && text.contains("every 80ms..300ms) * gas_mantle()\n"),
        "{text}"
    );
    plays_the_file(&served)?;
    browser.close().await
}

/// A controller moves sliders and fires events, however fast its messages come.
async fn a_midi_controller_moves_sliders_and_fires_events() -> Done {
    let book = misty();
    let served = Served::start(&book)?;
    let browser = slipway(&served).await?;
    // A browser in a test has no controller, so one is put in its place.
    browser.ask("window.port = { name: 'Box', onmidimessage: null };\
                 Object.defineProperty(navigator, 'requestMIDIAccess', { value: async () => ({ inputs: new Map([['a', window.port]]), onstatechange: null }) });\
                 window.send = (...data) => window.port.onmidimessage({ data: new Uint8Array(data) }); return 1").await?;
    browser.press(&format!("{}k", key(Key::Control))).await?;
    browser
        .named("Search commands")
        .await?
        .send_keys(&format!("connect a midi{}", key(Key::Enter)))
        .await?;
    browser
        .until("return document.getElementById('status').textContent.startsWith('connected: Box')")
        .await?;
    // What has the focus is bound; a flood of messages leaves the last of them.
    let flood = "document.querySelector('[aria-label=\"mist\"]').focus(); for (let n = 0; n < 5000; ++n) window.send(0xb0, 7, n % 128); window.send(0xb0, 7, 127); return 1";
    browser.ask(flood).await?;
    browser.until("return document.querySelector('[aria-label=\"mist\"]').value === '1'").await?;
    browser.ask("[...document.querySelectorAll('.events button')].find((b) => b.textContent === 'hauled').focus(); window.send(0x90, 36, 90); return 1").await?;
    // Bound once, it works without the focus; what is broken or unknown does nothing.
    browser.ask("document.activeElement.blur(); window.send(0xb0, 7, 0); window.send(0xb0, 9, 40); window.send(0xff); window.send(); return 1").await?;
    browser.until("return document.querySelector('[aria-label=\"mist\"]').value === '0'").await?;
    browser.press("k").await?;
    let shown = browser.named("The rehearsal as it is written").await?.text().await?;
    assert!(shown.contains("hauled") && shown.contains("mist = 0%"), "{shown}");
    browser.close().await
}

/// A color is taken from the screen, a lamp snaps to the line of another, and a click with Alt expects what a lane shows.
async fn screen_colors_lines_and_alt_clicks_write_what_is_meant() -> Done {
    let book = yard();
    let served = Served::start(&book)?;
    let browser = slipway(&served).await?;
    browser.press(" ").await?;
    // In headless browsers nobody can point at a color.
    browser.ask("window.EyeDropper = class { open() { return Promise.resolve({ sRGBHex: '#4080C0' }); } }").await?;
    select(&browser, "lantern").await?;
    browser.named("lantern color rope: #c8a878").await?.click().await?;
    let take = "return [...document.querySelectorAll('button')].find((b) => b.textContent === 'Take from the screen') !== undefined";
    browser.until(take).await?;
    browser.ask("[...document.querySelectorAll('button')].find((b) => b.textContent === 'Take from the screen').click()").await?;
    served.written(&book.replace("color rope = #c8a878", "color rope = #4080c0"))?;
    undone(&served, &browser, &book).await?;

    // Dragged to within a few pixels of the line of the cradle, the lantern lands on it; with Alt it does not.
    browser.named("Grid of the place").await?.select_by_label("off").await?;
    let ([x, y], [wanted, _]) =
        (browser.middle("lantern position").await?, browser.middle("cradle position").await?);
    browser.drag("lantern position", (wanted - x - 3.0, 20.0)).await?;
    let text = settled(&served, &browser, 1).await?;
    let moved = between(&text, "position   (", ")").to_owned();
    assert!(moved.starts_with("4m, 3m, ") && !moved.ends_with(" 2m"), "{moved} from {x}, {y}");
    undone(&served, &browser, &book).await?;
    // The key is down until the pointer is up, however many events come in one frame.
    browser.ask("for (const kind of ['pointermove', 'pointerup']) addEventListener(kind, (event) => Object.defineProperty(event, 'altKey', { value: true }), true)").await?;
    // Near enough to snap, and further away than half a step of what a drag writes.
    browser.drag("lantern position", (wanted - x - 5.0, 20.0)).await?;
    let text = settled(&served, &browser, 1).await?;
    let free = between(&text, "position   (", "m, ").to_owned();
    let free: f64 = free.parse()?;
    assert!((free - 4.0).abs() < 0.5 && free != 4.0, "{free} from {x}, {wanted}");
    undone(&served, &browser, &book).await?;

    // Without a rehearsal there is nothing to expect in.
    let click = "const c = document.querySelector('.lane[data-light=lantern] canvas'); const b = c.getBoundingClientRect(); \
                 c.dispatchEvent(new PointerEvent('pointerdown', { clientX: b.x + b.width * 0.25, clientY: b.y + 9, altKey: true, bubbles: true, button: 0 }))";
    browser.ask(click).await?;
    browser.until("return document.getElementById('status').textContent.startsWith('choose a rehearsal first')").await?;
    browser.named("Rehearsal").await?.select_by_label("evening").await?;
    browser.until("return document.body.dataset.drawn === document.body.dataset.good").await?;
    tokio::time::sleep(Duration::from_millis(300)).await;
    browser.ask(click).await?;
    // A quarter of twenty seconds.
    let state = served.until(|state| {
        state["history"][0]["words"]
            .as_str()
            .is_some_and(|words| words.starts_with("evening: expect lantern.intensity"))
    })?;
    let words =
        state["history"][0]["words"].as_str().unwrap_or_default().replacen("evening: ", "", 1);
    let text = settled(&served, &browser, 1).await?;
    let line = text.lines().find(|line| line.ends_with(&words)).ok_or("the line is written")?;
    let at: f64 = line.trim().split('s').next().unwrap_or_default().parse()?;
    assert!((at - 5.0).abs() < 0.1, "{line}");
    // What is expected holds.
    let output = std::process::Command::new(env!("CARGO_BIN_EXE_caltrin"))
        .args(["rehearse", "pier.caltrin", "evening"])
        .current_dir(served.folder.path())
        .output()?;
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stdout));
    browser.close().await
}

/// A stays as it was kept, while B goes on; going back to it is a change like any other.
async fn a_version_is_kept_beside_the_one_that_is_edited() -> Done {
    let book = SLIP.replace("600lm * swell", "600lm");
    let served = Served::start(&book)?;
    let browser = slipway(&served).await?;
    select(&browser, "lantern").await?;
    browser.named("lantern intensity").await?;
    browser.press("q").await?;
    browser.until("return document.getElementById('keep-a').textContent === 'Let A go'").await?;
    press(&browser, "lantern intensity", &key(Key::PageUp)).await?;
    let text = settled(&served, &browser, 1).await?;
    let now = between(&text, "intensity  ", "lm").to_owned();
    assert!(now != "600" && !now.is_empty(), "{text}");
    // A lane tells both levels under the pointer.
    browser.until("return document.body.dataset.drawn === document.body.dataset.good").await?;
    let point = "const lane = document.querySelector('.lane[data-light=lantern] canvas').getBoundingClientRect();\
                 document.getElementById('sheet').dispatchEvent(new PointerEvent('pointermove', { clientX: lane.x + lane.width / 3, clientY: lane.y + 5 }));\
                 return document.querySelector('.lane[data-light=lantern] output').textContent";
    let tints = |told: &str| {
        told.split("\nA ")
            .map(|part| part.split(' ').next().unwrap_or_default().parse().unwrap_or(f64::NAN))
            .collect::<Vec<f64>>()
    };
    // The lane may be drawn again first.
    browser.until(&format!("return (() => {{ {point} }})() !== ''")).await?;
    let told = browser.ask(point).await?;
    let levels = tints(told.as_str().unwrap_or_default());
    let wanted: f64 = now.parse()?;
    assert_eq!(levels.len(), 2, "{told}");
    // The color is not full white, so both are dimmed alike.
    assert!((levels[0] / levels[1] - wanted / 600.0).abs() < 0.01, "{told} {now}");
    // The place shows one or the other.
    let picture = "const a = document.getElementById('canvas-a'); return (a.hidden ? document.getElementById('canvas') : a).toDataURL()";
    browser.press(" ").await?;
    tokio::time::sleep(Duration::from_millis(300)).await;
    let b = browser.ask(picture).await?;
    browser.press("f").await?;
    browser.until("return document.getElementById('flick').textContent === 'Shows A'").await?;
    tokio::time::sleep(Duration::from_millis(300)).await;
    assert!(browser.ask(picture).await? != b, "A is darker");
    browser.press("f").await?;
    tokio::time::sleep(Duration::from_millis(300)).await;
    assert!(browser.ask(picture).await? == b, "B as before");
    browser.client.find(Locator::Id("back-a")).await?.click().await?;
    served.written(&book)?;
    browser.until("return document.getElementById('back-a').disabled").await?;
    undone(&served, &browser, &text).await?;
    browser.press("q").await?;
    browser.until("return document.getElementById('flick').hidden").await?;
    plays_the_file(&served)?;
    browser.close().await
}

/// Where no book is named those of the folder are listed; the one that is chosen, or made, is shown at the same address.
async fn a_book_is_chosen_or_made_on_the_first_page() -> Done {
    let folder = tempfile::tempdir()?;
    std::fs::write(folder.path().join("slip.caltrin"), SLIP)?;
    std::fs::create_dir(folder.path().join("parts"))?;
    std::fs::write(folder.path().join("parts/<b>.caltrin"), "lightbook \"<i>Odd</i> & small\"\n")?;
    let served = Served::told(folder, &["--port", "0", "--no-open"])?;
    let page = get(&served.address)?.1;
    assert!(page.contains("value=\"slip.caltrin\"") && page.contains("Slipway"), "{page}");
    assert!(
        page.contains("parts/&lt;b&gt;.caltrin")
            && page.contains("&lt;i&gt;Odd&lt;/i&gt; &amp; small")
    );
    assert_eq!(request(&served.address, Some("evil.example"))?.0, 403);
    let browser = Browser::open(1280, 800, true).await?;
    browser.client.goto(&served.address).await?;
    // A name that cannot be one says why, and the list stays.
    browser.ask("document.querySelector('[name=name]').removeAttribute('pattern'); document.querySelector('[name=name]').value = 'a \"b\"'; document.querySelector('section button').click()").await?;
    browser.until("return document.querySelector('[role=alert]')?.textContent.includes('quotes') === true").await?;
    let name = browser.client.find(Locator::Css("[name=name]")).await?;
    name.send_keys(&format!("Boat house{}", key(Key::Enter))).await?;
    browser.until("return document.body.dataset.drawn !== undefined").await?;
    assert_eq!(browser.client.title().await?, "Boat house - Caltrin");
    let made = std::fs::read_to_string(served.folder.path().join("boat_house.caltrin"))?;
    assert!(made.starts_with("lightbook \"Boat house\""), "{made}");
    // From now on the address is that of the book.
    assert_eq!(served.state()?["name"], "Boat house");
    select(&browser, "lantern").await?;
    press(&browser, "lantern position", &key(Key::Right)).await?;
    served.until(|state| state["waiting"] == false && state["undo"] == true)?;
    let moved = std::fs::read_to_string(served.folder.path().join("boat_house.caltrin"))?;
    assert_eq!(moved, made.replace("(0m, 2m, 0m)", "(0.1m, 2m, 0m)"));
    browser.close().await
}

/// What somebody does who sees the page for the first time, without typing a number: three lamps, colors, a loop that is
/// drawn and closed, a second lamp in step with it, and a switch that an event turns.
async fn a_first_place_is_made_by_hand_alone() -> Done {
    let served = Served::told(tempfile::tempdir()?, &["--port", "0", "--no-open"])?;
    let browser = Browser::open(1280, 800, true).await?;
    browser.client.goto(&served.address).await?;
    let name = browser.client.find(Locator::Css("[name=name]")).await?;
    name.send_keys(&format!("Ropewalk{}", key(Key::Enter))).await?;
    browser.until("return document.body.dataset.drawn !== undefined").await?;
    // Hints are there on a first visit, three at most, and go when they are closed.
    let hints = "return document.querySelectorAll('.hint').length";
    assert_eq!(browser.ask(hints).await?, json!(3));
    let has = |light: &'static str| {
        move |state: &Value| {
            state["lights"].as_array().is_some_and(|all| all.iter().any(|one| one["name"] == light))
        }
    };
    for (light, x, y) in [("lamp_1", 0.25, 0.3), ("lamp_2", 0.7, 0.35)] {
        browser.named("Add a light").await?.select_by_label("point").await?;
        let canvas = "const b = document.getElementById('canvas').getBoundingClientRect(); return [b.x, b.y, b.width, b.height]";
        let [left, top, wide, tall]: [f64; 4] = serde_json::from_value(browser.ask(canvas).await?)?;
        let at = PointerAction::MoveTo {
            duration: None,
            x: (left + x * wide).round(),
            y: (top + y * tall).round(),
        };
        let hand = MouseActions::new("hand".to_owned())
            .then(at)
            .then(PointerAction::Down { button: 0 })
            .then(PointerAction::Up { button: 0 });
        browser.client.perform_actions(hand).await?;
        served.until(has(light))?;
        browser.named(&format!("{light} intensity")).await?;
    }
    // The color of what was placed last, by its sliders.
    browser
        .named("lamp_2 color: 2700K")
        .await
        .or(browser.named("lamp_2 color").await)?
        .click()
        .await?;
    browser
        .ask("document.querySelector('.picker input[type=range][aria-label$=hue]').focus()")
        .await?;
    browser.client.active_element().await?.send_keys(&key(Key::Right)).await?;
    served.until(|state| state["history"].as_array().map(Vec::len) == Some(3))?;
    // A loop for the first lamp: drawn, kept, closed.
    browser.named("lamp_1 position").await?.click().await?;
    browser.named("lamp_1 intensity").await?;
    let click = |of: &str, words: &str| {
        format!(
            "[...document.querySelectorAll('{of} button')].find((b) => b.textContent.startsWith('{words}')).click()"
        )
    };
    browser.ask(&click(".feeds", "Add loop")).await?;
    browser.named("Stops of flicker_1").await?;
    browser.ask(&click(".curve", "Draw")).await?;
    let svg = "const b = document.querySelector('.drawing svg').getBoundingClientRect(); return [b.x, b.y, b.width, b.height]";
    let [left, top, wide, tall]: [f64; 4] = serde_json::from_value(browser.ask(svg).await?)?;
    let mut hand = MouseActions::new("hand".to_owned());
    for n in 0..=20 {
        let share = f64::from(n) / 20.0;
        let high = 0.45 + 0.25 * (share * 9.0).sin();
        let at = PointerAction::MoveTo {
            duration: Some(Duration::from_millis(20)),
            x: (left + (0.15 + 0.75 * share) * wide).round(),
            y: (top + high * tall).round(),
        };
        hand = hand.then(at);
        if n == 0 {
            hand = hand.then(PointerAction::Down { button: 0 });
        }
    }
    browser.client.perform_actions(hand.then(PointerAction::Up { button: 0 })).await?;
    browser.ask(&click(".curve", "Keep")).await?;
    browser.until("return [...document.querySelectorAll('.curve button')].some((b) => b.textContent === 'Close seam')").await?;
    browser.ask(&click(".curve", "Close seam")).await?;
    browser.until("return ![...document.querySelectorAll('.curve button')].some((b) => b.textContent === 'Close seam')").await?;
    // The second is in step with it, the third has a switch.
    browser.named("lamp_2 position").await?.click().await?;
    browser.named("lamp_2 in step with").await?.select_by_label("loop of flicker_1").await?;
    served.until(|state| {
        state["texts"][0]["text"]
            .as_str()
            .is_some_and(|text| text.matches("* loop(flicker_1)").count() == 2)
    })?;
    browser.named("lantern position").await?.click().await?;
    browser.named("lantern intensity").await?;
    browser.ask(&click(".feeds", "Add switch")).await?;
    browser.until("return [...document.querySelectorAll('.events button')].some((b) => b.textContent === 'switch_1_off')").await?;
    let state = served.until(|state| state["waiting"] == false && state["errors"] == 0)?;
    assert_eq!(state["lights"].as_array().map(Vec::len), Some(3));
    let text = std::fs::read_to_string(served.folder.path().join("ropewalk.caltrin"))?;
    assert_eq!(caltrin::lang::format(&text).as_deref(), Ok(&*text));
    let opened = caltrin::read(&text, "ropewalk.caltrin");
    let checked = opened.checked.as_ref().ok_or("the book is good")?;
    let program = checked.program();
    let light = |name: &str| {
        program.lights().find(|(_, light)| light.name == name).map(|(id, _)| id).ok_or("a light")
    };
    let (one, two, lantern) = (light("lamp_1")?, light("lamp_2")?, light("lantern")?);
    let mut run = caltrin::core::Run::new(checked);
    let level = |run: &mut caltrin::core::Run<'_>, id| {
        let mut lamp = vec![0.0; run.width(id)];
        run.read(id, 0, &mut lamp);
        lamp[0]
    };
    // In step at every moment, and moving.
    let mut seen = Vec::new();
    for n in 0..60 {
        run.advance(caltrin::core::quantity::Seconds(f64::from(n) * 0.1));
        let (a, b) = (level(&mut run, one), level(&mut run, two));
        assert!((a - b).abs() <= 1e-3 * a.abs().max(b.abs()) || a * b > 0.0, "{a} {b}");
        seen.push(a);
    }
    assert!(seen.iter().any(|v| (v - seen[0]).abs() > 1.0), "{seen:?}");
    let off = program.events().find(|(_, event)| event.name == "switch_1_off").ok_or("an event")?.0;
    assert!(level(&mut run, lantern) > 0.0);
    run.fire(off);
    run.advance(caltrin::core::quantity::Seconds(7.0));
    assert!(level(&mut run, lantern) == 0.0);
    // The same on the page: the lamp goes dark when the event is fired there.
    browser.ask(&click(".events", "switch_1_off")).await?;
    browser.ask(&click(".hint", "Got it")).await?;
    assert!(browser.ask(hints).await?.as_u64().is_some_and(|left| left < 3));
    browser.client.refresh().await?;
    browser.until("return document.body.dataset.drawn !== undefined").await?;
    assert!(browser.ask(hints).await?.as_u64().is_some_and(|left| left < 3));
    browser.close().await
}

/// From a terminal with a screen the page is opened in the browser, unless that is not wanted.
#[cfg(target_os = "linux")]
fn the_page_is_opened_from_a_terminal() -> Done {
    use std::os::unix::fs::PermissionsExt;
    use std::os::unix::process::CommandExt;
    use std::process::{Command, Stdio};
    let folder = tempfile::tempdir()?;
    let at = |name: &str| folder.path().join(name);
    std::fs::write(at("slip.caltrin"), SLIP)?;
    std::fs::create_dir(at("bin"))?;
    std::fs::write(at("bin/xdg-open"), "#!/bin/sh\nprintf %s \"$1\" > opened\n")?;
    std::fs::set_permissions(at("bin/xdg-open"), std::fs::Permissions::from_mode(0o755))?;
    let path = format!("{}:{}", at("bin").display(), std::env::var("PATH")?);
    for (more, screen, opens) in
        [("", Some(":99"), true), (" --no-open", Some(":99"), false), ("", None, false)]
    {
        let _ = std::fs::remove_file(at("opened"));
        let command =
            format!("'{}' live slip.caltrin --port 0{more}", env!("CARGO_BIN_EXE_caltrin"));
        let mut terminal = Command::new("script");
        terminal
            .args(["-qefc", &command, "told"])
            .current_dir(folder.path())
            .env("PATH", &path)
            .env("XDG_STATE_HOME", at("state"))
            .env_remove("WAYLAND_DISPLAY")
            .env_remove("DISPLAY")
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .process_group(0);
        if let Some(screen) = screen {
            terminal.env("DISPLAY", screen);
        }
        let mut terminal = terminal.spawn()?;
        let start = std::time::Instant::now();
        let told = || std::fs::read_to_string(at("told")).unwrap_or_default();
        while !told().contains("Ctrl-C ends") && start.elapsed() < Duration::from_secs(10) {
            std::thread::sleep(Duration::from_millis(20));
        }
        std::thread::sleep(Duration::from_millis(700));
        let opened = std::fs::read_to_string(at("opened")).ok();
        let _ = terminal.kill();
        let _ = terminal.wait();
        let told = told();
        assert!(told.contains("Ctrl-C ends"), "{told}");
        let address = told.split_whitespace().find(|word| word.starts_with("http://"));
        assert_eq!(opened.as_deref(), address.filter(|_| opens), "{command} {told}");
        std::fs::remove_file(at("told"))?;
    }
    Ok(())
}

/// Without the page's key nothing is opened or made.
fn the_list_of_books_needs_its_key() -> Done {
    let folder = tempfile::tempdir()?;
    std::fs::write(folder.path().join("slip.caltrin"), SLIP)?;
    let served = Served::told(folder, &["--port", "0", "--read-only"])?;
    let page = get(&served.address)?.1;
    let own = between(&page, "name=\"key\" value=\"", "\"").to_owned();
    assert!(own.len() == 32 && !page.contains("action=\"/new\""), "{page}");
    let agent: ureq::Agent =
        ureq::Agent::config_builder().http_status_as_error(false).build().into();
    let ask = |path: &str, form: &[(&str, &str)]| -> Checked<(u16, String)> {
        let mut answer =
            agent.post(format!("{}{path}", served.address)).send_form(form.iter().copied())?;
        Ok((answer.status().as_u16(), answer.body_mut().read_to_string()?))
    };
    let wrong = "0".repeat(32);
    for (path, key, file) in [
        ("/open", wrong.as_str(), "slip.caltrin"),
        ("/open", &own[1..], "slip.caltrin"),
        ("/new", &own, "slip.caltrin"),
    ] {
        assert_eq!(
            ask(path, &[("key", key), ("file", file), ("name", "X")])?.0,
            403,
            "{path} {key}"
        );
    }
    for file in ["../slip.caltrin", "/etc/hostname", "other.caltrin", ""] {
        let (status, page) = ask("/open", &[("key", &own), ("file", file)])?;
        assert!(status == 422 && page.contains("is not in this folder any more"), "{file} {page}");
    }
    // The right one leads to the book, which cannot be changed then.
    assert!(ask("/open", &[("key", &own), ("file", "slip.caltrin")])?.1.contains("caltrin-key"));
    let state = served.until(|state| state["name"] == "Slipway")?;
    assert_eq!(state["readOnly"], json!(true));
    Ok(())
}

/// A page that has a text is not sent it again; one that connects is sent all.
fn what_a_page_has_is_not_sent_again() -> Done {
    use std::io::{BufRead, BufReader};
    let served = Served::start(SLIP)?;
    served.until(|state| !state["good"].is_null())?;
    let patience = Some(Duration::from_secs(20));
    let agent: ureq::Agent = ureq::Agent::config_builder().timeout_global(patience).build().into();
    let mut answer = agent.get(format!("{}/events", served.address)).call()?;
    let mut lines = BufReader::new(answer.body_mut().as_reader()).lines();
    let mut next = || -> Checked<Value> {
        for line in lines.by_ref() {
            if let Some(data) = line?.strip_prefix("data:") {
                return Ok(serde_json::from_str(data.trim())?);
            }
        }
        Err(Failed::from("the stream ended"))
    };
    let first = next()?;
    assert!(first["texts"][0]["text"] == SLIP && first["lights"].is_array());
    let wrong = SLIP.replace("starts off", "starts of");
    page::save(&served.book(), &wrong)?;
    let second = next()?;
    assert!(second["texts"][0]["text"] == wrong.as_str() && second["lights"].is_null(), "{second}");
    // When a change is written, the text is as it was when it was made.
    let at = page::slipway::at(&wrong, "600lm");
    let ops = json!([{ "number": { "at": at, "to": 700.0 } }]);
    let hash = second["texts"][0]["hash"].clone();
    assert_eq!(page::slipway::edit(&served, &served.key()?, &hash, ops)?.0, 200);
    let made = next()?;
    assert_eq!(made["texts"][0]["text"], wrong.replace("600lm", "700lm"));
    let mut last = made.clone();
    while last["waiting"] == true {
        last = next()?;
        assert_eq!(last["texts"][0]["hash"], made["texts"][0]["hash"]);
        assert!(last["texts"][0]["text"].is_null(), "{last}");
    }
    Ok(())
}

fn main() {
    let arguments = Arguments::from_args();
    let mut trials = vec![
        #[cfg(target_os = "linux")]
        libtest_mimic::Trial::test(
            "the_page_is_opened_from_a_terminal",
            the_page_is_opened_from_a_terminal,
        ),
        libtest_mimic::Trial::test(
            "the_list_of_books_needs_its_key",
            the_list_of_books_needs_its_key,
        ),
        libtest_mimic::Trial::test(
            "what_a_page_has_is_not_sent_again",
            what_a_page_has_is_not_sent_again,
        ),
        libtest_mimic::Trial::test(
            "variants_are_what_comes_of_choosing_them",
            variants_are_what_comes_of_choosing_them,
        ),
    ];
    in_browser!(trials:
        reach_cone_aim_and_height_follow_the_hand,
        walls_and_posts_are_moved_made_copied_and_removed,
        steps_and_rehearsal_lines_are_dragged_on_their_lanes,
        taps_become_a_rhythm_or_stops,
        numbers_are_turned_in_the_text,
        stops_are_copied_and_a_curve_is_made_longer,
        what_was_done_is_kept_and_plays_the_same,
        a_variant_is_chosen_by_pointer_and_by_keys,
        a_version_is_kept_beside_the_one_that_is_edited,
        screen_colors_lines_and_alt_clicks_write_what_is_meant,
        a_midi_controller_moves_sliders_and_fires_events,
        a_book_is_chosen_or_made_on_the_first_page,
        a_first_place_is_made_by_hand_alone,
    );
    libtest_mimic::run(&arguments, trials).exit();
}
