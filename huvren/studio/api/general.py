"""The session, the menus and the shelf."""

from collections.abc import Iterable
from uuid import UUID

from django.conf import settings
from django.db.models import F
from django.http import HttpRequest
from ninja import Router

from huvren import __version__
from huvren.core.color.harmony import SCHEMES
from huvren.core.color.mixing import MODELS
from huvren.core.color.planes import PLANES, WIDEST_CHROMA
from huvren.core.formats import FORMATS, Format
from huvren.core.palette.merging import SURVIVORS, Survivor
from huvren.core.palette.operations import OPERATIONS
from huvren.core.palette.selecting import SELECT_RULES
from huvren.core.palette.sorting import SORT_KEYS, SortKey
from huvren.core.palette.values import palette_from_document
from huvren.core.pictures import MOST_BYTES, MOST_PIXELS
from huvren.core.ramp.recipe import MOST_STEPS
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.metrics import METRICS, Metric
from huvren.core.reduction.recipe import MOST, ORDERS
from huvren.studio.api.schemas import (
    ChoiceOut,
    ChooserOut,
    DitherOut,
    FormatOut,
    MenusOut,
    OperationOut,
    OptionOut,
    PaletteCard,
    PictureCard,
    PlaneOut,
    SchemeOut,
    SelectRuleOut,
    SessionOut,
    ShelfOut,
)
from huvren.studio.models import Palette, Picture, Revision
from huvren.studio.services.library import hexes_of, nearness

router = Router(tags=["general"])
CARD_SWATCHES = 64


@router.get("/health", auth=None, response=dict[str, str])
def health(request: HttpRequest) -> dict[str, str]:
    """Whether the server and its database answer."""
    Palette.objects.exists()
    return {"status": "ok"}


@router.get("/session", response=SessionOut)
def session(request: HttpRequest) -> SessionOut:
    """Who is signed in."""
    return SessionOut(user=request.user.get_username(), demo=settings.DEMO, version=__version__)


def _format_out(entry: Format) -> FormatOut:
    options = [
        OptionOut(id=option.id, label=option.label, choices=[ChoiceOut(id=c, label=text, use="") for c, text in option.choices])
        for option in entry.options
    ]
    return FormatOut(
        id=entry.id, ending=entry.endings[0], kind=entry.kind, family=entry.family, use=entry.use,
        needs_picture=entry.needs_picture, is_text=entry.is_text, options=options,
    )  # fmt: skip


def _choices(entries: Iterable[Metric | SortKey | Survivor]) -> list[ChoiceOut]:
    return [ChoiceOut(id=entry.id, label=entry.label, use=entry.use) for entry in entries]


@router.get("/menus", response=MenusOut)
def menus(request: HttpRequest) -> MenusOut:
    """Everything that is registered."""
    return MenusOut(
        choosers=[ChooserOut(id=c.id, label=c.label, use=c.use, needs=c.needs, sets_count=c.sets_count) for c in CHOOSERS],
        dithers=[
            DitherOut(
                id=d.id, label=d.label, use=d.use, has_strength=d.has_strength, is_diffusion=d.is_diffusion, is_mixing=d.is_mixing
            )
            for d in DITHERS
        ],
        metrics=_choices(METRICS),
        orders=[ChoiceOut(id=order, label=label, use="") for order, label in ORDERS.items()],
        formats=[_format_out(entry) for entry in FORMATS if entry.write],
        operations=[OperationOut(id=o.id, summary=o.model.summary) for o in OPERATIONS],
        sort_keys=_choices(SORT_KEYS),
        merge_rules=_choices(SURVIVORS),
        select_rules=[SelectRuleOut(id=r.id, label=r.label, use=r.use, needs=list(r.needs)) for r in SELECT_RULES],
        schemes=[
            SchemeOut(id=s.id, label=s.label, use=s.use, spread=s.spread, fewest=s.counts[0], most=s.counts[1])
            for s in SCHEMES.values()
        ],
        planes=[
            PlaneOut(
                id=p.id,
                label=p.label,
                use="",
                space=p.space,
                across=p.across[0],
                across_ends=list(p.across[1:]),
                up=p.up[0],
                up_ends=list(p.up[1:]),
                held=p.held,
                is_round=p.is_round,
            )
            for p in PLANES.values()
        ],
        mix_models=[ChoiceOut(id=m.id, label=m.label, use=m.use) for m in MODELS.values()],
        readable_endings=list(dict.fromkeys(ending for entry in FORMATS if entry.read for ending in entry.endings)),
        most_steps=MOST_STEPS,
        most_colors=MOST,
        most_bytes=MOST_BYTES,
        most_pixels=MOST_PIXELS,
        picture_endings=[".png", ".jpg", ".jpeg", ".webp", ".gif"],
        widest_chroma=WIDEST_CHROMA,
    )


@router.get("/shelf", response=ShelfOut)
def shelf(request: HttpRequest, trash: bool = False, near: str = "") -> ShelfOut:
    """Everything the artist owns, newest first, or what is in the trash; `near` asks how near each palette is to a color."""
    # Palettes with their heads in one query, so that a step made meanwhile cannot come between the two.
    heads = (
        Revision.objects.filter(number=F("palette__head"), palette__owner=request.user, palette__trashed__isnull=not trash)
        .select_related("palette")
        .order_by("-palette__updated")
    )
    made: dict[str, list[UUID]] = {}
    cards = []
    opaque: dict[UUID, list[str]] = {}
    for revision in heads:
        row = revision.palette
        palette = palette_from_document(revision.document)
        pictures = [link["picture"] for link in revision.links]
        for picture in pictures:
            made.setdefault(picture, []).append(row.id)
        if near:
            opaque[row.id] = hexes_of([swatch.color for swatch in palette.swatches if swatch.color.alpha > 0])
        cards.append(
            PaletteCard(
                id=row.id, name=row.name, updated=row.updated, trashed=trash, count=len(palette.swatches),
                hexes=[swatch.color.hex for swatch in palette.swatches[:CARD_SWATCHES]],
                picture=pictures[0] if pictures else None, favorite=row.favorite, tags=list(palette.tags), near=None,
            )
        )  # fmt: skip
    if near:
        gaps = nearness(opaque, near)
        for card in cards:
            card.near = gaps.get(card.id)
    owned = Picture.objects.filter(owner=request.user, trashed__isnull=not trash)
    return ShelfOut(
        palettes=cards,
        pictures=[
            PictureCard(
                id=row.id, name=row.name, format=row.format, width=row.width, height=row.height,
                distinct=row.distinct, created=row.created, trashed=trash, favorite=row.favorite, palettes=made.get(str(row.id), []),
            )
            for row in owned
        ],
    )  # fmt: skip
