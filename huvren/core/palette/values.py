"""Swatch, Group, Palette: immutable values. A swatch keeps its id through every change but its removal."""

from bisect import bisect_left
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from os import urandom
from typing import Any

from huvren.core.color.value import Color
from huvren.core.errors import BadInput, Unknown
from huvren.core.palette.check_limits import CheckLimits, as_mapping, held_limits
from huvren.core.palette.fields import BY_NAME, Words, declared
from huvren.core.ramp.plan import PlanStop, RampPlan

LONGEST_NAME = 200
LONGEST_NOTE = 2000
MOST_TAGS, LONGEST_TAG = 20, 40
MOST_SWATCHES = 100_000
MOST_RAMPS = 200

Usage = Mapping[str, int]
"""Pixels that each swatch id paints in the linked pictures."""


UUID_VARIANT_DIGITS = dict(zip("0123456789abcdef", "89ab" * 4, strict=True))
"""A random digit → the first one of the fourth part of an id (RFC 9562 §4.1), whose two upper bits are 10."""


def new_id() -> str:
    """A fresh swatch or group id: a random UUID (RFC 9562 §5.4), as text."""
    # Thousands are made at once while a file is read; this is five times as fast as the library's objects.
    digits = urandom(16).hex()
    return f"{digits[:8]}-{digits[8:12]}-4{digits[13:16]}-{UUID_VARIANT_DIGITS[digits[16]]}{digits[17:20]}-{digits[20:]}"


def clean_name(name: str, what: str = "name") -> str:
    """A name on one line without control characters; raises `BadInput` when it is too long."""
    if len(name) <= LONGEST_NAME and name.isprintable() and "  " not in name and name.strip() == name:
        return name
    if len(name) > LONGEST_NAME * 50:
        raise BadInput(f"That {what} has {len(name):,} characters; {LONGEST_NAME} is the most that can be kept. Shorten it.")
    cleaned = " ".join("".join(c if c.isprintable() else " " for c in name).split())
    if len(cleaned) > LONGEST_NAME:
        raise BadInput(f"That {what} has {len(cleaned):,} characters; {LONGEST_NAME} is the most that can be kept. Shorten it.")
    return cleaned


def clean_tags(tags: Iterable[str]) -> tuple[str, ...]:
    """Tags on one line each, each once, in order. Raises `BadInput` for too many or too long ones."""
    cleaned = list(dict.fromkeys(filter(None, (clean_name(tag, "tag") for tag in tags))))
    if len(cleaned) > MOST_TAGS:
        raise BadInput(f"{len(cleaned)} tags are too many; {MOST_TAGS} is the most.")
    if long := next((tag for tag in cleaned if len(tag) > LONGEST_TAG), None):
        raise BadInput(f"The tag “{long[:30]}…” has {len(long)} characters; {LONGEST_TAG} is the most.")
    return tuple(cleaned)


def clean_note(note: str) -> str:
    """A note as it is; raises `BadInput` when it is too long."""
    if len(note) > LONGEST_NOTE:
        raise BadInput(f"That note has {len(note):,} characters; {LONGEST_NOTE:,} is the most.")
    return note


