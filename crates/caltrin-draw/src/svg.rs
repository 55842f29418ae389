//! The SVG painter. It carries its type with it; the same picture gives the same bytes.

use std::fmt::Write;

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use quick_xml::escape::escape;

use crate::font::{FAMILY, Fonts, WEB};
use crate::png::encode;
use crate::shape::{Anchor, Ink, Picture, Shape, Text};

/// Paints a picture as a self-contained SVG document.
pub fn svg(picture: &Picture) -> String {
    let fonts = Fonts::new();
    let mut out = String::with_capacity(picture.shapes.len() * 160 + 64_000);
    let (w, h) = (picture.width, picture.height);
    let _ = writeln!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}\" height=\"{h}\" \
         viewBox=\"0 0 {w} {h}\" role=\"img\">"
    );
    let _ = writeln!(out, "<title>{}</title>", printable(&picture.title));
    out.push_str("<style>\n");
    for (bytes, weight) in WEB {
        let _ = writeln!(
            out,
            "@font-face{{font-family:\"{FAMILY}\";font-weight:{weight};\
             src:url(data:font/woff2;base64,{}) format(\"woff2\")}}",
            STANDARD.encode(bytes)
        );
    }
    let _ = writeln!(
        out,
        "text{{font-family:\"{FAMILY}\",sans-serif;white-space:pre}}image{{image-rendering:pixelated}}\n\
         </style>"
    );
    let _ = writeln!(out, "<rect width=\"{w}\" height=\"{h}\" {}/>", fill(picture.ground));
    for shape in &picture.shapes {
        match shape {
            Shape::Box(f, ink) => {
                let _ = writeln!(
                    out,
                    "<rect x=\"{}\" y=\"{}\" width=\"{}\" height=\"{}\" {}/>",
                    n(f.x),
                    n(f.y),
                    n(f.w),
                    n(f.h),
                    fill(*ink)
                );
            }
            Shape::Area(points, ink) => {
                let _ = writeln!(out, "<path d=\"{}Z\" {}/>", path(points), fill(*ink));
            }
            Shape::Line(points, width, ink) => {
                let _ = writeln!(
                    out,
                    "<path d=\"{}\" fill=\"none\" stroke=\"{}\"{} stroke-width=\"{}\"/>",
                    path(points),
                    hex(*ink),
                    opacity("stroke-opacity", *ink),
                    n(*width)
                );
            }
            Shape::Ribbon(f, colors) => {
                let pixels: Vec<u8> =
                    colors.iter().flat_map(|[r, g, b]| [*r, *g, *b, 255]).collect();
                if let Ok(bytes) = encode(&pixels, colors.len() as u32, 1) {
                    let _ = writeln!(
                        out,
                        "<image x=\"{}\" y=\"{}\" width=\"{}\" height=\"{}\" \
                         preserveAspectRatio=\"none\" href=\"data:image/png;base64,{}\"/>",
                        n(f.x),
                        n(f.y),
                        n(f.w),
                        n(f.h),
                        STANDARD.encode(bytes)
                    );
                }
            }
            Shape::Text(text) => words(&fonts, text, &mut out),
        }
    }
    out.push_str("</svg>\n");
    out
}

fn words(fonts: &Fonts, text: &Text, out: &mut String) {
    if text.words.is_empty() {
        return;
    }
    let anchor = match text.anchor {
        Anchor::Start => "start",
        Anchor::Middle => "middle",
        Anchor::End => "end",
    };
    // The stated length keeps the layout where a viewer takes another font.
    let _ = writeln!(
        out,
        "<text x=\"{}\" y=\"{}\" font-size=\"{}\"{} text-anchor=\"{anchor}\" textLength=\"{}\" \
         {}>{}</text>",
        n(text.x),
        n(text.y),
        n(text.size),
        if text.bold { " font-weight=\"700\"" } else { "" },
        n(fonts.width(&text.words, text.size, text.bold)),
        fill(text.ink),
        printable(&text.words)
    );
}

/// Text for XML: escaped, and without characters that XML cannot hold.
fn printable(text: &str) -> String {
    let text: String = text.chars().map(|c| if c.is_control() { ' ' } else { c }).collect();
    escape(text.as_str()).into_owned()
}

/// A length with two places at most.
fn n(v: f32) -> String {
    let text = format!("{v:.2}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

fn path(points: &[(f32, f32)]) -> String {
    let mut d = String::with_capacity(points.len() * 10);
    let mut before = None;
    for (i, (x, y)) in points.iter().enumerate() {
        let (x, y) = (n(*x), n(*y));
        match &before {
            // Level and upright steps are shorter this way, and curves are full of them.
            Some((_, by)) if *by == y => {
                let _ = write!(d, "H{x}");
            }
            Some((bx, _)) if *bx == x => {
                let _ = write!(d, "V{y}");
            }
            _ => {
                let _ = write!(d, "{}{x} {y}", if i == 0 { 'M' } else { 'L' });
            }
        }
        before = Some((x, y));
    }
    d
}

fn hex(Ink([r, g, b, _]): Ink) -> String {
    format!("#{r:02x}{g:02x}{b:02x}")
}

fn opacity(name: &str, Ink([.., a]): Ink) -> String {
    if a == 255 { String::new() } else { format!(" {name}=\"{}\"", n(f32::from(a) / 255.0)) }
}

fn fill(ink: Ink) -> String {
    format!("fill=\"{}\"{}", hex(ink), opacity("fill-opacity", ink))
}
