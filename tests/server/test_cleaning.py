"""What is removed for good: nothing that anything still leads to, undo history included."""

import random
from datetime import timedelta
from io import StringIO
from typing import Any
from uuid import UUID

import pytest
from django.core.management import call_command
from django.utils import timezone

from huvren.studio.models import IndexMap, Palette, Picture, Revision, StoredBytes
from huvren.studio.services.shelf import cleaning
from tests.pictures import painted, png
from tests.server.conftest import Api
from tests.server.stored import links_of, rewrite

LATER = timedelta(days=31)


def test_many_go_into_the_trash_and_out_of_it_in_one_request(api: Api, other: Api) -> None:
    mine = [api.post("/palettes", {"text": text}, 201)["id"] for text in ("#102030", "#405060", "#708090")]
    picture = api.upload(png(painted(12, 9)))["id"]
    theirs = other.post("/palettes", {"text": "#a0b0c0"}, 201)["id"]
    api.client.delete(f"/api/palettes/{mine[0]}")
    before = Palette.objects.get(pk=mine[0]).trashed
    body = {"palettes": [*mine[:2], theirs, str(UUID(int=7)), mine[1]], "pictures": [picture], "trashed": True}
    assert api.put("/shelf/trashed", body) == {"palettes": mine[:2], "pictures": [picture]}, "another's and unknown ones are left out"
    assert Palette.objects.get(pk=mine[0]).trashed == before, "it has lain there since"
    assert [card["id"] for card in api.shelf()["palettes"]] == [mine[2]]
    assert {card["id"] for card in api.shelf(trash="true")["palettes"]} == set(mine[:2])
    assert api.shelf()["pictures"] == []
    assert not Palette.objects.get(pk=theirs).trashed
    assert api.put("/shelf/trashed", body | {"trashed": False}) == {"palettes": mine[:2], "pictures": [picture]}
    assert len(api.shelf()["palettes"]) == 3
    assert len(api.shelf()["pictures"]) == 1
    assert api.put("/shelf/trashed", {"trashed": True}) == {"palettes": [], "pictures": []}
    words = api.put("/shelf/trashed", {"palettes": [mine[0]] * 20_001, "trashed": True}, 422)["message"]
    assert "20" in words
    assert len(api.shelf()["palettes"]) == 3


def everything_works(api: Api) -> int:
    """Walk every palette through all of its history and fetch all its maps and pictures; how many maps were fetched."""
    fetched = 0
    for trash in ("false", "true"):
        for card in api.shelf(trash=trash)["palettes"]:
            for step in api.get(f"/palettes/{card['id']}/history"):
                now = api.get(f"/palettes/{card['id']}")
                shown = api.post(f"/palettes/{card['id']}/go-to", {"base": now["revision"], "number": step["number"]})
                assert shown["not_understood"] == []
                assert len(shown["links"]) == len(links_of(Revision.objects.get(palette=card["id"], number=step["number"])))
                for link in shown["links"]:
                    for index_map in link["maps"]:
                        api.get(f"/palettes/{card['id']}/maps/{index_map}")
                        fetched += 1
                    api.get(f"/pictures/{link['picture']['id']}/image")
    return fetched


