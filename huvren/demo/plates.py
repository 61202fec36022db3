"""The pictures of the demo."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.demo.canvas import Canvas, Tone, smooth


@dataclass(frozen=True)
class Band:
    """A stripe across a wing: where along it (0..1), half its width, its color and cover."""

    at: float
    width: float
    tone: Tone
    cover: float


@dataclass(frozen=True)
class Wing:
    angle: float
    length: float
    breadth: float
    root: Tone
    tip: Tone
    bands: tuple[Band, ...]
    scallop: float = 0.06


@dataclass(frozen=True)
class Species:
    """An invented moth. Spots: (x, y, radius) from the body's middle, each drawn on both sides."""

    fore: Wing
    hind: Wing
    spots: tuple[tuple[float, float, float], ...]
    rings: tuple[tuple[float, Tone], ...]
    body: Tone
    stripe: Tone
    antenna: Tone
    vein: Tone


LANTERN = Species(
    fore=Wing(
        -0.42, 300, 105, (176, 142, 108), (126, 92, 72),
        (Band(0.35, 0.04, (92, 62, 52), 0.8), Band(0.62, 0.06, (224, 204, 170), 0.75), Band(0.93, 0.06, (60, 42, 40), 0.9)),
    ),
    hind=Wing(
        0.62, 215, 100, (150, 112, 84), (112, 78, 62),
        (Band(0.55, 0.05, (212, 188, 150), 0.8), Band(0.9, 0.07, (70, 48, 44), 0.9)),
    ),
    spots=((158, -78, 27), (96, 78, 18)),
    rings=((1.0, (32, 20, 22)), (0.78, (232, 84, 33)), (0.5, (250, 196, 60)), (0.3, (30, 92, 140)), (0.12, (240, 246, 250))),
    body=(86, 62, 50), stripe=(190, 160, 120), antenna=(214, 186, 140), vein=(40, 26, 22),
)  # fmt: skip

REED = Species(
    fore=Wing(
        -0.62, 285, 82, (196, 206, 168), (120, 146, 112),
        (Band(0.28, 0.03, (86, 104, 78), 0.75), Band(0.5, 0.05, (236, 232, 200), 0.8), Band(0.74, 0.03, (96, 112, 84), 0.7),
         Band(0.95, 0.05, (206, 98, 104), 0.85)), 0.1,
    ),
    hind=Wing(
        0.55, 240, 92, (226, 222, 190), (172, 188, 150),
        (Band(0.6, 0.05, (206, 132, 128), 0.7), Band(0.92, 0.06, (112, 130, 98), 0.85)), 0.1,
    ),
    spots=((120, -92, 15), (110, 74, 20)),
    rings=((1.0, (66, 52, 60)), (0.8, (238, 190, 196)), (0.55, (176, 40, 78)), (0.3, (30, 24, 40)), (0.12, (250, 246, 240))),
    body=(214, 206, 178), stripe=(150, 158, 120), antenna=(120, 96, 70), vein=(96, 110, 80),
)  # fmt: skip

INK = Species(
    fore=Wing(
        -0.5, 280, 112, (52, 58, 92), (24, 26, 46),
        (Band(0.3, 0.03, (110, 126, 170), 0.6), Band(0.58, 0.07, (36, 150, 158), 0.75), Band(0.8, 0.025, (206, 214, 226), 0.7),
         Band(0.95, 0.05, (14, 14, 26), 0.9)),
    ),
    hind=Wing(
        0.66, 220, 108, (214, 150, 62), (150, 82, 40),
        (Band(0.5, 0.06, (40, 30, 40), 0.85), Band(0.9, 0.08, (26, 22, 34), 0.92)),
    ),
    spots=((148, -82, 17),),
    rings=((1.0, (12, 14, 26)), (0.74, (86, 214, 206)), (0.4, (238, 246, 230))),
    body=(38, 36, 54), stripe=(206, 146, 66), antenna=(150, 156, 180), vein=(14, 14, 26),
)  # fmt: skip


