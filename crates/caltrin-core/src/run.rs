//! A run: a checked program being played.

use std::ops::Range;

use smallvec::SmallVec;
use thiserror::Error;

use crate::bytecode::{Bytecode, Lanes, Scratch, Setting, slots};
use crate::choice::ChoiceState;
use crate::clock::{ClockState, Shown};
use crate::kernel;
use crate::kind::Kind;
use crate::program::{
    ChoiceId, Clock, Constant, Deed, EventId, EventOwner, EventSource, ExprId, Field, Input,
    InputId, LightId, MOST_VALUES, Notice, NoticeValue, Program, Sends, Size, Which,
};
use crate::quantity::{Hours, Seconds, Seed};
use crate::validated::ValidatedProgram;

/// The state of a run: a small plain value that can be copied, saved and compared.
#[derive(Clone, Debug, PartialEq)]
pub struct State {
    /// The random seed.
    pub seed: Seed,
    /// The current moment.
    pub now: Seconds,
    /// The game's clock.
    pub clock: ClockState,
    /// The values of inputs.
    pub inputs: Inputs,
    /// The state of each choice.
    pub choices: Vec<ChoiceState>,
}

impl State {
    /// The state at moment 0 with the book's seed and all inputs at their defaults.
    pub fn start(program: &Program) -> Self {
        let (now, clock) = (Seconds(0.0), ClockState::start(program));
        let choices = program.choices().map(|(_, choice)| ChoiceState::start(choice)).collect();
        State { seed: program.seed(), now, clock, inputs: Inputs::defaults(program), choices }
    }

    /// Chooses an option, counted from 0: see [`ChoiceState::choose`].
    pub fn choose(&mut self, program: &Program, id: ChoiceId, option: u32) {
        self.choices[id.index()].choose(program.choice(id), option, self.now);
    }

    /// The same state with the clock set to an hour: see [`ClockState::set`]. Does nothing without a clock.
    pub fn with_hour(mut self, program: &Program, hour: Hours) -> Self {
        if let Some(clock) = program.clock() {
            self.clock.set(clock, self.now, hour);
            let shown = self.clock.at(clock, self.now).hour;
            self.settle_by_hour(program, shown);
        }
        self
    }

    /// Sets switches and modes that depend on the hour alone to what the last day would have left at an hour. The clock
    /// is unchanged.
    pub fn settle_by_hour(&mut self, program: &Program, hour: Hours) {
        for (id, value) in program.by_hour().iter().flat_map(|by_hour| by_hour.at(hour)) {
            self.inputs.keep(program, *id, *value);
        }
    }

    /// The same state with another seed.
    pub fn with_seed(self, seed: Seed) -> Self {
        State { seed, ..self }
    }
}

/// The values of all inputs of a program.
#[derive(Clone, Debug, PartialEq)]
pub struct Inputs {
    /// All numbers, by input, then by instance or lamp.
    numbers: Vec<f64>,
}

/// Why an input cannot be set.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum SetError {
    /// The value is of another kind.
    #[error("`{name}` takes {wanted}")]
    WrongKind {
        /// The input.
        name: String,
        /// What it takes.
        wanted: Kind,
    },
    /// It is state that only events write.
    #[error("`{name}` is written by events")]
    Kept {
        /// Its name.
        name: String,
    },
    /// There is no input of that index.
    #[error("`{name}` has index 0 to {last}, found {found}")]
    NoSuchIndex {
        /// The input.
        name: String,
        /// The last index.
        last: u32,
        /// The index that was given.
        found: u32,
    },
}

impl Inputs {
    /// All inputs at their defaults.
    pub fn defaults(program: &Program) -> Self {
        let each = |(_, input): (InputId, &Input)| {
            let one = numbers_of(input.default);
            let width = input.kind.width();
            (0..input.count()).flat_map(move |_| one.into_iter().take(width)).collect::<Vec<_>>()
        };
        Inputs { numbers: program.inputs().flat_map(each).collect() }
    }

