//! Validation of programs.

use std::collections::BTreeMap;
use std::sync::OnceLock;

use crate::bounds::{Bounds, RangeAnalysis};
use crate::bytecode::Bytecode;
use crate::kind::{ChangeRate, InstanceLevel};
use crate::program::{
    Constant, Depth, Drive, Event, EventId, EventOwner, Expr, ExprId, Field, Input, InputId, Light,
    LightId, Op, Program, SignalId, Size, Subject,
};
use crate::semantic_error::SemanticError;
use rustc_hash::FxHashSet;

/// A program that has passed validation.
///
/// All IDs and indices are valid, all values are finite, no division is by zero, and evaluation at
/// any time neither fails nor panics. The cost of an evaluation does not depend on the time.
#[derive(Clone, Debug)]
pub struct ValidatedProgram {
    program: Program,
    /// By light, compiled when it is first read.
    bytecodes: Vec<OnceLock<Bytecode>>,
    bounds: Vec<Vec<Bounds>>,
    signals: Vec<Bounds>,
    /// Made by the first run.
    schedule: OnceLock<EventSchedule>,
    /// Offset of each input's components among all of a run's.
    places: Vec<usize>,
}

/// All else follows from the program.
impl PartialEq for ValidatedProgram {
    fn eq(&self, other: &Self) -> bool {
        self.program == other.program
    }
}

/// The order and effects of events.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct EventSchedule {
    /// The timed events, in the book's order.
    pub timed: Vec<Timed>,
    /// The number of timed events, counted per instance or lamp.
    pub count: usize,
    /// Whose they are, in the order in which they are counted: places among `timed`, and which.
    pub whose: Vec<(u32, u32)>,
    /// For each event, which of those it changes the due moment of: places among `timed`, and whether that of
    /// all instances or lamps and not only its own.
    pub moves: Vec<Vec<(u32, bool)>>,
    /// The effects of each event.
    pub events: Vec<EventEffects>,
    /// Whether an event may follow at the same time as an action of the game.
    pub follows: bool,
}

/// A timed event.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Timed {
    pub event: EventId,
    /// Its next time.
    pub due: Bytecode,
    /// Its offset among all timed events, counted per instance or lamp.
    pub start: usize,
    /// The number of instances or lamps that have it.
    pub count: u32,
}

/// What an event does: what it looks at (for each of its writes whether it is done, and its values), and which
/// writes those are.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct EventEffects {
    pub own: (Bytecode, Vec<usize>),
    /// The same for what each instance or lamp has, and how many of those there are for each of the event's. None of them looks at others of them, and
    /// none at what is the book's after it was written: these come first.
    pub each: Vec<(Bytecode, Vec<usize>, u32)>,
}

impl EventEffects {
    fn of(program: &Program, event: &Event) -> EventEffects {
        let bytecode = |home: &EventOwner, which: &[usize]| {
            let looked = which.iter().flat_map(|n| event.writes[*n].looks_at());
            Bytecode::of_values(program, home, &looked.collect::<Vec<_>>())
        };
        let own: Vec<usize> =
            (0..event.writes.len()).filter(|n| event.writes[*n].each.is_none()).collect();
        let each = event.spread().into_iter();
        let each = each.map(|(home, which)| {
            (bytecode(home, &which), which, home.count() / event.home.count())
        });
        EventEffects { own: (bytecode(&event.home, &own), own), each: each.collect() }
    }
}

impl EventSchedule {
    fn of(program: &Program) -> EventSchedule {
        let dues: Vec<(EventId, ExprId)> =
            program.events().filter_map(|(id, event)| Some((id, event.due?))).collect();
        let heeds: Vec<FxHashSet<InputId>> =
            dues.iter().map(|(_, due)| program.inputs_in(*due)).collect();
        let (mut timed, mut whose) = (Vec::with_capacity(dues.len()), Vec::new());
        for (n, (id, due)) in dues.iter().enumerate() {
            let home = &program.event(*id).home;
            let (start, count) = (whose.len(), home.count());
            let due = Bytecode::of_values(program, home, &[*due]);
            timed.push(Timed { event: *id, due, start, count });
            whose.extend((0..count).map(|index| (n as u32, index)));
        }
        let moves = program.events.iter().map(|event| {
            let writes = event.writes.iter();
            let written: Vec<(InputId, bool)> = writes
                .flat_map(|write| write.sets.iter().map(|(id, _)| (*id, write.each.is_some())))
                .collect();
            let moved = heeds.iter().enumerate().filter_map(|(n, heeds)| {
                let mut found = written.iter().filter(|(id, _)| heeds.contains(id));
                let same = program.event(timed[n].event).home == event.home;
                let (_, each) = found.next()?;
                Some((n as u32, !same || *each || found.any(|(_, each)| *each)))
            });
            moved.collect()
        });
        EventSchedule {
            moves: moves.collect(),
            timed,
            count: whose.len(),
            whose,
            events: program.events.iter().map(|event| EventEffects::of(program, event)).collect(),
            follows: program.follows(),
        }
    }
}

