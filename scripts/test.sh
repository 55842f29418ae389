#!/usr/bin/env bash
# Runs all tests, with overflow checks and debug assertions. Proofs compare a tenth of their samples by default, all with
# CALTRIN_PROOFS=full. What is missing of compilers and of the browser is named first; what it would prove is then shown as
# ignored.
set -euo pipefail
cd "$(dirname "$0")/.."

missing=()
for tool in rustc gcc mcs mono node npm chromedriver strace valgrind nvim; do
    command -v "$tool" >/dev/null 2>&1 || missing+=("$tool")
done
if [ ${#missing[@]} -gt 0 ]; then
    echo "missing on this machine: ${missing[*]}"
    echo "what they would prove or show is ignored; scripts/install-debian.sh installs them on Debian"
fi
# The page's own packages: accessibility is tested with one of them.
page=crates/caltrin-cli/page
if [ ! -d "$page/node_modules" ] && command -v npm >/dev/null 2>&1; then
    (cd "$page" && npm ci --no-audit --no-fund)
fi
exec cargo test --workspace --no-fail-fast "$@"
