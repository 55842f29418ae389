#!/usr/bin/env bash
# Coverage-guided fuzzing of the language, the formatter, sounds and runs, on the stable toolchain.
#
#   scripts/fuzz.sh                  each target for a minute, as many at once as there are cores
#   scripts/fuzz.sh 3600 books runs  two of them for an hour
#
# The corpus stays in target/fuzz/corpus, so that the next call continues from it. Findings are written to
# target/fuzz/found; move them to fuzz/found/TARGET, where the tests of the workspace replay them.
set -euo pipefail
cd "$(dirname "$0")/.."

seconds=${1:-60}
shift || true
targets=("$@")
[ ${#targets[@]} -gt 0 ] || targets=(text books format sounds runs)

host=$(rustc -vV | sed -n 's/^host: //p')
coverage="-Cpasses=sancov-module -Cllvm-args=-sanitizer-coverage-level=3 \
-Cllvm-args=-sanitizer-coverage-inline-8bit-counters -Cllvm-args=-sanitizer-coverage-pc-table \
-Cllvm-args=-sanitizer-coverage-trace-compares"
RUSTFLAGS=$coverage cargo build --release --locked -q --manifest-path fuzz/Cargo.toml \
    --target "$host" --target-dir target/fuzz/build

work=target/fuzz
mkdir -p "$work"/seeds/{text,books,format,sounds,runs}
for book in crates/caltrin/books/*.caltrin crates/caltrin-export/tests/*.caltrin crates/caltrin-lang/tests/*.caltrin; do
    cp "$book" "$work/seeds/text/"
    cp "$book" "$work/seeds/format/"
done
cp crates/caltrin/books/sounds/* crates/caltrin/tests/sounds/* "$work/seeds/sounds/"
for n in $(seq 0 9); do # one run per book, and books of constant choices
    printf "\\x0$n\\x01\\x00\\x01\\x20\\x04\\x00\\x00\\x01\\x30\\x0b\\x80\\x04\\x01\\x02\\x03" >"$work/seeds/runs/$n"
    printf "\\x0$n%.0s" $(seq 300) >"$work/seeds/books/$n"
done
# All words, numbers with units, and signs of the books.
cat "$work"/seeds/text/* | grep -oE '[a-z][a-z_-]*|[0-9.]+[a-zA-Z%]*|[^[:space:][:alnum:]]' | sort -u |
    sed 's/[\\"]/\\&/g; s/.*/"&"/' | LC_ALL=C grep -v '[^ -~]' >"$work/words.dict"

fuzz() { # one target, with a log file
    local target=$1
    mkdir -p "$work/corpus/$target" "$work/found/$target" "fuzz/found/$target"
    local words=(-dict="$work/words.dict") # for texts; other inputs start at full length
    case $target in sounds | runs | books) words=(-len_control=0) ;; esac
    "$work/build/$host/release/$target" -max_total_time="$seconds" -timeout=60 -rss_limit_mb=3000 \
        -max_len=16384 -print_final_stats=1 "${words[@]}" -artifact_prefix="$work/found/$target/" \
        "$work/corpus/$target" "$work/seeds/$target" "fuzz/found/$target" >"$work/$target.log" 2>&1
}
report() { # runs and covered edges of a target
    local runs edges
    runs=$(sed -n 's/^stat::number_of_executed_units: *//p' "$work/$1.log")
    edges=$(sed -n 's/.* cov: \([0-9]*\) .*/\1/p' "$work/$1.log" | tail -n 1)
    printf '%-8s %10s runs  %8s edges  %s\n' "$1" "${runs:-?}" "${edges:-?}" "$2"
}

failed=0
running=()
await() { # the oldest target
    local target=${running[0]%%:*}
    if wait "${running[0]##*:}"; then report "$target" "nothing found"; else
        failed=1
        report "$target" "FOUND, see $work/found/$target:"
        tail -n 40 "$work/$target.log"
    fi
    running=("${running[@]:1}")
}
for target in "${targets[@]}"; do
    [ ${#running[@]} -lt "$(nproc)" ] || await
    fuzz "$target" &
    running+=("$target:$!")
done
while [ ${#running[@]} -gt 0 ]; do await; done
exit $failed
