#!/usr/bin/env python3
"""Makes docs/reference.md and docs/piece.schema.json from what the program says of itself.

usage: make_reference.py PATH/TO/bathylux-cli [--check]     (--check: compares, writes nothing)
"""
import json
import pathlib
import subprocess
import sys

HERE = pathlib.Path(__file__).parent


def schema_of(p):
    kind = p["type"]
    if kind in ("number", "whole"):
        s = {"type": "integer" if kind == "whole" else "number"}
        if "least" in p:
            s["minimum"] = p["least"]
        if "most" in p:
            s["maximum"] = p["most"]
    elif kind == "toggle":
        s = {"type": "boolean"}
    elif kind == "choice":
        s = {"enum": p["choices"]}
    elif kind == "color":
        s = {"type": "string", "pattern": "^#([0-9a-fA-F]{3}|[0-9a-fA-F]{6}|[0-9a-fA-F]{8})$"}
    elif kind == "profile":
        point = {"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2}
        s = {"anyOf": [{"enum": p["choices"]},
                       {"type": "object", "required": ["points"],
                        "properties": {"points": {"type": "array", "items": point, "minItems": 2, "maxItems": 256},
                                       "smooth": {"type": "boolean"}}}]}
    elif kind == "curve":
        point = {"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2}
        s = {"type": "array", "items": point, "minItems": 2, "maxItems": 256}
    elif kind == "stops":
        stop = {"type": "array", "items": [{"type": "number", "minimum": 0, "maximum": 1},
                                           {"type": "string", "pattern": "^#([0-9a-fA-F]{3}|[0-9a-fA-F]{6}|[0-9a-fA-F]{8})$"}],
                "minItems": 2, "maxItems": 2}
        s = {"type": "array", "items": stop, "minItems": 1, "maxItems": 64}
    elif kind == "numbers":
        s = {"type": "array", "items": {"type": "number"}, "maxItems": 8}
    elif kind == "map":
        return {"anyOf": [{"$ref": "#/definitions/map"}, {"type": "string"}], "description": p["help"]}
    elif kind == "files":
        s = {"type": "array", "items": {"type": "string"}}
    else:
        s = {"type": "string"}
    s["description"] = p["help"]
    s["default"] = p["default"]
    return s


def may_move(p):
    """A number or colour, or keys or (for numbers) a link in its place."""
    s = schema_of(p)
    if p["type"] not in ("number", "whole", "color"):
        return s
    told = {k: s.pop(k) for k in ("description", "default")}
    moving = [{"$ref": "#/definitions/" + ("color_keys" if p["type"] == "color" else "keys")}]
    if p["type"] != "color":
        moving.append({"$ref": "#/definitions/link"})
    return {"anyOf": [s, *moving], **told}


def keys_of(value):
    key = {"type": "array", "items": [{"type": "number"}, value, {"type": "string"}], "minItems": 2, "maxItems": 3}
    return {"type": "object", "required": ["keys"], "properties": {"keys": {"type": "array", "items": key, "minItems": 1, "maxItems": 65536},
                                                                   "after": {"enum": ["hold", "repeat", "bounce"]}}}


def members(parameters):
    return {p["id"]: may_move(p) for p in parameters}


def still(parameters):
    return {p["id"]: schema_of(p) for p in parameters}


def variants(kinds, more=None):
    return [{"type": "object", "required": ["kind"], "description": k["help"],
             "properties": {"kind": {"const": k["kind"]}, **members(k["parameters"]), **(more or {})}} for k in kinds]


def schema(d):
    number = {"type": "number"}
    ids = {"id": {"type": "string"}, "on": {"type": "boolean"}}
    return {
        "$schema": "http://json-schema.org/draft-07/schema#",
        "title": "A Bathylux piece, version 1",
        "description": "Members not named here are kept and written back.",
        "type": "object",
        "required": ["bathylux", "canvas"],
        "properties": {
            "bathylux": {"const": d["bathylux"]},
            "canvas": {"type": "object", "required": ["width", "height"],
                       "properties": {**still(d["piece"]["canvas"]),
                                      "height_range": {"anyOf": [{"const": "auto"}, {"type": "array", "items": number, "minItems": 2, "maxItems": 2}]},
                                      "edge": {"enum": ["clamp", "repeat"]}}},
            "elements": {"type": "array", "maxItems": 4096, "items": {"$ref": "#/definitions/element"}},
            "surface": {"type": "object", "properties": members(d["piece"]["surface"])},
            "lights": {"type": "array", "maxItems": 64, "items": {"anyOf": variants(d["lights"], {**ids, "name": {"type": "string"}, "stands": {"enum": ["space", "body", "camera"]}})}},
            "ambient": {"type": "object", "properties": members(d["piece"]["ambient"])},
            **members(d["piece"]["piece"]),
            "finish": {"type": "array", "maxItems": 256,
                       "items": {"anyOf": variants(d["finish"], {**ids, **members(d["element"]["step"]), "map": {"$ref": "#/definitions/map"}})}},
            "solid": {"type": "object",
                      "properties": {**members(d["piece"]["solid"]),
                                     "surface": {"type": "object", "properties": members(d["piece"]["surface"])},
                                     "camera": {"type": "object", "properties": members(d["piece"]["camera"])},
                                     "ground": {"type": "object", "properties": members(d["piece"]["ground"])},
                                     "cameras": {"type": "array", "maxItems": 256,
                                                 "items": {"type": "object", "properties": {"name": {"type": "string"}, **still(d["piece"]["camera"])}}}}},
            "time": {"type": "object", "properties": {"rate": {"type": ["string", "integer"], "pattern": "^[0-9]+(/[0-9]+)?$"},
                                                      "frames": {"type": "integer", "minimum": 1, "maximum": 1000000}, "loop": {"type": "boolean"}}},
            "section": {"type": "array", "items": number, "minItems": 4, "maxItems": 4},
            "guides": {"type": "object", "properties": {k: {"type": "array", "items": number} for k in "xy"}},
        },
        "definitions": {
            "keys": keys_of({"type": "number"}),
            "color_keys": keys_of({"type": "string", "pattern": "^#([0-9a-fA-F]{3}|[0-9a-fA-F]{6}|[0-9a-fA-F]{8})$"}),
            "link": {"type": "object", "required": ["link"],
                     "properties": {"link": {"type": "string"}, "gain": {"type": "number"}, "offset": {"type": "number"}}},
            "map": {"type": "object", "properties": members(d["element"]["map"])},
            "element": {"type": "object", "required": ["source"],
                        "properties": {
                            "id": {"type": "string"}, "name": {"type": "string"},
                            "source": {"anyOf": variants(d["sources"])},
                            "placement": {"type": "object", "properties": members(d["element"]["placement"])},
                            "mix": {"type": "object", "properties": {**members(d["element"]["mix"]), "mask": {"$ref": "#/definitions/map"}}},
                            "surface": {"type": "object", "properties": members(d["element"]["surface"])},
                            "steps": {"type": "array", "maxItems": 256,
                                      "items": {"anyOf": variants(d["steps"], {**ids, **members(d["element"]["step"]), "map": {"$ref": "#/definitions/map"}})}},
                            "elements": {"type": "array", "items": {"$ref": "#/definitions/element"}}}}},
    }


def row(p):
    unit = {"px": "px", "degrees": "°", "stops": "EV"}.get(p.get("unit", ""), "")
    takes = ", ".join(p["choices"]) if "choices" in p else f"{p['range'][0]:g} … {p['range'][1]:g} {unit}".strip() if "range" in p else p["type"]
    if p["type"] == "profile":
        takes += ', {"points": [[0, 0], …, [1, 1]], "smooth": true}'
    if p["type"] == "map":
        takes = '{"element": id, "of": …}'
    if p["type"] == "curve":
        takes = "[[0, 0], …, [1, 1]], the first number rising"
    if p["type"] == "stops":
        takes = '[[0, "#rrggbb"], …], places rising from 0 to 1'
    default = p["default"] if isinstance(p["default"], str) else json.dumps(p["default"])
    return f"| `{p['id']}` | {takes} | `{default}` | {p['help']} |".replace("\n", " ")


def table(parameters):
    return ["| parameter | takes | default | what it does |", "|---|---|---|---|", *map(row, parameters), ""] if parameters else ["No parameters.", ""]


def reference(d):
    out = ["# Reference", "", "Made by `docs/make_reference.py` from `bathylux-cli describe --json`; do not edit.",
           "Ranges are what the controls show; where it has meaning, more may be typed.", ""]
    shared = {k["kind"] for k in d["steps"]}
    for title, key in (("Sources", "sources"), ("Steps", "steps"), ("Finish", "finish"), ("Lights", "lights")):
        out += [f"## {title}", ""]
        if key == "finish":
            out += ["Steps on the lit picture: " + ", ".join(f"`{k['kind']}`" for k in d[key] if k["kind"] in shared) + ", and:", ""]
        for k in d[key]:
            if key == "finish" and k["kind"] in shared:
                continue
            out += [f"### `{k['kind']}`: {k['name']}", "", k["help"] + ".", "", *table(k["parameters"])]
    out += ["## Of every element", ""]
    for name, parameters in d["element"].items():
        out += [f"### `{name}`", "", *table(parameters)]
    out += ["## Of the piece", ""]
    for name, parameters in d["piece"].items():
        out += [f"### `{name}`", "", *table(parameters)]
    return "\n".join(out)


def main():
    described = json.loads(subprocess.run([sys.argv[1], "describe", "--json"], check=True, capture_output=True).stdout)
    made = {"reference.md": reference(described), "piece.schema.json": json.dumps(schema(described), indent=1, ensure_ascii=False) + "\n"}
    stale = [n for n, text in made.items() if not (HERE / n).exists() or (HERE / n).read_text() != text]
    if "--check" in sys.argv:
        for n in stale:
            print(f"docs/{n} is not what the program says now: run docs/make_reference.py")
        print("1 passed, 0 failed" if not stale else "0 passed, 1 failed")
        sys.exit(1 if stale else 0)
    for n, text in made.items():
        (HERE / n).write_text(text)


main()
