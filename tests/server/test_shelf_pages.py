"""The shelf in pages: what is found and in which order is what plain Python finds, from any place on, whatever changes meanwhile."""

import base64
import json
import random
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from coloraide import Color as Independent

from huvren.core.color.value import Color
from huvren.core.names import sort_key
from huvren.core.palette.values import Palette as PaletteValue
from huvren.core.palette.values import Swatch
from huvren.studio.models import Palette, Picture, RampCard
from huvren.studio.services.shelf import palettes
from huvren.studio.services.shelf.pages import KINDS
from huvren.studio.services.shelf.searching import Wanted, read_search
from tests.pictures import painted, png
from tests.server.conftest import Api

WORDS = [
    "moth",
    "Moth 2",
    "moth 10",
    "Ébène",
    "STRASSE",
    "straße",
    "50 %",
    "under_score",
    "back\\slash",
    "”quoted”",
    "夜",
    "☘ leaf",
    "tag",
]
TAGS = ["press", "Night", "50 %", "dusk red"]
STOPS = [{"text": "#102030"}, {"text": "#ffd478"}]


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("", Wanted()),
        ("  Moth  plate ", Wanted(words=["moth", "plate"])),
        ('"Dusk red" tag:Press', Wanted(words=["dusk red"], tags=["press"])),
        ("near #c48a3a", Wanted(near="#c48a3a")),
        ("#c48a3a within 5", Wanted(near="#c48a3a", within=5)),
        ("within 2,5 oklch(0.7 0.1 200) moth", Wanted(near="oklch(0.7 0.1 200)", within=2.5, words=["moth"])),
        (">20", Wanted(fewest=21)), (">=20", Wanted(fewest=20)), ("<8", Wanted(most=7)), ("<=8 >2", Wanted(most=8, fewest=3)),
        ("=4", Wanted(fewest=4, most=4)),
        ("favorite Favorites", Wanted(favorites=True)),
        ("tag: near", Wanted(words=["tag:"])),
        ("near red", Wanted(near="red")),
        ("within moth 5", Wanted(words=["moth"], within=5)),
        ("#12", Wanted(words=["#12"])),
        ("20", Wanted(words=["20"])),
        ('"open quote', Wanted(words=["open", "quote"])),
        (">99999999999", Wanted(words=[">99999999999"])),
    ],
)  # fmt: skip
def test_a_search_is_read(text: str, wanted: Wanted) -> None:
    assert read_search(text) == wanted


def stocked(api: Api, seed: int, count: int = 40) -> None:
    """A shelf by chance: palettes with names, tags, colors, favorites and ramps, some in the trash; and pictures."""
    chance = random.Random(seed)
    for place in range(count):
        swatches = tuple(
            Swatch(Color.from_bytes(*chance.randbytes(3)), chance.choice(["", *WORDS]), f"s{n}")
            for n in range(chance.choice([0, 1, 3, 9]))
        )
        tags = tuple(dict.fromkeys(chance.choices(TAGS, k=chance.randint(0, 2))))
        state = palettes.create(
            api.user, PaletteValue(f"{chance.choice(WORDS)} {chance.randint(0, 3)}", swatches, tags=tags), "Begin"
        )
        if chance.random() < 0.4:
            api.operate(
                {"id": state.row.pk, "revision": 1},
                kind="keep_ramp",
                name=chance.choice(WORDS),
                ramp={"stops": STOPS, "steps": 5},
                tags=TAGS[:1],
            )
        when = datetime(2026, 11, 1, tzinfo=UTC) + timedelta(hours=chance.randint(0, 9), microseconds=chance.randint(0, 1))
        Palette.objects.filter(pk=state.row.pk).update(
            favorite=chance.random() < 0.2, updated=when, trashed=when if chance.random() < 0.2 else None
        )
        if place % 3 == 0:
            picture = Picture.objects.get(pk=api.upload(png(painted(8, 8)), chance.choice(WORDS))["id"])
            picture.favorite, picture.distinct = chance.random() < 0.3, chance.randint(1, 3)
            picture.save()


