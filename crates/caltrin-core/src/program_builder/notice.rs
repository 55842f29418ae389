//! Notices that the book sends to the game at events.

use super::{Owner, ProgramBuilder};
use crate::interval::Interval;
use crate::kernel::LAST_MOMENT;
use crate::kind::{InstanceLevel, Kind};
use crate::program::{
    Constant, EventId, EventOwner, ExprId, InputId, MOST_NOTICES, MOST_TEXTS, MOST_WAITING, Notice,
    Queue, Sends, Size,
};
use crate::semantic_error::SemanticError;

/// The lamp or instance that a notice comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sender {
    /// The one that the event occurs for.
    Own,
    /// The one at this index.
    Lamp(u32),
}

impl ProgramBuilder {
    /// Makes events send a notice with a random one of its texts, never the same twice in a row.
    /// The choice is stored even if the queue is full.
    pub fn send(
        &mut self,
        owner: &mut Owner,
        events: &[EventId],
        notice: Notice,
        sender: Sender,
    ) -> Result<(), SemanticError> {
        if self.program.notices.len() == MOST_NOTICES {
            return Err(SemanticError::TooManyNotices(MOST_NOTICES));
        }
        if notice.texts.len() > MOST_TEXTS {
            return Err(SemanticError::TooManyTexts(MOST_TEXTS));
        }
        self.queue();
        let line = self.program.notices.len();
        let (text, sets) = match notice.texts.len() {
            0 | 1 => (self.number(0.0, Kind::Number)?, Vec::new()),
            count => self.drawn_text(owner, &format!("notice{line}"), count as u32)?,
        };
        self.name_local(text, "text");
        let lamp = match sender {
            Sender::Lamp(n) => Some(n),
            Sender::Own => Some(0).filter(|_| self.home.many().is_none()),
        };
        self.program.notices.push(notice);
        for event in events {
            self.write_at(*event, None, sets.clone())?;
            if let Some(write) = self.program.events[event.index()].writes.last_mut() {
                write.sends = Some(Sends { line: line as u32, text, lamp });
            }
        }
        Ok(())
    }

    /// The index of the chosen text, and its state.
    fn drawn_text(
        &mut self,
        owner: &mut Owner,
        name: &str,
        count: u32,
    ) -> Result<(ExprId, Vec<(InputId, ExprId)>), SemanticError> {
        let (last, last_value) = self.keep(
            (format!("{name}.text"), "the index of its latest text"),
            Kind::Number,
            Constant::Scalar(-1.0),
            Interval { lo: -1.0, hi: f64::from(count) - 1.0 },
        );
        let (sent, sent_value) = self.keep(
            (format!("{name}.sent"), "number of times sent"),
            Kind::Number,
            Constant::Scalar(0.0),
            Interval { lo: 0.0, hi: 4e9 },
        );
        let level = self.random_per_count(owner, "send", sent_value)?;
        let text = self.another_part(level, last_value, count)?;
        let one = self.number(1.0, Kind::Number)?;
        let (next, limit) = (self.add(sent_value, one)?, self.number(4e9, Kind::Number)?);
        let next = self.min(next, limit)?;
        Ok((text, vec![(last, text), (sent, next)]))
    }

    /// The queue of notices.
    fn queue(&mut self) {
        if self.program.queue.is_some() {
            return;
        }
        let many = EventOwner {
            size: Size::Many(MOST_WAITING),
            levels: Vec::new(),
            scope: InstanceLevel::Lamp,
        };
        let home = self.go_home(many);
        let keep = |builder: &mut Self, name: &str, means, kind, hi: f64| {
            // A run may stand before its start.
            let lo = if kind == Kind::Time { -LAST_MOMENT } else { 0.0 };
            let bounds = Interval { lo, hi };
            builder.keep((format!("notice.{name}"), means), kind, Constant::Scalar(0.0), bounds).0
        };
        let moments = keep(self, "moments", "s, when each was sent", Kind::Time, LAST_MOMENT);
        let packed = keep(self, "packed", "the packed notice", Kind::Number, 1e12);
        let positions = {
            let bounds = Interval { lo: -f64::from(f32::MAX), hi: f64::from(f32::MAX) };
            let what = ("notice.positions".to_owned(), "the position of its lamp at that time");
            self.keep(what, Kind::Point, Constant::Vector([0.0; 3]), bounds).0
        };
        self.go_home(EventOwner::BOOK);
        let first = keep(self, "first", "the index of the oldest", Kind::Number, 31.0);
        let count = keep(self, "count", "number of queued notices", Kind::Number, 32.0);
        let dropped = keep(self, "dropped", "number of dropped notices", Kind::Number, 4e9);
        self.program.queue = Some(Queue { moments, packed, positions, first, count, dropped });
        self.go_home(home);
    }
}
