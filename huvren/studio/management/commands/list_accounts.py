"""Show the accounts there are, and what each keeps."""

from typing import Any

from django.core.management.base import BaseCommand

from huvren.studio.bounds import MB
from huvren.studio.models import Artist
from huvren.studio.services.load import quotas


class Command(BaseCommand):
    help = "Show every account: whether it may sign in, when it last did, and what it keeps."

    def handle(self, *args: Any, **options: Any) -> None:
        rows = Artist.objects.order_by("username")
        if not rows:
            self.stdout.write("There is no account yet. make_account makes one.")
        for artist in rows:
            kept = quotas.used(artist)
            last = f"{artist.last_login:%Y-%m-%d %H:%M}" if artist.last_login else "never"
            state = "" if artist.is_active else ", disabled"
            self.stdout.write(
                f"{artist.username}{state}: last signed in {last}; {kept.palettes:,} palettes, {kept.pictures:,} pictures, "
                f"{kept.bytes / MB:,.1f} MB"
            )
