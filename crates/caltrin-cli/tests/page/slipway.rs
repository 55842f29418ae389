//! A small book, the operations of hands on it, and pages that show it.

use fantoccini::key::Key;
use libtest_mimic::Failed;
use serde_json::{Value, json};

use super::{Browser, Done, Served, get, post};

pub type Checked<T> = Result<T, Failed>;

/// A place with little in it: of the pier a reading takes longer.
pub const SLIP: &str = r#"lightbook "Slipway"

clock { day 20min; start 18:00 }

event hauled

color rope = #c8a878

curve sag {                          // the line sags in the swell
  columns level, tint
  0s  100%,  #ffcc88
  1s  80%,   #cc8844  smooth
  2s  60%,   #ffcc88
  4s  90%,   #ffcc88
}

signal swell = loop(sag.level)

switch winch { starts off; on at hauled over 1s }

light lantern point {
  position   (1m, 3m, 2m)
  color      rope
  intensity  600lm * swell
}

light cradle spot {
  position   (4m, 5m, 0m)
  aim        (0m, -1m, 0m)
  cone       20deg..60deg
  color      2700K
  intensity  400cd * winch
}
"#;

pub fn edit(served: &Served, key: &str, hash: &Value, ops: Value) -> Checked<(u16, Value)> {
    let body = json!({ "file": "pier.caltrin", "hash": hash, "gesture": null, "words": "a test", "ops": ops, "rests": true });
    post(&format!("{}/edit", served.address), &[("x-caltrin-key", key)], &body)
}

/// The bytes of a piece of a text.
pub fn at(text: &str, piece: &str) -> [usize; 2] {
    let start = text.find(piece).expect("the piece");
    [start, start + piece.len()]
}

pub fn hash(served: &Served) -> Checked<Value> {
    Ok(served.state()?["texts"][0]["hash"].clone())
}

/// A page that shows the slipway.
pub async fn slipway(served: &Served) -> Checked<Browser> {
    Browser::showing(served, (1280, 800), true).await
}

pub async fn select(browser: &Browser, light: &str) -> Done {
    browser.ask(&format!("document.querySelector('.lane[data-light={light}] b').click()")).await?;
    Ok(())
}

pub fn key(key: Key) -> String {
    char::from(key).to_string()
}

/// What the page plays is what the command exports of the file.
pub fn plays_the_file(served: &Served) -> Done {
    let text = served.text()?;
    served.until(|state| state["good"] == state["version"] || state["waiting"] == json!(false))?;
    let module = get(&format!("{}/book.mjs", served.address))?.1;
    let again = Served::start(&text)?;
    let wanted = get(&format!("{}/book.mjs", again.address))?.1;
    if module != wanted {
        let differs = super::difference(&wanted, &module);
        return Err(format!("the page plays something else: {differs}").into());
    }
    Ok(())
}

/// Undoes the last change, and waits for the file.
pub async fn undone(served: &Served, browser: &Browser, to: &str) -> Done {
    browser.until("return !document.getElementById('undo').disabled").await?;
    browser.ask("document.getElementById('undo').click()").await?;
    served.written(to)?;
    browser.until("return document.getElementById('saved').textContent === 'written'").await
}

/// One key on something that has a name.
pub async fn press(browser: &Browser, name: &str, keys: &str) -> Done {
    browser.named(name).await?;
    browser
        .client
        .execute(
            "document.querySelector(`[aria-label=\"${arguments[0]}\"]`).focus()",
            vec![json!(name)],
        )
        .await?;
    browser.client.active_element().await?.send_keys(keys).await?;
    Ok(())
}