    /// A part of an input, or of that of one instance or lamp; on is 1.
    ///
    /// # Panics
    /// If the input has no such part or index.
    pub fn part(&self, program: &Program, id: InputId, index: u32, part: usize) -> f64 {
        let input = program.input(id);
        assert!(index < input.count() && part < input.kind.width(), "it has that part");
        let before: u32 = program.inputs().take(id.index()).map(|(_, input)| slots(input)).sum();
        self.numbers[before as usize + index as usize * input.kind.width() + part]
    }

    /// All numbers, by input, then by instance or lamp; on is 1.
    pub fn numbers(&self) -> &[f64] {
        &self.numbers
    }

    /// Writes a value that the run itself keeps, for all instances or lamps.
    pub(crate) fn keep(&mut self, program: &Program, id: InputId, value: Constant) {
        let (input, value) = (program.input(id), numbers_of(value));
        let before: u32 = program.inputs().take(id.index()).map(|(_, input)| slots(input)).sum();
        let width = input.kind.width();
        let all = &mut self.numbers[before as usize..][..slots(input) as usize];
        all.chunks_exact_mut(width).for_each(|one| one.copy_from_slice(&value[..width]));
    }

    /// Takes these for all numbers: as many as there are.
    pub(crate) fn take_numbers(&mut self, numbers: Vec<f64>) {
        debug_assert_eq!(numbers.len(), self.numbers.len(), "they are this program's");
        self.numbers = numbers;
    }

    /// Sets an input, or that of one instance or lamp, in the units of the book's space. The value is clamped to the
    /// input's range; a value that is not finite becomes the default.
    pub fn set(
        &mut self,
        program: &Program,
        id: InputId,
        index: u32,
        value: Constant,
    ) -> Result<(), SetError> {
        let input = program.input(id);
        if input.kept.is_some() {
            return Err(SetError::Kept { name: input.name.clone() });
        }
        let fits = match value {
            Constant::Scalar(_) => input.kind.is_scalar(),
            Constant::Vector(_) => input.kind.width() == 3,
            Constant::OnOff(_) => input.kind == Kind::OnOff,
        };
        if !fits {
            return Err(SetError::WrongKind { name: input.name.clone(), wanted: input.kind });
        }
        if index >= input.count() {
            let (name, last) = (input.name.clone(), input.count() - 1);
            return Err(SetError::NoSuchIndex { name, last, found: index });
        }
        let before: u32 = program.inputs().take(id.index()).map(|(_, input)| slots(input)).sum();
        let width = input.kind.width();
        let at = before as usize + index as usize * width;
        let (default, value) = (numbers_of(input.default), numbers_of(value));
        for n in 0..width {
            self.numbers[at + n] =
                kernel::clean_input(value[n], input.bounds.lo, input.bounds.hi, default[n]);
        }
        Ok(())
    }
}

/// Whether a value is of a kind.
fn fits(value: Constant, kind: Kind) -> bool {
    match value {
        Constant::OnOff(_) => kind == Kind::OnOff,
        Constant::Scalar(_) => kind != Kind::OnOff && kind.width() == 1,
        Constant::Vector(_) => kind.width() == 3,
    }
}

fn numbers_of(value: Constant) -> [f64; 3] {
    match value {
        Constant::Scalar(v) => [v, 0.0, 0.0],
        Constant::Vector(v) => v,
        Constant::OnOff(on) => [if on { 1.0 } else { 0.0 }, 0.0, 0.0],
    }
}

/// A running program. It can be evaluated at any moment, in any order, at the same cost.
#[derive(Clone, Debug)]
pub struct Run<'a> {
    checked: &'a ValidatedProgram,
    state: State,
    scratch: Scratch,
    /// Buffers, reused so that nothing is allocated.
    looked: Vec<f64>,
    looked_each: Vec<f64>,
    /// Recorded events, if recording is on.
    heard: Option<Vec<Heard>>,
    /// Notices sent since then.
    sent: Option<Vec<(Seconds, u32)>>,
    dues: Dues,
}

