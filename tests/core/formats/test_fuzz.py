"""Damaged and strange files: only the typed errors leave a reader; what once broke one is read for good."""

import random
from contextlib import suppress

import numpy as np
import pytest

from huvren.core.errors import BadFile, HuvrenError
from huvren.core.formats import FORMATS
from huvren.core.formats.readings import read_palettes
from huvren.core.pictures import read_picture
from tests.fuzzing import CRASHES, changed, fuzz, readers, seeds

INPUTS = 500


@pytest.mark.parametrize("reader", readers())
def test_strange_files_end_in_words(reader: str) -> None:
    outcome = fuzz(reader, INPUTS)
    assert {where: words for where, (words, _) in outcome.crashes.items()} == {}
    assert outcome.inputs == INPUTS


@pytest.mark.parametrize("path", sorted(CRASHES.glob("*.bin")), ids=lambda path: path.name)
def test_what_once_broke_a_reader_ends_in_words(path) -> None:  # type: ignore[no-untyped-def]
    entry = FORMATS[path.name.rsplit("-", 1)[0]]
    assert entry.read
    for call in (entry.sniff, entry.read):
        with suppress(HuvrenError):
            call(path.read_bytes())


def test_every_reader_is_fed_and_the_files_it_begins_with_are_sound() -> None:
    assert set(readers()) == {entry.id for entry in FORMATS if entry.read}
    for reader in readers():
        entry = FORMATS[reader]
        assert entry.read
        read = 0
        for data in seeds(reader):
            try:
                entry.read(data)
                read += 1
            except BadFile:
                assert reader in ("strip-png", "color-table", "own-colors"), reader  # not every picture is one
        assert read


def test_the_same_seed_gives_the_same_files() -> None:
    first, second = (changed(seeds("gpl")[0], random.Random("x")) for _ in range(2))
    assert first == second
    assert first != changed(seeds("gpl")[0], random.Random("y"))


def test_whatever_comes_in_by_contents_ends_in_words() -> None:
    dice = random.Random("contents")
    for reader in readers():
        for _ in range(40):
            data = changed(dice.choice(seeds(reader)), dice)
            with suppress(HuvrenError):
                assert read_palettes(data, "strange")


def test_damaged_pictures_end_in_words() -> None:
    dice = random.Random("pictures")
    for data in seeds("own-colors"):
        assert data[:3] in {b"\x89PN", b"GIF", b"RIF", b"\xff\xd8\xff"}
        for _ in range(150):
            with suppress(HuvrenError):
                assert read_picture(changed(data, dice), "a").rgba.dtype == np.uint8
