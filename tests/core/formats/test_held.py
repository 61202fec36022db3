"""What a format holds is what comes back, and the keep report is the difference, both ways, for awkward palettes of every kind."""

from dataclasses import replace

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from huvren.core.color.difference import delta_eok
from huvren.core.color.spaces import SPACES
from huvren.core.color.value import Color
from huvren.core.errors import HuvrenError
from huvren.core.formats import FORMATS, Document, Format
from huvren.core.formats.readings import read_palettes
from huvren.core.formats.report import ALPHA_CHANGE, VISIBLE_CHANGE, Loss, keep_report
from huvren.core.palette.fields import losable_fields_of
from huvren.core.palette.naming import suggest_names
from huvren.core.palette.values import Group, Palette, Swatch, clean_name

RETURNING = [entry for entry in FORMATS if entry.is_of_palettes and entry.read]
CASES = [
    (entry, choice) for entry in RETURNING
    for choice in ([(option.id, word) for option in entry.options for word, _ in option.choices] or [None])
]  # fmt: skip
IDS = [f"{entry.id}-{choice[1]}" if choice else entry.id for entry, choice in CASES]
AWKWARD_NAMES = (
    "", "Ink", "Ink", "a */ b", "# group: x", "group: x", "x;y", "x; -- z", "é", "🌙 dusk", "Lamp, black", '"quoted"', "  blanks  ",
    "{brace}", "//", "12",
    "#ff0000", "-", "tab\there", "line\nbreak", "a = b", "COLOR_MODEL=HSV", "=1+1", "ink 2", "’", "\ud800x", "L" * 200,
)  # fmt: skip


def _colors() -> st.SearchStrategy[Color]:
    byte = st.integers(0, 255)
    alphas = st.sampled_from([1.0, 1.0, 1.0, 0.5, 0.0, 128 / 255, 1 / 3])
    plain = st.tuples(byte, byte, byte, alphas).map(lambda v: Color("srgb", (v[0] / 255, v[1] / 255, v[2] / 255), v[3]))

    def within(space: str) -> st.SearchStrategy[Color]:
        parts = [
            st.floats(channel.low - 0.2 * (channel.high - channel.low), channel.high * 1.2) for channel in SPACES[space].channels
        ]
        return st.tuples(st.tuples(*parts), alphas).map(lambda v: Color(space, v[0], v[1]))

    missing = st.sampled_from(
        [Color.of("oklch", (0.5, 0.1, None)), Color.of("srgb", (None, 0.5, 0.25)), Color.of("lab", (50, 20, None))]
    )
    return st.one_of(plain, plain, st.sampled_from(SPACES.ids()).flatmap(within), missing)


def declared(owner: type) -> st.SearchStrategy[dict[str, object]]:
    """Every field of a class that a file may lose, empty or not: a new field is filled without a word here."""
    return st.fixed_dictionaries({
        field.name: st.sampled_from([field.empty, field.empty, *field.declared.examples]) for field in losable_fields_of(owner)
    })  # fmt: skip


@st.composite
def palettes(draw: st.DrawFn) -> Palette:
    names = {"g1": "Marks", "g2": "Marks", "g3": "a */ b", "g4": ""}
    groups = tuple(Group(name, group, **draw(declared(Group))) for group, name in names.items())
    count = draw(st.integers(1, 9))
    slots = draw(st.sampled_from([None, None, 12]))
    swatches = tuple(
        Swatch(
            draw(_colors()), draw(st.sampled_from(AWKWARD_NAMES)), f"s{place}",
            group=draw(st.sampled_from([None, "g1", "g1", "g2", "g3", "g4"])), **draw(declared(Swatch)),
        )
        for place in range(count)
    )  # fmt: skip
    title = draw(st.sampled_from(["Untitled", "Press inks", "COLOR_MODEL=RGB", "# odd", "one continuous ramp", "  two  blanks "]))
    palette = Palette(title, (), groups, slots=slots, **draw(declared(Palette)))
    palette = replace(palette, variant=palette.variants[0].id if palette.variants else None)
    return palette.with_swatches(swatches)


def _is_suggested(name: str, word: str) -> bool:
    return name == word or (name.startswith(word + " ") and name[len(word) + 1 :].isdigit())


def _runs(palette: Palette, places: list[int]) -> list[tuple[str | None, str]]:
    return [(palette.swatches[at].group, palette.group_name(palette.swatches[at].group)) for at in places]


def _lost(before: object, after: object) -> set[str]:
    """Codes of the fields that a thing has and that are not the same after reading back."""
    return {
        field.declared.lost.code for field in losable_fields_of(type(before))
        if getattr(before, field.name) != field.empty and getattr(before, field.name) != getattr(after, field.name)
    }  # fmt: skip


