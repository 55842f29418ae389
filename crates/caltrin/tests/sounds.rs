//! Sounds in files: every format, everything that can be amiss with one, and what is kept of them.

use std::fs;
use std::path::Path;
use std::sync::Arc;

use caltrin::core::quantity::Seconds;
use caltrin::core::sound::{Band, Envelope, Follower, Hearing, Marks, Measure, Playing, STEPS};
use caltrin::sound::{Cache, Memory, SoundLoader, hear, hear_bytes};
use hound::{SampleFormat, WavSpec, WavWriter};
use midly::num::{u4, u7, u15, u24, u28};
use midly::{Format, Header, MetaMessage, MidiMessage, Smf, Timing, TrackEvent, TrackEventKind};

const TONES: [(&str, &[u8]); 4] = [
    ("tone.wav", include_bytes!("sounds/tone.wav")),
    ("tone.flac", include_bytes!("sounds/tone.flac")),
    ("tone.ogg", include_bytes!("sounds/tone.ogg")),
    ("tone.mp3", include_bytes!("sounds/tone.mp3")),
];

fn level_apart(a: &Hearing, b: &Hearing) -> f64 {
    let (a, b) = (a.measured(Measure::Level), b.measured(Measure::Level));
    a.iter().zip(&b).fold(0.0, |most: f64, (a, b)| most.max((a - b).abs()))
}

#[test]
fn every_format_says_the_same() {
    let [wav, others @ ..] =
        TONES.map(|(name, bytes)| (name, hear_bytes(bytes, name, &[]).unwrap()));
    assert!((wav.1.length().0 - 0.8).abs() < 1e-9);
    assert_eq!(wav.1.marks(Marks::Onsets).len(), 2);
    for (name, heard) in others {
        // What a codec loses is little, and none of it is time.
        let most = if name == "tone.flac" { 1e-9 } else { 0.03 };
        assert!(level_apart(&wav.1, &heard) <= most, "{name}: {}", level_apart(&wav.1, &heard));
        assert!((heard.length().0 - 0.8).abs() < 0.02, "{name}: {:?}", heard.length());
        let onsets =
            |heard: &Hearing| heard.marks(Marks::Onsets).iter().map(|m| m.at).collect::<Vec<_>>();
        let (wanted, found) = (onsets(&wav.1), onsets(&heard));
        assert_eq!(wanted.len(), found.len(), "{name}");
        for (a, b) in wanted.iter().zip(&found) {
            assert!((a - b).abs() <= 1.01 / f64::from(STEPS), "{name}: {a} {b}");
        }
    }
}

fn wav(path: &Path, spec: WavSpec, samples: &[f32]) {
    let mut file = WavWriter::create(path, spec).unwrap();
    for v in samples {
        match spec.sample_format {
            SampleFormat::Float => file.write_sample(*v).unwrap(),
            SampleFormat::Int => {
                let full = 2f64.powi(i32::from(spec.bits_per_sample) - 1) - 1.0;
                file.write_sample((f64::from(*v) * full).round() as i32).unwrap();
            }
        }
    }
    file.finalize().unwrap();
}

fn spec(channels: u16, bits_per_sample: u16, sample_format: SampleFormat) -> WavSpec {
    WavSpec { channels, sample_rate: 16_000, bits_per_sample, sample_format }
}

fn tone(count: usize) -> Vec<f32> {
    (0..count).map(|n| (n as f32 * 0.2).sin() * 0.8 * (n as f32 / count as f32)).collect()
}

#[test]
fn every_depth_of_wav_says_the_same() {
    let folder = tempfile::tempdir().unwrap();
    let samples = tone(8_000);
    let float = folder.path().join("float.wav");
    wav(&float, spec(1, 32, SampleFormat::Float), &samples);
    let wanted = hear(&float, &[], None).unwrap();
    for bits in [8, 16, 24, 32] {
        let path = folder.path().join(format!("{bits}.wav"));
        wav(&path, spec(1, bits, SampleFormat::Int), &samples);
        let heard = hear(&path, &[], None).unwrap();
        let most = 1.5 / 2f64.powi(i32::from(bits.min(16)) - 1);
        assert!(
            level_apart(&wanted, &heard) < most,
            "{bits} bits: {}",
            level_apart(&wanted, &heard)
        );
    }
    let both: Vec<f32> = samples.iter().flat_map(|v| [0.0, *v]).collect();
    let stereo = folder.path().join("stereo.wav");
    wav(&stereo, spec(2, 32, SampleFormat::Float), &both);
    assert!(level_apart(&wanted, &hear(&stereo, &[], None).unwrap()) < 1e-6);
}

