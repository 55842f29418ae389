//! The live page in a real browser: frames a second with forty lamps, and how long after a save the new
//! picture is there.

#[path = "../tests/page/mod.rs"]
#[allow(dead_code)]
mod page;

use std::time::{Duration, SystemTime, UNIX_EPOCH};

use fantoccini::actions::{InputSource, MouseActions, PointerAction};
use page::{Browser, Done, Served, in_a_browser, save};

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");

/// A quay of forty lamps with ten walls and ten posts.
fn forty() -> String {
    let mut book = String::from(
        "lightbook \"Forty\"\nseed 3\nlight row[20] point { position (0m, 3m, 0m), (3m, 0m, 0m); reach 9m; color 2300K\n  \
         intensity 700lm * held(70%..100%, every 60ms..240ms) }\n\
         light core[20] point { position (1m, 3m, 8m), (3m, 0m, 0m); reach 9m; color 2000K\n  \
         intensity 500lm * drift(60%..100%, rate 3Hz, octaves 2); offset wander(radius 6cm, rate 4Hz) }\n\
         post pile[10] { position (2m, 0m, 5m), (6m, 0m, 0m); radius 25cm; height 2m }\n",
    );
    for n in 0..10 {
        let x = n * 6;
        book += &format!("wall w{n} {{ along ({x}m, 0m, 3m)..({}m, 0m, 4m); height 2m }}\n", x + 3);
    }
    book
}

/// How many frames a second a page draws, after some seconds.
async fn rate(browser: &Browser) -> Result<f64, libtest_mimic::Failed> {
    tokio::time::sleep(Duration::from_secs(8)).await;
    let count = "return [window.caltrin.frames, performance.now()]";
    let before = browser.ask(count).await?;
    tokio::time::sleep(Duration::from_secs(10)).await;
    let after = browser.ask(count).await?;
    let passed = |n: usize| after[n].as_f64().unwrap_or(0.0) - before[n].as_f64().unwrap_or(0.0);
    Ok(passed(0) / passed(1) * 1000.0)
}

async fn frames() -> Done {
    let served = Served::start(&forty())?;
    let browser = Browser::showing(&served, (1280, 800), true).await?;
    println!("forty lamps, 1280 x 800: {:.1} frames a second", rate(&browser).await?);
    browser.close().await
}

/// The pier through its eye, alone in a window.
async fn eye() -> Done {
    let served = Served::start(PIER)?;
    let browser = Browser::showing(&served, (960, 720), true).await?;
    for key in ["1", "2", "4", "v", "v"] {
        browser.press(key).await?;
    }
    browser.until("return document.getElementById('view').textContent === 'Through ramp'").await?;
    let rate = rate(&browser).await?;
    let size = "const c = document.getElementById('canvas'); return [c.width, c.height, ...window.caltrin.painted]";
    let [wide, high, own_wide, own_high]: [u32; 4] =
        serde_json::from_value(browser.ask(size).await?)?;
    println!(
        "the pier through an eye, {wide} x {high}, drawn at {own_wide} x {own_high}: {rate:.1} frames a second"
    );
    browser.close().await
}

async fn saves() -> Done {
    let served = Served::start(PIER)?;
    let browser = Browser::showing(&served, (1280, 800), true).await?;
    tokio::time::sleep(Duration::from_secs(2)).await;
    let mut all = Vec::new();
    for n in 0..15 {
        // The place is drawn in the frame after the book is taken; all lanes a little later.
        browser
            .ask(
                "const good = document.body.dataset.good; const drawn = document.body.dataset.drawn;\
                 window.seen = [0, 0]; new MutationObserver((_, me) => {\
                 if (document.body.dataset.good !== good && !window.seen[0]) requestAnimationFrame(() => { window.seen[0] = Date.now(); });\
                 if (document.body.dataset.drawn !== drawn) { window.seen[1] = Date.now(); me.disconnect(); } })\
                 .observe(document.body, { attributes: true });",
            )
            .await?;
        let start = SystemTime::now().duration_since(UNIX_EPOCH)?.as_millis() as f64;
        save(&served.book(), &PIER.replace("6200lm", &format!("{}lm", 6000 + n)))?;
        browser.until("return window.seen[0] > 0 && window.seen[1] > 0").await?;
        let seen = browser.ask("return window.seen").await?;
        all.push([0, 1].map(|n| seen[n].as_f64().unwrap_or(0.0) - start));
        tokio::time::sleep(Duration::from_millis(400)).await;
    }
    for (n, what) in ["the lit place", "all lanes"].iter().enumerate() {
        let mut times: Vec<f64> = all.iter().map(|one| one[n]).collect();
        times.sort_by(f64::total_cmp);
        println!(
            "a save of the pier until {what}: {:.0} ms (median of {})",
            times[times.len() / 2],
            times.len()
        );
    }
    browser.close().await
}

