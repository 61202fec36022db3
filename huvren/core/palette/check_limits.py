"""Limits of checks, as a palette keeps them: by check and by name, a number or a short text.

What checks there are, and what they can be asked, is known above this layer: whoever knows it says so by `judged_by`.
"""

from collections.abc import Callable, Mapping
from importlib import import_module
from math import isfinite
from typing import TypeVar

from huvren.core.errors import BadInput

CheckLimits = tuple[tuple[str, tuple[tuple[str, float | str], ...]], ...]
"""By id of the check and name of the limit; only those that differ from the usual."""
Judge = Callable[[Mapping[str, object]], Mapping[str, Mapping[str, float | str]]]

JudgeType = TypeVar("JudgeType", bound=Judge)

MOST_CHECKS = MOST_LIMITS = 64
LONGEST = 200
_judges: list[Judge] = []


def judged_by(judge: JudgeType) -> JudgeType:
    """Decorator: limits that come from outside are given to `judge`, which leaves out the usual ones and raises for wrong ones."""
    _judges.append(judge)
    return judge


def clean_limits(given: Mapping[str, object]) -> CheckLimits:
    """Limits that hold together. Raises `BadInput` or `Unknown` in words."""
    # The judge lies in a layer above and registers itself; so limits are judged whoever asks, and whatever else was imported.
    import_module("huvren.core.checks")
    for judge in _judges:
        given = judge(given)
    return held_limits(given)


def held_limits(given: Mapping[str, object]) -> CheckLimits:
    """Limits as they are, of checks that may be known or not. Raises `BadInput` for what can be no limit at all."""
    if len(given) > MOST_CHECKS:
        raise BadInput(f"CheckLimits of {len(given)} checks are too many.")
    return tuple(sorted((_short(check), _of_check(check, limits)) for check, limits in given.items()))


def _short(text: str) -> str:
    if not text or len(text) > LONGEST:
        raise BadInput(f"“{text[:30]}” is no name of a check or a limit.")
    return text


def _of_check(check: str, limits: object) -> tuple[tuple[str, float | str], ...]:
    if not isinstance(limits, Mapping) or len(limits) > MOST_LIMITS:
        raise BadInput(f"The limits of the check “{check[:30]}” have to be given by name.")
    held: list[tuple[str, float | str]] = []
    for name, value in limits.items():
        if isinstance(value, str) and len(value) <= LONGEST:
            held.append((_short(name), value))
        elif isinstance(value, int | float) and not isinstance(value, bool) and isfinite(value):
            held.append((_short(name), float(value)))
        else:
            raise BadInput(f"The limit “{str(name)[:30]}” of “{check[:30]}” has to be a number or a short text.")
    return tuple(sorted(held))


def as_mapping(limits: CheckLimits) -> dict[str, dict[str, float | str]]:
    return {check: dict(held) for check, held in limits}
