"""Checks: questions that a palette answers before it leaves, each with a verdict, a sentence, a picture and mends.

A check is one file that declares itself. It is pure: what it looks at is a `Subject`, what it proposes are ordinary palette
operations. Interfaces, the command line and the tests derive from the registry.
"""

from huvren.core.checks.check import (
    CHECKS,
    MOST_MENDS,
    MOST_NAMED,
    SAID,
    VERDICTS,
    Check,
    Mend,
    Part,
    Report,
    Setting,
    Settings,
    Value,
    Verdict,
    clean_limits,
    empty,
    examine,
    examine_all,
    known_limits,
    listed,
    nothing,
)

# isort: off
from huvren.core.checks import (  # noqa: F401  (in the order of the questions)
    balance,
    gray,
    mixtures,
    text,
    forms,
    charts,
    eyes,
    screens,
    order,
    rules,
)
# isort: on

__all__ = [
    "CHECKS",
    "MOST_MENDS",
    "MOST_NAMED",
    "SAID",
    "VERDICTS",
    "Check",
    "Mend",
    "Part",
    "Report",
    "Setting",
    "Settings",
    "Value",
    "Verdict",
    "clean_limits",
    "empty",
    "examine",
    "examine_all",
    "known_limits",
    "listed",
    "nothing",
]
