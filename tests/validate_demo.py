#!/usr/bin/env python3
"""Validates every demo piece against docs/piece.schema.json."""
import json
import pathlib
import sys

import jsonschema

root = pathlib.Path(sys.argv[1])
schema = json.loads((root / "docs/piece.schema.json").read_text())
validator = jsonschema.Draft7Validator(schema)
pieces = [p for p in sorted((root / "demo").glob("*.json")) if p.name != "shelf.json"]
bad = 0
for path in pieces:
    for error in validator.iter_errors(json.loads(path.read_text())):
        print(f"{path.name}: {'/'.join(map(str, error.path))}: {error.message}")
        bad += 1
# The schema must be able to fail.
broken = json.loads(pieces[0].read_text())
next(e for e in broken["elements"] if e.get("steps"))["steps"][0]["kind"] = "no such step"
if validator.is_valid(broken):
    print("the schema accepts an unknown step")
    bad += 1
print(f"{len(pieces)} pieces, {bad} findings")
sys.exit(1 if bad or len(pieces) < 4 else 0)