def _seen(palette: Palette, back: Palette, entry: Format, is_named: bool) -> set[str]:
    """What is different after reading back, found without the report: kinds of differences."""
    places = (
        [s.slot or 0 for s in palette.swatches]
        if entry.keeps.places == "index" and palette.slots
        else list(range(len(palette.swatches)))
    )
    pairs = [(swatch, back.swatches[at]) for swatch, at in zip(palette.swatches, places, strict=True)]
    seen = set()
    words = suggest_names([one.color for one, _ in pairs])
    for (one, other), word in zip(pairs, words, strict=True):
        old, new = one.color, other.color
        gap = float(delta_eok(old.to("oklab"), new.to("oklab")))
        if old.alpha > 0 and gap > VISIBLE_CHANGE:
            seen.add("color")
        if old.alpha > 0 and old.space not in ("srgb", new.space):
            seen.add("space")
        if abs(old.alpha - new.alpha) > ALPHA_CHANGE:
            seen.add("alpha")
        if len(old.missing) > len(new.missing):
            seen.add("missing")
        if one.name != other.name and (is_named or (one.name and not _is_suggested(one.name, word))):
            seen.add("name")
        seen |= _lost(one, other)
    before, after = _runs(palette, list(range(len(palette.swatches)))), _runs(back, places)
    renumbered: dict[str | None, str | None] = {None: None}
    for (old_id, old_name), (new_id, new_name) in zip(before, after, strict=True):
        if old_name != new_name or renumbered.setdefault(old_id, new_id) != new_id:
            seen.add("group")
    named = [new for old, new in renumbered.items() if old]
    if len(set(named)) != len(named):
        seen.add("group")
    if [group.columns for group in palette.groups if group.columns] != [group.columns for group in back.groups if group.columns]:
        seen.add("group-columns")
    seen |= _lost(palette, back)
    if palette.name not in ("Untitled", back.name):
        seen.add("title")
    if palette.slots != back.slots:
        seen.add("places")
    return seen


KINDS = {
    "gamut": "color", "clipped": "color", "depth": "color", "space": "space", "alpha": "alpha",
    "alpha-depth": "alpha", "missing": "missing",
    "names": "name", "unnamed": "name", "renamed": "name", "groups": "group",
    "renamed-groups": "group",
    "split": "group", "joined": "group", "title": "title",
    "places": "places", "places-end": "places",
    **{
        field.declared.lost.code: field.declared.lost.code for owner in (Swatch, Group, Palette) for field in losable_fields_of(owner)
    },
}  # fmt: skip


def _said(losses: list[Loss]) -> set[str]:
    kinds = {KINDS[loss.code] for loss in losses if loss.code in KINDS}
    return kinds | {"color" for loss in losses if loss.code == "space" and (loss.worst or 0) > VISIBLE_CHANGE}


