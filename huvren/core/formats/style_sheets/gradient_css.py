"""Gradients in style sheets (CSS Images 4 §3): read from any text that holds some, written with an sRGB stand-in."""

from collections.abc import Mapping
from dataclasses import replace

from huvren.core.color.notation import parse_color
from huvren.core.errors import BadColor, BadFile
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps, RampKeeps, decode_text, is_probably_text
from huvren.core.formats.reading_limits import ReadingLimits
from huvren.core.formats.swatch_list import SwatchList
from huvren.core.ramp.baking import Baked, bake
from huvren.core.ramp.css import why_baked, write_css
from huvren.core.ramp.plan import PlanStop, RampPlan, plain_only
from huvren.core.ramp.stops import LEAST_MIDPOINT, MOST_STOPS, settle_positions
from huvren.core.ramp.ways import HUE_ROUTES, WAYS

MARK = "-gradient("
LONGEST = 20_000
"""Letters of one gradient; what is longer is none that a person wrote."""
MOST_RAMPS_READ = 100
HEADINGS = (
    "to", "in", "from", "at", "circle", "ellipse", "closest-side", "closest-corner", "farthest-side", "farthest-corner",
    "left", "right", "top", "bottom", "center", "0",
)  # fmt: skip
"""Words that a gradient's first part begins with where that is no stop: a side, a shape, a space; or an angle."""
ANGLES = ("deg", "grad", "rad", "turn")
LEGACY = ("srgb", "hsl", "hwb")
"""Spaces of the older color functions, hex codes and names."""


def split_at_top(text: str, separator: str) -> list[str]:
    """Pieces between separators that stand in no brackets; a blank stands for any white space."""
    pieces, depth, piece = [], 0, ""
    for letter in text:
        depth += (letter == "(") - (letter == ")")
        if depth == 0 and (letter == separator or (separator == " " and letter.isspace())):
            pieces.append(piece)
            piece = ""
        else:
            piece += letter
    pieces.append(piece)
    return [part.strip() for part in pieces if part.strip()]


def _without_comments(text: str) -> str:
    parts = text.split("/*")
    return parts[0] + "".join(part.partition("*/")[2] for part in parts[1:])


def _declared(plain: str, at: int) -> tuple[int, str, int]:
    """Where the rule begins that a place stands in, the property that is declared there, and where its declaration begins;
    −1 and nothing outside of one."""
    rule = max(plain.rfind("{", max(0, at - LONGEST), at), -1)
    begin = max(rule, plain.rfind(";", max(0, at - LONGEST), at))
    name = plain[begin + 1 : at].partition(":")[0].strip()
    return rule, name if name.replace("-", "").isalnum() else "", begin


def bodies(text: str) -> list[tuple[str, str]]:
    """(name, what stands in its brackets) of every gradient in a text, in order. One pass; nesting is counted.

    Of a property that one rule declares more than once the last wins, as in CSS: those before stand in for older readers.
    """
    found: list[tuple[str, str]] = []
    declared: list[tuple[int, str, int]] = []
    plain = _without_comments(text)
    begin = plain.find(MARK)
    while begin >= 0 and len(found) < MOST_RAMPS_READ:
        name = begin
        while name > 0 and (plain[name - 1].isalpha() or plain[name - 1] == "-"):
            name -= 1
        inside, depth, at = begin + len(MARK), 1, begin + len(MARK)
        while at < len(plain) and depth and at - inside < LONGEST:
            depth += (plain[at] == "(") - (plain[at] == ")")
            at += 1
        if depth == 0:
            where = _declared(plain, name)
            # Several in one declaration are layers, and all are there.
            while where[1] and declared and declared[-1][:2] == where[:2] and declared[-1][2] != where[2]:
                declared.pop()
                found.pop()
            declared.append(where)
            found.append((plain[name : begin + len(MARK) - 1], plain[inside : at - 1]))
        begin = plain.find(MARK, at)
    return found


def _percent(word: str) -> float | None:
    try:
        if word.endswith("%"):
            return float(word[:-1]) / 100
        return {"deg": 1 / 360, "turn": 1.0}[word[-3:] if word.endswith("deg") else word[-4:]] * float(word.rstrip("degturn"))
    except (ValueError, KeyError):
        return 0.0 if word == "0" else None


def _heading(part: str) -> dict[str, str] | None:
    """The interpolation that a gradient's first part names, or None where that part is a stop already."""
    words = part.lower().split()
    if not (words[0] in HEADINGS or words[0].endswith(ANGLES)):
        return None
    if "in" not in words:
        return {}
    rest = words[words.index("in") + 1 :]
    by_name = {way.gradient: way.id for way in WAYS if way.gradient}
    if not rest or rest[0] not in by_name:
        raise BadFile(f"A gradient is interpolated in “{' '.join(rest)[:40]}”, which is not known here.")
    routed = len(rest) > 2 and rest[2] == "hue" and rest[1] in HUE_ROUTES
    return {"space": by_name[rest[0]], "hue": rest[1] if routed else "shorter"}