#[test]
fn what_cannot_be_heard_is_told_with_its_name() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    let write = |name: &str, bytes: &[u8]| fs::write(at(name), bytes).unwrap();
    let whole = TONES[0].1;
    write("empty.wav", b"");
    write(
        "text.wav",
        b"this is no sound at all, but a note on the door of the boat house\n"
            .repeat(40)
            .as_slice(),
    );
    write("cut.wav", &whole[..whole.len() / 2]);
    let mut lying = whole.to_vec();
    lying[40..44].copy_from_slice(&400_000_000u32.to_le_bytes());
    write("lying.wav", &lying);
    write("head.wav", &whole[..20]);
    let mut nothing = whole[..44].to_vec();
    nothing[40..44].copy_from_slice(&0u32.to_le_bytes());
    write("nothing.wav", &nothing);
    let mut wide = whole.to_vec();
    wide[22..24].copy_from_slice(&1000u16.to_le_bytes());
    wide[32..34].copy_from_slice(&2000u16.to_le_bytes());
    write("wide.wav", &wide);
    let noise: Vec<u8> =
        (0..60_000u32).map(|n| (n.wrapping_mul(2_654_435_761) >> 13) as u8).collect();
    write("noise.ogg", &noise);
    let mut odd = tone(4_000);
    odd[2_000] = f32::NAN;
    wav(&at("odd.wav"), spec(1, 32, SampleFormat::Float), &odd);
    write("tune.mid", b"MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x60MTrk\xff\xff\xff\xff");
    fs::create_dir(at("folder.wav")).unwrap();
    fs::write(folder.path().parent().unwrap().join("outside-of-it.wav"), whole).unwrap();
    let ears = SoundLoader::new(folder.path());
    for (name, wanted) in [
        ("missing.wav", "there is no sound `missing.wav` in the book's folder"),
        ("empty.wav", "`empty.wav` is an empty file"),
        (
            "text.wav",
            "`text.wav` is not a readable sound file (WAV, FLAC, Ogg Vorbis, MP3 or MIDI)",
        ),
        ("cut.wav", "`cut.wav` is truncated: its header declares 0.80 s, 0.40 s can be read"),
        ("lying.wav", "`lying.wav`"),
        ("head.wav", "`head.wav`"),
        ("nothing.wav", "`nothing.wav`"),
        ("wide.wav", "`wide.wav`"),
        ("noise.ogg", "`noise.ogg`"),
        (
            "odd.wav",
            "`odd.wav` cannot be analyzed: it has a sample that is not a number, at 0.125 s",
        ),
        ("tune.mid", "`tune.mid`"),
        ("folder.wav", "cannot read the sound `folder.wav`: it is a folder"),
        ("../outside-of-it.wav", "`../outside-of-it.wav` is outside the book's folder"),
        ("/etc/passwd", "`/etc/passwd` is outside the book's folder"),
        ("a\\b.wav", "is outside the book's folder"),
        ("", "is outside the book's folder"),
    ] {
        let told = ears.hear(name, &[]).expect_err(name).to_string();
        assert!(told.contains(wanted), "{name}: {told}");
    }
    #[cfg(unix)]
    {
        std::os::unix::fs::symlink("../outside-of-it.wav", at("link.wav")).unwrap();
        let told = ears.hear("link.wav", &[]).expect_err("a link leads elsewhere").to_string();
        assert!(told.contains("is outside"), "{told}");
    }
    fs::remove_file(folder.path().parent().unwrap().join("outside-of-it.wav")).unwrap();
    // In a book it is reported where the sound is named.
    fs::write(at("book.caltrin"), "lightbook \"b\"\nsound s = \"cut.wav\"\noutput y = follow(s)\n")
        .unwrap();
    let opened = caltrin::open(&at("book.caltrin")).unwrap();
    assert!(opened.checked.is_none());
    let told = &opened.diagnostics[0];
    assert!(told.message.contains("`cut.wav` is truncated"), "{}", told.message);
    assert_eq!(&opened.sources[0].text[told.range()], "\"cut.wav\"");
    assert_eq!(opened.sounds, ["cut.wav"]);
}

