"""Links of pictures and of sequences of frames, the cards made from them, and typed requests and results of jobs."""

import io
from typing import Any
from uuid import uuid4

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.difference import delta_eok
from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.palette.values import Palette, Swatch
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import choose, lay_out, prepare
from huvren.core.stored.job import BATCH, REDUCTION, BatchRequest, ReductionRequest
from huvren.core.stored.link import FrameMap, Link, LinkFigures, link_from_document, link_to_document
from huvren.core.versions import BadDocument
from huvren.studio.models import IndexMap, Job, Picture, Revision
from huvren.studio.services.bench import reductions
from huvren.studio.services.files import archives
from huvren.studio.services.load import jobs
from huvren.studio.services.shelf import cards, cleaning, palettes
from huvren.studio.services.shelf.links import coverage_of, follow, index_map_of, painted, picture_change, store_map, usage_of
from tests.pictures import painted as drawn
from tests.pictures import png
from tests.server.conftest import Api
from tests.server.stored import links_of

RED, BLUE, GRAY = (Swatch(parse_color(code), code, code) for code in ("#c0392b", "#2040a0", "#808080"))


def link(table: tuple[str | None, ...], *frames: tuple[int, ...], picture: str = "p") -> Link:
    maps = tuple(FrameMap(map=str(number), counts=counts) for number, counts in enumerate(frames))
    return Link(picture, 4, 2, table, maps, ReduceRecipe(), LinkFigures())


def test_pixels_of_all_frames_count_by_one_table() -> None:
    sequence = link((RED.id, BLUE.id, None), (5, 3, 0), (1, 6, 1), (0, 8, 0))
    assert sequence.counts == [6, 17, 1]
    assert usage_of([sequence]) == {RED.id: 6, BLUE.id: 17}
    assert coverage_of(painted([sequence])) == {RED.id: 6 / 24, BLUE.id: 17 / 24}
    beside = link((GRAY.id,), (8,), picture="q")
    assert coverage_of(painted([sequence, beside])) == {RED.id: 6 / 32, BLUE.id: 17 / 32, GRAY.id: 8 / 32}
    assert coverage_of([]) is None
    assert link_from_document(link_to_document(sequence)) == sequence


def test_a_step_rewrites_the_table_once_and_leaves_the_frames() -> None:
    before, after = Palette("P", (RED, BLUE, GRAY)), Palette("P", (RED, GRAY))
    sequence = link((RED.id, BLUE.id), (4, 4), (2, 6))
    (gone,) = follow((sequence,), before, after, {})
    assert gone.table == (RED.id, GRAY.id), "to the nearest color"
    assert gone.frames == sequence.frames
    (told,) = follow((sequence,), before, after, {BLUE.id: RED.id})
    assert told.table == (RED.id, RED.id), "to its successor"
    (round_about,) = follow((sequence,), before, after, {BLUE.id: "x", "x": BLUE.id})
    assert round_about.table[1] in (None, RED.id, GRAY.id), "successors that lead in a circle end"
    (nobody,) = follow((sequence,), before, Palette("P", ()), {})
    assert nobody.table == (None, None)
    assert follow((sequence,), before, Palette("P", (BLUE, GRAY, RED)), {}) == (sequence,), "moving costs nothing"


def test_how_far_a_step_changes_the_pictures_is_weighed_by_their_pixels() -> None:
    before = Palette("P", (RED, BLUE))
    after = Palette("P", (Swatch(parse_color("#b0392b"), "r", RED.id), BLUE))
    sequence = link((RED.id, BLUE.id), (1, 3), (2, 2))
    mean, largest = picture_change((sequence,), before, after, (sequence,)) or (0, 0)
    gap = float(delta_eok(RED.color.oklab, after.swatches[0].color.oklab))
    assert largest == pytest.approx(gap)
    assert mean == pytest.approx(gap * 3 / 8)
    assert picture_change((), before, after, ()) is None


