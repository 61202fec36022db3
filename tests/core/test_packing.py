"""Steps are kept compressed, as differences where that is worth it, and come back as they were."""

import random
from dataclasses import replace
from itertools import pairwise
from uuid import UUID

import pytest
import zstandard
from hypothesis import given
from hypothesis import strategies as st

from huvren.core.color.value import Color
from huvren.core.palette.document import palette_from_document, palette_to_document
from huvren.core.palette.values import Palette, Swatch
from huvren.core.stored.packing import DEEPEST, FURTHEST, Base, content_of, pack, packed_step, read_content, unpack
from tests.core.test_card_properties import palettes

JSON = st.recursive(
    st.none() | st.booleans() | st.integers(-(2**53), 2**53) | st.floats(allow_nan=False, allow_infinity=False) | st.text(),
    lambda inner: st.lists(inner, max_size=5) | st.dictionaries(st.text(), inner, max_size=5),
    max_leaves=20,
)


def kept(contents: list[bytes]) -> list[bytes]:
    """The data of each step, as they are made one after the other; each comes back as it was."""
    base, made = None, []
    for number, content in enumerate(contents, 1):
        packed = packed_step(content, number, base)
        assert unpack(packed.data, base.content if base and packed.is_difference else b"") == content
        assert packed.is_difference or packed.is_base
        made.append(packed.data)
        if packed.is_base:
            base = Base(content, number, base.depth + 1 if base and packed.is_difference else 0)
            assert base.depth <= DEEPEST
    return made


@given(st.lists(st.tuples(JSON, JSON), min_size=1, max_size=6))
def test_whatever_is_packed_comes_back(steps: list[tuple[object, object]]) -> None:
    contents = [content_of(document, links) for document, links in steps]
    kept(contents)
    assert [read_content(content) for content in contents] == steps


@given(palettes(), palettes())
def test_a_palette_kept_as_a_difference_to_another_is_the_same_palette(one: Palette, other: Palette) -> None:
    base = content_of(palette_to_document(one), [])
    kept = pack(content_of(palette_to_document(other), []), base)
    document, links = read_content(unpack(kept, base))
    assert palette_from_document(document) == other
    assert links == []


def reeds(count: int) -> Palette:
    chance = random.Random(4)
    return Palette("Reeds", tuple(Swatch(Color.from_bytes(*chance.randbytes(3)), f"Reed {n}", name(chance)) for n in range(count)))


def name(chance: random.Random) -> str:
    return str(UUID(bytes=chance.randbytes(16), version=4))


def darker(swatch: Swatch) -> Swatch:
    return replace(swatch, color=Color.from_bytes(*(value // 2 for value in swatch.color.bytes[:3])))


def history(palette: Palette, steps: int) -> list[Palette]:
    """What artists do: names, order, colors of some, and now and then of all."""
    chance, made = random.Random(5), [palette]
    for number in range(1, steps):
        swatches = list(made[-1].swatches)
        if number % 7 == 3:
            swatches = [darker(swatch) for swatch in swatches]
        elif number % 2:
            swatches[chance.randrange(len(swatches))] = Swatch(Color.from_bytes(*chance.randbytes(3)), "New", name(chance))
        else:
            swatches.sort(key=lambda swatch: swatch.color.bytes[number % 3])
        made.append(replace(palette, swatches=tuple(swatches)))
    return made


def contents_of(palettes: list[Palette]) -> list[bytes]:
    return [content_of(palette_to_document(palette), []) for palette in palettes]


def test_steps_of_4096_swatches_take_little_of_what_they_take_alone() -> None:
    contents = contents_of(history(reeds(4096), 20))
    alone, sizes = sum(len(pack(content)) for content in contents), [len(data) for data in kept(contents)]
    assert sum(sizes) < 0.25 * alone, "the colors of all were changed three times, and the order of all eight times"
    assert sizes[1] < 300, "a single swatch"
    after_recoloring = [size for number, size in enumerate(sizes) if number % 7 == 4]
    assert max(after_recoloring) < sizes[0] / 8, "what follows a step that changed everything is a difference to that step"


def test_what_is_far_away_or_all_different_stands_by_itself() -> None:
    before, after = contents_of(history(reeds(200), 2))
    near = packed_step(after, FURTHEST, Base(before, 1))
    assert (near.is_difference, near.is_base) == (True, False)
    for number in (1 + FURTHEST, 1 - FURTHEST, 10**6):
        far = packed_step(after, number, Base(before, 1))
        assert (far.is_difference, far.is_base) == (False, True)
        assert unpack(far.data) == after
    (empty,) = contents_of([Palette("Empty")])
    assert packed_step(after, 2, Base(empty, 1)).is_base, "else what follows would be as large"


def test_bases_rest_on_a_few_others_at_most() -> None:
    palette, steps = reeds(300), []
    for shift in range(1, 12):
        moved = (replace(s, color=Color.from_bytes(*((v + 31 * shift) % 256 for v in s.color.bytes[:3]))) for s in palette.swatches)
        steps.append(replace(palette, swatches=tuple(moved)))
    sizes = [len(data) for data in kept(contents_of(steps))]
    assert max(sizes[1:]) < sizes[0] / 1.5, "names and ids are what they have in common"


def test_a_difference_to_another_step_than_the_one_given_is_noticed() -> None:
    contents = contents_of(history(reeds(300), 8))
    packed = pack(contents[1], contents[0])
    for other in (contents[5], contents[0][:-1] + b" ", b""):
        with pytest.raises(zstandard.ZstdError):
            unpack(packed, other)
    for one, other in pairwise(contents):
        assert unpack(pack(other, one), one) == other
