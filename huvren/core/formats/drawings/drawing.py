"""SVG drawings: every fill, stroke and gradient stop, each as a group, the most used first; gradients as ramps. Read only.

SVG 2 §13 (painting) and §14.2.4 (gradient stops). What is counted is what shapes are painted with, by whatever rule or attribute
around them, as `drawing_styles.py` finds it; what nothing is painted with is a source of its own.
"""

import zlib
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

import tinycss2
from lxml import etree

from huvren.core.color.value import Color
from huvren.core.errors import BadColor, BadFile, HuvrenError, TooLarge
from huvren.core.formats.drawings.drawing_styles import INHERITED, WANTED, Cascade, Declarations, Sheet
from huvren.core.formats.format import FORMATS, UTF16_MARKS, Format, Found, Keeps, NoColor, is_probably_text
from huvren.core.formats.reading_limits import Count, ReadingLimits
from huvren.core.formats.style_sheets.css_values import Effort, Tokens, Unresolved, Values
from huvren.core.formats.swatch_list import SwatchList
from huvren.core.ramp.baking import MIXED_APART, is_mixed_apart
from huvren.core.ramp.plan import PlanStop, RampPlan
from huvren.core.ramp.stops import MOST_STOPS

SOURCES = {
    "fill": "Fills", "stroke": "Strokes", "stop-color": "Gradient stops", "flood-color": "Effects", "lighting-color": "Effects",
}  # fmt: skip
OPACITY_OF = {"fill": "fill-opacity", "stroke": "stroke-opacity", "stop-color": "stop-opacity", "flood-color": "flood-opacity"}
UNUSED = "Defined but unused"
SHAPES = frozenset(("path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "tspan", "textPath"))
GRADIENTS = ("linearGradient", "radialGradient")
RESOURCES = frozenset((*GRADIENTS, "pattern", "symbol", "marker", "filter", "mask", "clipPath", "meshgradient"))
EFFECTS = frozenset(("feFlood", "feDropShadow", "feDiffuseLighting", "feSpecularLighting"))
NO_COLOR = frozenset(("none", "inherit", "initial", "unset", "context-fill", "context-stroke"))
SAYING = frozenset(("class", "id", "style", "filter", "clip-path", "mask", "marker-start", "marker-mid", "marker-end", "href"))
"""What else, beside paints and opacities, makes two shapes differ here."""
GZIP = b"\x1f\x8b"
LIMITS = ReadingLimits(20_000_000, (Count(b"<", 120_000, "marks of parts"),))
MOST_GRADIENTS = 200
MOST_EFFORT = 1_000_000
"""For the values of all its parts; see `Effort`."""
MOST_CHAINED = 8
MOST_LISTED = 6


def _name(element: Any) -> str:
    tag = element.tag
    return tag.rsplit("}", 1)[-1] if isinstance(tag, str) else ""


def unpacked(data: bytes) -> bytes:
    """The drawing itself where it is gzipped (`.svgz`). Raises `TooLarge` by the same limits, before all is unpacked."""
    if data[:2] != GZIP:
        return data
    machine = zlib.decompressobj(wbits=31)
    try:
        plain = machine.decompress(data, LIMITS.most_bytes + 1)
    except zlib.error as error:
        raise BadFile("The gzipped drawing is damaged.") from error
    if not machine.eof and len(plain) <= LIMITS.most_bytes:
        raise BadFile("The gzipped drawing is cut short.")
    LIMITS.check(plain, "the drawing")
    return plain


def sniff(data: bytes) -> float:
    head = data[:20_000]
    if data[:2] == GZIP:
        try:
            head = zlib.decompressobj(wbits=31).decompress(data[:20_000], 20_000)
        except zlib.error:
            return 0.0
    if head[:2] in UTF16_MARKS or head[:4] in (b"<\0?\0", b"\0<\0?", b"<\0s\0"):
        head = head.replace(b"\0", b"")
    at = max(head.find(b"<svg"), head.find(b":svg"))
    return 0.95 if at >= 0 and head[at + 4 : at + 5] in (b" ", b">", b"\t", b"\n", b"\r", b"/") and is_probably_text(head) else 0.0


def _parsed(data: bytes) -> Any:
    # Entities are neither fetched nor unfolded; the parser's own limits on depth and growth stay.
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, remove_comments=True, remove_pis=True)
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        line, column = error.position
        if "too long" in str(error) or "huge" in str(error).lower():
            raise TooLarge(f"Line {line}: one part of the drawing is longer than can be read.") from error
        raise BadFile(f"Line {line}, column {column}: the drawing is not sound XML.") from error
    except (LookupError, ValueError, UnicodeError) as error:
        raise BadFile("The drawing is in a coding that is not known.") from error
    except RecursionError as error:
        raise BadFile("The drawing's parts stand too deep in each other.") from error
    if root is None:
        raise BadFile("The drawing is not sound XML.")
    declared = root.getroottree().docinfo.internalDTD
    if declared is not None and any(True for _ in declared.iterentities()):
        raise BadFile("The drawing declares entities, which are not read. Save it without them.")
    return root


@dataclass
class _Look:
    """What holds where an element stands: what it inherits, how clear all around it is, and the resource that it is a part of."""

    inherited: Mapping[str, Tokens] = field(default_factory=dict)
    opacity: float = 1.0
    resource: Any = None
    setters: Mapping[str, Any] = field(default_factory=dict)
    """By paint, the element around it that set it."""


@dataclass
class _Use:
    """One color of one element. resource : the gradient, pattern or symbol that it is a part of."""

    source: str
    color: Color
    resource: Any
    times: int = 1


class _Reader:
    def __init__(self, root: Any, sheet: Sheet, count: int) -> None:
        self.root, self.cascade = root, Cascade(sheet, root, count)
        self.uses: list[_Use] = []
        self.owns: dict[Any, Declarations] = {}
        self.looks: dict[Any, _Look] = {}
        self.references: dict[Any, set[str]] = {}
        self.unresolved: Counter[str] = Counter()
        self._set: dict[tuple[Any, str], _Use] = {}
        self._taken: set[tuple[Any, str]] = set()
        self._alike: dict[tuple[Any, ...], list[_Use]] = {}
        self._colors: dict[int, tuple[Tokens, Color | None]] = {}
        self._shares: dict[int, tuple[Tokens, float]] = {}
        self.effort = Effort(MOST_EFFORT)

    def run(self) -> None:
        """Every element once, those around it before it."""
        for element in self.root.iter():
            tag = _name(element)
            if tag:
                self._element(element, tag)
                self.effort.check()
        # Set on a group whose shapes all have their own: nothing is painted with it.
        for key, use in self._set.items():
            if key not in self._taken:
                self.uses.append(_Use(UNUSED, use.color, None))

    def _alike_key(self, element: Any, around: _Look, attributes: list[tuple[str, str]]) -> tuple[object, ...]:
        """What a shape says of itself: those that stand together and say the same are painted the same."""
        asks_ids = self.cascade.sheet.asks_ids
        saying = ((name, text) for name, text in attributes if (name in SAYING and (name != "id" or asks_ids)) or name in WANTED)
        return (id(around), *saying)

    def _look_of(self, element: Any, tag: str, around: _Look, own: Declarations) -> _Look:
        """How an element looks by what it says and what it inherits."""
        inherited, opacity, setters = around.inherited, around.opacity, around.setters
        if passed := {name: value for name, value in own.items() if name in INHERITED or name[:2] == "--"} if own else {}:
            inherited = {**inherited, **passed}
        if "opacity" in own:
            opacity *= self._share(own["opacity"], inherited)
        for paint in ("fill", "stroke"):
            if paint in own:
                setters = {**setters, paint: element}
        return _Look(inherited, opacity, element if tag in RESOURCES else around.resource, setters)

    def _element(self, element: Any, tag: str) -> None:
        around = self.looks.get(element.getparent()) or _Look()
        attributes = element.items()
        before, key, unresolved = len(self.uses), None, self.unresolved.total()
        if tag in SHAPES and not self.cascade.is_placed and len(element) == 0:
            # A drawing has thousands of them.
            key = self._alike_key(element, around, attributes)
            if (alike := self._alike.get(key)) is not None:
                for use in alike:
                    use.times += 1
                return
        own = self.cascade.own(element, attributes)
        look = self.looks[element] = self._look_of(element, tag, around, own)
        self._refer(attributes, own, look.resource)
        said = {**look.inherited, **own} if own else look.inherited
        if tag in SHAPES:
            for paint in ("fill", "stroke"):
                if paint in look.inherited:
                    self._paint(paint, said, look)
                    self._taken.add((look.setters.get(paint), paint))
            if key is not None and self.unresolved.total() == unresolved:
                self._alike[key] = self.uses[before:]
        else:
            self._no_shape(element, tag, own, said, look)

    def _no_shape(self, element: Any, tag: str, own: Declarations, said: Mapping[str, Any], look: _Look) -> None:
        """Stops and effects paint with colors of their own; what is set on anything else is there for the shapes in it."""
        if tag == "stop":
            self.owns[element] = own
            paints: tuple[str, ...] = ("stop-color",)
        elif tag in EFFECTS:
            paints = ("flood-color", "lighting-color")
        else:
            for paint in ("fill", "stroke"):
                if paint in own and (color := self._color(paint, said, look)) is not None:
                    self._set[element, paint] = _Use(SOURCES[paint], color, look.resource)
            return
        for paint in paints:
            if paint in own:
                self._paint(paint, said, look)

    def _refer(self, attributes: list[tuple[str, str]], own: Declarations, resource: Any) -> None:
        """What an element names by `url(#id)` or a link: that is used where the element is."""
        names = set()
        for key, value in attributes:
            if "url(" in value:
                names.add(value.partition("url(")[2].partition(")")[0].strip("\"' ").removeprefix("#"))
            elif key.endswith("href") and value[:1] == "#":
                names.add(value[1:])
        for tokens in own.values():
            if not tokens or tokens[0].type not in ("url", "function"):
                continue
            names |= {token.value.removeprefix("#") for token in tokens if token.type == "url"}
            names |= {
                argument.value.removeprefix("#")
                for token in tokens if token.type == "function" and token.lower_name == "url"
                for argument in token.arguments if argument.type == "string"
            }  # fmt: skip
        if names:
            # A gradient that names another one uses it only where it is used itself.
            self.references.setdefault(resource, set()).update(names)

    def _paint(self, paint: str, values: Mapping[str, Tokens], look: _Look) -> None:
        color = self._color(paint, values, look)
        if color is not None:
            self.uses.append(_Use(SOURCES[paint], color, look.resource))

    def _color(self, paint: str, values: Mapping[str, Tokens], look: _Look) -> Color | None:
        """The color of a paint with all opacities that bear on it, or None where it is none."""
        tokens = values[paint]
        if not tokens or tokens[0].type == "url" or (tokens[0].type == "ident" and tokens[0].lower_value in NO_COLOR):
            return None
        if tokens[0].type == "function" and tokens[0].lower_name == "url":
            return None
        color = self._value(tokens, values)
        if color is None or (color.alpha == 0 and tokens[0].type == "ident"):
            return None
        share = look.opacity
        opacity = OPACITY_OF.get(paint, "")
        if opacity in values:
            share *= self._share(values[opacity], values)
        return color if share == 1 else color.with_alpha(min(max(color.alpha * share, 0.0), 1.0))

    def _value(self, tokens: Tokens, values: Mapping[str, Tokens]) -> Color | None:
        # The same text has the same tokens; what depends on nothing around it is worked out once.
        if (known := self._colors.get(id(tokens))) is not None and known[0] is tokens:
            return known[1]
        is_plain = all(token.type in ("hash", "ident") and getattr(token, "lower_value", "") != "currentcolor" for token in tokens)
        current = None
        if "color" in values and not is_plain:
            try:
                current = Values(values.get, effort=self.effort).color(values["color"])
            except HuvrenError:
                current = None
        color: Color | None = None
        try:
            color = Values(values.get, current, self.effort).color(tokens)
        except Unresolved as problem:
            self.unresolved[str(problem).rstrip(".")] += 1
        except BadColor:
            color = self._first(tokens)
        if is_plain:
            self._colors[id(tokens)] = (tokens, color)
        return color

    def _first(self, tokens: Tokens) -> Color | None:
        """The color before `icc-color(…)`, which stands in for it (SVG 1.1 §11.2)."""
        if len(tokens) == 2 and tokens[1].type == "function" and tokens[1].lower_name == "icc-color":
            return self._value(tokens[:1], {})
        return None

    def _share(self, tokens: Tokens, values: Mapping[str, Tokens]) -> float:
        """An opacity, 0..1; 1 for what is none."""
        if (worked := self._shares.get(id(tokens))) is not None and worked[0] is tokens:
            return worked[1]
        try:
            known = Values(values.get, effort=self.effort).known(tokens)
        except HuvrenError:
            return 1.0
        if len(known) == 1 and known[0].type in ("number", "percentage"):
            share = min(max(float(known[0].value) / (100 if known[0].type == "percentage" else 1), 0.0), 1.0)
            if len(tokens) == 1 and tokens[0] is known[0]:
                self._shares[id(tokens)] = (tokens, share)
            return share
        return 1.0

    def used(self) -> set[Any]:
        """Resources that something is painted with, itself or by others."""
        by_id = {element.get("id"): element for element in self.root.iter() if _name(element) in RESOURCES and element.get("id")}
        found: set[Any] = set()
        waiting = list(self.references.get(None, ()))
        while waiting:
            element = by_id.get(waiting.pop())
            if element is not None and element not in found:
                found.add(element)
                waiting += self.references.get(element, ())
        return found

    def gradients(self) -> Iterator[tuple[str, RampPlan]]:
        """Every gradient with two stops or more, once for all that look alike; drawings interpolate in sRGB."""
        by_id = {element.get("id"): element for element in self.root.iter() if _name(element) in GRADIENTS and element.get("id")}
        made: dict[RampPlan, str] = {}
        for element in self.root.iter():
            if _name(element) not in GRADIENTS or len(made) >= MOST_GRADIENTS:
                continue
            stops = self._stops(element, by_id)
            if 2 <= len(stops) <= MOST_STOPS:
                made.setdefault(RampPlan(tuple(stops), None, space="srgb"), element.get("id") or "Gradient")
        for plan, name in made.items():
            yield name, plan

    def _stops(self, element: Any, by_id: Mapping[str, Any]) -> list[PlanStop]:
        """Its stops, or those of the gradient that it refers to (SVG 2 §14.2.2)."""
        for _ in range(MOST_CHAINED):
            stops = [stop for child in element if _name(child) == "stop" and (stop := self._stop(child)) is not None]
            link = next((value for key, value in element.attrib.items() if key.endswith("href")), "")
            if stops or link[1:] not in by_id:
                return stops
            element = by_id[link[1:]]
        return []

    def _stop(self, element: Any) -> PlanStop | None:
        own, look = self.owns.get(element, {}), self.looks[element]
        values = {**look.inherited, **own}
        color = self._color("stop-color", values, look) if "stop-color" in own else Color("srgb", (0.0, 0.0, 0.0))
        if color is None:
            return None
        offset = self._share(tuple(tinycss2.parse_component_value_list(element.get("offset", "0").strip())), {})
        return PlanStop(color, position=offset if element.get("offset") else 0.0)


def read(data: bytes) -> Found:
    """Colors by what they paint, each once with how often it is used. Raises `BadFile` for XML that is not sound."""
    root = _parsed(unpacked(data))
    elements = sum(1 for _ in root.iter())
    sheet = Sheet()
    for element in root.iter():
        if _name(element) == "style":
            sheet.add("".join(element.itertext()))
    reader = _Reader(root, sheet, elements)
    reader.run()
    used = reader.used()
    counts: dict[str, Counter[Color]] = {source: Counter() for source in (*dict.fromkeys(SOURCES.values()), UNUSED)}
    for use in reader.uses:
        is_used = use.resource is None or use.resource in used
        counts[use.source if is_used else UNUSED][use.color] += use.times
    there = {color for source, colors in counts.items() if source != UNUSED for color in colors}
    counts[UNUSED] = Counter({color: count for color, count in counts[UNUSED].items() if color not in there})
    made, notes = SwatchList(), []
    for source, colors in counts.items():
        if not colors:
            continue
        made.open_group(source)
        for color, _ in colors.most_common():
            made.add(color)
        notes.append(_said(source, colors))
    gradients = list(reader.gradients())
    for name, plan in gradients:
        made.add_ramp(plan, name)
    if any(is_mixed_apart([stop.color for stop in plan.stops if stop.color is not None]) for _, plan in gradients):
        notes.insert(0, MIXED_APART)
    if not made:
        raise NoColor("No shape of the drawing has a color of its own.")
    notes += [f"Left out: {reason}, in {times:,} {'place' if times == 1 else 'places'}."
              for reason, times in reader.unresolved.most_common(MOST_LISTED)]  # fmt: skip
    if sheet.left_out:
        one = sheet.left_out == 1
        notes.append(
            f"{sheet.left_out:,} {'rule that holds' if one else 'rules that hold'} only for other media, or cannot be read, left out."
        )
    return Found(made.palette(), tuple(notes))


def _said(source: str, colors: Counter[Color]) -> str:
    """“Fills: 3 colors in 7 places, #e85421 in 4 of them.”"""
    total, (most, times) = sum(colors.values()), colors.most_common(1)[0]
    if source == UNUSED:
        return f"{UNUSED}: {len(colors):,} {'color' if len(colors) == 1 else 'colors'}."
    what = f"{len(colors):,} {'color' if len(colors) == 1 else 'colors'} in {total:,} {'place' if total == 1 else 'places'}"
    return f"{source}: {what}" + (f", {most.hex} in {times:,} of them." if len(colors) > 1 else f", {most.hex}.")


FORMATS.register(
    Format(
        "drawing", (".svg", ".svgz"), "drawing", "picture", "image/svg+xml", Keeps(groups=True, alpha="all"),
        "Fills, strokes and gradient stops of a drawing, apart.", limits=LIMITS, sniff=sniff, read=read,
    )
)  # fmt: skip