def _wing(canvas: Canvas, wing: Wing, vein: Tone, x: float, y: float, side: int, scale: float, beat: float) -> None:
    angle = wing.angle - beat * (0.5 if wing.angle < 0 else 0.3)
    across = (canvas.x - x) * side / scale / (1 - 0.35 * abs(beat))
    down = (canvas.y - y) / scale
    u = across * np.cos(angle) + down * np.sin(angle)
    v = -across * np.sin(angle) + down * np.cos(angle)
    t = np.clip(u / wing.length, 0, 1.3)
    swell = np.clip(np.sin(np.clip(t, 0, 1) * np.pi * 0.62 + 0.12), 0, 1) ** 0.7
    half = wing.breadth * swell * (1 + wing.scallop * np.sin(t * 22))
    mask = smooth(1.03, 0.97, np.abs(v) / np.maximum(half, 1)) * smooth(-4, 4, u) * smooth(wing.length + 3, wing.length - 3, u)
    base = canvas.linear(wing.root) * (1 - t[..., None]) + canvas.linear(wing.tip) * t[..., None]
    weave = (np.sin(u * 0.9 + v * 0.2) * 0.5 + 0.5) * 0.07
    canvas.pixels = canvas.pixels * (1 - mask[..., None]) + base * (1 - weave[..., None]) * mask[..., None]
    for band in wing.bands:
        edge = np.abs(t - band.at + 0.03 * np.sin(v * 0.12))
        canvas.wash(band.tone, smooth(band.width, band.width * 0.35, edge) * mask * band.cover)
    rays = np.abs((np.arctan2(v, u + 12) * 9) % 1 - 0.5)
    canvas.wash(vein, smooth(0.12, 0.0, rays) * mask * 0.35)


def moth(canvas: Canvas, species: Species, x: float, y: float, scale: float = 1.0, beat: float = 0.0) -> None:
    """Draw a moth; `beat` −1..1 lifts and lowers its wings."""
    for side in (-1, 1):
        _wing(canvas, species.hind, species.vein, x, y + 6 * scale, side, scale, beat)
        _wing(canvas, species.fore, species.vein, x, y - 10 * scale, side, scale, beat)
    for spot_x, spot_y, radius in species.spots:
        for side in (-1, 1):
            wing = species.fore if spot_y < 0 else species.hind
            turn = beat * (0.5 if wing.angle < 0 else 0.3)
            px = spot_x * np.cos(turn) + spot_y * np.sin(turn)
            py = -spot_x * np.sin(turn) + spot_y * np.cos(turn)
            for share, tone in species.rings:
                canvas.disc(x + side * px * scale * (1 - 0.35 * abs(beat)), y + py * scale, radius * share * scale, tone)
    u, v = (canvas.x - x) / scale, (canvas.y - y) / scale
    body = smooth(1.05, 0.9, (u / 17) ** 2 + ((v - 8) / 92) ** 2)
    canvas.wash(species.body, body)
    canvas.wash(species.stripe, body * (np.sin(v * 0.34) * 0.5 + 0.5) * 0.55)
    canvas.wash(species.vein, smooth(1.05, 0.9, (u / 15) ** 2 + ((v + 84) / 15) ** 2))
    for side in (-1, 1):
        k = np.linspace(0, 1, 24)
        curve = np.stack([x + side * (6 + 70 * k**1.2) * scale, y + (-94 - 70 * k + 18 * k * k) * scale], axis=-1)
        canvas.line(curve, 3.2 * scale, species.antenna)


def plate_lamplight() -> Bytes:
    """Plate 4: the lantern moth before its lamp. Soft glow, near-twin browns, small saturated eye-spots."""
    canvas = Canvas(900, 620, (24, 27, 44), 4)
    distance = np.hypot((canvas.x - 450) / 1.2, canvas.y - 186)
    for start, end, tone, cover in (
        (560, 140, (58, 50, 82), 1.0), (360, 60, (176, 92, 58), 0.8), (190, 0, (255, 214, 130), 0.85),
    ):  # fmt: skip
        canvas.wash(tone, smooth(start, end, distance) * cover)
    _foliage(canvas, 26, (300, 520), ((20, 40), (44, 84), (44, 66)), (90, 120, 86))
    moth(canvas, LANTERN, 450, 335)
    return canvas.render()


