"""Delivering: the whole palette or some of its swatches, as a file, with what the file will keep."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from uuid import UUID

from huvren.core.errors import BadInput, HuvrenError
from huvren.core.formats import FORMATS, Document, Format
from huvren.core.formats.report import Loss, keep_report
from huvren.studio.services.bench.reductions import document_of
from huvren.studio.services.shelf.palettes import State


@dataclass(frozen=True)
class Delivery:
    """A file ready to be sent, or the sentence that says why there is none; and the keep report."""

    format: Format
    data: bytes | None
    problem: str | None
    losses: tuple[Loss, ...]
    count: int


def deliver(state: State, format_id: str, ids: Sequence[str] | None, options: Mapping[str, str], picture: UUID | None) -> Delivery:
    """Write the palette, or the swatches named, in a format. Raises `Unknown` and `BadInput` for wrong requests."""
    entry = FORMATS[format_id]
    if entry.write is None:
        raise BadInput(f"{entry.label} can be read but not written.")
    wrong = set(options) - {option.id for option in entry.options}
    if wrong:
        raise BadInput(f"{entry.label} has no option “{sorted(wrong)[0]}”.")
    document = document_of(state, picture if entry.needs_picture else None)
    if ids is not None and not entry.needs_picture:
        chosen = {swatch.id for swatch in state.palette.pick(ids)}
        document = Document(state.palette.with_swatches(s for s in state.palette.swatches if s.id in chosen))
    document = replace(document, options=options)
    held = entry.palette_as_held(document)
    # Of a picture the document's palette is filled already, as its pixels name places; the report is about the palette itself.
    about = replace(document, palette=state.palette) if entry.needs_picture else document
    losses = tuple(keep_report(entry, about, held=None if entry.needs_picture else held))
    count = len(held.swatches)
    try:
        return Delivery(entry, entry.written(document, held), None, losses, count)
    except HuvrenError as error:
        return Delivery(entry, None, str(error), losses, count)
