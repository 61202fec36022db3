"""What the schema says of routes that answer bytes."""

from typing import Any

MEDIA = "x-media"


def of_media(*types: str) -> dict[str, Any]:
    """For `openapi_extra`: a route whose answer is bytes of one of these media types."""
    return {MEDIA: list(types)}


def say_media(operation: dict[str, Any]) -> None:
    """Write the media types of an operation into its answer."""
    if types := operation.pop(MEDIA, None):
        content = {kind: {"schema": {"type": "string", "format": "binary"}} for kind in types}
        operation["responses"][200] = {"description": "OK", "content": content}
