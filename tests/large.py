"""The largest and most awkward inputs that each reader may be given: every one is answered within a second and 256 MB.

`python -m tests.large` runs each in a process of its own and gives the table of times and memory.
"""

import io
import json
import multiprocessing
import resource
import struct
import sys
import time
import zipfile
import zlib
from collections.abc import Callable

from huvren.core.color.value import Color
from huvren.core.errors import HuvrenError
from huvren.core.formats import FORMATS
from huvren.core.formats.gradients import ggr
from huvren.core.formats.text_lists import gpl, pal_text
from huvren.core.palette.naming import suggest_names

MB = 1_000_000
GPL, GGR, PAL = f"{gpl.FIRST_LINE}\n".encode(), f"{ggr.FIRST_LINE}\n".encode(), f"{pal_text.FIRST_LINE}\r\n".encode()


def _ase(blocks: int, group: bool) -> bytes:
    name = struct.pack(">H", 2) + b"\0a\0\0"
    color = name + b"RGB " + struct.pack(">3fH", 1, 0.5, 0, 2)
    one = struct.pack(">HI", 0xC001, len(name)) + name + struct.pack(">HI", 1, len(color)) + color + struct.pack(">HI", 0xC002, 0)
    two = struct.pack(">HI", 1, len(color)) + color
    return b"ASEF" + struct.pack(">HHI", 1, 0, blocks * (3 if group else 1)) + (one if group else two) * blocks


def _aco(count: int) -> bytes:
    return struct.pack(">HH", 1, min(count, 65535)) + struct.pack(">5H", 0, 1, 2, 3, 0) * count


