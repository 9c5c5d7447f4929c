#!/usr/bin/env python3
"""Makes the pictures of the demo pieces: what stands in for photographs and scans in the Quillhaven world.

Needs numpy, scipy and Pillow (Debian: python3-numpy python3-scipy python3-pil). Run in this folder; the
pictures it makes are kept in the repository, so that nobody has to. Names of makers as arguments make only
theirs.
"""
import pathlib
import struct
import sys
import zlib

import numpy as np
from PIL import Image, ImageDraw, ImageFont
from scipy import ndimage as ndi

HERE = pathlib.Path(__file__).parent
FONTS = HERE.parent / "assets" / "fonts"
OUT = HERE / "pictures"


def noise(shape, size, rng, octaves=1, gain=0.5):
    """Smooth noise of mean 0: a sum of blurred white noise, each octave half as large."""
    out, weight = np.zeros(shape), 1.0
    for o in range(octaves):
        n = ndi.gaussian_filter(rng.standard_normal(shape), size / 2**o, mode="wrap")
        out += weight * n / n.std()
        weight *= gain
    return out


def rounded(shape, corner, inset=0):
    """Coverage of a rectangle with round corners, anti-aliased."""
    h, w = shape
    im = Image.new("L", (w * 2, h * 2), 0)
    ImageDraw.Draw(im).rounded_rectangle([2 * inset, 2 * inset, 2 * (w - inset) - 1, 2 * (h - inset) - 1], 2 * corner, fill=255)
    return np.asarray(im.resize((w, h), Image.LANCZOS), float) / 255


def save_png(name, a):
    """Rows as differences from the px before them: half the time to read of what tries all filters, and no larger."""
    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
    h, w, n = a.shape
    rows = np.ones((h, 1 + w * n), np.uint8)  # each begins with its filter: 1
    rows[:, 1:] = np.diff(a, axis=1, prepend=np.zeros((h, 1, n), np.uint8)).reshape(h, w * n)
    head = struct.pack(">IIBBBBB", w, h, 8, {3: 2, 4: 6}[n], 0, 0, 0)
    (OUT / name).write_bytes(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head)
                             + chunk(b"IDAT", zlib.compress(rows.tobytes(), 9)) + chunk(b"IEND", b""))


def save_rgb(name, rgb, alpha=None):
    a = np.clip(np.dstack([rgb] if alpha is None else [rgb, alpha]), 0, 1)
    save_png(name, (a * 255 + 0.5).astype(np.uint8))


def hammered_plate():
    """A steel plate beaten flat by hand, seen under even light: 1680 × 1200 px, corners cut away."""
    rng = np.random.default_rng(41)
    h, w = 1200, 1680
    # Blows of the hammer: shallow dishes, each laid over the ones before.
    height = np.zeros((h, w))
    y, x = np.mgrid[0:h, 0:w]
    for _ in range(2300):
        cx, cy, r = rng.uniform(-40, w + 40), rng.uniform(-40, h + 40), rng.uniform(26, 58)
        x0, x1, y0, y1 = int(max(0, cx - r)), int(min(w, cx + r)), int(max(0, cy - r)), int(min(h, cy + r))
        if x1 <= x0 or y1 <= y0:
            continue
        d = np.hypot(x[y0:y1, x0:x1] - cx, y[y0:y1, x0:x1] - cy) / r
        dish = np.clip(1 - d * d, 0, 1)
        part = height[y0:y1, x0:x1]
        height[y0:y1, x0:x1] = part * (1 - 0.75 * dish**0.6) - 0.5 * dish * 0.75
    height = ndi.gaussian_filter(height, 2.2)
    height += 0.035 * noise((h, w), 1.4, rng, 2)
    tone = (height - np.percentile(height, 0.5)) / (np.percentile(height, 99.5) - np.percentile(height, 0.5))
    stain = noise((h, w), 120, rng, 3)
    grime = noise((h, w), 9, rng, 2)
    v = 0.33 + 0.20 * np.clip(tone, 0, 1) + 0.012 * stain + 0.008 * grime
    rgb = np.dstack([v * 0.93, v * 0.99, v * 1.05])
    rust = np.clip(stain * 0.6 + grime * 0.25 - 1.5, 0, 1)[..., None]
    rgb = rgb * (1 - 0.35 * rust) + 0.35 * rust * np.array([0.42, 0.29, 0.2])
    a = rounded((h, w), 70)
    # A hundred and twenty-eight steps a channel are enough for steel, and pack far better.
    save_rgb("hammered-plate.png", np.round(rgb * 127) / 127, a)


