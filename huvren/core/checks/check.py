"""What a check is and what it reports, and the registry of checks."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import islice
from typing import Literal

from huvren.core.checks.drawing import Drawing
from huvren.core.checks.subject import Subject
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput, HuvrenError
from huvren.core.palette.check_limits import judged_by
from huvren.core.palette.operations import Operation
from huvren.core.progress import look_up
from huvren.core.registry import Registry

Verdict = Literal["fails", "look", "holds", "nothing"]
VERDICTS: tuple[Verdict, ...] = ("fails", "look", "holds", "nothing")
"""From the worst to the least."""
SAID: Mapping[Verdict, str] = {"fails": "fails", "look": "look again", "holds": "holds", "nothing": "nothing to say"}
Value = float | str
MOST_MENDS = 4
MOST_NAMED = 3


@dataclass(frozen=True)
class Setting:
    """A number or a choice.

    kind : what it is; “color” in any notation, “palette” and “swatch” by their ids, an empty text for none.
    """

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    usual: Value
    """Where nothing is chosen."""
    use: str
    """What it is for, in one sentence."""
    kind: Literal["number", "choice", "color", "palette", "swatch"] = "number"
    low: float = 0.0
    """The least."""
    high: float = 100.0
    """The most."""
    step: float = 1.0
    """From one value to the next in the interface."""
    unit: str = ""
    """Written behind the number."""
    choices: tuple[tuple[str, str], ...] = ()
    """Ids and labels, where it is no number."""

    def checked(self, value: object) -> Value:
        """The value as one that can be. Raises `BadInput` in words."""
        if self.kind == "number":
            if isinstance(value, bool) or not isinstance(value, int | float) or value != value:
                raise BadInput(f"The limit “{self.label}” has to be a number.")
            if not self.low <= value <= self.high:
                raise BadInput(f"The limit “{self.label}” is {self.low:g} to {self.high:g}; {value:g} was given.")
            return float(value)
        if not isinstance(value, str) or len(value) > 200:
            raise BadInput(f"The limit “{self.label}” has to be a short text.")
        if self.kind == "choice" and value not in {choice for choice, _ in self.choices}:
            raise BadInput(f"“{value[:40]}” is no choice for “{self.label}”. Choose one of: {', '.join(c for c, _ in self.choices)}.")
        if self.kind == "color":
            return parse_color(value).hex[:7]
        return value


@dataclass(frozen=True)
class Part:
    """A piece of a sentence, and the swatches that it is about."""

    text: str
    """Words as they stand in the sentence."""
    ids: tuple[str, ...] = ()
    """Swatches that the words are about."""


@dataclass(frozen=True)
class Mend:
    """A palette operation that would repair what was found."""

    label: str
    """As menus call it."""
    operation: Operation
    """What is done."""


@dataclass(frozen=True)
class Report:
    """What was found. parts : the sentence; pairs : every two swatches that are named together; ids : all that it concerns.

    draw : makes the picture, given the views' values; find_mends : looks for what would repair it, which may take longer than the
    verdict; recipe : settings of a reduction that follow from it, by name.
    """

    verdict: Verdict
    """How it came out."""
    parts: tuple[Part, ...]
    draw: Callable[[Mapping[str, Value]], Drawing]
    find_mends: Callable[[], Iterable[Mend | None]] = tuple
    pairs: tuple[tuple[str, str], ...] = ()
    recipe: Mapping[str, float] = field(default_factory=dict)
    concerned: tuple[str, ...] = ()
    """Ids of swatches that it is about."""
    badness: float | None = None
    """How much is wrong, where that can be counted: a mend has to make it less."""

    @cached_property
    def mends(self) -> tuple[Mend, ...]:
        return tuple(islice((mend for mend in self.find_mends() if mend is not None), MOST_MENDS))

    @property
    def sentence(self) -> str:
        return "".join(part.text for part in self.parts)

    @property
    def ids(self) -> tuple[str, ...]:
        named = [*self.concerned, *(swatch for part in self.parts for swatch in part.ids), *(s for pair in self.pairs for s in pair)]
        return tuple(dict.fromkeys(named))


Settings = Mapping[str, Value]


@dataclass(frozen=True)
class Check:
    """A question. why : why it matters; look_for : what to look for in the picture; limits decide, views only show."""

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    question: str
    """What it answers."""
    why: str
    look_for: str
    examine: Callable[[Subject, Settings], Report]
    """Answers it, by settings that are whole and clean."""
    example: tuple[str, ...]
    """Colors that show what is looked for: of them the check finds something to say."""
    limits: tuple[Setting, ...] = ()
    """Settings that decide."""
    views: tuple[Setting, ...] = ()
    """Settings that only show."""

    def settled(self, given: Mapping[str, object] | None, views: bool = False) -> dict[str, Value]:
        """Every limit, or every view, as given or as usual. Raises `BadInput` for an unknown one or one that cannot be."""
        settings = {setting.id: setting for setting in (self.views if views else self.limits)}
        if unknown := sorted(set(given or {}) - settings.keys()):
            raise BadInput(f"The check “{self.label}” has no limit “{unknown[0][:40]}”.")
        return {key: setting.checked((given or {}).get(key, setting.usual)) for key, setting in settings.items()}


CHECKS: Registry[Check] = Registry("check")


@judged_by
def clean_limits(given: Mapping[str, object]) -> dict[str, dict[str, Value]]:
    """Limits by check, only those that differ from the usual. Raises `Unknown` and `BadInput` in words."""
    cleaned: dict[str, dict[str, Value]] = {}
    for check_id, limits in given.items():
        check = CHECKS[check_id]
        if not isinstance(limits, Mapping):
            raise BadInput(f"The limits of “{check.label}” have to be given by name.")
        usual = check.settled({})
        changed = {key: value for key, value in check.settled(limits).items() if value != usual[key]}
        if changed:
            cleaned[check_id] = changed
    return cleaned


def known_limits(given: Mapping[str, Mapping[str, object]]) -> tuple[dict[str, dict[str, Value]], list[str]]:
    """What can be gone by of limits that were stored some time ago, and a sentence for each that is as usual instead."""
    known: dict[str, dict[str, Value]] = {}
    said: list[str] = []
    for check_id, limits in given.items():
        for name, value in limits.items():
            try:
                known.setdefault(check_id, {}).update(clean_limits({check_id: {name: value}}).get(check_id, {}))
            except HuvrenError as error:
                said.append(str(error))
    return known, said


def empty(words: str) -> Drawing:
    """A picture that says why there is none."""
    sheet = Drawing(860, 120, words)
    sheet.words(0, 40, words, 14)
    return sheet


def nothing(words: str) -> Report:
    """A report that has nothing to say, and says why."""
    return Report("nothing", (Part(words),), lambda views: empty(words))


def examine(check: Check, subject: Subject, limits: Mapping[str, object] | None = None) -> Report:
    """The report of one check. What is common to all is said here. Raises `BadInput` for limits that cannot be."""
    look_up()
    settled = check.settled(limits)
    if not subject.all:
        words = (
            "The palette is empty." if not subject.palette.swatches else "Every swatch is wholly clear: there is no color to look at."
        )
        return nothing(words)
    try:
        report = check.examine(subject, settled)
        return replace(report, find_mends=lambda: _that_help(report, check, settled, subject))
    except BadInput as error:
        # Limits that contradict each other: the other checks have their say all the same.
        return nothing(str(error))


def _that_help(report: Report, check: Check, settled: Settings, subject: Subject) -> Iterator[Mend]:
    """The mends that can be made of this palette, and after which the same check finds it no worse: of what can be counted there
    has to be less. One whose numbered places are all taken, say, has no room for another swatch."""
    for mend in report.find_mends():
        look_up()
        if mend is None:
            continue
        with suppress(HuvrenError):
            outcome = mend.operation.run(subject.palette, subject.usage or {})
            after = check.examine(subject.of(outcome.palette, outcome.successors), settled)
            if _is_better(report, after):
                yield mend


def _is_better(before: Report, after: Report) -> bool:
    ranks = VERDICTS.index(before.verdict), VERDICTS.index(after.verdict)
    if before.badness is not None and after.badness is not None and before.verdict != "holds":
        return ranks[1] >= ranks[0] and (ranks[1] > ranks[0] or after.badness < before.badness)
    return ranks[1] >= ranks[0]


def examine_all(
    subject: Subject, limits: Mapping[str, Mapping[str, object]] | None = None, only: Iterable[str] | None = None
) -> dict[str, Report]:
    """Reports by check, in the registry's order. Raises `Unknown` for a check that is not there."""
    wanted = CHECKS.ids() if only is None else [CHECKS[check].id for check in only]
    return {check.id: examine(check, subject, (limits or {}).get(check.id)) for check in CHECKS if check.id in set(wanted)}


def listed(parts: Iterable[Part], total: int) -> list[Part]:
    """“a, b and 3 more”, the first few by name."""
    shown = list(parts)[:MOST_NAMED]
    made: list[Part] = []
    for place, part in enumerate(shown):
        last = place == len(shown) - 1 and total <= len(shown)
        made += ([Part(" and " if last else ", ")] if place else []) + [part]
    return [*made, Part(f" and {total - len(shown)} more")] if total > len(shown) else made
