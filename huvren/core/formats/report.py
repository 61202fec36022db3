"""The keep report: what a file drops or changes of one very palette: the difference to what the file holds of it."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from huvren.core.color.difference import delta_eok
from huvren.core.color.spaces import SPACES, convert
from huvren.core.color.value import Color
from huvren.core.formats.format import Document, Format, Keeps
from huvren.core.formats.table_cells import is_formula
from huvren.core.palette.fields import Field, Words, losable_fields_of
from huvren.core.palette.naming import says_no_more, suggest_names
from huvren.core.palette.values import Group, Palette, Swatch
from huvren.core.ramp.plan import ColorOf, RampPlan

VISIBLE_CHANGE = 0.005
"""Changes below this ΔEOK×100 are rounding and not worth a line."""
ALPHA_CHANGE = 1e-4
"""So are changes of alpha below this; a step of eight bits is 40 times as much."""
WITHIN_SRGB = ("srgb", "hsl", "hwb", "hsv", "gray", "cmyk")
"""Spaces that reach no farther than sRGB."""


@dataclass(frozen=True)
class Loss:
    """One thing that is dropped or changed. `worst` and `mean` are of the color changes in ΔEOK×100, where colors change."""

    code: str
    """Kind of loss."""
    text: str
    """In words."""
    count: int
    """How many swatches it is about."""
    worst: float | None = None
    """Largest ΔEOK×100."""
    mean: float | None = None
    """Mean ΔEOK×100."""


Pair = tuple[Swatch, Swatch]
"""A swatch, and what is held of it."""


def _count(number: int, noun: str, plural: str = "") -> str:
    return f"{number:,} {noun if number == 1 else plural or noun + 's'}"


def _given(swatches: Sequence[Swatch]) -> int:
    """How many names say more than the one that is suggested for the color anyway."""
    suggested = suggest_names([swatch.color for swatch in swatches]) if swatches else []
    return sum(bool(swatch.name) and not says_no_more(swatch.name, word) for swatch, word in zip(swatches, suggested, strict=True))


def _figures(changes: Sequence[float]) -> str:
    """The largest change, and the mean where there are several."""
    worst, mean = max(changes), sum(changes) / len(changes)
    return f"(largest change ΔE {worst:.2f}" + (f", mean {mean:.2f})" if len(changes) > 1 else ")")


def _changes(pairs: Sequence[Pair]) -> list[float]:
    """ΔEOK×100 between each color and what is held of it; the same color costs nothing."""
    gaps = [0.0] * len(pairs)
    kinds: dict[tuple[str, str], list[int]] = {}
    for place, (before, after) in enumerate(pairs):
        if before.color is not after.color and before.color.alpha > 0:
            kinds.setdefault((before.color.space, after.color.space), []).append(place)
    for (source, target), places in kinds.items():
        old = convert([pairs[place][0].color.coords for place in places], source, "oklab")
        new = convert([pairs[place][1].color.coords for place in places], target, "oklab")
        for place, gap in zip(places, delta_eok(old, new).tolist(), strict=True):
            gaps[place] = gap
    return gaps


def _is_clipped(before: Color, after: Color) -> bool:
    """Whether a change is more than rounding: held in another space that is not sRGB, or a channel moved by more than 1/400."""
    if before.space != after.space:
        return after.space not in WITHIN_SRGB
    channels = SPACES[before.space].channels
    return any(
        abs(one - other) * 400 > channel.high - channel.low and not channel.is_hue
        for one, other, channel in zip(before.coords, after.coords, channels, strict=True)
    )


def _color_losses(pairs: Sequence[Pair], bits: int | None) -> list[Loss]:
    """Every swatch whose color changes stands in exactly one line."""
    mapped: list[float] = []
    clipped: list[float] = []
    rounded: list[float] = []
    flattened: list[float] = []
    kinds: Counter[str] = Counter()
    into: Counter[str] = Counter()
    missing = 0
    for (before, after), change in zip(pairs, _changes(pairs), strict=True):
        old, new = before.color, after.color
        if old is new:
            continue
        missing += len(old.missing) > len(new.missing)
        is_changed = change > VISIBLE_CHANGE
        if is_changed and new.space in WITHIN_SRGB and not old.in_srgb:
            mapped.append(change)
        elif is_changed and _is_clipped(old, new):
            clipped.append(change)
        elif old.space != new.space and old.space != "srgb" and old.alpha > 0:
            flattened.append(change)
            kinds[old.space] += 1
            into[new.space] += 1
        elif is_changed:
            rounded.append(change)
    losses = []
    if mapped:
        text = f"{_count(len(mapped), 'color')} outside sRGB mapped into it {_figures(mapped)}"
        losses.append(Loss("gamut", text, len(mapped), max(mapped), _mean(mapped)))
    if clipped:
        text = f"{_count(len(clipped), 'color')} outside what the file can hold moved to its edge {_figures(clipped)}"
        losses.append(Loss("clipped", text, len(clipped), max(clipped), _mean(clipped)))
    if flattened:
        said = ", ".join(f"{count:,} {SPACES[space].label}" for space, count in kinds.items())
        forms = " or ".join(SPACES[space].label for space in into)
        text = f"{said} {'value' if len(flattened) == 1 else 'values'} written as {forms} {_figures(flattened)}"
        losses.append(Loss("space", text, len(flattened), max(flattened), _mean(flattened)))
    if rounded:
        how = f" to {bits} bits" if bits else ""
        text = f"{_count(len(rounded), 'color')} rounded{how} {_figures(rounded)}"
        losses.append(Loss("depth", text, len(rounded), max(rounded), _mean(rounded)))
    if missing:
        losses.append(Loss("missing", f"components without a value (“none”) of {_count(missing, 'color')} written as 0", missing))
    return losses


def _mean(changes: Sequence[float]) -> float:
    return sum(changes) / len(changes)


def _alpha_losses(pairs: Sequence[Pair]) -> list[Loss]:
    opaque = sum(before.color.alpha < 1 and after.color.alpha == 1 for before, after in pairs)
    changes = [
        change for before, after in pairs
        if after.color.alpha < 1 and (change := abs(before.color.alpha - after.color.alpha)) > ALPHA_CHANGE
    ]  # fmt: skip
    losses = [Loss("alpha", f"{_count(opaque, 'swatch', 'swatches')} made opaque", opaque)] if opaque else []
    if changes:
        text = f"the alpha of {_count(len(changes), 'swatch', 'swatches')} rounded (largest change {max(changes) * 100:.2f} %)"
        losses.append(Loss("alpha-depth", text, len(changes)))
    return losses


def _name_losses(pairs: Sequence[Pair]) -> list[Loss]:
    if not any(after.name for _, after in pairs):
        named = _given([before for before, _ in pairs])
        return [Loss("names", f"{_count(named, 'name')} dropped", named)] if named else []
    unnamed = sum(not before.name and bool(after.name) for before, after in pairs)
    changed = [(before.name, after.name) for before, after in pairs if before.name and before.name != after.name]
    losses = []
    if unnamed:
        text = f"{_count(unnamed, 'swatch', 'swatches')} without a name given the suggested one"
        losses.append(Loss("unnamed", text, unnamed))
    if changed:
        before, after = changed[0]
        text = f"{_count(len(changed), 'name')} changed, “{_short(before)}” into “{_short(after)}”"
        losses.append(Loss("renamed", text, len(changed)))
    return losses


def _short(text: str) -> str:
    return text if len(text) <= 30 else text[:29] + "…"


def _group_losses(palette: Palette, held: Palette, pairs: Sequence[Pair], keeps: Keeps) -> list[Loss]:
    """Names dropped or changed; runs that come back as groups of their own, or as one."""
    names = {group.id: group.name for group in palette.groups}
    after_names = {group.id: group.name for group in held.groups}
    used = {before.group for before, _ in pairs if before.group}
    losses = []
    if not keeps.groups:
        dropped = len(palette.groups)
        return [Loss("groups", f"{_count(dropped, 'group name')} dropped", dropped)] if dropped else []
    empty = len(palette.groups) - sum(group.id in used for group in palette.groups)
    gone = {before.group for before, after in pairs if before.group and not after.group} | (used - names.keys())
    if empty or gone:
        count = empty + len(gone)
        losses.append(Loss("groups", f"{_count(count, 'group')} without a swatch or a name dropped", count))
    changed = {
        before.group for before, after in pairs
        if before.group in names and after.group and names[before.group] != after_names[after.group]
    }  # fmt: skip
    if changed:
        losses.append(Loss("renamed-groups", f"{_count(len(changed), 'group name')} changed", len(changed)))
    parts: dict[str, set[str]] = {}
    wholes: dict[str, set[str]] = {}
    for before, after in pairs:
        if before.group and after.group:
            parts.setdefault(before.group, set()).add(after.group)
            wholes.setdefault(after.group, set()).add(before.group)
    split = sum(len(found) > 1 for found in parts.values())
    joined = sum(len(found) - 1 for found in wholes.values())
    if split:
        losses.append(Loss("split", f"{_count(split, 'group')} that stand apart come back as several of one name", split))
    if joined:
        losses.append(Loss("joined", f"{_count(joined, 'group')} joined with the one of the same name before it", joined))
    return losses


def _formula_losses(held: Palette) -> list[Loss]:
    """Names that stand in a table otherwise than they are, and are read back as they are."""
    used = {swatch.group for swatch in held.swatches}
    names = [swatch.name for swatch in held.swatches] + [group.name for group in held.groups if group.id in used]
    count = sum(map(is_formula, names))
    those = "name that begins like a formula" if count == 1 else "names that begin like formulas"
    text = f"{count:,} {those} marked as text by an apostrophe, which reading takes away"
    return [Loss("formulas", text, count)] if count else []


def _place_losses(palette: Palette, held: Palette, keeps: Keeps) -> list[Loss]:
    """Of numbered places: those up to the last swatch are filled or closed up, those behind it are dropped; so are pins."""
    slots, count = palette.slots or 0, len(palette.swatches)
    between = len(held.swatches) - count
    left = slots - count - between
    losses = [Loss("places", f"{_count(between, 'empty place')} filled with black", between)] if between else []
    if left:
        how = "dropped at the end" if keeps.places == "index" else "dropped: the swatches close up"
        losses.append(Loss("places-end" if between else "places", f"{_count(left, 'empty place')} {how}", left))
    if not between and not left:
        losses.append(Loss("places", f"the number of places ({slots:,}) dropped", slots))
    return losses


def _after(thing: Any, held: Any, entry: Field) -> Any:
    """What is left of a field; of a thing that is gone, nothing."""
    return entry.empty if held is None else getattr(held, entry.name)


def _field_losses(pairs: Sequence[tuple[Any, Any]], owner: type) -> list[Loss]:
    """A line for each field, or each few of the same words, that something loses: of swatches, of groups or of the palette itself.

    pairs : each thing, and what is held of it, None where it is gone.
    """
    by_words: dict[str, list[Field]] = {}
    for entry in losable_fields_of(owner):
        by_words.setdefault(entry.declared.lost.code, []).append(entry)  # type: ignore[union-attr]
    losses = []
    for code, entries in by_words.items():
        words = entries[0].declared.lost
        count, left = 0, None
        for before, after in pairs:
            changed = [e for e in entries if (was := getattr(before, e.name)) != e.empty and was != _after(before, after, e)]
            if changed:
                left = _after(before, after, changed[0])
                count += max(e.declared.count(getattr(before, e.name), _after(before, after, e)) for e in changed)
                left = None if left == changed[0].empty else left
        if count:
            assert isinstance(words, Words)
            text = words.partly(left) if words.partly and left is not None else words.text(count)
            losses.append(Loss(code, text, count))
    return losses


def keep_report(entry: Format, document: Document, came_with: Keeps | None = None, held: Palette | None = None) -> list[Loss]:
    """Everything that writing `document` in this format drops or changes; empty where nothing is lost.

    It is the difference between the palette and what the file holds of it, which is what is written.
    held : what the file holds, where that is known already. came_with : what the palette's own source could hold; ids
    and a title it never had cannot be lost (None: it may have all).
    """
    palette, keeps, held = document.palette, entry.keeps, held or entry.palette_as_held(document)
    by_id = {swatch.id: swatch for swatch in held.swatches}
    pairs = [(swatch, by_id[swatch.id]) for swatch in palette.swatches]
    losses: list[Loss] = []
    if keeps.most is not None and len(held.swatches) > keeps.most:
        over = len(held.swatches) - keeps.most
        losses.append(Loss("count", f"{_count(over, 'swatch', 'swatches')} too many: {keeps.most:,} is the most", over))
    if palette.name not in ("", "Untitled", held.name) and (came_with is None or came_with.title):
        dropped = not entry.keeps.title
        losses.append(
            Loss("title", "the title dropped: a file read back is called by its file name" if dropped else "the title changed", 1)
        )
    losses += _name_losses(pairs)
    losses += _group_losses(palette, held, pairs, keeps)
    if keeps.marks_formulas:
        losses += _formula_losses(held)
    losses += _alpha_losses(pairs)
    losses += _color_losses(pairs, keeps.depth_bits)
    if palette.slots is not None and keeps.places != "all":
        losses += _place_losses(palette, held, keeps)
    by_group = {group.id: group for group in held.groups}
    losses += _field_losses(pairs, Swatch)
    losses += _field_losses([(group, by_group.get(group.id)) for group in palette.groups], Group)
    losses += _field_losses([(palette, held)], Palette)
    if not keeps.ids and (came_with is None or came_with.ids) and pairs:
        losses.append(Loss("ids", "identities dropped: a file read back makes new swatches", len(pairs)))
    return losses


def ramp_report(entry: Format, name: str, plan: RampPlan, color_of: ColorOf, options: Mapping[str, str]) -> list[Loss]:
    """Everything that a file of one ramp drops or changes. The change of color is measured on what its readers will draw."""
    assert entry.ramp is not None
    keeps, ramp = entry.ramp, plan.ramp(color_of)
    held = keeps.held(plan.untied(color_of), options)
    losses: list[Loss] = []
    says_all = keeps.says_all(plan.untied(color_of))
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
