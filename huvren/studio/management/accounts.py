"""Accounts by their names, for the commands about them."""

from django.core.management.base import CommandError

from huvren.studio.models import Artist


def named(name: str) -> Artist:
    """The account of a name. Raises `CommandError` where there is none."""
    artist = Artist.objects.filter(username=Artist.normalize_username(name)).first()
    if artist is None:
        raise CommandError(f"There is no account “{name}”. list_accounts shows those there are; make_account makes one.")
    return artist
