//! Standard MIDI files: notes and beats in place of samples.

use std::collections::BTreeMap;

use caltrin_core::quantity::Seconds;
use caltrin_core::sound::{Hearing, LONGEST, Mark, STEPS, SoundFault};
use midly::{MetaMessage, MidiMessage, Smf, Timing, TrackEventKind};

use super::SoundError;

/// Largest file that is read.
pub const LARGEST: u64 = 16 << 20;

/// Most notes that begin or end, and changes of tempo and bar.
const MOST_EVENTS: usize = 2_000_000;

/// Below which note it is low, and from which it is high: middle C, and an octave above the C over it.
const EDGES: [u8; 2] = [60, 84];

/// Whether a file that begins so is one.
pub fn is_midi(head: &[u8]) -> bool {
    head.starts_with(b"MThd")
}

/// What happens at one tick of the music.
#[derive(Clone, Copy)]
enum Said {
    Tempo(f64),
    Bar(u8, u8),
    On(u8, u8, u8),
    Off(u8, u8),
}

/// What the music is like: how hard the notes that sound are struck as a level, the notes and the beats as marks.
pub fn heard(bytes: &[u8], name: &str) -> Result<Hearing, SoundError> {
    let unknown =
        |cause: &str| SoundError::Unknown { name: name.to_owned(), cause: cause.to_owned() };
    if bytes.len() as u64 > LARGEST {
        return Err(unknown("it is too large for a MIDI file"));
    }
    let music = Smf::parse(bytes).map_err(|refused| unknown(&refused.to_string()))?;
    let mut said: Vec<(u64, Said)> = Vec::new();
    let mut end = 0u64;
    for track in &music.tracks {
        let mut at = 0u64;
        for event in track {
            at += u64::from(event.delta.as_int());
            end = end.max(at);
            match event.kind {
                TrackEventKind::Meta(MetaMessage::Tempo(micros)) => {
                    said.push((at, Said::Tempo(f64::from(micros.as_int()) * 1e-6)));
                }
                TrackEventKind::Meta(MetaMessage::TimeSignature(beats, parts, ..)) => {
                    said.push((at, Said::Bar(beats, parts)));
                }
                TrackEventKind::Midi { channel, message: MidiMessage::NoteOn { key, vel } } => {
                    let (channel, key) = (channel.as_int(), key.as_int());
                    said.push((
                        at,
                        match vel.as_int() {
                            0 => Said::Off(channel, key),
                            force => Said::On(channel, key, force),
                        },
                    ));
                }
                TrackEventKind::Midi { channel, message: MidiMessage::NoteOff { key, .. } } => {
                    said.push((at, Said::Off(channel.as_int(), key.as_int())));
                }
                _ => {}
            }
        }
    }
    if said.len() > MOST_EVENTS {
        return Err(unknown("it has more than a million notes and tempo changes"));
    }
    // Notes that end at the tick at which another begins end first; a tempo counts from its tick on.
    said.sort_by_key(|(at, said)| {
        (
            *at,
            match said {
                Said::Tempo(_) => 0,
                Said::Bar(..) => 1,
                Said::Off(..) => 2,
                Said::On(..) => 3,
            },
        )
    });
    let ticks = match music.header.timing {
        Timing::Metrical(ticks) => f64::from(ticks.as_int().max(1)),
        Timing::Timecode(frames, parts) => {
            f64::from(frames.as_f32()) * f64::from(parts.max(1)) * 0.5
        }
    };
    let too_long = || SoundError::Fault { name: name.to_owned(), fault: SoundFault::TooLong };
    let mut played = Played::default();
    let (mut tick, mut now, mut beat) = (0u64, 0.0, 0.5);
    let mut bar = (4u8, 2u8);
    // Beats are quarters, or what the bar is counted in; from its last change on.
    let mut counted = (0.0, 0u64);
    let mut next_beat = 0.0;
    said.push((end, Said::Bar(bar.0, bar.1)));
    for (at, what) in said {
        let length = |ticks_: f64, beat: f64| ticks_ / ticks * beat;
        let per_beat = ticks * 4.0 / f64::from(1u32 << bar.1.min(6));
        while next_beat < at as f64 {
            let moment = now + length(next_beat - tick as f64, beat);
            if moment > LONGEST.0 || played.beats.len() > 100_000 {
                return Err(too_long());
            }
            let place = counted.1 % u64::from(bar.0.max(1)) + 1;
            played.beats.push(Mark { at: moment, value: place as f64 });
            counted.1 += 1;
            next_beat = counted.0 + counted.1 as f64 * per_beat;
        }
        now += length((at - tick) as f64, beat);
        tick = at;
        if now > LONGEST.0 {
            return Err(too_long());
        }
        match what {
            // Ticks that are parts of film frames know no tempo.
            Said::Tempo(_) if matches!(music.header.timing, Timing::Timecode(..)) => {}
            Said::Tempo(seconds) => beat = seconds.max(1e-3),
            Said::Bar(beats, parts) => {
                (bar, counted, next_beat) = ((beats, parts), (tick as f64, 0), tick as f64);
            }
            Said::On(channel, key, force) => played.on(now, channel, key, force),
            Said::Off(channel, key) => played.off(now, channel, key),
        }
    }
    if played.notes.is_empty() {
        return Err(SoundError::Fault { name: name.to_owned(), fault: SoundFault::Empty });
    }
    Ok(played.heard(now))
}

