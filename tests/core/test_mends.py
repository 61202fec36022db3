"""Mends: each one helps what it is offered for, every kind of fault has some, and several can be made as one step."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from huvren.core.checks import CHECKS, examine
from huvren.core.checks.check import VERDICTS
from huvren.core.checks.screens import displays, shown_on
from huvren.core.checks.subject import Subject
from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.errors import HuvrenError
from huvren.core.palette.operations.every import AnyOperation
from huvren.core.palette.operations.merge import MergeSwatches
from huvren.core.palette.operations.recolor import RecolorSwatch
from huvren.core.palette.operations.several import MOST_STEPS, Several
from huvren.core.palette.values import Group, Palette, Swatch

bytes_ = st.integers(0, 255)
many_colors = st.lists(st.tuples(bytes_, bytes_, bytes_), min_size=3, max_size=14, unique=True)


def palette(*rgb: tuple[int, int, int]) -> Palette:
    return Palette("Plate", tuple(Swatch(Color.from_bytes(*row), f"c{place}", id=f"i{place}") for place, row in enumerate(rgb)))


def coded(*codes: str) -> Palette:
    return Palette("Plate", tuple(Swatch(parse_color(code), code, id=f"i{place}") for place, code in enumerate(codes)))


@settings(max_examples=60, deadline=None)
@given(many_colors, st.sampled_from(["screens", "forms", "mixtures", "value", "text", "charts", "eyes"]))
def test_no_mend_makes_what_it_is_offered_for_worse(rgb: list[tuple[int, int, int]], check_id: str) -> None:
    check = CHECKS[check_id]
    subject = Subject(palette(*rgb))
    report = examine(check, subject)
    for mend in report.mends:
        outcome = mend.operation.run(subject.palette)
        after = examine(check, subject.of(outcome.palette, outcome.successors))
        assert VERDICTS.index(after.verdict) >= VERDICTS.index(report.verdict), (mend.label, report.sentence, after.sentence)
        if report.badness is not None and report.verdict != "holds":
            assert after.verdict == "holds" or (after.badness or 0) < report.badness, mend.label


def test_what_runs_together_on_a_screen_has_a_mend_that_parts_it() -> None:
    subject = Subject(coded("#000000", "#0b0b12", "#16161f", "#f6f2ea", "#fbf8f2", "#ff9a1a"))
    report = examine(CHECKS["screens"], subject, {"apart": 1})
    assert report.verdict == "look"
    assert report.mends
    left = report
    for _ in range(8):
        if not left.mends:
            break
        subject = subject.of(left.mends[0].operation.run(subject.palette).palette, {})
        left = examine(CHECKS["screens"], subject, {"apart": 1})
    assert (left.badness or 0) < (report.badness or 0) / 2, "mended one after the other"


@settings(max_examples=40, deadline=None)
@given(st.lists(st.integers(0, 60), min_size=3, max_size=3), st.integers(-9, 9), st.integers(-9, 9), st.integers(-9, 9))
def test_what_a_mend_of_screens_parts_is_apart_on_every_one(rgb: list[int], red: int, green: int, blue: int) -> None:
    near = [min(max(channel + by, 0), 255) for channel, by in zip(rgb, (red, green, blue), strict=True)]
    subject = Subject(palette(tuple(rgb), tuple(near)))
    for mend in examine(CHECKS["screens"], subject, {"apart": 1, "together": 0.75}).mends:
        if "apart from" in mend.label:
            after = subject.of(mend.operation.run(subject.palette).palette, {})
            # Paper of few tones is looked at, and promised nothing.
            for lens in (lens for lens in displays() if lens.id not in {"seven-ink", "sixteen-gray"}):
                if shown_on(subject, lens, 1, 0.75, 0).lost:
                    assert not shown_on(after, lens, 0, 0.75, 0).lost, (mend.label, lens.label)


def test_a_change_made_by_one_swatch_for_two_touches_what_both_touched() -> None:
    subject = Subject(
        coded("#000000", "#101010", "#808080", "#ffffff"),
        usage={"i0": 3, "i1": 4, "i2": 5},
        touching={("i0", "i1"): 9, ("i0", "i2"): 2, ("i1", "i2"): 5, ("i2", "i3"): 7},
    )
    merged = subject.of(replace(subject.palette, swatches=subject.palette.swatches[1:]), {"i0": "i1"})
    assert merged.touching == {("i1", "i2"): 7, ("i2", "i3"): 7}, "nothing touches itself"
    assert merged.usage == {"i1": 7, "i2": 5}


def test_taking_every_mixture_that_is_offered_is_no_fault() -> None:
    subject = Subject(coded("#1d2a4a", "#3a5f8a", "#6fa3b8", "#d8c9a0", "#b8683a"))
    check = CHECKS["mixtures"]
    for _ in range(60):
        report = examine(check, subject)
        assert report.verdict == "holds", report.sentence
        if not report.mends:
            break
        subject = subject.of(report.mends[0].operation.run(subject.palette).palette, {})
    else:
        pytest.fail("there is no end of mixtures")
    assert "none left to mix" in report.sentence
    assert examine(check, Subject(coded("#000000", "#ffffff"))).verdict == "look", "nothing mixes finely here"


def test_an_order_is_offered_only_where_it_helps() -> None:
    # Up and down in lightness; in order it is far too flat all the same.
    flat = Palette(
        "Plate",
        tuple(Swatch(parse_color(code), code, id=f"i{n}", group="g") for n, code in enumerate(("#7a7a7a", "#7c7c7c", "#7b7b7b"))),
        (Group("Stone", "g"),),
    )
    report = examine(CHECKS["forms"], Subject(flat))
    assert report.verdict == "fails"
    for mend in report.mends:
        after = examine(CHECKS["forms"], Subject(mend.operation.run(flat).palette))
        assert (after.badness or 0) < (report.badness or 0)


def test_several_steps_are_one_and_say_each() -> None:
    strip = coded("#111111", "#222222", "#333333", "#eeeeee")
    several = Several(
        steps=[
            {"kind": "recolor_swatch", "id": "i0", "text": "#000000"},
            {"kind": "merge_swatches", "ids": ["i1", "i2"], "keep": "first"},
            {"kind": "lock_swatches", "ids": ["i3"], "locked": True},
            {"kind": "rename_swatch", "id": "i3", "name": "Paper"},
        ]
    )
    outcome = several.run(strip, {"i1": 5, "i2": 7})
    one_by_one = strip
    for step in several.operations:
        one_by_one = step.run(one_by_one).palette
    assert outcome.palette == one_by_one
    assert outcome.successors == {"i2": "i1"}
    assert several.label(strip).startswith("Recolor “#111111” to #000000; Merge “#222222” and “#333333”, keeping")
    assert several.label(strip).endswith("; and 1 more")
    read = TypeAdapter(AnyOperation).validate_python(several.model_dump())
    assert read == several


def test_who_takes_over_is_followed_through_all_steps() -> None:
    strip = coded("#111111", "#222222", "#333333")
    outcome = Several(
        steps=[
            MergeSwatches(ids=["i0", "i1"], keep="first").model_dump(),
            MergeSwatches(ids=["i0", "i2"], keep="lightest").model_dump(),
        ]
    ).run(strip)
    assert [swatch.id for swatch in outcome.palette.swatches] == [outcome.successors["i0"]] == [outcome.successors["i1"]]


def test_several_steps_that_cannot_be_made_are_refused_whole() -> None:
    strip = coded("#111111", "#222222")
    good = {"kind": "recolor_swatch", "id": "i0", "text": "#000000"}
    with pytest.raises(HuvrenError):
        Several(steps=[good, {"kind": "recolor_swatch", "id": "gone", "text": "#000000"}]).run(strip)
    for steps in ([], [{"kind": "several", "steps": [good]}], [{"kind": "recolor_swatch"}], [good] * (MOST_STEPS + 1)):
        with pytest.raises(ValidationError):
            Several(steps=steps)
    with pytest.raises((ValidationError, HuvrenError)):
        Several(steps=[{"kind": "no such step"}])
    assert RecolorSwatch(id="i0", text="#000000").run(strip).palette == Several(steps=[good]).run(strip).palette
