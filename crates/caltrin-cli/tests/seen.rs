//! The place as it is seen: through eyes, with pictures in it; by the command and on the page, with the hands that turn
//! eyes and move pictures, by pointer and by keyboard.

#[macro_use]
#[allow(dead_code, reason = "each uses some of it")]
mod page;

use std::path::Path;
use std::process::{Command, Output};

use fantoccini::Locator;
use fantoccini::actions::{InputSource, MouseActions, PointerAction};
use fantoccini::key::Key;
use image::{ImageFormat, Rgb, RgbImage, Rgba, RgbaImage};
use libtest_mimic::{Arguments, Failed, Trial};
use page::slipway::{key, press, undone};
use page::{Browser, Done, Served};
use serde_json::json;

/// A covered platform with everything that an eye sees.
const HALT: &str = r#"lightbook "Halt"
seed 7

output range = 60m
output haze  = #506070
output dusk  = #20304a

light glow ambient { intensity 0.6lx; color #b0c4e0 }
light low_sun directional { aim (1m, -1m, -2m); intensity 1.5lx; color #ffb080 }
light tube[3] area {
  position   (-4m, 3m, 0m), (4m, 0m, 0m)
  aim        (0m, -1m, 0m)
  reach      9m
  color      #fff0d0
  intensity  300lm
}
light spill spot {
  position   (3m, 4m, 3m)
  aim        (-1m, -2m, -1m)
  cone       20deg..60deg
  color      #60ff90
  intensity  80cd
}

wall back { along (-6m, 0m, -3m)..(6m, 0m, -3m); height 4m }
post pillar[3] { position (-4m, 0m, 1.5m), (4m, 0m, 0m); radius 25cm; height 3m }
backdrop "floor.png" { from (-6m, 0m, -3m); to (6m, 0m, 3m) }
backdrop "poster.png" { from (-1m, 1m, -3m); to (1m, 3m, -3m) }

eye bench { at (-2m, 1.6m, 7m); toward (0m, 1.5m, -3m); field 80deg; fog range, haze; sky dusk }
"#;

/// Squares and a transparent border.
fn tiles(folder: &Path) -> Done {
    let floor = RgbaImage::from_fn(96, 48, |x, y| match (x / 12 + y / 12) % 2 {
        0 => Rgba([200, 190, 170, 255]),
        _ => Rgba([90, 110, 130, 255]),
    });
    floor.save(folder.join("floor.png"))?;
    let poster = RgbaImage::from_fn(64, 64, |x, y| {
        let inside = (8..56).contains(&x) && (8..56).contains(&y);
        Rgba(if inside { [(x * 4) as u8, (y * 4) as u8, 120, 255] } else { [255, 0, 0, 0] })
    });
    poster.save(folder.join("poster.png"))?;
    Ok(())
}

fn halt() -> Result<Served, Failed> {
    let folder = tempfile::tempdir()?;
    std::fs::write(folder.path().join("pier.caltrin"), HALT)?;
    tiles(folder.path())?;
    Served::at(folder, 0)
}

fn caltrin(folder: &Path, arguments: &[&str]) -> Result<Output, Failed> {
    Ok(Command::new(env!("CARGO_BIN_EXE_caltrin")).args(arguments).current_dir(folder).output()?)
}

/// What `caltrin view` draws of the halt through its eye, as wide as this: the picture without what is around it.
fn drawn(folder: &Path, wide: u32, bright: f64) -> Result<RgbImage, Failed> {
    let (lux, width) = (format!("{bright}lx"), (wide + 48).to_string());
    let arguments = [
        "view",
        "pier.caltrin",
        "--eye",
        "bench",
        "--exposure",
        &lux,
        "--width",
        &width,
        "-o",
        "eye.png",
    ];
    let output = caltrin(folder, &arguments)?;
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let all = image::open(folder.join("eye.png"))?.to_rgb8();
    let high = (f64::from(wide) * 9.0 / 16.0).round() as u32;
    Ok(image::imageops::crop_imm(&all, 24, 78, wide, high).to_image())
}

/// Opens the page of the halt and looks through its eye.
async fn through(served: &Served) -> Result<Browser, Failed> {
    let browser = Browser::showing(served, (1280, 800), false).await?;
    browser.ask("document.querySelectorAll('button').forEach((b) => b.textContent === 'Got it' && b.click())").await?;
    Ok(browser)
}

async fn look(browser: &Browser) -> Done {
    browser.press("v").await?;
    browser.press("v").await?;
    browser.until("return document.getElementById('view').textContent === 'Through bench'").await?;
    even(browser).await
}

/// Makes the canvas as high as the command's picture of the same width, or higher by an even number of pixels, so that the
/// pixels of both lie upon each other.
async fn even(browser: &Browser) -> Done {
    for height in 800..806 {
        browser.client.set_window_size(1280, height).await?;
        tokio::time::sleep(std::time::Duration::from_millis(200)).await;
        let size = "const c = document.getElementById('canvas'); return [c.width, c.height]";
        let [wide, high]: [u32; 2] = serde_json::from_value(browser.ask(size).await?)?;
        if high.abs_diff((f64::from(wide) * 9.0 / 16.0).round() as u32) % 2 == 0 {
            return Ok(());
        }
    }
    Err("no window has such a canvas".into())
}

/// How far the page's picture is from the command's, of 255: the mean, and the part of pixels that differ by more than 12.
async fn apart(served: &Served, browser: &Browser) -> Result<(f64, f64), Failed> {
    let script = "const canvas = document.getElementById('canvas'); const all = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height); \
                  const seen = []; for (let y = 0; y < all.height; y += 2) for (let x = 0; x < all.width; x += 2) for (let k = 0; k < 3; ++k) seen.push(all.data[(y * all.width + x) * 4 + k]); \
                  return [all.width, all.height, seen]";
    let (wide, high, seen): (u32, u32, Vec<u8>) =
        serde_json::from_value(browser.ask(script).await?)?;
    let bright =
        browser.ask("return window.caltrin.bright").await?.as_f64().ok_or("an exposure")?;
    let drawn = drawn(served.folder.path(), wide, bright)?;
    let (mut sum, mut count, mut far) = (0u64, 0u64, 0u64);
    for (n, pixel) in seen.chunks(3).enumerate() {
        let (x, y) = (n as u32 % wide.div_ceil(2) * 2, n as u32 / wide.div_ceil(2) * 2);
        // Both have the same middle.
        let row = i64::from(y) - (i64::from(high) - i64::from(drawn.height())) / 2;
        let Some(row) = u32::try_from(row).ok().filter(|row| *row < drawn.height()) else {
            continue;
        };
        let Rgb(wanted) = *drawn.get_pixel(x, row);
        let most = pixel.iter().zip(wanted).map(|(a, b)| a.abs_diff(b)).max().unwrap_or(0);
        sum += pixel.iter().zip(wanted).map(|(a, b)| u64::from(a.abs_diff(b))).sum::<u64>();
        far += u64::from(most > 12);
        count += 1;
    }
    assert!(count > 20_000, "{count}");
    Ok((sum as f64 / (3 * count) as f64, far as f64 / count as f64))
}

async fn the_page_shows_what_the_command_draws() -> Done {
    let served = halt()?;
    let browser = through(&served).await?;
    browser.press(" ").await?;
    // Keeps what ends the use of the graphics processor.
    browser.ask("const own = HTMLCanvasElement.prototype.getContext; HTMLCanvasElement.prototype.getContext = function (kind, ...more) { const made = own.call(this, kind, ...more); if (kind === 'webgl2') window.lose = () => made.getExtension('WEBGL_lose_context').loseContext(); return made; }").await?;
    look(&browser).await?;
    // As many pixels as the canvas has; where a program draws, that is a choice.
    let whole = "const [w, h] = window.caltrin.painted ?? [0, 0]; const c = document.getElementById('canvas'); return w === c.width && h === c.height";
    if browser.ask(whole).await? != json!(true) {
        browser.press("g").await?;
    }
    browser.until(whole).await?;
    tokio::time::sleep(std::time::Duration::from_millis(600)).await;
    let (mean, far) = apart(&served, &browser).await?;
    assert!(mean < 1.0 && far < 0.01, "mean {mean}, far {far}");
    // Without the graphics processor it goes on.
    browser.ask("window.lose()").await?;
    browser.until("return window.caltrin.painted === null").await?;
    tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    let (mean, far) = apart(&served, &browser).await?;
    assert!(mean < 5.0 && far < 0.15, "mean {mean}, far {far}");
    browser.close().await
}

async fn a_browser_without_a_graphics_processor_draws_fewer_pixels() -> Done {
    let served = halt()?;
    let browser = through(&served).await?;
    browser.press(" ").await?;
    browser.ask("const own = HTMLCanvasElement.prototype.getContext; HTMLCanvasElement.prototype.getContext = function (kind, ...more) { return kind === 'webgl2' ? null : own.call(this, kind, ...more); }").await?;
    look(&browser).await?;
    tokio::time::sleep(std::time::Duration::from_millis(600)).await;
    assert_eq!(browser.ask("return window.caltrin.painted").await?, json!(null));
    let (mean, far) = apart(&served, &browser).await?;
    // Edges are as coarse as its cells.
    assert!(mean < 5.0 && far < 0.15, "mean {mean}, far {far}");
    browser.close().await
}

async fn eyes_are_moved_turned_and_widened() -> Done {
    let served = halt()?;
    let browser = through(&served).await?;
    browser.press(" ").await?;
    // From above where it is and, once it is selected, what it looks toward.
    press(&browser, "bench eye", &key(Key::Left)).await?;
    served.written(&HALT.replace("at (-2m, 1.6m, 7m)", "at (-2.1m, 1.6m, 7m)"))?;
    undone(&served, &browser, HALT).await?;
    browser.named("bench eye").await?.click().await?;
    press(&browser, "bench looks toward", &key(Key::PageUp)).await?;
    served.written(&HALT.replace("toward (0m, 1.5m, -3m)", "toward (0m, 1.6m, -3m)"))?;
    undone(&served, &browser, HALT).await?;
    browser.drag("bench eye", (40.0, 0.0)).await?;
    served.until(|state| state["eyes"][0]["at"][0].as_f64().is_some_and(|x| x > -1.5))?;
    let at = served.state()?["eyes"][0]["at"].clone();
    assert_eq!((&at[1], &at[2]), (&json!(1.6), &json!(7.0)), "{at}");
    browser.until("return (document.body.dataset.open ?? '0') === '0'").await?;
    undone(&served, &browser, HALT).await?;

    // Through it: turned, walked and widened by keys.
    look(&browser).await?;
    browser.accessible().await?;
    press(&browser, "Turn bench", &key(Key::Right)).await?;
    let turned =
        served.until(|state| state["eyes"][0]["toward"][0] != json!(0.0))?["eyes"][0].clone();
    let toward: [f64; 3] = serde_json::from_value(turned["toward"].clone())?;
    let angle = |x: f64, z: f64| (x + 2.0).atan2(7.0 - z).to_degrees();
    assert!((angle(toward[0], toward[2]) - angle(0.0, -3.0) - 2.0).abs() < 0.1, "{toward:?}");
    assert!((toward[1] - 1.5).abs() < 0.02 && turned["at"] == json!([-2.0, 1.6, 7.0]), "{turned}");
    undone(&served, &browser, HALT).await?;
    press(&browser, "Walk with bench", &key(Key::Up)).await?;
    // Half a meter ahead on the level; both points go.
    let length = (2.0f64 * 2.0 + 10.0 * 10.0).sqrt();
    let by = [0.5 * 2.0 / length, -0.5 * 10.0 / length];
    let round = |v: f64| (v * 100.0).round() / 100.0;
    let at = format!("at ({}m, 1.6m, {}m)", round(-2.0 + by[0]), round(7.0 + by[1]));
    let toward = format!("toward ({}m, 1.5m, {}m)", round(by[0]), round(-3.0 + by[1]));
    served.written(
        &HALT.replace("at (-2m, 1.6m, 7m)", &at).replace("toward (0m, 1.5m, -3m)", &toward),
    )?;
    undone(&served, &browser, HALT).await?;
    press(&browser, "bench field", &key(Key::Up)).await?;
    served.written(&HALT.replace("field 80deg", "field 81deg"))?;
    undone(&served, &browser, HALT).await?;

    // By pointer: the picture itself is dragged, as far as the hand goes.
    let canvas = "const b = document.getElementById('canvas').getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 3, b.width]";
    let [x, y, wide]: [f64; 3] = serde_json::from_value(browser.ask(canvas).await?)?;
    let to = |x: f64| PointerAction::MoveTo {
        duration: Some(std::time::Duration::from_millis(40)),
        x,
        y,
    };
    let hand = MouseActions::new("hand".to_owned())
        .then(to(x.round()))
        .then(PointerAction::Down { button: 0 })
        .then(to((x - wide / 16.0).round()))
        .then(to((x - wide / 8.0).round()))
        .then(PointerAction::Up { button: 0 });
    browser.client.perform_actions(hand).await?;
    let wanted = angle(0.0, -3.0) + 10.0;
    let state = served.until(|state| {
        let toward = &state["eyes"][0]["toward"];
        let now = angle(toward[0].as_f64().unwrap_or(0.0), toward[2].as_f64().unwrap_or(0.0));
        (now - wanted).abs() < 0.6
    })?;
    assert_eq!(state["history"][0]["own"], json!(true));
    browser.until("return (document.body.dataset.open ?? '0') === '0'").await?;
    undone(&served, &browser, HALT).await?;
    browser.drag("bench field", (-50.0, 0.0)).await?;
    served.written(&HALT.replace("field 80deg", "field 75deg"))?;
    undone(&served, &browser, HALT).await?;

    // A new one where the place is clicked; the list of commands looks through it.
    browser.press("v").await?;
    browser.ask("const add = document.getElementById('add'); add.value = 'eye'; add.dispatchEvent(new Event('change'));").await?;
    browser.ask("const box = document.getElementById('canvas').getBoundingClientRect(); document.getElementById('canvas').dispatchEvent(new MouseEvent('click', { clientX: box.x + 60, clientY: box.y + 40 }))").await?;
    served.until(|state| state["eyes"][1]["name"] == "eye_1")?;
    browser.until("return document.querySelector('[aria-label=\"eye_1 eye\"]') !== null").await?;
    browser.press(&(key(Key::Control) + "k")).await?;
    let list = browser.client.wait().for_element(Locator::Css("dialog[open] input")).await?;
    list.send_keys("through eye_1").await?;
    list.send_keys(&key(Key::Enter)).await?;
    browser.until("return document.getElementById('view').textContent === 'Through eye_1'").await?;
    browser.close().await
}

async fn corners_of_pictures_follow_the_hand() -> Done {
    let served = halt()?;
    let browser = through(&served).await?;
    browser.press(" ").await?;
    press(&browser, "floor.png first corner", &key(Key::Up)).await?;
    served.written(&HALT.replace("from (-6m, 0m, -3m)", "from (-6m, 0m, -3.1m)"))?;
    undone(&served, &browser, HALT).await?;
    browser.drag("floor.png second corner", (20.0, 0.0)).await?;
    served.until(|state| state["backdrops"][0]["to"][0].as_f64().is_some_and(|x| x > 6.2))?;
    browser.until("return (document.body.dataset.open ?? '0') === '0'").await?;
    undone(&served, &browser, HALT).await?;
    // A picture that changes is shown as it is now.
    let before = served.state()?["backdrops"][0]["stamp"].clone();
    RgbImage::from_pixel(8, 8, Rgb([255, 255, 255]))
        .save(served.folder.path().join("floor.png"))?;
    served.until(|state| state["backdrops"][0]["stamp"] != before)?;
    browser.close().await
}

/// A picture as bytes of a format.
fn encoded(format: ImageFormat) -> Result<Vec<u8>, Failed> {
    let mut bytes = std::io::Cursor::new(Vec::new());
    RgbImage::from_pixel(16, 8, Rgb([40, 160, 90])).write_to(&mut bytes, format)?;
    Ok(bytes.into_inner())
}

fn pictures_are_read_or_it_is_said_why_not() -> Done {
    let folder = tempfile::tempdir()?;
    let put = |name: &str, bytes: &[u8]| std::fs::write(folder.path().join(name), bytes);
    put("a.png", &encoded(ImageFormat::Png)?)?;
    put("b.jpg", &encoded(ImageFormat::Jpeg)?)?;
    put("c.webp", &encoded(ImageFormat::WebP)?)?;
    put("d.png", &encoded(ImageFormat::Png)?[..20])?;
    put("e.png", b"no picture")?;
    // A header that claims 60,000 x 60,000 pixels.
    let mut huge = encoded(ImageFormat::Png)?;
    huge[16..24].copy_from_slice(&[0, 0, 0xea, 0x60, 0, 0, 0xea, 0x60]);
    let sum = crc(&huge[12..29]);
    huge[29..33].copy_from_slice(&sum.to_be_bytes());
    put("f.png", &huge)?;
    let names = [
        "a.png",
        "b.jpg",
        "c.webp",
        "d.png",
        "e.png",
        "f.png",
        "../g.png",
        "/etc/h.png",
        "absent.png",
        "B.jpg",
    ];
    let lines =
        names.map(|name| format!("backdrop \"{name}\" {{ from (0m, 0m, 0m); to (4m, 0m, 2m) }}\n"));
    let book = format!(
        "lightbook \"P\"\nlight l point {{ position (0m, 2m, 0m); intensity 5cd }}\n{}",
        lines.concat()
    );
    put("p.caltrin", book.as_bytes())?;
    let output = caltrin(folder.path(), &["check", "p.caltrin"])?;
    let told = String::from_utf8(output.stdout)? + &String::from_utf8(output.stderr)?;
    for wanted in [
        "`d.png` is damaged",
        "`e.png` is not a PNG, JPEG or WebP picture",
        "`f.png` is 60000 x 60000 pixels; the limit is 64 megapixels",
        "`../g.png` is outside the book's folder",
        "`/etc/h.png` is outside the book's folder",
        "there is no `absent.png` in the book's folder",
        "there is no `B.jpg` in the book's folder; did you mean `b.jpg`?",
    ] {
        assert!(told.contains(wanted), "{wanted}: {told}");
    }
    assert!(
        !told.contains("`a.png` is") && !told.contains("`b.jpg` is") && !told.contains("`c.webp`"),
        "{told}"
    );
    assert!(told.contains("C19"), "{told}");
    // The place is drawn with what there is.
    let output = caltrin(folder.path(), &["view", "p.caltrin"])?;
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    // An output never replaces a picture of the book.
    let output = caltrin(folder.path(), &["view", "p.caltrin", "-o", "a.png"])?;
    assert!(!output.status.success());
    assert_eq!(std::fs::read(folder.path().join("a.png"))?, encoded(ImageFormat::Png)?);
    // A damaged one is served no more than one elsewhere.
    let named = tempfile::tempdir()?;
    std::fs::write(named.path().join("pier.caltrin"), &book)?;
    std::fs::write(named.path().join("a.png"), encoded(ImageFormat::Png)?)?;
    std::fs::write(named.path().join("e.png"), "no picture")?;
    let served = Served::at(named, 0)?;
    served.until(|state| state["good"].is_u64())?;
    for (n, wanted) in [(0, 200), (4, 404), (6, 404), (7, 404), (99, 404)] {
        let found = page::status(&format!("{}/picture/{n}", served.address))?;
        assert_eq!(found, wanted, "{n}");
    }
    Ok(())
}

/// The checksum of a chunk of a PNG file.
fn crc(bytes: &[u8]) -> u32 {
    !bytes.iter().fold(!0u32, |crc, byte| {
        (0..8).fold(crc ^ u32::from(*byte), |crc, _| {
            (crc >> 1) ^ (0xedb8_8320 & (crc & 1).wrapping_neg())
        })
    })
}

fn eyes_that_are_not_there_are_told() -> Done {
    let folder = tempfile::tempdir()?;
    std::fs::write(folder.path().join("pier.caltrin"), HALT)?;
    let told = |arguments: &[&str]| -> Result<String, Failed> {
        let output = caltrin(folder.path(), arguments)?;
        assert_eq!(output.status.code(), Some(2), "{arguments:?}");
        Ok(String::from_utf8(output.stderr)?)
    };
    let no = told(&["view", "pier.caltrin", "--eye", "door"])?;
    assert!(no.contains("the book has no eye `door`") && no.contains("its eyes: bench"), "{no}");
    let both = told(&["view", "pier.caltrin", "--eye", "bench", "--view", "front"])?;
    assert!(both.contains("cannot be used with"), "{both}");
    std::fs::write(
        folder.path().join("pier.caltrin"),
        "lightbook \"N\"\nlight l point { intensity 1cd; position (0m, 1m, 0m) }",
    )?;
    let none = told(&["view", "pier.caltrin", "--eye", "door"])?;
    assert!(none.contains("declare one, as in `eye door {"), "{none}");
    // Inside a post an eye sees out of it, and on a wall it sees one side.
    let inside = HALT.replace("at (-2m, 1.6m, 7m)", "at (-4m, 1.6m, 1.5m)");
    std::fs::write(folder.path().join("pier.caltrin"), &inside)?;
    tiles(folder.path())?;
    let drawn = drawn(folder.path(), 400, 2.0)?;
    let first = drawn.get_pixel(200, 180);
    assert!(drawn.pixels().any(|pixel| pixel != first), "the place is seen");
    Ok(())
}

/// Runs git in a folder.
fn git(folder: &Path, arguments: &[&str]) -> Done {
    let own =
        ["-c", "user.name=Ada", "-c", "user.email=ada@example.org", "-c", "commit.gpgsign=false"];
    let output = Command::new("git").current_dir(folder).args(own).args(arguments).output()?;
    match output.status.success() {
        true => Ok(()),
        false => Err(String::from_utf8_lossy(&output.stderr).into_owned().into()),
    }
}

/// The halt with its tubes half as strong, a wall more and no spill.
fn changed() -> String {
    let (before, after) = HALT.split_once("light spill").expect("a spill");
    let rest = after.split_once("}\n").expect("its end").1;
    format!("{before}{rest}").replace("300lm", "150lm").replace(
        "wall back",
        "wall side { along (6m, 0m, -3m)..(6m, 0m, 3m); height 2m }\nwall back",
    )
}

/// The halt in git, with a change after the last commit; another book lies beside it.
fn committed() -> Result<tempfile::TempDir, Failed> {
    let folder = tempfile::tempdir()?;
    std::fs::write(folder.path().join("pier.caltrin"), HALT)?;
    std::fs::write(folder.path().join("dark.caltrin"), HALT.replace("300lm", "3lm"))?;
    tiles(folder.path())?;
    git(folder.path(), &["init", "-q"])?;
    git(folder.path(), &["add", "."])?;
    git(folder.path(), &["commit", "-q", "-m", "Light the \"halt\" <b>"])?;
    std::fs::write(folder.path().join("pier.caltrin"), changed())?;
    Ok(folder)
}

async fn a_version_of_git_or_another_book_is_compared_with() -> Done {
    let served = Served::at(committed()?, 0)?;
    let browser = through(&served).await?;
    browser.press(" ").await?;
    let picture = |canvas: &str| format!("return document.getElementById('{canvas}').toDataURL()");
    tokio::time::sleep(std::time::Duration::from_millis(300)).await;
    let b = browser.ask(&picture("canvas")).await?;
    // From the list of commands, by keys alone.
    browser.press(&(key(Key::Control) + "k")).await?;
    let list = browser.client.wait().for_element(Locator::Css("dialog[open] input")).await?;
    list.send_keys("version of git").await?;
    list.send_keys(&key(Key::Enter)).await?;
    browser.until("return [...document.querySelectorAll('.others button')].length === 2").await?;
    let words = browser
        .ask("return [...document.querySelectorAll('.others button')].map((b) => b.textContent)")
        .await?;
    assert!(
        words[0].as_str().is_some_and(|words| words.ends_with("Light the \"halt\" <b>")),
        "{words}"
    );
    assert_eq!(words[1], json!("dark.caltrin"));
    browser.client.active_element().await?.send_keys(&key(Key::Enter)).await?;
    browser.until("return document.getElementById('flick').hidden === false").await?;
    // In words and figures.
    browser.until("return document.getElementById('ab').textContent.includes('spill')").await?;
    let told = browser.ask("return document.getElementById('ab').textContent").await?;
    let told = told.as_str().ok_or("words")?;
    assert!(told.contains("spill removed") && told.contains("tube changed"), "{told}");
    assert!(told.contains("intensity: was 300 lm, is 150 lm (-50%)"), "{told}");
    assert!(told.contains("other lights are unchanged"), "{told}");
    // The place is split; the line is moved by keys and by pointer.
    browser.press("p").await?;
    browser.until("return document.getElementById('canvas-a').hidden === false").await?;
    let clip = "return document.getElementById('canvas-a').style.clipPath";
    press(&browser, "Divider between A and B", &key(Key::Right).repeat(5)).await?;
    assert_eq!(browser.ask(clip).await?, json!("inset(0px 40% 0px 0px)"));
    browser.accessible().await?;
    let wide = browser
        .ask("return document.getElementById('view-box').clientWidth")
        .await?
        .as_f64()
        .ok_or("a width")?;
    browser.drag("Divider between A and B", (-0.3 * wide, 0.0)).await?;
    let clip = browser.ask(clip).await?;
    let right: f64 = clip
        .as_str()
        .and_then(|clip| clip.split(' ').nth(1)?.strip_suffix('%')?.parse().ok())
        .ok_or("a clip")?;
    assert!((right - 70.0).abs() <= 1.5, "{clip}");
    tokio::time::sleep(std::time::Duration::from_millis(300)).await;
    assert_eq!(browser.ask(&picture("canvas")).await?, b, "B is as it was");
    let a = browser.ask(&picture("canvas-a")).await?;
    assert_ne!(a, b);
    // Back to A is a change like any other, and B is then what A was.
    browser.client.find(Locator::Id("back-a")).await?.click().await?;
    served.written(HALT)?;
    browser
        .until("return document.getElementById('ab').textContent.includes('No light differs')")
        .await?;
    undone(&served, &browser, &changed()).await?;
    // Another book; there is no text to go back to.
    browser.client.find(Locator::Id("other-a")).await?.click().await?;
    browser
        .client
        .wait()
        .for_element(Locator::Css(".others button:nth-child(2)"))
        .await?
        .click()
        .await?;
    browser
        .until("return document.querySelector('#ab b')?.textContent === 'A is dark.caltrin'")
        .await?;
    browser
        .until("return document.getElementById('ab').textContent.includes('was 3 lm, is 150 lm')")
        .await?;
    assert_eq!(
        browser.ask("return document.getElementById('back-a').disabled").await?,
        json!(true)
    );
    // What is not there is told, and nothing outside the folder is read.
    let key = served.key()?;
    let ask = |body: serde_json::Value, key: &str| {
        page::post(&format!("{}/other", served.address), &[("x-caltrin-key", key)], &body)
    };
    assert_eq!(ask(json!({ "book": "dark.caltrin" }), "no")?.0, 403);
    for (body, told) in [
        (json!({ "book": "../dark.caltrin" }), "is outside the book's folder"),
        (json!({ "book": "none.caltrin" }), "cannot read"),
        (json!({ "revision": "--output=x" }), "is not a revision"),
        (json!({ "revision": "v9" }), "git has no `pier.caltrin` at `v9`"),
    ] {
        let (status, answer) = ask(body, &key)?;
        let why = answer["why"].as_str().unwrap_or_default().to_owned();
        assert!(status == 422 && why.contains(told), "{status} {why}");
    }
    browser.close().await
}

fn places_are_drawn_side_by_side() -> Done {
    let folder = committed()?;
    let compare =
        |more: &[&str]| caltrin(folder.path(), &[&["compare", "pier.caltrin"], more].concat());
    let drawn = |more: &[&str]| -> Result<[RgbImage; 2], Failed> {
        let output = compare(&[more, &["-o", "both.png"]].concat())?;
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        let all = image::open(folder.path().join("both.png"))?.to_rgb8();
        let half = (all.width() - 48 - 12) / 2;
        // What lies under a place is words.
        let high = all.height() - 78 - 64;
        Ok([24, 24 + half + 12]
            .map(|x| image::imageops::crop_imm(&all, x, 78, half, high).to_image()))
    };
    for view in [&["--view"][..], &["--view=front"], &["--eye", "bench"]] {
        let [same, own] = drawn(&[&["pier.caltrin"], view].concat())?;
        assert_eq!(same, own, "{view:?}");
        let [first, second] = drawn(&[&["--since", "HEAD"], view].concat())?;
        assert_ne!(first, second, "{view:?}");
    }
    // The same part of the place, as bright: what did not change is the same on both sides. From above that is the corner
    // farthest from all lamps.
    let [first, second] = drawn(&["dark.caltrin", "--view"])?;
    assert!(first.pixels().zip(second.pixels()).any(|(a, b)| a == b));
    let output = compare(&[
        "--since",
        "HEAD",
        "--view",
        "--to",
        "500ms",
        "--rate",
        "10",
        "-o",
        "moving.apng",
    ])?;
    let told = String::from_utf8(output.stdout)?;
    assert!(told.contains("6 pictures"), "{told}{}", String::from_utf8_lossy(&output.stderr));
    for (more, told) in [
        (&["--since", "HEAD", "-o", "x.apng"][..], "lanes cannot be written as an animation"),
        (&["--since", "HEAD", "--at", "2s"], "`--at` requires `--view`"),
        (&["--since", "HEAD", "--eye", "door"], "has no eye `door`"),
        (&["--since", "HEAD", "--view", "--to", "1h", "-o", "x.apng"], "at most 1800 frames"),
        (&["--since", "HEAD", "--view", "--at", "12:00"], "clock"),
        (&["--since=--exec=x", "--view"], "is not a revision"),
    ] {
        let output = compare(more)?;
        let error = String::from_utf8_lossy(&output.stderr).into_owned();
        assert!(output.status.code() == Some(2) && error.contains(told), "{more:?}: {error}");
    }
    Ok(())
}

async fn meters_and_notices_follow_the_run() -> Done {
    let folder = tempfile::tempdir()?;
    let more = "curve climb { 0s 0%; 10s 100% }\nevent tick every 500ms\nat tick send thud\n\
                light rising point { position (0m, 2m, 5m); intensity 80cd * loop(climb) }\n";
    std::fs::write(folder.path().join("pier.caltrin"), format!("{HALT}{more}"))?;
    let served = Served::at(folder, 0)?;
    let browser = through(&served).await?;
    browser.ask("const s = document.getElementById('speed'); s.value = '5'; s.dispatchEvent(new Event('change'))").await?;
    browser.until("return window.caltrin.now > 7 && window.caltrin.now < 9.5").await?;
    browser.press(" ").await?;
    browser.until("return document.body.dataset.drawn === document.body.dataset.good").await?;
    let state = "return [window.caltrin.now, Number(document.querySelector('.lane[data-light=rising] .meter i').dataset.level), \
                 document.querySelectorAll('#notices div').length]";
    let near = |level: f64, now: f64| (level - now % 10.0 / 10.0).abs() < 0.03;
    let [now, level, notices]: [f64; 3] = serde_json::from_value(browser.ask(state).await?)?;
    assert!(near(level, now), "{level} at {now}");
    // Every one is listed, with its time.
    assert!((notices - (now / 0.5).floor()).abs() <= 1.0, "{notices} at {now}");
    let first = browser.ask("return document.querySelector('#notices div').textContent").await?;
    assert_eq!(first, json!("0.50 s thud"));
    browser.press(&key(Key::Home)).await?;
    browser.until("return document.querySelector('.lane[data-light=rising] .meter i').dataset.level < 0.03").await?;
    browser.until("return document.getElementById('notices').textContent === 'none yet'").await?;
    // Without the controls the place has all of their height.
    browser.press("4").await?;
    browser.until("return document.getElementById('place').clientHeight > 0.95 * document.getElementById('side').clientHeight").await?;
    browser.close().await
}

async fn a_shared_page_plays_by_itself() -> Done {
    let folder = tempfile::tempdir()?;
    // What would end the script that the book stands in.
    let book = HALT.replace(
        "light glow",
        "// </script><!-- <script> \u{2028} --> the end\nsound horn = \"horn.wav\"\nrehearsal night { 2s end }\nlight siren point { intensity 9cd * follow(horn) }\nlight glow",
    );
    std::fs::write(folder.path().join("pier.caltrin"), &book)?;
    let (_, horn) =
        caltrin::SOUNDS.iter().find(|(name, _)| name.ends_with("horn.wav")).ok_or("a sound")?;
    std::fs::write(folder.path().join("horn.wav"), horn)?;
    tiles(folder.path())?;
    let share =
        |more: &[&str]| caltrin(folder.path(), &[&["share", "pier.caltrin"], more].concat());
    for (more, told) in [
        (&["--eye", "door"][..], "its eyes: bench"),
        (&["--rehearsal", "day"], "night"),
        (&["--from", "5s", "--to", "5s"], "the span must be"),
        (&["-o", "x.png"], "is not a page"),
        (&["--from", "17:00", "--to", "5s"], "are moments of the run"),
    ] {
        let output = share(more)?;
        let error = String::from_utf8_lossy(&output.stderr).into_owned();
        assert!(output.status.code() == Some(2) && error.contains(told), "{more:?}: {error}");
    }
    let output = share(&[
        "--eye",
        "bench",
        "--rehearsal",
        "night",
        "--from",
        "3s",
        "--to",
        "7s",
        "--seed",
        "5",
    ])?;
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let path = folder.path().join("pier-share.html");
    let page = std::fs::read_to_string(&path)?;
    let place = folder.path().to_string_lossy().into_owned();
    assert!(!page.contains(&place) && !page.contains("http://127"), "nothing of the machine");
    // It replaces its own file, and no other.
    assert!(share(&[])?.status.success());
    std::fs::write(&path, "mine")?;
    assert!(!share(&[])?.status.success());
    // The folder is not needed.
    let elsewhere = tempfile::tempdir()?;
    let alone = elsewhere.path().join("halt.html");
    std::fs::write(&alone, &page)?;
    drop(folder);
    let browser = Browser::open(1280, 800, false).await?;
    browser.client.goto(&format!("file://{}", alone.display())).await?;
    browser.until("return document.body.dataset.drawn !== undefined").await?;
    browser.until("return document.getElementById('view').textContent === 'Through bench'").await?;
    browser.until("return window.caltrin.now > 3.2").await?;
    assert_eq!(browser.ask("return document.getElementById('seed').value").await?, json!("5"));
    assert_eq!(
        browser
            .ask("return document.querySelector('#controls select[aria-label=Rehearsal]').value")
            .await?,
        json!("night")
    );
    let text = "return document.getElementById('text').textContent.includes('the end')";
    assert_eq!(browser.ask(text).await?, json!(true));
    // It repeats its span.
    browser.ask("const s = document.getElementById('speed'); s.value = '20'; s.dispatchEvent(new Event('change'))").await?;
    for _ in 0..20 {
        let now = browser.ask("return window.caltrin.now").await?.as_f64().ok_or("a moment")?;
        assert!((3.0..=7.0 + 5.0).contains(&now), "{now}");
        tokio::time::sleep(std::time::Duration::from_millis(20)).await;
    }
    browser.press(" ").await?;
    // Looking around changes what is seen, by keys and by pointer; the book cannot be changed.
    let script = "const c = document.getElementById('canvas'); return Array.from(c.getContext('2d').getImageData(0, 0, c.width, 20).data).reduce((a, b) => (a * 31 + b) | 0, 7)";
    tokio::time::sleep(std::time::Duration::from_millis(700)).await;
    let first = browser.ask(script).await?;
    press(&browser, "Turn bench", &key(Key::Left).repeat(4)).await?;
    browser
        .until(&format!(
            "{} !== {first}",
            script.replace("return Array", "const sum = Array") + "; return sum"
        ))
        .await?;
    browser.drag("Walk with bench", (0.0, 30.0)).await?;
    assert_eq!(browser.ask("return document.getElementById('undo').disabled").await?, json!(true));
    let told = browser.ask("return document.getElementById('link').textContent + document.getElementById('saved').textContent").await?;
    assert_eq!(told, json!("offline copyread-only"));
    browser.close().await
}

fn main() {
    let arguments = Arguments::from_args();
    let mut trials = vec![
        Trial::test(
            "pictures_are_read_or_it_is_said_why_not",
            pictures_are_read_or_it_is_said_why_not,
        ),
        Trial::test("places_are_drawn_side_by_side", places_are_drawn_side_by_side),
        Trial::test("eyes_that_are_not_there_are_told", eyes_that_are_not_there_are_told),
    ];
    in_browser!(trials:
        the_page_shows_what_the_command_draws,
        a_browser_without_a_graphics_processor_draws_fewer_pixels,
        eyes_are_moved_turned_and_widened,
        corners_of_pictures_follow_the_hand,
        a_shared_page_plays_by_itself,
        meters_and_notices_follow_the_run,
        a_version_of_git_or_another_book_is_compared_with,
    );
    libtest_mimic::run(&arguments, trials).exit();
}
