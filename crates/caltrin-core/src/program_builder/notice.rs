//! Notices that the book sends to the game at events.

use super::{Owner, ProgramBuilder};
use crate::interval::Interval;
use crate::kernel::LAST_MOMENT;
use crate::kind::{InstanceLevel, Kind};
use crate::program::{
    Constant, EventId, EventOwner, ExprId, InputId, MOST_NOTICE_VALUES, MOST_NOTICES, MOST_TEXTS,
    Notice, NoticeValue, Queue, Sends, Size,
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

/// What a 32-bit float can hold.
const SINGLE: Interval = Interval { lo: -(f32::MAX as f64), hi: f32::MAX as f64 };

/// Values that every notice has.
const ALWAYS: [&str; 6] = ["moment", "name", "text", "from", "lamp", "position"];

/// A notice being defined.
#[derive(Clone, Debug)]
pub struct Sending {
    /// The number of times it was sent: the state, and its value. Only if something is drawn.
    sent: Option<(InputId, ExprId)>,
    /// Its values: indices in the program's, and their expressions.
    values: Vec<(usize, ExprId)>,
}

impl ProgramBuilder {
    /// Begins a notice. Until [`ProgramBuilder::finish_notice`], random values of the owner that
    /// are chosen once are chosen again each time it is sent. `counted`: whether it has several
    /// texts, or values.
    pub fn begin_notice(
        &mut self,
        owner: &mut Owner,
        counted: bool,
    ) -> Result<Sending, SemanticError> {
        let line = self.program.notices.len();
        if line == MOST_NOTICES {
            return Err(SemanticError::TooManyNotices(MOST_NOTICES));
        }
        self.queue();
        let sent = counted.then(|| {
            self.keep(
                (format!("notice{line}.sent"), "number of times sent"),
                Kind::Number,
                Constant::Scalar(0.0),
                Interval { lo: 0.0, hi: 4e9 },
            )
        });
        owner.redrawn = sent.map(|(_, value)| value);
        Ok(Sending { sent, values: Vec::new() })
    }

    /// Adds a value to a notice, evaluated each time it is sent, just before the event changes
    /// anything.
    pub fn carry(
        &mut self,
        sending: &mut Sending,
        name: &str,
        value: ExprId,
    ) -> Result<(), SemanticError> {
        let value = self.given_out(value)?;
        self.expect_small([value])?;
        let which = self.notice_value(name, self.kind(value))?;
        if sending.values.iter().any(|(known, _)| *known == which) {
            return Err(SemanticError::NoticeValueTwice(name.to_owned()));
        }
        sending.values.push((which, value));
        Ok(())
    }

    /// Makes events send a notice with a random one of its texts, never the same twice in a row.
    /// The choice is stored even if the queue is full.
    pub fn finish_notice(
        &mut self,
        owner: &mut Owner,
        Sending { sent, mut values }: Sending,
        events: &[EventId],
        (mut notice, sender): (Notice, Sender),
    ) -> Result<(), SemanticError> {
        owner.redrawn = None;
        if notice.texts.len() > MOST_TEXTS {
            return Err(SemanticError::TooManyTexts(MOST_TEXTS));
        }
        let line = self.program.notices.len();
        let (mut text, mut sets) = (self.number(0.0, Kind::Number)?, Vec::new());
        if let Some((id, sent)) = sent {
            if notice.texts.len() > 1 {
                let last;
                (text, last) = self.drawn_text(owner, line, notice.texts.len() as u32, sent)?;
                sets.push((last, text));
            }
            let (one, limit) = (self.number(1.0, Kind::Number)?, self.number(4e9, Kind::Number)?);
            let next = self.add(sent, one)?;
            sets.push((id, self.min(next, limit)?));
        }
        self.name_local(text, "text");
        let lamp = match sender {
            Sender::Lamp(n) => Some(n),
            Sender::Own => Some(0).filter(|_| self.home.many().is_none()),
        };
        values.sort_by_key(|(which, _)| *which);
        let names = values.iter().map(|(n, _)| self.program.notice_values[*n].name.clone());
        notice.values = names.collect();
        // Which of those of its name, whatever stands before them.
        let alike = |other: &&Notice| other.name == notice.name && other.from == notice.from;
        let nth = self.program.notices.iter().filter(alike).count();
        let saved = format!("notice {} {} {nth}", notice.name, notice.from);
        self.program.anchors.renamed.insert(format!("notice{line}"), saved);
        self.program.notices.push(notice);
        for event in events {
            self.write_at(*event, None, sets.clone())?;
            if let Some(write) = self.program.events[event.index()].writes.last_mut() {
                write.sends = Some(Sends { line: line as u32, text, lamp, values: values.clone() });
            }
        }
        Ok(())
    }

    /// The index of the chosen text, and its state.
    fn drawn_text(
        &mut self,
        owner: &mut Owner,
        line: usize,
        count: u32,
        sent: ExprId,
    ) -> Result<(ExprId, InputId), SemanticError> {
        let (last, last_value) = self.keep(
            (format!("notice{line}.text"), "the index of its latest text"),
            Kind::Number,
            Constant::Scalar(-1.0),
            Interval { lo: -1.0, hi: f64::from(count) - 1.0 },
        );
        let level = self.random_per_count(owner, "send", sent)?;
        Ok((self.another_part(level, last_value, count)?, last))
    }

    /// The index of a value that notices carry. It is added to the program if it is new.
    fn notice_value(&mut self, name: &str, kind: Kind) -> Result<usize, SemanticError> {
        if ALWAYS.contains(&name) {
            return Err(SemanticError::NoticeHas(name.to_owned()));
        }
        let known = &self.program.notice_values;
        if let Some(n) = known.iter().position(|value| value.name == name) {
            return match known[n].kind {
                first if first == kind => Ok(n),
                first => {
                    let name = name.to_owned();
                    Err(SemanticError::NoticeValueKind { name, first, found: kind })
                }
            };
        }
        if known.len() == MOST_NOTICE_VALUES {
            return Err(SemanticError::TooManyNoticeValues(MOST_NOTICE_VALUES));
        }
        let (default, bounds) = match kind {
            Kind::OnOff => (Constant::OnOff(false), Interval { lo: 0.0, hi: 1.0 }),
            _ if kind.width() == 3 => (Constant::Vector([0.0; 3]), SINGLE),
            _ => (Constant::Scalar(0.0), SINGLE),
        };
        let home = self.go_home(self.waiting());
        let means = (format!("notice_value.{name}"), "that value of each notice");
        let kept = self.keep(means, kind, default, bounds).0;
        self.go_home(home);
        self.input_slots += (kind.width() as u64 - 1) * u64::from(self.program.notice_capacity);
        self.program.notice_values.push(NoticeValue { name: name.to_owned(), kind, kept });
        Ok(self.program.notice_values.len() - 1)
    }

    /// The owner of state that there is one of for each queued notice.
    fn waiting(&self) -> EventOwner {
        EventOwner {
            size: Size::Many(self.program.notice_capacity),
            levels: Vec::new(),
            scope: InstanceLevel::Lamp,
        }
    }

    /// The queue of notices.
    fn queue(&mut self) {
        if self.program.queue.is_some() {
            return;
        }
        let home = self.go_home(self.waiting());
        let keep = |builder: &mut Self, name: &str, means, kind, hi: f64| {
            // A run may stand before its start.
            let lo = if kind == Kind::Time { -LAST_MOMENT } else { 0.0 };
            let bounds = Interval { lo, hi };
            builder.keep((format!("notice.{name}"), means), kind, Constant::Scalar(0.0), bounds).0
        };
        let moments = keep(self, "moments", "s, when each was sent", Kind::Time, LAST_MOMENT);
        let packed = keep(self, "packed", "the packed notice", Kind::Number, 1e12);
        let positions = {
            let what = ("notice.positions".to_owned(), "the position of its lamp at that time");
            self.keep(what, Kind::Point, Constant::Vector([0.0; 3]), SINGLE).0
        };
        self.go_home(EventOwner::BOOK);
        let most = f64::from(self.program.notice_capacity);
        let first = keep(self, "first", "the index of the oldest", Kind::Number, most - 1.0);
        let count = keep(self, "count", "number of queued notices", Kind::Number, most);
        let dropped = keep(self, "dropped", "number of dropped notices", Kind::Number, 4e9);
        self.program.queue = Some(Queue { moments, packed, positions, first, count, dropped });
        self.go_home(home);
    }
}
