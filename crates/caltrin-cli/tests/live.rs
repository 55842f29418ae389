//! The live page: what the server gives and refuses, and the page itself in a real browser, driven by
//! WebDriver; shown as ignored where there is no browser.

#[macro_use]
#[allow(dead_code, reason = "each uses some of it")]
mod page;

use std::fs;
use std::net::TcpListener;
use std::process::Command;
use std::time::Duration;

use fantoccini::actions::{InputSource, MouseActions, PointerAction};
use fantoccini::key::Key;
use libtest_mimic::{Arguments, Trial};
use page::{Browser, Done, Served, get, request, save};
use serde_json::{Value, json};

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");

fn only_this_machine_and_only_the_page_is_served() -> Done {
    let served = Served::start(PIER)?;
    let port = served.address.rsplit(':').next().unwrap_or_default().to_owned();
    for path in ["/", "/page.css", "/page.mjs", "/book.mjs", "/state.json", "/versions.json"] {
        assert_eq!(get(&format!("{}{path}", served.address))?.0, 200, "{path}");
    }
    for path in [
        "/pier.caltrin",
        "/../pier.caltrin",
        "/%2e%2e/pier.caltrin",
        "/page.mjs/..",
        "//etc/passwd",
    ] {
        assert_eq!(get(&format!("{}{path}", served.address))?.0, 404, "{path}");
    }
    let elsewhere = [
        "evil.example".to_owned(),
        format!("evil.example:{port}"),
        "127.0.0.1".to_owned(),
        format!("127.0.0.1.evil.example:{port}"),
    ];
    for host in elsewhere {
        let (status, text) = request(&format!("{}/state.json", served.address), Some(&host))?;
        assert_eq!((status, text.contains("mast")), (403, false), "{host}");
    }
    let local = format!("localhost:{port}");
    assert_eq!(request(&format!("{}/state.json", served.address), Some(&local))?.0, 200);
    // Nobody listens on the machine's other addresses.
    assert!(TcpListener::bind(format!("127.0.0.2:{port}")).is_ok());
    Ok(())
}

/// What lies in the place of a sound is looked at when it is asked for, and not only when the book is read.
#[cfg(unix)]
fn a_sound_that_is_exchanged_is_not_served() -> Done {
    let served = Served::start(PIER)?;
    let secret = tempfile::NamedTempFile::new()?;
    fs::write(secret.path(), "secret")?;
    let state = served.state()?;
    let sounds = state["sounds"].as_array().ok_or("sounds")?;
    let horn = sounds.iter().find(|sound| sound["name"] == "horn").ok_or("the horn")?;
    let address = format!("{}{}", served.address, horn["file"].as_str().ok_or("its file")?);
    // Its bytes are no text.
    let status = |address: &str| -> Result<u16, libtest_mimic::Failed> {
        let agent: ureq::Agent =
            ureq::Agent::config_builder().http_status_as_error(false).build().into();
        Ok(agent.get(address).call()?.status().as_u16())
    };
    assert_eq!(status(&address)?, 200);
    let file = served.folder.path().join("sounds/horn.wav");
    fs::remove_file(&file)?;
    std::os::unix::fs::symlink(secret.path(), &file)?;
    assert_eq!(status(&address)?, 404);
    fs::remove_file(&file)?;
    assert!(Command::new("mkfifo").arg(&file).status()?.success());
    assert_eq!(status(&address)?, 404);
    Ok(())
}

fn the_module_is_the_exported_one() -> Done {
    let both = |book: &str| -> Result<[String; 2], libtest_mimic::Failed> {
        let served = Served::start(book)?;
        let module = get(&format!("{}/book.mjs", served.address))?.1;
        let made = Command::new(env!("CARGO_BIN_EXE_caltrin"))
            .args(["export", "pier.caltrin", "--to", "js", "-o", "out"])
            .current_dir(served.folder.path())
            .output()?;
        assert!(made.status.success());
        let file = fs::read_dir(served.folder.path().join("out"))?.next().ok_or("a file")??;
        Ok([module, fs::read_to_string(file.path())?])
    };
    // What comes before its self-test, which tries nothing here, is the same to the byte.
    let tested = "/** Adds a value to a checksum.";
    let [module, exported] = both(include_str!("../../caltrin/books/siding.caltrin"))?
        .map(|text| text.split(tested).next().unwrap_or_default().to_owned());
    assert!(module.len() > 2000);
    assert_eq!(module, exported);
    // With sounds it has one output more, of where they are, and saves what that needs; every function of a light, curve or
    // signal is the same.
    let [module, exported] = both(PIER)?;
    let pieces = |text: &str| {
        let text = text.split(tested).next().unwrap_or_default();
        text.split("\n\n").map(str::to_owned).collect::<Vec<_>>()
    };
    let others =
        pieces(&exported).into_iter().filter(|piece| !module.contains(piece.as_str())).count();
    assert!(
        others <= 14 && pieces(&exported).len() > 150,
        "{others} of {}",
        pieces(&exported).len()
    );
    Ok(())
}

