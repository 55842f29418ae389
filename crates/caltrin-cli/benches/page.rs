//! The live page in a real browser: frames a second with forty lamps, and how long after a save the new
//! picture is there.

#[path = "../tests/page/mod.rs"]
#[allow(dead_code)]
mod page;

use std::time::{Duration, SystemTime, UNIX_EPOCH};

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

async fn frames() -> Done {
    let served = Served::start(&forty())?;
    let browser = Browser::open(1280, 800, true).await?;
    browser.client.goto(&served.address).await?;
    browser.until("return document.body.dataset.drawn !== undefined").await?;
    tokio::time::sleep(Duration::from_secs(3)).await;
    let count = "return [window.caltrin.frames, performance.now()]";
    let before = browser.ask(count).await?;
    tokio::time::sleep(Duration::from_secs(10)).await;
    let after = browser.ask(count).await?;
    let passed = |n: usize| after[n].as_f64().unwrap_or(0.0) - before[n].as_f64().unwrap_or(0.0);
    println!("forty lamps, 1280 x 800: {:.1} frames a second", passed(0) / passed(1) * 1000.0);
    browser.close().await
}

async fn saves() -> Done {
    let served = Served::start(PIER)?;
    let browser = Browser::open(1280, 800, true).await?;
    browser.client.goto(&served.address).await?;
    browser.until("return document.body.dataset.drawn !== undefined").await?;
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

fn main() {
    for (what, done) in [("frames", in_a_browser(frames)), ("saves", in_a_browser(saves))] {
        if let Err(why) = done {
            println!("{what}: not measured: {}", why.message().unwrap_or("no reason told"));
        }
    }
}
