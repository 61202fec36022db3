"""`.ggr` gradient: a fixed first line, a name, a count, and one segment a line.

Each segment has a left, middle and right place, the colors of both ends, a blending (0 straight, 1 bent, 2 sine, 3 and 4 arcs,
5 a step) and a coloring (0 RGB, 1 and 2 round the HSV hues). Its bent blending is the power that a color hint of CSS bends with.
"""

import math
from collections.abc import Mapping

import numpy as np

from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.errors import BadFile
from huvren.core.formats.format import FORMATS, Document, Format, Found, Keeps, RampKeeps, decode_text
from huvren.core.formats.reading_limits import LINES, ReadingLimits
from huvren.core.formats.swatch_list import SwatchList
from huvren.core.ramp.baking import MIXED_APART, Baked, bake, is_mixed_apart, stepped
from huvren.core.ramp.easings import LINEAR, Easing
from huvren.core.ramp.fewest import by_splitting
from huvren.core.ramp.plan import PlanStop, RampPlan, plain_only
from huvren.core.ramp.stops import LEAST_MIDPOINT, MOST_STOPS, Stop
from huvren.core.ramp.values import Ramp

FIRST_LINE = "GIMP Gradient"
MOST_SEGMENTS = 2000
MOST_BENT = 64
"""Beyond so many segments each is so short that how it bends cannot be seen."""
BLENDS = {
    2: Easing("smooth"), 3: Easing("bezier", (0.0, 0.5523, 0.4477, 1.0)), 4: Easing("bezier", (0.5523, 0.0, 1.0, 0.4477)),
}  # fmt: skip
"""Straight and bent segments need no easing; a sine is close to the smooth one, and arcs to these curves (within 0.011)."""
SHARES = tuple((1 - math.cos(math.pi * n / 20)) / 2 for n in range(21))
"""Places within a segment, closer at both ends, where arcs are steep."""
HUES = {1: "increasing", 2: "decreasing"}


def sniff(data: bytes) -> float:
    return 1.0 if data.removeprefix(b"\xef\xbb\xbf").startswith(FIRST_LINE.encode()) else 0.0


class _Segment:
    def __init__(self, words: list[str], line: int) -> None:
        try:
            numbers = [float(word) for word in words[:11]]
            self.blend, self.coloring = int(words[11]), int(words[12])
        except (ValueError, IndexError) as error:
            raise BadFile(f"Line {line} is no segment: 13 numbers were expected.") from error
        if not np.isfinite(numbers).all():
            raise BadFile(f"Line {line} holds a number that is none.")
        self.left, self.middle, self.right = numbers[:3]
        self.first, self.last = (self._color(numbers[at : at + 4]) for at in (3, 7))
        if not self.left <= self.middle <= self.right:
            raise BadFile(f"Line {line}: the places {self.left:g}, {self.middle:g}, {self.right:g} do not follow each other.")

    @staticmethod
    def _color(row: list[float]) -> Color:
        red, green, blue, alpha = (min(max(value, 0.0), 1.0) for value in row)
        return Color("srgb", (red, green, blue), alpha)

    def half(self) -> float:
        width = self.right - self.left
        return (self.middle - self.left) / width if width > 0 else 0.5

    def stops(self, space: str, bent: bool) -> list[PlanStop]:
        """Both ends, and one between where a straight segment has its middle elsewhere."""
        half = min(max(self.half(), LEAST_MIDPOINT), 1 - LEAST_MIDPOINT)
        end = PlanStop(self.last, position=self.right)
        if self.blend == 5:
            return [PlanStop(self.first, position=self.left), PlanStop(self.first, position=self.middle),
                    PlanStop(self.last, position=self.middle), end]  # fmt: skip
        begin = PlanStop(self.first, position=self.left, easing=BLENDS.get(self.blend, LINEAR))
        if abs(half - 0.5) < 1e-6:
            return [begin, end]
        if not bent:
            return [PlanStop(self.first, position=self.left), end]
        if self.blend in BLENDS and space == "srgb":
            return [self._at(share) for share in SHARES]
        if self.blend == 1 or space != "srgb" or self.blend in BLENDS:
            return [PlanStop(begin.color, position=self.left, midpoint=half, easing=begin.easing), end]
        mean = tuple((a + b) / 2 for a, b in zip(self.first.coords, self.last.coords, strict=True))
        return [begin, PlanStop(Color("srgb", mean, (self.first.alpha + self.last.alpha) / 2), position=self.middle), end]

    def _at(self, share: float) -> PlanStop:
        """A stop within a segment that is blended by a sine or an arc: the middle is where the straight share is a half."""
        half = self.half()
        straight = 0.5 * share / half if share <= half else 0.5 + 0.5 * (share - half) / (1 - half)
        done = {
            2: (math.sin(math.pi * (straight - 0.5)) + 1) / 2, 3: math.sqrt(max(0.0, 1 - (straight - 1) ** 2)),
            4: 1 - math.sqrt(max(0.0, 1 - straight**2)),
        }[self.blend]  # fmt: skip
        coords = tuple(a + done * (b - a) for a, b in zip(self.first.coords, self.last.coords, strict=True))
        color = Color("srgb", coords, self.first.alpha + done * (self.last.alpha - self.first.alpha))
        return PlanStop(color, position=self.left + share * (self.right - self.left))