def token():
    """A grey-tone picture of the line's token: light is high. 1600 × 1600 px, 8 bit."""
    n = 1600
    y, x = np.mgrid[0:n, 0:n] + 0.5
    cx = cy = n / 2
    r = np.hypot(x - cx, y - cy)
    height = np.zeros((n, n))

    def smooth(e0, e1, v):
        t = np.clip((v - e0) / (e1 - e0), 0, 1)
        return t * t * (3 - 2 * t)

    def relief(draw, top, width):
        """What `draw` paints white, raised over `width` px from its edge with a round shoulder."""
        im = Image.new("L", (2 * n, 2 * n), 0)
        draw(ImageDraw.Draw(im), im)
        inside = np.asarray(im.resize((n, n), Image.LANCZOS), float) / 255
        d = ndi.distance_transform_edt(inside > 0.5)
        t = np.clip(d / width, 0, 1)
        return top * np.sqrt(np.clip(1 - (1 - t) ** 2, 0, 1))

    font = lambda size: ImageFont.truetype(str(FONTS / "LeagueSpartan-Bold.otf"), size)
    # Field, slightly dished, and a rim of beads.
    height += 0.16 + 0.07 * smooth(150, 620, r)
    rim = np.clip(1 - np.abs(r - 735) / 42, 0, 1)
    height = np.where(r < 785, height + 0.62 * np.sqrt(np.clip(1 - (1 - rim) ** 2, 0, 1)), 0)
    for k in range(84):
        a = 2 * np.pi * k / 84
        d = np.hypot(x - cx - 656 * np.cos(a), y - cy - 656 * np.sin(a))
        height += 0.30 * np.sqrt(np.clip(1 - (d / 15) ** 2, 0, 1))

    def ring_text(text, radius, size, start, step, inward):
        def draw(d, im):
            for i, c in enumerate(text):
                a = start + step * i
                tile = Image.new("L", (300, 300), 0)
                ImageDraw.Draw(tile).text((150, 150), c, font=font(2 * size), fill=255, anchor="mm")
                turn = np.degrees(-a) - 90 if not inward else np.degrees(-a) + 90
                tile = tile.rotate(turn, Image.BICUBIC)
                px, py = 2 * (cx + radius * np.cos(a)), 2 * (cy + radius * np.sin(a))
                im.paste(255, (int(px - 150), int(py - 150)), tile)
        return draw

    text = "QUILLHAVEN TRAMWAY"
    step = 0.142
    height += relief(ring_text(text, 545, 92, -np.pi / 2 - step * (len(text) - 1) / 2, step, False), 0.34, 13)
    low = "ONE FARE"
    height += relief(ring_text(low, 552, 92, np.pi / 2 + step * (len(low) - 1) / 2, -step, True), 0.34, 13)

    # A tram seen from the front, over the water of the basin.
    def body(d, im):
        d.rounded_rectangle([1170, 920, 2030, 1990], 110, fill=255)
        d.polygon([(1300, 925), (1900, 925), (1840, 830), (1360, 830)], fill=255)
    height += relief(body, 0.30, 60)

    def windows(d, im):
        for x0, x1 in ((1240, 1440), (1480, 1720), (1760, 1960)):
            d.rounded_rectangle([x0, 1050, x1, 1390], 34, fill=255)
    height -= relief(windows, 0.14, 12)

    def trim(d, im):
        d.rounded_rectangle([1210, 1440, 1990, 1476], 16, fill=255)
        d.rounded_rectangle([1430, 880, 1770, 1000], 30, fill=255)
        d.rectangle([1185, 1880, 2015, 1940], fill=255)
        d.line([(1600, 830), (1600, 700)], fill=255, width=16)
        d.line([(1450, 700), (1750, 700)], fill=255, width=20)
    height += relief(trim, 0.16, 9)

    def lamp(d, im):
        d.ellipse([1490, 1540, 1710, 1760], fill=255)
    height += relief(lamp, 0.26, 55)
    d_lamp = np.hypot(x - 800, y - 825)
    height -= 0.10 * np.sqrt(np.clip(1 - (d_lamp / 32) ** 2, 0, 1))

    for k in range(3):
        yy = 1032 + 34 * k
        half = 300 - 40 * k
        wave = np.abs(y - yy - 9 * np.sin((x + 30 * k) / 22))
        along = smooth(half, half - 40, np.abs(x - cx))
        height += 0.20 * along * np.sqrt(np.clip(1 - (wave / 9) ** 2, 0, 1)) * (y > 1000)
    # Struck metal is never quite smooth, nor is a scan of it.
    rng = np.random.default_rng(7)
    height = ndi.gaussian_filter(height, 1.6)
    wear = 0.012 * noise((n, n), 40, rng, 3)
    inside = smooth(790, 786, r)
    height = (height + wear) * inside
    v = np.clip(height / height.max() * 0.93 + 0.03, 0, 1)
    Image.fromarray((v * 255 + 0.5).astype(np.uint8)).save(OUT / "token-grey.png", optimize=True)