fn every_kind_of_save_is_followed_and_errors_leave_the_last_good_book() -> Done {
    let served = Served::start(PIER)?;
    let book = served.book();
    let first = served.state()?;
    assert_eq!((&first["good"], &first["errors"]), (&json!(1), &json!(0)));
    save(&book, &PIER.replace("buzzing()", "buzing()"))?;
    let wrong = served.until(|state| state["errors"] == 1)?;
    assert_eq!(wrong["good"], 1);
    assert!(wrong["told"].as_str().is_some_and(|told| told.contains("did you mean `buzzing`?")));
    fs::write(&book, PIER.replace("Saltgate", "Saltgate east"))?;
    served.until(|state| state["name"] == "Saltgate east pier" && state["errors"] == 0)?;
    // Deleted and written again.
    fs::remove_file(&book)?;
    let gone = served.until(|state| state["errors"] == 1)?;
    assert_eq!(gone["name"], "Saltgate east pier", "the last good book stays");
    let told = gone["told"].as_str().unwrap_or_default();
    assert!(told.contains("cannot read") && told.contains("pier.caltrin"), "{told}");
    fs::write(&book, PIER.replace("Saltgate", "Saltgate west"))?;
    served.until(|state| state["name"] == "Saltgate west pier")?;
    // Ten saves in a second: the last one is shown.
    for n in 0..10 {
        save(&book, &PIER.replace("Saltgate", &format!("Saltgate {n}")))?;
        std::thread::sleep(Duration::from_millis(90));
    }
    served.until(|state| state["name"] == "Saltgate 9 pier")?;
    // A book that it begins to use is followed too.
    let lamps = served.folder.path().join("lamps.caltrin");
    fs::write(&lamps, "lightbook \"Lamps\"\nvalue bright = 10lm\n")?;
    save(&book, "lightbook \"Uses\"\nuse \"lamps.caltrin\"\nlight a point { intensity bright }\n")?;
    served.until(|state| state["lights"][0]["values"][0]["bounds"] == json!([10.0, 10.0]))?;
    save(&lamps, "lightbook \"Lamps\"\nvalue bright = 20lm\n")?;
    served.until(|state| state["lights"][0]["values"][0]["bounds"] == json!([20.0, 20.0]))?;
    Ok(())
}

/// A small book saved right after a large one is shown first, and the large one is never shown.
#[cfg(target_os = "linux")]
fn a_save_is_taken_up_while_an_older_one_is_being_read() -> Done {
    let book = |lights: u32| {
        let each = |n: u32| {
            format!("light lamp{n} point {{ intensity 5lm * held(0..1, every 1s..{}s) }}\n", n + 2)
        };
        format!("lightbook \"Quay\"\n{}", (0..lights).map(each).collect::<String>())
    };
    let served = Served::start(&book(1))?;
    save(&served.book(), &book(20_000))?;
    // The reading of the large book has started by now, and takes much longer.
    std::thread::sleep(Duration::from_millis(200));
    save(&served.book(), &book(2))?;
    let lights = |state: &Value| state["lights"].as_array().map_or(0, Vec::len);
    served.until(|state| {
        assert!(lights(state) < 20_000, "the large book was shown first");
        lights(state) == 2
    })?;
    let version = served.state()?["version"].clone();
    // The result of the older reading is discarded.
    let mut computed = 0;
    while served.computed()? > computed + 2 {
        computed = served.computed()?;
        std::thread::sleep(Duration::from_millis(300));
    }
    let after = served.state()?;
    assert_eq!((lights(&after), &after["version"]), (2, &version));
    Ok(())
}

