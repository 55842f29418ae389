//! What the containers of sounds say about themselves, read before a decoder sees them.
//!
//! - WAV: the `fmt ` and `data` chunks are found by a tolerant walk (a missing pad byte, a RIFF size of 0) and checked,
//!   and the decoder gets a header in canonical form.
//! - Ogg and MP3: a decoder takes half a file as the whole, so whether the end is there is checked here.

use std::io::{self, BufReader, Cursor, Read, Seek, SeekFrom};

use caltrin_core::quantity::Seconds;
use caltrin_core::sound::{MOST_CHANNELS, SoundFault};

/// A data size from which on it is a placeholder of a stream that was never gone back to.
pub const ENDLESS: u64 = 0x7fff_0000;

/// Chunks that often stand before the samples.
const KNOWN_CHUNKS: [&[u8; 4]; 10] =
    [b"fmt ", b"data", b"LIST", b"fact", b"cue ", b"bext", b"JUNK", b"smpl", b"iXML", b"PEAK"];

/// The canonical header of a WAV file, where its samples begin, and how many bytes they take.
pub struct Wav {
    pub header: Cursor<Vec<u8>>,
    pub data: u64,
    pub bytes: u64,
}

/// Why a header cannot be used.
pub enum HeaderError {
    /// It cannot be read.
    Io(io::Error),
    /// It has what no sound has.
    Fault(SoundFault),
    /// Anything else, in words.
    Other(String),
}

impl From<io::Error> for HeaderError {
    fn from(cause: io::Error) -> Self {
        HeaderError::Io(cause)
    }
}

/// The header of a WAV file; `None` if it is not one or has no chunk of format or samples, which the decoder reports.
pub fn wav(source: &mut (impl Read + Seek)) -> Result<Option<Wav>, HeaderError> {
    let length = source.seek(SeekFrom::End(0))?;
    let mut head = [0; 12];
    source.rewind()?;
    if length < 12 || source.read_exact(&mut head).is_err() {
        return Ok(None);
    }
    if &head[..4] != b"RIFF" || &head[8..] != b"WAVE" {
        return Ok(None);
    }
    let riff = little(&head[4..8]);
    let mut format: Option<Vec<u8>> = None;
    let mut at = 12;
    while at + 8 <= length {
        let mut chunk = [0; 8];
        source.seek(SeekFrom::Start(at))?;
        source.read_exact(&mut chunk)?;
        let size = u64::from(little(&chunk[4..]));
        let (start, end) = (at + 8, at + 8 + size);
        match &chunk[..4] {
            b"fmt " => {
                if !(16..=4096).contains(&size) || end > length {
                    return Err(HeaderError::Other("its format chunk is damaged".to_owned()));
                }
                let mut bytes = vec![0; size as usize];
                source.read_exact(&mut bytes)?;
                format = Some(bytes);
            }
            b"data" => {
                let Some(format) = format else { return Ok(None) };
                let streamed = size >= ENDLESS || (size == 0 && riff == 0);
                let bytes = if streamed { length - start } else { size };
                return canonical(format, start, bytes).map(Some);
            }
            _ => {}
        }
        at = after(source, end, length, size % 2 == 1)?;
    }
    Ok(None)
}

/// Where the next chunk begins: odd ones are padded, but some writers leave the pad byte out.
fn after(
    source: &mut (impl Read + Seek),
    end: u64,
    length: u64,
    is_odd: bool,
) -> Result<u64, io::Error> {
    if !is_odd || end + 8 > length {
        return Ok(end);
    }
    let mut name = [0; 4];
    source.seek(SeekFrom::Start(end))?;
    source.read_exact(&mut name)?;
    Ok(if KNOWN_CHUNKS.contains(&&name) { end } else { end + 1 })
}

fn canonical(format: Vec<u8>, data: u64, bytes: u64) -> Result<Wav, HeaderError> {
    let half = |at: usize| u16::from_le_bytes([format[at], format[at + 1]]);
    let (channels, rate, block, bits) = (half(2), little(&format[4..8]), half(12), half(14));
    if channels == 0 || usize::from(channels) > MOST_CHANNELS {
        return Err(HeaderError::Fault(SoundFault::Channels(usize::from(channels))));
    }
    if !(1_000..=768_000).contains(&rate) {
        return Err(HeaderError::Fault(SoundFault::Rate(rate)));
    }
    let is_plain = matches!(half(0), 1 | 3 | 0xfffe);
    if is_plain && (bits == 0 || bits > 64 || block == 0 || block % channels != 0) {
        let message = format!(
            "its header gives {bits} bits a sample and {block} bytes a frame of {channels}"
        );
        return Err(HeaderError::Other(message));
    }
    let size = u32::try_from(bytes).unwrap_or(u32::MAX);
    let mut header = Vec::with_capacity(format.len() + 28);
    header.extend_from_slice(b"RIFF");
    let whole = (size as usize).saturating_add(format.len() + 20);
    header.extend_from_slice(&u32::try_from(whole).unwrap_or(u32::MAX).to_le_bytes());
    header.extend_from_slice(b"WAVEfmt ");
    header.extend_from_slice(&(format.len() as u32).to_le_bytes());
    header.extend_from_slice(&format);
    if format.len() % 2 == 1 {
        header.push(0);
    }
    header.extend_from_slice(b"data");
    header.extend_from_slice(&size.to_le_bytes());
    Ok(Wav { header: Cursor::new(header), data, bytes })
}

fn little(bytes: &[u8]) -> u32 {
    u32::from_le_bytes([bytes[0], bytes[1], bytes[2], bytes[3]])
}