def plan_in(body: str) -> tuple[RampPlan, list[str]]:
    """The ramp of what stands in a gradient's brackets, and notes. Raises `BadFile` where it cannot be understood."""
    parts = split_at_top(body, ",")
    if not parts:
        raise BadFile("A gradient is empty.")
    heading = _heading(parts[0])
    notes: list[str] = []
    stops: list[PlanStop] = []
    hints: dict[int, float] = {}
    for part in parts if heading is None else parts[1:]:
        words = split_at_top(part, " ")
        color_at = next((at for at, word in enumerate(words) if _percent(word) is None), None)
        places = [_percent(word) for at, word in enumerate(words) if at != color_at]
        if color_at is None:
            if stops and len(words) == 1 and places[0] is not None:
                hints[len(stops) - 1] = places[0]
            continue
        try:
            color = parse_color(words[color_at])
        except BadColor as error:
            raise BadFile(
                f"A gradient has the stop “{part[:60]}”, which cannot be read: it must be a color, with its place in percent."
            ) from error
        if any(place is None for place in places):
            raise BadFile(f"The stop “{part[:60]}” of a gradient stands at no percentage, which is the only measure read here.")
        for place in places or [None]:
            stops.append(PlanStop(color, position=place))
    if len(stops) < 2:
        raise BadFile("A gradient has fewer than two stops that can be read.")
    if len(stops) > MOST_STOPS:
        notes.append(f"A gradient has {len(stops)} stops; the first {MOST_STOPS} were taken.")
        stops = stops[:MOST_STOPS]
    settled = settle_positions([stop.position for stop in stops])
    if settled[0] < 0 or settled[-1] > 1:
        notes.append("A gradient has stops beyond its ends; they were drawn in to the ends.")
    settled = [min(max(at, 0.0), 1.0) for at in settled]
    stops = [replace(stop, position=at) for stop, at in zip(stops, settled, strict=True)]
    for place, hint in hints.items():
        if place + 1 < len(stops):
            left, right = settled[place], settled[place + 1]
            share = (hint - left) / (right - left) if right > left else 0.5
            stops[place] = replace(stops[place], midpoint=min(max(share, LEAST_MIDPOINT), 1 - LEAST_MIDPOINT))
    # Without a word, CSS interpolates in OKLab unless every color is given in one of the older forms (CSS Color 4 §12.1).
    space = heading.get("space") if heading else None
    if space is None:
        space = "srgb" if all(stop.color is not None and stop.color.space in LEGACY for stop in stops) else "oklab"
    return RampPlan(tuple(stops), None, space=space, hue=(heading or {}).get("hue", "shorter")), notes


def gradients_in(text: str) -> tuple[list[tuple[str, RampPlan]], list[str]]:
    """Every different gradient of a text as (name, plan), and notes about those that could not be read."""
    made: dict[RampPlan, str] = {}
    notes: list[str] = []
    for name, body in bodies(text):
        try:
            plan, said = plan_in(body)
        except BadFile as error:
            notes.append(str(error))
            continue
        made.setdefault(plan, f"{name.replace('-', ' ').capitalize()} {len(made) + 1}")
        notes += said
    return [(name, plan) for plan, name in made.items()], list(dict.fromkeys(notes))


def sniff(data: bytes) -> float:
    return 0.65 if MARK.encode() in data and is_probably_text(data) else 0.0


def read(data: bytes) -> Found:
    """Its gradients as ramps, and their stops as swatches. Raises `BadFile` where none can be read."""
    found, notes = gradients_in(decode_text(data))
    if not found:
        raise BadFile(notes[0] if notes else "There is no gradient in it.")
    made = SwatchList()
    for color in dict.fromkeys(stop.color for _, plan in found for stop in plan.stops if stop.color is not None):
        made.add(color)
    for name, plan in found:
        made.add_ramp(plan, name)
    return Found(made.palette(), (f"{len(found)} {'gradient' if len(found) == 1 else 'different gradients'}.", *notes))


def held_ramp(plan: RampPlan, options: Mapping[str, str]) -> Baked:
    """What a reader that knows every space draws: the ramp itself where CSS can say it, else what stands in."""
    ramp = plan.ramp(plain_only)
    return bake(ramp) if why_baked(ramp) else bake(ramp, 0.02)


def says_all(plan: RampPlan) -> bool:
    return not why_baked(plan.ramp(plain_only))


def write(document: Document) -> bytes:
    """One class with the gradient as its background."""
    name, _, ramp = document.ramp
    lines = "".join(f"  {line}\n" for line in write_css(ramp).splitlines())
    title = name.replace("*/", "* /")
    return f"/* {title} */\n.ramp {{\n{lines}}}\n".encode()


FORMATS.register(
    Format(
        "css-gradient", (".css",), "gradient", "code", "text/css; charset=utf-8", Keeps(alpha="all"),
        "A background for web pages, in its own space where that is known.", contents=frozenset({"ramps"}),
        ramp=RampKeeps("baked", held_ramp, says_all), is_text=True, is_partial=True,
        limits=ReadingLimits(2_000_000), sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
