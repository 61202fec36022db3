"""Damaged and strange files for every reader, seeded and bounded: `./run fuzz [--reader R] [--inputs N]`.

Inputs are sound files of each format, changed byte by byte and by what they are made of: numbers, lengths, marks, lines, pieces
spliced in and doubled, other encodings. Each reader runs in a process of its own, with its time and memory measured. Only the typed
errors may leave a reader; whatever else does is written down as a small file that a test reads from then on.
"""

import argparse
import gzip
import hashlib
import io
import multiprocessing
import random
import resource
import sys
import time
import traceback
import zipfile
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

import numpy as np
from PIL import Image

from huvren.core.errors import HuvrenError
from huvren.core.formats import FORMATS, Document, Format
from huvren.core.ramp.starting import STARTING
from huvren.demo.library import typed_palettes

CRASHES = Path(__file__).parent / "core" / "formats" / "crashes"
STRANGE = (
    b"0", b"-1", b"99999999999999999999", b"1e400", b"nan", "²".encode(), "١".encode(), b"", b"0x",
    b"'", b'"', b"\x00", b"\xff", b"{",
    b"}", b"<", b"&amp;", b"[]", b"null", b"true", b"Infinity", b"/*", b"*/", b";", b"\r", b"\r\n", b"\xe2\x80\xa8", b"<!DOCTYPE x>",
)  # fmt: skip
LENGTHS = (b"\xff\xff\xff\xff", b"\x00\x00\x00\x00", b"\x7f\xff\xff\xff", b"\x00\x00\x00\x01", b"\xff\xff", b"\x00\x01")
DRAWING = b"""<svg xmlns="http://www.w3.org/2000/svg"><style>.a{fill:#f00}#b,rect{stroke:blue}</style><linearGradient id="g">
<stop offset="0" stop-color="#fff"/><stop offset="50%" style="stop-color:red;stop-opacity:.5"/></linearGradient>
<rect class="a" id="b" stroke="rgb(1,2,3)" fill="url(#g)"/></svg>"""
SCANNED = b"Lamp #ffcc66, ink 27 26 29; rgb(1 2 3) 0.1 0.2 0.3 tomato\n- dusk: oklch(0.4 0.1 270)\n0xff00ff00 cmyk(0 10 20 30)\n" * 2
THEME = b"""<a:theme xmlns:a="x"><a:clrScheme name="T"><a:dk1><a:sysClr lastClr="000000"/></a:dk1><a:accent1><a:srgbClr val="FF0000"/>
</a:accent1></a:clrScheme></a:theme>"""


def _pictures() -> list[bytes]:
    image = Image.fromarray(np.arange(64, dtype=np.uint8).reshape(8, 8) % 5, "P")
    image.putpalette([1, 2, 3, 40, 50, 60, 200, 1, 1, 9, 9, 9, 0, 255, 0])
    made = []
    for kind in ("PNG", "GIF", "WEBP", "JPEG"):
        held = io.BytesIO()
        (image if kind in ("PNG", "GIF") else image.convert("RGB")).save(held, kind)
        made.append(held.getvalue())
    return made


def _document() -> bytes:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        archive.writestr("xl/theme/theme1.xml", THEME)
        archive.writestr("xl/styles.xml", "<s><indexedColors>" + '<rgbColor rgb="00FF0000"/>' * 12 + "</indexedColors></s>")
    return held.getvalue()


SHEET = b"""@property --eye { initial-value: #e85421; } :root{--ink:#1b1a1d;--a:var(--ink, red);
  --b:color-mix(in oklch longer hue, red 30%, var(--a));--c:rgb(from #369 calc(r * 2) g b / 50%)}
@media print{.a{--d:hsl(120 50% 50%)}}
  $m: (eye: #e85421, "b c": (d: $ink)) !default;
// a line $x: #fff;
@lamp: rgba(#fc3, .5); .n { .o { --\\31 x: light-dark(#fff, #000) /* group: G */; } }"""
STYLED = b"""<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="x"><style>g > .a:not(.b), [d='x'] {fill:var(--i, #111) !important}
@media screen{*{stroke-opacity:50%}}</style><g color="red" opacity=".5" style="--i:currentColor"><path class="a" d="x"/></g>
<radialGradient id="g" xlink:href="#h"/><linearGradient id="h"><stop stop-color="color(display-p3 1 0 0)"/></linearGradient>
<pattern id="p"><circle fill="#123"/></pattern><text fill="url(#g) #fff">a<tspan stroke="hsl(1 2% 3%)">b</tspan></text></svg>"""
OTHERS = {
    "css": [SHEET],
    "drawing": [DRAWING, STYLED, gzip.compress(STYLED)],
    "document-theme": [_document()],
    "text-scan": [SCANNED],
}


