//! The HTML painter: a self-contained page with the drawing as SVG and a readout at the pointer.

use std::fmt::Write;

use caltrin_core::MADE;
use serde_json::json;

use crate::shape::{Ink, Picture};
use crate::svg::{printable, svg};

/// Paints a drawing as a self-contained page, with a readout if it has readings.
pub fn html(picture: &Picture) -> String {
    let Ink([r, g, b, _]) = picture.ground;
    let mut out = String::new();
    let _ = write!(
        out,
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"generator\" content=\"{MADE}\">\n<title>{}</title>\n<style>\n\
         body {{ margin: 0; background: #{r:02x}{g:02x}{b:02x}; }}\n\
         svg {{ display: block; max-width: 100%; height: auto; margin: 0 auto; }}\n\
         #told {{ position: absolute; padding: 5px 9px; background: #24313a; color: #ece6d8; border-radius: 4px;\n  \
         font: 13px/1.3 \"Atkinson Hyperlegible\", sans-serif; pointer-events: none; white-space: nowrap; }}\n\
         #told i {{ display: inline-block; width: 10px; height: 10px; margin-right: 6px; }}\n\
         #line {{ position: absolute; width: 1px; background: #8fd3ff; pointer-events: none; }}\n\
         [hidden] {{ display: none; }}\n</style>\n</head>\n<body>\n{}",
        printable(&picture.title),
        svg(picture)
    );
    if let Some(readings) = &picture.readings {
        let lanes: Vec<_> = readings
            .lanes
            .iter()
            .map(|lane| {
                // Four digits are more than a pointer can point at.
                let digits = |v: f32| -> f64 { format!("{v:.3e}").parse().unwrap_or_default() };
                let levels: Vec<[f64; 3]> = lane.levels.iter().map(|l| l.map(digits)).collect();
                let hex = |[r, g, b]: &[u8; 3]| format!("#{r:02x}{g:02x}{b:02x}");
                let colors: Vec<String> = lane.colors.iter().map(hex).collect();
                json!({
                    "x": lane.frame.x, "y": lane.frame.y, "w": lane.frame.w, "h": lane.frame.h,
                    "name": lane.name, "unit": lane.unit, "top": lane.top,
                    "levels": levels, "colors": colors, "findings": lane.findings,
                })
            })
            .collect();
        let (from, to) = readings.span;
        let data = json!({ "from": from, "to": to, "unit": readings.unit, "lanes": lanes });
        // Nothing from the book can end the script.
        let data = data.to_string().replace('<', "\\u003c");
        let _ = write!(
            out,
            "<div id=\"line\" hidden></div>\n<div id=\"told\" role=\"status\" hidden><i></i><b></b><span></span></div>\n\
             <script type=\"module\">\nconst readings = {data};\n{}</script>\n",
            include_str!("reader.mjs")
        );
    }
    out.push_str("</body>\n</html>\n");
    out
}
