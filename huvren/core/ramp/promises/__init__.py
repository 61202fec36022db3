"""Promises: what a ramp may be asked to keep. Each says whether it is kept, where it is not, and what repairs it.

Everything is measured on the colors as they are shown. A promise that needs steps takes the ramp's own, or 256.
"""

from huvren.core.ramp.promises.promise import (
    PROMISES,
    SAMPLES,
    Answer,
    Examined,
    Finding,
    Promise,
    Verdict,
    broken,
    examine,
    in_gamut,
)

# isort: off
from huvren.core.ramp.promises import lightness, evenness, arms, eyes, cycle  # noqa: F401  (menu order)
# isort: on


__all__ = ["PROMISES", "SAMPLES", "Answer", "Examined", "Finding", "Promise", "Verdict", "broken", "examine", "in_gamut"]
