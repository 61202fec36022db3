"""A promise that a ramp can be held to, and the registry of promises."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.gamut import within_srgb
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.ramp.plan import PURPOSES, ColorOf, RampPlan
from huvren.core.ramp.values import Ramp
from huvren.core.registry import Registry

Verdict = Literal["holds", "look", "fails"]
SAMPLES = 257
"""An odd number, so that the middle is among them."""


@dataclass(frozen=True)
class Examined:
    """A ramp as promises look at it: (SAMPLES,) places and how they are shown."""

    ramp: Ramp
    """That is examined."""
    steps: int | None
    """How many; None for a smooth one."""

    @cached_property
    def shares(self) -> Floats:
        """(SAMPLES,) places 0..1."""
        return np.linspace(0, 1, SAMPLES)

    @cached_property
    def srgb(self) -> Floats:
        """(SAMPLES, 3), what is clear laid over nothing."""
        return self.ramp.shown(self.shares)[0]

    @cached_property
    def oklab(self) -> Floats:
        """(SAMPLES, 3) OKLab as it is shown."""
        return convert(self.srgb, "srgb", "oklab")

    @cached_property
    def lightness(self) -> Floats:
        """(SAMPLES,) OKLab lightness."""
        return np.asarray(self.oklab[:, 0])


@dataclass(frozen=True)
class Finding:
    """What an examination found. places : shares 0..1 where it is not kept."""

    verdict: Verdict
    """How it came out."""
    sentence: str
    """In words."""
    places: tuple[float, ...] = ()


@dataclass(frozen=True)
class Promise:
    """id, what it is called, the question it answers, how it is examined, and a repair with its name, if there is one."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    question: str
    """What it answers."""
    examine: Callable[[Examined], Finding]
    """Answers it."""
    repair: Callable[[RampPlan, ColorOf], RampPlan] | None = None
    """The plan that holds it; None where none is known."""
    repair_label: str = ""
    """As the button says."""


PROMISES: Registry[Promise] = Registry("promise of a ramp")


@dataclass(frozen=True)
class Answer:
    """A promise and what was found; `given` where the ramp's purpose makes it."""

    promise: Promise
    """That was asked."""
    finding: Finding
    """What came out."""
    given: bool
    """Whether the purpose promises it."""


def examine(plan: RampPlan, color_of: ColorOf) -> list[Answer]:
    """Every promise, those that the purpose gives first."""
    examined = Examined(plan.ramp(color_of), plan.steps)
    given = PURPOSES[plan.purpose].promises
    answers = [Answer(promise, promise.examine(examined), promise.id in given) for promise in PROMISES]
    return sorted(answers, key=lambda answer: not answer.given)


def broken(answers: list[Answer]) -> list[Answer]:
    """The promises that the purpose gives and the ramp does not keep."""
    return [answer for answer in answers if answer.given and answer.finding.verdict == "fails"]


def in_gamut(oklab: Floats) -> list[Color]:
    """(n, 3) OKLab → OKLab colors that sRGB shows, with less chroma where it must be; lightness and hue held.

    Parameters
    ----------
    oklab : Floats
        (n, 3) OKLab.

    Returns
    -------
    list[Color]
        OKLab colors that sRGB shows, with less chroma where it must be; lightness and hue held.
    """
    rows = convert(within_srgb(convert(oklab, "oklab", "oklch")), "oklch", "oklab")
    return [Color("oklab", (row[0], row[1], row[2])) for row in rows.tolist()]
