//! The live page as tests and benchmarks drive it: the command that serves it, and a browser under
//! WebDriver.

pub mod slipway;

use std::fs;
use std::io::{BufRead, BufReader};
use std::net::TcpListener;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use fantoccini::actions::{InputSource, MouseActions, PointerAction};
use fantoccini::elements::Element;
use fantoccini::{Client, ClientBuilder, Locator};
use hyper_util::client::legacy::connect::HttpConnector;
use libtest_mimic::Failed;
use serde_json::{Value, json};
use tempfile::TempDir;

pub type Done = Result<(), Failed>;

/// The command, serving a book of its own.
pub struct Served {
    child: Child,
    pub address: String,
    pub folder: TempDir,
}

/// Puts the sounds and pictures of the demonstration into a book's folder.
fn put_sounds(folder: &Path) -> std::io::Result<()> {
    fs::create_dir_all(folder.join("sounds"))?;
    fs::create_dir_all(folder.join("pictures"))?;
    caltrin::SOUNDS
        .iter()
        .chain(&caltrin::PICTURES)
        .try_for_each(|(name, bytes)| fs::write(folder.join(name), bytes))
}

impl Served {
    pub fn start(book: &str) -> Result<Served, Failed> {
        let folder = tempfile::tempdir()?;
        fs::write(folder.path().join("pier.caltrin"), book)?;
        put_sounds(folder.path())?;
        // Files that changed just before the start are read twice.
        std::thread::sleep(Duration::from_millis(30));
        Served::at(folder, 0)
    }

    pub fn at(folder: TempDir, port: u16) -> Result<Served, Failed> {
        Served::with(folder, port, &[])
    }

    /// With more arguments of the command.
    pub fn with(folder: TempDir, port: u16, more: &[&str]) -> Result<Served, Failed> {
        let port = port.to_string();
        let arguments = [&["pier.caltrin", "--port", &port], more].concat();
        Served::told(folder, &arguments)
    }

    /// With these arguments of `caltrin live`.
    pub fn told(folder: TempDir, arguments: &[&str]) -> Result<Served, Failed> {
        let mut child = Command::new(env!("CARGO_BIN_EXE_caltrin"))
            .arg("live")
            .args(arguments)
            .current_dir(folder.path())
            // Earlier versions are kept beside the book, not with those of the user.
            .env("XDG_STATE_HOME", folder.path().join("state"))
            .stdout(Stdio::piped())
            .spawn()?;
        let mut line = String::new();
        let out = child.stdout.take().ok_or("the command has an output")?;
        BufReader::new(out).read_line(&mut line)?;
        let address = line.split("/ ").next().unwrap_or_default().to_owned();
        if !address.starts_with("http://127.0.0.1:") {
            return Err(format!("the command said {line:?}").into());
        }
        Ok(Served { child, address, folder })
    }

    pub fn book(&self) -> PathBuf {
        self.folder.path().join("pier.caltrin")
    }

    pub fn text(&self) -> Result<String, Failed> {
        Ok(fs::read_to_string(self.book())?)
    }