/// A notice taken from the queue.
#[derive(Clone, Debug, PartialEq)]
pub struct Taken<'a> {
    /// When it was sent.
    pub moment: Seconds,
    /// The book's name for it.
    pub name: &'a str,
    /// Its text, if it has one.
    pub text: Option<&'a str>,
    /// The light or instance that it comes from; empty if none.
    pub from: &'a str,
    /// The index of the lamp or instance; 0 for a single one.
    pub lamp: u32,
    /// The lamp's position at that moment, in the units and axes of the book's space.
    pub position: Option<[f32; 3]>,
    /// Its values, in the order of [`Program::notice_values`].
    pub values: Vec<TakenValue<'a>>,
}

/// A value of a notice.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct TakenValue<'a> {
    /// Its name in the book.
    pub name: &'a str,
    /// Its kind.
    pub kind: Kind,
    /// The value when the notice was sent, in the units and axes of the book's space; a color in
    /// linear Rec. 709.
    pub value: Constant,
}

/// A notice that an event sends.
struct Outgoing<'a> {
    sends: &'a Sends,
    text: f64,
    lamp: u32,
    /// All numbers of its values.
    numbers: SmallVec<[f64; 4]>,
}

/// An occurrence of an event.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Heard {
    /// The moment.
    pub at: Seconds,
    /// The event.
    pub event: EventId,
    /// The index of the instance or lamp if each has its own; else 0.
    pub index: u32,
}

/// When each event that occurs by itself is due, as last evaluated.
#[derive(Clone, Debug, Default)]
struct Dues {
    /// Whether it is still valid.
    known: bool,
    each: Vec<f64>,
    /// Which of them is the first.
    first: usize,
}

impl Dues {
    /// Finds the first; of several at one moment that which stands first in the book.
    fn first(&mut self) {
        let earlier = |a: usize, b: usize| if self.each[b] < self.each[a] { b } else { a };
        self.first = (1..self.each.len()).fold(0, earlier);
    }
}

/// Most schedule that a run remembers for who listens.
const MOST_HEARD: usize = 100_000;

/// Most events that happen by themselves in one call of [`Run::advance`].
pub const MOST_AT_ONCE: u32 = 10_000;

impl<'a> Run<'a> {
    /// A run at moment 0 with the book's own seed.
    pub fn new(checked: &'a ValidatedProgram) -> Self {
        Run::from_state(checked, State::start(checked.program()))
    }

    /// A run at moment 0 with a seed of the game's choice.
    pub fn with_seed(checked: &'a ValidatedProgram, seed: Seed) -> Self {
        Run::from_state(checked, State::start(checked.program()).with_seed(seed))
    }

    /// A run that goes on from a state of the same program.
    ///
    /// # Panics
    /// As [`Run::restore`].
    pub fn from_state(checked: &'a ValidatedProgram, state: State) -> Self {
        let start = State::start(checked.program());
        let mut run = Run {
            checked,
            state: start,
            scratch: Scratch::default(),
            looked: Vec::new(),
            looked_each: Vec::new(),
            heard: None,
            sent: None,
            dues: Dues::default(),
        };
        run.restore(state);
        run
    }

    /// Advances the run to a moment in seconds, clamped to [`kernel::LAST_MOMENT`] either side of the start; NaN is 0.
    /// Events that are due on the way are processed at their exact moments, in the order of time and, at one moment, in
    /// the order of the book: at most [`MOST_AT_ONCE`] per call. The rest is processed by the next call, at its own
    /// moments too.
    ///
    /// An earlier moment than the current one undoes nothing.
    pub fn advance(&mut self, to: Seconds) {
        self.go(to, MOST_AT_ONCE as usize);
    }

    /// [`Run::advance`] without a limit on the number of events, for previews.
    pub fn advance_through(&mut self, to: Seconds) {
        self.go(to, usize::MAX);
    }

    /// [`Run::advance`] with at most this many events. Returns whether all due events were processed.
    pub fn advance_within(&mut self, to: Seconds, most: usize) -> bool {
        self.go(to, most);
        !self.is_behind()
    }

