"""Remove index maps and file contents that nothing names any more."""

from typing import Any

from django.core.management.base import BaseCommand

from huvren.studio.services.shelf import cleaning


class Command(BaseCommand):
    help = "Remove index maps that no step of any history names, and file contents that no picture names."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--dry-run", action="store_true", help="say what would go, and remove nothing")

    def handle(self, *args: Any, **options: Any) -> None:
        removed = cleaning.collect(dry_run=options["dry_run"])
        self.stdout.write(f"{'Would remove' if options['dry_run'] else 'Removed'}: {removed}.")
