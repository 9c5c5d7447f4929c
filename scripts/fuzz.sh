#!/usr/bin/env bash
# Feeds the readers of clips and meshes damaged files, each for so many seconds (default 60), under the address
# sanitizer. Needs clang. The first are files that BUILD/bin/bathylux-cli writes. Usage: scripts/fuzz.sh [SECONDS] [BUILD]
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
for ending in stl ply obj glb; do
    "$build/bin/bathylux-cli" render build/fuzz/seed.json -o "build/fuzz/seed.$ending" --fineness 8
done
mkdir -p build/fuzz/meshes
n=0
for ending in stl ply obj glb; do # the first byte says which
    { printf "\\x0$n"; cat "build/fuzz/seed.$ending"; } > "build/fuzz/meshes/seed.$ending"
    n=$((n + 1))
done
flags="-std=c++20 -g -O1 -fPIC -fsanitize=fuzzer,address -Isrc"
core="src/core/step/picture.cpp src/core/field/plane.cpp src/core/field/srgb.cpp src/core/field/parallel.cpp"
clang++ $flags tests/fuzz/fuzz_clip.cpp src/files/film_module.cpp $core \
    $(pkg-config --cflags --libs libavformat libavcodec libavutil libswscale libwebp libwebpdemux tbb) -o build/fuzz/clip
clang++ $flags tests/fuzz/fuzz_mesh.cpp src/files/meshes.cpp src/files/mesh_readers.cpp src/files/gltf_reader.cpp \
    src/files/json.cpp $core $(pkg-config --cflags --libs Qt6Core tbb) -o build/fuzz/mesh
for target in clip:seeds mesh:meshes; do
    "build/fuzz/${target%%:*}" -max_total_time="$seconds" -timeout=20 -rss_limit_mb=2048 -max_len=65536 "build/fuzz/${target##*:}"
done