def _few(stops: list[PlanStop]) -> tuple[list[PlanStop], int]:
    """At most as many stops as a ramp takes, those that matter most, and how many were left out."""
    if len(stops) <= MOST_STOPS:
        return stops, 0
    coords = np.array([[*s.color.coords, s.color.alpha] for s in stops if s.color is not None])
    rows = np.column_stack([convert(coords[:, :3], "srgb", "oklab"), coords[:, 3]])
    places = np.array([s.position or 0.0 for s in stops])
    kept = by_splitting(rows, places + np.arange(len(places)) * 1e-9, 0.0, MOST_STOPS)
    return [stops[place] for place in kept], len(stops) - len(kept)


def _steps(segments: list[_Segment]) -> RampPlan | None:
    """The stepped ramp that flat segments of one width are, or None."""
    widths = [segment.right - segment.left for segment in segments]
    flat = all(segment.first == segment.last for segment in segments)
    if not flat or not 2 <= len(segments) <= MOST_STOPS or max(widths) - min(widths) > 1e-4:
        return None
    count = len(segments)
    return RampPlan(tuple(PlanStop(s.first, position=at / (count - 1)) for at, s in enumerate(segments)), count, space="srgb")


def _segments(lines: list[str]) -> tuple[str, list[_Segment]]:
    """The name and the segments of a file's lines. Raises `BadFile` with the line that is wrong."""
    if lines[0].strip() != FIRST_LINE:
        raise BadFile("The first line is not that of a gradient.")
    at = 1
    name = ""
    if at < len(lines) and lines[at].startswith("Name:"):
        name, at = lines[at][5:].strip(), at + 1
    try:
        count = int(lines[at])
    except (IndexError, ValueError) as error:
        raise BadFile(f"Line {at + 1}: the number of segments is missing.") from error
    if not 1 <= count <= MOST_SEGMENTS:
        raise BadFile(f"Line {at + 1} announces {count:,} segments; 1 to {MOST_SEGMENTS:,} were expected.")
    rows = [(number, line.split()) for number, line in enumerate(lines[at + 1 :], start=at + 2) if line.strip()]
    if len(rows) < count:
        raise BadFile(f"{count:,} segments are announced, and {len(rows):,} are there: the file is cut short.")
    return name, [_Segment(words, number) for number, words in rows[:count]]


def _stops(segments: list[_Segment], space: str) -> list[PlanStop]:
    """The stops of all segments in order, those that two of them share once."""
    stops: list[PlanStop] = []
    for segment in segments:
        for place, stop in enumerate(segment.stops(space, len(segments) <= MOST_BENT)):
            if place == 0 and stops and stops[-1].color == stop.color and abs((stops[-1].position or 0) - segment.left) < 1e-6:
                stops.pop()
            stops.append(stop)
    return stops


def _found(name: str, plan: RampPlan, notes: tuple[str, ...]) -> Found:
    """A ramp, and the colors of its stops once each."""
    made = SwatchList()
    for color in dict.fromkeys(stop.color for stop in plan.stops if stop.color is not None):
        made.add(color)
    made.add_ramp(plan, name or "Gradient")
    return Found(made.palette(name), notes)


