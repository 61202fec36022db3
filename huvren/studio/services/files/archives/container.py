"""The zip of a library archive: parts that are JSON, whole or line by line."""

import io
from collections.abc import Iterator
from typing import IO, Any

from huvren.core.errors import BadFile, TooLarge
from huvren.core.json_text import read_json
from huvren.core.unpacking import DAMAGE, MOST_ENTRIES, NoZip, Unpacking

__all__ = ["MOST_ENTRIES", "Container", "NoArchive"]
MOST_UNPACKED_BYTES = 4 * 1024**3
MOST_LINE_BYTES = 32 * 1024 * 1024
PIECE = 1 << 20


class NoArchive(BadFile):
    """No zip, or none of ours."""

    def __init__(self) -> None:
        super().__init__("That is no library archive. One is written by “Archive” on the shelf, and ends in .zip.")


class Container(Unpacking):
    """The entries of a zip by name. Raises `NoArchive` or `TooLarge`, and `BadFile` for a part that is damaged."""

    def __init__(self, file: IO[bytes]) -> None:
        try:
            super().__init__(file, "archive", MOST_UNPACKED_BYTES)
        except NoZip as error:
            raise NoArchive from error

    def lines(self, name: str) -> Iterator[Any]:
        """The lines of an entry, each of them JSON."""
        try:
            with self.opened(name) as entry, io.BufferedReader(entry, PIECE) as rows:  # type: ignore[type-var]
                while line := rows.readline(MOST_LINE_BYTES + 1):
                    self.spend(len(line))
                    if len(line) > MOST_LINE_BYTES:
                        raise TooLarge(f"A line of “{name[:80]}” in that archive has more than {MOST_LINE_BYTES // 1048576} MB.")
                    yield read_json(line)
        except DAMAGE as error:
            if isinstance(error, BadFile | TooLarge):
                raise
            raise BadFile(f"That archive is damaged, so nothing was brought in. {error}"[:300]) from error
