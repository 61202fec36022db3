"""Stored documents: every version that was ever written is read, and what cannot be understood is said, not raised."""

import contextlib
import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from huvren.core.palette.document import PALETTE, palette_from_document, palette_to_document, understand_palette
from huvren.core.stored import ARCHIVE, BATCH, KINDS, LINK, RECIPE, REDUCTION
from huvren.core.stored.link import link_from_document, link_to_document, understand_links
from huvren.core.stored.recipe import RENAMED, recipe_to_document
from huvren.core.versions import MOST_SAID, BadDocument, Kind, said_shortly

SAMPLES = Path(__file__).parent / "samples"


def sample(kind: str, version: int) -> Any:
    return json.loads((SAMPLES / f"{kind}-v{version}.json").read_text(encoding="utf-8"))


def written(kind: str, document: Any) -> Any:
    """A document of any version as it is written today."""
    if kind == "palette":
        return palette_to_document(palette_from_document(document))
    if kind == "link":
        return link_to_document(link_from_document(document))
    if kind == "recipe":
        return recipe_to_document(RECIPE.read(document))
    if kind in ("archive", "archive-step"):
        return KINDS[kind].stamped(json.loads(TypeAdapter(Any).dump_json(KINDS[kind].read(document))))
    requests: dict[str, Kind[Any]] = {"job-batch": BATCH, "job-reduction": REDUCTION, "job-archive": ARCHIVE}
    return requests[kind].stamped(requests[kind].read(document).model_dump(mode="json"))


EVERY = [(kind.id, version) for kind in KINDS for version in range(1, kind.version + 1)]


@pytest.mark.parametrize(("kind", "version"), EVERY)
def test_every_version_that_was_written_is_read(kind: str, version: int) -> None:
    document = sample(kind, version)
    assert document.get("version", 1) == version
    assert KINDS[kind].understand(document).problems == ()
    newest = written(kind, document)
    wanted = sample(kind, KINDS[kind].version)
    if kind != "recipe" and "recipe" in wanted:
        # The recipe that it carries has a version of its own.
        wanted["recipe"] = written("recipe", wanted["recipe"])
    assert newest == wanted, "a changed form needs a new version, an upgrader and a sample"
    assert written(kind, newest) == newest


def test_limits_are_read_and_written_as_they_were() -> None:
    document = json.loads((SAMPLES / "palette-v6-limits.json").read_text(encoding="utf-8"))
    palette = palette_from_document(document)
    assert palette.limits == (("charts", (("ground", "#ffffff"),)), ("text", (("low", 7.0),)))
    assert palette_to_document(palette) == document
    understood = understand_palette(document | {"limits": {"text": {"low": "x" * 300}}})
    assert understood.value.limits == ()
    assert any("has to be a number or a short text" in problem for problem in understood.problems)


def test_ramps_are_read_and_written_as_they_were() -> None:
    assert palette_to_document(palette_from_document(json.loads((SAMPLES / "palette-v3-ramps.json").read_text()))) == json.loads(
        (SAMPLES / "palette-v6-ramps.json").read_text()
    )
    document = json.loads((SAMPLES / "palette-v6-ramps.json").read_text(encoding="utf-8"))
    palette = palette_from_document(document)
    assert [ramp.plan.steps for ramp in palette.ramps] == [7, None]
    assert palette.ramps[0].plan.tied() == {document["swatches"][0]["id"], document["swatches"][1]["id"]}
    assert palette_to_document(palette) == document


def test_the_numbers_of_a_maker_and_whether_swatches_follow_are_kept() -> None:
    document = json.loads((SAMPLES / "palette-v6-following.json").read_text(encoding="utf-8"))
    (ramp,) = palette_from_document(document).ramps
    assert not ramp.following
    assert dict(ramp.plan.numbers) == {"dark": 0.2, "light": 0.9}
    assert palette_to_document(palette_from_document(document)) == document


def test_the_measure_by_which_steps_are_even_is_kept_and_is_oklab_where_none_is_said() -> None:
    document = json.loads((SAMPLES / "palette-v6-measure.json").read_text(encoding="utf-8"))
    (ramp,) = palette_from_document(document).ramps
    assert (ramp.plan.measure, ramp.plan.spacing) == ("cam16-ucs", "even")
    assert palette_to_document(palette_from_document(document)) == document
    before = json.loads((SAMPLES / "palette-v5-ramps.json").read_text(encoding="utf-8"))
    assert {ramp.plan.measure for ramp in palette_from_document(before).ramps} == {"oklab"}


