"""A palette as a plain JSON document that holds everything, and back. It is what revisions, archives and `.json` files hold."""

from collections.abc import Mapping
from functools import cache
from typing import Any, Required

from pydantic import ConfigDict, TypeAdapter
from typing_extensions import TypedDict

from huvren.core.color.value import Color
from huvren.core.errors import BadInput, HuvrenError
from huvren.core.palette.fields import Trouble, fields_of, shapes_of, stored, understood
from huvren.core.palette.values import (
    LONGEST_NAME,
    MOST_RAMPS,
    MOST_SWATCHES,
    Group,
    KeptRamp,
    Palette,
    Swatch,
    Variant,
    clean_name,
    clean_tags,
    into_slots,
    new_id,
)
from huvren.core.ramp.plan import plan_from_document, plan_to_document
from huvren.core.versions import KINDS, BadDocument, Kind, Understood, said_shortly

_EXACT = ConfigDict(extra="forbid")


class ColorShape(TypedDict, total=False):
    """`null` stands for a missing component."""

    __pydantic_config__ = _EXACT  # type: ignore[misc]
    space: Required[str]
    coords: Required[list[float | None]]
    alpha: float | None


def _shape(name: str, own: dict[str, Any], owner: type) -> Any:
    """A typed dictionary of what is written here by name and of the fields that declare themselves; no other key is taken."""
    made = TypedDict(name, {**own, **shapes_of(owner)}, total=False)  # type: ignore[misc]
    made.__pydantic_config__ = _EXACT  # type: ignore[attr-defined]
    return made


SwatchShape: Any = _shape("SwatchShape", {"id": str | None, "color": Required[ColorShape], "group": str | None}, Swatch)
GroupShape: Any = _shape("GroupShape", {"id": Required[str], "name": Required[str]}, Group)


class VariantShape(TypedDict, total=False):
    __pydantic_config__ = _EXACT  # type: ignore[misc]
    id: Required[str]
    name: Required[str]
    colors: dict[str, ColorShape]


class EasingShape(TypedDict, total=False):
    __pydantic_config__ = _EXACT  # type: ignore[misc]
    kind: Required[str]
    numbers: list[float]


class RampStopShape(TypedDict, total=False):
    __pydantic_config__ = _EXACT  # type: ignore[misc]
    swatch: str | None
    color: ColorShape | None
    position: float | None
    midpoint: float
    easing: EasingShape | None


class PlanShape(TypedDict, total=False):
    """What `ramp.plan` reads and writes."""

    __pydantic_config__ = _EXACT  # type: ignore[misc]
    stops: Required[list[RampStopShape]]
    steps: int | None
    space: str
    hue: str
    curve: str
    spacing: str
    gamut: str
    closed: bool
    purpose: str
    numbers: dict[str, float]
    measure: str


class BakedShape(TypedDict, total=False):
    __pydantic_config__ = _EXACT  # type: ignore[misc]
    swatch: Required[str]
    color: Required[ColorShape]


class RampShape(TypedDict, total=False):
    __pydantic_config__ = _EXACT  # type: ignore[misc]
    id: Required[str]
    name: Required[str]
    tags: list[str]
    plan: Required[PlanShape]
    group: str | None
    baked: list[BakedShape]
    following: bool


PaletteShape: Any = _shape(
    "PaletteShape",
    {
        "name": str, "groups": list[GroupShape], "swatches": Required[list[SwatchShape]],
         "slots": int | None, "variant": str | None,
        "variants": list[VariantShape], "ramps": list[RampShape],
    },
    Palette,
)  # fmt: skip


