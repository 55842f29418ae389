#!/usr/bin/env bash
# Makes the small sounds of the tests anew: one made-up tone in each format that is read. Needs flac, vorbis-tools and lame,
# Debian packages of those names.
set -euo pipefail
cd "$(dirname "$0")/.."
to=crates/caltrin/tests/sounds
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
python3 - "$work/tone.wav" <<'PY'
import math, struct, sys, wave
rate, strikes = 16000, [(0.1, 0.7), (0.45, 0.5)]
def sample(n):
    t = n / rate
    return sum(f * math.exp(-9 * (t - at)) * math.sin(math.tau * 520 * (t - at)) for at, f in strikes if t >= at)
with wave.open(sys.argv[1], "wb") as out:
    out.setnchannels(1); out.setsampwidth(2); out.setframerate(rate)
    out.writeframes(b"".join(struct.pack("<h", round(32000 * sample(n))) for n in range(rate * 8 // 10)))
PY
cp "$work/tone.wav" "$to/tone.wav"
flac -s -f "$work/tone.wav" -o "$to/tone.flac"
oggenc -Q -q 3 "$work/tone.wav" -o "$to/tone.ogg"
lame --silent -b 48 "$work/tone.wav" "$to/tone.mp3"