async fn sounds_are_seen_and_heard_where_the_run_is() -> Done {
    let served = Served::start(PIER)?;
    let browser = Browser::open(1280, 800, false).await?;
    browser.client.goto(&served.address).await?;
    browser.until("return document.body.dataset.drawn === '1'").await?;
    // The bell is seen from the start, the horn not before the ferry docks.
    let seen = "const seen = (n) => { const c = document.querySelectorAll('.lane.sound canvas')[n]; \
                const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data; \
                let some = 0; for (let i = 3; i < d.length; i += 4) if (d[i] > 0) some += 1; \
                return some / c.width; }; return seen(2) > 4 * seen(0);";
    browser.until(seen).await?;
    let heard = "const heard = window.caltrin.heard ?? []; ";
    assert_eq!(
        browser.ask(&format!("{heard} return heard.filter((one) => one.plays).length")).await?,
        0
    );
    browser.press("l").await?;
    // What loops is heard, near the place where the exported code says that it is.
    let near = "return heard.filter((one) => one.plays && Math.abs(one.at - one.place) < 0.3).length >= 2 && !heard[0].plays;";
    browser.until(&format!("{heard} {near}")).await?;
    let (status, bytes) = get(&format!("{}/sound/4", served.address))?;
    assert_eq!((status, bytes.as_str()), (404, "there is no such sound"));
    assert_eq!(get(&format!("{}/sound/..%2f..%2fetc%2fpasswd", served.address))?.0, 400);
    browser.press("l").await?;
    browser.until(&format!("{heard} return heard.every((one) => !one.plays)")).await?;
    browser.close().await
}

async fn the_page_shows_the_book_and_follows_a_save() -> Done {
    let served = Served::start(PIER)?;
    let browser = Browser::open(1280, 800, false).await?;
    browser.client.goto(&served.address).await?;
    browser.until("return document.body.dataset.drawn === '1'").await?;
    let names = browser
        .ask("return [...document.querySelectorAll('.lane b')].map((b) => b.textContent)")
        .await?;
    assert_eq!(names[0], "horn");
    let names: Vec<&str> =
        names.as_array().into_iter().flatten().filter_map(|name| name.as_str()).collect();
    for wanted in ["warning", "docking", "mast[8]", "sky_tint", "stars[400].level"] {
        assert!(names.contains(&wanted), "{wanted}: {names:?}");
    }
    let lights = "return new Set([...document.querySelectorAll('.lane[data-light]')].map((row) => row.dataset.light)).size";
    assert_eq!(browser.ask(lights).await?, 27);
    // It plays: the moment goes on, and lamps shine in the place.
    browser.until("return window.caltrin.now > 0.3").await?;
    let lit = "const c = document.getElementById('canvas'); const d = c.getContext('2d')\
               .getImageData(0, 0, c.width, c.height).data; let n = 0;\
               for (let i = 0; i < d.length; i += 4) if (d[i] > 150) n += 1; return n;";
    assert!(browser.ask(lit).await?.as_u64() > Some(500));
    // An error is shown beside the last good version, and disappears when it is fixed.
    save(&served.book(), &PIER.replace("buzzing()", "buzing()"))?;
    browser.until("return !document.getElementById('told').hidden").await?;
    let told = browser.ask("return document.getElementById('told').textContent").await?;
    let told = told.as_str().unwrap_or_default();
    assert!(told.contains("1 error: the last good version is shown"), "{told}");
    assert!(told.contains("did you mean `buzzing`?"), "{told}");
    assert_eq!(browser.ask("return document.body.dataset.good").await?, "1");
    save(&served.book(), &PIER.replace("Saltgate", "Saltgate east"))?;
    browser
        .until("return document.getElementById('name').textContent === 'Saltgate east pier'")
        .await?;
    browser.until("return document.getElementById('told').hidden").await?;
    browser.close().await
}

