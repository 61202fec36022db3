"""Readers take steps in proportion to what they are given: each text at n and at 2n, counted (see `tests/counting.py`).

A reader that looks again from the beginning for every piece takes four times the steps for twice the text; one that follows every
reference anew takes more than can be counted.
"""

from collections.abc import Callable

import pytest

from huvren.core.errors import HuvrenError
from huvren.core.formats import FORMATS
from tests.counting import steps_of

SHEETS: dict[str, Callable[[int], str]] = {
    "braces": lambda n: "{" * n,
    "brackets": lambda n: "(" * n,
    "open blocks": lambda n: ":root{--a:#fff;" + "{" * n,
    "comments that never end": lambda n: "/*" * n,
    "line comments": lambda n: "//" * n,
    "quotes": lambda n: '"' * n,
    "escapes": lambda n: "\\" * n,
    "words twice as long each": lambda n: (
        ":root{" + "".join(f"--v{k}:var(--v{k + 1}) var(--v{k + 1});" for k in range(n // 50)) + "}"
    ),
    "a chain of words": lambda n: ":root{" + "".join(f"--v{k}:var(--v{k + 1});" for k in range(n // 10)) + f"--v{n // 10}:#fff}}",
    "nested words": lambda n: ":root{--a:" + "var(" * (n // 4) + ")" * (n // 4) + "}",
    "nested maps": lambda n: "$m: " + "(a: " * (n // 4) + "#fff" + ")" * (n // 4) + ";",
    "nested sums": lambda n: ":root{--a:" + "calc(" * (n // 5) + "1" + ")" * (n // 5) + "}",
    "names without values": lambda n: "$a:" * (n // 3),
    "one name over and over": lambda n: "--a:#fff;" * (n // 9),
    "at signs": lambda n: "@" * n,
    "interpolations": lambda n: "#{" * (n // 2),
    "rules": lambda n: "a{color:#abc}" * (n // 13),
    "many names": lambda n: ":root{" + "".join(f"--c{k}:#{k:06x};" for k in range(n // 14)) + "}",
}


def _svg(body: str) -> str:
    return f'<svg xmlns="http://www.w3.org/2000/svg">{body}</svg>'


DRAWINGS: dict[str, Callable[[int], str]] = {
    "paths": lambda n: _svg("<path fill='#111'/>" * (n // 19)),
    "many colors": lambda n: _svg("".join(f"<path fill='#{k:06x}'/>" for k in range(n // 22))),
    "a style": lambda n: _svg(f"<path style='{'fill:red;' * (n // 9)}'/>"),
    "brackets in a fill": lambda n: _svg(f"<path fill='{'(' * n}'/>"),
    "rules for everything": lambda n: _svg(f"<style>{'path{fill:#123}' * (n // 15)}</style><path/><path/>"),
    "blocks that never end": lambda n: _svg(f"<style>{'a{' * (n // 2)}</style>"),
    "groups in groups": lambda n: _svg("<g>" * (n // 40) + "<path fill='#222'/>" + "</g>" * (n // 40)),
    "gradients": lambda n: _svg(
        "".join(f"<linearGradient id='g{k}'><stop stop-color='#{k:06x}'/></linearGradient>" for k in range(n // 70))
    ),
    "gradients that use the next": lambda n: _svg(
        "".join(f"<linearGradient id='g{k}' href='#g{k + 1}'/>" for k in range(n // 40)) + "<path fill='url(#g0)'/>"
    ),
}
TABLES: dict[str, Callable[[int], str]] = {
    "rows": lambda n: "name,hex\n" + "".join(f"c{k},#{k:06x}\n" for k in range(n // 14)),
    "empty cells": lambda n: "name,hex\n" + "," * n,
    "quotes": lambda n: "name,hex\n" + '"' * n,
    "lines": lambda n: "\n" * n,
    "rows without headings": lambda n: "".join(f"c{k};{k % 256};0;0\n" for k in range(n // 12)),
    "one long heading": lambda n: "hex," + "(" * n + "\n#112233,x\n",
    "whole numbers": lambda n: "name,color\n" + "".join(f"c{k},{k * 65536 % 16777216}\n" for k in range(n // 12)),
    "one long number": lambda n: "name,color\na,16711680\nb," + "9" * n,
}
LISTS: dict[str, Callable[[int], str]] = {
    "codes": lambda n: "".join(f"{k:06x}\n" for k in range(n // 7)),
    "one code": lambda n: "ff8800\n" * (n // 7),
    "groups": lambda n: "GIMP Palette\n" + "".join(f"# group: g{k}\n{k % 256} 0 0 c\n" for k in range(n // 30)),
}
CASES = [
    *(("css", kind, make) for kind, make in SHEETS.items()),
    *(("drawing", kind, make) for kind, make in DRAWINGS.items()),
    *(("csv", kind, make) for kind, make in TABLES.items()),
    ("hex", "codes", LISTS["codes"]), ("hex", "one code", LISTS["one code"]), ("gpl", "groups", LISTS["groups"]),
]  # fmt: skip
NOISE = 500


@pytest.mark.parametrize(("reader", "kind", "make"), CASES, ids=[f"{reader}: {kind}" for reader, kind, _ in CASES])
def test_twice_the_file_takes_twice_the_steps(reader: str, kind: str, make: Callable[[int], str]) -> None:
    def steps(size: int) -> int:
        data = make(size).encode()
        return steps_of(lambda: FORMATS[reader].taken(data), ignoring=HuvrenError)

    steps(1_000)
    once, twice = steps(8_000), steps(16_000)
    assert twice <= 2.1 * once + NOISE, kind