fn big(bytes: &[u8]) -> u32 {
    u32::from_be_bytes([bytes[0], bytes[1], bytes[2], bytes[3]])
}

/// Whether the end of a file is missing.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ending {
    /// Whether it breaks off.
    pub is_cut: bool,
    /// How long the file says that it is.
    pub promised: Option<Seconds>,
}

/// How a file of a format that can be cut unnoticed ends; `None` of other formats.
pub fn ending(source: &mut (impl Read + Seek)) -> io::Result<Option<Ending>> {
    let length = source.seek(SeekFrom::End(0))?;
    let mut head = [0; 10];
    source.rewind()?;
    if length < 128 {
        return Ok(None);
    }
    source.read_exact(&mut head)?;
    if &head[..4] == b"OggS" {
        return ogg(source, length).map(Some);
    }
    let start = match &head[..3] {
        b"ID3" => 10 + head[6..10].iter().fold(0, |sum, b| sum << 7 | u64::from(b & 0x7f)),
        _ => 0,
    };
    source.seek(SeekFrom::Start(start))?;
    mp3(&mut BufReader::new(source), start, length)
}

/// An Ogg stream ends with a whole page that is marked as its last (RFC 3533).
fn ogg(source: &mut (impl Read + Seek), length: u64) -> io::Result<Ending> {
    // A page has 65,307 bytes at most.
    let from = length.saturating_sub(70_000);
    source.seek(SeekFrom::Start(from))?;
    let mut tail = Vec::new();
    source.read_to_end(&mut tail)?;
    let last = (0..tail.len().saturating_sub(3)).rev().find(|at| tail[*at..].starts_with(b"OggS"));
    let whole = last.is_some_and(|at| {
        let page = &tail[at..];
        let Some(count) = page.get(26).map(|n| usize::from(*n)) else { return false };
        let Some(sizes) = page.get(27..27 + count) else { return false };
        let size: usize = sizes.iter().map(|n| usize::from(*n)).sum();
        page.len() >= 27 + count + size && page[5] & 4 != 0
    });
    Ok(Ending { is_cut: !whole, promised: None })
}

/// A frame of MPEG audio, layer III.
struct AudioFrame {
    bytes: u64,
    samples: u32,
    rate: u32,
    /// Where a header of the whole file stands in the first one.
    table: usize,
}

impl AudioFrame {
    fn of(head: [u8; 4]) -> Option<AudioFrame> {
        const RATES: [u32; 3] = [44_100, 48_000, 32_000];
        const FIRST: [u32; 14] = [32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320];
        const SECOND: [u32; 14] = [8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160];
        let is_synced = head[0] == 0xff && head[1] & 0xe0 == 0xe0 && head[1] >> 1 & 3 == 1;
        let (version, kilobits) = (head[1] >> 3 & 3, usize::from(head[2] >> 4));
        let base = RATES.get(usize::from(head[2] >> 2 & 3))?;
        if !is_synced || version == 1 || kilobits == 0 || kilobits == 15 {
            return None;
        }
        let is_first = version == 3;
        let rate = base / [4, 1, 2, 1][usize::from(version)];
        let speed = 1_000 * if is_first { FIRST } else { SECOND }[kilobits - 1];
        let samples = if is_first { 1_152 } else { 576 };
        let padding = u64::from(head[2] >> 1 & 1);
        let is_mono = head[3] >> 6 == 3;
        let side = match (is_first, is_mono) {
            (true, false) => 32,
            (true, true) | (false, false) => 17,
            (false, true) => 9,
        };
        let bytes = u64::from(samples / 8 * speed / rate) + padding;
        Some(AudioFrame { bytes, samples, rate, table: 4 + side })
    }
}

/// An MP3 file ends with a whole frame, perhaps with tags after it; a header of the whole file, where there is one, has its
/// number of frames and bytes.
fn mp3(
    source: &mut BufReader<impl Read + Seek>,
    start: u64,
    length: u64,
) -> io::Result<Option<Ending>> {
    let mut at = start;
    let mut is_cut = false;
    let mut promised = None;
    let mut count = 0u32;
    loop {
        let mut head = [0; 4];
        if at + 4 > length {
            break;
        }
        source.read_exact(&mut head)?;
        let Some(frame) = AudioFrame::of(head) else { break };
        if count == 0 {
            let mut rest = vec![0; (frame.bytes.min(length - at) as usize).saturating_sub(4)];
            source.read_exact(&mut rest)?;
            if let Some((frames, bytes)) = table(&rest, frame.table - 4) {
                let seconds = f64::from(frames) * f64::from(frame.samples) / f64::from(frame.rate);
                promised = Some(Seconds(seconds));
                is_cut = bytes.is_some_and(|bytes| start + u64::from(bytes) > length);
            }
        } else {
            source.seek_relative(frame.bytes as i64 - 4)?;
        }
        count += 1;
        at += frame.bytes;
    }
    // Two frames in a row are no accident.
    Ok((count > 1).then_some(Ending { is_cut: is_cut || at > length, promised }))
}

/// Frames and bytes of the header of a whole file, in the first frame after its own header.
fn table(rest: &[u8], at: usize) -> Option<(u32, Option<u32>)> {
    let word = |at: usize| rest.get(at..at + 4).map(big);
    match rest.get(at..at + 4) {
        Some(b"Xing" | b"Info") => {
            let flags = word(at + 4)?;
            let frames = (flags & 1 != 0).then(|| word(at + 8)).flatten()?;
            Some((frames, (flags & 2 != 0).then(|| word(at + 12)).flatten()))
        }
        _ if rest.get(32..36) == Some(b"VBRI") => Some((word(46)?, word(42))),
        _ => None,
    }
}