@pytest.mark.parametrize("seed", range(6))
def test_nothing_reachable_ever_goes(api: Api, seed: int) -> None:
    """Random work with reductions, undo, copies and trash; after cleaning, all that is left can still be walked."""
    chance = random.Random(seed)
    pictures = [api.upload(png(painted(24 + place, 18)), f"p{place}.png")["id"] for place in range(3)]
    made: list[str] = []
    for _ in range(18):
        what = chance.choice(["new", "reduce", "undo", "copy", "trash palette", "trash picture", "restore"])
        alive = [palette_id for palette_id in made if Palette.objects.filter(pk=palette_id).exists()]
        if what == "new" or not alive:
            made.append(api.post("/palettes", {"picture": chance.choice(pictures), "recipe": {"colors": 3}}, 201)["id"])
            continue
        palette = api.get(f"/palettes/{chance.choice(alive)}")
        if what == "reduce":
            body = {"base": palette["revision"], "picture": chance.choice(pictures), "recipe": {"colors": chance.randint(2, 5)}}
            api.post(f"/palettes/{palette['id']}/reductions", body)
        elif what == "undo" and palette["can_undo"]:
            api.post(f"/palettes/{palette['id']}/undo", {"base": palette["revision"]})
        elif what == "copy":
            made.append(api.post(f"/library/palettes/{palette['id']}/duplicate", status=201)["id"])
        elif what == "trash palette":
            api.client.delete(f"/api/palettes/{palette['id']}")
        elif what == "trash picture":
            api.client.delete(f"/api/pictures/{chance.choice(pictures)}")
        elif what == "restore":
            api.client.post(f"/api/palettes/{palette['id']}/restore")
    before = everything_works(api)
    supposed = cleaning.clean(timezone.now() + timedelta(hours=2), dry_run=True)
    assert cleaning.clean(timezone.now() + timedelta(hours=2)) == supposed
    assert everything_works(api) == before, "nothing was old enough but what nothing named"
    later = timezone.now() + LATER
    cleaning.clean(later)
    assert not Palette.objects.filter(trashed__isnull=False).exists()
    everything_works(api)
    again = cleaning.clean(later)
    assert again == cleaning.Removed(), "once is enough"
    named = {frame["map"] for revision in Revision.objects.all() for link in links_of(revision) for frame in link["frames"]}
    assert {str(pk) for pk in IndexMap.objects.values_list("pk", flat=True)} == named


def test_what_nothing_names_goes(api: Api) -> None:
    palette = api.bench()
    picture = palette["links"][0]["picture"]["id"]
    api.client.delete(f"/api/pictures/{picture}")
    later = timezone.now() + LATER
    assert cleaning.clean(later) == cleaning.Removed(), "the palette still paints it"
    api.client.delete(f"/api/palettes/{palette['id']}")
    assert cleaning.clean(timezone.now()) == cleaning.Removed(), "a day in the trash is not long enough"
    removed = cleaning.clean(later)
    assert (removed.palettes, removed.pictures) == (1, 1)
    assert [model.objects.count() for model in (IndexMap, StoredBytes, Picture)] == [0, 0, 0]


def test_the_trash_is_emptied_by_hand_and_only_ones_own(api: Api, other: Api) -> None:
    mine, theirs = api.bench(), other.bench()
    loose = api.upload(png(painted(30, 20)), "loose.png")["id"]
    for artist, palette in ((api, mine), (other, theirs)):
        artist.client.delete(f"/api/palettes/{palette['id']}")
    for picture in (loose,):
        api.client.delete(f"/api/pictures/{picture}")
    answer = api.client.delete("/api/trash")
    assert answer.json() == {"palettes": 1, "pictures": 1}
    assert api.shelf(trash="true") == {"palettes": [], "ramps": [], "pictures": []}
    assert len(other.shelf(trash="true")["palettes"]) == 1
    assert len(api.shelf()["pictures"]) == 1, "what is not in the trash stays"


def test_a_map_of_the_first_form_is_known_to_be_named(api: Api) -> None:
    palette = api.bench()
    revision = Revision.objects.get(palette=palette["id"])
    (link,) = links_of(revision)
    frame = link.pop("frames")[0]
    del link["version"]
    rewrite(revision, links=[{**link, "map": frame["map"], "counts": frame["counts"]}])
    cleaning.clean(timezone.now() + timedelta(days=400))
    assert IndexMap.objects.filter(pk=frame["map"]).exists()


def test_the_commands_say_what_they_would_do_before_they_do_it(api: Api, settings: Any) -> None:
    palette = api.bench()
    api.client.delete(f"/api/palettes/{palette['id']}")
    said = StringIO()
    call_command("empty_trash", days=0, dry_run=True, stdout=said)
    assert "Would remove: 1 palettes" in said.getvalue()
    assert Palette.objects.exists()
    call_command("empty_trash", days=0, stdout=said)
    assert not Palette.objects.exists()
    IndexMap.objects.update(created=timezone.now() - timedelta(days=1))
    call_command("collect_garbage", dry_run=True, stdout=said)
    assert "Would remove: 0 palettes, 0 pictures, 0 jobs, 1 maps" in said.getvalue()
    assert IndexMap.objects.exists()
    call_command("collect_garbage", stdout=said)
    assert not IndexMap.objects.exists()
    assert len(api.shelf()["pictures"]) == 1
