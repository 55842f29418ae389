//! The live page as one self-contained file: page, book, exported module, sounds and pictures.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use caltrin::core::MADE;
use caltrin::{files, pictures};
use serde::Serialize;
use serde_json::{Value, json};

use super::{LARGEST_SOUND, Live, Sent};

/// How it begins.
#[derive(Clone, Debug, Serialize)]
pub struct Opens {
    /// The rehearsal that is played.
    pub rehearsal: Option<String>,
    /// The eye that is looked through.
    pub eye: Option<String>,
    /// `above` or `front`, without an eye.
    pub view: &'static str,
    /// The length of the span that is shown and repeated, in seconds.
    pub span: f64,
    /// The moment at which it begins, in seconds.
    pub at: f64,
    /// The seed; none for the book's own.
    pub seed: Option<u32>,
}

/// The content security policy: only embedded resources.
const POLICY: &str = "default-src 'none'; script-src 'unsafe-inline' blob:; style-src 'unsafe-inline'; font-src data:; \
    img-src data: blob:; media-src blob:; connect-src data:; base-uri 'none'; form-action 'none'";

fn data(kind: &str, bytes: &[u8]) -> String {
    format!("data:{kind};base64,{}", STANDARD.encode(bytes))
}

/// The page for the last valid version of the book; `None` if there is none.
pub fn page(live: &Live, opens: &Opens) -> Option<String> {
    let module = live.module()?;
    let mut state = live.state(&mut Sent::default());
    // The file must not contain paths or other details of this machine.
    for (name, value) in [
        ("readOnly", json!(true)),
        ("waiting", json!(false)),
        ("undo", json!(false)),
        ("redo", json!(false)),
        ("folder", json!("")),
        ("run", json!(0)),
        ("unwritten", Value::Null),
        ("history", json!([])),
        ("refused", json!([])),
    ] {
        state[name] = value;
    }
    let mut own = serde_json::Map::new();
    for n in 0.. {
        let Some((folder, name)) = live.sound(n) else { break };
        let read = files::open_within(&folder, std::path::Path::new(&name));
        if let Ok(bytes) = read.and_then(|file| files::read_open(&file, LARGEST_SOUND)) {
            own.insert(format!("/sound/{n}"), json!(data("application/octet-stream", &bytes)));
        }
    }
    for n in 0.. {
        let Some((folder, backdrop)) = live.backdrop(n) else { break };
        if let Ok((bytes, kind)) = pictures::bytes(&folder, &backdrop) {
            own.insert(format!("/picture/{n}"), json!(data(kind.media_type(), &bytes)));
        }
    }
    let all = json!({ "state": state, "module": module, "files": own, "opens": opens });
    // Nothing of the book ends the script that it stands in.
    let all = all.to_string().replace('<', "\\u003c");
    let script =
        include_str!("page.mjs").replace("</script", "<\\/script").replace("<!--", "<\\!--");
    let fonts = caltrin::draw::WEB_FONTS.map(|(bytes, _)| data("font/woff2", bytes));
    let style = include_str!("page.css")
        .replace("/regular.woff2", &fonts[0])
        .replace("/bold.woff2", &fonts[1]);
    let head = format!(
        "<meta charset=\"utf-8\">\n<meta name=\"generator\" content=\"{MADE}\">\n\
         <meta http-equiv=\"Content-Security-Policy\" content=\"{POLICY}\">"
    );
    let html = include_str!("page.html")
        .replace("<meta charset=\"utf-8\">", &head)
        .replace("{{key}}", "")
        .replace("{{nonce}}", "")
        .replace("<link rel=\"stylesheet\" href=\"/page.css\">", "{{style}}")
        .replace("<script type=\"module\" src=\"/page.mjs\"></script>", "");
    // The texts of the page hold none of these marks, those of the book are put in last.
    let html = html.replace("{{style}}", &format!("<style>\n{style}</style>"));
    let end = format!(
        "<script type=\"application/json\" id=\"copied\">{all}</script>\n<script type=\"module\">\n{script}</script>\n</body>"
    );
    Some(html.replacen("</body>", &end, 1))
}
