"""Whether the compiled kernels are still being made, as on the very first start: whoever needs one waits, and is told how long."""

import json
import os
from pathlib import Path

NAMED = "HUVREN_PREPARING"
"""The environment variable that names the file in which `huvren.core.compile_all` says how far it is."""


def is_alive(process: int) -> bool:
    """Whether there is such a process."""
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        pass
    return True


def share() -> float | None:
    """How much is prepared, 0..1; None where nothing is being prepared, or where what did it is gone."""
    if not (named := os.environ.get(NAMED)):
        return None
    try:
        said = json.loads(Path(named).read_text())
    except (OSError, ValueError):
        return None
    return float(said["share"]) if is_alive(int(said["process"])) else None
