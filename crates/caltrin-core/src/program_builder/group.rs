//! Groups: lights that are dimmed and tinted together. A group is applied last to a light's
//! intensity and color; it has no state.

use super::ProgramBuilder;
use crate::kind::Kind;
use crate::program::{Channel, ExprId, Field};
use crate::semantic_error::SemanticError;

/// The dimming and tinting of a group.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Group {
    /// Level, 0 to 1, and the intensity that remains at 0.
    pub dims: Vec<(ExprId, ExprId)>,
    /// Level, 0 to 1, and the color at 0.
    pub tints: Vec<(ExprId, ExprId)>,
}

impl ProgramBuilder {
    /// Rejects a group with values of the wrong kind.
    pub fn expect_group(&self, group: &Group) -> Result<(), SemanticError> {
        for (by, left) in &group.dims {
            self.expect(*by, Kind::Number)?;
            self.expect(*left, Kind::Number)?;
        }
        for (by, color) in &group.tints {
            self.expect(*by, Kind::Number)?;
            self.expect(*color, Kind::Color)?;
        }
        Ok(())
    }

    /// Applies a group to the channels of a light; only to lamps for which `of` is on, if given.
    /// Returns whether any channel changed.
    pub fn put_in_group(
        &mut self,
        driven: &mut [(Channel, Vec<ExprId>)],
        group: &Group,
        of: Option<ExprId>,
    ) -> Result<bool, SemanticError> {
        let mut changed = false;
        for (channel, values) in driven {
            let Some(value) = values.first_mut() else { continue };
            let default = *value;
            if channel.fields == [Field::Intensity] {
                for (by, left) in &group.dims {
                    let one = self.number(1.0, Kind::Number)?;
                    let factor = self.lerp(*left, one, *by, false)?;
                    *value = self.multiply(*value, factor)?;
                }
            } else if channel.fields == [Field::Color] {
                for (by, color) in &group.tints {
                    // All of its own color is that color itself.
                    let one = self.number(1.0, Kind::Number)?;
                    let less = self.above(one, *by)?;
                    let tinted = self.lerp(*color, *value, *by, false)?;
                    *value = self.select(less, tinted, *value)?;
                }
            }
            if *value != default {
                changed = true;
                if let Some(of) = of {
                    *value = self.select(of, *value, default)?;
                }
            }
        }
        Ok(changed)
    }
}
