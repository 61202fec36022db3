"""WebP (RFC 9649)."""

from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind

PICTURE_KINDS.register(
    PictureKind(
        "WEBP", "WebP", (".webp",), "image/webp", lambda data: data[:4] == b"RIFF" and data[8:12] == b"WEBP",
        is_shown=True, is_lossy=True,
    )
)  # fmt: skip
