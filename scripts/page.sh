#!/usr/bin/env bash
# Builds the live page from crates/caltrin-cli/page into crates/caltrin-cli/src/live/page.mjs, which is committed, so that
# building the command needs Rust alone.
#
#   scripts/page.sh          check, test and build it
#   scripts/page.sh --check  the same, and fail if the committed page is another
set -euo pipefail
cd "$(dirname "$0")/../crates/caltrin-cli/page"

[ -d node_modules ] && [ node_modules -nt package-lock.json ] || npm ci --no-audit --no-fund
kept=$(mktemp)
trap 'rm -f "$kept"' EXIT
npm run -s check
npm run -s test
[ "${1:-}" != "--check" ] || cp ../src/live/page.mjs "$kept"
npm run -s build
if [ "${1:-}" = "--check" ]; then
    if ! cmp -s ../src/live/page.mjs "$kept"; then

        echo "crates/caltrin-cli/src/live/page.mjs is stale; scripts/page.sh builds it again"
        exit 1
    fi

    echo "the committed page is what its sources build"
fi