    /// Waits until the file is as wanted.
    pub fn written(&self, wanted: &str) -> Done {
        let start = Instant::now();
        loop {
            let text = self.text()?;
            if text == wanted {
                return Ok(());
            }
            if start.elapsed() > Duration::from_secs(10) {
                return Err(
                    format!("the file is not as wanted:\n{}", difference(wanted, &text)).into()
                );
            }
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// The key that the page has.
    pub fn key(&self) -> Result<String, Failed> {
        let page = get(&self.address)?.1;
        let (_, rest) = page.split_once("caltrin-key\" content=\"").ok_or("the page has a key")?;
        Ok(rest.split('"').next().unwrap_or_default().to_owned())
    }

    /// Ends the command without asking it, and gives the folder.
    pub fn killed(mut self) -> TempDir {
        let _ = self.child.kill();
        let _ = self.child.wait();
        let spare = tempfile::tempdir().expect("a folder");
        std::mem::replace(&mut self.folder, spare)
    }

    pub fn state(&self) -> Result<Value, Failed> {
        let text = get(&format!("{}/state.json", self.address))?.1;
        Ok(serde_json::from_str(&text)?)
    }

    /// CPU time of the command so far, in hundredths of a second.
    #[cfg(target_os = "linux")]
    pub fn computed(&self) -> Result<u64, Failed> {
        let about = fs::read_to_string(format!("/proc/{}/stat", self.child.id()))?;
        let fields = about.rsplit(')').next().unwrap_or_default().split_whitespace().skip(11);
        Ok(fields.take(2).map(str::parse::<u64>).sum::<Result<u64, _>>()?)
    }

    /// Waits until the state is as wanted.
    pub fn until(&self, wanted: impl Fn(&Value) -> bool) -> Result<Value, Failed> {
        let start = Instant::now();
        loop {
            let state = self.state()?;
            if wanted(&state) {
                return Ok(state);
            }
            if start.elapsed() > Duration::from_secs(10) {
                return Err(format!("the state stays {state}").into());
            }
            std::thread::sleep(Duration::from_millis(10));
        }
    }
}

impl Drop for Served {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// The lines in which two texts differ.
pub fn difference(wanted: &str, found: &str) -> String {
    let (mut wanted, mut found): (Vec<&str>, Vec<&str>) =
        (wanted.lines().collect(), found.lines().collect());
    while wanted.last() == found.last() && wanted.pop().is_some() {
        found.pop();
    }
    let same = wanted.iter().zip(&found).take_while(|(a, b)| a == b).count();
    format!("line {}: wanted {:#?}, found {:#?}", same + 1, &wanted[same..], &found[same..])
}

/// Sends something to the page's server. Gives the status and what it answers.
pub fn post(address: &str, headers: &[(&str, &str)], body: &Value) -> Result<(u16, Value), Failed> {
    let agent: ureq::Agent =
        ureq::Agent::config_builder().http_status_as_error(false).build().into();
    let mut call = agent.post(address);
    for (name, value) in headers {
        call = call.header(*name, *value);
    }
    let mut answer = call.send(body.to_string())?;
    let text = answer.body_mut().read_to_string()?;
    Ok((answer.status().as_u16(), serde_json::from_str(&text).unwrap_or(Value::String(text))))
}

pub fn get(address: &str) -> Result<(u16, String), Failed> {
    request(address, None)
}

/// The status of an answer that is no text.
pub fn status(address: &str) -> Result<u16, Failed> {
    let agent: ureq::Agent =
        ureq::Agent::config_builder().http_status_as_error(false).build().into();
    Ok(agent.get(address).call()?.status().as_u16())
}

pub fn request(address: &str, host: Option<&str>) -> Result<(u16, String), Failed> {
    let agent: ureq::Agent =
        ureq::Agent::config_builder().http_status_as_error(false).build().into();
    let mut call = agent.get(address);
    if let Some(host) = host {
        call = call.header("Host", host);
    }
    let mut answer = call.call()?;
    Ok((answer.status().as_u16(), answer.body_mut().read_to_string()?))
}

/// Saves as editors do that write another file and rename it.
pub fn save(path: &Path, text: &str) -> Done {
    let beside = path.with_extension("part");
    fs::write(&beside, text)?;
    fs::rename(beside, path)?;
    Ok(())
}

/// A browser under a WebDriver of its own.
pub struct Browser {
    driver: Child,
    pub client: Client,
    _profile: TempDir,
}

impl Browser {
    pub async fn open(width: u32, height: u32, dark: bool) -> Result<Browser, Failed> {
        let port = TcpListener::bind("127.0.0.1:0")?.local_addr()?.port();
        let mut driver = Command::new("chromedriver");
        #[cfg(unix)]
        std::os::unix::process::CommandExt::process_group(&mut driver, 0);
        let driver = driver
            .arg(format!("--port={port}"))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()?;
        let profile = tempfile::tempdir()?;
        let mut arguments: Vec<String> = [
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--hide-scrollbars",
        ]
        .map(str::to_owned)
        .to_vec();
        arguments.push(format!("--user-data-dir={}", profile.path().display()));
        arguments.push(format!("--window-size={width},{height}"));
        arguments.extend(dark.then(|| "--force-dark-mode".to_owned()));
        let wanted = json!({ "goog:chromeOptions": { "args": arguments } });
        let Value::Object(wanted) = wanted else { return Err("options are an object".into()) };
        let start = Instant::now();
        loop {
            let mut builder = ClientBuilder::new(HttpConnector::new());
            match builder
                .capabilities(wanted.clone())
                .connect(&format!("http://127.0.0.1:{port}"))
                .await
            {
                Ok(client) => return Ok(Browser { driver, client, _profile: profile }),
                Err(why) if start.elapsed() > Duration::from_secs(20) => return Err(why.into()),
                Err(_) => tokio::time::sleep(Duration::from_millis(100)).await,
            }
        }
    }

    /// A browser that shows a served book.
    pub async fn showing(
        served: &Served,
        (width, height): (u32, u32),
        dark: bool,
    ) -> Result<Browser, Failed> {
        let browser = Browser::open(width, height, dark).await?;
        browser.client.goto(&served.address).await?;
        browser.until("return document.body.dataset.drawn !== undefined").await?;
        Ok(browser)
    }

    pub async fn ask(&self, script: &str) -> Result<Value, Failed> {
        Ok(self.client.execute(script, Vec::new()).await?)
    }

    pub async fn until(&self, script: &str) -> Result<(), Failed> {
        let start = Instant::now();
        while self.ask(script).await? != json!(true) {
            if start.elapsed() > Duration::from_secs(15) {
                let state = "const words = (id) => document.getElementById(id)?.textContent;\
                             return JSON.stringify([window.caltrin, document.body.dataset, ...['play', 'status', 'link', 'exposure'].map(words)])";
                let state = self.ask(state).await?;
                return Err(format!("it never holds that {script}; the page is at {state}").into());
            }
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
        Ok(())
    }

    /// What has a name for who does not see it.
    pub async fn named(&self, name: &str) -> Result<Element, Failed> {
        let start = Instant::now();
        loop {
            let found = self.client.find(Locator::Css(&format!("[aria-label=\"{name}\"]"))).await;
            match found {
                Ok(found) => return Ok(found),
                Err(_) if start.elapsed() < Duration::from_secs(10) => {
                    tokio::time::sleep(Duration::from_millis(20)).await;
                }
                Err(_) => {
                    let seen = "return [document.getElementById('status').textContent, ...[...document.querySelectorAll('#knobs [aria-label]')]\
                                .map((e) => e.getAttribute('aria-label'))].join('; ')";
                    let seen = self.ask(seen).await?;
                    return Err(format!("nothing is named {name}, but {seen}").into());
                }
            }
        }
    }

    /// Drags something from its middle.
    pub async fn drag(&self, name: &str, by: (f64, f64)) -> Done {
        let [x, y] = self.middle(name).await?;
        let to = |x: f64, y: f64| PointerAction::MoveTo {
            duration: Some(Duration::from_millis(30)),
            x,
            y,
        };
        let mut hand = MouseActions::new("hand".to_owned())
            .then(to(x, y))
            .then(PointerAction::Down { button: 0 });
        for n in 1..=8 {
            hand = hand.then(to(x + by.0 * f64::from(n) / 8.0, y + by.1 * f64::from(n) / 8.0));
        }
        self.client.perform_actions(hand.then(PointerAction::Up { button: 0 })).await?;
        Ok(())
    }

    /// Where its middle is seen.
    pub async fn middle(&self, name: &str) -> Result<[f64; 2], Failed> {
        self.named(name).await?;
        let script = "const e = document.querySelector(`[aria-label=\"${arguments[0]}\"]`); e.scrollIntoView({block: 'center'}); \
                      const b = e.getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2].map(Math.round)";
        let at = self.client.execute(script, vec![json!(name)]).await?;
        Ok(serde_json::from_value(at)?)
    }

    pub async fn press(&self, keys: &str) -> Result<(), Failed> {
        self.client.find(Locator::Css("body")).await?.send_keys(keys).await?;
        Ok(())
    }

    /// Fails where axe-core finds something that keeps people from using the page.
    pub async fn accessible(&self) -> Done {
        let file = concat!(env!("CARGO_MANIFEST_DIR"), "/page/node_modules/axe-core/axe.min.js");
        let axe = fs::read_to_string(file)
            .map_err(|why| format!("npm ci in crates/caltrin-cli/page brings axe-core: {why}"))?;
        self.ask(&format!("{axe}; return true")).await?;
        let run = "const done = arguments[arguments.length - 1]; axe.run(document, { resultTypes: ['violations'] }).then((r) => done(r.violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target).join(' ')}`)));";
        let found = self.client.execute_async(run, Vec::new()).await?;
        if found == json!([]) { Ok(()) } else { Err(format!("axe-core finds {found}").into()) }
    }

    pub async fn close(self) -> Done {
        let _ = self.client.clone().close().await;
        Ok(())
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        // A test that failed has not closed the browser: it ends with the driver's group.
        let group = format!("-{}", self.driver.id());
        let _ = Command::new("kill").args(["-KILL", "--", &group]).status();
        let _ = self.driver.wait();
    }
}

pub fn in_a_browser<F: Future<Output = Done>>(test: impl FnOnce() -> F) -> Done {
    tokio::runtime::Builder::new_current_thread().enable_all().build()?.block_on(test())
}

#[allow(unused_macros, reason = "benchmarks have no trials")]
/// Adds trials that need a browser; they are ignored where there is none.
macro_rules! in_browser {
    ($trials:ident: $($test:ident),+ $(,)?) => {
        let missing = std::process::Command::new("chromedriver").arg("--version").output().is_err();
        $($trials.push(
            libtest_mimic::Trial::test(stringify!($test), || $crate::page::in_a_browser($test))
                .with_ignored_flag(missing),
        );)+
    };
}
