"""Remove for good what has lain in the trash long enough."""

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.utils import timezone

from huvren.studio.services.shelf import cleaning


class Command(BaseCommand):
    help = "Remove for good what has lain in the trash for some days; what an undo could still need stays."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--days", type=float, default=settings.TRASH_DAYS, help="default: %(default)g")
        parser.add_argument("--dry-run", action="store_true", help="say what would go, and remove nothing")

    def handle(self, *args: Any, **options: Any) -> None:
        before = timezone.now() - timedelta(days=options["days"])
        removed = cleaning.empty_every_trash(before, dry_run=options["dry_run"])
        self.stdout.write(f"{'Would remove' if options['dry_run'] else 'Removed'}: {removed}.")
