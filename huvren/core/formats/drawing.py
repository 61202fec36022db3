"""SVG drawings: every fill, stroke and gradient stop, each as a group, the most used first; gradients as ramps. Read only.

SVG 2 §13 (painting) and §14.2.4 (gradient stops): colors stand in presentation attributes, in `style`, or in rules of a
style element; the style wins over the attribute. `none`, `currentColor`, `inherit` and references are no colors.
"""

import re
import xml.etree.ElementTree as ElementTree
from collections import Counter
from collections.abc import Collection

from huvren.core.color.notation import parse_color
from huvren.core.errors import BadColor, BadFile
from huvren.core.formats import FORMATS, Format, Found, Keeps, SwatchList, decode_text, is_probably_text
from huvren.core.ramp.plan import PlanStop, RampPlan
from huvren.core.ramp.values import MOST_STOPS

SOURCES = {
    "fill": "Fills", "stroke": "Strokes", "stop-color": "Gradient stops", "flood-color": "Effects", "lighting-color": "Effects",
}  # fmt: skip
_COMMENT = re.compile(r"/\*.*?\*/", re.DOTALL)
_RULE = re.compile(r"([^{}]+)\{([^{}]*)\}")
_SKIPPED = {"none", "currentcolor", "inherit", "initial", "unset", "context-fill", "context-stroke", "transparent"}
MOST_ELEMENTS = 2_000_000


def _declarations(text: str) -> dict[str, str]:
    pairs = (part.partition(":") for part in text.split(";"))
    return {name.strip().lower(): value.strip().removesuffix("!important").strip() for name, _, value in pairs if value.strip()}


def _rules(css: str) -> dict[str, dict[str, str]]:
    """Declarations by simple selector: `.class`, `#id` or an element's name. What is more complex is left out."""
    rules: dict[str, dict[str, str]] = {}
    for selectors, body in _RULE.findall(_COMMENT.sub("", css)):
        for selector in selectors.split(","):
            if re.fullmatch(r"[.#]?[\w-]+", selector.strip()):
                rules.setdefault(selector.strip(), {}).update(_declarations(body))
    return rules


def _name(tag: object) -> str:
    return str(tag).rsplit("}", 1)[-1] if isinstance(tag, str) else ""


def _declared(element: ElementTree.Element, rules: dict[str, dict[str, str]], wanted: Collection[str]) -> dict[str, str]:
    """Properties that an element sets itself, the strongest source last."""
    found = {key: value for key, value in element.attrib.items() if key in wanted}
    selectors = [_name(element.tag), *(f".{name}" for name in element.get("class", "").split()), f"#{element.get('id', '')}"]
    for selector in selectors:
        found.update({key: value for key, value in rules.get(selector, {}).items() if key in wanted})
    found.update({key: value for key, value in _declarations(element.get("style", "")).items() if key in wanted})
    return found


def _paints(element: ElementTree.Element, rules: dict[str, dict[str, str]]) -> dict[str, str]:
    """The paint properties that an element sets itself."""
    return _declared(element, rules, SOURCES)


MOST_GRADIENTS = 200


def _share(text: str) -> float:
    """An offset, 0..1; 0 for what is no number."""
    word = text.strip()
    try:
        value = float(word[:-1]) / 100 if word.endswith("%") else float(word)
    except ValueError:
        return 0.0
    return min(max(value, 0.0), 1.0) if value == value else 0.0


def _stop(element: ElementTree.Element, rules: dict[str, dict[str, str]]) -> PlanStop | None:
    """A gradient stop (SVG 2 §14.2.4), or None where its color cannot be read."""
    paints = _declared(element, rules, ("stop-color", "stop-opacity"))
    try:
        color = parse_color(paints.get("stop-color", "black"))
    except BadColor:
        return None
    opacity = _share(paints.get("stop-opacity", "1"))
    return PlanStop(color.with_alpha(color.alpha * opacity), position=_share(element.get("offset", "0")))


def _gradients(elements: list[ElementTree.Element], rules: dict[str, dict[str, str]]) -> list[tuple[str, RampPlan]]:
    """Every linear or radial gradient with stops of its own, once for all that look alike; drawings interpolate in sRGB."""
    made: dict[RampPlan, str] = {}
    for element in elements:
        if _name(element.tag) not in ("linearGradient", "radialGradient") or len(made) >= MOST_GRADIENTS:
            continue
        stops = [stop for child in element if _name(child.tag) == "stop" and (stop := _stop(child, rules))]
        if 2 <= len(stops) <= MOST_STOPS:
            made.setdefault(RampPlan(tuple(stops), None, space="srgb"), element.get("id") or "Gradient")
    return [(name, plan) for plan, name in made.items()]


def sniff(data: bytes) -> float:
    return 0.95 if is_probably_text(data) and re.search(rb"<(?:\w+:)?svg[\s>]", data[:20_000]) else 0.0


def read(data: bytes) -> Found:
    """Colors by what they paint, each once with how often it is used. Raises `BadFile` for XML that is not sound."""
    text = decode_text(data)
    if "<!ENTITY" in text:
        raise BadFile("The drawing declares entities, which are not read. Save it without them.")
    try:
        root = ElementTree.fromstring(text.encode())
    except ElementTree.ParseError as error:
        line, column = error.position
        raise BadFile(f"Line {line}, column {column}: the drawing is not sound XML.") from error
    elements = list(root.iter())
    if len(elements) > MOST_ELEMENTS:
        raise BadFile(f"The drawing has more than {MOST_ELEMENTS:,} parts. Split it first.")
    rules = _rules(" ".join(element.text or "" for element in elements if _name(element.tag) == "style"))
    uses: dict[str, Counter[str]] = {source: Counter() for source in dict.fromkeys(SOURCES.values())}
    for element in elements:
        for key, value in _paints(element, rules).items():
            word = value.strip()
            if word.lower() in _SKIPPED or word.lower().startswith("url("):
                continue
            try:
                uses[SOURCES[key]][parse_color(word).hex] += 1
            except BadColor:
                continue
    made, notes = SwatchList(), []
    for source, counts in uses.items():
        if not counts:
            continue
        made.open_group(source)
        for code, _ in counts.most_common():
            made.add(parse_color(code))
        total = sum(counts.values())
        most, times = counts.most_common(1)[0]
        notes.append(f"{source}: {len(counts):,} colors in {total:,} places, {most} in {times:,} of them.")
    for name, plan in _gradients(elements, rules):
        made.add_ramp(plan, name)
    if not made.swatches:
        raise BadFile("No shape of the drawing has a color of its own.")
    return Found(made.palette(), tuple(notes))


FORMATS.register(
    Format(
        "drawing", (".svg",), "drawing", "picture", "image/svg+xml", Keeps(groups=True, alpha="all"),
        "Fills, strokes and gradient stops of a drawing, apart.", sniff=sniff, read=read,
    )
)  # fmt: skip
