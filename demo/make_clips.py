#!/usr/bin/env python3
"""Makes the clips of the demo pieces: drifting lights on a quay, and cloth in a draught.

usage: make_clips.py BUILD [quay] [cloth]

Frames are drawn here (numpy, scipy, pillow) and put together by BUILD/bin/bathylux-cli.
"""
import json
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image
from scipy import ndimage as ndi

OUT = Path(__file__).parent / "clips"
RATE = 24


def encoded(light):
    light = np.clip(light, 0, 1)
    return np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)


def film(build, name, frames):
    """Writes pictures as one film, by a piece that does nothing but show them."""
    with tempfile.TemporaryDirectory() as folder:
        files = []
        for i, rgb in enumerate(frames):
            files.append(f"{i:04d}.png")
            Image.fromarray((np.clip(rgb, 0, 1) * 255 + 0.5).astype(np.uint8)).save(Path(folder) / files[-1])
        h, w = rgb.shape[:2]
        piece = {"bathylux": 1, "canvas": {"width": w, "height": h, "background": "#000000"},
                 "time": {"rate": f"{RATE}/1", "frames": len(files)},
                 "elements": [{"id": "frames", "source": {"kind": "clip", "files": files}}], "lights": []}
        path = Path(folder) / "piece.json"
        path.write_text(json.dumps(piece))
        OUT.mkdir(exist_ok=True)
        subprocess.run([str(Path(build) / "bin/bathylux-cli"), "render", str(path), "-o", str(OUT / name),
                        "--view", "art", "--frames", f"0:{len(files) - 1}"], check=True)


def quay():
    """Lamps far out of focus that drift by, once round in four seconds, and their trails in the water."""
    w, h, horizon, n = 960, 540, 250, 96
    rng = np.random.default_rng(31)
    y, x = np.mgrid[0:h, 0:w].astype(float)
    sky = np.clip(y / horizon, 0, 1)[..., None]
    depth = np.clip((y - horizon) / (h - horizon), 0, 1)
    base = np.where(y[..., None] < horizon,
                    (1 - sky) * np.array([0.004, 0.010, 0.020]) + sky * np.array([0.020, 0.040, 0.055]),
                    (1 - depth[..., None]) * np.array([0.016, 0.034, 0.046]) + depth[..., None] * np.array([0.003, 0.007, 0.012]))
    warm = [(1.0, 0.62, 0.26), (1.0, 0.74, 0.42), (0.98, 0.48, 0.20), (0.36, 0.86, 0.74), (0.62, 0.82, 1.0)]
    lamps = [dict(x=rng.uniform(0, w + 120), far=(far := rng.uniform(0, 1) ** 1.5), r=rng.uniform(9, 31) * (1.15 - 0.3 * far),
                  up=horizon - 15 - 205 * far * rng.uniform(0.5, 1.0), speed=rng.integers(0, 2), phase=rng.uniform(0, 6.28),
                  color=np.array(warm[rng.choice(5, p=[0.34, 0.26, 0.16, 0.16, 0.08])]) * rng.uniform(0.15, 0.8) * (1 - 0.55 * far))
             for _ in range(46)]
    for f in range(n):
        turn = 2 * np.pi * f / n
        light = base.copy()
        ripple = np.sin(y / 7 + 2 * np.sin(x / 90 + turn) + 3 * turn) + np.sin(y / 11 - x / 60 - 2 * turn)
        for lamp in lamps:
            span = w + 120
            px = (lamp["x"] + lamp["speed"] * span * f / n) % span - 60 + 9 * np.sin(turn + lamp["phase"])
            py = lamp["up"] + 4 * np.sin(turn + 2 * lamp["phase"])
            flicker = 1 + 0.18 * np.sin(2 * turn + lamp["phase"] * 3)
            near = int(lamp["r"] * 5) + 12  # px to its sides that it lights
            cut = slice(max(0, int(px) - near), max(0, min(w, int(px) + near)))
            if cut.start >= cut.stop:
                continue
            xs, ys, deep = x[:, cut], y[:, cut], depth[:, cut]
            d = np.hypot(xs - px, ys - py)
            disc = np.clip((lamp["r"] - d) / 1.6 + 0.5, 0, 1) * (0.72 + 0.28 * np.clip(d / lamp["r"], 0, 1) ** 6)
            spread = lamp["r"] * (0.5 + 1.5 * deep)
            trail = np.exp(-0.5 * ((xs - px + 9 * deep * ripple[:, cut]) / spread) ** 2) * np.clip(1 - deep * 0.8, 0, 1) ** 2
            glint = np.clip(0.55 + 0.22 * ripple[:, cut], 0, 1.3)
            shine = disc + 0.42 * np.where(ys > horizon + 2, trail * glint, 0)
            light[:, cut] += (shine * flicker)[..., None] * lamp["color"]
        yield encoded(ndi.gaussian_filter(light, (0.8, 0.8, 0)))


def cloth():
    """Folds that run through hanging cloth, once round in three seconds; heights as grey."""
    w, h, n = 384, 256, 72
    y, x = np.mgrid[0:h, 0:w].astype(float)
    for f in range(n):
        turn = 2 * np.pi * f / n
        sag = 0.35 + 0.65 * y / h  # it hangs from its upper edge
        folds = (np.sin(x / 26 + 0.9 * np.sin(y / 70 + turn) - 2 * turn) + 0.6 * np.sin(x / 15 - y / 95 + turn + 1.3)
                 + 0.5 * np.sin(x / 61 + y / 120 - turn))
        tone = 0.5 + 0.22 * sag * folds
        yield np.repeat(ndi.gaussian_filter(tone, 1.5)[..., None], 3, axis=2)


if __name__ == "__main__":
    if len(sys.argv) < 2:
        sys.exit(__doc__)
    for name, make, to in (("quay", quay, "quay-lights.webm"), ("cloth", cloth, "cloth.webm")):
        if len(sys.argv) == 2 or name in sys.argv[2:]:
            film(sys.argv[1], to, make())
            print(to)
