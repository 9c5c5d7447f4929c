#!/usr/bin/env bash
# clang-tidy over the C++ files that differ from a commit (default: the last one but this, and what is not yet
# committed). Any finding fails.
set -euo pipefail
cd "$(dirname "$0")/.."
from=${1:-HEAD~1}
git rev-parse -q --verify "$from" >/dev/null || exit 0
mapfile -t changed < <(git diff --name-only --diff-filter=d "$from" -- 'src/**/*.cpp')
[ ${#changed[@]} -gt 0 ] || exit 0
# clang reads precompiled headers as the text they were made from.
mkdir -p build/lint
find build/release -name cmake_pch.hxx | while read -r pch; do cp "$pch" "${pch%.hxx}_text.hxx"; done
sed 's/cmake_pch\.hxx/cmake_pch_text.hxx/g' build/release/compile_commands.json >build/lint/compile_commands.json
printf '%s\n' "${changed[@]}" |
    xargs -P "$(nproc)" -n 4 clang-tidy -p build/lint --quiet --warnings-as-errors='*' \
        --extra-arg=-Wno-unknown-warning-option --extra-arg=-Wno-ignored-optimization-argument 2>/dev/null