    fn go(&mut self, to: Seconds, most: usize) {
        let end = kernel::clean_moment(to.0);
        if self.checked.schedule().count > 0 {
            // What lay ahead may lie elsewhere where time goes back.
            let back = end < self.state.now.0;
            self.dues.known &= !back;
            for _ in 0..most {
                let Some((due, event, index)) = self.next().filter(|(due, ..)| due.0 <= end) else {
                    break;
                };
                self.dues.known &= due.0 >= self.state.now.0;
                self.state.now = due;
                self.happen(event, index);
            }
            // So may what is still to come where too much happened.
            let behind = self.next_due().is_some_and(|(due, _)| due.0 <= end);
            self.dues.known &= !back && !behind;
        }
        self.state.now = Seconds(end);
    }

    /// The next event that occurs by itself, and when, as far as is known now; [`crate::program::NEVER`] or later for
    /// never. `None` if no event occurs by itself.
    pub fn next_due(&mut self) -> Option<(Seconds, EventId)> {
        self.next().map(|(due, event, _)| (due, event))
    }

    /// The same, with the index of the instance or lamp.
    fn next(&mut self) -> Option<(Seconds, EventId, u32)> {
        let schedule = self.checked.schedule();
        if !self.dues.known {
            self.dues.each.resize(schedule.count, 0.0);
            (0..schedule.timed.len()).for_each(|n| self.ask(n, None));
            self.dues.first();
            self.dues.known = true;
        }
        let (n, index) = *schedule.whose.get(self.dues.first)?;
        let event = schedule.timed[n as usize].event;
        Some((Seconds(self.dues.each[self.dues.first]), event, index))
    }

    /// Evaluates when an event is due next, for one instance or lamp or for all.
    fn ask(&mut self, n: usize, index: Option<u32>) {
        let mut scratch = std::mem::take(&mut self.scratch);
        let mut looked = std::mem::take(&mut self.looked);
        let timed = &self.checked.schedule().timed[n];
        for index in index.map_or(0..timed.count, |index| index..index + 1) {
            let at = (index, self.state.now.0);
            timed.due.numbers(self.setting(), at, &mut scratch, &mut looked);
            self.dues.each[timed.start + index as usize] = looked[0];
        }
        (self.scratch, self.looked) = (scratch, looked);
    }

    /// Whether the last call of [`Run::advance`] left events for the next one.
    pub fn is_behind(&mut self) -> bool {
        let now = self.state.now;
        self.next_due().is_some_and(|(due, _)| due.0 <= now.0)
    }

    /// Starts recording events: see [`Run::heard`].
    pub fn listen(&mut self) {
        self.heard = Some(Vec::new());
        self.sent = Some(Vec::new());
    }

    /// Stops recording, and returns the events since [`Run::listen`] in order.
    pub fn heard(&mut self) -> Vec<Heard> {
        self.heard.take().unwrap_or_default()
    }

    /// Fires an event now, with its values at their defaults, for all instances or lamps. Does nothing for an event that
    /// occurs by itself.
    pub fn fire(&mut self, event: EventId) {
        self.fire_with(event, &[]);
    }

    /// [`Run::fire_with`] for one instance or lamp. Does nothing if the index is out of range.
    pub fn fire_at(&mut self, event: EventId, index: u32, values: &[Constant]) {
        let given: SmallVec<[Option<Constant>; MOST_VALUES]> =
            values.iter().copied().map(Some).collect();
        self.fire_given(event, Which { first: index, count: 1 }, &given);
    }

    /// Fires an event now with values in their order, in the units of the book's space. Missing values and those of
    /// another kind are at their defaults. Values are clamped to their ranges; one that is not finite becomes its default.
    pub fn fire_with(&mut self, event: EventId, values: &[Constant]) {
        let given: SmallVec<[Option<Constant>; MOST_VALUES]> =
            values.iter().copied().map(Some).collect();
        let count = self.checked.program().event(event).home.count();
        self.fire_given(event, Which { first: 0, count }, &given);
    }