@pytest.mark.django_db
def test_a_sequence_of_frames_is_kept_and_shown_as_one_link(api: Api) -> None:
    """Three frames, one choice of colors, one table: kept, served, cleaned around, archived and delivered."""
    picture = Picture.objects.get(pk=api.upload(png(drawn(18, 24)))["id"])
    frames = [drawn(18, 24, seed=seed) for seed in (3, 4, 5)]
    recipe = ReduceRecipe(colors=5)
    prepared = prepare(frames, recipe)
    chosen = choose(prepared, recipe)
    laid = [lay_out(frame, chosen, recipe) for frame in prepared.frames]
    swatches = tuple(Swatch(Color.from_bytes(*rgb), f"S{n}", f"s{n}") for n, rgb in enumerate(chosen.rgb.tolist()))
    maps = [store_map(picture, indices) for indices, _, _ in laid]
    counts = [tuple(np.bincount(indices.ravel(), minlength=5).tolist()) for indices, _, _ in laid]
    made = Link(
        str(picture.pk), 24, 18, tuple(s.id for s in swatches),
        tuple(FrameMap(map=str(row.pk), counts=count) for row, count in zip(maps, counts, strict=True)),
        recipe, LinkFigures(),
    )  # fmt: skip
    state = palettes.create(api.user, Palette("Wing beat", swatches), "Begin", (made,))
    shown = api.get(f"/palettes/{state.row.pk}")
    assert shown["links"][0]["maps"] == [str(row.pk) for row in maps]
    assert sum(swatch["coverage"] for swatch in shown["swatches"]) == pytest.approx(1)
    assert all(np.array_equal(index_map_of(made, frame), laid[frame][0]) for frame in range(3))
    (document,) = links_of(Revision.objects.get())
    assert len(document["frames"]) == 3
    assert len(document["table"]) == 5, "the table is held once"
    IndexMap.objects.update(created="2020-01-01T00:00:00Z")
    assert cleaning.collect() == cleaning.Removed()
    delivered = reductions.document_of(palettes.get_state(api.user, state.row.pk), picture.pk)
    assert len(delivered.frames) == 3
    with archives.write_archive(api.user) as file:
        data = file.read()
    there = Api("cyd")
    assert archives.take_archive(there.user, io.BytesIO(data)).palettes == 1
    (card,) = there.shelf()["palettes"]
    other = there.get(f"/palettes/{card['id']}")
    for mine, theirs in zip(shown["links"][0]["maps"], other["links"][0]["maps"], strict=True):
        assert api.get(f"/palettes/{shown['id']}/maps/{mine}").content == there.get(f"/palettes/{other['id']}/maps/{theirs}").content
    merged = api.operate(shown, kind="merge_swatches", ids=["s0", "s1"], keep="first")
    assert merged["links"][0]["table"][:2] == ["s0", "s0"]
    assert merged["links"][0]["maps"] == shown["links"][0]["maps"]


CODES = st.lists(st.tuples(*[st.integers(0, 255)] * 3), max_size=6)


@settings(max_examples=60, deadline=None)
@given(st.lists(CODES, max_size=6), st.tuples(*[st.integers(0, 255)] * 3))
def test_nearness_is_the_smallest_difference_of_any_swatch(
    shelf: list[list[tuple[int, int, int]]], wanted: tuple[int, int, int]
) -> None:
    rows = [(uuid4(), bytes(value for code in codes for value in code)) for codes in shelf]
    text = "#{:02x}{:02x}{:02x}".format(*wanted)
    found = {key: gap for gap, key in cards.nearest_first(rows, text, 1000)}
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(cards, "TOGETHER", 7)
        assert {key: gap for gap, key in cards.nearest_first(iter(rows), text, 1000)} == found, "a few at a time find the same"
    assert list(found.values()) == sorted(found.values())
    target = parse_color(text).oklab
    for (palette_id, _), codes in zip(rows, shelf, strict=True):
        if not codes:
            assert palette_id not in found
            continue
        assert found[palette_id] == pytest.approx(
            min(float(delta_eok(Color.from_bytes(*code).oklab, target)) for code in codes), abs=2e-3
        )