@cache
def seeds(format_id: str) -> tuple[bytes, ...]:
    """Sound files of a format: what we write ourselves, and pictures for what reads them."""
    entry = FORMATS[format_id]
    made = list(OTHERS.get(format_id, []))
    if entry.is_of_palettes:
        made += [entry.written(Document(palette)) for palette in typed_palettes() if palette.swatches]
    elif entry.write and entry.ramp:
        made += [entry.written(Document(typed_palettes()[0], ramps=((start.name, start.plan),))) for start in list(STARTING)[:3]]
    if format_id in ("color-table", "own-colors", "strip-png"):
        made += _pictures()
    return tuple(made)


def changed(data: bytes, dice: random.Random) -> bytes:
    """One file with a few changes."""
    made = bytearray(data)
    for _ in range(dice.randint(1, 6)):
        size = len(made)
        if size == 0:
            return b""
        at = dice.randrange(size)
        kind = dice.randrange(10)
        if kind == 0:
            made[at] = dice.randrange(256)
        elif kind == 1:
            del made[at : at + dice.randint(1, 20)]
        elif kind == 2:
            piece = dice.randrange(size)
            made[at:at] = made[piece : piece + dice.randint(1, 80)]
        elif kind == 3:
            made[at : at + dice.randint(0, 4)] = dice.choice(STRANGE)
        elif kind == 4:
            made = made[:at]
        elif kind == 5:
            length = dice.choice(LENGTHS)
            made[at : at + len(length)] = length
        elif kind == 6:
            lines = bytes(made).split(b"\n")
            dice.shuffle(lines)
            made = bytearray(b"\n".join(lines))
        elif kind == 7:
            made[at : at + 1] = bytes([made[at]]) * dice.randint(1, 400)
        elif kind == 8:
            made = made + made[at:]
        else:
            text = bytes(made).decode("latin-1")
            made = bytearray(text.encode(dice.choice(("utf-16", "utf-8", "utf-16-be", "utf-32"))))
    return bytes(made)


@dataclass
class Outcome:
    """What became of the inputs of one reader. crashes : by where they happened, the sentence and the input."""

    inputs: int = 0
    seconds: float = 0.0
    slowest: float = 0.0
    megabytes: float = 0.0
    crashes: dict[str, tuple[str, bytes]] = field(default_factory=dict)


def feed(entry: Format, data: bytes, outcome: Outcome) -> None:
    """Sniff and read one input."""
    assert entry.read
    for call in (entry.sniff, entry.read):
        begun = time.perf_counter()
        try:
            call(data)
        except HuvrenError:
            pass
        except Exception as error:
            last = traceback.extract_tb(error.__traceback__)[-1]
            where = f"{call.__name__}: {type(error).__name__} in {Path(last.filename).name}, line {last.lineno}"
            outcome.crashes.setdefault(where, (str(error), data))
        outcome.slowest = max(outcome.slowest, time.perf_counter() - begun)


def fuzz(format_id: str, inputs: int, seed: int = 0) -> Outcome:
    """So many inputs for one reader; the same for the same seed."""
    outcome, dice, begun = Outcome(), random.Random(f"{format_id} {seed}"), time.perf_counter()
    for _ in range(inputs):
        feed(FORMATS[format_id], changed(dice.choice(seeds(format_id)), dice), outcome)
        outcome.inputs += 1
    outcome.seconds = time.perf_counter() - begun
    outcome.megabytes = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return outcome


def readers() -> list[str]:
    return [entry.id for entry in FORMATS if entry.read and seeds(entry.id)]


def main() -> int:
    parser = argparse.ArgumentParser(prog="./run fuzz", description="Damaged and strange files for every reader.")
    parser.add_argument("--reader", action="append", choices=readers(), help="this one alone; may be given again")
    parser.add_argument("--inputs", type=int, default=10_000, help="for each reader")
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args()
    print(f"{'reader':<16} {'inputs':>8} {'seconds':>8} {'slowest':>9} {'memory':>8}  crashes")
    failed = False
    for reader in options.reader or readers():
        with multiprocessing.get_context("spawn").Pool(1) as pool:
            outcome = pool.apply(fuzz, (reader, options.inputs, options.seed))
        memory, slowest = f"{outcome.megabytes:.0f} MB", f"{outcome.slowest * 1e3:.0f} ms"
        print(
            f"{reader:<16} {outcome.inputs:>8,} {outcome.seconds:>8.1f} {slowest:>9} {memory:>8}  {len(outcome.crashes)}", flush=True
        )
        for where, (words, data) in outcome.crashes.items():
            failed = True
            CRASHES.mkdir(exist_ok=True)
            path = CRASHES / f"{reader}-{hashlib.sha256(data).hexdigest()[:10]}.bin"
            path.write_bytes(data)
            print(f"  {where}: {words[:100]} → {path.name}")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
