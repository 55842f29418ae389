//! Samples out of files, a packet at a time.

use std::cell::Cell;
use std::io::{self, Read as _, SeekFrom};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::Path;

use caltrin_core::quantity::Seconds;
use caltrin_core::sound::{Band, Cut, Hearing, Listener};
use symphonia::core::audio::SampleBuffer;
use symphonia::core::codecs::{CODEC_TYPE_MP3, CODEC_TYPE_NULL, DecoderOptions};
use symphonia::core::errors::Error;
use symphonia::core::formats::FormatOptions;
use symphonia::core::io::{MediaSource, MediaSourceStream, ReadOnlySource};
use symphonia::core::meta::MetadataOptions;
use symphonia::core::probe::Hint;

use super::container::{self, ENDLESS, HeaderError};
use super::{Progress, SoundError};

/// How much shorter than it says a sound may be, in seconds: what encoders add at both ends.
const TRIMMED: f64 = 0.15;

thread_local! {
    static DECODING: Cell<bool> = const { Cell::new(false) };
}

/// Whether this thread is decoding a sound. A panic of a decoder is caught and becomes a [`SoundError`]; a program
/// with a panic hook of its own asks this to keep quiet about it.
pub fn is_decoding() -> bool {
    DECODING.get()
}

/// How many damaged packets in a row are passed over; a player would not be heard to stumble.
const MOST_DAMAGED: u32 = 3;

/// Decodes. A decoder that stumbles over hostile bytes must not take the caller along.
pub(super) fn guarded<T>(
    name: &str,
    decode: impl FnOnce() -> Result<T, SoundError>,
) -> Result<T, SoundError> {
    DECODING.set(true);
    let decoded = catch_unwind(AssertUnwindSafe(decode));
    DECODING.set(false);
    decoded.unwrap_or_else(|_| {
        let cause = "its decoder failed".to_owned();
        Err(SoundError::Unknown { name: name.to_owned(), cause })
    })
}

/// Analyzes a sound as it is decoded. Whatever is in the file, this comes to an end: every turn takes a packet of it.
pub fn heard(
    mut source: impl MediaSource + 'static,
    name: &str,
    own: &[Band],
    progress: Option<Progress<'_>>,
) -> Result<Hearing, SoundError> {
    let io = |cause| SoundError::Io { name: name.to_owned(), cause };
    let wav = container::wav(&mut source).map_err(|refused| match refused {
        HeaderError::Io(cause) => io(cause),
        HeaderError::Fault(fault) => SoundError::Fault { name: name.to_owned(), fault },
        HeaderError::Other(cause) => SoundError::Unknown { name: name.to_owned(), cause },
    })?;
    let (source, ending): (Box<dyn MediaSource>, _) = match wav {
        Some(wav) => {
            source.seek(SeekFrom::Start(wav.data)).map_err(io)?;
            let whole = wav.header.chain(source.take(wav.bytes));
            (Box::new(ReadOnlySource::new(whole)), None)
        }
        None => {
            let ending = container::ending(&mut source).map_err(io)?;
            source.rewind().map_err(io)?;
            (Box::new(source), ending)
        }
    };
    let hearing = guarded(name, || decoded(source, name, own, progress))?;
    let cut = ending.filter(|ending| ending.is_cut).map(|ending| Cut {
        missing: ending
            .promised
            .map(|promised| promised.0 - hearing.length().0)
            .filter(|missing| *missing > TRIMMED),
    });
    Ok(hearing.cut_short(cut))
}

