"""Texts that are made to hurt whoever reads them, at any length, and every entry that reads a text."""

from collections.abc import Callable

from huvren.core.color.notation import parse_color
from huvren.core.color.typed import parse_named_colors, understand_colors
from huvren.core.json_text import is_storable, read_json
from huvren.core.palette.operations.add import AddSwatches
from huvren.core.palette.values import Palette, clean_name, clean_tags

HOSTILE: dict[str, Callable[[int], str]] = {
    "blanks in a function": lambda n: "rgb(" + " " * n + "x",
    "blanks in a closed function": lambda n: "rgb(" + " " * n + ")",
    "letters": lambda n: "a" * n,
    "letters and a bracket": lambda n: "a" * n + "(",
    "letters, a bracket, letters": lambda n: "a" * (n // 2) + "(" + "b" * (n // 2),
    "open functions": lambda n: "rgb(" * (n // 4),
    "brackets": lambda n: "(" * (n // 2) + ")" * (n // 2),
    "digits": lambda n: "9" * n,
    "digits in a function": lambda n: "rgb(" + "9" * n + " 0 0)",
    "fractions": lambda n: "rgb(0." + "9" * n + " 0 0)",
    "exponents": lambda n: "rgb(1e" + "9" * n + " 0 0)",
    "signs": lambda n: "+-" * (n // 2),
    "hashes": lambda n: "#" * n,
    "hex digits": lambda n: "#" + "a" * n,
    "slashes": lambda n: "rgb(1 2 3" + "/" * n + ")",
    "commas": lambda n: "," * n,
    "lines": lambda n: "\n" * n,
    "blacks": lambda n: "K" * n,
    "points": lambda n: "K1" + "." * n,
    "names in a line": lambda n: "red" + " lamp" * (n // 5) + " #fff",
    "words in lines": lambda n: "lamp\n" * (n // 5),
    "wide letters": lambda n: "ß" * n,
    "marks that join": lambda n: "a" + "\u0301" * n,
}
READERS: dict[str, Callable[[str], object]] = {
    "one color": parse_color, "named colors": parse_named_colors, "typed colors": understand_colors,
    "added": lambda text: AddSwatches.model_construct(text=text).apply(Palette("x")), "a name": clean_name,
    "tags": lambda text: clean_tags([text]), "storable": is_storable,
    "JSON": lambda text: read_json(f'["{text}"]'.encode()),
}  # fmt: skip
