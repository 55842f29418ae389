#!/usr/bin/env bash
# Installs on Debian what the tests need: for the proofs gcc, g++, clang, a cross compiler, Mono's C# compiler, node,
# Java and Lua, for shaders the reference compiler of GLSL and HLSL and a software adapter, a validator of JSON schemas, strace to see what is left when a write fails, valgrind to count work, an
# editor for its plugin folder, for the live page Chromium with its WebDriver. Only what is missing is installed. With
# --pictures also what scripts/pictures.sh needs.
set -euo pipefail

packages=()
need() { # command, package
    command -v "$1" >/dev/null 2>&1 || packages+=("$2")
}
need gcc gcc
need g++ g++
need clang clang
need aarch64-linux-gnu-gcc gcc-aarch64-linux-gnu
[ -e /usr/aarch64-linux-gnu/include/math.h ] || packages+=(libc6-dev-arm64-cross)
# Other machines to prove C on: 32-bit x86, and Arm with an emulator.
need qemu-arm qemu-user
need arm-linux-gnueabihf-ld binutils-arm-linux-gnueabihf
[ -e /usr/arm-linux-gnueabihf/lib/libc.a ] || packages+=(libc6-dev-armhf-cross)
compgen -G "/usr/lib/gcc-cross/arm-linux-gnueabihf/*/libgcc.a" >/dev/null || packages+=(libgcc-12-dev-armhf-cross)
[ -e /usr/lib32/libc.a ] || packages+=(libc6-dev-i386 lib32gcc-12-dev)
need mcs mono-mcs
need mono mono-runtime
need javac default-jdk-headless
need lua5.4 lua5.4
need luajit luajit
need node nodejs
need npm npm
need chromium chromium
need chromedriver chromium-driver
need strace strace
need valgrind valgrind
need nvim neovim
need glslangValidator glslang-tools
compgen -G "/usr/share/vulkan/icd.d/lvp_icd*" >/dev/null || packages+=(mesa-vulkan-drivers)
python3 -m pip --version >/dev/null 2>&1 || packages+=(python3-pip)
# A validator of JSON schemas, for manifests.
[ -e /usr/lib/python3/dist-packages/jsonschema ] || packages+=(python3-jsonschema)
# The linker's and C library's files come with the compiler only where a package asks for them.
[ -e /usr/include/math.h ] || packages+=(libc6-dev)
if [ "${1:-}" = "--pictures" ]; then
    need Xvfb xvfb
    need xterm xterm
    need xwd x11-apps
    [ -e /usr/share/fonts/truetype/dejavu/DejaVuSansMono.ttf ] || packages+=(fonts-dejavu-core)
    # A command of this name may be something else; the package's own is asked for.
    dpkg -s imagemagick >/dev/null 2>&1 || packages+=(imagemagick)
fi
if [ ${#packages[@]} -eq 0 ]; then
    echo "everything is there"
    exit 0
fi
as_root=()
if [ "$(id -u)" -ne 0 ]; then
    command -v sudo >/dev/null 2>&1 || { echo "run this as root: apt-get install ${packages[*]}" >&2; exit 1; }
    as_root=(sudo)
fi
echo "installing ${packages[*]}"
"${as_root[@]}" apt-get update -q
"${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -q -y --no-install-recommends "${packages[@]}"