fn decoded(
    source: Box<dyn MediaSource>,
    name: &str,
    own: &[Band],
    progress: Option<Progress<'_>>,
) -> Result<Hearing, SoundError> {
    let unknown = |cause: String| SoundError::Unknown { name: name.to_owned(), cause };
    let fault = |fault| SoundError::Fault { name: name.to_owned(), fault };
    let mut hint = Hint::new();
    if let Some(extension) = Path::new(name).extension().and_then(|word| word.to_str()) {
        hint.with_extension(&extension.to_lowercase());
    }
    let stream =
        MediaSourceStream::new(source, symphonia::core::io::MediaSourceStreamOptions::default());
    // What an encoder put before the first sample and after the last one is not a part of the sound.
    let formats = FormatOptions { enable_gapless: true, ..FormatOptions::default() };
    let about = MetadataOptions::default();
    let probed = symphonia::default::get_probe().format(&hint, stream, &formats, &about);
    let mut format = probed.map_err(|refused| unknown(in_words(&refused)))?.format;
    let track = format.tracks().iter().find(|track| track.codec_params.codec != CODEC_TYPE_NULL);
    let track = track.ok_or_else(|| unknown("it has no audio track".to_owned()))?;
    let (id, parameters) = (track.id, track.codec_params.clone());
    let mut decoder = symphonia::default::get_codecs()
        .make(&parameters, &DecoderOptions::default())
        .map_err(|refused| unknown(in_words(&refused)))?;
    let mut listener: Option<(Listener, u32, usize)> = None;
    let mut samples: Option<SampleBuffer<f32>> = None;
    let (mut damaged, mut amiss) = (0, None);
    loop {
        let packet = match format.next_packet() {
            Ok(packet) if packet.track_id() == id => packet,
            Ok(_) => continue,
            Err(Error::IoError(ended)) if ended.kind() == io::ErrorKind::UnexpectedEof => break,
            Err(Error::ResetRequired) => break,
            Err(refused) => {
                amiss = Some(in_words(&refused));
                break;
            }
        };
        let buffer = match decoder.decode(&packet) {
            Ok(buffer) => buffer,
            Err(Error::DecodeError(_)) if damaged < MOST_DAMAGED => {
                damaged += 1;
                continue;
            }
            Err(Error::IoError(ended)) if ended.kind() == io::ErrorKind::UnexpectedEof => break,
            Err(refused) => {
                amiss = Some(in_words(&refused));
                break;
            }
        };
        damaged = 0;
        let (rate, channels) = (buffer.spec().rate, buffer.spec().channels.count());
        if listener.is_none() {
            listener = Some((Listener::new(rate, channels, own).map_err(fault)?, rate, channels));
        }
        let Some((listener, known_rate, known_channels)) = listener.as_mut() else { break };
        if (rate, channels) != (*known_rate, *known_channels) {
            return Err(unknown("its sample rate or channel count changes".to_owned()));
        }
        let wanted = buffer.capacity();
        if samples.as_ref().is_none_or(|known| known.capacity() < wanted * channels) {
            samples = Some(SampleBuffer::new(wanted as u64, *buffer.spec()));
        }
        let Some(samples) = samples.as_mut() else { break };
        samples.copy_interleaved_ref(buffer);
        listener.hear(samples.samples()).map_err(fault)?;
        if let (Some(tell), Some(frames)) = (progress, parameters.n_frames) {
            let whole = frames as f64 / f64::from(rate);
            tell(name, (listener.heard().0 / whole).clamp(0.0, 1.0));
        }
    }
    let Some((listener, rate, _)) = listener else {
        let nothing = || fault(caltrin_core::sound::SoundFault::Empty);
        return Err(amiss.map_or_else(nothing, unknown));
    };
    let found = listener.heard();
    if let Some(cause) = amiss {
        return Err(SoundError::Damaged { name: name.to_owned(), found, cause });
    }
    // The length in the head of an MP3 is a guess, and a head written for a stream promises all there can be.
    if let Some(frames) = parameters.n_frames.filter(|_| parameters.codec != CODEC_TYPE_MP3) {
        let promised = Seconds(frames as f64 / f64::from(rate));
        let bytes =
            frames.saturating_mul(u64::from(parameters.bits_per_coded_sample.unwrap_or(8)) / 8);
        let endless = bytes > ENDLESS;
        if !endless && promised.0 - found.0 > 0.05 {
            return Err(SoundError::Short { name: name.to_owned(), promised, found });
        }
    }
    listener.finish().map_err(fault)
}

fn in_words(refused: &Error) -> String {
    match refused {
        Error::IoError(ended) if ended.kind() == io::ErrorKind::UnexpectedEof => {
            "it ends before any audio".to_owned()
        }
        Error::IoError(cause) => cause.to_string(),
        // Its decoders say this where none of them finds its own in a file.
        Error::Unsupported(what) if what.contains("no suitable format") => {
            "no supported format was recognized".to_owned()
        }
        Error::DecodeError(what) | Error::Unsupported(what) => (*what).to_owned(),
        Error::LimitError(what) => format!("{what} is too large"),
        Error::SeekError(_) | Error::ResetRequired => "it cannot be read at once".to_owned(),
    }
}
