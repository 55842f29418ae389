//! What only drawings of the place show: walls, posts, viewpoints and pictures in it.

use crate::kind::Kind;
use crate::program::{Backdrop, Eye, Form, LightKind, OutputValue, Size, Solid, Up};
use crate::semantic_error::SemanticError;

use super::{MOST_SOLIDS, MOST_VIEWS, ProgramBuilder};

/// Whether all points are within 1000 km.
fn near(points: &[[f64; 3]]) -> bool {
    points.iter().flatten().all(|v| v.abs() <= 1e6)
}

impl ProgramBuilder {
    /// Converts a point of the book's axes to y up.
    fn upright(&self, point: [f64; 3]) -> [f64; 3] {
        match self.written_up {
            Up::Y => point,
            Up::Z => Up::Y.stand(point),
        }
    }

    /// Adds a wall or post, in meters and the book's axes.
    pub fn add_solid(&mut self, name: &str, form: Form) -> Result<(), SemanticError> {
        let point = |p| self.upright(p);
        let (form, sizes, points) = match form {
            Form::Wall { from, to, height } => {
                (Form::Wall { from: point(from), to: point(to), height }, [height, 1.0], [from, to])
            }
            Form::Post { at, radius, height } => {
                (Form::Post { at: point(at), radius, height }, [height, radius], [at, at])
            }
        };
        if !near(&points) {
            return Err(SemanticError::FarSolid);
        }
        if !sizes.iter().all(|v| (1e-3..=1e6).contains(v)) {
            return Err(SemanticError::FlatSolid);
        }
        if self.program.solids.len() == MOST_SOLIDS {
            return Err(SemanticError::TooManySolids(MOST_SOLIDS));
        }
        self.program.solids.push(Solid { name: name.to_owned(), form });
        Ok(())
    }

    /// Adds a viewpoint, in meters and the book's axes.
    ///
    /// # Errors
    /// If it sees nothing, or its outputs are of the wrong kind.
    pub fn add_eye(&mut self, eye: Eye) -> Result<(), SemanticError> {
        let (at, toward) = (self.upright(eye.at), self.upright(eye.toward));
        if !near(&[at, toward]) {
            return Err(SemanticError::FarView);
        }
        let way = [0, 1, 2].map(|n| toward[n] - at[n]);
        if way.iter().map(|v| v * v).sum::<f64>() < 1e-4 {
            return Err(SemanticError::BlindEye);
        }
        if !(5.0..=150.0).contains(&eye.field) {
            return Err(SemanticError::EyeField(eye.field));
        }
        if let Some(fog) = eye.fog {
            match self.output_kind(fog.range) {
                Kind::Length | Kind::Number => {}
                other => return Err(SemanticError::FogKind(other)),
            }
        }
        for color in [eye.fog.and_then(|fog| fog.color), eye.sky].into_iter().flatten() {
            match self.output_kind(color) {
                Kind::Color => {}
                other => return Err(SemanticError::ColorOutput(other)),
            }
        }
        if self.program.eyes.len() == MOST_VIEWS {
            return Err(SemanticError::TooManyViews(MOST_VIEWS));
        }
        self.program.eyes.push(Eye { at, toward, ..eye });
        Ok(())
    }

    /// Adds a picture in the place, in meters and the book's axes.
    ///
    /// # Errors
    /// If it has no area.
    pub fn add_backdrop(&mut self, backdrop: Backdrop) -> Result<(), SemanticError> {
        let (from, to) = (self.upright(backdrop.from), self.upright(backdrop.to));
        if !near(&[from, to]) {
            return Err(SemanticError::FarView);
        }
        let made = Backdrop { from, to, ..backdrop };
        let [wide, high, deep] = [0, 1, 2].map(|n| (to[n] - from[n]).abs());
        let long = if made.lies() { wide.min(deep) } else { wide.hypot(deep).min(high) };
        if long < 1e-2 {
            return Err(SemanticError::FlatBackdrop);
        }
        if self.program.backdrops.len() == MOST_VIEWS {
            return Err(SemanticError::TooManyViews(MOST_VIEWS));
        }
        self.program.backdrops.push(made);
        Ok(())
    }

    /// The value of an output: by its name, or `air.fog` of an output with several. None for arrays.
    pub fn output_value(&self, path: &str) -> Option<OutputValue> {
        let output = |name: &str| {
            let id = self.program.light_named(name)?;
            let light = self.program.light(id);
            (light.kind == LightKind::Output && light.size == Size::One).then_some((id, light))
        };
        if let Some((id, light)) = output(path)
            && let [drive] = &light.drives[..]
        {
            return Some(OutputValue { output: id, field: drive.field });
        }
        let (outer, own) = path.rsplit_once('.')?;
        let (id, light) = output(outer)?;
        let mut fields = light.drives.iter().map(|drive| drive.field);
        let field = fields.find(|field| light.field_name(*field) == own)?;
        Some(OutputValue { output: id, field })
    }

    fn output_kind(&self, value: OutputValue) -> Kind {
        let drives = &self.program.light(value.output).drives;
        drives
            .iter()
            .find(|drive| drive.field == value.field)
            .map_or(Kind::Number, |drive| drive.kind)
    }
}
