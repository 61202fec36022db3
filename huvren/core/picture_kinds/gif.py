"""GIF, version 87a and 89a."""

from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind, begins_with

PICTURE_KINDS.register(PictureKind("GIF", "GIF", (".gif",), "image/gif", begins_with(b"GIF87a", b"GIF89a"), is_shown=True))
