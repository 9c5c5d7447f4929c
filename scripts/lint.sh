#!/usr/bin/env bash
# clang-tidy over the C++ files that differ from a commit (default: the last one but this, and what is not yet
# committed). Any finding fails. Without a commit named, more than forty files are too many to wait for: name one.
set -euo pipefail
cd "$(dirname "$0")/.."
from=${1:-HEAD~1}
# Of a merge, what its last commit changed.
if [ $# -eq 0 ] && git rev-parse -q --verify HEAD^2 >/dev/null; then from=HEAD^2~1; fi
git rev-parse -q --verify "$from" >/dev/null || exit 0
mapfile -t changed < <(git diff --name-only --diff-filter=d "$from" -- 'src/**/*.cpp')
[ ${#changed[@]} -gt 0 ] || exit 0
if [ $# -eq 0 ] && [ ${#changed[@]} -gt 40 ]; then
    echo "lint: ${#changed[@]} files differ from $from; scripts/lint.sh $from reads them all."
    exit 0
fi
# Every file by itself, and precompiled headers as the text they are made from.
cmake -S . -B build/lint -G Ninja -DBATHYLUX_TOGETHER=OFF -DBUILD_TESTING=OFF >/dev/null
find build/lint -name cmake_pch.hxx | while read -r pch; do cp "$pch" "${pch%.hxx}_text.hxx"; done
sed -i 's/cmake_pch\.hxx/cmake_pch_text.hxx/g' build/lint/compile_commands.json
# What this clang cannot compile of C++20 (bindings caught by lambdas) is for the compiler to judge, not for it.
findings=$(printf '%s\n' "${changed[@]}" |
    xargs -P "$(nproc)" -n 2 clang-tidy -p build/lint --quiet \
        --extra-arg=-Wno-unknown-warning-option --extra-arg=-Wno-ignored-optimization-argument 2>/dev/null |
    grep -E '\[(bugprone|performance|modernize|cppcoreguidelines|misc|readability)-' | sort -u || true)
[ -z "$findings" ] || { echo "$findings"; exit 1; }
