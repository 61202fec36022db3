"""Give an account another password."""

from typing import Any

from django.core.management.base import BaseCommand

from huvren.studio.management.accounts import named
from huvren.studio.management.passwords import asked_password
from huvren.studio.models import FailedSignIn
from huvren.studio.sessions import end_sessions


class Command(BaseCommand):
    help = "Give an account another password, asked for or read from standard input. It is signed out everywhere."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        artist = named(options["name"])
        artist.set_password(asked_password(artist))
        artist.save(update_fields=["password"])
        end_sessions(artist)
        # Whoever waits because of wrong passwords need not any more.
        FailedSignIn.objects.filter(key__endswith=f":{artist.username.casefold()}").delete()
        self.stdout.write(f"“{artist.username}” has another password and is signed out everywhere.")