#[test]
fn damaged_bytes_come_to_an_end_without_a_panic() {
    let tune: &[u8] = include_bytes!("../books/sounds/carillon.mid");
    let mut draws = 1u32;
    let mut draw = |most: usize| {
        draws ^= draws << 13;
        draws ^= draws >> 17;
        draws ^= draws << 5;
        draws as usize % most
    };
    for (name, whole) in TONES.into_iter().chain([("carillon.mid", tune)]) {
        for _ in 0..150 {
            let mut bytes = whole.to_vec();
            for _ in 0..1 + draw(12) {
                // Most of what can be wrong is wrong at the head.
                let most = if draw(2) == 0 { 80.min(bytes.len()) } else { bytes.len() };
                let at = draw(most);
                bytes[at] = draw(256) as u8;
            }
            bytes.truncate(1 + draw(2 * bytes.len()));
            if let Ok(heard) = hear_bytes(&bytes, name, &[]) {
                assert!(heard.length().0 > 0.0 && heard.length().0 < 4300.0, "{name}");
                assert!(heard.measured(Measure::Level).iter().all(|v| v.is_finite()), "{name}");
            }
        }
    }
}

#[test]
fn what_was_heard_is_kept_by_what_the_file_holds() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    fs::write(at("a.wav"), TONES[0].1).unwrap();
    let place = at("cache/heard");
    let cache = Cache::at(&place);
    let ears = SoundLoader::new(folder.path()).keeping(Some(&cache));
    let first = ears.hear("a.wav", &[]).unwrap();
    let kept: Vec<_> = fs::read_dir(&place).unwrap().map(|file| file.unwrap().path()).collect();
    assert_eq!(kept.len(), 1);
    let whole = fs::read(&kept[0]).unwrap();
    // The same under another name is known; it is read back, not heard: what is kept stays as it is.
    fs::rename(at("a.wav"), at("b.wav")).unwrap();
    let old = std::time::SystemTime::UNIX_EPOCH;
    fs::File::open(&kept[0]).unwrap().set_modified(old).unwrap();
    assert_eq!(ears.hear("b.wav", &[]).unwrap(), first);
    assert_eq!(fs::read(&kept[0]).unwrap(), whole);
    // That it was asked for is noted.
    assert!(fs::metadata(&kept[0]).unwrap().modified().unwrap() > old);
    // Other bands are another matter, and so is another sound.
    ears.hear("b.wav", &[Band::Own(100.0, 300.0)]).unwrap();
    fs::copy(at("b.wav"), at("c.wav")).unwrap();
    wav(&at("b.wav"), spec(1, 16, SampleFormat::Int), &tone(5_000));
    let other = ears.hear("b.wav", &[]).unwrap();
    assert!(level_apart(&first, &other) > 0.05);
    assert_eq!(fs::read_dir(&place).unwrap().count(), 3);
    // A damaged or deleted entry is analyzed again; without a cache nothing is read back.
    for bytes in [&b""[..], b"caltrin heard 4\n", &[7; 900], &whole[..500]] {
        fs::write(&kept[0], bytes).unwrap();
        assert_eq!(ears.hear("c.wav", &[]).unwrap(), first);
        assert_eq!(fs::read(&kept[0]).unwrap(), whole);
    }
    assert_eq!(SoundLoader::new(folder.path()).hear("c.wav", &[]).unwrap(), first);
    fs::remove_dir_all(&place).unwrap();
    assert_eq!(ears.hear("c.wav", &[]).unwrap(), first);
    // A file in the folder's place keeps nothing, and hinders nothing.
    fs::remove_dir_all(&place).unwrap();
    fs::write(&place, "in the way").unwrap();
    assert_eq!(ears.hear("c.wav", &[]).unwrap(), first);
    // Nothing is left beside the sounds.
    assert!(!at(".caltrin").exists());
}

