"""What is remembered stays within its bytes, whatever it is, and is worked out once."""

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from huvren.core.color.value import Color
from huvren.core.palette.values import Palette, Swatch
from huvren.studio.services.load.remembering import LEAST_BYTES, Remembered
from huvren.studio.services.shelf.palettes import RECENT, Contents, _bytes_of
from tests.server.conftest import Api


@given(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 5_000)), max_size=60), st.integers(600, 6_000))
def test_it_never_holds_more_than_it_may(steps: list[tuple[int, int]], most: int) -> None:
    known: Remembered[int, bytes] = Remembered(most, len)
    for key, size in steps:
        first = known.get(key, lambda size=size: bytes(size))  # type: ignore[misc]
        assert known.get(key, lambda first=first: first) == first  # type: ignore[misc]
        assert known.bytes <= most
        assert known.bytes == sum(entry[1] for entry in known._known.values())
        assert len(known) * LEAST_BYTES <= most, "empty things count too"


def test_what_was_used_least_lately_goes_first() -> None:
    made: list[str] = []

    def make(name: str) -> str:
        made.append(name)
        return name * 1_000

    known: Remembered[str, str] = Remembered(2_500, len)
    for name in "abac":
        known.get(name, lambda name=name: make(name))  # type: ignore[misc]
    assert made == ["a", "b", "c"]
    for name in "acb":
        known.get(name, lambda name=name: make(name))  # type: ignore[misc]
    assert made == ["a", "b", "c", "b"], "b went for c, a was used since"
    known.put("huge", "h" * 9_000)
    assert len(known) == 2, "what is larger than all that may be held drives nothing out"


def test_ten_thousand_empty_palettes_are_no_leak() -> None:
    empty = Contents(Palette("x"), ())
    held: Remembered[int, Contents] = Remembered(100_000, _bytes_of)
    for number in range(10_000):
        held.put(number, empty)
    assert len(held) <= 100_000 // LEAST_BYTES
    swatches = tuple(Swatch(Color.from_bytes(n % 256, 0, 0)) for n in range(1_000))
    assert _bytes_of(replace(empty, palette=Palette("x", swatches))) > 500 * _bytes_of(empty) / 2


def test_a_palette_is_read_once_and_known_after_a_step(api: Api) -> None:
    RECENT.clear()
    palette = api.post("/palettes", {"text": "#102030"}, 201)
    after = api.operate(palette, kind="rename_palette", name="Known")
    assert len(RECENT) >= 1
    assert api.get(f"/palettes/{palette['id']}") == after