async fn what_the_page_computes_is_what_the_evaluator_gives() -> Done {
    let served = Served::start(PIER)?;
    let browser = Browser::showing(&served, (1280, 800), false).await?;
    let script = "const done = arguments[0]; import('/book.mjs?v=test').then((book) => {\
                  const run = book.start(7); book.setMist(run, 0.8); const all = [];\
                  for (let n = 0; n < 200; ++n) { book.advance(run, n * 0.37);\
                  const lamp = book.readFogLamp(run, n % 3);\
                  all.push(lamp.intensity, lamp.reachOuter); } done(all); });";
    let found = browser.client.execute_async(script, Vec::new()).await?;
    let opened = caltrin::read(PIER, "pier.caltrin");
    let checked = opened.checked.ok_or("the pier is good")?;
    let id = checked.program().light_named("fog_lamp").ok_or("it is there")?;
    let mut start = caltrin::core::run::State::start(checked.program())
        .with_seed(caltrin::core::quantity::Seed(7));
    caltrin::set(&checked, &mut start, "mist=80%")?;
    let mut run = caltrin::core::Run::from_state(&checked, start);
    let mut lamp = vec![0.0; run.width(id)];
    for n in 0..200u32 {
        run.advance(caltrin::core::quantity::Seconds(f64::from(n) * 0.37));
        run.read(id, n % 3, &mut lamp);
        let at = |k: usize| found[2 * n as usize + k].as_f64().map(|v| (v as f32).to_bits());
        let headings = caltrin::core::trace::headings(&checked, id);
        let reach =
            headings.iter().position(|(_, name)| name == "reach_outer").ok_or("it has a reach")?;
        assert_eq!((at(0), at(1)), (Some(lamp[0].to_bits()), Some(lamp[reach].to_bits())), "{n}");
    }
    browser.close().await
}

async fn the_page_works_by_keyboard_and_keeps_what_was_set() -> Done {
    let served = Served::start(PIER)?;
    let browser = Browser::showing(&served, (800, 600), true).await?;
    browser.press(" ").await?;
    browser.until("return document.getElementById('play').textContent === 'Play'").await?;
    let before = browser.ask("return window.caltrin.now").await?.as_f64().unwrap_or_default();
    let right = char::from(Key::Right).to_string();
    for _ in 0..3 {
        browser.press(&right).await?;
    }
    browser
        .until(&format!("return Math.abs(window.caltrin.now - {before} - 3 / 60) < 1e-6"))
        .await?;
    browser.press(&char::from(Key::Home).to_string()).await?;
    browser.until("return window.caltrin.now === 0").await?;
    browser.press(".").await?;
    assert_eq!(browser.ask("return document.getElementById('speed').value").await?, "2");
    browser.press("v").await?;
    assert_eq!(
        browser.ask("return document.getElementById('view').textContent").await?,
        "From the front"
    );
    browser.press("r").await?;
    let seed = browser.ask("return document.getElementById('seed').value").await?;
    assert_ne!(seed, "41");
    // An input that is turned stays turned through a save, and so does the seed.
    browser
        .ask("const range = document.querySelector('#inputs input[aria-label=mist]'); range.value = 0.9; range.dispatchEvent(new Event('input'));")
        .await?;
    let mist = "return document.querySelector('#inputs input[aria-label=mist]').closest('.input').querySelector('output').textContent";
    assert_eq!(browser.ask(mist).await?, "90%");
    save(&served.book(), &PIER.replace("Saltgate", "Saltgate east"))?;
    browser
        .until("return document.getElementById('name').textContent === 'Saltgate east pier'")
        .await?;
    assert_eq!(browser.ask(mist).await?, "90%");
    assert_eq!(browser.ask("return document.getElementById('seed').value").await?, seed);
    // Only one lane: the others go dark.
    browser.ask("document.querySelectorAll('.lane[data-light]')[2].focus()").await?;
    browser.client.active_element().await?.send_keys("s").await?;
    let dark = "return new Set([...document.querySelectorAll('.lane.hidden')].map((row) => row.dataset.light)).size";
    let dark = browser.ask(dark).await?;
    assert_eq!(dark, 26);
    // Nothing is wider than the window, and every control has a name.
    let wide = "return document.documentElement.scrollWidth <= innerWidth";
    assert_eq!(browser.ask(wide).await?, true);
    let nameless = "return [...document.querySelectorAll('button, input, select')].filter((e) =>\
                    !(e.textContent.trim() || e.getAttribute('aria-label') || e.title || e.closest('label'))).length";
    assert_eq!(browser.ask(nameless).await?, 0);
    browser.close().await
}

