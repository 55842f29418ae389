//! Eyes and backdrops, for pictures of the place.

use caltrin_core::kind::Kind as ValueKind;
use caltrin_core::program::{Backdrop, Eye, Fog, LightKind, OutputValue};
use caltrin_core::program_builder::Owner;

use super::{Item, Resolver, token_span};
use crate::ast::{self, AstNode, HasName, unquoted};
use crate::diagnostic::Diagnostic;

impl Resolver {
    /// `eye door { at (0m, 1.7m, 8m); toward (0m, 2m, 0m); field 70deg; fog view_range, haze; sky sky_tint }`
    pub(super) fn eye(&mut self, eye: &ast::Eye) -> Option<Item> {
        let name = eye.name()?;
        let mut owner = Owner::book(name.text());
        let words = ["at", "toward", "field", "fog", "sky"];
        let [at, toward, field, fog, sky] =
            self.scenery_lines(&eye.body()?, &name, words, &words[..3])?;
        let at = self.scenery_point(&at?, &mut owner);
        let toward = self.scenery_point(&toward?, &mut owner);
        let wanted = "one angle, such as `70deg`";
        let field = self.scenery_number(&field?, ValueKind::Angle, wanted, &mut owner);
        let fog = match fog {
            Some(line) => {
                let all = self.outputs(
                    &line,
                    2,
                    "an output for the visual range and optionally one for the color",
                )?;
                Some(Fog { range: *all.first()?, color: all.get(1).copied() })
            }
            None => None,
        };
        let sky = match sky {
            Some(line) => self.outputs(&line, 1, "an output that is a color")?.first().copied(),
            None => None,
        };
        let made =
            Eye { name: name.text().to_owned(), at: at?, toward: toward?, field: field?, fog, sky };
        let made = self.builder.add_eye(made);
        self.fits(made, eye.syntax())?;
        Some(Item::Scenery)
    }

    /// `backdrop "deck.png" { from (-10m, 0m, -6m); to (10m, 0m, 6m) }`
    pub(super) fn backdrop(&mut self, backdrop: &ast::Backdrop) -> Option<Item> {
        let file = backdrop.file()?;
        let name = unquoted(&file).to_owned();
        let mut owner = Owner::book(&name);
        let words = ["from", "to"];
        let [from, to] = self.scenery_lines(&backdrop.body()?, &file, words, &words)?;
        let from = self.scenery_point(&from?, &mut owner);
        let to = self.scenery_point(&to?, &mut owner);
        let made = self.builder.add_backdrop(Backdrop { file: name, from: from?, to: to? });
        self.fits(made, backdrop.syntax())?;
        let origin = self.origin(token_span(&file));
        self.source_map.backdrops.push(origin);
        Some(Item::Scenery)
    }

    /// The one point of a line.
    fn scenery_point(&mut self, line: &ast::Property, owner: &mut Owner) -> Option<[f64; 3]> {
        let all: Vec<ast::Span> = line.values().collect();
        let values = all.first().map(|range| range.values());
        match (values.as_deref(), all.len()) {
            (Some([value]), 1) => self.known_point(value, owner),
            _ => {
                let message = "expected one point, such as `(0m, 2m, 4m)`";
                self.tell(Diagnostic::error(line.range(), message));
                None
            }
        }
    }

    /// The outputs that a line names, at most so many.
    fn outputs(
        &mut self,
        line: &ast::Property,
        most: usize,
        wanted: &str,
    ) -> Option<Vec<OutputValue>> {
        let all: Vec<ast::Span> = line.values().collect();
        if all.len() > most {
            self.tell(Diagnostic::error(line.range(), format!("expected {wanted}")));
            return None;
        }
        all.iter()
            .map(|range| {
                let text = range.text();
                let found = self.builder.output_value(text.trim());
                if found.is_none() {
                    let told = Diagnostic::error(range.range(), format!("expected {wanted}"));
                    let program = self.program();
                    let outputs =
                        program.lights().filter(|(_, light)| light.kind == LightKind::Output);
                    let names: Vec<&str> = outputs.map(|(_, light)| light.name.as_str()).collect();
                    let told = match self.nearest(text.trim(), names) {
                        Some(near) => told.help(format!("did you mean `{near}`?")),
                        None => told.help("name an output that is not an array"),
                    };
                    self.tell(told);
                }
                found
            })
            .collect()
    }
}
