//! The stock: what is in it, and a book that shows it.

use crate::STOCK;

/// A ready-made behavior.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Stocked {
    /// Its name.
    pub name: String,
    /// Its parameters with their defaults, as they are written.
    pub parameters: String,
    /// What it is, in a sentence or two.
    pub about: String,
    /// What its parameters do.
    pub knobs: String,
}

/// All of the stock's behaviors, in its order.
pub fn stock() -> Vec<Stocked> {
    let mut all = Vec::new();
    let mut comment: Vec<&str> = Vec::new();
    for line in STOCK.lines() {
        if let Some(words) = line.strip_prefix("// ") {
            comment.push(words);
            continue;
        }
        if let Some(rest) = line.strip_prefix("behavior ") {
            let (name, rest) = rest.split_once('(').unwrap_or((rest, ""));
            let parameters = closing(rest);
            // The words about parameters begin with the first one's name.
            let first = parameters.split(' ').next().unwrap_or_default();
            let at = comment.iter().position(|line| line.starts_with(&format!("{first}:")));
            let (about, knobs) = comment.split_at(at.unwrap_or(comment.len()));
            all.push(Stocked {
                name: name.trim().to_owned(),
                parameters: parameters.to_owned(),
                about: about.join(" "),
                knobs: knobs.join(" "),
            });
        }
        comment.clear();
    }
    all
}

/// What stands before the bracket that closes.
fn closing(text: &str) -> &str {
    let mut depth = 0;
    for (n, c) in text.char_indices() {
        match c {
            '(' => depth += 1,
            ')' if depth == 0 => return &text[..n],
            ')' => depth -= 1,
            _ => {}
        }
    }
    text
}

/// A lightbook with a light for each of the stock's behaviors, named after it: for pictures.
pub fn showcase() -> String {
    // A light and a behavior cannot have one name, so here the behaviors have another.
    let mut text = STOCK.replace("lightbook \"Stock\"", "lightbook \"The stock\"\nseed 23\n");
    let tints = [
        ("gas_mantle", "2300K"),
        ("failing_tube", "#e8f2ff"),
        ("welding_arc", "9500K"),
        ("standby_lamp", "#ff5a1f"),
        ("turning_beacon", "#9dffb0"),
        ("open_flame", "1900K"),
        ("dying_bulb", "2600K"),
        ("neon_warming", "#ff3060"),
        ("television_glow", "television_tint_()"),
        ("water_caustics", "#a8d8d0"),
    ];
    for stocked in stock() {
        let name = &stocked.name;
        text = text.replace(&format!("behavior {name}("), &format!("behavior {name}_("));
    }
    for (name, tint) in tints {
        text += &format!("light {name} point {{ color {tint}; intensity {name}_() }}\n");
    }
    text
}