/// A sound that was analyzed is the same one until its file is another, and its envelopes are those of its measures.
#[test]
fn a_sound_is_remembered_until_its_file_changes() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("a.wav");
    fs::write(&path, TONES[0].1).unwrap();
    let memory = Memory::default();
    let ears = SoundLoader::new(folder.path()).remembering(Some(&memory));
    let first = ears.hear("a.wav", &[]).unwrap();
    assert!(Arc::ptr_eq(&first, &ears.hear("a.wav", &[]).unwrap()));
    let own = [Band::Own(100.0, 300.0)];
    let banded = ears.hear("a.wav", &own).unwrap();
    assert!(
        !Arc::ptr_eq(&first, &banded) && Arc::ptr_eq(&banded, &ears.hear("a.wav", &own).unwrap())
    );
    for gate in [0.0, 0.2] {
        for release in [0.05, 0.3] {
            let follower = Follower { attack: Seconds(0.02), release: Seconds(release) };
            let targets = first.targets(Measure::Peak, None, gate);
            for playing in [Playing::Once, Playing::Round] {
                let made = Envelope::of(follower, &targets, first.length(), playing);
                // Made and made again, it is what it always was.
                for _ in 0..2 {
                    assert_eq!(
                        first.envelope((Measure::Peak, None, gate), follower, playing),
                        made
                    );
                }
            }
        }
    }
    // Another size, or another time, is another file.
    let samples: Vec<f32> = (0..8_000).map(|n| (n as f32 * 0.05).sin()).collect();
    wav(&path, spec(1, 16, SampleFormat::Int), &samples);
    let second = ears.hear("a.wav", &[]).unwrap();
    assert_ne!(second, first);
    let later = std::time::SystemTime::now() + std::time::Duration::from_secs(5);
    fs::File::options().write(true).open(&path).unwrap().set_modified(later).unwrap();
    let third = ears.hear("a.wav", &[]).unwrap();
    assert!(!Arc::ptr_eq(&second, &third));
    assert_eq!(second, third);
    fs::remove_file(&path).unwrap();
    assert!(ears.hear("a.wav", &[]).is_err());
}

/// An entry with a valid checksum that no sound could have is ignored.
#[test]
fn what_no_sound_is_like_is_not_believed() {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("a.wav"), TONES[0].1).unwrap();
    let cache = Cache::at(folder.path().join("cache"));
    let ears = SoundLoader::new(folder.path()).keeping(Some(&cache));
    let first = ears.hear("a.wav", &[]).unwrap();
    let kept = fs::read_dir(folder.path().join("cache")).unwrap().next().unwrap().unwrap().path();
    let whole = fs::read(&kept).unwrap();
    let head = b"caltrin heard 4\n".len();
    let signed = |rest: &[u8]| {
        let mut bytes = whole[..head].to_vec();
        bytes.extend(blake3::hash(rest).as_bytes());
        bytes.extend(rest);
        bytes
    };
    let rest = &whole[head + 32..];
    assert!(signed(rest) == whole);
    // The length stands first, in eight bytes; then how many levels there are, and the levels.
    let lengths = [f64::NAN, -1.0, 0.0, 1e300, f64::INFINITY, 0.5 * first.length().0, 71.0 * 60.0];
    let mut wrong: Vec<Vec<u8>> =
        lengths.iter().map(|length| [&length.to_le_bytes()[..], &rest[8..]].concat()).collect();
    let levels = (9..12).find(|n| rest[n - 1] < 128).unwrap();
    for level in [f32::NAN, f32::INFINITY, -0.5] {
        wrong.push([&rest[..levels], &level.to_le_bytes(), &rest[levels + 4..]].concat());
    }
    // A count of levels that no file holds, something after the end, and cut at each of its first bytes.
    wrong.push(
        [&rest[..8], &[0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0x7f], &rest[9..]].concat(),
    );
    wrong.push([rest, &[0]].concat());
    wrong.extend((0..rest.len().min(60)).map(|n| rest[..n].to_vec()));
    for (n, bytes) in wrong.iter().enumerate() {
        fs::write(&kept, signed(bytes)).unwrap();
        assert_eq!(ears.hear("a.wav", &[]).unwrap(), first, "{n}");
        assert!(fs::read(&kept).unwrap() == whole, "{n}: what was believed stays");
    }
    // A link is not followed, neither to read nor to write.
    #[cfg(unix)]
    {
        let far = folder.path().join("far");
        fs::write(&far, signed(rest)).unwrap();
        fs::remove_file(&kept).unwrap();
        std::os::unix::fs::symlink(&far, &kept).unwrap();
        fs::write(&far, "mine").unwrap();
        assert_eq!(ears.hear("a.wav", &[]).unwrap(), first);
        assert_eq!(fs::read_to_string(&far).unwrap(), "mine");
        assert!(fs::symlink_metadata(&kept).unwrap().is_file());
    }
}

