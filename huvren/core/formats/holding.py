"""What a format holds of a palette: everything that is lost is lost here, before a byte is written.

A writer is given what is held and writes exactly that; the keep report is the difference between the palette and what is held. So
report and file cannot disagree, and reading a file back gives what was held, which a property test makes sure of.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color, srgb_of
from huvren.core.formats.keeping import Keeps
from huvren.core.palette.fields import losable_fields_of
from huvren.core.palette.naming import Namer, suggest_names
from huvren.core.palette.values import Group, Palette, Swatch, clean_name

Colors = Callable[[Sequence[Color]], list[Color]]
"""Colors as they are → as a file holds them, one for one."""


def stepped(values: Floats, steps: float) -> Floats:
    """Numbers 0..1 on a grid of so many steps, rounded half up, inside of it.

    Parameters
    ----------
    values : Floats
        Any shape.
    steps : float
        Number of steps.

    Returns
    -------
    Floats
        The same shape.
    """
    return np.asarray(np.floor(np.clip(values, 0.0, 1.0) * steps + 0.5) / steps)


def in_spaces(color: Color, spaces: Sequence[str]) -> Color:
    """A color in a space that a format has: its own, Lab, or mapped into sRGB."""
    if color.space in spaces:
        return color
    if "lab" in spaces and (color.space == "lab-d65" or not color.in_srgb):
        return Color("lab", color.to("lab"), color.alpha)
    return Color("srgb", color.srgb, color.alpha)


def within_reach(color: Color, spaces: Sequence[str]) -> Color:
    """As `in_spaces`, for files whose sRGB channels end at 0 and 1: what lies outside is held as Lab."""
    if color.space not in ("cmyk", "gray", "lab") and not color.in_srgb:
        return Color("lab", color.to("lab"), color.alpha)
    return in_spaces(color, spaces)


def in_depth(colors: Sequence[Color], bits: int) -> list[Color]:
    """Colors as sRGB with so many bits a channel, alpha too; what lies outside is mapped into the gamut first."""
    if not colors:
        return []
    srgb, inside = srgb_of(colors)
    before = np.column_stack([srgb, [color.alpha for color in colors]])
    after = stepped(before, 2**bits - 1)
    same = (inside & (before == after).all(axis=1)).tolist()
    return [
        color if stays and color.space == "srgb" and not color.missing else Color("srgb", (row[0], row[1], row[2]), row[3])
        for color, stays, row in zip(colors, same, after.tolist(), strict=True)
    ]


def as_kept(colors: Sequence[Color], keeps: Keeps) -> list[Color]:
    """Colors in the spaces and the depth that a format declares."""
    if keeps.spaces == ("srgb",) and keeps.depth_bits is not None:
        return in_depth(colors, keeps.depth_bits)
    held = [in_spaces(color, keeps.spaces) for color in colors]
    return held if keeps.missing else [replace(color, missing=()) if color.missing else color for color in held]


def _as_opaque(colors: Sequence[Color], keeps: Keeps) -> list[Color]:
    """Colors with the alpha that a format has room for."""
    if keeps.alpha == "all":
        return list(colors)
    clear = next((place for place, color in enumerate(colors) if color.alpha == 0), None) if keeps.alpha == "one clear" else None
    return [color if place == clear or color.alpha == 1 else color.with_alpha(1.0) for place, color in enumerate(colors)]


def _groups(
    palette: Palette, name_of: Callable[[str], str], joins: bool, kept: Sequence[str] = ()
) -> tuple[list[str | None], list[Group]]:
    """The group of each swatch and all groups, as a reader meets them: every run of one group is a group of its own."""
    names = {group.id: name_of(clean_name(group.name)) for group in palette.groups}
    known = {group.id: group for group in palette.groups}
    of_each: list[str | None] = []
    made: dict[str, Group] = {}
    now, before, used = "", None, set()
    for swatch in palette.swatches:
        if swatch.group != before or not of_each:
            name = names.get(swatch.group or "", "")
            if not name:
                now = ""
            elif not (joins and now and made[now].name == name):
                group = known[swatch.group or ""]
                is_new = group.id not in used
                used.add(group.id)
                held = Group(name, group.id, **{field: getattr(group, field) for field in kept}) if is_new else Group(name)
                made[held.id] = held
                now = held.id
            before = swatch.group
        of_each.append(now or None)
    return of_each, list(made.values())


def _names(swatches: Sequence[Swatch], colors: Sequence[Color], name_of: Callable[[str], str]) -> list[str]:
    """Names as they are written; what has none gets the suggested one, as it would from any reader."""
    names = [name_of(clean_name(swatch.name)) for swatch in swatches]
    nameless = [place for place, name in enumerate(names) if not name]
    if nameless:
        namer = Namer(names)
        for place, word in zip(nameless, suggest_names([colors[place] for place in nameless]), strict=True):
            names[place] = namer.give(word)
    return names


def _itself(text: str) -> str:
    return text


def _stated(keeps: Keeps, owner: type) -> list[str]:
    """The fields of a class that a format states to hold as they are."""
    return [entry.name for entry in losable_fields_of(owner) if entry.key in keeps.fields]


def held_palette(
    palette: Palette, keeps: Keeps, colors: Colors | None = None, name: Callable[[str], str] = _itself,
    title: Callable[[str], str] = _itself,
) -> Palette:  # fmt: skip
    """What a format holds of a palette by what it declares to keep; swatches keep their ids, so that they can be told apart.
    Only a format that states that it holds everything does; a field that is not stated is lost.

    colors : where a format rounds in its own way; name, title : where it cannot hold every text.
    """
    if keeps.everything:
        return palette
    source = palette.filled() if keeps.places == "index" else palette
    swatches = source.swatches
    opaque = _as_opaque([swatch.color for swatch in swatches], keeps)
    held = colors(opaque) if colors else as_kept(opaque, keeps)
    names = _names(swatches, held, name) if keeps.names else [""] * len(swatches)
    of_each, groups = (
        _groups(source, name, keeps.joins_groups, _stated(keeps, Group)) if keeps.groups else ([None] * len(swatches), [])
    )
    kept = _stated(keeps, Swatch)
    made = tuple(
        Swatch(
            color, text, swatch.id, group=group,
            tags=tuple(tag for tag in swatch.tags if tag in keeps.tags) if swatch.tags else (),
            **{name: getattr(swatch, name) for name in kept},
        )
        for swatch, color, text, group in zip(swatches, held, names, of_each, strict=True)
    )  # fmt: skip
    called = title(clean_name(source.name)) if keeps.title else ""
    further = {name: getattr(source, name) for name in _stated(keeps, Palette)}
    return Palette(called or "Untitled", made, tuple(groups), **further)


def shortest(coords: Floats, space: str, digits: Sequence[Sequence[int]], scale: Sequence[float], most: float) -> Floats:
    """Coordinates with as few decimals as bring the color back to within `most` (ΔEOK×100).

    Parameters
    ----------
    coords : Floats
        (n, channels) coordinates.
    space : str
        Id of the space of `coords`.
    digits : Sequence[Sequence[int]]
        Decimals of each channel, the fewest first.
    scale : Sequence[float]
        What each channel is multiplied by where it is written.
    most : float
        ΔEOK×100 that may be lost.

    Returns
    -------
    Floats
        (n, channels) coordinates that the written numbers mean.
    """
    factor = np.array(scale)
    written = np.empty_like(coords)
    left = np.arange(len(coords))
    before = convert(coords, space, "oklab")
    for row in digits:
        written[left] = np.stack([np.round(coords[left, at] * factor[at], count) for at, count in enumerate(row)], axis=1) + 0.0
        after = convert(written[left] / factor, space, "oklab")
        left = left[np.linalg.norm(after - before[left], axis=1) * 100 > most]
        if not len(left):
            break
    return np.asarray(written / factor)
