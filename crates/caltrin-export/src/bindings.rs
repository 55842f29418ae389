//! What an exported JavaScript module calls its things, for a page that drives it.

use crate::file;
use crate::language;
use crate::names::{Case, cased};
use crate::plan::{InputPlan, LightPlan, Plan};
use crate::print::{InputNames, LightNames};

/// What the functions and fields of an exported module are called, for a page that drives it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Bindings {
    /// Of each light, in the book's order.
    pub lights: Vec<LightBinding>,
    /// Of each input that is exported.
    pub inputs: Vec<InputBinding>,
    /// `setRegion(run, option)` of each choice that is exported, after the book's name for it.
    pub choices: Vec<(String, String)>,
    /// `fireFerryDocks(run)` of each event that the game fires.
    pub events: Vec<String>,
    /// The field of a notice for each value that notices carry, in the book's order.
    pub notice_values: Vec<String>,
}

/// The names around one light.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LightBinding {
    /// The book's name.
    pub light: String,
    /// `readMast(run, index, lamp)`, without the index for a single lamp.
    pub read: String,
    /// `fillMast(run, first, lamps)`; arrays only.
    pub fill: Option<String>,
    /// The book's names of its fields, and what they are in a lamp.
    pub fields: Vec<(String, String)>,
}

/// The names around one input.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct InputBinding {
    /// The book's name.
    pub input: String,
    /// `setMist(run, to)`, with an index after the run where there are many.
    pub set: String,
}

/// The names in the module of a plan.
pub fn bindings(plan: &Plan) -> Bindings {
    let names = file::names(plan, &language::JAVASCRIPT);
    let light = |(light, names): (&LightPlan, &LightNames)| LightBinding {
        light: light.name.clone(),
        read: names.read.clone(),
        fill: light.is_array().then(|| names.fill.clone()),
        fields: light
            .fields
            .iter()
            .map(|field| (field.name.clone(), cased(&field.name, Case::Camel)))
            .collect(),
    };
    let input = |(input, names): (&InputPlan, &InputNames)| InputBinding {
        input: input.name.clone(),
        set: names.set.clone(),
    };
    let notice_values = names.notice_values.iter().cloned();
    Bindings {
        notice_values: notice_values.collect(),
        lights: plan.lights.iter().zip(&names.lights).map(light).collect(),
        inputs: plan.given().map(|(n, given)| input((given, &names.inputs[n]))).collect(),
        choices: plan
            .choices
            .iter()
            .zip(&names.choices)
            .map(|(choice, names)| (choice.name.clone(), names.set.clone()))
            .collect(),
        events: plan.fired().map(|(n, _)| names.events[n].act.clone()).collect(),
    }
}
