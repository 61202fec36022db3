"""Keep an account from signing in, with everything it has kept."""

from typing import Any

from django.core.management.base import BaseCommand
from django.db import transaction

from huvren.studio.management.accounts import named
from huvren.studio.models import Job
from huvren.studio.services.load import jobs
from huvren.studio.services.load.quotas import OPEN
from huvren.studio.sessions import end_sessions


class Command(BaseCommand):
    help = "An account can no longer sign in, is signed out everywhere, and its jobs are called off. enable_account turns that round."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        artist = named(options["name"])
        with transaction.atomic():
            artist.is_active = False
            artist.save(update_fields=["is_active"])
            end_sessions(artist)
        for pk in Job.objects.filter(owner=artist, state__in=OPEN).values_list("pk", flat=True):
            jobs.cancel(artist, pk)
        self.stdout.write(f"“{artist.username}” is signed out everywhere and cannot sign in. All that it kept is there.")
