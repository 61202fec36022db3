"""Files made to hurt: only typed errors leave a reader, within a time that no quadratic one would keep to."""

import contextlib
import json
from typing import Any

import pytest

from huvren.core.errors import BadFile, HuvrenError, TooLarge
from huvren.core.formats import FORMATS
from huvren.core.formats.readings import read_palettes
from tests.core.formats.test_sources import SPACE, THEME, office
from tests.counting import counting
from tests.large import INPUTS

ONE = {"color": {"space": "srgb", "coords": [0.1, 0.2, 0.3]}}


def document(**parts: Any) -> bytes:
    return json.dumps({"format": "huvren-palette", "version": 4, "name": "P", "swatches": [ONE], **parts}).encode()


@pytest.mark.parametrize(
    "data",
    [
        document(columns="abc"),
        document(columns=10**30),
        document(columns=-3),
        document(slots=float("inf")),
        document(slots=float("nan")),
        document(slots=10**30),
        document(swatches=[{**ONE, "id": ["a"]}]),
        document(swatches=[{**ONE, "id": {}}]),
        document(groups=[{"id": [], "name": 3}]),
        document(swatches=[{"color": {"space": "srgb", "coords": [float("nan"), 0, 0]}}]),
        document(swatches=[{"color": {"space": "nowhere", "coords": []}}]),
        document(swatches=[{"color": {"space": "srgb", "coords": [1e400, 0, 0]}}]),
        document(swatches={}),
        document(variants=[{}]),
        document(ramps=[{}]),
        document(version=[]),
        document(version=True),
        document(name=["a"]),
        document(tags="abc"),
        b'{"format": "huvren-palette", "version": ' + b"9" * 5_000 + b', "swatches": []}',
        document(swatches=[ONE] * 200_001),
        b'{"format": "huvren-palette", "swatches": ' + b"[" * 100_000,
        b'{"format": "huvren-palette", "swatches": [',
        b'{"format": "huvren-palette"}',
        b'{"format": "huvren-palette", "swatches": "' + b"\\ud800" + b'"}',
        document(swatches=[{**ONE, "group": "gone"}]),
    ],
    ids=range(26),
)
def test_a_lossless_file_that_is_none_is_refused_in_words(data: bytes) -> None:
    with pytest.raises(HuvrenError) as caught:
        read_palettes(data, "a.json")
    assert str(caught.value)


@pytest.mark.parametrize(
    "head", ['<?xml version="1.0" encoding="foo"?>', '<?xml version="1.0" encoding="utf-7"?>', "<!DOCTYPE a [<!ENTITY b 'c'>]>"]
)
@pytest.mark.parametrize("coding", ["utf-8", "utf-16"])
def test_themes_of_strange_codings_and_with_entities_are_refused_in_words(head: str, coding: str) -> None:
    with pytest.raises(BadFile):
        read_palettes(office(("xl/theme/theme1.xml", (head + THEME).encode(coding).decode("latin-1"))), "a.xlsx")
    bare = f"{head}<a:theme {SPACE}/>"
    with pytest.raises(HuvrenError):
        read_palettes(office(("ppt/theme/theme1.xml", bare)), "a.pptx")


def test_every_reader_has_its_large_inputs() -> None:
    assert {entry.id for entry in FORMATS if entry.read} == set(INPUTS)


@pytest.mark.parametrize(
    ("reader", "name"),
    [(reader, name) for reader, inputs in INPUTS.items() for name in inputs if "80 MB" not in name and "700,000" not in name],
)
def test_the_largest_inputs_are_answered(reader: str, name: str) -> None:
    """How long each takes is measured by `python -m tests.large`; that steps grow in proportion is counted in test_growth.py."""
    data = INPUTS[reader][name]()
    FORMATS[reader].sniff(data)
    with contextlib.suppress(HuvrenError):
        ways = FORMATS[reader].taken(data)
        assert any(found.palette.swatches or found.palette.ramps for found in ways.values())


@pytest.mark.parametrize("entry", [entry for entry in FORMATS if entry.read], ids=lambda entry: entry.id)
def test_what_is_beyond_the_limits_is_refused_before_it_is_looked_at(entry: Any) -> None:
    data = b"a" * (entry.limits.most_bytes + 1)
    with pytest.raises(TooLarge, match=r"is read up to \d"), counting() as counter:
        entry.taken(data)
    assert counter.steps < 200