def lit(height, angle, elevation, ambient=0.2):
    """Lambert's law on a height field; angle counter-clockwise from the right, y down."""
    gy, gx = np.gradient(height)
    n = np.dstack([-gx, gy, np.ones_like(height)])
    n /= np.linalg.norm(n, axis=2, keepdims=True)
    a, e = np.radians(angle), np.radians(elevation)
    l = np.array([np.cos(a) * np.cos(e), np.sin(a) * np.cos(e), np.sin(e)])
    return ambient + (1 - ambient) * np.clip(n @ l, 0, None), n


def cobbles():
    """Setts at a stop, photographed in a low sun with the kerb's shade across them: 1500 × 1100 px."""
    rng = np.random.default_rng(12)
    h, w = 1100, 1500
    y, x = np.mgrid[0:h, 0:w].astype(float)
    x += 5 * noise((h, w), 90, rng)
    y += 5 * noise((h, w), 90, rng)
    rows, top, tones = [], np.zeros((h, w)), np.zeros((h, w, 3))
    size, row = 132.0, 0
    palette = np.array([[0.50, 0.49, 0.47], [0.44, 0.43, 0.43], [0.55, 0.51, 0.46], [0.40, 0.42, 0.44], [0.52, 0.46, 0.42]])
    height = np.full((h, w), -14.0)
    cy = -20.0
    while cy < h + size:
        rh = size * rng.uniform(0.86, 1.04)
        cx = -rng.uniform(0, size)
        while cx < w + size:
            rw = size * rng.uniform(0.95, 1.5)
            qx, qy = np.abs(x - cx - rw / 2) - rw / 2 + 7, np.abs(y - cy - rh / 2) - rh / 2 + 7
            corner = 26
            d = np.hypot(np.maximum(qx + corner, 0), np.maximum(qy + corner, 0)) + np.minimum(np.maximum(qx + corner, qy + corner), 0) - corner
            inside = d < 0
            dome = np.clip(-d / 46, 0, 1)
            dome = np.sqrt(dome * (2 - dome))
            tilt = rng.uniform(-0.03, 0.03) * (x - cx) + rng.uniform(-0.03, 0.03) * (y - cy)
            stone = -12 + 24 * dome + tilt + rng.uniform(-2, 2)
            height = np.where(inside, np.maximum(height, stone), height)
            tones[inside] = palette[rng.integers(5)] * rng.uniform(0.9, 1.1)
            cx += rw
        cy += rh
    tones[tones.sum(axis=2) == 0] = [0.26, 0.23, 0.20]
    height = ndi.gaussian_filter(height, 1.6) + 0.5 * noise((h, w), 5, rng, 3) + 2.0 * noise((h, w), 160, rng)
    shade, _ = lit(height, 150, 33, 0.24)
    joints = np.clip((-height - 2) / 12, 0, 1)
    moss = np.clip(noise((h, w), 40, rng, 3) * 0.5 + joints * 1.3 - 0.9, 0, 1)[..., None]
    rgb = tones * (1 - 0.6 * moss) + moss * 0.6 * np.array([0.26, 0.30, 0.15])
    rgb *= (1 + 0.05 * noise((h, w), 1.2, rng, 2))[..., None]
    fall = 0.52 + 0.62 * (np.mgrid[0:h, 0:w][1] / w) * (1 - 0.25 * np.mgrid[0:h, 0:w][0] / h)
    rgb = rgb * (shade * 1.5 * fall)[..., None] * np.array([1.05, 1.0, 0.93])
    Image.fromarray((np.clip(rgb, 0, 1) ** (1 / 1.15) * 255 + 0.5).astype(np.uint8)).save(OUT / "cobbles.jpg", quality=90)


def token_rim():
    """Rays and a beaded rim for the token, as a normal map whose green points down: 800 × 800 px."""
    n = 800
    y, x = np.mgrid[0:n, 0:n] + 0.5 - n / 2
    r, a = np.hypot(x, y), np.arctan2(y, x)
    rays = 3.0 * np.abs(np.sin(24 * a)) * np.clip((r - 150) / 60, 0, 1) * np.clip((330 - r) / 30, 0, 1)
    beads = np.zeros((n, n))
    for k in range(72):
        t = 2 * np.pi * k / 72
        d = np.hypot(x - 372 * np.cos(t), y - 372 * np.sin(t)) / 12
        beads = np.maximum(beads, 9 * np.sqrt(np.clip(1 - d * d, 0, 1)))
    height = ndi.gaussian_filter(rays + beads, 1.5)
    _, normal = lit(height, 0, 90)
    normal[..., 1] *= -1
    Image.fromarray(np.round(127.5 + 127.5 * normal).astype(np.uint8)).save(OUT / "token-rim-normals.png", optimize=True)