/// The pier with more lights, each with chances of its own.
fn larger(lights: usize) -> String {
    let mut book = String::from(PIER);
    for n in 0..lights {
        let (x, z) = (n % 40 * 2, n / 40 * 2 + 30);
        book += &format!(
            "\nlight more_{n} point {{\n  position   ({x}m, 3m, {z}m)\n  reach      9m\n  color      2300K\n  \
             intensity  700lm * held(70%..100%, every {}ms..240ms)\n}}\n",
            60 + n % 50
        );
    }
    book
}

/// Seen from the page: when the pointer moved, when the lit place was drawn, when all lanes were, and when the book
/// with the change had come and was read by the browser.
const WATCH: &str = "window.moves = []; window.seen = {};\
     addEventListener('pointermove', (event) => { window.seen = { moved: performance.now() }; }, true);\
     new MutationObserver(() => {\
       const { good, drawn } = document.body.dataset; const seen = window.seen;\
       if (seen.moved && !seen.good && good !== window.before) {\
         seen.good = performance.now(); window.before = good;\
         requestAnimationFrame(() => { seen.lit = performance.now(); });\
       }\
       if (seen.good && !seen.drawn && drawn === good) { seen.drawn = performance.now(); }\
       if (seen.drawn && !seen.kept) { seen.kept = true; window.moves.push(seen); }\
     }).observe(document.body, { attributes: true });\
     window.before = document.body.dataset.good;";

/// From a movement of the pointer on a knob until what it changes is seen.
async fn drags(book: String, what: &str, moves: usize, rest: u64) -> Done {
    let served = Served::start(&book)?;
    let browser = Browser::showing(&served, (1280, 800), true).await?;
    browser.ask("document.querySelector('.lane[data-light=mast] b').click()").await?;
    browser.named("mast intensity").await?;
    tokio::time::sleep(Duration::from_secs(3)).await;
    browser.ask(WATCH).await?;
    let [x, y] = browser.middle("mast intensity").await?;
    let to = |by: f64| PointerAction::MoveTo { duration: Some(Duration::ZERO), x: x + by, y };
    let wait = || PointerAction::Pause { duration: Duration::from_millis(rest) };
    let mut hand = MouseActions::new("hand".to_owned())
        .then(to(0.0))
        .then(PointerAction::Down { button: 0 })
        .then(wait());
    for n in 1..=moves {
        hand = hand.then(to((n % 5 + 1) as f64 * 16.0)).then(wait());
    }
    browser.client.perform_actions(hand.then(PointerAction::Up { button: 0 })).await?;
    let seen = browser.ask("return window.moves").await?;
    let seen = seen.as_array().cloned().unwrap_or_default();
    for (part, name) in
        [("good", "the book is read"), ("lit", "the lit place"), ("drawn", "all lanes")]
    {
        let time = |one: &serde_json::Value, part: &str| one[part].as_f64().unwrap_or(f64::NAN);
        let mut times: Vec<f64> =
            seen.iter().map(|one| time(one, part) - time(one, "moved")).collect();
        times.retain(|time| time.is_finite());
        times.sort_by(f64::total_cmp);
        let at = |share: f64| {
            times.get((share * times.len() as f64) as usize).copied().unwrap_or(f64::NAN)
        };
        println!(
            "{what}: a drag until {name}: {:.0} ms (median of {}), {:.0} ms (95%)",
            at(0.5),
            times.len(),
            at(0.95)
        );
    }
    browser.close().await
}

async fn drags_of_the_pier() -> Done {
    drags(PIER.to_owned(), "pier", 40, 700).await
}

async fn drags_of_many_lights() -> Done {
    drags(larger(1_000), "the pier and 1,000 lights", 8, 4_000).await
}

fn main() {
    // `cargo bench ... -- eye` measures that alone.
    let asked = std::env::args().skip(1).find(|argument| !argument.starts_with('-'));
    type Measure = fn() -> Done;
    let all: [(&str, Measure); 5] = [
        ("frames", || in_a_browser(frames)),
        ("eye", || in_a_browser(eye)),
        ("saves", || in_a_browser(saves)),
        ("drags", || in_a_browser(drags_of_the_pier)),
        ("drags of many lights", || in_a_browser(drags_of_many_lights)),
    ];
    for (what, measure) in all {
        if asked.as_ref().is_some_and(|asked| asked != what) {
            continue;
        }
        if let Err(why) = measure() {
            println!("{what}: not measured: {}", why.message().unwrap_or("no reason told"));
        }
    }
}