@pytest.mark.parametrize(
    ("change", "said", "left"),
    [
        (lambda r: r["plan"].update(measure="feet"), "no measure of difference “feet”", 2),
        (lambda r: r["plan"].update(space="rainbow"), "no interpolation space “rainbow”", 2),
        (lambda r: r["plan"].update(curve=3), "curve", 2),
        (lambda r: r["plan"].update(steps=100_000), "100000 steps", 2),
        (lambda r: r["plan"]["stops"][1].update(midpoint=2), "A midpoint of 2 is outside", 2),
        (lambda r: r["plan"]["stops"][1].update(position=-1), "A stop stands at -1", 2),
        (lambda r: r["plan"]["stops"][1].update(easing={"kind": "bounce"}), "no easing “bounce”", 2),
        (lambda r: r["plan"]["stops"][1].update(easing={"kind": "bezier", "numbers": [9, 0, 0, 0]}), "x1 = 9", 2),
        (lambda r: r["plan"]["stops"][0].update(swatch="nobody"), "neither a color nor a swatch", 2),
        (lambda r: r["plan"].update(stops=r["plan"]["stops"][:1]), "fewer than two stops", 1),
        (lambda r: r["plan"].update(stops=r["plan"]["stops"] * 30), "90 stops; 64 is the most", 2),
        (lambda r: r.update(id="ramp-2"), "Two ramps of the document have the same id", 1),
        (lambda r: r.update(shine=1), "“shine” is unknown here", 2),
        (lambda r: r["plan"]["stops"][1]["color"].update(space="cam16"), "no color space “cam16”", 2),
    ],
)  # fmt: skip
def test_what_a_ramp_holds_and_nobody_understands_is_said(change: Any, said: str, left: int) -> None:
    document = json.loads((SAMPLES / "palette-v3-ramps.json").read_text(encoding="utf-8"))
    change(document["ramps"][0])
    understood = understand_palette(document)
    assert any(said in problem for problem in understood.problems), understood.problems
    assert len(understood.value.ramps) == left
    assert len(understood.value.swatches) == len(document["swatches"])
    for ramp in understood.value.ramps:
        assert ramp.plan.ramp(understood.value.color_of).baked(3), "what is left is a ramp"
    with pytest.raises(BadDocument):
        palette_from_document(document)


def test_a_kind_without_all_its_upgraders_is_refused() -> None:
    with pytest.raises(TypeError, match="needs an upgrader for every version"):
        Kind("x", "thing", 3, lambda: TypeAdapter(int), {1: dict})


def test_the_upgrade_of_a_link_moves_its_map_into_a_frame() -> None:
    before, after = sample("link", 1), link_from_document(sample("link", 1))
    assert [frame.map for frame in after.frames] == [before["map"]]
    assert after.counts == before["counts"]
    assert list(after.table) == before["table"]


def test_one_table_serves_all_frames_of_a_sequence() -> None:
    document = sample("link", LINK.version)
    document["frames"] = document["frames"] * 3
    link = link_from_document(document)
    assert link.counts == [3 * count for count in document["frames"][0]["counts"]]
    assert len(link_to_document(link)["table"]) == len(document["table"])


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda d: d.update(glow=3), "“glow” is unknown here"),
        (lambda d: d.update(version=9), "written by a newer Huvren (version 9"),
        (lambda d: d["swatches"][1].update(shine=True), "swatches › 1: “shine” is unknown here"),
        (lambda d: d["swatches"][1]["color"].update(space="cam16"), "There is no color space “cam16”"),
        (lambda d: d["swatches"][1]["color"].update(coords=[0.1]), "has 3 coordinates, 1 were given"),
        (lambda d: d["swatches"][1].pop("color"), "the field 'color' is missing"),
        (lambda d: d["swatches"][1].update(id=d["swatches"][0]["id"]), "have the same id"),
        (lambda d: d["swatches"][1].update(group="nobody"), "belongs to a group that the document does not list"),
        (lambda d: d["swatches"][1].update(name="x" * 900), "200 is the most"),
        (lambda d: d["swatches"][1].update(note="x" * 9000), "2,000 is the most"),
        (lambda d: d.update(slots=1), "numbered places"),
        (lambda d: d.update(columns=-4), "-4 columns"),
        (lambda d: d.update(columns="abc"), "columns"),
        (lambda d: d.update(slots=float("inf")), "slots"),
        (lambda d: d.update(variant="nobody"), "a variant that it does not list"),
    ],
)  # fmt: skip
def test_what_a_palette_holds_and_nobody_understands_is_said(change: Any, said: str) -> None:
    document = sample("palette", PALETTE.version)
    ids = [entry["id"] for entry in document["swatches"]]
    change(document)
    understood = understand_palette(document)
    assert any(said in problem for problem in understood.problems), understood.problems
    assert len(understood.value.swatches) == len(ids), "no swatch is lost"
    assert understood.value.swatches[0].id == ids[0], "and none moves"
    with pytest.raises(BadDocument):
        palette_from_document(document)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda r: r.update(dither="sparkle"), "There is no dither “sparkle”"),
        (lambda r: r.update(wow=1), "“wow” is unknown here"),
        (lambda r: r.update(colors=9999), "colors"),
        (lambda r: r.update(tile={"width": 8}), "tile"),
        (lambda r: r.update(marks=[{"shape": "star"}]), "marks"),
    ],
)
def test_a_recipe_that_is_not_understood_takes_nothing_else_with_it(change: Any, said: str) -> None:
    link = sample("link", LINK.version)
    change(link["recipe"])
    understood = understand_links([link])
    assert any(said in problem for problem in understood.problems), understood.problems
    assert understood.value[0].table == tuple(link["table"])
    assert understood.value[0].recipe.chooser == link["recipe"]["chooser"]


