#!/usr/bin/env bash
# Runs all tests. A language whose compiler is missing is named first; its proofs are then shown as
# ignored.
set -euo pipefail
cd "$(dirname "$0")/.."

missing=()
for tool in rustc gcc mcs mono node; do
    command -v "$tool" >/dev/null 2>&1 || missing+=("$tool")
done
if [ ${#missing[@]} -gt 0 ]; then
    echo "missing on this machine: ${missing[*]}"
    echo "what they would prove is ignored; scripts/install-debian.sh installs them on Debian"
fi
exec cargo test --release --workspace --no-fail-fast "$@"
