"""Errors that only a server has."""

import errno
from typing import Any

from django.db import DatabaseError, InterfaceError, OperationalError
from psycopg.errors import DiskFull

from huvren.core.errors import HuvrenError

FULL_DISK = "The server's disk is full. Nothing was changed and nothing is lost; whoever runs it has to make room first."


def is_disk_full(error: BaseException | None) -> bool:
    """Whether there was no room left to write, in a file or in the database."""
    if isinstance(error, OSError):
        return error.errno in (errno.ENOSPC, errno.EDQUOT)
    return isinstance(error, DatabaseError) and isinstance(error.__cause__, DiskFull)


def is_database_away(error: BaseException | None) -> bool:
    """Whether the connection to the database was lost, or none was to be had; what it refuses otherwise is another matter."""
    if not isinstance(error, OperationalError | InterfaceError):
        return False
    state = getattr(error.__cause__, "sqlstate", None)
    # Class 08, and what it says to everybody when it ends or begins (PostgreSQL, appendix A); the library itself gives no state.
    return state is None or state.startswith("08") or state in ("57P01", "57P02", "57P03")


class Busy(HuvrenError):
    """The server has too much to do at this moment; a little later it can be done."""

    code = "busy"


class TooOften(HuvrenError):
    """Asked for more often than may be. wait_s : seconds until it may be again."""

    code = "too_often"

    def __init__(self, wait_s: float) -> None:
        super().__init__(f"That is asked for very often. Wait {max(1, round(wait_s))} seconds, then go on; nothing was lost.")
        self.wait_s = wait_s


class DoneAlready(HuvrenError):
    """What was sent has been done: it came a second time, since its answer was lost. `current` is the palette as it is now."""

    code = "done_already"

    def __init__(self, current: Any) -> None:
        super().__init__("This was done already.")
        self.current = current


class StaleRevision(HuvrenError):
    """The palette has moved on since the client looked; `current` is its present state."""

    code = "stale_revision"

    def __init__(self, current: Any) -> None:
        super().__init__("This palette was changed elsewhere in the meantime. The newer state is shown; nothing was lost.")
        self.current = current
