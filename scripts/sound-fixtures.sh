#!/usr/bin/env bash
# Makes the small sounds of the tests anew: one made-up tone in each format that is read, and a
# longer one in Ogg Vorbis, which has several pages. Needs flac, vorbis-tools and lame,
# Debian packages of those names.
set -euo pipefail
cd "$(dirname "$0")/.."
to=crates/caltrin/tests/sounds
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
tone() { # file, seconds, strikes
    python3 - "$@" <<'PY'
import ast, math, struct, sys, wave
rate, seconds, strikes = 16000, float(sys.argv[2]), ast.literal_eval(sys.argv[3])
def sample(n):
    t = n / rate
    return sum(f * math.exp(-9 * (t - at)) * math.sin(math.tau * 520 * (t - at)) for at, f in strikes if t >= at)
with wave.open(sys.argv[1], "wb") as out:
    out.setnchannels(1); out.setsampwidth(2); out.setframerate(rate)
    out.writeframes(b"".join(struct.pack("<h", round(32000 * sample(n))) for n in range(round(rate * seconds))))
PY
}
tone "$work/tone.wav" 0.8 '[(0.1, 0.7), (0.45, 0.5)]'
tone "$work/pages.wav" 5 "[(0.1, 0.5), (1.3, 0.6), (2.2, 0.5), (3.4, 0.6), (4.1, 0.4)]"
cp "$work/tone.wav" "$to/tone.wav"
flac -s -f "$work/tone.wav" -o "$to/tone.flac"
oggenc -Q -q 3 "$work/tone.wav" -o "$to/tone.ogg"
oggenc -Q -q 1 "$work/pages.wav" -o "$to/pages.ogg"
lame --silent -b 48 "$work/tone.wav" "$to/tone.mp3"