def test_of_very_many_problems_the_first_are_said_and_no_swatch_is_lost() -> None:
    """Each round mends all that it found: the work grows with the document, not with its square."""
    rows = [{"id": str(n), "color": {"space": "srgb", "coords": ["x", 1, 1], "glow": 1}, "shine": 2} for n in range(3000)]
    understood = understand_palette(
        {"version": 2, "swatches": [*rows, {"id": "last", "color": {"space": "srgb", "coords": [0, 0, 0]}}]}
    )
    assert [swatch.id for swatch in understood.value.swatches] == [*(str(n) for n in range(3000)), "last"]
    assert understood.value.swatches[-1].color.hex == "#000000"
    assert len(understood.problems) == MOST_SAID + 1
    assert understood.problems[-1].endswith("more of the kind.")
    assert said_shortly(["a", "a", "b"]) == ("a", "b")


@pytest.mark.parametrize(
    ("marks", "left"),
    [
        ([{"shape": "star"}, {"shape": "rectangle", "x": 0, "y": 0, "width": 1, "height": 1, "weight": 2}], 1),
        ([7, {"shape": "star"}, None], 0), ("all", 0), ([{"shape": "rectangle", "x": 9}], 0),
    ],
)  # fmt: skip
def test_parts_of_a_list_that_are_not_understood_go_alone(marks: Any, left: int) -> None:
    understood = RECIPE.understand({"version": 2, "colors": 5, "marks": marks})
    assert (len(understood.value.marks), understood.value.colors) == (left, 5)
    assert understood.problems


def test_a_renamed_dither_is_followed(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(RENAMED, "dither", {"scatter": "blue-noise"})
    assert RECIPE.read({"colors": 4, "dither": "scatter"}).dither == "blue-noise"
    with pytest.raises(BadDocument, match="no dither"):
        RECIPE.read({"version": 2, "dither": "scatter"})


def test_a_link_beyond_repair_is_left_out_and_said() -> None:
    understood = understand_links([{"picture": "x"}, 7, sample("link", 1)])
    assert len(understood.value) == 1
    assert len(understood.problems) == 2


NESTED = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner, max_size=4),
    max_leaves=8,
)


@given(st.sampled_from(EVERY), st.data())
def test_reading_never_ends_in_an_unforeseen_error(which: tuple[str, int], data: st.DataObject) -> None:
    """Any part of any sample is put in the place of another value: it is understood, or refused as a bad document."""
    document = sample(*which)
    here = document
    for _ in range(data.draw(st.integers(0, 3))):
        keys = list(here) if isinstance(here, dict) else list(range(len(here))) if isinstance(here, list) else []
        inner = [key for key in keys if isinstance(here[key], dict | list) and here[key]]
        if not inner:
            break
        here = here[data.draw(st.sampled_from(inner))]
    keys = list(here) if isinstance(here, dict) else list(range(len(here)))
    here[data.draw(st.sampled_from(keys))] = data.draw(NESTED)
    kind, _ = which
    for read in (KINDS[kind].understand, KINDS[kind].read, understand_palette if kind == "palette" else KINDS[kind].read):
        with contextlib.suppress(BadDocument):
            read(document)
