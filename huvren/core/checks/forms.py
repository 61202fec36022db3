"""Forms in light: whether groups, or runs of neighboring hues, can hold light and shadow."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from huvren.core.checks.check import CHECKS, MOST_MENDS, Check, Mend, Part, Report, Setting, Settings, listed, nothing
from huvren.core.checks.drawing import Drawing, Handle, short
from huvren.core.checks.shapes import FORMS, SIZE, lit
from huvren.core.checks.subject import Subject
from huvren.core.color.arrays import Bytes, Floats
from huvren.core.palette.operations.bake_ramp import FillBetween
from huvren.core.palette.operations.sort import SortSwatches
from huvren.core.ramp.recipe import RampRecipe
from huvren.core.reduction.dithers.ordered import bayer

NEUTRAL = 0.03
HUE_REACH, HUE_REACH_ONE_WAY = 40.0, 60.0
"""Degrees that neighbors of a run may turn in hue; and those whose lightness goes one way, as color maps do."""
HUE_JUMP, VIVID = 75.0, 0.06
"""Degrees from which two strong colors beside each other are two materials."""
MANY_JUMPS = 3
"""Of them in a group that also goes up and down in lightness: its colors tell things apart."""
MOST_TURNED = 120.0
"""Degrees that a run outside of groups turns in all, unless its lightness goes one way; a row of hues is no run."""
SEEN = 0.01
"""A step of lightness below which none is seen."""
MOST_RUNS = 4
FEWEST_IN_RUN = 2
GROUND = 255
CROOKED, FLAT = 1000, 20


@dataclass(frozen=True)
class Run:
    """Swatches that are meant to shade together, in strip order."""

    name: str
    """Of the group or the stretch."""
    places: tuple[int, ...]
    """Of its swatches."""


def runs_of(subject: Subject) -> list[Run]:
    """The groups; outside of them neighbors in the strip whose hues lie near each other, neutrals with any."""
    names = {group.id: group.name for group in subject.palette.groups}
    found: list[Run] = []
    held: list[int] = []
    for place, swatch in enumerate(subject.swatches):
        before = subject.swatches[held[-1]] if held else None
        same = before is not None and before.group == swatch.group and (swatch.group is not None or _near(subject, held, place))
        if held and not same:
            found.append(_run(subject, held, names))
            held = []
        held.append(place)
    if held:
        found.append(_run(subject, held, names))
    return [run for run in found if len(run.places) >= FEWEST_IN_RUN and not _is_of_hues(subject, run)]


def _turns(subject: Subject, places: Sequence[int], least: float) -> Floats:
    """Degrees from each color of at least so much chroma to the next of them."""
    hues = np.array([subject.oklch[at, 2] for at in places if subject.oklch[at, 1] >= least])
    return np.asarray(np.abs((np.diff(hues) + 180) % 360 - 180))


def _goes_one_way(lightness: Floats) -> bool:
    """Whether nothing that is seen goes back."""
    rising = lightness if lightness[-1] >= lightness[0] else -lightness
    return bool((np.maximum.accumulate(rising) - rising).max() <= SEEN)


def _is_of_hues(subject: Subject, run: Run) -> bool:
    """Whether it is a row of hues, that tell things apart, rather than one that shades."""
    is_group = subject.swatches[run.places[0]].group is not None
    if is_group:
        turns = _turns(subject, run.places, VIVID)
        jumps = int((turns > HUE_JUMP).sum())
        is_one_way = _goes_one_way(subject.oklab[list(run.places), 0])
        return jumps > max(1.0, len(turns) / 2) or (jumps >= MANY_JUMPS and not is_one_way)
    turned = float(_turns(subject, run.places, NEUTRAL).sum())
    return turned > MOST_TURNED and not _goes_one_way(subject.oklab[list(run.places), 0])


def _near(subject: Subject, held: list[int], place: int) -> bool:
    vivid = [at for at in held if subject.oklch[at, 1] >= NEUTRAL]
    if not vivid or subject.oklch[place, 1] < NEUTRAL:
        return not vivid or len(held) < 2 or subject.oklch[place, 1] < NEUTRAL
    turn = abs((subject.oklch[place, 2] - subject.oklch[vivid[-1], 2] + 180) % 360 - 180)
    return bool(turn <= HUE_REACH or (turn <= HUE_REACH_ONE_WAY and _goes_one_way(subject.oklab[[*held, place], 0])))


def _run(subject: Subject, places: list[int], names: dict[str, str]) -> Run:
    group = subject.swatches[places[0]].group
    plain = f"{subject.name(places[0])} to {subject.name(places[-1])}"
    return Run(f"“{names[group]}”" if group in names else plain, tuple(places))


@dataclass(frozen=True)
class Fault:
    """Why a run cannot hold a form. kind : “few”, “flat”, “crooked”, “jump” or “hue”; pair : the two places around a jump."""

    run: Run
    """Where."""
    kind: str
    words: str
    """What is wrong there."""
    badness: int
    """An order that goes up and down is worse than any number of steps that jump or are missing."""
    pair: tuple[int, int] | None = None


def fault_of(subject: Subject, run: Run, fewest: int, jump: float, spread: float) -> Fault | None:
    """The first of: an order that goes up and down, too little between its ends, a step that jumps in lightness or hue, too few."""
    lightness = subject.oklab[list(run.places), 0]
    rises = np.diff(lightness)
    if not _goes_one_way(lightness):
        return Fault(run, "crooked", "goes up and down in lightness", CROOKED)
    steps = np.abs(rises)
    if float(np.ptp(lightness)) < spread:
        return Fault(run, "flat", f"spans only {np.ptp(lightness):.2f} in lightness", FLAT)
    worst = int(np.argmax(steps))
    if steps[worst] > jump:
        jumps = FLAT + int((steps > jump).sum())
        return Fault(run, "jump", f"jumps by {steps[worst]:.2f}", jumps, (run.places[worst], run.places[worst + 1]))
    hue = _hue_jump(subject, run)
    if hue is not None:
        turn = float(_turns(subject, hue, VIVID)[0])
        return Fault(run, "hue", f"turns by {turn:.0f}° in hue at one step", FLAT, hue)
    if len(run.places) < fewest:
        missing = fewest - len(run.places)
        return Fault(run, "few", f"has {len(run.places)} steps", min(missing, FLAT), (run.places[worst], run.places[worst + 1]))
    return None


def _hue_jump(subject: Subject, run: Run) -> tuple[int, int] | None:
    """The two strong colors beside each other that turn the most in hue, if that is too much."""
    pairs = [pair for pair in pairwise(run.places) if len(turn := _turns(subject, pair, VIVID)) and turn[0] > HUE_JUMP]
    return max(pairs, key=lambda pair: float(_turns(subject, pair, VIVID)[0])) if pairs else None


def _mend(subject: Subject, fault: Fault, fewest: int, jump: float) -> Mend | None:
    ids = subject.ids(fault.run.places)
    if fault.kind == "crooked":
        pinned = any(subject.swatches[place].pinned for place in fault.run.places)
        return None if pinned else Mend(f"Order {fault.run.name} by lightness", SortSwatches(ids=list(ids), keys=["lightness"]))
    if fault.pair is None or fault.kind == "hue" or subject.palette.slots is not None:
        return None
    gap = abs(float(subject.oklab[fault.pair[0], 0] - subject.oklab[fault.pair[1], 0]))
    count = max(int(np.ceil(gap / (jump - 0.008))) - 1, fewest - len(fault.run.places) if fault.kind == "few" else 1, 1)
    step = FillBetween(ids=list(subject.ids(fault.pair)), count=min(count, 12), ramp=RampRecipe(stops=[], spacing="lightness"))
    return Mend(
        f"Bake {'a step' if count == 1 else f'{count} steps'} between {subject.name(fault.pair[0])} and "
        f"{subject.name(fault.pair[1])}",
        step,
    )


def shaded(light: Floats, lightness: Floats, dithered: bool) -> Bytes:
    """(h, w) light 0..1 → (h, w) which of (n,) rising lightnesses each pixel gets; dithered between the two around it.

    Parameters
    ----------
    light : Floats
        (h, w) light 0..1.
    lightness : Floats
        (n,) rising lightnesses 0..1.
    dithered : bool
        Whether pixels alternate between the two lightnesses around.

    Returns
    -------
    Bytes
        (h, w) which of (n,) rising lightnesses each pixel gets; dithered between the two around it.
    """
    share = (light - light.min()) / max(float(np.ptp(light)), 1e-9)
    wanted = lightness[0] + share * (lightness[-1] - lightness[0])
    above = np.clip(np.searchsorted(lightness, wanted), 1, len(lightness) - 1)
    low, high = lightness[above - 1], lightness[above]
    part = np.where(high > low, (wanted - low) / np.where(high > low, high - low, 1), 1.0)
    if dithered:
        y, x = np.indices(light.shape)
        threshold = (bayer(4)[y % 4, x % 4] + 0.5) / 16
    else:
        threshold = np.full(light.shape, 0.5)
    return np.asarray(np.where(part > threshold, above, above - 1), dtype=np.uint8)


def _draw(subject: Subject, runs: list[Run], faults: dict[str, Fault], views: Settings) -> Drawing:
    shown = sorted(runs, key=lambda run: (run.name not in faults, -len(run.places)))[:MOST_RUNS]
    row = SIZE + 26
    sheet = Drawing(860, max(len(shown) * row + 8, 200), "Four forms in light, painted with each run; one row a run.")
    degrees, dithered = float(views["light"]), views["laid"] == "dithered"
    for number, run in enumerate(shown):
        y = number * row
        rising = sorted(run.places, key=lambda place: subject.oklab[place, 0])
        lightness = subject.oklab[rising, 0]
        ids = subject.ids(run.places)
        sheet.words(0, y + 16, short(run.name, 20), 13, "ink", bold=True, ids=ids)
        fault = faults.get(run.name)
        sheet.words(0, y + 34, fault.words if fault else "holds a form", 12, ids=ids)
        step = min(26.0, 160 / len(run.places))
        for at, place in enumerate(run.places):
            sheet.rect(at * step, y + 46, step + 0.3, 30, subject.hex(place), subject.ids((place,)), subject.name(place))
        middle = lightness.mean()
        for at, place in enumerate(run.places):
            top = y + 118 - 30 * float((subject.oklab[place, 0] - middle) / max(np.ptp(lightness), 0.2))
            sheet.rect(at * step, top, step - 1, 2.5, "ink", subject.ids((place,)))
        for at, form in enumerate(FORMS):
            light, inside = lit(form, degrees)
            painted = np.full(light.shape, GROUND, np.uint8)
            painted[inside] = shaded(np.where(inside, light, light[inside].mean()), lightness, dithered)[inside]
            table = [subject.hex(place) for place in rising]
            sheet.image(206 + at * 146, y, SIZE, SIZE, painted, table, ids, f"{form} in {run.name}")
    sheet.handle = Handle("light", 826, 32, 24)
    if len(runs) > len(shown):
        sheet.words(0, sheet.height - 2, f"{len(shown)} of {len(runs)} runs are shown, those that cannot hold a form first.", 12)
    return sheet


def _examine(subject: Subject, limits: Settings) -> Report:
    runs = runs_of(subject)
    if not runs:
        return nothing("There is no group and no run of two neighboring hues to shade a form with.")
    fewest, jump, spread = int(float(limits["steps"])), float(limits["jump"]), float(limits["spread"])
    faults = [fault for run in runs if (fault := fault_of(subject, run, fewest, jump, spread))]
    by_name = {fault.run.name: fault for fault in faults}
    if not faults:
        parts = [
            Part(
                f"{'The run' if len(runs) == 1 else f'All {len(runs)} runs'} can hold a form: steps follow each other "
                f"without a jump.{subject.left_out}"
            )
        ]
        return Report("holds", tuple(parts), lambda views: _draw(subject, runs, by_name, views))
    named = listed((Part(f"{fault.run.name} {fault.words}", subject.ids(fault.run.places)) for fault in faults), len(faults))
    parts = [Part(f"{len(runs) - len(faults)} of {len(runs)} runs can hold a form; "), *named, Part(f".{subject.left_out}")]
    pairs = tuple((subject.swatches[f.pair[0]].id, subject.swatches[f.pair[1]].id) for f in faults if f.pair and f.kind == "jump")
    return Report(
        "fails" if len(faults) == len(runs) else "look",
        tuple(parts),
        lambda views: _draw(subject, runs, by_name, views),
        lambda: (_mend(subject, fault, fewest, jump) for fault in faults[:MOST_MENDS]),
        pairs,
        badness=sum(fault.badness for fault in faults),
    )


CHECKS.register(
    Check(
        "forms",
        "Forms in light",
        "Does it shade?",
        "A form turns from light into shadow over several steps. A run with too few of them, with one that jumps, or with one out of "
        "order paints a hard edge where there is none.",
        "Edges that the form does not have. Turn the lamp: a run that holds does so from every side.",
        _examine,
        ("#2a1610", "#c8641e", "#8a3c14", "#ffd478", "#ffe9b8"),
        (
            Setting("steps", "steps at least", 4, "How many steps a run needs.", low=2, high=16),
            Setting("jump", "no step over", 0.22, "In lightness.", low=0.03, high=1, step=0.01),
            Setting("spread", "from dark to light", 0.25, "How much lightness lies between a run's ends.", low=0, high=1, step=0.01),
        ),
        (
            Setting("light", "lamp at", 130, "Where the lamp stands: 0 right, 90 above.", low=0, high=360, unit="°"),
            Setting(
                "laid",
                "laid out",
                "plain",
                "Flat steps, or mingled.",
                "choice",
                choices=(("plain", "in flat steps"), ("dithered", "dithered")),
            ),
        ),
    )
)