def _png(side: int, depth: int, kind: int, rest: bytes = b"") -> bytes:
    def chunk(name: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))

    machine = zlib.compressobj(9)
    row = bytes(1 + (side * depth * (4 if kind == 6 else 1) + 7) // 8)
    pixels = b"".join(machine.compress(row) for _ in range(side)) + machine.flush()
    table = chunk(b"PLTE", bytes(range(6))) if kind == 3 else b""
    head = struct.pack(">IIBBBBB", side, side, depth, kind, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + table + rest + chunk(b"IDAT", pixels) + chunk(b"IEND", b"")


def _gif(blocks: int) -> bytes:
    frame = b"\x2c" + struct.pack("<HHHHB", 0, 0, 1, 1, 0x80) + bytes(6) + b"\x02\x02\x44\x01\0"
    return b"GIF89a" + struct.pack("<HHBBB", 9999, 9999, 0x80, 0, 0) + bytes(range(6)) + frame * blocks + b";"


def _office(text: str) -> bytes:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/theme/theme1.xml", text)
    return held.getvalue()


def _json(count: int, entry: object) -> bytes:
    return json.dumps({"format": "huvren-palette", "version": 4, "name": "L", "swatches": [entry] * count}).encode()


SWATCH = {"color": {"space": "srgb", "coords": [0.1, 0.2, 0.3]}}
INPUTS: dict[str, dict[str, Callable[[], bytes]]] = {
    "gpl": {
        "80 MB of rows": lambda: GPL + b"1 2 3\ta\n" * 9 * MB,
        "rows to the limit": lambda: GPL + b"1 2 3\ta\n" * 99_000,
        "one name of 10 MB": lambda: GPL + b"1 2 3 " + b" a" * 5 * MB,
        "comments alone": lambda: GPL + b"#\n" * 5 * MB,
        "groups alone": lambda: GPL + b"# group: g\n1 2 3 a\n" * 90_000,
    },
    "json": {
        "as many swatches as there may be": lambda: _json(100_000, SWATCH),
        "twice as many": lambda: _json(200_001, SWATCH),
        "80 MB of brackets": lambda: b'{"format": "huvren-palette", "swatches": ' + b"[" * 79 * MB,
        "80 MB of numbers": lambda: b'{"format": "huvren-palette", "swatches": [' + b"1," * 39 * MB,
        "a number of many digits": lambda: b'{"format": "huvren-palette", "version": ' + b"9" * 5000 + b', "swatches": []}',
    },
    "ase": {
        "80 MB of colors": lambda: _ase(1_900_000, False),
        "colors to the limit": lambda: _ase(99_000, False),
        "groups to the limit": lambda: _ase(90_000, True),
        "a count that lies": lambda: b"ASEF\0\1\0\0\xff\xff\xff\xff",
    },
    "aco": {"80 MB": lambda: _aco(7_900_000), "colors to the limit": lambda: _aco(65_535)},
    "act": {"80 MB": lambda: bytes(80 * MB)},
    "pal-text": {
        "80 MB of rows": lambda: PAL + b"0100\r\n9\r\n" + b"1 2 3\r\n" * 11 * MB,
        "rows to the limit": lambda: PAL + b"0100\r\n99000\r\n" + b"1 2 3\r\n" * 99_000,
    },
    "pal-riff": {
        "80 MB": lambda: (
            b"RIFF" + struct.pack("<I", 79 * MB) + b"PAL data" + struct.pack("<IHH", 79 * MB, 0x300, 65535) + bytes(79 * MB)
        ),
        "80 MB of chunks": lambda: b"RIFF" + struct.pack("<I", 79 * MB) + b"PAL " + b"note\0\0\0\0" * 9 * MB,
    },
    "hex": {
        "80 MB": lambda: b"aabbcc\n" * 11 * MB,
        "to the limit": lambda: b"aabbccdd\n" * 99_000,
        "one line": lambda: b"a" * 80 * MB,
    },
    "csv": {
        "80 MB of rows": lambda: b"name,hex\n" + b"a,#112233\n" * 7 * MB,
        "to the limit": lambda: b"name,hex\n" + b"a,#112233\n" * 99_000,
        "numbers": lambda: b"name,r,g,b\n" + b"a,1,2,3\n" * 99_000,
        "an open quote": lambda: b'name,hex\n"' + b"a,\n" * 20 * MB,
        "bad rows": lambda: b"name,hex\n" + b"a,b\n" * 1 * MB,
        "wide": lambda: b"name,hex" + b",a" * 4 * MB,
    },
    "css": {
        "80 MB": lambda: b":root{" + b"--a:#112233;" * 6 * MB + b"}",
        "plain lines": lambda: b":root {\n" + b"  --a: #112233;\n" * 90_000 + b"}\n",
        "minified": lambda: b":root{" + b"--a:#112233;" * 40_000 + b"}",
        "worked out": lambda: b":root{--b:red;" + b"--a:var(--b);" * 30_000 + b"}",
        "brackets": lambda: b"{" * 700_000,
        "colons": lambda: b"$a:" * 200_000,
        "nothing": lambda: b"--a:b;" * 100_000,
        "mixtures": lambda: b":root{" + b"--a:color-mix(in lab,red,blue);" * 3_000 + b"}",
    },
    "drawing": {
        "parts to the limit": lambda: b"<svg>" + b"<path fill='#112233'/>" * 100_000 + b"</svg>",
        "700,000 parts": lambda: b"<svg>" + b"<path fill='#112233'/>" * 700_000 + b"</svg>",
        "rules": lambda: b"<svg><style>" + b".a{fill:red}" * 4_000 + b"</style>" + b"<path class='a'/>" * 20_000 + b"</svg>",
        "placed rules": lambda: (
            b"<svg><style>" + b"g .a{fill:red}" * 100 + b"</style><g>" + b"<path class='a'/>" * 19_000 + b"</g></svg>"
        ),
        "one attribute of 19 MB": lambda: b"<svg><path d='" + b"M0 0" * 4_700_000 + b"' fill='red'/></svg>",
    },
    "document-theme": {
        "80 MB unpacked": lambda: _office("<a:theme xmlns:a='x'>" + "<a:x/>" * 13 * MB + "</a:theme>"),
        "many colors": lambda: _office(
            "<a:theme xmlns:a='x'><a:clrScheme>" + "<a:dk1><a:srgbClr val='112233'/></a:dk1>" * 20_000 + "</a:clrScheme></a:theme>"
        ),
    },
    "color-table": {
        "10000² of one bit": lambda: _png(10_000, 1, 3),
        "a GIF of a million frames": lambda: _gif(1_000_000),
        "chunks alone": lambda: b"\x89PNG\r\n\x1a\n" + bytes(12) * 6 * MB,
        "blocks alone": lambda: b"GIF89a" + bytes(7) + b"!\xfe" + b"\1a" * 35 * MB,
    },
    "own-colors": {"10000² of one bit": lambda: _png(10_000, 1, 0), "2000² of four channels": lambda: _png(2_000, 8, 6)},
    "strip-png": {"10000² of one bit": lambda: _png(10_000, 1, 0), "2000² of four channels": lambda: _png(2_000, 8, 6)},
    "chart-style": {
        "a long list": lambda: b"axes.prop_cycle: cycler('color', [" + b"'112233', " * 90_000 + b"])\n",
        "brackets": lambda: b"axes.prop_cycle: " + b"(" * 1_900_000,
    },
    "cpt": {
        "slices to the limit": lambda: (
            b"# COLOR_MODEL = RGB\n" + b"".join(b"%d 1/2/3 %d 4/5/6\n" % (n, n + 1) for n in range(45_000))
        ),
        "80 MB": lambda: b"# COLOR_MODEL = RGB\n" + b"0 1/2/3 1 4/5/6\n" * 5 * MB,
    },
    "ggr": {"80 MB": lambda: GGR + b"Name: a\n9\n" + b"0 0.5 1 0 0 0 1 1 1 1 1 0 0\n" * 2_800_000},
    "css-gradient": {
        "many": lambda: b"a{background:linear-gradient(red,blue)}" * 40_000,
        "open": lambda: b"linear-gradient(" * 100_000,
    },
    "text-scan": {
        "80 MB": lambda: b"word #112233 " * 6 * MB,
        "to the limit": lambda: b"word #112233\n" * 19_000,
        "numbers": lambda: b"1 2 3 x " * 80_000,
        "prose": lambda: b"word after word here\n" * 33_000,
    },
}


def measured(reader: str, name: str) -> tuple[float, float, str]:
    """Seconds, megabytes above those before, and what came of it, in this process."""
    entry, data = FORMATS[reader], INPUTS[reader][name]()
    suggest_names([Color.from_bytes(n % 256, n // 256 % 256, 7) for n in range(40_000)])
    # What reading loads is there in a server before; the input itself is not the reader's either.
    for seed in (b"<svg><path fill='red'/></svg>", b":root{--a:red}"):
        FORMATS["drawing" if seed[:1] == b"<" else "css"].taken(seed)
    before, begun = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, time.perf_counter()
    try:
        entry.sniff(data)
        count = sum(len(found.palette.swatches) for found in entry.taken(data).values())
        said = f"{count:,} swatches"
    except HuvrenError as problem:
        said = str(problem)
    took = time.perf_counter() - begun
    return took, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024 - before, said


def apart(reader: str, name: str) -> tuple[float, float, str]:
    """As `measured`, in a process of its own."""
    with multiprocessing.get_context("spawn").Pool(1) as pool:
        return pool.apply(measured, (reader, name))


def main() -> int:
    worst = 0.0
    for reader, inputs in INPUTS.items():
        for name in inputs:
            took, memory, said = apart(reader, name)
            worst = max(worst, took)
            flag = "  <<<" if took > 1 or memory > 256 else ""
            print(f"{reader:<15} {name:<34} {took:6.2f} s {memory:5.0f} MB  {said[:70]}{flag}", flush=True)
    print(f"slowest {worst:.2f} s")
    return 0


if __name__ == "__main__":
    sys.exit(main())
