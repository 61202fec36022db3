"""The archive: everything on a shelf as one zip, with the whole history of every palette, and back."""

from huvren.studio.services.files.archives.taking import Taken, take_archive, take_or_start
from huvren.studio.services.files.archives.writing import revision_document, write_archive

__all__ = ["Taken", "revision_document", "take_archive", "take_or_start", "write_archive"]
