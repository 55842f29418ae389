//! Colors as CSS Color 4 writes them: named, or a function of components, which may vary.

use caltrin_core::color::Rgb;
use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{Constant, ExprId};
use caltrin_core::program_builder::Owner;

use super::{Resolver, expressions, span, tokens};
use crate::diagnostic::Diagnostic;
use crate::syntax::{Node, SyntaxKind};
use crate::{colors, literal, words};

/// What a component of a color function is.
#[derive(Clone, Copy)]
enum Component {
    /// A number, or a percentage of `full`; `least` and `most` are what a constant may be.
    Number { full: f64, least: f64, most: f64 },
    /// An angle, or a number of degrees.
    Hue,
}

/// A number from 0 to `full`, or a percentage of that.
const fn up_to(full: f64) -> Component {
    Component::Number { full, least: 0.0, most: full }
}

/// The components of a color function, in its order, and a call of it for messages.
fn components(function: &str) -> ([Component; 3], &'static str) {
    // OKLab's axes have 100% at 0.4, as CSS has it; constants may lie beyond.
    let axis = Component::Number { full: 0.4, least: -1.0, most: 1.0 };
    let chroma = Component::Number { full: 0.4, least: 0.0, most: 1.0 };
    match function {
        "rgb" => ([up_to(255.0); 3], "rgb(96 140 60)"),
        "hsl" => ([Component::Hue, up_to(1.0), up_to(1.0)], "hsl(32deg 80% 60%)"),
        "oklab" => ([up_to(1.0), axis, axis], "oklab(70% 0.05 0.1)"),
        _ => ([up_to(1.0), chroma, Component::Hue], "oklch(70% 0.15 60deg)"),
    }
}

impl Resolver {
    /// The color of that name in CSS Color 4.
    pub(super) fn named_color(&mut self, name: &str) -> Option<ExprId> {
        let [_, r, g, b] = colors::named(name)?.to_be_bytes();
        let color = Constant::Vector(Rgb::from_srgb8(r, g, b).0);
        Some(self.builder.constant(color, ValueKind::Color))
    }

    /// `rgb(96 140 60)`, `oklch(70% 0.15 drawn(0deg..360deg))`, `color(srgb-linear 0.1 0.2 0.3)`
    pub(super) fn color_call(&mut self, node: &Node, owner: &mut Owner) -> Option<ExprId> {
        let name = tokens(node).next()?;
        let function = words::spelled(name.text());
        if function == "color" {
            let read = literal::color_call(&node.text().to_string());
            return self.constant(read, span(node));
        }
        let (wanted, example) = components(function);
        let parts = expressions(node);
        if tokens(node).any(|token| token.kind() == SyntaxKind::Slash) {
            let kept: Vec<String> = parts
                .iter()
                .take(3)
                .map(|part| part.text().to_string().trim().to_owned())
                .collect();
            let help =
                format!("write `{function}({})` and dim it by its intensity", kept.join(" "));
            let message = "a light has no alpha";
            self.tell(Diagnostic::error(span(node), message).help(help));
            return None;
        }
        if parts.len() != 3 {
            let message = format!("`{function}` needs three components, found {}", parts.len());
            let help = match &parts[..] {
                [a, b, c, _] => {
                    let kept = [a, b, c].map(|part| part.text().to_string().trim().to_owned());
                    let kept = kept.join(" ");
                    format!(
                        "a light has no alpha: write `{function}({kept})` and dim it by its intensity"
                    )
                }
                _ => format!("write it as `{example}`"),
            };
            self.tell(Diagnostic::error(span(node), message).help(help));
            return None;
        }
        let mut made = Vec::with_capacity(3);
        for (part, wanted) in parts.iter().zip(wanted) {
            made.push(self.component(part, wanted, owner));
        }
        let [a, b, c] = made[..] else { return None };
        let (a, b, c) = (a?, b?, c?);
        let color = match function {
            "rgb" => self.builder.srgb([a, b, c]),
            "hsl" => self.builder.hsl(a, b, c),
            "oklab" => self.builder.oklab([a, b, c]),
            _ => self.builder.oklch(a, b, c),
        };
        self.fits(color, node)
    }

    /// One component, scaled to the range that the builder expects.
    fn component(&mut self, part: &Node, wanted: Component, owner: &mut Owner) -> Option<ExprId> {
        let id = self.expression(part, owner)?;
        let kind = self.builder.kind(id);
        match wanted {
            Component::Hue => {
                if kind == ValueKind::Angle {
                    return Some(id);
                }
                let fits = self.builder.expect(id, ValueKind::Number);
                self.fits(fits, part)?;
                // CSS allows degrees without a unit.
                let degree = self.builder.number(1.0, ValueKind::Angle);
                let degree = self.fits(degree, part)?;
                let made = self.builder.multiply(id, degree);
                self.fits(made, part)
            }
            Component::Number { full, least, most } => {
                let fits = self.builder.expect(id, ValueKind::Number);
                self.fits(fits, part)?;
                let in_percent = in_percent(part);
                if let Some(Constant::Scalar(v)) = self.program().constant(id) {
                    let v = if in_percent { v * full } else { v };
                    if !(least..=most).contains(&v) {
                        let range = if in_percent {
                            format!("{}%..{}%", least / full * 100.0, most / full * 100.0)
                        } else {
                            format!("{least}..{most}")
                        };
                        let message = format!("a color component must be within {range}");
                        self.tell(Diagnostic::error(span(part), message));
                        return None;
                    }
                }
                // `srgb` takes 0 to 1; axes and chroma keep their scale.
                let scale = match (in_percent, full > 1.0) {
                    (true, true) | (false, false) => return Some(id),
                    (true, false) => full,
                    (false, true) => 1.0 / full,
                };
                let scale = self.builder.number(scale, ValueKind::Number);
                let scale = self.fits(scale, part)?;
                let made = self.builder.multiply(id, scale);
                self.fits(made, part)
            }
        }
    }
}

/// Whether all numbers of a component are written in percent.
fn in_percent(part: &Node) -> bool {
    let mut numbers = part
        .descendants_with_tokens()
        .filter_map(rowan::NodeOrToken::into_token)
        .filter(|token| token.kind() == SyntaxKind::Number && !token.text().ends_with(['s', 'z']))
        .peekable();
    numbers.peek().is_some() && numbers.all(|token| token.text().ends_with('%'))
}