/// How hard the notes are struck that sound at one moment.
struct Sounding {
    /// How many there are of each force, 0 to 127.
    counts: [u32; 128],
    /// A bit for each force of which there are any.
    any: u128,
}

impl Sounding {
    fn new() -> Self {
        Sounding { counts: [0; 128], any: 0 }
    }

    /// A note begins, or ends.
    fn turn(&mut self, begins: bool, force: u8) {
        let count = &mut self.counts[usize::from(force & 127)];
        *count = if begins { *count + 1 } else { count.saturating_sub(1) };
        let bit = 1 << (force & 127);
        self.any = if *count > 0 { self.any | bit } else { self.any & !bit };
    }

    /// The greatest force, 0 where nothing sounds.
    fn loudest(&self) -> u8 {
        127 - (self.any | 1).leading_zeros() as u8
    }
}

/// Notes as they are played.
#[derive(Default)]
struct Played {
    notes: Vec<Mark>,
    beats: Vec<Mark>,
    /// By channel and key, since when and how hard.
    sounding: BTreeMap<(u8, u8), (f64, u8)>,
    /// From, to, key and force of each that is over.
    spans: Vec<(f64, f64, u8, u8)>,
}

impl Played {
    fn on(&mut self, now: f64, channel: u8, key: u8, force: u8) {
        self.off(now, channel, key);
        self.notes.push(Mark { at: now, value: f64::from(key) });
        self.sounding.insert((channel, key), (now, force));
    }

    fn off(&mut self, now: f64, channel: u8, key: u8) {
        if let Some((since, force)) = self.sounding.remove(&(channel, key)) {
            self.spans.push((since, now, key, force));
        }
    }

    fn heard(mut self, end: f64) -> Hearing {
        for ((_, key), (since, force)) in std::mem::take(&mut self.sounding) {
            self.spans.push((since, end, key, force));
        }
        let per_second = f64::from(STEPS);
        // A note is heard for a step at the least.
        let steps = (end * per_second).ceil() as usize + 1;
        let mut turns = Vec::with_capacity(self.spans.len() * 2);
        for (since, until, key, force) in &self.spans {
            let from = ((since * per_second).round() as usize).min(steps - 1);
            let to = ((until * per_second).round() as usize).clamp(from + 1, steps);
            let band = EDGES.iter().filter(|edge| *key >= **edge).count();
            turns.extend([(from, true, band, *force), (to, false, band, *force)]);
        }
        turns.sort_unstable_by_key(|(step, ..)| *step);
        let mut bands = [vec![0.0f32; steps], vec![0.0f32; steps], vec![0.0f32; steps]];
        let mut sounding: [Sounding; 3] = std::array::from_fn(|_| Sounding::new());
        let mut turns = turns.into_iter().peekable();
        for n in 0..steps {
            while let Some((_, begins, band, force)) = turns.next_if(|(step, ..)| *step <= n) {
                sounding[band].turn(begins, force);
            }
            for (band, sounding) in bands.iter_mut().zip(&sounding) {
                band[n] = f32::from(sounding.loudest()) / 127.0;
            }
        }
        let loudest = |n: usize| bands[0][n].max(bands[1][n]).max(bands[2][n]);
        let levels = (0..steps).map(loudest).collect();
        let length = Seconds(end.max(1.0 / per_second));
        // Two notes at once are one moment, at which the higher one counts.
        self.notes.sort_by(|a, b| a.at.total_cmp(&b.at).then(a.value.total_cmp(&b.value)));
        Hearing::of_notes(length, levels, bands, self.notes, self.beats)
    }
}
