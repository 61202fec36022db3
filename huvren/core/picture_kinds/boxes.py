"""Files of nested boxes, each a length, a word of four letters and a body (ISO/IEC 14496-12, §4.2; ISO/IEC 15444-1, annex I.4)."""

import struct
from collections.abc import Iterator

MOST_BOXES = 10_000


def boxes(data: bytes, begin: int = 0, end: int | None = None) -> Iterator[tuple[bytes, int, int]]:
    """The boxes between two places, as word, begin and end of the body. What is cut short ends the list."""
    at, last = begin, len(data) if end is None else min(end, len(data))
    for _ in range(MOST_BOXES):
        if at + 8 > last:
            return
        length, word = struct.unpack_from(">I4s", data, at)
        head = 8
        if length == 1:
            if at + 16 > last:
                return
            (length,), head = struct.unpack_from(">Q", data, at + 8), 16
        until = last if length == 0 else at + length
        if length and length < head:
            return
        yield word, at + head, min(until, last)
        at = until


def inside(data: bytes, words: tuple[bytes, ...], skips: dict[bytes, int] | None = None) -> Iterator[tuple[int, int]]:
    """Begin and end of every box that is found by going from box to box by these words.

    skips : bytes at the beginning of a body before the boxes in it.
    """
    places = [(0, len(data))]
    for word in words:
        places = [
            (begin + (skips or {}).get(word, 0), end)
            for outer in places
            for found, begin, end in boxes(data, *outer)
            if found == word
        ]  # fmt: skip
    yield from places
