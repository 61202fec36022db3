"""What a step of a palette holds, as the bytes that are kept: compressed JSON, by itself or as a difference to another step.

A difference is a Zstandard frame whose dictionary is the whole of the other step (RFC 8878, section 5: raw content), so that what
both hold costs next to nothing; see `packed_step`.
"""

from dataclasses import dataclass
from typing import Any

import zstandard
from pydantic_core import from_json, to_json

LEVEL = 3
FURTHEST, DEEPEST = 20, 3
"""How many steps lie at most between a difference and its base, and how many bases that are differences themselves may follow one
another: who looks at an old step unpacks a few and not a whole history."""
SMALL, WORTH = 4, 1.5
"""How many times smaller than the step by itself a difference is that changes little, and one that is worth keeping as such."""
TIGHTEST = 8
"""A step by itself takes no less than this part of its text; where that is enough to know, it is not packed to be compared with."""


@dataclass(frozen=True)
class Base:
    """A step that others may be differences to.

    content : see `content_of`. number : which step of its palette it is. depth : how many bases it rests on itself.
    """

    content: bytes
    number: int
    depth: int = 0


@dataclass(frozen=True)
class Packed:
    """What is kept of a step.

    data : its bytes. is_difference : to the base that was offered. is_base : whether the steps after it are best differences to it,
    since it has little in common with the base before.
    """

    data: bytes
    is_difference: bool
    is_base: bool


def content_of(document: Any, links: Any) -> bytes:
    """A step's document and its links as one JSON text."""
    return to_json({"document": document, "links": links})


def read_content(content: bytes) -> tuple[Any, Any]:
    """Document and links of such a text."""
    read = from_json(content)
    return read["document"], read["links"]


def pack(content: bytes, base: bytes = b"") -> bytes:
    """Compress. base : the content that this one is kept as a difference to; empty for none."""
    reach = max(17, (len(base) + len(content)).bit_length())
    parameters = zstandard.ZstdCompressionParameters.from_level(
        LEVEL, window_log=min(reach, zstandard.WINDOWLOG_MAX), write_checksum=1
    )  # fmt: skip
    return zstandard.ZstdCompressor(dict_data=_dictionary(base), compression_params=parameters).compress(content)


def unpack(packed: bytes, base: bytes = b"") -> bytes:
    """The content that was packed, with the base that it was packed with. Raises `zstandard.ZstdError` where that is another."""
    return zstandard.ZstdDecompressor(dict_data=_dictionary(base), max_window_size=1 << zstandard.WINDOWLOG_MAX).decompress(packed)


def _dictionary(base: bytes) -> zstandard.ZstdCompressionDict | None:
    return zstandard.ZstdCompressionDict(base, dict_type=zstandard.DICT_TYPE_RAWCONTENT) if base else None


def packed_step(content: bytes, number: int, base: Base | None) -> Packed:
    """What to keep of a step, its content being `content_of` what it holds.

    What changed little is a difference to the base. What changed much, all colors for example, is one too and the base of what
    follows, which will be like it; what has nothing in common with the base, or is too far from it, stands by itself.
    """
    if base is None or abs(number - base.number) >= FURTHEST:
        return Packed(pack(content), is_difference=False, is_base=True)
    difference = pack(content, base.content)
    if len(difference) * SMALL * TIGHTEST < len(content):
        return Packed(difference, is_difference=True, is_base=False)
    alone = pack(content)
    if len(difference) * SMALL < len(alone):
        return Packed(difference, is_difference=True, is_base=False)
    if len(difference) * WORTH < len(alone):
        return Packed(difference, is_difference=True, is_base=base.depth < DEEPEST)
    return Packed(alone, is_difference=False, is_base=True)
