"""Palettes and their operations: values in, values out."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadColor, BadInput, Unknown
from huvren.core.palette.derived import derive
from huvren.core.palette.document import palette_from_document, palette_to_document
from huvren.core.palette.naming import suggest_name, suggest_names, unused_name
from huvren.core.palette.operations.add import AddSwatches
from huvren.core.palette.operations.delete import DeleteSwatches
from huvren.core.palette.operations.duplicate import DuplicateSwatches
from huvren.core.palette.operations.every import OPERATIONS
from huvren.core.palette.operations.lock import LockSwatches
from huvren.core.palette.operations.move import MoveSwatches
from huvren.core.palette.operations.recolor import RecolorSwatch
from huvren.core.palette.operations.rename import RenamePalette, RenameSwatch
from huvren.core.palette.values import Group, Palette, Swatch
from huvren.demo.library import typed_palettes


def row(letters: str = "abcdef", groups: str = "") -> Palette:
    """A palette whose swatch ids are letters; `groups` gives each a group letter or a blank."""
    groups = groups or " " * len(letters)
    swatches = [
        Swatch(parse_color(f"#{place * 7:02x}1020"), letter.upper(), letter, group=group.strip() or None)
        for place, (letter, group) in enumerate(zip(letters, groups, strict=True))
    ]
    return Palette("Row", tuple(swatches), tuple(Group(g.upper(), g) for g in dict.fromkeys(groups) if g != " "))


def ids(palette: Palette) -> str:
    return "".join(swatch.id for swatch in palette.swatches)


@pytest.mark.parametrize(
    ("moving", "to", "expected"),
    [
        ("a", 5, "bcdefa"),
        ("f", 0, "fabcde"),
        ("c", 2, "abcdef"),
        ("bd", 0, "bdacef"),
        ("db", 99, "acefbd"),
        ("ace", 1, "bacedf"),
    ],
)
def test_move(moving: str, to: int, expected: str) -> None:
    assert ids(MoveSwatches(ids=list(moving), to=to).apply(row()).palette) == expected


@pytest.mark.parametrize(
    ("moving", "to", "group"),
    [("a", 4, "y"), ("e", 1, "x"), ("a", 2, "x"), ("f", 2, "x"), ("f", 0, "x")],
)
def test_a_moved_swatch_joins_the_group_it_lands_in(moving: str, to: int, group: str) -> None:
    after = MoveSwatches(ids=[moving], to=to).apply(row("abcdef", "xxxyy ")).palette
    assert next(swatch for swatch in after.swatches if swatch.id == moving).group == group


@settings(max_examples=150, deadline=None)
@given(st.lists(st.tuples(st.sets(st.sampled_from("abcdefgh"), min_size=1), st.integers(0, 9)), max_size=12))
def test_moves_keep_every_swatch_and_every_group_in_one_piece(moves: list[tuple[set[str], int]]) -> None:
    palette = row("abcdefgh", "xxxyyy z")
    for moving, to in moves:
        palette = MoveSwatches(ids=sorted(moving), to=to).apply(palette).palette
        assert sorted(ids(palette)) == list("abcdefgh")
        runs = [swatch.group for place, swatch in enumerate(palette.swatches)
                if place == 0 or palette.swatches[place - 1].group != swatch.group]  # fmt: skip
        named = [group for group in runs if group]
        assert len(named) == len(set(named))


def test_add_reads_many_and_names_them_apart() -> None:
    after = AddSwatches(text="#e85421 #e85422, tomato", after=0).apply(row("ab")).palette
    assert [swatch.color.hex for swatch in after.swatches[1:4]] == ["#e85421", "#e85422", "#ff6347"]
    assert len({swatch.name for swatch in after.swatches}) == 5
    assert ids(after)[0] == "a"
    assert after.swatches[-1].id == "b"


def test_add_of_nonsense_changes_nothing() -> None:
    with pytest.raises(BadColor):
        AddSwatches(text="#e85421 #12").apply(row())


def test_delete_refuses_locked_and_unknown() -> None:
    locked = LockSwatches(ids=["b"], locked=True).apply(row()).palette
    with pytest.raises(BadInput, match=r"“B” is locked\. Unlock it before deleting it\."):
        DeleteSwatches(ids=["a", "b"]).apply(locked)
    with pytest.raises(Unknown, match="no longer in the palette"):
        DeleteSwatches(ids=["z"]).apply(row())
    with pytest.raises(BadInput, match="Select at least one swatch"):
        DeleteSwatches(ids=[]).apply(row())
    assert ids(DeleteSwatches(ids=["a", "f"]).apply(row()).palette) == "bcde"


def test_deleting_the_last_of_a_group_drops_the_group() -> None:
    after = DeleteSwatches(ids=["a"]).apply(row("ab", "xy")).palette
    assert [group.id for group in after.groups] == ["y"]


def test_duplicate_gives_new_identity_next_to_the_old() -> None:
    before = LockSwatches(ids=["b"], locked=True).apply(row("abc")).palette
    after = DuplicateSwatches(ids=["b"]).apply(before).palette
    copy = after.swatches[2]
    assert [after.swatches[0].id, after.swatches[1].id, after.swatches[3].id] == ["a", "b", "c"]
    assert copy.color == after.swatches[1].color
    assert copy.id != "b"
    assert (copy.name, copy.locked) == ("B copy", False)


def test_recolor_keeps_identity_and_space() -> None:
    after = RecolorSwatch(id="c", space="oklch", coords=[0.7, 0.3, 40]).apply(row()).palette
    assert ids(after) == "abcdef"
    assert after.swatches[2].color.space == "oklch"
    assert after.swatches[2].color.coords == (0.7, 0.3, 40)
    with pytest.raises(ValueError, match="Give either text, or a space with coordinates"):
        RecolorSwatch(id="c", text="#fff", space="oklch", coords=[1, 0, 0])


def test_names_are_cleaned_and_limited() -> None:
    after = RenameSwatch(id="a", name="  Wing\n\tbrown\x00 ").apply(row()).palette
    assert after.swatches[0].name == "Wing brown"
    assert RenameSwatch(id="a", name="  ").apply(row()).palette.swatches[0].name == suggest_name(row().swatches[0].color)
    with pytest.raises(BadInput, match=r"That name has 10,000 characters; 200 is the most"):
        RenameSwatch(id="a", name="n" * 10_000).apply(row())
    with pytest.raises(BadInput, match="A palette needs a name"):
        RenamePalette(name=" ").apply(row())


def test_every_operation_has_a_label_and_rejects_unknown_fields() -> None:
    for entry in OPERATIONS:
        assert entry.model.summary
        with pytest.raises(ValueError, match="nonsense"):
            entry.model.model_validate({"kind": entry.id, "nonsense": 1})


@pytest.mark.parametrize("palette", typed_palettes(), ids=lambda palette: palette.name)
def test_document_round_trip(palette: Palette) -> None:
    assert palette_from_document(palette_to_document(palette)) == palette


@pytest.mark.parametrize(
    ("document", "words"),
    [
        ({"name": "x"}, "the field 'swatches' is missing"),
        ({"swatches": [{"id": "1"}]}, "swatches › 0: the field 'color' is missing"),
        ({"swatches": [{"color": {"space": "zzz", "coords": [1]}}]}, "There is no color space “zzz”"),
        (
            {"swatches": [{"id": "1", "group": "g", "color": {"space": "srgb", "coords": [0, 0, 0]}}]},
            "a group that the document",
        ),
        ({"swatches": [{"id": "1", "color": {"space": "srgb", "coords": [0, 0, 0]}}] * 2}, "have the same id"),
    ],
)
def test_broken_documents_are_told_why(document: dict[str, object], words: str) -> None:
    with pytest.raises(BadInput) as caught:
        palette_from_document(document)
    assert words in str(caught.value)


def test_derived_figures_agree_with_each_color_alone() -> None:
    palette = next(p for p in typed_palettes() if p.name.startswith("Press"))
    colors = [swatch.color for swatch in palette.swatches] + [parse_color("color(display-p3 0 1 0)")]
    for color, figures in zip(colors, derive(colors), strict=True):
        assert figures.hex == color.hex
        assert figures.rgb == color.bytes[:3]
        assert figures.in_srgb == color.in_srgb
    twins = derive([parse_color("#808080"), parse_color("#ff0000"), parse_color("#818181")])
    assert (twins[0].nearest, twins[2].nearest) == (2, 0)
    assert twins[0].nearest_delta is not None
    assert twins[0].nearest_delta < 1


@pytest.mark.parametrize(
    ("code", "word"),
    [("#ff0000", "red"), ("#1e5c8c", "blue"), ("#6e4632", "brown"), ("#35594a", "green"), ("#808080", "gray"), ("#000", "black"),
     ("#fff", "white"), ("#fac43c", "amber"), ("#7a4a80", "violet")],
)  # fmt: skip
def test_suggested_names_say_the_hue(code: str, word: str) -> None:
    assert word in suggest_name(parse_color(code)).lower()


def test_unused_name() -> None:
    assert unused_name("Dun", ["Dun", "Dun 2"]) == "Dun 3"


def test_no_suggested_name_contradicts_itself() -> None:
    """A vivid color is neither pale, light nor dark: “Pale vivid yellow” was #ffff00."""
    steps = range(0, 256, 17)
    codes = [(red, green, blue) for red in steps for green in steps for blue in steps]
    for code, name in zip(codes, suggest_names([Color.from_bytes(*code) for code in codes]), strict=True):
        words = set(name.lower().split())
        assert not ("vivid" in words and words & {"pale", "light", "dark", "deep", "ink", "grayish"}), (code, name)
    assert suggest_names([parse_color(code) for code in ("#ffff00", "#00ff00", "#0000ff", "#0000a0")]) == [
        "Vivid yellow", "Vivid green", "Vivid blue", "Deep blue",
    ]  # fmt: skip
