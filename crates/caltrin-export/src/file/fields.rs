//! The fields of a run: what it keeps, in the order in which it is declared.

use crate::ir::Type;
use crate::lower::{choice_field, input_field};
use crate::plan::{Plan, clock_fields};
use crate::print::DUE;

/// A field of the run.
#[derive(Clone, Debug, PartialEq)]
pub struct RunFieldPlan {
    /// Its name in the module.
    pub name: String,
    /// What it is, for the reader; may be empty.
    pub about: String,
    /// The type of its numbers.
    pub ty: Type,
    /// How many there are, if several.
    pub count: Option<u32>,
    /// How many parts each has.
    pub parts: usize,
    /// What the parts are at first; where `varied`, what each of several is.
    pub first: Vec<f64>,
    /// Whether several differ at first.
    pub varied: bool,
    /// What each part is kept within; those of a word are whole.
    pub bounds: Vec<[f64; 2]>,
    /// Whether the host reads it.
    pub public: bool,
}

impl RunFieldPlan {
    fn one(name: &str, about: &str, ty: Type, first: f64, bounds: [f64; 2]) -> Self {
        RunFieldPlan {
            name: name.to_owned(),
            about: about.to_owned(),
            ty,
            count: None,
            parts: 1,
            first: vec![first],
            varied: false,
            bounds: vec![bounds],
            public: false,
        }
    }

    /// How many numbers it has.
    pub fn slots(&self) -> usize {
        self.parts * self.count.unwrap_or(1) as usize
    }

    /// How many bytes each number takes.
    pub fn bytes(&self) -> usize {
        match self.ty {
            Type::Bool => 1,
            Type::Word => 4,
            _ => 8,
        }
    }
}

/// All fields: the moment first, then doubles, the seed, other words, and what is on or off.
pub fn fields(plan: &Plan) -> Vec<RunFieldPlan> {
    let one = RunFieldPlan::one;
    let mut all = vec![RunFieldPlan {
        public: true,
        ..one("now", "s since the run's start", Type::F64, 0.0, [-1e9, 1e9])
    }];
    if plan.has_due() {
        // Before its moment nothing is due, so an earlier one only costs a look.
        all.push(one("due", DUE, Type::F64, 0.0, [-1e9, 2e9]));
    }
    for (name, about, first) in plan.clock.iter().flat_map(clock_fields) {
        all.push(one(name, about, Type::F64, first, [-1e9, 1e9]));
    }
    let mut words = vec![RunFieldPlan {
        public: true,
        ..one("seed", "of all its chances", Type::Word, 0.0, [0.0, f64::from(u32::MAX)])
    }];
    for (n, choice) in plan.choices.iter().enumerate() {
        let field = |name: &str| choice_field(n, name);
        let count = choice.options.len();
        let last = (count - 1) as f64;
        words.push(one(&field("chosen"), "the option chosen", Type::Word, 0.0, [0.0, last]));
        if choice.fades() {
            let about = "s, when it was chosen";
            all.push(one(&field("since"), about, Type::F64, -2e9, [-2e9, 1e9]));
            let about = "how much each option counted then";
            all.push(RunFieldPlan {
                count: Some(count as u32),
                first: (0..count).map(|n| f64::from(u8::from(n == 0))).collect(),
                varied: true,
                bounds: vec![[0.0, 1.0]; count],
                ..one(&field("from"), about, Type::F64, 0.0, [0.0, 1.0])
            });
        }
    }
    let mut flags = Vec::new();
    for (n, input) in plan.inputs.iter().enumerate() {
        let ty = if input.flag { Type::Bool } else { Type::F64 };
        let field = RunFieldPlan {
            count: input.count,
            parts: input.default.len(),
            first: input.default.clone(),
            bounds: vec![[input.bounds.lo, input.bounds.hi]; input.default.len()],
            ..one(&input_field(n), &input.about, ty, 0.0, [0.0; 2])
        };
        if input.flag { flags.push(field) } else { all.push(field) }
    }
    all.extend(words);
    all.extend(flags);
    all
}