fn midi(bar: (u8, u8), tempos: &[(u32, u32)], notes: &[(u32, u8, u32)]) -> Vec<u8> {
    let mut all: Vec<(u32, TrackEventKind<'_>)> =
        vec![(0, TrackEventKind::Meta(MetaMessage::TimeSignature(bar.0, bar.1, 24, 8)))];
    all.extend(
        tempos
            .iter()
            .map(|(at, micros)| (*at, TrackEventKind::Meta(MetaMessage::Tempo(u24::new(*micros))))),
    );
    for (at, key, lasts) in notes {
        let on = |vel| MidiMessage::NoteOn { key: u7::new(*key), vel: u7::new(vel) };
        all.push((*at, TrackEventKind::Midi { channel: u4::new(0), message: on(127) }));
        all.push((at + lasts, TrackEventKind::Midi { channel: u4::new(0), message: on(0) }));
    }
    all.sort_by_key(|(at, _)| *at);
    let mut last = 0;
    let mut track: Vec<TrackEvent<'_>> = all
        .into_iter()
        .map(|(at, kind)| TrackEvent {
            delta: u28::new(at - std::mem::replace(&mut last, at)),
            kind,
        })
        .collect();
    track.push(TrackEvent {
        delta: u28::new(0),
        kind: TrackEventKind::Meta(MetaMessage::EndOfTrack),
    });
    let header = Header { format: Format::SingleTrack, timing: Timing::Metrical(u15::new(480)) };
    let mut bytes = Vec::new();
    Smf { header, tracks: vec![track] }.write_std(&mut bytes).unwrap();
    bytes
}

#[test]
fn notes_and_beats_go_by_the_tempo_of_the_music() {
    // Half a second a beat, then a whole one from the third beat on.
    let bytes = midi(
        (3, 2),
        &[(0, 500_000), (960, 1_000_000)],
        &[(0, 60, 480), (960, 72, 240), (1_440, 90, 480)],
    );
    let heard = hear_bytes(&bytes, "m.mid", &[]).unwrap();
    let marks = |which| heard.marks(which).iter().map(|m| (m.at, m.value)).collect::<Vec<_>>();
    assert_eq!(marks(Marks::SourceNotes), [(0.0, 60.0), (1.0, 72.0), (2.0, 90.0)]);
    assert_eq!(marks(Marks::Beats), [(0.0, 1.0), (0.5, 2.0), (1.0, 3.0), (2.0, 1.0)]);
    assert!((heard.length().0 - 3.0).abs() < 1e-9);
    let level = heard.measured(Measure::Level);
    let at = |t: f64| level[(t * f64::from(STEPS)) as usize];
    assert_eq!([at(0.25), at(0.75), at(1.25), at(1.75), at(2.5)], [1.0, 0.0, 1.0, 0.0, 1.0]);
    let band = |band| heard.measured(Measure::Band(band))[(2.5 * f64::from(STEPS)) as usize];
    assert_eq!([band(Band::Low), band(Band::Mid), band(Band::High)], [0.0, 0.0, 1.0]);
    // Six eighths are counted in eighths.
    let bytes = midi((6, 3), &[(0, 600_000)], &[(0, 60, 1_440)]);
    let heard = hear_bytes(&bytes, "m.mid", &[]).unwrap();
    let beats: Vec<(f64, f64)> =
        heard.marks(Marks::Beats).iter().map(|m| (m.at, m.value)).collect();
    for (n, (at, place)) in beats.iter().enumerate() {
        assert!((at - 0.3 * n as f64).abs() < 1e-9 && *place == (n % 6 + 1) as f64, "{beats:?}");
    }
    assert_eq!(beats.len(), 6);
    let silent = midi((4, 2), &[], &[]);
    let told = hear_bytes(&silent, "m.mid", &[]).unwrap_err().to_string();
    assert!(told.contains("`m.mid`"), "{told}");
}

#[test]
fn the_shipped_sounds_and_pictures_are_what_the_examples_make() {
    let folder = tempfile::tempdir().unwrap();
    // Beside the tests, where Cargo puts examples.
    let own = std::env::current_exe().unwrap();
    let examples = own.parent().and_then(Path::parent).unwrap().join("examples");
    for name in ["make_sounds", "make_pictures"] {
        let made = std::process::Command::new(examples.join(name)).arg(folder.path()).status();
        assert!(made.unwrap().success(), "{name}");
    }
    let pool: &[u8] = include_bytes!("../books/pictures/pool.png");
    let pictures = caltrin::PICTURES.into_iter().chain([("pictures/pool.png", pool)]);
    for (name, bytes) in caltrin::SOUNDS.into_iter().chain(pictures) {
        let file = Path::new(name).file_name().unwrap();
        assert!(fs::read(folder.path().join(file)).unwrap() == bytes, "{name}");
    }
}

/// A WAV file of 16-bit samples, chunk by chunk.
fn chunks(riff: Option<u32>, chunks: &[(&[u8; 4], &[u8], bool)]) -> Vec<u8> {
    let mut body = b"WAVE".to_vec();
    for (name, bytes, is_padded) in chunks {
        body.extend_from_slice(*name);
        body.extend_from_slice(&(bytes.len() as u32).to_le_bytes());
        body.extend_from_slice(bytes);
        if *is_padded && bytes.len() % 2 == 1 {
            body.push(0);
        }
    }
    let mut all = b"RIFF".to_vec();
    all.extend_from_slice(&riff.unwrap_or(body.len() as u32).to_le_bytes());
    all.extend_from_slice(&body);
    all
}

#[test]
fn a_wav_file_is_read_as_common_readers_do() {
    let whole = TONES[0].1;
    let (format, data) = (&whole[20..36], &whole[44..]);
    let wanted = hear_bytes(whole, "tone.wav", &[]).unwrap();
    let list: &[u8] = b"INFOISFT\x05\0\0\0quay\0";
    for (name, riff, list_padded, sizes) in [
        ("a LIST chunk with its pad byte", None, true, None),
        ("a LIST chunk without its pad byte", None, false, None),
        ("a RIFF size of 0", Some(0), true, None),
        ("a RIFF size that is too large", Some(u32::MAX), true, None),
        ("sizes of a stream that never ended", Some(u32::MAX), true, Some(u32::MAX)),
        ("sizes that were never written", Some(0), true, Some(0)),
    ] {
        let mut bytes = chunks(
            riff,
            &[(b"fmt ", format, true), (b"LIST", list, list_padded), (b"data", data, true)],
        );
        if let Some(size) = sizes {
            let at = bytes.len() - data.len() - 4;
            bytes[at..at + 4].copy_from_slice(&size.to_le_bytes());
        }
        let heard = hear_bytes(&bytes, "tone.wav", &[]);
        assert_eq!(heard.as_ref().ok(), Some(&wanted), "{name}: {:?}", heard.as_ref().err());
    }
    // What follows the samples is not a part of them.
    let tail =
        chunks(None, &[(b"fmt ", format, true), (b"data", data, true), (b"LIST", list, true)]);
    assert_eq!(hear_bytes(&tail, "tone.wav", &[]).unwrap(), wanted);
}

#[test]
fn a_header_that_makes_no_sense_is_refused_with_its_numbers() {
    let whole = TONES[0].1;
    for (at, with, wanted) in [
        (24, &[0u8, 0, 0, 0][..], "its sample rate is 0 Hz, expected 1,000 to 768,000 Hz"),
        (24, &[0xff, 0xff, 0xff, 0xff], "its sample rate is 4294967295 Hz"),
        (22, &[0, 0], "it has 0 channels, expected 1 to 32"),
        (22, &[0xe8, 3], "it has 1000 channels, expected 1 to 32"),
        (34, &[0, 0], "its header gives 0 bits a sample"),
        (32, &[0, 0], "and 0 bytes a frame of 1"),
        (16, &[3, 0, 0, 0], "its format chunk is damaged"),
    ] {
        let mut bytes = whole.to_vec();
        bytes[at..at + with.len()].copy_from_slice(with);
        let told = hear_bytes(&bytes, "tone.wav", &[]).expect_err(wanted).to_string();
        assert!(told.contains(wanted), "{wanted}: {told}");
    }
}

#[test]
fn half_of_a_compressed_sound_is_not_taken_as_the_whole() {
    for (name, whole) in TONES {
        let heard = hear_bytes(whole, name, &[]).unwrap();
        assert_eq!(heard.cut(), None, "{name} is whole");
    }
    let folder = tempfile::tempdir().unwrap();
    let pages: &[u8] = include_bytes!("sounds/pages.ogg");
    assert_eq!(hear_bytes(pages, "pages.ogg", &[]).unwrap().cut(), None);
    for ((name, whole), length, tells) in
        [(("pages.ogg", pages), 5.0, false), (TONES[3], 0.8, true)]
    {
        // The first page of samples ends at nine tenths of the Ogg file.
        for share in if tells { [0.5, 0.7, 0.9] } else { [0.88, 0.9, 0.98] } {
            let part = &whole[..(whole.len() as f64 * share) as usize];
            let Ok(heard) = hear_bytes(part, name, &[]) else {
                panic!("{share} of {name} has samples");
            };
            let cut = heard.cut().unwrap_or_else(|| panic!("{share} of {name} is cut"));
            // Ogg says nothing of its length; the header of an MP3 does.
            let missing = length - heard.length().0;
            match cut.missing {
                Some(told) => assert!(tells && (told - missing).abs() < 0.1, "{name}: {told}"),
                None => assert!(!tells || missing < 0.15, "{name}: {missing}"),
            }
            fs::write(folder.path().join(name), part).unwrap();
            let text = format!("lightbook \"b\"\nsound s = \"{name}\"\noutput y = follow(s)\n");
            fs::write(folder.path().join("book.caltrin"), text).unwrap();
            // It is cached with the analysis, so reading the book again reports the same.
            for _ in 0..2 {
                let opened = caltrin::open(&folder.path().join("book.caltrin")).unwrap();
                assert!(opened.checked.is_some());
                let told: Vec<_> =
                    opened.diagnostics.iter().filter(|d| d.code == Some("C14")).collect();
                assert_eq!(told.len(), 1, "{name}");
                assert!(told[0].message.contains(&format!("`{name}` is truncated")));
            }
        }
    }
    // A tag after the last frame is not a part of the sound.
    let mut tagged = TONES[3].1.to_vec();
    tagged.extend_from_slice(b"TAG");
    tagged.extend_from_slice(&[0; 125]);
    assert_eq!(hear_bytes(&tagged, "tone.mp3", &[]).unwrap().cut(), None);
}

/// A MIDI file of one track with these bytes of events.
fn track(events: &[u8]) -> Vec<u8> {
    let mut bytes = b"MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x60MTrk".to_vec();
    bytes.extend_from_slice(&(events.len() as u32).to_be_bytes());
    bytes.extend_from_slice(events);
    bytes
}

#[test]
fn the_work_for_a_midi_file_is_bounded_by_its_notes() {
    // Notes by running status, three bytes each: on and off again.
    let notes = |count: usize| {
        let mut events = vec![0x00, 0x90, 60, 64];
        for n in 1..count {
            events.extend([1, 60 + (n % 5) as u8, if n % 2 == 1 { 0 } else { 64 }]);
        }
        events.extend([0x00, 0xff, 0x2f, 0x00]);
        track(&events)
    };
    assert!(hear_bytes(&notes(1_000), "m.mid", &[]).is_ok());
    let told = hear_bytes(&notes(2_100_000), "m.mid", &[]).unwrap_err().to_string();
    assert!(told.contains("more than a million notes and tempo changes"), "{told}");
    // One note that lasts 70 minutes and more is refused for its length, not walked through.
    let long = track(&[0, 0x90, 60, 64, 0xff, 0xff, 0xff, 0x7f, 60, 0, 0, 0xff, 0x2f, 0]);
    let told = hear_bytes(&long, "m.mid", &[]).unwrap_err().to_string();
    assert!(told.contains("longer than 70 minutes"), "{told}");
}