/// A validation error and its location.
#[derive(Clone, Debug, PartialEq)]
pub struct Problem {
    /// The expression, if there is one.
    pub expr: Option<ExprId>,
    /// The subject that it belongs to.
    pub subject: Subject,
    /// The error.
    pub error: SemanticError,
}

impl std::fmt::Display for Problem {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}", self.error)
    }
}

impl std::error::Error for Problem {}

impl Program {
    /// Validates ranges. Returns all problems, not only the first. A light is compiled when it is
    /// first read.
    pub fn validate(self) -> Result<ValidatedProgram, Vec<Problem>> {
        let mut analysis = RangeAnalysis::new(&self);
        analysis.look_at_behaviors();
        // In the order of their ids each stands after those that it uses.
        let signals: Vec<Bounds> =
            (0..self.signals.len()).map(|n| analysis.signal(SignalId(n as u32))).collect();
        let bounds: Vec<Vec<Bounds>> = self.lights().map(|(id, _)| analysis.light(id)).collect();
        for expectation in self.rehearsals.iter().flat_map(|rehearsal| &rehearsal.expectations) {
            if let crate::program::Expected::Value(value) = expectation.what {
                analysis.loose(value);
            }
        }
        for event in &self.events {
            if let Some(due) = event.due {
                analysis.loose(due);
            }
            for write in &event.writes {
                write.when.map(|when| analysis.loose(when));
                let mut kept: Vec<(InputId, ExprId)> = write.sets.clone();
                if let Some(sends) = &write.sends {
                    analysis.loose(sends.text);
                    let values = sends.values.iter();
                    kept.extend(values.map(|(n, value)| (self.notice_values[*n].kept, *value)));
                }
                for (id, value) in &kept {
                    let (found, kept) = (analysis.loose(*value), self.input(*id).bounds);
                    for part in 0..self.input(*id).kind.width() {
                        let bounds = found.part(part);
                        if bounds.lo < kept.lo || bounds.hi > kept.hi {
                            analysis.outside(*value, bounds, kept);
                        }
                    }
                }
            }
        }
        let faults = analysis.into_faults();
        let owners = self.owners(&faults);
        let mut problems: Vec<Problem> = faults
            .into_iter()
            .map(|(expr, error)| Problem {
                expr: Some(expr),
                subject: owners.get(&expr).copied().unwrap_or(Subject::Book),
                error,
            })
            .collect();
        for ((id, light), bounds) in self.lights().zip(&bounds) {
            for (drive, bounds) in light.drives.iter().zip(bounds) {
                if let Some(error) = out_of_range(drive.field, *bounds) {
                    problems.push(Problem {
                        expr: Some(drive.value),
                        subject: Subject::Drive(id, drive.field),
                        error,
                    });
                }
            }
            problems.extend(self.falling(id, &bounds_by_field(light, bounds)));
        }
        if !problems.is_empty() {
            return Err(problems);
        }
        let bytecodes = vec![OnceLock::new(); self.lights.len()];
        let mut places = Vec::with_capacity(self.inputs.len());
        let mut at = 0;
        for input in &self.inputs {
            places.push(at);
            at += crate::bytecode::slots(input) as usize;
        }
        let schedule = OnceLock::new();
        Ok(ValidatedProgram { program: self, bytecodes, bounds, signals, schedule, places })
    }

    /// Rejects an inner reach or cone that is larger than the outer one.
    fn falling(&self, id: LightId, bounds: &BTreeMap<Field, Bounds>) -> Vec<Problem> {
        let ranges = [(Field::ReachInner, Field::ReachOuter), (Field::ConeInner, Field::ConeOuter)];
        ranges
            .iter()
            .filter_map(|(inner, outer)| {
                let (lo, hi) = (bounds.get(inner)?.part(0), bounds.get(outer)?.part(0));
                (lo.hi > hi.lo).then(|| Problem {
                    expr: self.light(id).drive(*inner),
                    subject: Subject::Drive(id, *inner),
                    error: SemanticError::FallingRange { lo: lo.hi, hi: hi.lo },
                })
            })
            .collect()
    }

    /// Whose each of these expressions is.
    fn owners(&self, wanted: &BTreeMap<ExprId, SemanticError>) -> BTreeMap<ExprId, Subject> {
        let mut owners = BTreeMap::new();
        let roots =
            self.behaviors
                .iter()
                .enumerate()
                .map(|(n, b)| (b.value, Subject::Behavior(crate::program::BehaviorId(n as u32))))
                .chain(
                    self.signals.iter().enumerate().map(|(n, s)| {
                        (s.value, Subject::Signal(crate::program::SignalId(n as u32)))
                    }),
                )
                .chain(self.lights().flat_map(|(id, light)| {
                    light.drives.iter().map(move |d| (d.value, Subject::Drive(id, d.field)))
                }));
        if wanted.is_empty() {
            return owners;
        }
        // What is reached from an earlier root has its owner.
        let mut walk = self.walk([], Depth::Own);
        for (root, subject) in roots {
            walk.enter(root);
            for (id, _) in walk.by_ref() {
                if wanted.contains_key(&id) {
                    owners.entry(id).or_insert(subject);
                }
            }
        }
        owners
    }
}