    fn fire_given(&mut self, event: EventId, which: Which, values: &[Option<Constant>]) {
        let program = self.checked.program();
        let described = program.event(event);
        let count = described.home.count();
        if described.source != EventSource::Game {
            return;
        }
        for index in which.indices().take_while(|index| *index < count) {
            self.give(event, index, values);
            self.happen(event, index);
        }
        self.settle();
    }

    /// Stores the values that an event is fired with.
    fn give(&mut self, event: EventId, index: u32, values: &[Option<Constant>]) {
        let program = self.checked.program();
        let described = program.event(event);
        for (n, id) in described.values.iter().enumerate() {
            let input = program.input(*id);
            let value = values.get(n).copied().flatten().filter(|v| fits(*v, input.kind));
            let (value, default) =
                (numbers_of(value.unwrap_or(input.default)), numbers_of(input.default));
            let width = input.kind.width();
            let at = self.checked.place_of(*id) + index as usize * width;
            for part in 0..width {
                let (lo, hi) = (input.bounds.lo, input.bounds.hi);
                let value = kernel::clean_input(value[part], lo, hi, default[part]);
                self.state.inputs.numbers[at + part] = value;
            }
        }
        self.dues.known &= described.values.is_empty();
    }

    /// Processes events that are due at this moment after an action of the game. At moment 0 it does nothing yet, since
    /// the run only starts.
    fn settle(&mut self) {
        if self.checked.schedule().follows && self.state.now.0 > 0.0 {
            self.advance(self.state.now);
        }
    }

    /// Performs an action of a rehearsal.
    pub fn act(&mut self, deed: &Deed) {
        match *deed {
            Deed::Fire(event, which, ref values) => self.fire_given(event, which, values),
            Deed::Set(input, which, value) => {
                for index in which.indices() {
                    // A rehearsal's values fit, or it would not have been made.
                    let _ = self.set(input, index, value);
                }
            }
            Deed::Choose(choice, option) => self.choose(choice, option),
            Deed::Clock(hour) => self.set_clock(hour),
            Deed::DriveClock(hour) => self.drive_clock(hour),
            Deed::ClockRate(rate) => self.set_clock_rate(rate),
        }
    }

    /// Evaluates an expression that belongs to no light: its first number; on is 1.
    pub(crate) fn number(&mut self, value: ExprId) -> f64 {
        let mut scratch = std::mem::take(&mut self.scratch);
        let mut found = Vec::new();
        let bytecode = Bytecode::of_values(self.checked.program(), &EventOwner::BOOK, &[value]);
        bytecode.numbers(self.setting(), (0, self.state.now.0), &mut scratch, &mut found);
        self.scratch = scratch;
        found.first().copied().unwrap_or_default()
    }

    /// Applies an event. All its values are evaluated before any is written.
    fn happen(&mut self, id: EventId, index: u32) {
        if let Some(heard) = self.heard.as_mut().filter(|heard| heard.len() < MOST_HEARD) {
            heard.push(Heard { at: self.state.now, event: id, index });
        }
        let mut scratch = std::mem::take(&mut self.scratch);
        let mut looked = std::mem::take(&mut self.looked);
        let mut each = std::mem::take(&mut self.looked_each);
        let happening = &self.checked.schedule().events[id.index()];
        let (bytecode, own) = &happening.own;
        bytecode.numbers(self.setting(), (index, self.state.now.0), &mut scratch, &mut looked);
        for (bytecode, which, count) in &happening.each {
            for index in index * count..(index + 1) * count {
                bytecode.numbers(
                    self.setting(),
                    (index, self.state.now.0),
                    &mut scratch,
                    &mut each,
                );
                self.write(id, index, which, &each);
            }
        }
        self.write(id, index, own, &looked);
        (self.scratch, self.looked, self.looked_each) = (scratch, looked, each);
        if self.dues.known {
            for (n, all) in &self.checked.schedule().moves[id.index()] {
                self.ask(*n as usize, Some(index).filter(|_| !all));
            }
            self.dues.first();
        }
    }