GRAY: ColorShape = {"space": "srgb", "coords": [0.5, 0.5, 0.5], "alpha": 1.0}
RAMPS_SINCE = 6
"""The version that brought the latest key of ramps: the measure by which their steps are even."""
VERSION = max(RAMPS_SINCE, *(entry.declared.since for owner in (Swatch, Group, Palette) for entry in fields_of(owner)))
PALETTE = KINDS.register(
    Kind(
        "palette", "palette", VERSION, cache(lambda: TypeAdapter(PaletteShape)),
        # Version 1 carried no number; later ones brought fields, which documents of before do not have.
        upgraders=dict.fromkeys(range(1, VERSION), lambda document: document),
        stand_ins={"color": GRAY},
    )
)  # fmt: skip


def _swatch_to_document(swatch: Swatch) -> dict[str, Any]:
    return {"id": swatch.id, "name": "", "color": swatch.color.document(), **stored(swatch), "group": swatch.group}


def _ramp_to_document(ramp: KeptRamp) -> dict[str, Any]:
    document: dict[str, Any] = {"id": ramp.id, "name": ramp.name, "plan": plan_to_document(ramp.plan)}
    if ramp.tags:
        document["tags"] = list(ramp.tags)
    if ramp.group is not None:
        document["group"] = ramp.group
    if not ramp.following:
        document["following"] = False
    if ramp.baked:
        document["baked"] = [{"swatch": swatch, "color": color.document()} for swatch, color in ramp.baked]
    return document


def palette_to_document(palette: Palette) -> dict[str, Any]:
    """The document of a palette; `palette_from_document` gives the same palette back.

    What few palettes have is left out where it is not there.
    """
    document: dict[str, Any] = {
        "name": palette.name,
        **stored(palette),
        "groups": [{"id": group.id, "name": group.name, **stored(group)} for group in palette.groups],
        "swatches": [_swatch_to_document(swatch) for swatch in palette.swatches],
    }
    if palette.slots is not None:
        document["slots"] = palette.slots
    if palette.variants:
        document["variant"] = palette.variant
        document["variants"] = [
            {
                "id": variant.id, "name": variant.name,
                "colors": {swatch_id: color.document() for swatch_id, color in variant.colors},
            }
            for variant in palette.variants
        ]  # fmt: skip
    if palette.ramps:
        document["ramps"] = [_ramp_to_document(ramp) for ramp in palette.ramps]
    return PALETTE.stamped(document)


def _refuse(sentence: str) -> None:
    raise BadDocument(sentence)


def _color(shape: Mapping[str, Any], where: str, trouble: Trouble) -> Color:
    try:
        coords, alpha = shape["coords"], shape.get("alpha", 1.0)
        if alpha is None or None in coords:
            return Color.of(shape["space"], coords, alpha)
        return Color(shape["space"], tuple(coords), alpha)
    except HuvrenError as error:
        trouble(f"{where} of the document cannot be read: {error}")
        return Color.of(GRAY["space"], GRAY["coords"])


