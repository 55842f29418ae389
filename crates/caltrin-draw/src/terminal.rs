//! The terminal painter: lanes of a sheet as ribbons and curves in text, in as many colors as there are,
//! or in none.

use caltrin_core::quantity::Hours;
use caltrin_core::text::is_hidden;

use std::fmt::Write;

use crate::scale;
use crate::shape::{Picture, Reading, Readings};

/// What colors a terminal has.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Colors {
    /// 24 bits.
    True,
    /// The 256 of most terminals.
    Many,
    /// The 16 that every terminal has, as its owner chose them.
    Sixteen,
    /// None: strength is shown by how full a character is.
    None,
}

/// How a sheet is shown in text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct TerminalOptions {
    /// Columns, 24 at the least.
    pub width: usize,
    /// Lines that all of it may take; `None` for as many as there are. Lanes lose their curves first, then the last
    /// lanes are left out.
    pub height: Option<usize>,
    /// What colors there are.
    pub colors: Colors,
}

const LEVELS: [char; 8] = [
    '\u{2581}', '\u{2582}', '\u{2583}', '\u{2584}', '\u{2585}', '\u{2586}', '\u{2587}', '\u{2588}',
];
/// From dark to bright, for those who see no colors.
const SHADES: [char; 5] = [' ', '\u{2591}', '\u{2592}', '\u{2593}', '\u{2588}'];
/// The default look of the sixteen colors, 8-bit sRGB.
const SIXTEEN: [[u8; 3]; 16] = [
    [0, 0, 0],
    [170, 0, 0],
    [0, 170, 0],
    [170, 85, 0],
    [0, 0, 170],
    [170, 0, 170],
    [0, 170, 170],
    [170, 170, 170],
    [85, 85, 85],
    [255, 85, 85],
    [85, 255, 85],
    [255, 255, 85],
    [85, 85, 255],
    [255, 85, 255],
    [85, 255, 255],
    [255, 255, 255],
];

/// Paints the lanes of a sheet as text, line by line; empty for a picture without lanes.
pub fn terminal(picture: &Picture, options: &TerminalOptions) -> String {
    let Some(readings) = &picture.readings else { return String::new() };
    let width = options.width.max(24);
    let longest = readings.lanes.iter().map(|lane| columns(&lane.name)).max().unwrap_or(0);
    let label = longest.clamp(4, (width / 3).max(8)).min(28);
    let plot = width - label - 2;
    let arrays = readings.lanes.iter().any(|lane| lane.name.contains('['));
    let mut out = String::new();
    let title = picture.title.split(": timeline of").next().unwrap_or_default();
    push_line(&mut out, &fitted(title, width));
    for line in wrapped(&readings.about, width) {
        push_line(&mut out, &line);
    }
    push_line(&mut out, &ruler(readings, label, plot));
    let mut words = wrapped(&legend(options.colors, arrays), width);
    let all = readings.lanes.len();
    // One line is for what is left out, and one for the prompt.
    let room = options
        .height
        .map(|height| height.saturating_sub(out.lines().count() + words.len() + 2).max(1));
    let has_curves = room.is_none_or(|room| 2 * all <= room);
    let count = room.map_or(all, |room| if has_curves { all } else { all.min(room) });
    if !has_curves {
        words = wrapped(&plain_legend(options.colors), width);
    }
    for lane in &readings.lanes[..count] {
        let cells = cells(lane, plot);
        let name = padded(&middle_cut(&lane.name, label), label);
        let ribbon: String = match options.colors {
            Colors::None => cells.iter().map(|cell| SHADES[step(cell.level, 5)]).collect(),
            colors => painted(&cells, colors, |_| '\u{2588}'),
        };
        let _ = writeln!(out, "{name}  {ribbon}");
        if !has_curves {
            continue;
        }
        let curve = |cell: &Cell| if cell.level > 0.0 { LEVELS[step(cell.level, 8)] } else { ' ' };
        let curve: String = match options.colors {
            Colors::None => cells.iter().map(curve).collect(),
            colors => painted(&cells, colors, curve),
        };
        let about = padded(&fitted(&about(lane), label), label);
        let _ = writeln!(out, "{about}  {curve}");
    }
    if count < all {
        let left = format!(
            "{} of {all} lanes are omitted because the terminal is too small.",
            all - count
        );
        push_line(&mut out, &fitted(&left, width));
    }
    for line in words {
        push_line(&mut out, &line);
    }
    out
}

