"""Let an account that was disabled sign in again."""

from typing import Any

from django.core.management.base import BaseCommand

from huvren.studio.management.accounts import named


class Command(BaseCommand):
    help = "An account that was disabled can sign in again, with the password it had."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        artist = named(options["name"])
        artist.is_active = True
        artist.save(update_fields=["is_active"])
        self.stdout.write(f"“{artist.username}” can sign in.")
