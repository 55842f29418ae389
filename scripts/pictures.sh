#!/usr/bin/env bash
# Makes docs/screenshots from the demo. Drawn pictures come from the command itself; a terminal is
# shown in a terminal window (scripts/install-debian.sh --pictures installs what that needs).
#
#   scripts/pictures.sh          make them all
#   scripts/pictures.sh --check  say which drawn picture is stale, and fail if one is
set -euo pipefail
cd "$(dirname "$0")/.."

to=$PWD/docs/screenshots
work=$(mktemp -d)
trap 'rm -rf "$work"; [ -z "${screen:-}" ] || kill "$screen" 2>/dev/null || true; [ -z "${live:-}" ] || kill "$live" 2>/dev/null || true' EXIT
cargo build -q --workspace --all-targets
PATH="$PWD/target/debug:$PATH"
cp -r crates/caltrin/books/pier.caltrin crates/caltrin/books/sounds crates/caltrin/books/pictures "$work/"

drawn() { # the pictures that are the same bytes on every machine
    caltrin sheet docs/shapes.caltrin -o "$1/shapes.png" --to 14s --lane 42 >/dev/null
    caltrin stock -o "$1/stock.png" >/dev/null
    caltrin view crates/caltrin/books/lido.caltrin -o "$1/lido.png" --rehearsal gala_night --at 5s >/dev/null
    caltrin sheet "$work/pier.caltrin" -o "$1/sheet.png" >/dev/null
    caltrin sheet "$work/pier.caltrin" -o "$1/rehearsal.png" --rehearsal last_ferry --no-curves >/dev/null
    caltrin view "$work/pier.caltrin" -o "$1/view.png" --at 600ms >/dev/null
    caltrin view "$work/pier.caltrin" -o "$1/eye.png" --eye ramp --at 17:40 >/dev/null
    (cd "$work" && caltrin hear sounds/bell_buoy.wav -o "$1/hear.png") >/dev/null
    caltrin day "$work/pier.caltrin" -o "$1/day.png" >/dev/null
    sed -e 's/6200lm \* dark \* buzzing() \* supply/5200lm * dark * buzzing(70%) * supply/' -e 's/color      2700K/color      #ffd0a0/' \
        "$work/pier.caltrin" > "$work/pier-new.caltrin"
    (cd "$work" && caltrin compare pier.caltrin pier-new.caltrin -o "$1/compare.png") >/dev/null
}

if [ "${1:-}" = "--check" ]; then
    mkdir "$work/now"
    drawn "$work/now"
    stale=0
    for picture in "$work"/now/*.png; do
        name=$(basename "$picture")
        if ! cmp -s "$picture" "$to/$name"; then
            echo "$to/$name is stale; scripts/pictures.sh makes it again"
            stale=1
        fi
    done
    [ $stale -eq 1 ] || echo "the drawn pictures are as the demo draws them"
    exit $stale
fi

drawn "$to"

# A mistyped book, for the messages.
sed -e 's/held(94%/hold(94%/' -e 's/9500K/9500k/' -e 's/intensity  12cd/intensty  12cd/' \
    -e 's/loop(two_flashes)/loop(two_flash)/' "$work/pier.caltrin" > "$work/mistyped.caltrin"

display=:97
Xvfb $display -screen 0 1280x800x24 >/dev/null 2>&1 &
screen=$!
sleep 1
terminal() { # picture, commands
    printf '%s\n' "cd '$work'; clear; $2; sleep 90" > "$work/show.sh"
    DISPLAY=$display xterm -geometry 128x40+0+0 -fa "DejaVu Sans Mono" -fs 12 \
        -bg '#10151a' -fg '#e6e2d6' -e bash "$work/show.sh" &
    window=$!
    sleep "${3:-4}"
    DISPLAY=$display xwd -root -silent | convert-im6 xwd:- -crop 1280x800+0+0 +repage "$to/$1"
    kill $window
    wait $window 2>/dev/null || true
}
say() { printf "printf '\\\\033[2m$ %s\\\\033[0m\\\\n'; %s; echo" "$1" "$1"; }
terminal check.png "$(say 'caltrin check mistyped.caltrin')"
terminal explain.png "$(say 'caltrin explain pier.caltrin supply'); $(say 'caltrin explain pier.caltrin mast.intensity'); $(say 'caltrin explain pier.caltrin quay.core')"
terminal demo.png "$(say 'caltrin demo -o pier-demo')" 60
terminal terminal.png "export COLORTERM=truecolor; $(say 'caltrin sheet pier.caltrin --terminal')"
kill $screen
screen=
(cd "$work" && exec caltrin live pier.caltrin --port 8791) >/dev/null &
live=$!
sleep 1
# The hints of a first visit are closed.
select="document.querySelectorAll('.hint button').forEach((b) => b.click()); document.querySelector('.lane[data-light=mast] b').click()"
node scripts/page-picture.mjs http://127.0.0.1:8791/ "$to/live.png" 5 "$select"
open="$select; document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'u', bubbles: true }))"
focus="setTimeout(() => document.querySelector('[aria-label=\"hunting stop 4 level\"]').focus(), 300)"
node scripts/page-picture.mjs http://127.0.0.1:8791/ "$to/curve.png" 5 "$open; $focus"
git -C "$work" init -q
git -C "$work" add pier.caltrin
git -C "$work" -c user.name=pier -c user.email=pier@example.org commit -q -m "Light the pier"
sed -i -e 's/6200lm \* dark \* buzzing() \* supply/3400lm * dark * buzzing() * supply/' -e 's/^color sodium = 2100K/color sodium = 3200K/' \
    "$work/pier.caltrin"
sleep 1
gallery="$select; setTimeout(() => document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'y', bubbles: true })), 400)"
node scripts/page-picture.mjs http://127.0.0.1:8791/ "$to/gallery.png" 6 "$gallery" 2
versions="$select; document.getElementById('other-a').click(); setTimeout(() => document.querySelector('.others button').click(), 700)"
versions="$versions; setTimeout(() => document.getElementById('split-a').click(), 2200)"
node scripts/page-picture.mjs http://127.0.0.1:8791/ "$to/versions.png" 5 "$versions" 4
hand="document.getElementById('record').click(); const fire = (name) => [...document.querySelectorAll('.events button')].find((b) => b.textContent === name).click()"
hand="$hand; setTimeout(() => fire('ferry_docks'), 700); setTimeout(() => fire('power_cut'), 1900); setTimeout(() => document.getElementById('record').click(), 2800)"
node scripts/page-picture.mjs http://127.0.0.1:8791/ "$to/recording.png" 5 "$select; $hand" 4
kill $live
echo "made $(ls $to | wc -l) pictures in $to"
