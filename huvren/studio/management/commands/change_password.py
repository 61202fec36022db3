"""Give an account another password."""

from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand, CommandError

from huvren.studio.management.passwords import asked_password
from huvren.studio.models import FailedSignIn


class Command(BaseCommand):
    help = "Give an account another password, asked for or read from standard input. It is signed out everywhere."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        artist = get_user_model().objects.filter(username=options["name"]).first()
        if artist is None:
            raise CommandError(f"There is no account “{options['name']}”. make_account makes one.")
        artist.set_password(asked_password(artist))
        artist.save(update_fields=["password"])
        # Whoever waits because of wrong passwords need not any more.
        FailedSignIn.objects.filter(key__endswith=f":{artist.username.casefold()}").delete()
        self.stdout.write(f"“{artist.username}” has another password and is signed out everywhere.")