fn bounds_by_field(light: &crate::program::Light, bounds: &[Bounds]) -> BTreeMap<Field, Bounds> {
    light.drives.iter().map(|drive| drive.field).zip(bounds.iter().copied()).collect()
}

fn out_of_range(field: Field, bounds: Bounds) -> Option<SemanticError> {
    let (what, least, most) = field.facts().range?;
    let found = bounds.part(0);
    let fits = found.lo >= least && found.hi <= most;
    (!fits).then_some(SemanticError::OutOfRange { what, lo: found.lo, hi: found.hi, least, most })
}

impl ValidatedProgram {
    /// The program itself.
    pub fn program(&self) -> &Program {
        &self.program
    }

    /// The guaranteed range of a field.
    pub fn bounds(&self, light: LightId, field: Field) -> Option<Bounds> {
        let place = self.program.light(light).drives.iter().position(|d| d.field == field)?;
        Some(self.bounds[light.index()][place])
    }

    /// The guaranteed range of a signal.
    pub fn signal_bounds(&self, id: SignalId) -> Bounds {
        self.signals[id.index()]
    }

    /// The same program with an input in place of a signal with one component, with the same name
    /// and range, to evaluate the lights for each value of the signal. `None` for other kinds and
    /// for a constant signal.
    pub fn opened(&self, signal: SignalId) -> Option<(ValidatedProgram, InputId)> {
        let mut program = self.program.clone();
        let kind = program.expr(program.signal(signal).value).kind;
        let bounds = self.signal_bounds(signal).part(0);
        let wide = bounds.hi - bounds.lo;
        if !(kind.is_scalar() && wide > 0.0 && wide.is_finite()) {
            return None;
        }
        let input = InputId(program.inputs.len() as u32);
        program.inputs.push(Input {
            name: program.signal(signal).name.clone(),
            kind,
            default: Constant::Scalar(bounds.lo),
            bounds,
            size: Size::One,
            levels: Vec::new(),
            scope: InstanceLevel::Book,
            kept: None,
        });
        let value = ExprId(program.exprs.len() as u32);
        program.exprs.push(Expr {
            op: Op::Input(input),
            kind,
            change_rate: ChangeRate::Stepwise,
            scope: InstanceLevel::Book,
            chancy: false,
            parameters: 0,
        });
        program.signals[signal.index()].value = value;
        program.order.push(Subject::Input(input));
        program.validate().ok().map(|checked| (checked, input))
    }

    /// The same program with a single output of these numbers instead of its lights, for drawings
    /// of other values. `None` if they cannot be outputs.
    pub fn probe(&self, values: &[ExprId]) -> Option<(ValidatedProgram, LightId)> {
        let mut program = self.program.clone();
        program.lights.clear();
        program.order.retain(|subject| !matches!(subject, Subject::Light(_) | Subject::Drive(..)));
        let named: Vec<_> = values.iter().map(|value| (String::new(), *value)).collect();
        program.lights.push(output_of(&program, "probe", &named));
        let checked = program.validate().ok()?;
        let (id, _) = checked.program().lights().next()?;
        Some((checked, id))
    }

    /// The same program with an additional last output of these named values, for pages that show
    /// other values. `None` if they cannot be outputs.
    pub fn with_output(&self, name: &str, values: &[(String, ExprId)]) -> Option<ValidatedProgram> {
        let mut program = self.program.clone();
        let output = output_of(&program, name, values);
        program.order.push(Subject::Light(LightId(program.lights.len() as u32)));
        program.lights.push(output);
        program.validate().ok()
    }

    /// Offset of a book-level input's first component among all of a run's.
    pub(crate) fn place_of(&self, id: InputId) -> usize {
        self.places[id.index()]
    }

    pub(crate) fn schedule(&self) -> &EventSchedule {
        self.schedule.get_or_init(|| EventSchedule::of(&self.program))
    }

    /// The number of instructions that evaluate a lamp of a light: a measure of its cost.
    pub fn steps(&self, light: LightId) -> usize {
        self.bytecode(light).len()
    }

    pub(crate) fn bytecode(&self, light: LightId) -> &Bytecode {
        let compile = || Bytecode::of_light(&self.program, self.program.light(light));
        self.bytecodes[light.index()].get_or_init(compile)
    }
}

/// An output of named values; an empty name takes the first one's.
fn output_of(program: &Program, name: &str, values: &[(String, ExprId)]) -> Light {
    let drives = values.iter().enumerate().map(|(n, (_, value))| Drive {
        field: Field::Named(n as u8),
        value: *value,
        kind: program.expr(*value).kind,
    });
    let mut light = Light::alone(name, drives.collect());
    if values.iter().all(|(name, _)| !name.is_empty()) {
        light.names = values.iter().map(|(name, _)| name.clone()).collect();
    }
    light
}