def walked(api: Api, kind: str, limit: int, **query: Any) -> list[Any]:
    """All cards, page by page; each page says the same of the whole."""
    cards, cursor, whole = [], "", None
    while True:
        page = api.get(f"/shelf/{kind}", limit=limit, cursor=cursor, **query)
        assert len(page["cards"]) <= limit
        assert page["cards"] or not cursor, "where a page is said to follow there is one"
        assert whole in (None, (page["found"], page["all"]))
        whole = page["found"], page["all"]
        cards += page["cards"]
        assert len(cards) <= page["found"], "no card twice"
        if page["next"] is None:
            assert len(cards) == page["found"] <= page["all"]
            return cards
        assert len(page["cards"]) == limit
        cursor = page["next"]


def brute(
    api: Api, kind: str, words: list[str], tags: list[str], fewest: int, favorites: bool, sorting: str, trash: bool
) -> list[Any]:
    """Keys of what should be found, in their order, by plain Python over whole rows."""
    if kind == "ramps":
        rows = [row for row in RampCard.objects.select_related("palette") if row.palette.owner_id == api.user.pk]
        rows = [row for row in rows if (row.palette.trashed is not None) == trash and not fewest and not favorites]
        rows.sort(key=lambda row: (-row.palette.updated.timestamp(), str(row.palette_id), row.position))
        names = {row.pk: [row.name, *row.tags] for row in rows}
    elif kind == "pictures":
        rows = [
            row
            for row in Picture.objects.filter(owner=api.user)
            if not trash and not fewest and not tags and (row.favorite or not favorites)
        ]
        rows.sort(key=lambda row: (row.created, str(row.pk)), reverse=True)
        names = {row.pk: [row.name] for row in rows}
    else:
        rows = [row for row in Palette.objects.filter(owner=api.user, trashed__isnull=not trash) if row.count >= fewest]
        rows = [row for row in rows if row.favorite or not favorites]
        rows.sort(key=lambda row: (row.updated, str(row.pk)), reverse=True)
        names = {
            row.pk: [row.name, *row.tags, *(s.name for s in palettes.get_state(api.user, row.pk).palette.swatches)] for row in rows
        }
    rows = [row for row in rows if all(any(word.casefold() in name.casefold() for name in names[row.pk]) for word in words)]
    rows = [row for row in rows if all(any(tag.casefold() in own.casefold() for own in row.tags) for tag in tags)]
    if sorting == "name":
        rows.sort(key=lambda row: sort_key(row.name))
    if sorting == "count" and kind != "ramps":
        rows.sort(key=lambda row: -(row.count if kind == "palettes" else row.distinct))
    if kind != "ramps" and sorting != "latest":
        rows.sort(key=lambda row: not row.favorite)
    return [f"{row.palette_id} {row.ramp}" if kind == "ramps" else str(row.pk) for row in rows]


@pytest.mark.parametrize("seed", range(3))
def test_pages_are_what_plain_python_finds_in_its_order(api: Api, other: Api, seed: int) -> None:
    stocked(api, seed)
    stocked(other, seed + 100, 6)
    chance = random.Random(seed)
    for _ in range(25):
        words = chance.sample([*WORDS, "o", "2"], chance.choice([0, 0, 1, 2]))
        tags, fewest, favorites = chance.sample(TAGS, chance.choice([0, 0, 1])), chance.choice([0, 0, 0, 2]), chance.random() < 0.2
        search = " ".join(
            [
                *(f'"{word}"' for word in words),
                *(f"tag:{tag.split()[0]}" for tag in tags),
                f">={fewest}" if fewest else "",
                "favorite" if favorites else "",
            ]
        )
        sorting, trash = chance.choice(["newest", "name", "count", "latest"]), chance.random() < 0.3
        for kind in KINDS:
            found = walked(api, kind, chance.choice([1, 2, 7, 200]), q=search, sort=sorting, trash=trash)
            keys = [f"{card['palette']} {card['id']}" if kind == "ramps" else card["id"] for card in found]
            assert keys == brute(api, kind, words, [tag.split()[0] for tag in tags], fewest, favorites, sorting, trash), (
                search,
                sorting,
            )
            if kind != "ramps":
                assert sorted(api.get("/shelf/ids", q=search, trash=trash)[kind]) == sorted(keys)


