"""Pictures of every kind over HTTP: kept as they came, shown as browsers can show them, reduced whatever they are called."""

import io

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from huvren.core.picture_kinds import PICTURE_KINDS
from tests.pictures import painted, saved
from tests.server.conftest import Api
from tests.server.test_palettes import shown

RGB = painted(40, 60)[..., :3]


@pytest.mark.parametrize("kind", PICTURE_KINDS, ids=lambda kind: kind.id)
def test_every_kind_comes_in_is_shown_and_is_reduced(api: Api, kind) -> None:  # type: ignore[no-untyped-def]
    options = {"sizes": [(60, 40)]} if kind.id == "ICO" else {}
    picture = api.upload(saved(Image.fromarray(RGB), kind.id, **options), f"glow{kind.endings[0]}")
    assert (picture["format"], picture["width"], picture["height"]) == (kind.label, 60, 40)
    file = api.get(f"/pictures/{picture['id']}/image")
    assert file["Content-Type"] == (kind.media_type if kind.is_shown else "image/png")
    pixels = np.asarray(Image.open(io.BytesIO(file.content)).convert("RGB"))
    assert np.median(np.abs(pixels.astype(int) - RGB)) <= (6 if kind.is_lossy else 3)
    palette = api.post("/palettes", {"picture": picture["id"], "recipe": {"colors": 6}}, 201)
    assert palette["name"] == "glow"
    assert shown(api, palette).shape == RGB.shape


def test_menus_list_every_kind_by_media_type_and_ending(api: Api) -> None:
    listed = api.get("/menus")["picture_types"]
    assert {"image/tiff", ".tga", ".png", "image/jpeg", ".pgm"} <= set(listed)
    assert len(listed) == sum(1 + len(kind.endings) for kind in PICTURE_KINDS)


def test_a_picture_that_is_no_longer_called_so_is_read_by_its_contents(api: Api) -> None:
    picture = api.upload(saved(Image.fromarray(RGB), "TGA"), "no ending")
    palette = api.post("/palettes", {"name": "Glow"}, 201)
    kept = api.post(
        f"/palettes/{palette['id']}/reductions", {"picture": picture["id"], "recipe": {"colors": 4}, "base": palette["revision"]}
    )
    assert kept["links"][0]["width"] == 60


def test_what_is_not_read_is_told_and_nothing_is_kept(api: Api) -> None:
    for data, words in (
        (saved(Image.fromarray(np.zeros((4, 4), np.float32)), "TIFF"), "Save it with 8 or 16 bits a channel"),
        (b"P5\n20000 20000\n255\n", "million pixels"),
        (b"BM" + bytes(12) + b"\x28\0\0\0" + bytes(40), "begins like a BMP picture"),
    ):
        answer = api.client.post("/api/pictures", {"file": SimpleUploadedFile("a.tif", data)})
        assert answer.status_code in (413, 422), answer.content
        assert words in answer.json()["message"]
    assert api.shelf()["pictures"] == []
