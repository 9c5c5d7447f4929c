#!/usr/bin/env bash
# Installs what is missing to build, run and test on Debian 12; quick when nothing is.
set -euo pipefail
cd "$(dirname "$0")/.."
packages=(g++ cmake ninja-build pkg-config ccache qt6-base-dev qt6-svg-dev libgl1-mesa-dev libopenimageio-dev libwebp-dev libtbb-dev libavformat-dev libavcodec-dev libavutil-dev libswscale-dev libembree-dev libmeshoptimizer-dev libassimp-dev libhwy-dev libfftw3-dev libpolyclipping-dev
          nlohmann-json3-dev libzip-dev libpng-dev liblcms2-dev libharfbuzz-dev libopencv-dev libbenchmark-dev xvfb xauth python3-jsonschema
          appstream desktop-file-utils clang-tidy clang-format)
missing=()
for p in "${packages[@]}"; do
    dpkg-query -W -f='${Status}' "$p" 2>/dev/null | grep -q 'install ok installed' || missing+=("$p")
done
[ ${#missing[@]} -gt 0 ] || exit 0
echo "Installing: ${missing[*]}"
sudo=""
[ "$(id -u)" -eq 0 ] || sudo=sudo
export DEBIAN_FRONTEND=noninteractive
$sudo apt-get update -qq
$sudo apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
