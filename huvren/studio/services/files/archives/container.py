"""A zip from outside, read in pieces: what it unpacks is counted while it is unpacked, whatever its headers say."""

import io
import zipfile
import zlib
from collections.abc import Iterator
from typing import IO, Any

from huvren.core.errors import BadFile, TooLarge
from huvren.core.json_text import read_json

MOST_ENTRIES = 20_000
MOST_DIRECTORY_BYTES = 8 * 1024 * 1024
MOST_UNPACKED_BYTES = 4 * 1024**3
MOST_LINE_BYTES = 32 * 1024 * 1024
PIECE = 1 << 20
DAMAGE = (KeyError, ValueError, OSError, EOFError, zlib.error, zipfile.BadZipFile, NotImplementedError, RuntimeError)
"""What zipfile and zlib raise for bytes that are not what they say."""
_END, _END_SIZE, _END_OF_LARGE, _COMMENT = b"PK\x05\x06", 22, b"PK\x06\x07", 65_535


class NoArchive(BadFile):
    """No zip, or none of ours."""

    def __init__(self) -> None:
        super().__init__("That is no library archive. One is written by “Archive” on the shelf, and ends in .zip.")


class Container:
    """The entries of a zip by name. Raises `NoArchive` or `TooLarge`, and `BadFile` for a part that is damaged."""

    def __init__(self, file: IO[bytes]) -> None:
        _check_directory(file)
        try:
            self._zip = zipfile.ZipFile(file)
        except DAMAGE as error:
            raise NoArchive from error
        entries = self._zip.infolist()
        if len(entries) > MOST_ENTRIES:
            raise TooLarge(f"That archive has {len(entries):,} parts; {MOST_ENTRIES:,} is the most.")
        self.claimed = sum(entry.file_size for entry in entries)
        self._left = MOST_UNPACKED_BYTES

    def _open(self, name: str) -> IO[bytes]:
        try:
            entry = self._zip.getinfo(name)
            if entry.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
                raise BadFile("That archive is packed in a way that is not read here.")
            return self._zip.open(entry)
        except DAMAGE as error:
            if isinstance(error, BadFile):
                raise
            raise BadFile(f"That archive is damaged, so nothing was brought in: its part “{name[:80]}” cannot be read.") from error

    def _spend(self, count: int) -> None:
        self._left -= count
        if self._left < 0:
            raise TooLarge("That archive unpacks to more than a library can be.")

    def read(self, name: str, most: int) -> bytes:
        """All of an entry of at most `most` bytes."""
        parts, held = [], 0
        try:
            with self._open(name) as entry:
                while piece := entry.read(PIECE):
                    held += len(piece)
                    self._spend(len(piece))
                    if held > most:
                        raise TooLarge(f"A part of that archive, “{name[:80]}”, has more than {most // 1048576} MB.")
                    parts.append(piece)
        except DAMAGE as error:
            if isinstance(error, BadFile | TooLarge):
                raise
            raise BadFile("That archive is damaged, so nothing was brought in.") from error
        return b"".join(parts)

    def lines(self, name: str) -> Iterator[Any]:
        """The lines of an entry, each of them JSON."""
        try:
            with self._open(name) as entry, io.BufferedReader(entry, PIECE) as rows:  # type: ignore[type-var]
                while line := rows.readline(MOST_LINE_BYTES + 1):
                    self._spend(len(line))
                    if len(line) > MOST_LINE_BYTES:
                        raise TooLarge(f"A line of “{name[:80]}” in that archive has more than {MOST_LINE_BYTES // 1048576} MB.")
                    yield read_json(line)
        except DAMAGE as error:
            if isinstance(error, BadFile | TooLarge):
                raise
            raise BadFile(f"That archive is damaged, so nothing was brought in. {error}"[:300]) from error


def _check_directory(file: IO[bytes]) -> None:
    """Look at the end of the file for how large its directory is, before zipfile builds it."""
    try:
        size = file.seek(0, io.SEEK_END)
        file.seek(max(0, size - _END_SIZE - _COMMENT - 20))
        tail = file.read()
        file.seek(0)
    except (OSError, ValueError) as error:
        raise NoArchive from error
    at = tail.rfind(_END)
    if at < 0 or len(tail) - at < _END_SIZE:
        raise NoArchive
    directory = int.from_bytes(tail[at + 12 : at + 16], "little")
    if directory > MOST_DIRECTORY_BYTES or tail[max(0, at - 20) : at - 16] == _END_OF_LARGE:
        raise TooLarge(f"That archive lists more than {MOST_ENTRIES:,} parts.")