def beetle():
    """The clockwork ticket beetle of the harbour game, walking: 8 frames of 96 × 96 px on a sheet of 4 × 2."""
    side, frames = 96, 8
    sheet = Image.new("RGBA", (4 * side, 2 * side), (0, 0, 0, 0))
    brass, dark, shell, shine, eye, paper, ink = ("#c9963f", "#3a2a1c", "#2f6f6a", "#58b3a4", "#f3ead2", "#efe3c4", "#a4452f")
    for f in range(frames):
        t = 2 * np.pi * f / frames
        im = Image.new("RGBA", (side, side), (0, 0, 0, 0))
        d = ImageDraw.Draw(im)
        bob = int(round(1.4 * np.sin(2 * t)))
        # Far legs first, then near ones: three pairs in turn.
        for near in (0, 1):
            for k, hip in enumerate((30, 46, 62)):
                swing = np.sin(t + 2.1 * k + np.pi * near)
                lift = max(0.0, np.cos(t + 2.1 * k + np.pi * near))
                foot = (hip + 9 * swing + (3 if near else -3), 84 - 7 * lift - (0 if near else 3))
                knee = (hip + 4 * swing + (6 if k == 2 else -6 if k == 0 else 1), 70 + bob)
                color = dark if not near else "#5a4128"
                d.line([(hip, 60 + bob), knee, foot], fill=color, width=4)
                d.ellipse([foot[0] - 3, foot[1] - 2, foot[0] + 3, foot[1] + 2], fill=color)
        # Body, wing cases with rivets, a seam, a belly of brass.
        d.ellipse([16, 40 + bob, 76, 72 + bob], fill=dark)
        d.ellipse([18, 50 + bob, 74, 70 + bob], fill=brass)
        d.pieslice([16, 26 + bob, 76, 82 + bob], 180, 360, fill=dark)
        d.pieslice([18, 28 + bob, 74, 80 + bob], 180, 360, fill=shell)
        d.arc([24, 32 + bob, 68, 76 + bob], 205, 285, fill=shine, width=3)
        d.line([(46, 29 + bob), (46, 53 + bob)], fill=dark, width=2)
        for px, py in ((27, 48), (36, 38), (56, 38), (65, 48)):
            d.ellipse([px - 2, py - 2 + bob, px + 2, py + 2 + bob], fill=brass)
        # The ticket clamped on its back.
        d.polygon([(30, 24 + bob), (52, 16 + bob), (56, 26 + bob), (34, 34 + bob)], fill=paper, outline=dark)
        d.line([(36, 26 + bob), (49, 21 + bob)], fill=ink, width=2)
        d.line([(38, 30 + bob), (46, 27 + bob)], fill=ink, width=1)
        # Head with one lamp of an eye, feelers that nod.
        d.ellipse([66, 44 + bob, 88, 66 + bob], fill=dark)
        d.ellipse([68, 46 + bob, 86, 64 + bob], fill="#7a5a30")
        d.ellipse([76, 49 + bob, 84, 57 + bob], fill=eye, outline=dark)
        d.ellipse([79, 51 + bob, 82, 54 + bob], fill=dark)
        nod = int(round(2 * np.sin(t + 1)))
        d.line([(78, 46 + bob), (86, 34 + bob + nod)], fill=dark, width=2)
        d.ellipse([84, 31 + bob + nod, 89, 36 + bob + nod], fill=brass)
        # The winding key turns behind.
        half = 10 * np.cos(t)
        d.line([(10, 54 + bob), (18, 54 + bob)], fill=dark, width=3)
        d.ellipse([8 - abs(half) * 0.25, 54 - abs(half) + bob - 2, 12 + abs(half) * 0.25, 54 + abs(half) + bob + 2], fill=brass, outline=dark)
        sheet.paste(im, (f % 4 * side, f // 4 * side))
    sheet.save(OUT / "ticket-beetle.png", optimize=True)


def quay_lights():
    """Lamps along the quay at night, far out of focus, and their trails in the water."""
    w, h, horizon = 1920, 1080, 500
    rng = np.random.default_rng(31)
    y, x = np.mgrid[0:h, 0:w].astype(float)
    sky = np.clip(y / horizon, 0, 1)[..., None]
    light = (1 - sky) * np.array([0.004, 0.010, 0.020]) + sky * np.array([0.020, 0.040, 0.055])
    water = np.clip((y - horizon) / (h - horizon), 0, 1)[..., None]
    sea = (1 - water) * np.array([0.016, 0.034, 0.046]) + water * np.array([0.003, 0.007, 0.012])
    light = np.where(y[..., None] < horizon, light, sea)
    # The sheds on the other side, dark against the sky.
    roof = 40 + 26 * noise((w,), 60, rng)[None, :].repeat(h, 0)
    light[(y > horizon - roof) & (y < horizon)] *= 0.35
    warm = [(1.0, 0.62, 0.26), (1.0, 0.74, 0.42), (0.98, 0.48, 0.20), (0.36, 0.86, 0.74), (0.62, 0.82, 1.0)]
    swell = ndi.gaussian_filter(rng.standard_normal((h, w)), (3.5, 22), mode="wrap")
    ripple = swell / swell.std()
    for k in range(64):
        px, far = rng.uniform(-60, w + 60), rng.uniform(0, 1) ** 1.5
        py = horizon - 30 - 410 * far * rng.uniform(0.5, 1.0)
        r = rng.uniform(18, 62) * (1.15 - 0.3 * far)
        color = np.array(warm[rng.choice(5, p=[0.34, 0.26, 0.16, 0.16, 0.08])]) * rng.uniform(0.1, 0.7) * (1 - 0.55 * far)
        d = np.hypot(x - px, y - py)
        disc = np.clip((r - d) / 2.2 + 0.5, 0, 1) * (0.72 + 0.28 * np.clip(d / r, 0, 1) ** 6)
        light += disc[..., None] * color
        # In the water: a long trail, broken up by the swell.
        depth = (y - horizon) / (h - horizon)
        spread = r * (0.5 + 1.5 * np.clip(depth, 0, 1))
        sway = 26 * depth * ripple
        trail = np.exp(-0.5 * ((x - px + sway) / spread) ** 2) * np.clip(1 - depth * 0.8, 0, 1) ** 2
        glint = np.clip(0.55 + 0.3 * ripple + 0.25 * np.sin(y / (5 + 22 * np.clip(depth, 0, 1)) + 1.4 * ripple + k), 0, 1.3)
        light += np.where(y > horizon + 3, trail * glint, 0)[..., None] * color * 0.42
    light = ndi.gaussian_filter(light, (1.2, 1.2, 0))
    encoded = np.where(light <= 0.0031308, 12.92 * light, 1.055 * np.power(np.clip(light, 0, 1), 1 / 2.4) - 0.055)
    grain = 0.004 * rng.standard_normal((h, w, 1))
    rgb = (np.clip(encoded + grain, 0, 1) * 255 + 0.5).astype(np.uint8)
    Image.fromarray(rgb).save(OUT / "quay-lights.jpg", quality=90, optimize=True)


def tips():
    """Tips for the brushes: what covers, as alpha on black; 160 px, in ../assets/tips."""
    folder = HERE.parent / "assets" / "tips"
    folder.mkdir(exist_ok=True)
    n = 160
    rng = np.random.default_rng(8)
    y, x = np.mgrid[0:n, 0:n].astype(float)
    u, v = (x + 0.5) / n * 2 - 1, (y + 0.5) / n * 2 - 1
    r, turn = np.hypot(u, v), np.arctan2(v, u)

    def save(name, cover):
        a = (np.clip(cover, 0, 1) * 255 + 0.5).astype(np.uint8)
        Image.merge("LA", (Image.new("L", (n, n), 0), Image.fromarray(a))).save(folder / (name + ".png"), optimize=True)

    # A splash: a body with arms, and drops flung out.
    edge = 0.42 + 0.05 * np.sin(5 * turn + 1) + 0.06 * np.sin(11 * turn) + 0.04 * np.sin(23 * turn + 2)
    splash = np.clip((edge - r) * n / 2 + 0.5, 0, 1)
    for _ in range(46):
        a, d, size = rng.uniform(0, 2 * np.pi), rng.uniform(0.45, 0.92), rng.uniform(0.012, 0.06)
        drop = np.hypot(u - d * np.cos(a), v - d * np.sin(a))
        splash = np.maximum(splash, np.clip((size * (1.15 - d) * 1.6 - drop) * n / 2 + 0.5, 0, 1))
    save("splash", splash)

    # A leaf with its veins left open.
    half = 0.46 * np.clip(1 - u**2, 0, 1) ** 0.8 * (1 - 0.25 * u)
    leaf = np.clip((half - np.abs(v)) * n / 2 + 0.5, 0, 1)
    vein = np.abs(v) < 0.018 * (1.2 - u)
    for k in range(-4, 5):
        side = np.abs((u - 0.2 * k) - 0.55 * np.abs(v)) < 0.013
        vein |= side & (np.abs(v) < half)
    save("leaf", np.where(vein, 0.12 * leaf, leaf))

    # Hatching: strokes of a pen, not quite even.
    wobble = 0.04 * noise((n, n), 16, rng)
    lines = np.abs(((v + wobble) * 6.5) % 1 - 0.5) * 2
    stroke = np.clip((lines - 0.55) * 9, 0, 1) * np.clip((0.95 - np.abs(u) + 0.12 * noise((n, n), 3, rng)) * 12, 0, 1)
    save("hatch", stroke * (np.abs(v) < 0.92))

    # Chalk: a soft round that catches on a grain.
    tooth = noise((n, n), 1.6, rng, 2)
    save("chalk", np.clip((0.95 - r) * 3, 0, 1) * np.clip(0.55 + 0.75 * tooth, 0, 1))


def plaster():
    """Cracked plaster, as wear has it: grey, bright where it would go first. 1400 × 1000 px."""
    w, h = 1400, 1000
    rng = np.random.default_rng(17)
    y, x = np.mgrid[0:h, 0:w].astype(float)
    warp = 16 * noise((h, w), 40, rng, 3)
    warp2 = 16 * noise((h, w), 40, rng, 3)
    # Cracks run between cells that dried apart, large ones and small ones within.
    crack = np.zeros((h, w))
    for cells, width, strength in ((46, 3.2, 1.0), (240, 1.6, 0.55)):
        points = np.column_stack([rng.uniform(0, w, cells), rng.uniform(0, h, cells)])
        from scipy.spatial import cKDTree

        d, _ = cKDTree(points).query(np.column_stack([(x + warp).ravel(), (y + warp2).ravel()]), k=2)
        gap = (d[:, 1] - d[:, 0]).reshape(h, w)
        crack = np.maximum(crack, strength * np.exp(-((gap / (2.4 * width)) ** 2)))
    blotch = noise((h, w), 70, rng, 5, 0.62)
    fine = noise((h, w), 3, rng, 2)
    # Flakes come off beside the cracks.
    beside = ndi.gaussian_filter(crack, 9) * 3.2
    v = 0.40 + 0.15 * blotch + 0.055 * fine + 0.42 * crack + 0.22 * np.clip(beside, 0, 1) * (0.6 + 0.4 * np.tanh(blotch))
    Image.fromarray((np.clip(v, 0, 1) * 255 + 0.5).astype(np.uint8)).save(OUT / "plaster.png", optimize=True)


def strokes():
    """Strokes of a broad brush on grey, light ones and dark ones, all of them downwards: a map. 750 × 550 px."""
    w, h = 750, 550
    rng = np.random.default_rng(23)
    y, x = np.mgrid[0:h, 0:w].astype(float)
    v = np.full((h, w), 0.5)
    for _ in range(46):
        cx, top, length = rng.uniform(20, w - 20), rng.uniform(-40, 380), rng.uniform(90, 330)
        width, light = rng.uniform(5, 17), rng.choice([1.0, 1.0, 1.0, 0.15])
        sway = cx + 7 * np.sin(y / rng.uniform(50, 120) + rng.uniform(0, 6))
        bristle = 0.82 + 0.18 * np.sin((x - cx) * 2.1 + 3 * np.sin(y / 31))
        along = np.clip((y - top) / 40, 0, 1) * np.clip((top + length - y) / 90, 0, 1)
        cover = np.clip((width - np.abs(x - sway)) / 4, 0, 1) * along * bristle
        v = v * (1 - cover) + light * cover
    Image.fromarray((np.clip(v, 0, 1) * 255 + 0.5).astype(np.uint8)).save(OUT / "strokes.png", optimize=True)


def depot():
    """The depot at dusk from across the basin, painted flat: 1600 × 560 px, its foot on the lower rim."""
    w, h, k = 1600, 560, 2
    rng = np.random.default_rng(5)
    sky = Image.new("RGB", (w * k, h * k))
    t = np.linspace(0, 1, h * k)[:, None, None]
    top, low = np.array([30, 44, 70]), np.array([226, 158, 108])
    mid = np.array([118, 112, 130])
    rows = np.where(t < 0.6, top + (mid - top) * (t / 0.6), mid + (low - mid) * ((t - 0.6) / 0.4))
    sky = Image.fromarray(np.broadcast_to(rows, (h * k, w * k, 3)).astype(np.uint8).copy())
    d = ImageDraw.Draw(sky)

    def box(x0, y0, x1, y1, color):
        d.rectangle([x0 * k, y0 * k, x1 * k - 1, y1 * k - 1], fill=color)

    def poly(points, color):
        d.polygon([(px * k, py * k) for px, py in points], fill=color)

    # Hills far off, chimneys, cranes.
    ridge = 300 + 26 * noise((w,), 90, rng, 3)
    poly([(0, h)] + [(i, ridge[i]) for i in range(0, w, 8)] + [(w, h)], (88, 88, 108))
    for cx, cy, cw in ((150, 190, 16), (196, 226, 12), (1410, 170, 18)):
        poly([(cx, cy), (cx + cw, cy), (cx + cw + 5, h), (cx - 5, h)], (70, 66, 82))
    for cx, s in ((1230, 1), (1490, -1)):
        poly([(cx, 210), (cx + 7, 210), (cx + 7, h), (cx, h)], (54, 56, 72))
        poly([(cx - 40 * s, 232), (cx + 150 * s, 170), (cx + 150 * s, 176), (cx - 40 * s, 246)], (54, 56, 72))
        d.line([((cx + 132 * s) * k, 178 * k), ((cx + 132 * s) * k, 330 * k)], fill=(54, 56, 72), width=3)
    # The long shed: brick, a saw-tooth roof, arched doors with light in them.
    brick, dark, lamp = (92, 52, 44), (52, 34, 34), (250, 196, 110)
    box(260, 330, 1160, h - 8, brick)
    for i in range(9):
        x0 = 260 + i * 100
        poly([(x0, 330), (x0, 262), (x0 + 100, 330)], (66, 50, 52))
        poly([(x0 + 4, 322), (x0 + 4, 276), (x0 + 12, 282), (x0 + 12, 322)], (232, 186, 124))
    for row in range(345, h - 10, 9):
        for col in range(262 + (row // 9 % 2) * 9, 1158, 18):
            if rng.uniform() < 0.4:
                c = tuple(int(v + rng.uniform(-14, 12)) for v in brick)
                box(col, row, col + 16, row + 7, c)
    for i in range(7):
        x0, open_ = 296 + i * 124, i in (1, 4)
        color = lamp if open_ else dark
        d.pieslice([x0 * k, 392 * k, (x0 + 84) * k, 476 * k], 180, 360, fill=color)
        box(x0, 434, x0 + 84, h - 8, color)
        if not open_:
            for j in range(4):
                box(x0 + 8 + j * 18, 440, x0 + 18 + j * 18, 486, (224, 158, 84) if (i + j) % 3 else (120, 84, 64))
        d.arc([(x0 - 4) * k, 388 * k, (x0 + 88) * k, 480 * k], 180, 360, fill=(140, 92, 72), width=7)
    # The tower with its clock, the office, a tram on the quay.
    box(1160, 232, 1262, h - 8, (104, 60, 50))
    poly([(1150, 232), (1211, 168), (1272, 232)], (60, 46, 52))
    d.ellipse([1183 * k, 254 * k, 1239 * k, 310 * k], fill=(246, 230, 190))
    d.line([1211 * k, 282 * k, 1211 * k, 262 * k], fill=(40, 32, 34), width=5)
    d.line([1211 * k, 282 * k, 1226 * k, 290 * k], fill=(40, 32, 34), width=5)
    for yy in (336, 396, 456):
        for xx in (1176, 1216):
            box(xx, yy, xx + 28, yy + 40, lamp if (xx + yy) % 3 else (84, 62, 60))
    box(120, 412, 260, h - 8, (82, 78, 84))
    for xx in range(134, 250, 38):
        box(xx, 430, xx + 24, 466, (255, 214, 140))
    box(640, 470, 930, 538, (180, 48, 40))
    box(640, 478, 930, 500, (236, 224, 196))
    for xx in range(654, 920, 38):
        box(xx, 480, xx + 28, 512, (255, 226, 160))
    box(650, 458, 920, 470, (112, 34, 32))
    for xx in (690, 880):
        d.ellipse([(xx - 14) * k, 528 * k, (xx + 14) * k, 556 * k], fill=(30, 28, 30))
    d.ellipse([634 * k, 506 * k, 650 * k, 522 * k], fill=(255, 244, 200))
    # The quay wall and its lamps.
    box(0, h - 14, w, h, (44, 42, 46))
    for xx in range(60, w, 190):
        box(xx, 440, xx + 4, h - 12, (34, 34, 38))
        d.ellipse([(xx - 7) * k, 428 * k, (xx + 11) * k, 446 * k], fill=(255, 232, 168))
    img = np.asarray(sky.resize((w, h), Image.LANCZOS), float) / 255
    glow = ndi.gaussian_filter(np.clip(img - 0.72, 0, 1), (14, 14, 0)) * 1.6
    img = img + glow + 0.006 * rng.standard_normal((h, w, 1))
    Image.fromarray((np.clip(img, 0, 1) * 255 + 0.5).astype(np.uint8)).save(OUT / "depot.jpg", quality=90, optimize=True)


def badge():
    """A badge on plain paper, as it comes from the drawing board: 900 × 700 px, red plate, cream letters whose
    counters are cut out, two holes to hang it by."""
    k, w, h = 3, 900, 700
    paper = (118, 146, 158)
    im = Image.new("RGB", (w * k, h * k), paper)
    d = ImageDraw.Draw(im)
    d.rounded_rectangle([70 * k, 130 * k, 830 * k, 570 * k], 92 * k, fill=(196, 58, 44))
    d.rounded_rectangle([96 * k, 156 * k, 804 * k, 544 * k], 68 * k, outline=(243, 233, 208), width=13 * k)
    for x in (132, 768):
        d.ellipse([(x - 13) * k, (350 - 13) * k, (x + 13) * k, (350 + 13) * k], fill=paper)
    font = lambda size: ImageFont.truetype(str(FONTS / "LeagueSpartan-ExtraBold.otf"), size * k)

    def line(text, size, middle, spacing):
        f = font(size)
        widths = [d.textlength(c, font=f) + spacing * k for c in text]
        x = (w * k - sum(widths) + spacing * k) / 2
        for c, step in zip(text, widths):
            glyph = Image.new("L", im.size, 0)
            ImageDraw.Draw(glyph).text((x, middle * k), c, font=f, fill=255, anchor="ls")
            a = np.asarray(glyph) > 127
            counters = ndi.binary_fill_holes(a) & ~a
            im.paste(paper, mask=Image.fromarray((counters * 255).astype(np.uint8)))
            im.paste((243, 233, 208), mask=glyph)
            x += step

    line("QUAY", 216, 392, 10)
    line("LAMP OIL", 78, 494, 8)
    a = np.asarray(im.resize((w, h), Image.LANCZOS), float) / 255
    save_rgb("badge.png", a)


def housing():
    """A pump's housing as a mesh of our own: a bulged drum with flanges, a boss in front that a plate is pressed
    into, and a spout. Texture coordinates run round it, the plate's place in the middle."""
    import struct
    n, rows = 160, []
    profile = [(-1.0, 0.0), (-1.0, 0.62), (-0.98, 0.66), (-0.88, 0.66), (-0.86, 0.62), (-0.86, 0.52)]
    for i in range(33):  # the drum
        t = i / 32
        profile.append((-0.82 + 1.64 * t, 0.52 + 0.16 * np.sin(np.pi * t) ** 0.8))
    profile += [(0.86, 0.52), (0.86, 0.62), (0.88, 0.66), (0.98, 0.66), (1.0, 0.62), (1.0, 0.0)]
    points, uv = [], []
    along = np.cumsum([0] + [np.hypot(profile[i + 1][0] - profile[i][0], profile[i + 1][1] - profile[i][1]) for i in range(len(profile) - 1)])
    for (y, r), s in zip(profile, along):
        for j in range(n + 1):
            a = 2 * np.pi * (j / n - 0.5)
            boss = 0.0
            if abs(y) < 0.8:  # a flat in front, blended into the drum
                flat = np.exp(-((np.hypot(a * 0.62, y * 0.9) / 0.56) ** 4))
                boss = flat * (0.70 / max(np.cos(a), 0.3) - r) if abs(a) < 1.1 else 0.0
            q = r + boss
            points.append((q * np.sin(a), -y, q * np.cos(a)))
            uv.append((j / n, s / along[-1]))
    faces = []
    for i in range(len(profile) - 1):
        for j in range(n):
            p, q = i * (n + 1) + j, (i + 1) * (n + 1) + j
            faces += [(p, q, q + 1), (p, q + 1, p + 1)]
    text = ["# The housing of a Quillhaven bilge pump; made by make_pictures.py."]
    text += ["v %.5f %.5f %.5f" % p for p in points]
    text += ["vt %.5f %.5f" % (u, 1 - v) for u, v in uv]
    text += ["f " + " ".join(f"{i + 1}/{i + 1}" for i in f) for f in faces]
    (HERE / "meshes").mkdir(exist_ok=True)
    (HERE / "meshes" / "pump-housing.obj").write_text("\n".join(text) + "\n")


def main():
    OUT.mkdir(exist_ok=True)
    makers = [hammered_plate, token, token_rim, cobbles, beetle, quay_lights, tips, plaster, strokes, depot, badge, housing]
    wanted = sys.argv[1:] or [m.__name__ for m in makers]
    for make in makers:
        if make.__name__ in wanted:
            make()


main()
