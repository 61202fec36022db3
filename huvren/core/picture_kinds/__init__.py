"""Kinds of picture files that are read: one file a kind. Menus, accepted endings, messages and the command line derive from here."""

from huvren.core.picture_kinds.kind import MOST_PIXELS, PICTURE_KINDS, PictureKind

# In the order of messages.
# isort: off
from huvren.core.picture_kinds import png, jpeg, webp, gif, bmp, tiff, avif, jpeg2000, ico, pcx, anymap, tga  # noqa: F401
# isort: on

__all__ = ["MOST_PIXELS", "PICTURE_KINDS", "PictureKind", "is_picture", "kind_of", "labels_of_pictures"]


def kind_of(data: bytes) -> PictureKind | None:
    """The kind of picture that bytes begin like, whatever the file is called."""
    return next((kind for kind in PICTURE_KINDS if kind.begins(data)), None)


def is_picture(data: bytes) -> bool:
    """Whether the bytes begin like a picture that is read."""
    return kind_of(data) is not None


def labels_of_pictures() -> str:
    """The kinds, as a sentence has them: “PNG, JPEG and GIF”."""
    *most, last = (kind.label for kind in PICTURE_KINDS)
    return f"{', '.join(most)} and {last}"
