"""Zips from outside, read in pieces: what they unpack to is counted while it is unpacked, whatever their headers say."""

import io
import lzma
import struct
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from typing import IO

from huvren.core.errors import BadFile, TooLarge
from huvren.core.progress import look_up

MOST_ENTRIES = 20_000
MOST_DIRECTORY_BYTES = 8 * 1024 * 1024
PIECE = 1 << 18
DAMAGE = (
    zipfile.BadZipFile, zipfile.LargeZipFile, KeyError, ValueError, OSError, EOFError, NotImplementedError, RuntimeError, zlib.error,
    struct.error, lzma.LZMAError,
)  # fmt: skip
"""What unpacking raises for bytes that are not what they say."""
_END, _END_SIZE, _END_OF_LARGE, _COMMENT = b"PK\x05\x06", 22, b"PK\x06\x07", 65_535


class NoZip(BadFile):
    """No zip at all."""


class Unpacking:
    """The parts of a zip by name. `what` it is called in words, such as “archive”; `most_bytes` is what all parts may unpack to.

    Raises `NoZip` for anything else, `TooLarge`, and `BadFile` for a part that is damaged or packed in a way that is not read.
    """

    def __init__(self, file: IO[bytes], what: str, most_bytes: int) -> None:
        self._what = what
        self._left = most_bytes
        self._check_directory(file)
        try:
            self._zip = zipfile.ZipFile(file)
        except DAMAGE as error:
            raise NoZip(f"That is no {what}.") from error
        entries = self._zip.infolist()
        if len(entries) > MOST_ENTRIES:
            raise TooLarge(f"That {what} has {len(entries):,} parts; {MOST_ENTRIES:,} is the most.")
        self.claimed = sum(entry.file_size for entry in entries)
        """Bytes that all parts unpack to, by what the headers say."""

    def names(self) -> list[str]:
        """Of all parts, in their order."""
        return self._zip.namelist()

    @contextmanager
    def opened(self, name: str) -> Iterator[IO[bytes]]:
        """A part to be read in pieces; whoever reads says by `spend` how much."""
        try:
            entry = self._zip.getinfo(name)
            if entry.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
                raise BadFile(f"That {self._what} is packed in a way that is not read here.")
            with self._zip.open(entry) as stream:
                yield stream
        except DAMAGE as error:
            if isinstance(error, BadFile | TooLarge):
                raise
            raise BadFile(
                f"That {self._what} is damaged, so nothing was brought in: its part “{name[:80]}” cannot be read."
            ) from error

    def spend(self, count: int) -> None:
        """So many bytes have been unpacked."""
        look_up()
        self._left -= count
        if self._left < 0:
            raise TooLarge(f"That {self._what} unpacks to more than one can be.")

    def read(self, name: str, most: int) -> bytes:
        """All of a part of at most `most` bytes."""
        parts, held = [], 0
        with self.opened(name) as stream:
            while piece := stream.read(PIECE):
                held += len(piece)
                self.spend(len(piece))
                if held > most:
                    raise TooLarge(f"A part of that {self._what}, “{name[:80]}”, has more than {most // 1048576} MB.")
                parts.append(piece)
        return b"".join(parts)

    def _check_directory(self, file: IO[bytes]) -> None:
        """Look at the end of the file for how large its directory is, before zipfile builds it."""
        try:
            size = file.seek(0, io.SEEK_END)
            file.seek(max(0, size - _END_SIZE - _COMMENT - 20))
            tail = file.read()
            file.seek(0)
        except (OSError, ValueError) as error:
            raise NoZip(f"That is no {self._what}.") from error
        at = tail.rfind(_END)
        if at < 0 or len(tail) - at < _END_SIZE:
            raise NoZip(f"That is no {self._what}.")
        directory = int.from_bytes(tail[at + 12 : at + 16], "little")
        if directory > MOST_DIRECTORY_BYTES or tail[max(0, at - 20) : at - 16] == _END_OF_LARGE:
            raise TooLarge(f"That {self._what} lists more than {MOST_ENTRIES:,} parts.")