def read(data: bytes) -> Found:
    """One ramp, and its stops as swatches. Raises `BadFile` with the line that is wrong."""
    name, segments = _segments(decode_text(data).split("\n"))
    if (steps := _steps(segments)) is not None:
        return _found(name, steps, (f"One ramp of {len(segments):,} steps; they are offered as swatches too.",))
    low, high = segments[0].left, segments[-1].right
    span = high - low
    if span <= 0:
        raise BadFile("The gradient has no length.")
    colorings = {segment.coloring for segment in segments}
    hue = HUES.get(next(iter(colorings))) if len(colorings) == 1 else None
    space = "hsv" if hue else "srgb"
    notes = [f"One ramp of {len(segments):,} segments; its stops are offered as swatches too."]
    if len(colorings) > 1 and colorings & set(HUES):
        notes.append("Some of its segments run round the hues; they are drawn straight through sRGB here.")
    stops, gone = _few(_stops(segments, space))
    if gone:
        notes.append(f"{gone:,} of its stops were left out; {MOST_STOPS} is the most that a ramp takes.")
    if any(segment.blend == 2 for segment in segments):
        notes.append("Its sine blending is drawn as the smooth one, which differs by at most 1 %.")
    if is_mixed_apart([stop.color for stop in stops if stop.color is not None]):
        notes.append(MIXED_APART)
    placed = tuple(
        PlanStop(s.color, position=min(max(((s.position or 0.0) - low) / span, 0.0), 1.0), midpoint=s.midpoint, easing=s.easing)
        for s in stops
    )
    return _found(name, RampPlan(placed, None, space=space, hue=hue or "shorter"), tuple(notes))


def _is_plain(ramp: Ramp) -> bool:
    """Whether segments say all of it: straight through sRGB, bent by midpoints at most; opaque, as alpha mixes otherwise there."""
    return (
        ramp.lane.way.id == "srgb" and ramp.curve.slopes is None and ramp.spacing.hears_easing
        and all(stop.easing.kind == "linear" for stop in ramp.stops[:-1])
        and all(stop.color.in_srgb and stop.color.alpha == 1 and not stop.color.missing for stop in ramp.stops)
    )  # fmt: skip


def says_all(plan: RampPlan) -> bool:
    return plan.steps is None and _is_plain(plan.ramp(plain_only))


def held_ramp(plan: RampPlan, options: Mapping[str, str]) -> Baked:
    ramp = plan.ramp(plain_only)
    if plan.steps is not None:
        return stepped(ramp, plan.steps)
    return bake(ramp, 0.3, is_straight=True)


def _row(left: float, middle: float, right: float, first: list[float], last: list[float], blend: int) -> str:
    numbers = " ".join(f"{value:.6f}" for value in (left, middle, right, *first, *last))
    return f"{numbers} {blend} 0"


def write(document: Document) -> bytes:
    """Segments between its own stops where that says all, else between baked ones."""
    name, plan, ramp = document.ramp
    rows = []
    if plan.steps is None and _is_plain(ramp):
        places = ramp.positions
        if places[0] > 0 or places[-1] < 1:
            ramp = Ramp(
                (*([Stop(ramp.stops[0].color, 0.0)] if places[0] > 0 else []), *ramp.stops,
                 *([Stop(ramp.stops[-1].color, 1.0)] if places[-1] < 1 else [])), ramp.lane,
            )  # fmt: skip
            places = ramp.positions
        for stop, after, left, right in zip(ramp.stops[:-1], ramp.stops[1:], places[:-1], places[1:], strict=True):
            if right > left:
                ends = [[*end.color.srgb, end.color.alpha] for end in (stop, after)]
                rows.append(_row(left, left + stop.midpoint * (right - left), right, ends[0], ends[1], int(stop.midpoint != 0.5)))
    else:
        baked = held_ramp(plan.untied(document.palette.color_of), document.options)
        ends = np.column_stack([baked.srgb, baked.alpha]).tolist()
        for place, (left, right) in enumerate(zip(baked.places[:-1].tolist(), baked.places[1:].tolist(), strict=True)):
            if right > left:
                rows.append(_row(left, (left + right) / 2, right, ends[place], ends[place + 1], 0))
    title = " ".join(name.split()) or "Ramp"
    return ("\n".join([FIRST_LINE, f"Name: {title}", str(len(rows)), *rows]) + "\n").encode()


FORMATS.register(
    Format(
        "ggr", (".ggr",), "gradient", "palette", "text/plain; charset=utf-8", Keeps(title=True, alpha="all"),
        "A gradient for painting programs: segments with midpoints.", contents=frozenset({"ramps"}),
        ramp=RampKeeps("baked", held_ramp, says_all, steps=True), is_text=True,
        limits=ReadingLimits(2_000_000, LINES), sniff=sniff, read=read, write=write,
    )
)  # fmt: skip