def test_what_is_near_is_what_an_independent_library_calls_near(api: Api) -> None:
    stocked(api, 9, 60)
    chance = random.Random(2)
    for within in (0.5, 3, 10, 25, 60):
        color = "#" + chance.randbytes(3).hex()
        gaps = {}
        for row in Palette.objects.filter(owner=api.user, trashed__isnull=True):
            hexes = [bytes(row.colors)[place : place + 3].hex() for place in range(0, len(row.colors), 3)]
            away = [Independent("#" + one).distance(Independent(color), space="oklab") * 100 for one in hexes]
            if away:
                gaps[str(row.pk)] = min(away)
        found = {card["id"]: card["near"] for card in walked(api, "palettes", 7, q=f"near {color} within {within}")}
        assert list(found.values()) == sorted(found.values())
        for key, gap in found.items():
            assert gap == pytest.approx(gaps[key], abs=0.01)
        assert (
            {key for key, gap in gaps.items() if gap < within - 0.01}
            <= set(found)
            <= {key for key, gap in gaps.items() if gap < within + 0.01}
        )
        assert (
            len(walked(api, "ramps", 5, q=f"near #ffd478 within {within}")) == RampCard.objects.filter(palette__trashed=None).count()
        )
    assert api.shelf(q="near #c48a3a")["pictures"] == []


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("sorting", ["newest", "name", "count", "latest"])
def test_what_changes_between_two_pages_loses_none_of_the_others(api: Api, kind: str, sorting: str) -> None:
    stocked(api, 4)
    before = [card["id"] for card in walked(api, kind, 200, sort=sorting)]
    first = api.get(f"/shelf/{kind}", limit=5, sort=sorting)
    model = KINDS[kind].model
    shown = [card["id"] for card in first["cards"]]
    if kind == "ramps":
        RampCard.objects.filter(ramp=shown[-1]).delete()
    else:
        model._default_manager.filter(pk=shown[-1]).delete()  # the very one whose place is named
    following = walked(api, kind, 5, sort=sorting) if first["next"] is None else []
    cursor = first["next"]
    while cursor:
        page = api.get(f"/shelf/{kind}", limit=5, sort=sorting, cursor=cursor)
        following, cursor = [*following, *page["cards"]], page["next"]
        assert len(following) <= len(before), "no card twice"
    assert [*shown, *(card["id"] for card in following)] == before


def test_what_is_equally_near_stands_newest_first_from_page_to_page(api: Api) -> None:
    swatches = (Swatch(Color.from_bytes(10, 20, 30), "Ink", "s"),)
    made = [str(palettes.create(api.user, PaletteValue(f"P{number}", swatches), "Begin").row.pk) for number in range(23)]
    assert [card["id"] for card in walked(api, "palettes", 5, q="near #0a141e")] == made[::-1]
    first = api.get("/shelf/palettes", limit=5, q="near #0a141e")
    Palette.objects.filter(pk=first["cards"][-1]["id"]).delete()
    following = api.get("/shelf/palettes", limit=200, q="near #0a141e", cursor=first["next"])["cards"]
    assert set(made[:18]) <= {card["id"] for card in following}, "who shows one again has lost none"


def place(*values: Any) -> str:
    return base64.urlsafe_b64encode(json.dumps(values).encode()).decode()


@pytest.mark.parametrize("cursor", [
    "x", "====", "é", place(), place(1), place(True, "2026-01-01", "no id"), place("yes?", "2026-01-01T00:00:00Z", "x"),
    place(True, "2026-13-01", "7d4b3a52-0000-0000-0000-000000000000"), place(None, None, None), place({}, [], 1),
    place(True, 10**400, 1),
    place(True, "a\0b", "7d4b3a52-0000-0000-0000-000000000000"), base64.urlsafe_b64encode(b"[" * 1400).decode(),
    base64.urlsafe_b64encode(b"NaN").decode(),
])  # fmt: skip
@pytest.mark.parametrize("query", [{}, {"sort": "name"}, {"q": "near #102030"}])
def test_a_place_that_is_none_is_refused_in_words(api: Api, cursor: str, query: dict[str, str]) -> None:
    api.post("/palettes", {"text": "#102030"}, 201)
    for kind in KINDS:
        if kind == "pictures" and "q" in query:
            continue
        answer = api.client.get(f"/api/shelf/{kind}", {"cursor": cursor, **query})
        assert answer.status_code == 422, answer.content
        assert "no place on the shelf" in answer.json()["message"]