@pytest.mark.parametrize(("entry", "choice"), CASES, ids=IDS)
@settings(max_examples=30, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(palette=palettes())
def test_what_is_held_comes_back_and_the_report_is_the_difference(
    entry: Format, choice: tuple[str, str] | None, palette: Palette
) -> None:
    if entry.keeps.everything:  # palettes come into being with clean names; other formats clean them again
        clean = tuple(replace(swatch, name=clean_name(swatch.name)) for swatch in palette.swatches)
        palette = replace(palette, name=clean_name(palette.name), swatches=clean)
    document = Document(palette, options=dict([choice] if choice else []))
    held = entry.palette_as_held(document)
    try:
        data = entry.written(document)
    except HuvrenError:
        assert choice == ("form", "continuous")
        assert len(palette.swatches) < 2
        return
    if entry.id == "strip-png" and len({swatch.color.bytes for swatch in held.swatches}) == 1:
        return  # a picture of one color is no strip
    (reading, *_) = [one for one in read_palettes(data, f"Untitled{entry.endings[0]}") if one.format is entry]
    back = reading.found.palette
    assert len(back.swatches) == len(held.swatches)
    for one, other in zip(held.swatches, back.swatches, strict=True):
        assert other.color.space == one.color.space
        if one.color.alpha > 0:
            assert other.color.coords == pytest.approx(one.color.coords, abs=1e-6)
        assert other.color.alpha == pytest.approx(one.color.alpha, abs=1e-9)
        assert other.color.missing == one.color.missing
        assert (other.name, other.locked, other.note, other.tags) == (one.name or other.name, one.locked, one.note, one.tags)
    assert (back.name, back.columns, back.slots, back.tags) == (clean_name(held.name), held.columns, held.slots, held.tags)
    # Both ways: what differs is said, and what is said differs.
    losses = keep_report(entry, document)
    seen, said = _seen(palette, back, entry, any(swatch.name for swatch in held.swatches)), _said(losses)
    if {"gamut", "clipped"} & {loss.code for loss in losses}:
        seen, said = seen - {"space"}, said - {"space"}  # each color stands in one line
    assert seen - said == set(), losses
    extra = said - seen
    # A group without a swatch, or one whose columns go, shows in no swatch; both are lost all the same.
    assert extra - {"group"} == set(), losses
    if "group" in extra:
        used = {swatch.group for swatch in palette.swatches}
        assert any(group.id not in used or not group.name for group in palette.groups), losses


@pytest.mark.parametrize(("entry", "choice"), CASES, ids=IDS)
@settings(max_examples=20, deadline=None)
@given(colors=st.lists(_colors(), min_size=2, max_size=12))
def test_the_largest_change_that_is_said_is_the_one_that_happens(
    entry: Format, choice: tuple[str, str] | None, colors: list[Color]
) -> None:
    palette = Palette("Untitled", tuple(Swatch(color.with_alpha(1.0), f"Ink {n}") for n, color in enumerate(colors)))
    document = Document(palette, options=dict([choice] if choice else []))
    back = next(
        one for one in read_palettes(entry.written(document), f"a{entry.endings[0]}") if one.format is entry
    ).found.palette  # fmt: skip
    gaps = [float(delta_eok(a.color.to("oklab"), b.color.to("oklab"))) for a, b in zip(palette.swatches, back.swatches, strict=True)]
    losses = [loss for loss in keep_report(entry, document) if loss.worst is not None]
    assert max((loss.worst or 0 for loss in losses), default=0) == pytest.approx(max(gaps), abs=2 * VISIBLE_CHANGE)
    counted = sum(loss.count for loss in losses if loss.code != "space")
    assert counted <= sum(gap > VISIBLE_CHANGE for gap in gaps)
    for loss in losses:
        assert loss.mean is not None
        assert loss.worst is not None
        assert loss.mean <= loss.worst + 1e-12
        assert f"{loss.worst:.2f}" in loss.text


@pytest.mark.parametrize("count", [1, 2, 3, 11, 40])
@pytest.mark.parametrize("form", ["steps", "continuous", "categories"])
def test_map_tables_come_back_with_every_color(count: int, form: str) -> None:
    if form == "continuous" and count < 2:
        return
    codes = [(n // 2 * 6 / 255, 0.2, 0.4) for n in range(count)]
    palette = Palette("Depths", tuple(Swatch(Color("srgb", code), f"Depth {n}") for n, code in enumerate(codes)))
    entry = FORMATS["cpt"]
    document = Document(palette, options={"form": form})
    (reading,) = [one for one in read_palettes(entry.written(document), "a.cpt") if one.format is entry]
    back = reading.found.palette
    assert [swatch.color.hex for swatch in back.swatches] == [swatch.color.hex for swatch in palette.swatches]
    assert back.name == "Depths"
    if form != "continuous":
        assert [swatch.name for swatch in back.swatches] == [swatch.name for swatch in palette.swatches]


def test_figures_of_clipped_and_mapped_colors_are_those_of_the_file() -> None:
    far = Palette("Far", (Swatch(Color("xyz-d65", (2.0, 2.0, 2.0)), "Glare"),))
    for entry in (FORMATS["ase"], FORMATS["aco"]):
        (loss,) = [loss for loss in keep_report(entry, Document(far)) if loss.worst]
        assert loss.code == "clipped"
        back = read_palettes(entry.written(Document(far)), "a.ase")[0].found.palette.swatches[0].color
        assert back.coords[0] == pytest.approx(100, abs=0.01)
        assert loss.worst == pytest.approx(float(delta_eok(back.to("oklab"), far.swatches[0].color.to("oklab"))), abs=0.01)
    press = Palette("Untitled", (Swatch(Color("lab", (40.0, 60.0, -90.0)), "Deep"),))
    codes = [loss.code for loss in keep_report(FORMATS["css"], Document(press, options={"notation": "oklch"}))]
    assert codes == ["space", "ids"], "oklch() holds it; only its numbers are other ones"
    spot = replace(press, swatches=(replace(press.swatches[0], tags=("spot",)),))
    assert [loss.code for loss in keep_report(FORMATS["ase"], Document(spot))] == ["ids"], "spot is kept"


def test_neighbors_of_one_name_are_one_group_where_a_file_says_the_group_of_every_swatch() -> None:
    ink = Color("srgb", (0.2, 0.2, 0.2))
    swatches = (Swatch(ink, "A", "a", group="g1"), Swatch(ink, "B", "b", group="g2"), Swatch(ink, "C", "c", group="g1"))
    palette = Palette("Untitled", swatches, (Group("Inks", "g1"), Group("Inks", "g2")))
    for format_id, code, groups in (("csv", "joined", 1), ("gpl", "split", 3), ("ase", "split", 3), ("css", "split", 3)):
        entry = FORMATS[format_id]
        losses = {loss.code: loss for loss in keep_report(entry, Document(palette))}
        assert code in losses, format_id
        back = read_palettes(entry.written(Document(palette)), f"a{entry.endings[0]}")[0].found.palette
        assert len(back.groups) == groups
    assert keep_report(FORMATS["csv"], Document(palette))[0].count == 1
