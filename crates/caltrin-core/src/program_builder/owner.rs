//! Owners of expressions, and the random keys derived from them.

use crate::kind::{ChangeRate, InstanceLevel, Kind};
use crate::program::ExprId;
use crate::program::{Level, MOST_LAMPS, Size};
use crate::semantic_error::SemanticError;
use rustc_hash::FxHashMap;

/// The owner of an expression: its path determines the key of each random function in it.
#[derive(Clone, Debug)]
pub struct Owner {
    pub(super) path: String,
    /// The prefix of the names of its own inputs: its name and a `.`, or empty.
    pub(super) within: String,
    pub(super) property: String,
    pub(super) scope: InstanceLevel,
    /// The arrays that contain it, its own last.
    pub(super) array: Array,
    /// Whether the index of each level is available, from the outermost instance to the lamp.
    pub(super) indexed: Vec<InstanceLevel>,
    pub(super) ordinals: FxHashMap<String, u32>,
    pub(super) parameters: Vec<(String, Kind)>,
    pub(super) limits: Vec<ChangeRate>,
    /// The counter for whose values random values are chosen again, if they are not chosen once.
    pub(super) redrawn: Option<ExprId>,
}

impl Owner {
    pub(super) fn new(path: String, scope: InstanceLevel, indexed: Vec<InstanceLevel>) -> Self {
        Owner {
            path,
            within: String::new(),
            property: String::new(),
            scope,
            array: Array::of(Size::One),
            indexed,
            ordinals: FxHashMap::default(),
            parameters: Vec::new(),
            limits: Vec::new(),
            redrawn: None,
        }
    }

    /// The owner of a signal of the book, or of anything else that exists once.
    pub fn book(name: &str) -> Self {
        Owner::new(name.to_owned(), InstanceLevel::Book, Vec::new())
    }

    /// Whether the owner exists once: not a lamp of an array, not one of several instances of a
    /// fitting, not a behavior, which has many callers.
    pub fn is_single(&self) -> bool {
        let behavior = self.scope == InstanceLevel::Lamp && self.within.is_empty();
        self.indexed.is_empty() && !behavior
    }

    /// The owner of a light. `pinned` is an explicit seed, which keeps the random values when the
    /// light is renamed.
    pub fn light(name: &str, size: Size, pinned: Option<u32>) -> Self {
        Owner::placed(name, size, pinned, &[])
    }

    /// The owner of a light in instances of these sizes, outermost first. An explicit seed fixes
    /// the random values within each instance.
    pub fn placed(name: &str, size: Size, pinned: Option<u32>, instances: &[Size]) -> Self {
        let around = name.rfind('.').map_or("", |dot| &name[..=dot]);
        let path = pinned.map_or_else(|| name.to_owned(), |seed| format!("{around}#{seed}"));
        let mut indexed = Self::instances(instances);
        if size != Size::One {
            indexed.push(InstanceLevel::Lamp);
        }
        let array = Array { size, instances: instances.to_vec(), ball: None };
        let within = format!("{name}.");
        Owner { within, array, ..Owner::new(path, InstanceLevel::Lamp, indexed) }
    }

    /// The owner of what belongs to each instance of a fitting, `instances` levels deep.
    pub fn instance(path: &str, instances: &[Size]) -> Self {
        let scope = instances
            .len()
            .checked_sub(1)
            .map_or(InstanceLevel::Book, |n| InstanceLevel::Instance(n as u8));
        let array = Array { size: Size::One, instances: instances.to_vec(), ball: None };
        let within = format!("{path}.");
        Owner { within, array, ..Owner::new(path.to_owned(), scope, Self::instances(instances)) }
    }

    pub(super) fn instances(sizes: &[Size]) -> Vec<InstanceLevel> {
        let many = sizes.iter().enumerate().filter(|(_, size)| **size != Size::One);
        many.map(|(n, _)| InstanceLevel::Instance(n as u8)).collect()
    }

    /// The owner of the body of a behavior. Its parameters are added with
    /// [`crate::program_builder::ProgramBuilder::parameter`].
    pub fn behavior(name: &str) -> Self {
        Owner::new(name.to_owned(), InstanceLevel::Lamp, Vec::new())
    }

    /// The full name of something that it owns.
    pub fn own(&self, name: &str) -> String {
        format!("{}{name}", self.within)
    }

    /// Switches to another property (a channel, or a name inside a light or behavior).
    pub fn property(&mut self, name: &str) {
        name.clone_into(&mut self.property);
    }

    /// Counts a call of `callee` and returns its path.
    pub(super) fn step(&mut self, callee: &str) -> String {
        let place = format!("{}/{}/{callee}", self.path, self.property);
        let ordinal = self.ordinals.entry(place.clone()).or_insert(0);
        let path = format!("{place}/{ordinal}");
        *ordinal += 1;
        path
    }
}

/// A call of a random function, counted before its arguments are lowered.
#[derive(Clone, Debug)]
pub struct Use(pub(super) String);

/// The number of lamps of a light, and the instances that contain them.
#[derive(Clone, Debug, PartialEq)]
pub struct Array {
    /// Its own array; in a fitting, the array of one instance.
    pub size: Size,
    /// The sizes of the instances that contain it, outermost first.
    pub instances: Vec<Size>,
    /// The declared radius of its offset, in meters.
    pub ball: Option<f64>,
}

impl Array {
    /// The size of the book itself.
    pub fn of(size: Size) -> Self {
        Array { size, instances: Vec::new(), ball: None }
    }

    /// The total number of lamps, and the levels that contain them.
    pub(super) fn laid_out(&self) -> Result<(Size, Vec<Level>), SemanticError> {
        let mut lamps = 1u64;
        let mut open = false;
        let mut levels = Vec::new();
        let all: Vec<Size> = self.instances.iter().chain([&self.size]).copied().collect();
        for (n, size) in all.iter().enumerate().rev() {
            if n < self.instances.len() {
                levels.push(Level { size: *size, lamps: lamps as u32 });
            }
            match size {
                Size::One => {}
                Size::Many(many) => lamps *= u64::from(*many),
                // Only the outermost can be open.
                Size::Open if n == 0 => open = true,
                Size::Open => return Err(SemanticError::OpenInside),
            }
            if lamps == 0 || lamps > u64::from(MOST_LAMPS) {
                return Err(SemanticError::ArraySize(lamps));
            }
        }
        levels.reverse();
        let single = all.iter().all(|size| *size == Size::One);
        let size = match (open, single) {
            (true, _) => Size::Open,
            (false, true) => Size::One,
            (false, false) => Size::Many(lamps as u32),
        };
        Ok((size, levels))
    }
}
