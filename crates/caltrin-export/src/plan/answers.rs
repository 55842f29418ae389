//! What a plan says when it is asked.

use caltrin_core::program::LightKind;

use super::{Code, EventPlan, InputPlan, Plan, clock_fields, visit_statement};
use crate::names::FilePrefix;

impl Plan {
    /// The inputs that the game sets, with their places among all.
    pub fn given(&self) -> impl Iterator<Item = (usize, &InputPlan)> {
        self.inputs.iter().enumerate().filter(|(_, input)| !input.kept)
    }

    /// How many numbers the inputs have that the game sets.
    pub fn given_slots(&self) -> usize {
        self.given().map(|(_, input)| input.slots()).sum()
    }

    /// The events that the game fires.
    pub fn fired(&self) -> impl Iterator<Item = (usize, &EventPlan)> {
        self.events.iter().enumerate().filter(|(_, event)| event.is_fired())
    }

    /// Most numbers that the game gives an event.
    pub fn most_given(&self) -> usize {
        self.fired().map(|(_, event)| event.numbers).max().unwrap_or(0)
    }

    /// The place of the event that happens when the game sets the clock.
    pub fn by_clock(&self) -> Option<usize> {
        self.events.iter().position(|event| event.by_clock)
    }

    /// Whether anything happens by itself.
    pub fn has_due(&self) -> bool {
        self.events.iter().any(|event| event.due.is_some())
    }

    /// Whether anything of what happens by itself is each instance's or lamp's.
    pub fn has_due_of_each(&self) -> bool {
        self.events.iter().any(|event| event.due.is_some() && event.count.is_some())
    }

    /// Whether something may follow at the very moment at which the game does something.
    pub fn follows(&self) -> bool {
        self.events.iter().any(|event| event.follows)
    }

    /// How many numbers and how many flags all inputs have.
    pub fn slots(&self) -> (usize, usize) {
        self.inputs.iter().fold((0, 0), |(numbers, flags), input| match input.flag {
            true => (numbers, flags + input.slots()),
            false => (numbers + input.slots(), flags),
        })
    }

    /// Whether the game does more with a run than set inputs: it has a clock, choices or events.
    pub fn has_acts(&self) -> bool {
        let sets = self.follows() && self.given().next().is_some();
        sets || self.clock.is_some() || !self.choices.is_empty() || self.fired().next().is_some()
    }

    /// Which light an example of the host's loop reads: the first that is a lamp in a place, or else the first.
    pub fn example(&self) -> usize {
        let placed = [LightKind::Point, LightKind::Spot, LightKind::Area];
        self.lights.iter().position(|light| placed.contains(&light.kind)).unwrap_or_default()
    }

    /// How many bytes a run takes: the moment, what is due, clock and inputs as doubles, the seed, a byte a flag.
    pub fn run_bytes(&self) -> usize {
        let (numbers, flags) = self.slots();
        let clock = self.clock.iter().flat_map(clock_fields).count() * 8;
        let fading = self.choices.iter().filter(|choice| choice.fades());
        let fades: usize = fading.map(|choice| 8 * (choice.options.len() + 1)).sum();
        let due = if self.has_due() { 8 } else { 0 };
        (8 + due + clock + fades + 4 * self.choices.len() + 8 * numbers + 4 + flags)
            .next_multiple_of(8)
    }

    /// The same under another name, if one is given, and with tables of names where they are wanted.
    pub fn with(self, prefix: Option<FilePrefix>, names: bool) -> Plan {
        Plan { prefix, names, ..self }
    }

    /// What the file is named by: the prefix, or else the book.
    pub fn base(&self) -> &str {
        self.prefix.as_ref().map_or(&self.book, FilePrefix::text)
    }

    /// Looks at all code of its functions, lights and events.
    pub(super) fn look(&self, look: &mut impl FnMut(&Code)) {
        let bodies = self.functions.iter().flat_map(|function| &function.body);
        bodies.for_each(|statement| visit_statement(statement, look));
        for light in &self.lights {
            light.any(|code| {
                look(code);
                false
            });
        }
        self.events.iter().for_each(|event| event.look(look));
    }
}
