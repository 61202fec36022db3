"""Make an account for an artist."""

from typing import Any

from django.contrib.auth import get_user_model
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError

from huvren.studio.management.passwords import asked_password


class Command(BaseCommand):
    help = "Make an account. The password is asked for, or read from standard input."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        artists = get_user_model()
        name = artists.normalize_username(options["name"])
        if artists.objects.filter(username__iexact=name).exists():
            raise CommandError(f"There is an account “{name}” already. change_password gives it another password.")
        artist = artists(username=name)
        try:
            artist.clean_fields(exclude=["password"])
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from error
        artist.set_password(asked_password(artist))
        artist.save()
        self.stdout.write(f"“{name}” can sign in now.")