fn push_line(out: &mut String, line: &str) {
    out.push_str(line.trim_end());
    out.push('\n');
}

/// What the marks mean where lanes have no curves.
fn plain_legend(colors: Colors) -> String {
    format!("One line per lane: {}.", about_ribbons(colors))
}

/// What the marks mean in the colors that there are.
fn legend(colors: Colors, arrays: bool) -> String {
    let ribbon = about_ribbons(colors);
    let first = if arrays { ", the first lamp of an array," } else { "" };
    format!("Upper line: {ribbon}. Lower line: the mean level{first} and its top.")
}

fn about_ribbons(colors: Colors) -> &'static str {
    match colors {
        Colors::True => "color times strength, relative to the lane's maximum",
        Colors::Many => {
            "color times strength, relative to the lane's maximum, in the nearest of 256 colors"
        }
        Colors::Sixteen => {
            "color times strength, relative to the lane's maximum, in the nearest of the terminal's 16 colors"
        }
        Colors::None => {
            "strength relative to the lane's maximum, from blank (dark) to full; color is not shown"
        }
    }
}

fn about(lane: &Reading) -> String {
    let unit = &lane.unit;
    let top = f64::from(lane.top);
    let top = match unit.as_str() {
        "" => format!("{}%", scale::short(top * 100.0)),
        unit => format!("{} {unit}", scale::short(top)),
    };
    let found = lane.findings.join(" ");
    if found.is_empty() { top } else { format!("{top} {found}") }
}

struct Cell {
    level: f32,
    color: [u8; 3],
}

/// The lane's columns gathered into as many cells.
fn cells(lane: &Reading, count: usize) -> Vec<Cell> {
    let total = lane.levels.len();
    (0..count)
        .map(|n| {
            let (first, last) =
                (n * total / count, ((n + 1) * total / count).max(n * total / count + 1));
            let own = first.min(total.saturating_sub(1))..last.min(total);
            let many = own.len().max(1) as f32;
            let mean = lane.levels[own.clone()].iter().map(|l| l[1]).sum::<f32>() / many;
            let mut color = [0u32; 3];
            for one in &lane.colors[own] {
                for (sum, part) in color.iter_mut().zip(one) {
                    *sum += u32::from(*part);
                }
            }
            let level = if lane.top > 0.0 { (mean / lane.top).clamp(0.0, 1.0) } else { 0.0 };
            Cell { level, color: color.map(|sum| (sum as f32 / many) as u8) }
        })
        .collect()
}

/// Which of so many steps a level is; only nothing is the first.
fn step(level: f32, steps: usize) -> usize {
    ((level * steps as f32) as usize).min(steps - 1)
}

/// Cells in colors; the color is said again only where it changes.
fn painted(cells: &[Cell], colors: Colors, glyph: impl Fn(&Cell) -> char) -> String {
    let mut out = String::new();
    let mut before = String::new();
    for cell in cells {
        let [r, g, b] = cell.color;
        let code = match colors {
            Colors::True => format!("38;2;{r};{g};{b}"),
            Colors::Many => format!("38;5;{}", nearest_of_256(cell.color)),
            Colors::Sixteen => {
                let n = nearest(cell.color, &SIXTEEN);
                if n < 8 { format!("{}", 30 + n) } else { format!("{}", 82 + n) }
            }
            Colors::None => String::new(),
        };
        if code != before {
            let _ = write!(out, "\u{1b}[{code}m");
            before = code;
        }
        out.push(glyph(cell));
    }
    if !before.is_empty() {
        out.push_str("\u{1b}[0m");
    }
    out
}

