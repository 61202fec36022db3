"""Errors that only a server has."""

from typing import Any

from huvren.core.errors import HuvrenError


class Busy(HuvrenError):
    """The server has too much to do at this moment; a little later it can be done."""

    code = "busy"


class TooOften(HuvrenError):
    """Asked for more often than may be. wait_s : seconds until it may be again."""

    code = "too_often"

    def __init__(self, wait_s: float) -> None:
        super().__init__(f"That is asked for very often. Wait {max(1, round(wait_s))} seconds, then go on; nothing was lost.")
        self.wait_s = wait_s


class StaleRevision(HuvrenError):
    """The palette has moved on since the client looked; `current` is its present state."""

    code = "stale_revision"

    def __init__(self, current: Any) -> None:
        super().__init__("This palette was changed elsewhere in the meantime. The newer state is shown; nothing was lost.")
        self.current = current
