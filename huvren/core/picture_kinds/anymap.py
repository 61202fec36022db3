"""The portable maps P1 to P7: bits, gray and color, as text or as bytes, of any largest value up to 65,535.

Read here and not by the library, which goes through text, and through any largest value but 255, one number at a time.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import numpy as np

from huvren.core.color.arrays import Bytes
from huvren.core.picture_kinds.kind import PICTURE_KINDS, PictureKind

if TYPE_CHECKING:
    from PIL import Image

HEAD = 4096
"""Bytes within which the header ends."""
BEGINS = re.compile(rb"P[1-6](?:[ \t\r\n\v\f]|#[^\r\n]*[\r\n])+[0-9]|P7\n")
GAP = rb"(?:[ \t\r\n\v\f]|#[^\r\n]*[\r\n])+"
NUMBERS = {
    with_most: re.compile(rb"P[1-6]" + (GAP + rb"([0-9]{1,9})") * (3 if with_most else 2) + rb"(?:[ \t\r\n\v\f]|#[^\r\n]*[\r\n])")
    for with_most in (False, True)
}
COMMENT = re.compile(rb"#[^\r\n]*")
MOST_VALUE = 65_535
PIECE = 1 << 20
"""Bytes of text that are read at a time, and on to the end of the line."""
DEPTHS = {1: "L", 2: "LA", 3: "RGB", 4: "RGBA"}


class _Header:
    """What a file says before its pixels. Raises `ValueError` for one that says too little, or what cannot be."""

    def __init__(self, data: bytes) -> None:
        head = data[:HEAD]
        self.form = head[1] - ord("0")
        self.most, self.depth = 1, 3 if self.form in (3, 6) else 1
        if self.form == 7:
            text, ended, _ = head.partition(b"ENDHDR\n")
            rows = (row.split(None, 1) for row in COMMENT.sub(b"", text).splitlines())
            said = {row[0]: row[1] for row in rows if len(row) == 2}
            if not ended:
                raise ValueError("The header does not end.")
            self.width, self.height, self.depth, self.most = (
                int(said[word]) for word in (b"WIDTH", b"HEIGHT", b"DEPTH", b"MAXVAL")
            )  # fmt: skip
            self.begin = len(text) + len(ended)
        else:
            found = NUMBERS[self.form not in (1, 4)].match(head)
            if found is None:
                raise ValueError("The header ends too early.")
            self.width, self.height, *rest = (int(number) for number in found.groups())
            self.most = rest[0] if rest else 1
            self.begin = found.end()
        if min(self.width, self.height) < 1 or not 1 <= self.most <= MOST_VALUE or self.depth not in DEPTHS:
            raise ValueError("A size, a depth or a largest value that cannot be.")


def _begins(data: bytes) -> bool:
    return BEGINS.match(data[:HEAD]) is not None


def _claims(data: bytes) -> tuple[int, int]:
    header = _Header(data)
    return header.width, header.height


def _read_numbers(text: bytes) -> np.ndarray:
    """Whole numbers with blanks between. Raises `ValueError` for anything else."""
    return np.fromstring(text, dtype=np.int32, sep=" ") if text.strip() else np.empty(0, np.int32)


def _of_text(data: bytes, header: _Header) -> np.ndarray:
    """(n,) numbers of a map that is written as text."""
    text = data[header.begin :]
    if b"#" in text:
        text = COMMENT.sub(b"", text)
    if header.form == 1:
        # Digits of bits may stand without a blank between them.
        letters = np.frombuffer(text, np.uint8)
        bits = letters[letters > ord(" ")]
        if len(bits) and not ord("0") <= bits.min() <= bits.max() <= ord("1"):
            raise ValueError("A bit is neither 0 nor 1.")
        return bits - ord("0")
    wanted = header.height * header.width * header.depth
    found: list[np.ndarray] = []
    at = 0
    # In pieces: what lies behind the pixels is not looked at, it may be long.
    while at < len(text) and sum(map(len, found)) < wanted:
        end = text.find(b"\n", at + PIECE)
        end = len(text) if end < 0 else end
        found.append(_read_numbers(text[at:end]))
        at = end
    return np.concatenate(found) if found else np.empty(0, np.int32)


def _numbers(data: bytes, header: _Header) -> np.ndarray:
    """(h, w, depth) numbers, 0 to the largest value. Raises `ValueError` where there are too few, or one is too large."""
    row = header.width * header.depth
    if header.form == 4:
        packed = np.frombuffer(data, np.uint8, header.height * ((header.width + 7) // 8), header.begin)
        return np.unpackbits(packed.reshape(header.height, -1), axis=1, count=header.width)[..., None]
    if header.form in (1, 2, 3):
        numbers = _of_text(data, header)[: header.height * row]
    else:
        numbers = np.frombuffer(data, ">u2" if header.most > 255 else np.uint8, header.height * row, header.begin)
    if len(numbers) < header.height * row or not 0 <= numbers.min() <= numbers.max() <= header.most:
        raise ValueError("There are too few numbers, or one is larger than the largest value.")
    return numbers.reshape(header.height, header.width, header.depth)


def _in_eight_bits(numbers: np.ndarray, most: int) -> Bytes:
    table = ((np.arange(most + 1) * 255 + most // 2) // most).astype(np.uint8)
    return np.asarray(table[numbers])


def _open(data: bytes) -> Image.Image:
    from PIL import Image

    header = _Header(data)
    numbers = _numbers(data, header)
    if header.form in (1, 4):
        numbers = 1 - numbers  # there 1 is black
    shown = numbers if header.most == 255 and numbers.dtype == np.uint8 else _in_eight_bits(numbers, header.most)
    image = Image.fromarray(np.ascontiguousarray(shown[..., 0] if header.depth == 1 else shown), DEPTHS[header.depth])
    image.info["deep"] = header.most > 255
    return image


def _mend(data: bytes, image: Image.Image) -> tuple[Image.Image, str]:
    return image, "Brought from 16 to 8 bits a channel." if image.info.get("deep") else ""


PICTURE_KINDS.register(
    PictureKind(
        "PPM", "PPM", (".ppm", ".pgm", ".pbm", ".pnm", ".pam"), "image/x-portable-anymap", _begins,
        open=_open, claims=_claims, mend=_mend,
    )
)  # fmt: skip