fn apart(a: [u8; 3], b: [u8; 3]) -> u32 {
    // The eye tells greens apart best, and blues worst.
    let weights = [3, 4, 2];
    (0..3).map(|n| weights[n] * u32::from(a[n].abs_diff(b[n])).pow(2)).sum()
}

fn nearest(color: [u8; 3], all: &[[u8; 3]]) -> usize {
    let distance = |n: &usize| apart(color, all[*n]);
    (0..all.len()).min_by_key(distance).unwrap_or_default()
}

/// The nearest in the cube of 6 x 6 x 6 colors or among the grays.
fn nearest_of_256(color: [u8; 3]) -> usize {
    const SIDES: [u8; 6] = [0, 95, 135, 175, 215, 255];
    let side = |v: u8| (0..6).min_by_key(|n| SIDES[*n].abs_diff(v)).unwrap_or_default();
    let [r, g, b] = color.map(side);
    let cube = [SIDES[r], SIDES[g], SIDES[b]];
    let mean = color.iter().map(|v| u32::from(*v)).sum::<u32>() / 3;
    let gray = (mean.saturating_sub(3) / 10).min(23) as u8;
    let level = 8 + 10 * gray;
    if apart(color, [level; 3]) < apart(color, cube) {
        232 + usize::from(gray)
    } else {
        16 + 36 * r + 6 * g + b
    }
}

fn ruler(readings: &Readings, label: usize, plot: usize) -> String {
    let (from, to) = readings.span;
    let span = (to - from).max(1e-12);
    let step = match readings.unit.as_str() {
        "clock" => scale::hours(plot as f32, 8.0),
        _ => scale::step(span, (plot / 10).max(1)),
    };
    let mut line = vec![' '; label + 2 + plot];
    let mut free = 0;
    for n in (from / step - 1e-9).ceil() as i64..=(to / step + 1e-9).floor() as i64 {
        let v = n as f64 * step;
        let words = match readings.unit.as_str() {
            "s" => scale::moment(v, step),
            "clock" => Hours(v).to_clock(),
            "" => format!("{}%", scale::short(v * 100.0)),
            unit => format!("{} {unit}", scale::short(v)),
        };
        let at = label + 2 + ((v - from) / span * plot as f64) as usize;
        let long = words.chars().count() + 1;
        if at < free || at + long > line.len() {
            continue;
        }
        line[at] = '|';
        for (place, c) in line[at + 1..].iter_mut().zip(words.chars()) {
            *place = c;
        }
        free = at + long + 1;
    }
    line.into_iter().collect()
}

/// How many columns words take, a character one.
fn columns(words: &str) -> usize {
    words.chars().count()
}

fn padded(words: &str, to: usize) -> String {
    format!("{words}{}", " ".repeat(to.saturating_sub(columns(words))))
}

fn fitted(words: &str, most: usize) -> String {
    let plain = plain(words);
    if columns(&plain) <= most {
        return plain;
    }
    plain.chars().take(most.saturating_sub(1)).chain(['\u{2026}']).collect()
}

/// A name cut in its middle: names often differ at their end.
fn middle_cut(name: &str, most: usize) -> String {
    let name = plain(name);
    let count = columns(&name);
    if count <= most {
        return name;
    }
    let (start, end) = (most / 2, most - most / 2 - 1);
    name.chars().take(start).chain(['\u{2026}']).chain(name.chars().skip(count - end)).collect()
}

/// Nothing from the book can steer the terminal.
fn plain(words: &str) -> String {
    words.chars().map(|c| if is_hidden(c) { ' ' } else { c }).collect()
}

fn wrapped(words: &str, width: usize) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in plain(words).split_whitespace() {
        match lines.last_mut() {
            Some(line) if columns(line) + 1 + columns(word) <= width => {
                line.push(' ');
                line.push_str(word);
            }
            _ => lines.push(fitted(word, width)),
        }
    }
    lines
}
