"""Delivering: the whole palette or some of its swatches, as a file, with what the file will keep."""

import io
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from uuid import UUID

from huvren.core.errors import BadInput, HuvrenError
from huvren.core.formats import FORMATS, Document, Format
from huvren.core.formats.file_names import free_file_name
from huvren.core.formats.report import Loss, keep_report
from huvren.core.palette.operations.variants import in_variant
from huvren.core.palette.values import Palette
from huvren.studio.services.bench.reductions import document_of
from huvren.studio.services.shelf.palettes import State

VARIANTS_LOSS = "variants"


@dataclass(frozen=True)
class Delivery:
    """A file ready to be sent, or the sentence that says why there is none; and the keep report."""

    format: Format
    data: bytes | None
    problem: str | None
    losses: tuple[Loss, ...]
    count: int
    files: int = 1
    """How many are packed together."""


def _wrong_wish(entry: Format, options: Mapping[str, str]) -> None:
    if entry.write is None:
        raise BadInput(f"{entry.label} can be read but not written.")
    wrong = set(options) - {option.id for option in entry.options}
    if wrong:
        raise BadInput(f"{entry.label} has no option “{sorted(wrong)[0]}”.")


@dataclass(frozen=True)
class Wish:
    """What is to be delivered.

    ids : some swatches alone. variants : ids of the variants that are wanted, none for the one that is shown; joined : whether they
    go into one file.
    """

    ids: Sequence[str] | None = None
    options: Mapping[str, str] = field(default_factory=dict)
    picture: UUID | None = None
    variants: Sequence[str] = ()
    joined: bool = False


def file_name(palette: Palette, format_id: str, wish: Wish) -> str:
    """The palette's name, with that of the variant where there are several and the file is of one. Raises `Unknown`."""
    if not palette.variants or len(wish.variants) > 1 or FORMATS[format_id].keeps.everything:
        return palette.name
    wanted = wish.variants[0] if wish.variants else palette.variant
    return next((f"{palette.name}, {variant.name}" for variant in palette.variants if variant.id == wanted), palette.name)


def _with(state: State, palette: Palette) -> State:
    return replace(state, contents=replace(state.contents, palette=palette))


def _document(state: State, entry: Format, wish: Wish) -> Document:
    document = document_of(state, wish.picture if entry.needs_picture else None)
    if wish.ids is not None and not entry.needs_picture:
        chosen = {swatch.id for swatch in state.palette.pick(wish.ids)}
        document = Document(state.palette.with_swatches(s for s in state.palette.swatches if s.id in chosen))
    return replace(document, options=wish.options)


def _one(state: State, entry: Format, wish: Wish) -> Delivery:
    document = _document(state, entry, wish)
    held = entry.palette_as_held(document)
    # Of a picture the document's palette is filled already, as its pixels name places; the report is about the palette itself.
    about = replace(document, palette=state.palette) if entry.needs_picture else document
    losses = tuple(keep_report(entry, about, held=None if entry.needs_picture else held))
    count = len(held.swatches)
    try:
        return Delivery(entry, entry.written(document, held), None, losses, count)
    except HuvrenError as error:
        return Delivery(entry, None, str(error), losses, count)


def _several(state: State, entry: Format, wish: Wish) -> Delivery:
    """A file for each variant, packed together; or one file of all."""
    palette = state.palette
    names = {variant.id: variant.name for variant in palette.variants}
    states = [(names[wanted], _with(state, in_variant(palette, wanted))) for wanted in wish.variants]
    single = replace(wish, variants=())
    made = [(name, _one(of, entry, single)) for name, of in states]
    first = made[0][1]
    left = len(palette.variants) - len(made)
    losses = [loss for loss in first.losses if loss.code != VARIANTS_LOSS]
    if left and len(losses) != len(first.losses):
        losses.append(Loss(VARIANTS_LOSS, f"{left:,} other {'variant' if left == 1 else 'variants'} dropped", left))
    problem = next((delivery.problem for _, delivery in made if delivery.problem), None)
    if problem is not None:
        return Delivery(entry, None, problem, tuple(losses), first.count)
    if not wish.joined:
        return Delivery(entry, _packed(palette, entry, made), None, tuple(losses), first.count, files=len(made))
    if entry.write_variants is None:
        return _one(state, entry, single)
    documents = [(name, _document(of, entry, single)) for name, of in states]
    held = [(name, replace(document, palette=entry.palette_as_held(document))) for name, document in documents]
    return Delivery(entry, entry.write_variants(held), None, tuple(losses), first.count)


def _packed(palette: Palette, entry: Format, made: Sequence[tuple[str, Delivery]]) -> bytes:
    """A zip of a file for each variant, named by palette and variant."""
    buffer = io.BytesIO()
    taken: set[str] = set()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, delivery in made:
            # Without a time of its own, so that the same palette gives the same bytes.
            file = zipfile.ZipInfo(free_file_name(f"{palette.name}, {name}", entry.endings[0], taken))
            archive.writestr(file, delivery.data or b"", zipfile.ZIP_DEFLATED)
    return buffer.getvalue()


def deliver(state: State, format_id: str, wish: Wish) -> Delivery:
    """Write the palette, or the swatches named, in a format. Raises `Unknown` and `BadInput` for wrong requests."""
    entry = FORMATS[format_id]
    _wrong_wish(entry, wish.options)
    known = {variant.id for variant in state.palette.variants}
    if unknown := next((wanted for wanted in wish.variants if wanted not in known), None):
        raise BadInput(f"The palette has no variant “{unknown[:40]}”.")
    if wish.joined and not entry.joins_variants:
        raise BadInput(f"{entry.label} holds one variant. Deliver a file for each.")
    if len(wish.variants) > 1:
        return _several(state, entry, replace(wish, variants=list(dict.fromkeys(wish.variants))))
    if wish.variants:
        state = _with(state, in_variant(state.palette, wish.variants[0]))
    return _one(state, entry, wish)
