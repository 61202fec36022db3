"""CSS custom properties; also reads the variables of SCSS and LESS."""

import re

from huvren.core.color.notation import format_css, parse_color
from huvren.core.errors import BadColor, BadFile
from huvren.core.formats import FORMATS, Document, Format, Found, Keeps, Option, SwatchList, decode_text, is_probably_text, sections
from huvren.core.formats.gradient_css import gradients_in

NOTATION = Option("notation", "written as", (("hex", "hex codes"), ("rgb", "rgb()"), ("hsl", "hsl()"), ("oklch", "oklch()")))
_LINE = re.compile(
    r"/\*\s*(?P<group>group:.*?)\s*\*/|"
    # Possessive, so that a value without an end is given up at once.
    r"(?P<mark>(?<![\w-])--|\$|@)(?P<slug>[\w-]++)\s*+:\s*+(?P<value>[^;{}\n]++)(?:;|(?=\s*+\}))"
    r"(?:[ \t]*+(?:/\*(?!\s*group:)\s*(?P<block>.*?)\s*\*/|//[ \t]*(?P<line>[^\n]*)))?"
)


def sniff(data: bytes) -> float:
    if not is_probably_text(data):
        return 0.0
    return 0.7 if any(match["mark"] for match in _LINE.finditer(decode_text(data[:20_000]))) else 0.0


def read(data: bytes) -> Found:
    """Every variable whose value is a color; a comment behind it is its name, `/* group: … */` its group."""
    made, others = SwatchList(), 0
    for match in _LINE.finditer(decode_text(data)):
        if match["group"] is not None:
            made.open_group(match["group"][6:].strip() or None)
            continue
        try:
            color = parse_color(match["value"])
        except BadColor:
            others += 1
            continue
        said = (match["block"] or match["line"] or "").strip()
        made.add(color, said or match["slug"].replace("-", " ").replace("_", " ").strip().capitalize())
    if not made.swatches:
        raise BadFile("None of its variables is a color. One such as “--eye-spot: #e85421;” was expected.")
    notes = [f"{others} variables that hold no color were left out."] if others else []
    found, said = gradients_in(decode_text(data))
    for name, plan in found:
        made.add_ramp(plan, name)
    return Found(made.palette(), (*notes, *said, *made.said()))


def slug(name: str, taken: dict[str, int]) -> str:
    """Letters, digits and hyphens; a number is added where the name is taken. taken : by slug, the number to try next."""
    plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "color"
    if plain[0].isdigit():
        plain = f"color-{plain}"
    wanted, number = plain, taken.get(plain, 2)
    while wanted in taken:
        wanted, number = f"{plain}-{number}", number + 1
    taken[plain] = number
    taken.setdefault(wanted, 2)
    return wanted


def write(document: Document) -> bytes:
    """One `:root` rule; the name as it was follows in a comment."""
    notation = WRITER.option(document, "notation")
    lines = [":root {"]
    taken: dict[str, int] = {}
    for place, (group, run) in enumerate(sections(document.palette)):
        if group or place:
            lines.append(f"  /* group: {group.replace('*/', '* /')} */".replace(":  */", ": */"))
        for _, swatch in run:
            said = swatch.name.replace("*/", "* /")
            lines.append(f"  --{slug(swatch.name, taken)}: {format_css(swatch.color, notation)}; /* {said} */")
    return ("\n".join([*lines, "}"]) + "\n").encode()


WRITER = FORMATS.register(
    Format(
        "css", (".css", ".scss", ".less"), "custom properties", "code", "text/css; charset=utf-8",
        Keeps(names=True, groups=True, alpha="all"),
        "Variables for a style sheet; SCSS and LESS variables are read as well.", is_text=True, options=(NOTATION,),
        sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
