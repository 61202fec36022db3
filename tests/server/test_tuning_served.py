"""Tuned colors over HTTP: previews and what keeping them gives, the figure, its map, pieces, and the longer search as a job."""

import io
import json
from typing import Any
from uuid import UUID

import numpy as np
import pytest
from PIL import Image

from huvren.core.reduction.afar import DISTANCES
from huvren.core.reduction.pieces import HEIGHT, WIDTH
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import reduce_picture
from huvren.studio.models import Job
from huvren.studio.services.load import jobs
from tests.pictures import painted
from tests.server.conftest import Api

TUNED = {"colors": 7, "dither": "floyd-steinberg"}


def preview(api: Api, palette: Any, recipe: dict[str, Any]) -> Any:
    picture = palette["links"][0]["picture"]["id"]
    body = api.post(f"/palettes/{palette['id']}/previews", {"picture": picture, "recipe": recipe}).content
    size = int.from_bytes(body[:4], "little")
    return json.loads(body[4 : 4 + size])


def keep(api: Api, palette: Any, recipe: dict[str, Any], status: int = 200) -> Any:
    body = {"base": palette["revision"], "picture": palette["links"][0]["picture"]["id"], "recipe": recipe}
    return api.post(f"/palettes/{palette['id']}/reductions", body, status)


def test_what_is_previewed_is_what_is_kept_and_both_say_what_is_seen_from_afar(api: Api) -> None:
    palette = api.bench()
    tried = preview(api, palette, TUNED)
    kept = keep(api, palette, TUNED)
    link = kept["links"][0]
    assert "colors tuned to it" in kept["label"]
    assert link["recipe"]["tune"] is True
    assert [swatch["hex"] for swatch in tried["swatches"]] == [swatch["hex"] for swatch in kept["swatches"]]
    wanted = reduce_picture(painted(), ReduceRecipe(**TUNED)).figures.afar
    now = api.get(f"/palettes/{palette['id']}/pictures/{link['picture']['id']}/figures")
    for figures in (tried["figures"], link["figures"], now):
        assert figures["afar"] == pytest.approx(wanted, rel=1e-4)
    assert preview(api, kept, {**TUNED, "tune": False})["figures"]["afar"] > wanted


def test_an_untuned_preview_and_the_tuned_one_that_follows_share_places_and_ids(api: Api) -> None:
    palette = api.bench(colors=3)
    first, then = (preview(api, palette, {**TUNED, "colors": 12, "tune": tune}) for tune in (False, True))
    assert len(first["swatches"]) == len(then["swatches"]) == 12
    same = sum(one["id"] == other["id"] for one, other in zip(first["swatches"], then["swatches"], strict=True))
    assert same >= 9


def test_the_map_from_afar_is_the_figure_and_follows_the_distance(api: Api) -> None:
    # The map is white from ΔE 5 on: few pixels of a free grain differ more.
    free = {**TUNED, "grain": 0}
    palette = keep(api, api.bench(), free)
    link = palette["links"][0]
    path = f"/palettes/{palette['id']}/pictures/{link['picture']['id']}"

    def seen(**body: Any) -> float:
        shades = np.asarray(Image.open(io.BytesIO(api.post(f"{path}/errors", body).content)))
        assert shades.shape == (96, 128)
        return float(np.minimum(shades, 254).mean()) / 255 * 5

    kept = seen(kind="afar")
    assert kept == pytest.approx(link["figures"]["afar"], rel=0.1)
    assert seen(kind="afar", recipe={**free, "distance": 160}) < kept < seen(kind="afar", recipe={**free, "distance": 12})
    assert "pixels" in api.post(f"{path}/errors", {"kind": "sideways"}, 422)["message"]


def test_a_piece_shows_a_recipe_and_problems_are_told(api: Api, other: Api) -> None:
    palette = api.bench()
    path = f"/palettes/{palette['id']}/pictures/{palette['links'][0]['picture']['id']}/piece"
    pieces = []
    for recipe in ({"colors": 4}, {"colors": 4, "dither": "checker"}, {"colors": 4, "dither": "ordered", "tune": False}):
        pieces.append(np.asarray(Image.open(io.BytesIO(api.post(path, {"recipe": recipe}).content))))
        assert pieces[-1].shape == (HEIGHT, WIDTH, 3)
    assert not np.array_equal(pieces[0], pieces[1])
    assert not np.array_equal(pieces[0], pieces[2])
    cannot = api.post(path, {"recipe": {"chooser": "fixed-list"}})
    assert "The list holds no color" in cannot["problem"]
    api.post(path, {"recipe": {"chooser": "no such chooser"}}, 422)
    other.post(path, {"recipe": {}}, 404)


def test_menus_say_what_can_be_tuned_and_name_distances(api: Api) -> None:
    menus = api.get("/menus")
    assert {entry["id"]: entry["tunes"] for entry in menus["choosers"] if entry["tunes"]} == {
        "perceptual": "moved", "median-cut": "moved", "best-of-list": "in-list", "channel-depth": "on-grid",
    }  # fmt: skip
    assert [entry["id"] for entry in menus["choosers"] if entry["evens_out"]] == ["perceptual"]
    assert {entry["pixels_a_degree"]: entry["label"] for entry in menus["distances"]} == DISTANCES


@pytest.mark.parametrize("dither", ["floyd-steinberg", "none"])
def test_a_longer_search_is_a_job_and_never_ends_worse(api: Api, dither: str) -> None:
    recipe = {"colors": 5, "dither": dither}
    palette = keep(api, api.bench(), recipe)
    before = palette["links"][0]["figures"]
    assert preview(api, palette, {**recipe, "search": "longer"})["figures"]["afar"] == pytest.approx(before["afar"], rel=1e-6)
    job = keep(api, palette, {**recipe, "search": "longer"}, 202)
    assert "searched longer" in job["label"]
    jobs.work(UUID(job["id"]))
    after = api.get(f"/palettes/{palette['id']}")
    figure = "mean" if dither == "none" else "afar"
    assert after["revision"] == palette["revision"] + 1
    assert after["links"][0]["figures"][figure] <= before[figure] + 1e-6
    assert after["links"][0]["recipe"]["search"] == "longer"


def test_a_longer_search_can_be_called_off_and_changes_nothing(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    palette = keep(api, api.bench(), TUNED)
    job = keep(api, palette, {**TUNED, "search": "longer"}, 202)
    seen: list[str] = []
    report = jobs.Turn.watch

    def watch(turn: jobs.Turn, step: str, share: float) -> None:
        seen.append(step)
        if step == "putting single colors elsewhere":
            api.post(f"/jobs/{job['id']}/cancel", {})
        report(turn, step, share)

    monkeypatch.setattr(jobs.Turn, "watch", watch)
    jobs.work(UUID(job["id"]))
    assert "trying other beginnings" in seen
    assert api.get(f"/palettes/{palette['id']}") == palette
    assert Job.objects.get(pk=job["id"]).state == "cancelled"


def test_a_reduction_that_was_kept_before_there_was_tuning_stays_as_it_was(api: Api) -> None:
    palette = keep(api, api.bench(), {**TUNED, "tune": False})
    again = keep(api, palette, palette["links"][0]["recipe"])
    assert [swatch["hex"] for swatch in again["swatches"]] == [swatch["hex"] for swatch in palette["swatches"]]
    assert "tuned" not in palette["label"]
