"""Zips whose headers lie: what is unpacked is bounded by what is unpacked, in every field that says a size, and so are documents."""

import io
import re
import struct
import tracemalloc
import zipfile
from contextlib import suppress

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.errors import BadFile, TooLarge
from huvren.core.formats.documents import document_theme
from huvren.core.progress import TookTooLong, due_in
from huvren.core.unpacking import NoZip, Unpacking

MB = 1024 * 1024
BLANKS = 40 * MB
MOST_HELD = 12 * MB
"""Far less than what the bomb unpacks to; more than what is asked for and the zip itself."""
THEME = "word/theme/theme1.xml"


def zipped(*parts: tuple[str, bytes], kind: int = zipfile.ZIP_DEFLATED) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", kind) as archive:
        for name, data in parts:
            archive.writestr(name, data)
    return buffer.getvalue()


BOMB = zipped((THEME, b" " * BLANKS), ("xl/styles.xml", b"<styleSheet/>"))
LOCAL, CENTRAL, END = (BOMB.index(mark) for mark in (b"PK\x03\x04", b"PK\x01\x02", b"PK\x05\x06"))
SIZES = {
    "local packed": (LOCAL + 18, "<I"), "local unpacked": (LOCAL + 22, "<I"), "packed": (CENTRAL + 20, "<I"),
    "unpacked": (CENTRAL + 24, "<I"), "checksum": (CENTRAL + 16, "<I"), "name": (CENTRAL + 28, "<H"), "extra": (CENTRAL + 30, "<H"),
    "comment": (CENTRAL + 32, "<H"), "offset": (CENTRAL + 42, "<I"), "entries": (END + 10, "<H"), "directory": (END + 12, "<I"),
    "begin": (END + 16, "<I"),
}  # fmt: skip
VALUES = st.one_of(st.sampled_from([0, 1, 1000, 65_535, MB, 2**31, 2**32 - 1]), st.integers(0, 2**32 - 1))
LIES = st.dictionaries(st.sampled_from(sorted(SIZES)), VALUES, max_size=4)


def lying(lies: dict[str, int]) -> bytes:
    data = bytearray(BOMB)
    for field, value in lies.items():
        at, form = SIZES[field]
        struct.pack_into(form, data, at, value % (1 << (8 * struct.calcsize(form))))
    return bytes(data)


def held_while(run: object) -> int:
    """The most bytes that Python held at once meanwhile, beyond what it held before."""
    assert callable(run)
    tracemalloc.start()
    try:
        before = tracemalloc.get_traced_memory()[0]
        with suppress(BadFile, TooLarge):
            run()
        return tracemalloc.get_traced_memory()[1] - before
    finally:
        tracemalloc.stop()


@settings(max_examples=80, deadline=None)
@given(LIES)
def test_whatever_the_headers_say_no_more_is_held_than_was_asked_for(lies: dict[str, int]) -> None:
    data = lying(lies)

    def take() -> None:
        box = Unpacking(io.BytesIO(data), "document", 100 * MB)
        for name in box.names()[:4]:
            with suppress(BadFile, TooLarge):
                assert len(box.read(name, MB)) <= MB

    assert held_while(take) < MOST_HELD


@settings(max_examples=40, deadline=None)
@given(LIES)
def test_neither_is_it_by_the_reader_of_documents(lies: dict[str, int]) -> None:
    data = lying(lies)
    assert held_while(lambda: document_theme.sniff(data)) < MOST_HELD
    assert held_while(lambda: document_theme.read(data)) < MOST_HELD


def test_a_part_that_says_little_and_is_much_is_refused_in_words() -> None:
    with pytest.raises(BadFile, match=re.escape(f"That document is damaged, so nothing was brought in: its part “{THEME}”")):
        document_theme.read(lying({"unpacked": 1000, "local unpacked": 1000}))
    with pytest.raises(TooLarge, match=re.escape(f"“{THEME}”, has more than 4 MB")):
        document_theme.read(BOMB)


def test_all_parts_together_are_counted() -> None:
    data = zipped(*((f"p{n}", b" " * MB) for n in range(4)))
    box = Unpacking(io.BytesIO(data), "archive", 3 * MB)
    assert [len(box.read(f"p{n}", MB)) for n in range(3)] == [MB] * 3
    with pytest.raises(TooLarge, match="That archive unpacks to more than one can be"):
        box.read("p3", MB)


def test_a_part_of_just_so_many_bytes_is_read_and_one_of_more_is_not() -> None:
    box = Unpacking(io.BytesIO(zipped(("a", b"x" * MB), ("b", b""))), "archive", 10 * MB)
    assert box.names() == ["a", "b"]
    assert box.claimed == MB
    assert box.read("a", MB) == b"x" * MB
    assert box.read("b", 0) == b""
    with pytest.raises(TooLarge, match="has more than 0 MB"):
        box.read("a", MB - 1)
    with pytest.raises(BadFile, match="its part “c” cannot be read"):
        box.read("c", MB)


@pytest.mark.parametrize("kind", [zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA])
def test_other_ways_of_packing_are_not_read(kind: int) -> None:
    box = Unpacking(io.BytesIO(zipped(("a", b"x" * 1000), kind=kind)), "archive", MB)
    with pytest.raises(BadFile, match="packed in a way that is not read here"):
        box.read("a", MB)


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04", b"x" * 200_000, b"PK\x05\x06", BOMB[:-10]])
def test_what_is_no_zip_is_none(data: bytes) -> None:
    with pytest.raises(NoZip, match="That is no archive"):
        Unpacking(io.BytesIO(data), "archive", MB)


def test_a_directory_of_too_many_parts_is_refused_before_it_is_built() -> None:
    data = zipped(*((f"{n:05d}", b"") for n in range(20_001)))
    with pytest.raises(TooLarge, match="20,000 is the most"):
        Unpacking(io.BytesIO(data), "archive", MB)
    with pytest.raises(TooLarge, match="lists more than 20,000 parts"):
        Unpacking(io.BytesIO(lying({"directory": 9 * MB})), "archive", MB)


def test_unpacking_looks_whether_there_is_still_time() -> None:
    box = Unpacking(io.BytesIO(BOMB), "archive", 100 * MB)
    with due_in(-1), pytest.raises(TookTooLong):
        box.read(THEME, 100 * MB)