def _name(text: str, trouble: Trouble) -> str:
    try:
        return clean_name(text)
    except BadInput as error:
        trouble(str(error))
        return clean_name(text[: LONGEST_NAME // 2])


def _tags(tags: list[str], trouble: Trouble) -> tuple[str, ...]:
    """Tags of a ramp."""
    try:
        return clean_tags(tags) if tags else ()
    except BadInput as error:
        trouble(str(error))
        return ()


def _slots(value: int | None, trouble: Trouble) -> int | None:
    if value is None or 0 < value <= MOST_SWATCHES:
        return value
    trouble(f"The document has {value} numbered places; 1 to {MOST_SWATCHES:,} were expected.")
    return None


def _swatch(entry: Mapping[str, Any], place: int, taken: set[str], groups: set[str], trouble: Trouble) -> Swatch:
    swatch_id = entry.get("id") or new_id()
    if swatch_id in taken:
        trouble("Two swatches of the document have the same id; every swatch needs its own.")
        swatch_id = new_id()
    taken.add(swatch_id)
    group = entry.get("group")
    if group is not None and group not in groups:
        trouble("A swatch of the document belongs to a group that the document does not list.")
        group = None
    color = _color(entry["color"], f"Swatch {place}", trouble)
    return Swatch(color=color, id=swatch_id, group=group, **understood(Swatch, entry, trouble))


def _variants(shape: Mapping[str, Any], trouble: Trouble) -> tuple[tuple[Variant, ...], str | None]:
    variants = tuple(
        Variant(
            _name(entry["name"], trouble), entry["id"],
            tuple((key, _color(color, "A variant", trouble)) for key, color in entry.get("colors", {}).items()),
        )
        for entry in shape.get("variants", [])
    )  # fmt: skip
    shown = shape.get("variant")
    if variants and shown not in {variant.id for variant in variants}:
        trouble("The document shows a variant that it does not list.")
        shown = variants[0].id
    return variants, shown if variants else None


def _ramps(shape: Mapping[str, Any], swatches: set[str], groups: set[str], trouble: Trouble) -> tuple[KeptRamp, ...]:
    entries = shape.get("ramps", [])
    if len(entries) > MOST_RAMPS:
        trouble(f"The document has {len(entries)} ramps; a palette keeps at most {MOST_RAMPS}.")
    ramps: dict[str, KeptRamp] = {}
    for entry in entries[:MOST_RAMPS]:
        if entry["id"] in ramps:
            trouble("Two ramps of the document have the same id; every ramp needs its own.")
            continue
        plan = plan_from_document(entry["plan"], lambda c: _color(c, "A stop of a ramp", trouble), swatches.__contains__, trouble)
        if plan is None:
            continue
        group = entry.get("group")
        baked = tuple((row["swatch"], _color(row["color"], "A ramp", trouble)) for row in entry.get("baked", []))
        ramps[entry["id"]] = KeptRamp(
            _name(entry["name"], trouble), plan, entry["id"], _tags(entry.get("tags", []), trouble),
            group if group in groups else None, baked if any(row[0] in swatches for row in baked) else (),
            entry.get("following", True),
        )  # fmt: skip
    return tuple(ramps.values())


def _palette(shape: Mapping[str, Any], trouble: Trouble) -> Palette:
    entries = shape["swatches"]
    if len(entries) > MOST_SWATCHES:
        raise BadDocument(f"The document has {len(entries):,} swatches; a palette holds at most {MOST_SWATCHES:,}.")
    groups = tuple(
        Group(_name(entry["name"], trouble), entry["id"], **understood(Group, entry, trouble)) for entry in shape.get("groups", [])
    )
    group_ids = {group.id for group in groups}
    if len(group_ids) != len(groups):
        trouble("Two groups of the document have the same id.")
    taken: set[str] = set()
    swatches = tuple(_swatch(entry, place, taken, group_ids, trouble) for place, entry in enumerate(entries))
    slots = _slots(shape.get("slots"), trouble)
    if slots is not None:
        try:
            swatches = into_slots(swatches, slots)
        except BadInput as error:
            trouble(str(error))
            slots = len(swatches)
            swatches = into_slots(swatches, slots)
    variants, variant = _variants(shape, trouble)
    return Palette(
        name=_name(shape.get("name", "Untitled"), trouble), swatches=swatches, groups=groups, slots=slots, variants=variants,
        variant=variant, ramps=_ramps(shape, {swatch.id for swatch in swatches}, group_ids, trouble),
        **understood(Palette, shape, trouble),
    )  # fmt: skip


def palette_from_document(document: object) -> Palette:
    """Read a document from outside. Raises `BadDocument` naming the place that is wrong, an unknown key included."""
    return _palette(PALETTE.read(document), _refuse)


def understand_palette(document: object) -> Understood[Palette]:
    """Read a stored document as far as it can be understood: every swatch keeps its place and its id.

    Raises `BadDocument` only where nothing can be made of it.
    """
    shape = PALETTE.understand(document)
    problems = list(shape.problems)
    palette = _palette(shape.value, problems.append)
    return Understood(palette, said_shortly(problems))
