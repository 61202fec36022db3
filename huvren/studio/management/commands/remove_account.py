"""Remove an account and all it kept, for good; what it kept is written into a file first."""

import os
import shutil
import sys
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from huvren.core.errors import HuvrenError
from huvren.studio.management.accounts import named
from huvren.studio.models import Artist, Asked, FailedSignIn, Worked
from huvren.studio.services.files.archives import write_archive
from huvren.studio.services.files.archives.taking import looked_into
from huvren.studio.services.load import quotas
from huvren.studio.services.shelf import cleaning


class Command(BaseCommand):
    help = "Remove an account and all it kept, for good. Its shelf is written into --export FILE first; --no-export leaves that out."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("name")
        kept = parser.add_mutually_exclusive_group(required=True)
        kept.add_argument("--export", type=Path, metavar="FILE", help="an archive of its shelf, for any account to bring in")
        kept.add_argument("--no-export", action="store_true", help="nothing of it is kept")
        parser.add_argument("--yes", action="store_true", help="do not ask")

    def handle(self, *args: Any, **options: Any) -> None:
        artist = named(options["name"])
        used = quotas.used(artist)
        self.stdout.write(f"“{artist.username}” keeps {used.palettes:,} palettes and {used.pictures:,} pictures, the trash included.")
        if not options["yes"]:
            self.stdout.write(f"All of it goes for good. Type the name “{artist.username}” to go on: ", ending="")
            self.stdout.flush()
            if sys.stdin.readline().strip() != artist.username:
                raise CommandError("That is not the name. Nothing was changed.")
        with transaction.atomic():
            # Whoever is signed in changes nothing between the export and the end.
            artist = Artist.objects.select_for_update().get(pk=artist.pk)
            if options["export"]:
                self._export(artist, options["export"])
            artist.palettes.all().delete()
            artist.pictures.all().delete()
            FailedSignIn.objects.filter(key__endswith=f":{artist.username.casefold()}").delete()
            Worked.objects.filter(artist=artist.pk).delete()
            Asked.objects.filter(key__endswith=f":{artist.pk}").delete()
            artist.delete()
        gone = cleaning.collect()
        self.stdout.write(f"“{artist.username}” is gone, and {gone.files:,} files that nobody else has.")

    def _export(self, artist: Artist, path: Path) -> None:
        """Written beside its place, read again, and only then put there."""
        if path.exists():
            raise CommandError(f"{path} is there already. Nothing was changed; choose another name.")
        part = path.with_name(path.name + ".part")
        try:
            with write_archive(artist) as archive, part.open("xb") as target:
                shutil.copyfileobj(archive, target)
                target.flush()
                os.fsync(target.fileno())
            with part.open("rb") as written:
                palettes, pictures = looked_into(artist, written)
            part.rename(path)
        except HuvrenError as error:
            part.unlink(missing_ok=True)
            raise CommandError(f"What was written cannot be read again: {error} Nothing was changed.") from error
        except OSError as error:
            part.unlink(missing_ok=True)
            raise CommandError(f"{path} cannot be written: {error.strerror or error}. Nothing was changed.") from error
        self.stdout.write(f"{path} holds its {palettes:,} palettes and {pictures:,} pictures that were not in the trash.")