def tail_piece() -> Bytes:
    """The tail piece of plate 4: three lantern moths about a small lamp, to be printed with that plate's inks."""
    canvas = Canvas(720, 300, (24, 27, 44), 5)
    distance = np.hypot((canvas.x - 360) / 1.5, canvas.y - 118)
    for start, end, tone, cover in (
        (300, 60, (58, 50, 82), 1.0), (170, 20, (176, 92, 58), 0.8), (70, 0, (255, 214, 130), 0.9),
    ):  # fmt: skip
        canvas.wash(tone, smooth(start, end, distance) * cover)
    _foliage(canvas, 18, (250, 400), ((20, 40), (44, 84), (44, 66)), (90, 120, 86))
    for x, y, scale, beat in ((138, 172, 0.34, 0.2), (360, 176, 0.42, -0.2), (582, 172, 0.34, 0.6)):
        moth(canvas, LANTERN, x, y, scale, beat)
    return canvas.render()


def _foliage(canvas: Canvas, count: int, ring: tuple[float, float], tones: tuple[tuple[int, int], ...], vein: Tone) -> None:
    random = canvas.random
    for _ in range(count):
        angle, radius = random.uniform(0, 2 * np.pi), random.uniform(*ring)
        red, green, blue = (int(random.uniform(*span)) for span in tones)
        canvas.leaf(
            canvas.width / 2 + np.cos(angle) * radius, canvas.height * 0.54 + np.sin(angle) * radius * 0.75,
            angle + random.uniform(-0.5, 0.5), random.uniform(60, 130), random.uniform(10, 22), (red, green, blue), vein,
        )  # fmt: skip


def plate_reeds() -> Bytes:
    """Plate 7: the reed moth at first light, pale and close in value."""
    canvas = Canvas(840, 640, (214, 222, 214), 7)
    height = canvas.y / canvas.height
    canvas.wash((238, 218, 200), smooth(0.75, 0.1, height) * 0.9)
    canvas.glow(610, 130, 330, (252, 240, 206), 0.9)
    canvas.wash((140, 168, 164), smooth(0.62, 1.02, height) * 0.85)
    ripples = smooth(0.03, 0.0, np.abs(np.sin(canvas.y * 0.06 + np.sin(canvas.x * 0.008)) * 0.5))
    canvas.wash((196, 208, 200), ripples * 0.3 * (height > 0.7))
    random = canvas.random
    for _ in range(30):
        x, lean, top = random.uniform(-20, 860), random.uniform(-90, 90), random.uniform(120, 420)
        k = np.linspace(0, 1, 14)
        stem = np.stack([x + lean * k**2, 650 - (650 - top) * k], axis=-1)
        shade = random.uniform(0.5, 1)
        canvas.line(stem, random.uniform(2.5, 6), (int(120 * shade), int(150 * shade), int(98 * shade)), 0.8)
        if random.uniform() < 0.45:
            canvas.line(stem[-3:], 13, (118, 78, 58), 0.95)
    moth(canvas, REED, 420, 330)
    return canvas.render(0.004)


def plate_ink() -> Bytes:
    """Plate 9: the ink moth under stars: deep blues close to black beside one bright teal."""
    canvas = Canvas(900, 640, (10, 14, 30), 9)
    height = canvas.y / canvas.height
    canvas.wash((38, 52, 96), smooth(0.1, 1.0, height) * 0.9)
    canvas.wash((96, 74, 112), smooth(0.72, 1.05, height) * 0.7)
    canvas.glow(700, 120, 250, (120, 140, 176), 0.5, 1.0)
    lit = smooth(55, 53, np.hypot(canvas.x - 700, canvas.y - 120)) * smooth(47, 51, np.hypot(canvas.x - 724, canvas.y - 106))
    canvas.wash((232, 230, 210), lit)
    random = canvas.random
    for _ in range(140):
        canvas.disc(random.uniform(0, 900), random.uniform(0, 460), random.uniform(0.5, 1.6), (216, 222, 232), 0.8)
    for layer, tone in enumerate(((26, 40, 66), (18, 28, 50), (10, 16, 32))):
        ridge = 500 + layer * 42 + 26 * np.sin(canvas.x * (0.006 + layer * 0.003) + layer * 2) + 9 * np.sin(canvas.x * 0.031)
        canvas.wash(tone, smooth(-2, 2, canvas.y - ridge))
    moth(canvas, INK, 430, 320)
    return canvas.render(0.004)