async fn the_hour_is_set_and_held_and_a_choice_fades_as_in_the_game() -> Done {
    let served = Served::start(PIER)?;
    let browser = Browser::showing(&served, (1280, 800), false).await?;
    let hour = "return document.querySelector('.clock output').textContent";
    assert!(browser.ask(hour).await?.as_str().is_some_and(|hour| hour.starts_with("17:4")));
    // The clock goes on with the page, and stands where it is held.
    browser.ask("document.getElementById('speed').value = 20; document.getElementById('speed').onchange()").await?;
    browser.until("return document.querySelector('.clock output').textContent >= '17:50'").await?;
    let set = "const h = document.getElementById('hour'); h.value = 12; h.dispatchEvent(new Event('input'));\
               document.getElementById('hold').click();";
    browser.ask(set).await?;
    browser.until("return document.querySelector('.clock output').textContent === '12:00'").await?;
    let after = browser.ask("return window.caltrin.now").await?.as_f64().unwrap_or_default() + 20.0;
    browser.until(&format!("return window.caltrin.now > {after}")).await?;
    assert_eq!(browser.ask(hour).await?, "12:00");
    // By day the deck and the water are bright to the edges of the picture.
    let lit = "const c = document.getElementById('canvas'); const d = c.getContext('2d')\
               .getImageData(0, 0, c.width, c.height).data; let n = 0;\
               for (let i = 0; i < d.length; i += 4) if (Math.max(d[i], d[i + 1], d[i + 2]) > 100) n += 1; return n / (d.length / 4) > 0.7;";
    browser.until(lit).await?;
    // A choice, and the hour, stay through a save.
    let choose = "const list = document.querySelector('#inputs select[aria-label=weather]'); list.value = 'overcast';\
                  list.dispatchEvent(new Event('change')); return list.getAttribute('aria-label');";
    assert_eq!(browser.ask(choose).await?, "weather");
    save(&served.book(), &PIER.replace("Saltgate", "Saltgate east"))?;
    browser
        .until("return document.getElementById('name').textContent === 'Saltgate east pier'")
        .await?;
    assert_eq!(
        browser
            .ask("return document.querySelector('#inputs select[aria-label=weather]').value")
            .await?,
        "overcast"
    );
    browser.until("return document.querySelector('.clock output').textContent === '12:00'").await?;
    assert_eq!(
        browser.ask("return document.getElementById('hold').getAttribute('aria-pressed')").await?,
        "true"
    );
    browser.close().await
}

