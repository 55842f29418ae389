//! The SVG painter. It carries its type with it; the same picture gives the same bytes.

use std::fmt::Write;

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use caltrin_core::MADE;
use caltrin_core::text::is_hidden;
use quick_xml::escape::escape;

use crate::font::{FAMILY, Fonts, WEB};
use crate::png::encode;
use crate::shape::{Anchor, Frame, Ink, Picture, Shape, Text};

/// Paints a picture as a self-contained SVG document.
pub fn svg(picture: &Picture) -> String {
    let fonts = Fonts::new();
    let mut out = String::with_capacity(picture.shapes.len() * 160 + 64_000);
    let (w, h) = (picture.width, picture.height);
    let _ = writeln!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}\" height=\"{h}\" \
         viewBox=\"0 0 {w} {h}\" role=\"img\">\n<!-- {MADE} -->"
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
            Shape::Line((x1, y1), (x2, y2), width, ink) => {
                let _ = writeln!(
                    out,
                    "<path d=\"M{} {}L{} {}\" stroke=\"{}\"{} stroke-width=\"{}\"/>",
                    n(*x1),
                    n(*y1),
                    n(*x2),
                    n(*y2),
                    hex(*ink),
                    opacity("stroke-opacity", *ink),
                    n(*width)
                );
            }
            Shape::Bars(f, bars, ink) => {
                let _ = writeln!(out, "<path d=\"{}\" {}/>", outline(*f, bars), fill(*ink));
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
            Shape::Disc((x, y), radius, ink) => {
                let (x, y, radius) = (n(*x), n(*y), n(*radius));
                let fill = fill(*ink);
                let _ = writeln!(out, "<circle cx=\"{x}\" cy=\"{y}\" r=\"{radius}\" {fill}/>");
            }
            Shape::Image(f, w, h, rgb) => {
                let rgba: Vec<u8> =
                    rgb.chunks_exact(3).flat_map(|p| [p[0], p[1], p[2], 255]).collect();
                if let Ok(bytes) = encode(&rgba, *w, *h) {
                    let _ = writeln!(
                        out,
                        "<image x=\"{}\" y=\"{}\" width=\"{}\" height=\"{}\" \
                         preserveAspectRatio=\"none\" style=\"image-rendering:auto\" \
                         href=\"data:image/png;base64,{}\"/>",
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
pub(crate) fn printable(text: &str) -> String {
    let text: String = text.chars().map(|c| if is_hidden(c) { ' ' } else { c }).collect();
    escape(text.as_str()).into_owned()
}

/// A length in hundredths.
fn hundredths(v: f32) -> i32 {
    (v * 100.0 + 0.5).floor() as i32
}

/// A length with two places at most. Pictures are full of them, so the digits are set one by one.
fn push(d: &mut String, hundredths: i32) {
    if hundredths < 0 {
        d.push('-');
    }
    let size = hundredths.unsigned_abs();
    let (whole, part) = (size / 100, size % 100);
    let mut digits = [0u8; 10];
    let (mut at, mut rest) = (digits.len(), whole);
    loop {
        at -= 1;
        digits[at] = b'0' + (rest % 10) as u8;
        rest /= 10;
        if rest == 0 {
            break;
        }
    }
    d.extend(digits[at..].iter().map(|digit| char::from(*digit)));
    if part > 0 {
        d.push('.');
        d.push(char::from(b'0' + (part / 10) as u8));
        if !part.is_multiple_of(10) {
            d.push(char::from(b'0' + (part % 10) as u8));
        }
    }
}

fn n(v: f32) -> String {
    let mut text = String::with_capacity(8);
    push(&mut text, hundredths(v));
    text
}

/// The outline of bars: along their upper ends, and back along their lower ends.
fn outline(frame: Frame, bars: &[(f32, f32)]) -> String {
    let each = frame.w / bars.len().max(1) as f32;
    let x = |n: usize| n as f32 * each + frame.x;
    let mut d = String::with_capacity(bars.len() * 8);
    let Some((first, last)) = bars.first().zip(bars.last()) else { return d };
    let mut level = hundredths(first.0);
    d.push('M');
    push(&mut d, hundredths(frame.x));
    d.push(' ');
    push(&mut d, level);
    let mut turn = |d: &mut String, at: f32, to: f32| {
        let to = hundredths(to);
        if to != level {
            d.push('H');
            push(d, hundredths(at));
            d.push('V');
            push(d, to);
            level = to;
        }
    };
    for (i, (upper, _)) in bars.iter().enumerate() {
        turn(&mut d, x(i), *upper);
    }
    turn(&mut d, x(bars.len()), last.1);
    for (i, (_, lower)) in bars.iter().enumerate().rev() {
        turn(&mut d, x(i + 1), *lower);
    }
    d.push('H');
    push(&mut d, hundredths(frame.x));
    d.push('Z');
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