    /// Writes these of an event's writes, with the values that were found for them.
    fn write(&mut self, id: EventId, index: u32, which: &[usize], found: &[f64]) {
        let program = self.checked.program();
        let mut values = found.iter().copied();
        let mut sent: SmallVec<[Outgoing<'_>; 2]> = SmallVec::new();
        for n in which {
            let write = &program.event(id).writes[*n];
            let done = write.when.is_none_or(|_| values.next() != Some(0.0));
            let mut given: SmallVec<[f64; 8]> = SmallVec::new();
            for (input, _) in &write.sets {
                given.extend(values.by_ref().take(program.input(*input).kind.width()));
            }
            if let Some(sends) = &write.sends {
                let (text, lamp) = (values.next().unwrap_or_default(), sends.lamp.unwrap_or(index));
                let carried = sends.values.iter().map(|(n, _)| program.notice_values()[*n].kind);
                let width = carried.map(Kind::width).sum();
                let numbers = values.by_ref().take(width).collect();
                if done {
                    sent.push(Outgoing { sends, text, lamp, numbers });
                }
            }
            let index = match write.slot {
                Some(_) => values.next().unwrap_or_default() as u32,
                None => index,
            };
            let mut given = given.iter();
            for (input, _) in write.sets.iter().filter(|_| done) {
                let (described, at) = (program.input(*input), self.checked.place_of(*input));
                let width = described.kind.width();
                let many = described.size != Size::One;
                let at = at + if many { index as usize * width } else { 0 };
                for (number, value) in
                    self.state.inputs.numbers[at..at + width].iter_mut().zip(given.by_ref())
                {
                    *number = *value;
                }
            }
        }
        // Where a lamp is follows from all that was written.
        for outgoing in sent {
            self.send(&outgoing);
        }
    }

    /// Puts a notice in the queue, if there is room.
    fn send(&mut self, &Outgoing { sends, text, lamp, ref numbers }: &Outgoing<'_>) {
        let line = sends.line;
        let Some(queue) = self.checked.program().queue() else { return };
        let mut carried = numbers.iter();
        let packed = Notice::packed(line, text, lamp);
        if let Some(sent) = self.sent.as_mut().filter(|sent| sent.len() < MOST_HEARD) {
            sent.push((self.state.now, line));
        }
        let [count, first, dropped] =
            [queue.count, queue.first, queue.dropped].map(|id| self.checked.place_of(id));
        let numbers = &mut self.state.inputs.numbers;
        let most = f64::from(self.checked.program().notice_capacity());
        if numbers[count] >= most {
            numbers[dropped] += 1.0;
            return;
        }
        let at = numbers[first] + numbers[count];
        let at = (if at >= most { at - most } else { at }) as usize;
        numbers[count] += 1.0;
        numbers[self.checked.place_of(queue.moments) + at] = self.state.now.0;
        numbers[self.checked.place_of(queue.packed) + at] = packed;
        for (n, value) in self.checked.program().notice_values().iter().enumerate() {
            let width = value.kind.width();
            let place = self.checked.place_of(value.kept) + at * width;
            let kept = &mut numbers[place..place + width];
            match sends.values.iter().any(|(known, _)| *known == n) {
                true => kept.iter_mut().zip(&mut carried).for_each(|(kept, v)| *kept = *v),
                false => kept.fill(0.0),
            }
        }
        let mut position = [0.0; 3];
        if let Some((id, places)) = self.placed(line) {
            self.read_moments((id, lamp), &[self.state.now], places, &mut position);
        }
        let at = self.checked.place_of(queue.positions) + 3 * at;
        let kept = &mut self.state.inputs.numbers[at..at + 3];
        kept.iter_mut().zip(position).for_each(|(kept, part)| *kept = f64::from(part));
    }

    /// The light that says where a line's notices come from, and where its position stands among its numbers.
    fn placed(&self, line: u32) -> Option<(LightId, Range<usize>)> {
        let program = self.checked.program();
        let light = program.light_named(&program.notices().get(line as usize)?.from)?;
        Some((light, program.light(light).places(Field::Position)?))
    }

    /// Takes the oldest notice from the queue.
    pub fn take_notice(&mut self) -> Option<Taken<'a>> {
        let program = self.checked.program();
        let queue = program.queue()?;
        let [count, first] = [queue.count, queue.first].map(|id| self.checked.place_of(id));
        let numbers = &mut self.state.inputs.numbers;
        if numbers[count] <= 0.0 {
            return None;
        }
        let at = numbers[first] as usize;
        numbers[count] -= 1.0;
        numbers[first] = (numbers[first] + 1.0) % f64::from(program.notice_capacity());
        let moment = Seconds(numbers[self.checked.place_of(queue.moments) + at]);
        let packed = numbers[self.checked.place_of(queue.packed) + at];
        let [line, text, lamp] = Notice::unpacked(packed);
        let notice = program.notices().get(line as usize)?;
        let kept = self.checked.place_of(queue.positions) + 3 * at;
        let position = self
            .placed(line)
            .map(|_| [0, 1, 2].map(|part| self.state.inputs.numbers[kept + part] as f32));
        let of_it = |value: &&NoticeValue| notice.values.contains(&value.name);
        let values = program.notice_values().iter().filter(of_it).map(|value| {
            let place = self.checked.place_of(value.kept) + at * value.kind.width();
            let numbers = &self.state.inputs.numbers[place..place + value.kind.width()];
            let kept = match *numbers {
                [x, y, z] => Constant::Vector([x, y, z]),
                [v, ..] if value.kind == Kind::OnOff => Constant::OnOff(v != 0.0),
                [v, ..] => Constant::Scalar(v),
                [] => Constant::Scalar(0.0),
            };
            TakenValue { name: &value.name, kind: value.kind, value: kept }
        });
        let values = values.collect();
        Some(Taken {
            values,
            moment,
            name: &notice.name,
            text: notice.texts.get(text as usize).map(String::as_str),
            from: &notice.from,
            lamp,
            position,
        })
    }

