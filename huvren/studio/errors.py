"""Errors that only a server has."""

from typing import Any

from huvren.core.errors import HuvrenError


class StaleRevision(HuvrenError):
    """The palette has moved on since the client looked; `current` is its present state."""

    code = "stale_revision"

    def __init__(self, current: Any) -> None:
        super().__init__("This palette was changed elsewhere in the meantime. The newer state is shown; nothing was lost.")
        self.current = current