@pytest.mark.parametrize(
    "query", [{"limit": 0}, {"limit": 201}, {"sort": "best"}, {"q": "x" * 301}, {"cursor": "x" * 2001}, {"q": "near blurple"}]
)
def test_what_cannot_be_asked_is_said(api: Api, query: dict[str, Any]) -> None:
    assert api.get("/shelf/palettes", 422, **query)["message"]


@pytest.mark.parametrize(
    "text", ["\0", "a\0b", '"', "'; DROP TABLE", "%%%", "\\", "((((", "a(" * 150, '"' * 300, "tag:\0", ">" * 300, "ﷺ" * 300]
)
def test_anything_may_be_searched_for(api: Api, text: str) -> None:
    api.post("/palettes", {"text": "#102030"}, 201)
    for kind in KINDS:
        assert api.client.get(f"/api/shelf/{kind}", {"q": text}).status_code in (200, 422)


def test_cards_are_fetched_by_their_ids_and_only_ones_own(api: Api, other: Api) -> None:
    mine = api.post("/palettes", {"text": "#102030", "name": "Mine"}, 201)
    gone = api.post("/palettes", {"text": "#102030"}, 201)
    theirs = other.bench()
    api.client.delete(f"/api/palettes/{gone['id']}")
    picture = api.upload(png(painted()))

    def named(kind: str, *ids: str) -> list[str]:
        return [card["id"] for card in api.get(f"/shelf/{kind}/named", ids=",".join(ids))["cards"]]

    assert named("palettes", mine["id"], gone["id"], theirs["id"], mine["id"]) == [mine["id"]]
    assert named("pictures", picture["id"], theirs["links"][0]["picture"]["id"]) == [picture["id"]]
    assert named("palettes") == named("palettes", "") == []
    assert "no id" in api.get("/shelf/palettes/named", 422, ids="7,8")["message"]
    assert "101 were named" in api.get("/shelf/palettes/named", 422, ids=",".join([mine["id"]] * 101))["message"]
    api.operate(mine, kind="keep_ramp", name="Dusk", ramp={"stops": STOPS, "steps": 5})
    assert [card["name"] for card in api.get(f"/shelf/palettes/{mine['id']}/ramps")["cards"]] == ["Dusk"]


def test_cards_of_ramps_follow_every_step(api: Api) -> None:
    palette = api.post("/palettes", {"text": "#102030 #ffd478", "name": "One"}, 201)
    stops = [{"swatch": swatch["id"]} for swatch in palette["swatches"]]
    kept = api.operate(palette, kind="keep_ramp", name="Dusk", ramp={"stops": stops, "steps": 5})
    (before,) = api.shelf()["ramps"]
    written = RampCard.objects.get().pk
    renamed = api.operate(kept, kind="rename_palette", name="Two")
    (card,) = api.shelf()["ramps"]
    assert (card["palette_name"], card["strip"]) == ("Two", before["strip"])
    assert RampCard.objects.get().pk == written, "what has not changed is not written again"
    recolored = api.operate(renamed, kind="recolor_swatch", id=palette["swatches"][0]["id"], text="#ff0000")
    assert api.shelf()["ramps"][0]["strip"] != before["strip"], "it follows its swatches"
    api.post(f"/palettes/{palette['id']}/undo", {"base": recolored["revision"]})
    assert api.shelf()["ramps"][0]["strip"] == before["strip"]
    api.post(f"/palettes/{palette['id']}/go-to", {"base": recolored["revision"] - 1, "number": 1})
    assert api.shelf()["ramps"] == []


def test_a_first_page_is_small_however_many_cards_there_are(api: Api, django_assert_max_num_queries: Any) -> None:
    """64 different colors in each of 300 palettes: no more bytes than sixty cards have, and a handful of queries."""
    chance = random.Random(1)
    for number in range(300):
        swatches = tuple(Swatch(Color.from_bytes(*chance.randbytes(3)), f"Reed {n}", f"s{n}") for n in range(64))
        palettes.create(api.user, PaletteValue(f"Palette {number}", swatches), "Begin")
    for query in ({}, {"q": "reed"}, {"q": "near #c48a3a"}, {"sort": "name", "q": "palette"}):
        with django_assert_max_num_queries(6) as queries:
            answer = api.client.get("/api/shelf/palettes", query)
        assert len(answer.json()["cards"]) == 60
        assert len(answer.content) <= 60_000
        assert not any("studio_revision" in query["sql"] for query in queries)
