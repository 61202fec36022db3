"""JPEG (ITU-T T.81)."""

from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind, begins_with

PICTURE_KINDS.register(
    PictureKind("JPEG", "JPEG", (".jpg", ".jpeg"), "image/jpeg", begins_with(b"\xff\xd8\xff"), is_shown=True, is_lossy=True)
)  # fmt: skip
