"""Load the demo: its artist, pictures and palettes. Done once; later starts keep the artist's work.

What is drawn and reduced by code is remembered in `huvren/demo/shelf.zip`, an archive like any other, so that the first start needs
neither time nor kernels for it. `--drawn` draws and reduces anew, `--remember` writes the archive of that; a test holds them equal.
"""

from pathlib import Path
from typing import Any

import numpy as np
from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand

from huvren import demo
from huvren.core.color.arrays import Bytes
from huvren.core.palette.values import Palette
from huvren.core.pictures import encode_png
from huvren.demo import library
from huvren.studio.access import visible
from huvren.studio.middleware.demo import DEMO_USER
from huvren.studio.models import Palette as PaletteRow
from huvren.studio.models import Picture
from huvren.studio.services.bench import pictures, reductions
from huvren.studio.services.files import archives
from huvren.studio.services.shelf import palettes

SHELF = Path(demo.__file__).with_name("shelf.zip")


class Command(BaseCommand):
    help = "Load the demo artist's shelf into an empty database."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--drawn", action="store_true", help="Draw and reduce it anew.")
        parser.add_argument("--remember", action="store_true", help="The same, and write it down for later starts.")

    def handle(self, *args: Any, **options: Any) -> None:
        artist, _ = get_user_model().objects.get_or_create(username=DEMO_USER)
        if visible(artist, PaletteRow).exists() or visible(artist, Picture).exists():
            self.stdout.write("The demo is loaded already; nothing was changed.")
            return
        if options["drawn"] or options["remember"]:
            self._draw(artist)
        else:
            with SHELF.open("rb") as remembered:
                archives.take_archive(artist, remembered)
        if options["remember"]:
            with archives.write_archive(artist) as written:
                SHELF.write_bytes(written.read())
        self.stdout.write(f"Loaded {visible(artist, Picture).count()} pictures and their palettes.")

    def _draw(self, artist: Any) -> None:
        for palette in library.typed_palettes():
            palettes.create(artist, palette, "Begin with the colors of a printed card")
        for plate in library.PLATES:
            self._load(artist, plate)

    def _load(self, artist: Any, plate: library.Plate) -> None:
        picture = self._picture(artist, plate.file, plate.draw())
        lamplight = plate.palette == "Plate 4, lamplight"
        start = library.lamplight_start() if lamplight else Palette(plate.palette)
        label = "Begin with the eye-spot inks, locked" if lamplight else "Begin an empty palette"
        state = palettes.create(artist, start, label)
        state = reductions.keep(artist, state.row.id, 1, picture.id, plate.recipe)
        if lamplight:
            state = palettes.regroup(artist, state.row.id, state.row.head, library.group_lamplight, "Group by the part they paint")
        for step in plate.steps:
            state = palettes.apply(artist, state.row.id, state.row.head, step(state.palette))
        for file, draw, recipe in plate.beside:
            other = self._picture(artist, file, draw())
            state = reductions.keep(artist, state.row.id, state.row.head, other.id, recipe)

    def _picture(self, artist: Any, file: str, drawn: Bytes) -> Picture:
        if drawn.shape[2] == 3:
            drawn = np.dstack([drawn, np.full(drawn.shape[:2], 255, np.uint8)])
        return pictures.take_in(artist, file, encode_png(drawn, level=6))
