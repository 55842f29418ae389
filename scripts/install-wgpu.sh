#!/usr/bin/env bash
# Installs a Python package that runs WGSL into target/wgpu, for the tests of shaders; with mesa's software adapter from
# install-debian.sh it needs no graphics card.
set -euo pipefail
cd "$(dirname "$0")/.."

folder="${CARGO_TARGET_DIR:-target}/wgpu"
if [ -e "$folder/wgpu/__init__.py" ]; then
    echo "wgpu is there"
    exit 0
fi
python3 -m pip install --quiet --no-warn-script-location --target "$folder" wgpu==0.32.0