const EVENTS: &str = "lightbook \"Cut\"
event cut, back
event gone after 300ms from cut
switch power { starts on; off at gone over 100ms; on at back }
input swell = 20% in 0%..100%
modes sea { calm, rough; calm -> rough when swell above 50% over 100ms }
light lamp point { color #ffffff; intensity 700lm * power * pick(sea, calm 100%, rough 2%) }
at cut send thud(\"dull\" or \"sharp\") from lamp
rehearsal dark { 0.2s cut; 5s end }
";

async fn an_event_is_fired_and_can_be_gone_back_before() -> Done {
    let served = Served::start(EVENTS)?;
    let browser = Browser::showing(&served, (1280, 800), true).await?;
    // It is lit, goes dark when the power is cut, and is lit before that again.
    let bright = |wanted: &str| {
        format!(
            "const c = document.querySelector('.lane[data-light] canvas'); \
             const d = c.getContext('2d').getImageData(c.width - 4, Math.round(c.height * 0.1), 1, 2).data; \
             let most = 0; for (let i = 0; i < d.length; i += 4) most = Math.max(most, d[i]); \
             return most {wanted};"
        )
    };
    browser.until(&bright("> 200")).await?;
    let fire = "const all = [...document.querySelectorAll('#inputs .events button')]; \
                all.find((b) => b.textContent === 'cut').click(); return all.map((b) => b.textContent).join();";
    assert_eq!(browser.ask(fire).await?, "cut,back,Reset");
    browser.until(&bright("< 100")).await?;
    browser.ask("document.getElementById('forget').click(); return 1").await?;
    browser.until(&bright("> 200")).await?;
    // So does a rehearsal, and what the book says of it is shown.
    let rehearse = |name: &str| {
        format!(
            "const list = document.getElementById('rehearsal'); list.value = '{name}'; \
             list.dispatchEvent(new Event('change')); return list.value"
        )
    };
    browser.ask(&rehearse("dark")).await?;
    browser.until(&bright("< 100")).await?;
    let told = "return /^0.20 s thud \"(dull|sharp)\" from lamp/.test(document.getElementById('notices').textContent)";
    browser.until("document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', shiftKey: true, bubbles: true })); return window.caltrin.now > 1").await?;
    browser.until(told).await?;
    browser.ask("document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'EventOwner', bubbles: true })); return 1").await?;
    browser.ask(&rehearse("")).await?;
    browser.until(&bright("> 200")).await?;
    // An input turned on the way leads on by the rules, and can be forgotten too.
    let later = "for (let n = 0; n < 3; n += 1) \
                 document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', shiftKey: true, bubbles: true })); \
                 return 1";
    browser.ask(later).await?;
    browser.until("return window.caltrin.now > 1").await?;
    let turn = "const range = document.querySelector('#inputs input[aria-label=swell]'); \
                range.value = 0.9; range.dispatchEvent(new Event('input')); return 1";
    browser.ask(turn).await?;
    browser.until(&bright("< 100")).await?;
    browser.ask("document.getElementById('forget').click(); return 1").await?;
    browser.until(&bright("> 200")).await?;
    browser.close().await
}

async fn a_page_comes_back_when_the_command_does() -> Done {
    let mut served = Served::start(PIER)?;
    let browser = Browser::showing(&served, (1280, 800), false).await?;
    let port = served.address.rsplit(':').next().and_then(|p| p.parse().ok()).unwrap_or_default();
    let folder = std::mem::replace(&mut served.folder, tempfile::tempdir()?);
    drop(served);
    browser.until("return document.getElementById('link').className === 'lost'").await?;
    fs::write(folder.path().join("pier.caltrin"), PIER.replace("Saltgate", "Saltgate south"))?;
    let again = Served::at(folder, port)?;
    browser
        .until("return document.getElementById('name').textContent === 'Saltgate south pier'")
        .await?;
    browser.until("return document.getElementById('link').className === ''").await?;
    drop(again);
    browser.close().await
}

/// A light that one input dims, outputs of several values, sparks where an event says, and modes.
const YARD: &str = "lightbook \"Signal yard\"
input cover = 0% in 0%..100%
event flare(place = (0m, 1m, 0m), tint = #ff5030)
event all_clear
modes warning { calm, watch; calm -> watch at flare over 1s; watch -> calm at all_clear over 2s }
output sky = #8fb4d8
output heaven { top mix(#8fb4d8, #203050, by cover); stars 1 - cover }
light lamp point { position (0m, 3m, 0m); color 2700K; intensity 90cd * (1 - cover); reach 2m..9m }
light sign point { position (3m, 1m, 0m); intensity 9cd * warning.watch; reach 4m + 3m * sine(0..1, every 4s) }
spark ember[8] point at flare {
  lives 2s..4s
  position flare.place
  color flare.tint
  intensity 400cd * (1 - life)
}
";

/// The mean color of a light's lane over its canvas, 0 to 255.
fn lane_color(value: &str) -> String {
    format!(
        "const c = document.querySelector('.lane[data-value=\"{value}\"] canvas, .lane[data-light=\"{value}\"] canvas');\
         const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;\
         const sum = [0, 0, 0]; for (let i = 0; i < d.length; i += 4) for (let k = 0; k < 3; ++k) sum[k] += d[i + k];\
         return sum.map((v) => Math.round(v / (d.length / 4)));"
    )
}

async fn lanes_show_each_value_at_a_fixed_scale_with_numbers() -> Done {
    let served = Served::start(YARD)?;
    let browser = Browser::open(1280, 800, false).await?;
    browser.client.goto(&served.address).await?;
    browser.until("return document.body.dataset.drawn === '1'").await?;
    browser.press(" ").await?;
    // A color that nothing dims fills its lane: #8fb4d8, by itself and beside a number.
    for value in ["sky", "top"] {
        let found = browser.ask(&lane_color(value)).await?;
        for (part, wanted) in [0x8f, 0xb4, 0xd8].into_iter().enumerate() {
            let found = found[part].as_i64().unwrap_or_default();
            assert!((found - wanted).abs() <= 3, "{value}: {found} for {wanted}");
        }
    }
    let top = "return document.querySelector('.lane[data-light=lamp] output').textContent";
    browser.until("return document.querySelector('.lane[data-light=lamp] output').textContent === '90 cd'").await?;
    // Dimmed, the lane keeps its top and its curve sinks.
    let high = "const c = document.querySelector('.lane[data-light=lamp] canvas'); const from = Math.round(c.height * 0.45);\
                const d = c.getContext('2d').getImageData(0, from, c.width, c.height - from).data;\
                let n = 0; for (let i = 3; i < d.length; i += 4) if (d[i] > 40) n += 1; return n / (d.length / 4);";
    let before = browser.ask(high).await?.as_f64().unwrap_or_default();
    browser
        .ask("const range = document.querySelector('#inputs input[aria-label=cover]'); range.value = 0.95; range.dispatchEvent(new Event('input'));")
        .await?;
    let sunk = format!("const now = (() => {{ {high} }})(); return now < {before} - 0.5");
    browser.until(&sunk).await?;
    assert_eq!(browser.ask(top).await?, "90 cd");
    // The value under the pointer stands in every lane.
    let at = "const box = document.querySelector('.lane[data-light=lamp] canvas').getBoundingClientRect();\
              const sheet = document.getElementById('sheet');\
              sheet.dispatchEvent(new PointerEvent('pointermove', { clientX: box.left + box.width / 2, clientY: box.top + 4, bubbles: true }));\
              return ['lamp', 'sky'].map((name) => document.querySelector(`.lane[data-light=${name}] output`).textContent)";
    assert_eq!(browser.ask(at).await?, json!(["4.5 cd", "#8fb4d8"]));
    // A click on the ruler goes there.
    let click = "const box = document.getElementById('ruler').getBoundingClientRect();\
                 return [Math.round(box.left + box.width / 4), Math.round(box.top + 8)]";
    let spot = browser.ask(click).await?;
    let (x, y) = (spot[0].as_i64().unwrap_or_default(), spot[1].as_i64().unwrap_or_default());
    let press = MouseActions::new("mouse".to_owned())
        .then(PointerAction::MoveTo { duration: None, x: x as f64, y: y as f64 })
        .then(PointerAction::Down { button: 0 })
        .then(PointerAction::Up { button: 0 });
    browser.client.perform_actions(press).await?;
    browser.until("return Math.abs(window.caltrin.now - 5) < 0.1").await?;
    // Channels have lanes when they are asked for.
    let lanes = "return document.querySelectorAll('.lane[data-light=sign]').length";
    assert_eq!(browser.ask(lanes).await?, 1);
    browser
        .ask("[...document.querySelectorAll('#inputs button')].find((b) => b.textContent === 'reach').click()")
        .await?;
    assert_eq!(browser.ask(lanes).await?, 2);
    browser.until("return document.querySelector('.lane[data-value=reach_outer] output').textContent.endsWith(' m')").await?;
    browser.close().await
}

/// A lamp that is dark at the start, among weaker ones.
const MOLE: &str = "lightbook \"Mole\"
curve late { 0s 0.05%; 1s 0.05%; 1.2s 100%; 1000s 100%; 1001s 0% }
light marker[3] point { position (0m, 3m, 0m), (6m, 0m, 0m); intensity 60lm }
light horn point { position (9m, 4m, 6m); intensity 6000lm * loop(late) }
";

async fn the_pool_of_a_lamp_that_was_dark_at_the_start_ends_softly() -> Done {
    let served = Served::start(MOLE)?;
    let browser = Browser::open(1280, 800, false).await?;
    browser.client.goto(&served.address).await?;
    browser.until("return document.body.dataset.drawn === '1'").await?;
    browser.press("n").await?;
    browser.until("return window.caltrin.now > 1.5").await?;
    browser.press(" ").await?;
    // How many columns and rows are lit, and the greatest step along one of them from a point to the next but one. A square's
    // edge is a step at many places, the mark of a lamp at one.
    let steps = "const c = document.getElementById('canvas'); const { data, width, height } = c.getContext('2d').getImageData(0, 0, c.width, c.height);\
                 const at = (x, y) => Math.max(data[(y * width + x) * 4], data[(y * width + x) * 4 + 1], data[(y * width + x) * 4 + 2]);\
                 let bright = 0; let steep = 0;\
                 for (let y = 0; y < height; ++y) for (let x = 2; x < width; ++x) { bright = Math.max(bright, at(x, y)); if (Math.abs(at(x, y) - at(x - 2, y)) > 12) steep += 1; }\
                 for (let x = 0; x < width; ++x) for (let y = 2; y < height; ++y) if (Math.abs(at(x, y) - at(x, y - 2)) > 12) steep += 1;\
                 return [bright, steep / (width + height)];";
    let found = browser.ask(steps).await?;
    let (bright, steep) = (found[0].as_f64().unwrap_or(0.0), found[1].as_f64().unwrap_or(1.0));
    assert!(bright > 150.0 && steep < 0.4, "brightest {bright}, {steep} steps a line");
    browser.close().await
}

async fn an_event_comes_with_values_and_its_sparks_are_in_the_picture() -> Done {
    let served = Served::start(YARD)?;
    let browser = Browser::open(1280, 800, false).await?;
    browser.client.goto(&served.address).await?;
    browser.until("return document.body.dataset.drawn === '1'").await?;
    browser.press(" ").await?;
    browser
        .ask("const boxes = document.querySelectorAll('input[aria-label=\"flare place\"]');\
              boxes[0].value = 30; boxes[0].dispatchEvent(new Event('input'));\
              const tint = document.querySelector('input[aria-label=\"flare tint\"]');\
              tint.value = '#2040ff'; tint.dispatchEvent(new Event('input'));\
              [...document.querySelectorAll('#inputs button')].find((b) => b.textContent === 'flare').click()")
        .await?;
    // Far to the right of the lamp there is blue light now.
    let blue = "const c = document.getElementById('canvas'); const d = c.getContext('2d').getImageData(c.width * 0.7, 0, c.width * 0.3, c.height).data;\
                let n = 0; for (let i = 0; i < d.length; i += 4) if (d[i + 2] > 120 && d[i] < d[i + 2] - 40) n += 1; return n > 200;";
    browser.until(blue).await?;
    // The modes' band says so, and the pool's lane how many live.
    let words = "const box = document.getElementById('ruler').getBoundingClientRect(); const sheet = document.getElementById('sheet');\
                 sheet.dispatchEvent(new PointerEvent('pointermove', { clientX: box.left + box.width * (window.caltrin.now + 1.2) / 20, clientY: box.top + 40, bubbles: true }));\
                 return [document.querySelector('.lane.band output').textContent, document.querySelector('.lane[data-light=ember] output').textContent.split(', ')[1]].join()";
    browser.until(&format!("return (() => {{ {words} }})() === 'watch,1 live'")).await?;
    browser.close().await
}

async fn names_from_the_book_stay_words() -> Done {
    let book = "lightbook \"<img src=x onerror=document.title='broken'>\"
input open = on   // </script><b>
light a point { position (0m, 1m, 0m); intensity if open then 4cd else 1cd }
";
    let served = Served::start(book)?;
    let browser = Browser::showing(&served, (1280, 800), false).await?;
    let name = browser.ask("return document.getElementById('name').textContent").await?;
    assert_eq!(name, "<img src=x onerror=document.title='broken'>");
    assert_eq!(browser.ask("return document.querySelectorAll('img').length").await?, 0);
    assert_ne!(browser.ask("return document.title").await?, "broken");
    browser.close().await
}

fn main() {
    let arguments = Arguments::from_args();
    let mut trials = vec![
        Trial::test("only_this_machine_and_only_the_page_is_served", || {
            only_this_machine_and_only_the_page_is_served()
        }),
        Trial::test("the_module_is_the_exported_one", the_module_is_the_exported_one),
        #[cfg(unix)]
        Trial::test("a_sound_that_is_exchanged_is_not_served", || {
            a_sound_that_is_exchanged_is_not_served()
        }),
        #[cfg(target_os = "linux")]
        Trial::test("a_save_is_taken_up_while_an_older_one_is_being_read", || {
            a_save_is_taken_up_while_an_older_one_is_being_read()
        }),
        Trial::test("every_save_is_followed_and_errors_leave_the_last_good_book", || {
            every_kind_of_save_is_followed_and_errors_leave_the_last_good_book()
        }),
    ];
    in_browser!(trials:
        sounds_are_seen_and_heard_where_the_run_is,
        the_page_shows_the_book_and_follows_a_save,
        what_the_page_computes_is_what_the_evaluator_gives,
        the_page_works_by_keyboard_and_keeps_what_was_set,
        the_hour_is_set_and_held_and_a_choice_fades_as_in_the_game,
        an_event_is_fired_and_can_be_gone_back_before,
        a_page_comes_back_when_the_command_does,
        lanes_show_each_value_at_a_fixed_scale_with_numbers,
        an_event_comes_with_values_and_its_sparks_are_in_the_picture,
        the_pool_of_a_lamp_that_was_dark_at_the_start_ends_softly,
        names_from_the_book_stay_words
    );
    libtest_mimic::run(&arguments, trials).exit();
}