def _shorter_name(name: str) -> str:
    return clean_name(name[: LONGEST_NAME // 2])


def positive(what: str) -> Callable[[int | None], int | None]:
    """A reader of numbers from 1 to the most swatches there may be; 0 and none are none."""

    def read(value: int | None) -> int | None:
        if value and not 0 < value <= MOST_SWATCHES:
            raise BadInput(f"The document has {value} {what}; 1 to {MOST_SWATCHES:,} were expected.")
        return value or None

    return read


def _counted(one: str, many: str) -> Callable[[int], str]:
    return lambda count: f"{count:,} {one if count == 1 else many} dropped"


def _fewer(before: Sequence[Any], after: Sequence[Any]) -> int:
    return len(before) - len(after)


def _other_variants(count: int) -> str:
    return f"{count:,} other {'variant' if count == 1 else 'variants'} dropped: the one that is shown is written"


NOTED = Words("notes", lambda count: f"{count:,} {'swatch' if count == 1 else 'swatches'} without their notes and tags")


@dataclass(frozen=True)
class Swatch:
    """slot : its numbered place, in palettes that have such; pinned : it keeps that place whatever moves around it."""

    color: Color = declared(lost=BY_NAME, structural=True, matched=True, by_variant=True)
    """Its color."""
    name: str = declared("", lost=BY_NAME, shape=str, read=clean_name, instead=_shorter_name, always=True, sent=str)
    """What people call it."""
    id: str = declared(factory=new_id, lost=BY_NAME, structural=True)
    """By which it is named in documents, addresses and commands."""
    locked: bool = declared(
        False,
        lost=Words("locks", _counted("lock", "locks")),
        shape=bool,
        always=True,
        sent=bool,
        duplicated="empty",
        examples=(True,),
    )
    """Whether reductions must keep it."""
    group: str | None = declared(None, lost=BY_NAME, structural=True)
    """Id of its group."""
    note: str = declared(
        "",
        lost=NOTED,
        shape=str,
        read=clean_note,
        instead=lambda note: note[:LONGEST_NOTE],
        sent=str,
        examples=("a note", "two\nlines"),
    )
    """A remark."""
    tags: tuple[str, ...] = declared(
        (), lost=NOTED, shape=list[str], read=clean_tags, write=list, sent=list[str], examples=(("spot",), ("global", "wing"))
    )
    """Words that files know it by."""
    slot: int | None = declared(
        None, lost=BY_NAME, shape=int | None, brought_in="empty", sent=int | None,
        describes="its numbered place, in palettes that have such",
    )  # fmt: skip
    pinned: bool = declared(
        False, lost=Words("pins", _counted("pin", "pins")), shape=bool, sent=bool, duplicated="empty", brought_in="empty",
        examples=(True,),
    )  # fmt: skip


@dataclass(frozen=True)
class Group:
    name: str = declared(lost=BY_NAME, structural=True)
    """What people call it."""
    id: str = declared(factory=new_id, lost=BY_NAME, structural=True)
    """By which it is named in documents, addresses and commands."""
    columns: int | None = declared(
        None, lost=Words("group-columns", lambda count: f"the columns of {count:,} {'group' if count == 1 else 'groups'} dropped"),
        shape=int | None, read=positive("columns"), sent=int | None, brought_in="empty", examples=(3,),
    )  # fmt: skip
    """In a row; None where it does not say."""


@dataclass(frozen=True)
class Variant:
    """Other colors for the same swatches, by id. A swatch that is not listed has the palette's present color."""

    name: str
    """What people call it."""
    id: str = field(default_factory=new_id)
    """By which it is named in documents, addresses and commands."""
    colors: tuple[tuple[str, Color], ...] = ()
    """Colors of the swatches that differ, by id."""


@dataclass(frozen=True)
class KeptRamp:
    """A ramp that is kept with the palette.

    group : the group that it was baked into; baked : what each of its swatches was given then, by id and step by step, so that
    those changed by hand since are known, and those taken out since keep their step. Empty once all of them are gone.
    """

    name: str
    """What people call it."""
    plan: RampPlan
    """Stops and settings."""
    id: str = field(default_factory=new_id)
    """By which it is named in documents, addresses and commands."""
    tags: tuple[str, ...] = ()
    """Words that files know it by."""
    group: str | None = None
    baked: tuple[tuple[str, Color], ...] = ()
    following: bool = True
    """Whether the swatches that were baked from it change with it by themselves."""


EXAMPLE_RAMP = KeptRamp(
    "Dusk to lamp", RampPlan((PlanStop(color=Color("srgb", (0.0, 0.0, 0.2))), PlanStop(color=Color("srgb", (1.0, 0.8, 0.4)))))
)


def into_slots(swatches: Sequence[Swatch], slots: int) -> tuple[Swatch, ...]:
    """Every swatch at a numbered place of its own, in order of the places.

    Pinned ones stay where they are pinned. The others keep their order, and each its place where that still lies behind
    the one before; else it moves on to the next free one, and where the end is reached all close up.
    """
    if len(swatches) > slots:
        raise BadInput(
            f"This palette has {slots} numbered places, and {len(swatches)} swatches do not fit. "
            "Take some out, or give it more places."
        )
    pinned = {swatch.slot: swatch for swatch in swatches if swatch.pinned and swatch.slot is not None and swatch.slot < slots}
    free = [slot for slot in range(slots) if slot not in pinned]
    staying = {swatch.id for swatch in pinned.values()}
    loose = [swatch for swatch in swatches if swatch.id not in staying]
    placed = dict(pinned)
    last = -1
    for number, swatch in enumerate(loose):
        wanted = last + 1 if swatch.slot is None else bisect_left(free, swatch.slot)
        last = min(max(last + 1, wanted), len(free) - len(loose) + number)
        placed[free[last]] = replace(swatch, slot=free[last], pinned=False) if swatch.slot != free[last] else swatch
    return tuple(placed[slot] for slot in sorted(placed))


def _of_present(variants: tuple[Variant, ...], swatches: tuple[Swatch, ...]) -> tuple[Variant, ...]:
    """Variants without the colors of swatches that are gone."""
    if not variants:
        return variants
    present = {swatch.id for swatch in swatches}
    return tuple(
        replace(v, colors=tuple(entry for entry in v.colors if entry[0] in present))
        if any(swatch_id not in present for swatch_id, _ in v.colors)
        else v
        for v in variants
    )


def _followed(
    ramps: tuple[KeptRamp, ...], before: Sequence[Swatch], after: Sequence[Swatch], groups: set[str | None]
) -> tuple[KeptRamp, ...]:
    """Ramps whose stops are tied only to swatches that are there; those of swatches that went keep the color they had."""
    if not any(ramp.plan.tied() or ramp.baked for ramp in ramps):
        return ramps
    present = {swatch.id for swatch in after}
    colors = {swatch.id: swatch.color for swatch in before}
    return tuple(
        replace(
            ramp,
            plan=ramp.plan.untied(colors.__getitem__, present.__contains__),
            group=ramp.group if ramp.group in groups else None,
            baked=ramp.baked if any(swatch in present for swatch, _ in ramp.baked) else (),
        )
        for ramp in ramps
    )


@dataclass(frozen=True)
class Palette:
    """Swatches in index order. The swatches of one group stand next to each other.

    slots : how many numbered places it has, where they are fixed; variants : its sets of colors, where it has several,
    and `variant` the id of the one that the swatches show; ramps : kept with it, tied only to swatches that it has; limits : what
    its checks go by where that is not the usual.
    """

    name: str = declared(lost=BY_NAME, structural=True)
    """What people call it."""
    swatches: tuple[Swatch, ...] = declared((), lost=BY_NAME, structural=True)
    """In their order."""
    groups: tuple[Group, ...] = declared((), lost=BY_NAME, structural=True)
    """In their order."""
    columns: int | None = declared(
        None, lost=Words("columns", lambda count: "the number of columns dropped", lambda left: f"the columns limited to {left}"),
        shape=int | None, read=positive("columns"), always=True, sent=int | None, examples=(4, 300),
    )  # fmt: skip
    """In a row; None where it does not say."""
    slots: int | None = declared(None, lost=BY_NAME, structural=True)
    tags: tuple[str, ...] = declared(
        (), lost=Words("tags", lambda count: f"{count:,} {'tag' if count == 1 else 'tags'} of the palette dropped"),
        count=_fewer, shape=list[str], read=clean_tags, write=list, sent=list[str], examples=(("press",), ("press", "dusk")),
    )  # fmt: skip
    """Words that files know it by."""
    variants: tuple[Variant, ...] = declared(
        (), lost=Words("variants", _other_variants), count=lambda before, after: len(before) - 1, structural=True,
        examples=((Variant("Day", "day"), Variant("Night", "night")),),
    )  # fmt: skip
    variant: str | None = declared(None, lost=BY_NAME, structural=True)
    """Id of the one that is shown; None for the palette itself."""
    ramps: tuple[KeptRamp, ...] = declared(
        (),
        lost=Words("ramps", _counted("kept ramp", "kept ramps")),
        count=_fewer,
        since=3,
        structural=True,
        examples=((EXAMPLE_RAMP,),),
    )
    limits: CheckLimits = declared(
        (), lost=Words("limits", lambda count: f"limits of {count:,} {'check' if count == 1 else 'checks'} dropped"), count=_fewer,
        shape=dict[str, dict[str, float | str]], since=4, read=held_limits, write=as_mapping,
        sent=dict[str, dict[str, float | str]], describes="of its checks, by check and name, where they are not as usual",
        examples=((("text", (("low", 7.0),)),),),
    )  # fmt: skip

    def color_of(self, swatch_id: str) -> Color:
        """The color of a swatch by its id. Raises `Unknown`."""
        return self.swatches[self.index_of(swatch_id)].color

    def ramp(self, ramp_id: str) -> KeptRamp:
        """Raises `Unknown` for one that is not kept here."""
        for ramp in self.ramps:
            if ramp.id == ramp_id:
                return ramp
        raise Unknown("That ramp is no longer in the palette. Reload to see its present state.")

    def with_ramps(self, ramps: Iterable[KeptRamp]) -> "Palette":
        """The same palette with other ramps. Raises `BadInput` for more than `MOST_RAMPS`."""
        kept = tuple(ramps)
        if len(kept) > MOST_RAMPS:
            raise BadInput(f"A palette keeps at most {MOST_RAMPS} ramps.")
        return replace(self, ramps=kept)

    def index_of(self, swatch_id: str) -> int:
        for index, swatch in enumerate(self.swatches):
            if swatch.id == swatch_id:
                return index
        raise Unknown("That swatch is no longer in the palette. Reload to see its present state.")

    def pick(self, swatch_ids: Iterable[str]) -> list[Swatch]:
        """The named swatches in palette order; raises `Unknown` where one is missing."""
        wanted = set(swatch_ids)
        found = [swatch for swatch in self.swatches if swatch.id in wanted]
        if not wanted:
            raise BadInput("Select at least one swatch first.")
        if len(found) != len(wanted):
            raise Unknown("One of those swatches is no longer in the palette. Reload to see its present state.")
        return found

    def group_name(self, group_id: str | None) -> str:
        """The name of a group, empty for none."""
        return next((group.name for group in self.groups if group.id == group_id), "")

    def group(self, group_id: str) -> Group:
        for group in self.groups:
            if group.id == group_id:
                return group
        raise Unknown("That group is no longer in the palette. Reload to see its present state.")

    def with_swatches(self, swatches: Iterable[Swatch]) -> "Palette":
        """The same palette with other swatches; groups left without a swatch go."""
        kept = tuple(swatches)
        if len(kept) > MOST_SWATCHES:
            raise BadInput(f"A palette holds at most {MOST_SWATCHES:,} swatches; that would make {len(kept):,}.")
        if self.slots is not None:
            kept = into_slots(kept, self.slots)
        used = {swatch.group for swatch in kept}
        groups = tuple(group for group in self.groups if group.id in used)
        ramps = _followed(self.ramps, self.swatches, kept, used)
        return replace(self, swatches=kept, groups=groups, variants=_of_present(self.variants, kept), ramps=ramps)

    def filled(self) -> "Palette":
        """A palette whose indices are its numbered places: empty ones up to the last swatch hold black."""
        if self.slots is None:
            return self
        by_slot = {swatch.slot: swatch for swatch in self.swatches}
        last = max((slot for slot in by_slot if slot is not None), default=-1)
        black = Color("srgb", (0.0, 0.0, 0.0))
        places = [by_slot.get(slot) or Swatch(black, f"Empty place {slot}") for slot in range(last + 1)]
        return replace(self, slots=None, swatches=tuple(places), variants=(), variant=None)

    def permuted(self, places: Sequence[int], sources: Sequence[int]) -> "Palette":
        """The same palette with the swatch of each source at the matching place, taking over its slot."""
        swatches = list(self.swatches)
        for place, source in zip(places, sources, strict=True):
            swatches[place] = replace(self.swatches[source], slot=self.swatches[place].slot)
        return self.with_swatches(swatches)

    def movable(self, ids: Iterable[str] | None = None) -> dict[str | None, list[int]]:
        """Places whose swatches may change places, by group: all of them or those named, but never pinned ones."""
        wanted = None if ids is None else {swatch.id for swatch in self.pick(ids)}
        by_group: dict[str | None, list[int]] = {}
        for place, swatch in enumerate(self.swatches):
            if (wanted is None or swatch.id in wanted) and not swatch.pinned:
                by_group.setdefault(swatch.group, []).append(place)
        return by_group

    def change(self, swatch_id: str, **changes: Any) -> "Palette":
        """The same palette with one swatch changed."""
        index = self.index_of(swatch_id)
        changed = replace(self.swatches[index], **changes)
        return replace(self, swatches=(*self.swatches[:index], changed, *self.swatches[index + 1 :]))

    def change_all(self, changes: Mapping[str, Swatch]) -> "Palette":
        """The same palette with the swatches of these ids put in the place of those before."""
        return self.with_swatches(changes.get(swatch.id, swatch) for swatch in self.swatches)