def test_codes_of_many_colors_are_those_of_each() -> None:
    colors = [parse_color(text) for text in ("#abc", "oklch(0.7 0.4 150)", "hsl(200 50% 50%)", "#12345680", "cmyk(10 20 30 40)")]
    assert cards.hexes_of(colors) == [color.hex[:7] for color in colors]
    assert cards.hexes_of([]) == []
    assert cards.strip_of(colors) == "".join(color.hex[1:].ljust(8, "f") for color in colors)
    assert cards.strip_of([]) == ""
    assert len(cards.strip_of(colors * 20)) == 8 * cards.STRIP_SWATCHES


@pytest.mark.django_db
def test_requests_of_jobs_are_typed_and_say_what_they_want(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    palette = api.bench()
    picture = palette["links"][0]["picture"]["id"]
    batch = api.post("/jobs/batches", {"pictures": [picture, picture], "recipe": {"colors": 3}}, 202)
    assert batch["wanted"] == 1, "each picture once"
    row = Job.objects.get(pk=batch["id"])
    kind = jobs.KINDS["batch"]
    assert kind.request_of(row) == BatchRequest(pictures=[picture], recipe=ReduceRecipe(colors=3))
    assert row.request["version"] == BATCH.version
    assert row.request["recipe"]["version"] == 5
    Job.objects.update(request={"version": 99, "pictures": 7})
    assert api.get("/jobs")[0]["wanted"] == 0, "a request that is not understood is no 500"
    monkeypatch.setattr(reductions, "takes_long", lambda picture: True)
    body = {"base": palette["revision"], "picture": picture, "recipe": {"colors": 5}}
    job = Job.objects.get(pk=api.post(f"/palettes/{palette['id']}/reductions", body, 202)["id"])
    request: Any = jobs.KINDS["reduction"].request_of(job)
    assert (str(request.palette), request.base, request.recipe.colors) == (palette["id"], palette["revision"], 5)


@pytest.mark.django_db
def test_a_job_gives_only_the_result_of_its_kind(api: Api) -> None:
    palette = api.bench()
    job = Job.objects.create(owner=api.user, kind="batch", label="x", request={}, state="working", attempts=1)
    turn = jobs.Turn(job)
    with pytest.raises(TypeError, match="does not give a PaletteMade"):
        turn.finish(jobs.PaletteMade(palette["id"]))
    turn.finish(jobs.FilesMade(3, 1))
    job.refresh_from_db()
    assert (job.state, job.step, job.share) == ("done", "3 reduced, 1 could not be", 1.0)
    assert jobs.FilesMade(4).sentence() == "4 reduced"
    with pytest.raises(jobs.Cancelled):
        turn.finish(jobs.FilesMade(1))


@pytest.mark.parametrize(
    ("kind", "document", "said"),
    [
        (REDUCTION, {"version": 2, "picture": "no id", "recipe": {}}, "picture"), (REDUCTION, {"version": 2}, "missing"),
        (BATCH, {"version": 2, "pictures": [], "recipe": {}, "wow": 1}, "“wow” is unknown here"),
        (BATCH, {"version": 3, "pictures": [], "recipe": {}}, "newer Huvren"), (BATCH, [], "an object was expected"),
        (BATCH, {"version": True}, "“True” is no version"),
    ],
)  # fmt: skip
def test_a_request_that_does_not_fit_is_refused_in_words(kind: Any, document: Any, said: str) -> None:
    with pytest.raises(BadDocument, match=said):
        kind.read(document)


def test_a_recipe_inside_a_request_keeps_its_own_version() -> None:
    request = ReductionRequest(picture=uuid4(), recipe=ReduceRecipe(colors=9, dither="ordered"))
    stored = REDUCTION.stamped(request.model_dump(mode="json"))
    assert stored["recipe"]["version"] == 5
    assert REDUCTION.read(stored) == request
    stored["recipe"]["dither"] = "sparkle"
    assert REDUCTION.understand(stored).value.recipe == ReduceRecipe(colors=9)