    /// The number of notices dropped because the queue was full, since the start of the run.
    pub fn dropped_notices(&self) -> u64 {
        let queue = self.checked.program().queue();
        queue.map_or(0, |q| self.state.inputs.numbers[self.checked.place_of(q.dropped)] as u64)
    }

    /// The lines of the notices that were sent since [`Run::listen`], and when.
    pub(crate) fn sent(&self) -> &[(Seconds, u32)] {
        self.sent.as_deref().unwrap_or_default()
    }

    /// Sets an input, or that of one instance or lamp: see [`Inputs::set`].
    pub fn set(&mut self, id: InputId, index: u32, value: Constant) -> Result<(), SetError> {
        let set = self.state.inputs.set(self.checked.program(), id, index, value);
        self.dues.known = false;
        self.settle();
        set
    }

    /// Chooses an option, counted from 0: see [`ChoiceState::choose`].
    pub fn choose(&mut self, id: ChoiceId, option: u32) {
        self.state.choose(self.checked.program(), id, option);
        self.dues.known = false;
        self.settle();
    }

    /// Sets the game's clock to an hour: see [`ClockState::set`]. State that depends on the hour alone is correct
    /// immediately. This and the other clock methods do nothing without a clock.
    pub fn set_clock(&mut self, to: Hours) {
        self.turn(|state, clock, now| state.set(clock, now, to));
        if let Some(event) = self.checked.program().set_event() {
            self.happen(event, 0);
        }
    }

    /// Moves the clock to an hour and holds it there: see [`ClockState::drive`].
    pub fn drive_clock(&mut self, to: Hours) {
        self.turn(|state, clock, now| state.drive(clock, now, to));
        self.settle();
    }

    /// Sets the number of days: see [`ClockState::set_days`].
    pub fn set_clock_days(&mut self, days: f64) {
        self.turn(|state, clock, now| state.set_days(clock, now, days));
    }