BEATS = (-0.55, -0.2, 0.2, 0.6, 0.9, 0.6, 0.2, -0.2)


def wing_beat_sheet() -> Bytes:
    """Eight frames of a wing beat by lamplight, four by two, with a clear ground: (h, w, 4) uint8."""
    rows = []
    for start in (0, 4):
        frames = []
        for beat in BEATS[start : start + 4]:
            canvas = Canvas(240, 220, (0, 0, 0), 11)
            moth(canvas, LANTERN, 120, 122, 0.36, beat)
            shown = canvas.render(0.0)
            cover = Canvas(240, 220, (0, 0, 0), 11)
            white = _whitened(LANTERN)
            moth(cover, white, 120, 122, 0.36, beat)
            alpha = np.where(cover.pixels.max(axis=-1) > 0.35, 255, 0).astype(np.uint8)
            frames.append(np.dstack([shown, alpha]))
        rows.append(np.hstack(frames))
    return np.vstack(rows)


def _whitened(species: Species) -> Species:
    white: Tone = (255, 255, 255)
    wings = [Wing(w.angle, w.length, w.breadth, white, white, (), w.scallop) for w in (species.fore, species.hind)]
    return Species(wings[0], wings[1], species.spots, tuple((s, white) for s, _ in species.rings), white, white, white, white)


TRAPS: tuple[tuple[str, Tone], ...] = (
    ("Orchard", (196, 84, 48)), ("Mill race", (46, 120, 142)), ("Old kiln", (228, 172, 70)), ("Fen edge", (104, 132, 78)),
    ("Chapel wall", (120, 84, 128)),
)  # fmt: skip


def trap_chart() -> Bytes:
    """Counts per month and trap as stacked bars: flat color, soft edges."""
    canvas = Canvas(960, 600, (246, 242, 232), 12)
    months, base, top = 9, 520.0, 70.0
    for level in range(6):
        y = base - (base - top) * level / 5
        canvas.line(np.array([[80.0, y], [910.0, y]]), 1.2 if level else 2.4, (120, 112, 100), 0.45 if level else 0.9)
    random = np.random.default_rng(21)
    for month in range(months):
        x = 104 + month * 90.0
        floor = base
        season = np.exp(-(((month - 4.4) / 2.3) ** 2))
        for place, (_, tone) in enumerate(TRAPS):
            height = (16 + 92 * season * (0.6 + 0.5 * np.sin(place * 1.7 + month * 0.6) ** 2)) * random.uniform(0.75, 1.05)
            _bar(canvas, x, floor - height, x + 58, floor, tone)
            floor -= height
    for place, (_, tone) in enumerate(TRAPS):
        _bar(canvas, 104 + place * 165.0, 552, 128 + place * 165.0, 576, tone)
        canvas.line(np.array([[138 + place * 165.0, 564.0], [232 + place * 165.0, 564.0]]), 5, (92, 84, 76), 0.55)
    return canvas.render(0.0)


def _bar(canvas: Canvas, left: float, top: float, right: float, bottom: float, tone: Tone) -> None:
    inside: Floats = smooth(left - 0.6, left + 0.6, canvas.x) * smooth(right + 0.6, right - 0.6, canvas.x)
    canvas.wash(tone, inside * smooth(top - 0.6, top + 0.6, canvas.y) * smooth(bottom + 0.6, bottom - 0.6, canvas.y))
