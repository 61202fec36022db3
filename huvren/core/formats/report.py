"""The keep report: what a file will drop or change for one very palette, before it is written."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from huvren.core.color.difference import delta_eok
from huvren.core.color.gamut import in_srgb_gamut
from huvren.core.color.spaces import SPACES, convert
from huvren.core.formats import Document, Format, Keeps, held_color, sections
from huvren.core.palette.naming import suggest_names
from huvren.core.palette.values import Palette, Swatch
from huvren.core.ramp.plan import Look, RampPlan

VISIBLE_CHANGE = 0.005
"""Changes below this ΔEOK×100 are rounding and not worth a line."""


@dataclass(frozen=True)
class Loss:
    """One thing that is dropped or changed. `worst` is the largest color change in ΔEOK×100, where colors change."""

    code: str
    text: str
    count: int
    worst: float | None = None


def _count(number: int, noun: str, plural: str = "") -> str:
    return f"{number:,} {noun if number == 1 else plural or noun + 's'}"


def _given(swatches: Sequence[Swatch]) -> int:
    """How many names say more than the one that is suggested for the color anyway."""
    suggested = suggest_names([swatch.color for swatch in swatches]) if swatches else []
    return sum(
        bool(swatch.name) and swatch.name != word
        and not (swatch.name.startswith(word + " ") and swatch.name[len(word) + 1 :].isdigit())
        for swatch, word in zip(swatches, suggested, strict=True)
    )  # fmt: skip


def _oklab(swatch: Swatch) -> tuple[float, ...]:
    return swatch.color.to("oklab")


def _rounded(coords: tuple[float, ...], bits: int | None) -> tuple[float, ...]:
    if bits is None:
        return coords
    steps = 2**bits - 1
    return tuple(float(np.floor(value * steps + 0.5) / steps) for value in coords)


def _color_losses(palette: Palette, keeps: Keeps) -> list[Loss]:
    mapped: list[float] = []
    moved: list[float] = []
    flattened: Counter[str] = Counter()
    changes: list[float] = []
    # Nearly all swatches are plain sRGB: they are looked at all at once.
    is_plain = "srgb" in keeps.spaces and keeps.depth_bits is not None
    plain = [s.color for s in palette.swatches if is_plain and s.color.space == "srgb" and s.color.alpha > 0]
    if plain and keeps.depth_bits is not None:
        coords, steps = np.array([color.coords for color in plain]), 2**keeps.depth_bits - 1
        after_all = np.floor(coords * steps + 0.5) / steps
        gaps = delta_eok(convert(coords, "srgb", "oklab"), convert(after_all, "srgb", "oklab"))
        inside = in_srgb_gamut(coords)
        mapped += gaps[~inside].tolist()
        moved += gaps[inside & (gaps > VISIBLE_CHANGE)].tolist()
    for swatch in palette.swatches:
        color = swatch.color
        if color.alpha == 0 or (is_plain and color.space == "srgb"):
            continue
        held = held_color(color, keeps)
        before = color.to("oklab")
        if held.space == color.space and (held.space != "srgb" or keeps.depth_bits is None):
            continue
        if held.space == "srgb":
            after = convert(_rounded(held.coords, keeps.depth_bits), "srgb", "oklab")
        else:
            after = np.array(held.to("oklab"))
        change = float(delta_eok(before, after))
        if not color.in_srgb and held.space == "srgb":
            mapped.append(change)
        elif held.space != color.space and color.space != "srgb":
            flattened[color.space] += 1
            changes.append(change)
        elif change > VISIBLE_CHANGE:
            moved.append(change)
    losses = []
    if mapped:
        losses.append(
            Loss("gamut", f"{_count(len(mapped), 'color')} outside sRGB mapped into it (largest change ΔE {max(mapped):.1f})",
                 len(mapped), max(mapped))
        )  # fmt: skip
    if flattened:
        kinds = ", ".join(f"{count:,} {SPACES[space].label}" for space, count in flattened.items())
        into = "Lab" if "lab" in keeps.spaces and "srgb" not in keeps.spaces else "sRGB"
        losses.append(
            Loss("space", f"{kinds} {'value' if sum(flattened.values()) == 1 else 'values'} written as {into} "
                 f"(largest change ΔE {max(changes):.1f})", sum(flattened.values()), max(changes))
        )  # fmt: skip
    if moved:
        losses.append(
            Loss("depth", f"{_count(len(moved), 'color')} rounded to {keeps.depth_bits} bits (largest change ΔE {max(moved):.2f})",
                 len(moved), max(moved))
        )  # fmt: skip
    return losses


def _joined(palette: Palette) -> int:
    """Groups that stand right behind another group of the same name."""
    runs = [name for name, _ in sections(palette)]
    return sum(bool(after) and before == after for before, after in pairwise(runs))


def _place_losses(palette: Palette, keeps: Keeps) -> list[Loss]:
    """Of numbered places: those up to the last swatch are filled or closed up, those behind it are dropped; so are pins."""
    slots, count = palette.slots or 0, len(palette.swatches)
    reach = 1 + max((swatch.slot for swatch in palette.swatches if swatch.slot is not None), default=-1)
    between = reach - count if keeps.places == "index" else 0
    left = slots - count - between
    losses = [Loss("places", f"{_count(between, 'empty place')} filled with black", between)] if between else []
    if left:
        how = "dropped at the end" if keeps.places == "index" else "dropped: the swatches close up"
        losses.append(Loss("places-end" if between else "places", f"{_count(left, 'empty place')} {how}", left))
    pinned = sum(swatch.pinned for swatch in palette.swatches)
    return [*losses, *([Loss("pins", f"{_count(pinned, 'pin')} dropped", pinned)] if pinned else [])]


def keep_report(entry: Format, document: Document, came_with: Keeps | None = None) -> list[Loss]:
    """Everything that writing `document` in this format would drop or change; empty where nothing is lost.

    came_with : what the palette's own source could hold; ids it never had cannot be lost (None: it may have all).
    """
    palette, keeps = document.palette, entry.keeps
    swatches = palette.swatches
    losses: list[Loss] = []
    if keeps.most is not None and len(swatches) > keeps.most:
        over = len(swatches) - keeps.most
        losses.append(Loss("count", f"{_count(over, 'swatch', 'swatches')} too many: {keeps.most:,} is the most", over))
    if not keeps.names and (named := _given(swatches)):
        losses.append(Loss("names", f"{_count(named, 'name')} dropped", named))
    if palette.groups and not keeps.groups:
        losses.append(Loss("groups", f"{_count(len(palette.groups), 'group name')} dropped", len(palette.groups)))
    elif keeps.joins_groups and (joined := _joined(palette)):
        losses.append(Loss("joined", f"{_count(joined, 'group')} joined with the one of the same name before it", joined))
    clear = sum(swatch.color.alpha == 0 for swatch in swatches)
    partly = sum(0 < swatch.color.alpha < 1 for swatch in swatches)
    opaque_now = {"all": 0, "one clear": partly + max(clear - 1, 0), "none": partly + clear}[keeps.alpha]
    if opaque_now:
        losses.append(Loss("alpha", f"{_count(opaque_now, 'swatch', 'swatches')} made opaque", opaque_now))
    losses += _color_losses(palette, keeps)
    locked = sum(swatch.locked for swatch in swatches)
    if locked and not keeps.locks:
        losses.append(Loss("locks", f"{_count(locked, 'lock')} dropped", locked))
    if palette.columns and not keeps.columns:
        losses.append(Loss("columns", "the number of columns dropped", 1))
    if palette.slots is not None and keeps.places != "all":
        losses += _place_losses(palette, keeps)
    written = sum(bool(swatch.note or swatch.tags) for swatch in swatches)
    if written and not keeps.notes:
        losses.append(Loss("notes", f"{_count(written, 'swatch', 'swatches')} without their notes and tags", written))
    if palette.tags and not keeps.notes:
        losses.append(Loss("tags", f"{_count(len(palette.tags), 'tag')} of the palette dropped", len(palette.tags)))
    wide = sum(group.columns is not None for group in palette.groups)
    if wide and not keeps.notes:
        losses.append(Loss("group-columns", f"the columns of {_count(wide, 'group')} dropped", wide))
    if palette.limits and not keeps.notes:
        losses.append(Loss("limits", f"limits of {_count(len(palette.limits), 'check')} dropped", len(palette.limits)))
    if palette.variants and not keeps.notes:
        others = len(palette.variants) - 1
        losses.append(Loss("variants", f"{_count(others, 'other variant')} dropped: the one that is shown is written", others))
    if palette.ramps and not keeps.ramps:
        losses.append(Loss("ramps", f"{_count(len(palette.ramps), 'kept ramp')} dropped", len(palette.ramps)))
    if not keeps.ids and (came_with is None or came_with.ids) and swatches:
        losses.append(Loss("ids", "identities dropped: a file read back makes new swatches", len(swatches)))
    return losses


def ramp_report(entry: Format, name: str, plan: RampPlan, look: Look, options: Mapping[str, str]) -> list[Loss]:
    """Everything that a file of one ramp drops or changes. The change of color is measured on what its readers will draw."""
    assert entry.ramp is not None
    keeps, ramp = entry.ramp, plan.ramp(look)
    held = keeps.held(plan.untied(look), options)
    losses: list[Loss] = []
    says_all = keeps.says_all(plan.untied(look))
    if not says_all:
        what = f"{len(held.places):,} {'samples' if keeps.form == 'samples' else 'stops in sRGB'}"
        losses.append(Loss("form", f"{_count(len(plan.stops), 'stop')} written as {what}", len(plan.stops)))
    if tied := len(plan.tied()):
        losses.append(Loss("ties", f"{_count(tied, 'tie')} to swatches dropped", tied))
    if plan.steps is not None and not keeps.steps:
        losses.append(Loss("steps", f"the {plan.steps:,} steps dropped: the file is continuous", plan.steps))
    if name and not keeps.name:
        losses.append(Loss("names", "the name dropped", 1))
    shares = (np.arange(1024) + 0.5) / 1024
    srgb, alpha, inside = ramp.shown(shares)
    if plan.steps is not None and keeps.steps:
        srgb, alpha, inside = ramp.shown(ramp.shares(plan.steps)[np.minimum((shares * plan.steps).astype(int), plan.steps - 1)])
    clear = int((alpha < 1 - 1e-6).sum())
    if clear and not keeps.alpha:
        losses.append(Loss("alpha", "made opaque", clear))
    outside = int((~inside).sum())
    if outside:
        share = f"{outside / len(shares):.0%}"
        losses.append(Loss("gamut", f"{share} of its length outside sRGB, shown with {ramp.gamut.label}", outside))
    if not says_all:
        drawn = held.at(shares)
        gaps = delta_eok(convert(drawn[:, :3], "srgb", "oklab"), convert(srgb, "srgb", "oklab")) * np.minimum(alpha, drawn[:, 3])
        worst = float(np.max(gaps)) if keeps.alpha else float(np.max(gaps[alpha > 0], initial=0.0))
        if worst > VISIBLE_CHANGE:
            losses.append(Loss("drawn", f"drawn a little differently (largest change ΔE {worst:.2f})", 1, worst))
    return losses