    /// Sets the rate of the clock: see [`ClockState::set_rate`].
    pub fn set_clock_rate(&mut self, rate: f64) {
        self.turn(|state, clock, now| state.set_rate(clock, now, rate));
    }

    fn turn(&mut self, act: impl FnOnce(&mut ClockState, Clock, Seconds)) {
        if let Some(clock) = self.checked.program().clock() {
            act(&mut self.state.clock, clock, self.state.now);
            self.dues.known = false;
        }
    }

    /// The current hour and day of the game's clock; `None` without a clock.
    pub fn clock(&self) -> Option<Shown> {
        let clock = self.checked.program().clock()?;
        Some(self.state.clock.at(clock, self.state.now))
    }

    /// The program.
    pub fn checked(&self) -> &'a ValidatedProgram {
        self.checked
    }

    /// The state of the run.
    pub fn state(&self) -> &State {
        &self.state
    }

    /// Restores a state.
    ///
    /// # Panics
    /// If it is of a program with other inputs or choices.
    pub fn restore(&mut self, state: State) {
        let numbers = self.state.inputs.numbers.len();
        assert_eq!(state.inputs.numbers.len(), numbers, "the state is of this program");
        let options =
            |state: &State| state.choices.iter().map(|c| c.from.len()).collect::<Vec<_>>();
        assert_eq!(options(&state), options(&self.state), "the state is of this program");
        self.dues.known = false;
        self.state = State { now: Seconds(kernel::clean_moment(state.now.0)), ..state };
    }

    fn setting(&self) -> Setting<'_> {
        let (program, inputs) = (self.checked.program(), &self.state.inputs.numbers);
        let pace = program.clock().map_or(0.0, Clock::pace);
        Setting {
            program,
            seed: self.state.seed.0,
            inputs,
            clock: self.state.clock,
            pace,
            choices: &self.state.choices,
        }
    }

    /// The number of values per lamp of a light: its driven fields in order, a color or position as three.
    pub fn width(&self, light: LightId) -> usize {
        self.checked.bytecode(light).width()
    }

    /// Evaluates `out.len() / width` lamps of a light from lamp `first` on, [`Run::width`] values each, in the order of
    /// the light's drives. Allocates nothing after the first call.
    ///
    /// # Panics
    /// If the length of `out` is not a multiple of the width.
    pub fn read(&mut self, light: LightId, first: u32, out: &mut [f32]) {
        let bytecode = self.checked.bytecode(light);
        if bytecode.width() == 0 {
            return;
        }
        assert!(out.len().is_multiple_of(bytecode.width()), "`out` holds whole lamps");
        let lanes =
            Lanes::Lamps { first, count: out.len() / bytecode.width(), moment: self.state.now.0 };
        let mut scratch = std::mem::take(&mut self.scratch);
        bytecode.read(self.setting(), lanes, 0..bytecode.width(), &mut scratch, out);
        self.scratch = scratch;
    }

    /// Evaluates one lamp at many moments: for each, the values at `places` among those that [`Run::read`] returns for a
    /// lamp (`0..run.width(light)` for all). The run's own moment is unchanged.
    ///
    /// # Panics
    /// If a lamp has no such places, or `out` does not hold that many numbers for each moment.
    pub fn read_moments(
        &mut self,
        (light, index): (LightId, u32),
        moments: &[Seconds],
        places: Range<usize>,
        out: &mut [f32],
    ) {
        let bytecode = self.checked.bytecode(light);
        assert_eq!(out.len(), places.len() * moments.len(), "`out` holds one lamp a moment");
        let mut scratch = std::mem::take(&mut self.scratch);
        let mut clean = scratch.take_moments();
        clean.clear();
        clean.extend(moments.iter().map(|t| kernel::clean_moment(t.0)));
        let lanes = Lanes::Moments { index, moments: &clean };
        bytecode.read(self.setting(), lanes, places, &mut scratch, out);
        scratch.keep_moments(clean);
        self.scratch = scratch;
    }
}
