#!/usr/bin/env bash
# Feeds the clip reader damaged films for so many seconds (default 60), under the address sanitizer. Needs clang.
# The first are films that BUILD/bin/bathylux-cli writes. Usage: scripts/fuzz.sh [SECONDS] [BUILD]
set -euo pipefail
cd "$(dirname "$0")/.."
seconds=${1:-60} build=${2:-build/release}
mkdir -p build/fuzz/seeds
cat > build/fuzz/seed.json <<'P'
{"bathylux": 1, "canvas": {"width": 48, "height": 32}, "elements": [{"id": "a", "source": {"kind": "ellipse", "width": {"keys": [[0, 8], [7, 40]]}}}]}
P
for ending in webm mov apng webp; do
    "$build/bin/bathylux-cli" render build/fuzz/seed.json -o "build/fuzz/seeds/seed.$ending" --frames 0:7
done
clang++ -std=c++20 -g -O1 -fsanitize=fuzzer,address -Isrc tests/fuzz/fuzz_clip.cpp src/files/film_module.cpp \
    src/core/step/picture.cpp src/core/field/srgb.cpp src/core/field/parallel.cpp \
    $(pkg-config --cflags --libs libavformat libavcodec libavutil libswscale libwebp libwebpdemux tbb) -o build/fuzz/clip
build/fuzz/clip -max_total_time="$seconds" -timeout=20 -rss_limit_mb=2048 -max_len=65536 build/fuzz/seeds
