"""Chart style: a Matplotlib style sheet whose line colors are the palette."""

import ast
import warnings

from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadColor, BadFile
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps, decode_text, is_probably_text
from huvren.core.formats.reading_limits import ReadingLimits
from huvren.core.formats.swatch_list import SwatchList

CYCLE = "axes.prop_cycle"
LETTERS = {
    "b": (0, 0, 1), "g": (0, 0.5, 0), "r": (1, 0, 0), "c": (0, 0.75, 0.75), "m": (0.75, 0, 0.75), "y": (0.75, 0.75, 0),
    "k": (0, 0, 0), "w": (1, 1, 1),
}  # fmt: skip
"""Colors that such sheets may name by one letter."""


def sniff(data: bytes) -> float:
    return 0.9 if CYCLE.encode() in data[:200_000] and is_probably_text(data) else 0.0


def _color(word: str) -> Color | None:
    if word in LETTERS:
        return Color("srgb", LETTERS[word])
    try:
        share = float(word)
        # A lone number is a gray; six digits are a code.
        if 0 <= share <= 1 and len(word) not in (3, 6, 8):
            return Color("srgb", (share,) * 3)
    except ValueError:
        pass
    try:
        return parse_color(word)
    except BadColor:
        return None


def _words(value: str, line: int) -> list[str]:
    """The texts of the lists in `cycler('color', […])`, in order. Nothing is run."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", SyntaxWarning)
            tree = ast.parse(value.strip(), mode="eval")
        lists = [node for node in ast.walk(tree) if isinstance(node, ast.List | ast.Tuple)]
    except (SyntaxError, ValueError, RecursionError, MemoryError) as error:
        raise BadFile(f"Line {line}: the list of colors cannot be read.") from error
    return [str(one.value) for found in lists for one in found.elts if isinstance(one, ast.Constant) and isinstance(one.value, str)]


def read(data: bytes) -> Found:
    """The colors of its lines, in order; comments such as `# e85421  Eye-spot`, as we write them, name them."""
    lines = decode_text(data).split("\n")
    made, names, unknown, title = SwatchList(), [], [], ""
    for number, line in enumerate(lines, start=1):
        if line.startswith("# "):
            if line[8:10] == "  " and len(line[2:8].strip()) == 6:
                names.append((line[2:8], line[10:]))
            elif number == 1:
                title = line[2:]
        key, _, value = line.partition(":")
        if key.strip() != CYCLE:
            continue
        words = _words(value, number)
        said = names if [code for code, _ in names] == words else [("", "")] * len(words)
        for word, (_, name) in zip(words, said, strict=True):
            color = _color(word)
            if color is None:
                unknown.append(word[:40])
            else:
                made.add(color, name)
    notes = (f"Not read as colors: {', '.join(unknown[:12])}.",) if unknown else ()
    return Found(made.palette(title, example=f"“{CYCLE}” lists none."), notes)


def write(document: Document) -> bytes:
    """`axes.prop_cycle` with hex codes without `#`, which would begin a comment; the names stand above as comments."""
    swatches = document.palette.swatches
    lines = [f"# {document.palette.name}"]
    lines += [f"# {swatch.color.hex[1:7]}  {swatch.name}" for swatch in swatches]
    codes = ", ".join(f"'{swatch.color.hex[1:7]}'" for swatch in swatches)
    return ("\n".join([*lines, f"{CYCLE}: cycler('color', [{codes}])"]) + "\n").encode()


FORMATS.register(
    Format(
        "chart-style", (".mplstyle",), "chart style", "chart", "text/plain; charset=utf-8",
        Keeps(title=True, names=True), "Series colors for charts drawn in Python.", is_text=True, is_partial=True,
        limits=ReadingLimits(400_000), sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
