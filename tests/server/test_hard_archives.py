"""Archives that are none, that pretend, that unpack to more than they say, and large ones: nothing is taken by halves, nothing that
came in is broken afterwards, and none takes memory by the gigabyte."""

import gzip
import io
import json
import resource
import struct
import zipfile
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from bench.adversary import flat_png, library, zipped
from huvren.core.errors import BadFile, TooLarge
from huvren.studio.models import IndexMap, Job, JobFile, JobState, Palette, Picture, StoredBytes
from huvren.studio.services.files import archives
from huvren.studio.services.files.archives import container, taking
from huvren.studio.services.load import jobs
from tests.pictures import painted, png
from tests.server.conftest import Api
from tests.server.test_library import archive_of, full_shelf, rewritten, take


def nothing_came(api: Api) -> None:
    shelf = api.shelf()
    assert (shelf["palettes"], shelf["pictures"], api.get("/jobs")) == ([], [], [])


def sent(api: Api, data: bytes) -> Any:
    return api.client.post("/api/library/archive", {"file": SimpleUploadedFile("a.zip", data)})


EMPTY = b'{"format":"huvren-library","version":4,"palettes":[]}'


def encrypted() -> bytes:
    data = bytearray(zipped(library__json=EMPTY))
    for mark, at in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        data[data.index(mark) + at] |= 1
    return bytes(data)


def packed_by(kind: int) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", kind) as archive:
        archive.writestr("library.json", EMPTY)
    return buffer.getvalue()


def with_directory_of(size: int) -> bytes:
    data = bytearray(zipped(library__json=EMPTY))
    struct.pack_into("<I", data, data.rindex(b"PK\x05\x06") + 12, size)
    return bytes(data)


def large_form() -> bytes:
    """With the end record of archives beyond 4 GB."""
    data = zipped(library__json=EMPTY)
    at = data.rindex(b"PK\x05\x06")
    return data[:at] + b"PK\x06\x07" + b"\0" * 16 + data[at:]


def shrunk_header() -> bytes:
    """The directory says a byte, the entry unpacks to more."""
    data = bytearray(zipped(library__json=b" " * 100_000 + EMPTY))
    struct.pack_into("<I", data, data.index(b"PK\x01\x02") + 24, 1)
    return bytes(data)


STRANGE: dict[str, bytes] = {
    "encrypted": encrypted(), "bzip2": packed_by(zipfile.ZIP_BZIP2), "lzma": packed_by(zipfile.ZIP_LZMA),
    "a huge directory": with_directory_of(500_000_000), "the form of large archives": large_form(),
    "a size that lies": shrunk_header(),
    "200,000 deep": zipped(library__json=b'{"format":"huvren-library","palettes":' + b"[" * 200_000 + b"]" * 200_000 + b"}"),
    "NaN": zipped(library__json=b'{"format":"huvren-library","version":4,"palettes":[],"pictures":[NaN]}'),
    "many small objects": zipped(library__json=library(400_000)),
    "a table of 40 MB": zipped(library__json=b" " * 40_000_000 + EMPTY),
    "no table": zipped(other__json=b"{}"), "a list": zipped(library__json=b"[]"), "text": zipped(library__json=b'"huvren-library"'),
    "no JSON": zipped(library__json=b"{"), "no UTF-8": zipped(library__json=b'{"format":"\xff"}'),
    "empty": b"", "cut": zipped(library__json=EMPTY)[:-40],
    "20,001 parts": zipped(library__json=EMPTY, **{f"x{n}": b"" for n in range(20_001)}),
    "a palette without steps": zipped(
        library__json=EMPTY.replace(b"[]", b'[{"id":"00000000-0000-4000-8000-000000000000","head":1}]')
    ),
    "a picture that is not there": zipped(
        library__json=EMPTY[:-1] + b',"pictures":[{"id":"00000000-0000-4000-8000-000000000000","name":"a","sha256":"0"}]}'
    ),
}  # fmt: skip


@pytest.mark.parametrize("kind", STRANGE)
def test_strange_archives_are_refused_in_words(api: Api, kind: str) -> None:
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    answer = sent(api, STRANGE[kind])
    assert answer.status_code in (413, 422), answer.content
    assert answer.json()["message"].startswith(("That ", "A ", "This ")), answer.json()["message"]
    nothing_came(api)
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 400 * 1024, "kilobytes"


def test_a_huge_directory_is_refused_before_it_is_read(api: Api) -> None:
    for kind in ("a huge directory", "the form of large archives"):
        assert "lists more than 20,000 parts" in sent(api, STRANGE[kind]).json()["message"]


def test_a_map_with_colors_beyond_its_table_is_refused(api: Api, other: Api) -> None:
    def shortened(link: Any, step: Any) -> None:
        link.update(table=link["table"][:1], frames=[{**frame, "counts": frame["counts"][:1]} for frame in link["frames"]])

    assert change_all(api, other, shortened) == 422
    nothing_came(other)


def test_what_is_unpacked_is_counted_over_all_parts(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(container, "MOST_UNPACKED_BYTES", 3_000_000)
    box = container.Container(io.BytesIO(zipped(a=b" " * 2_000_000, b=b" " * 2_000_000)))
    assert len(box.read("a", 2_000_000)) == 2_000_000
    with pytest.raises(TooLarge, match="unpacks to more"):
        box.read("b", 2_000_000)
    with pytest.raises(TooLarge, match="has more than 1 MB"):
        container.Container(io.BytesIO(zipped(a=b" " * 2_000_000))).read("a", 1_048_576)


def test_lines_are_bounded_each(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(container, "MOST_LINE_BYTES", 1000)
    box = container.Container(io.BytesIO(zipped(a=b'{"x":1}\n' * 500 + b'{"y":2}')))
    assert len(list(box.lines("a"))) == 501
    with pytest.raises(TooLarge, match="A line of"):
        list(container.Container(io.BytesIO(zipped(a=b" " * 2000))).lines("a"))
    with pytest.raises(BadFile, match="damaged"):
        list(container.Container(io.BytesIO(zipped(a=b"{}"))).lines("b"))


def maps_of(data: bytes) -> list[str]:
    return [name for name in zipfile.ZipFile(io.BytesIO(data)).namelist() if name.startswith("maps/")]


def with_entry(data: bytes, name: str, content: bytes) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as source, zipfile.ZipFile(buffer, "w") as target:
        for entry in source.namelist():
            target.writestr(entry, content if entry == name else source.read(entry))
    return buffer.getvalue()


def test_an_index_map_that_unpacks_without_end_is_cut_off(api: Api, other: Api) -> None:
    full_shelf(api)
    data = archive_of(api)
    endless = gzip.compress(b"\0" * 300_000_000, 9)
    answer = sent(other, with_entry(data, maps_of(data)[0], endless))
    assert answer.status_code == 422
    assert "does not fit the picture" in answer.json()["message"]
    nothing_came(other)


def test_a_picture_whose_bytes_are_others_is_refused(api: Api, other: Api) -> None:
    api.bench()
    data = archive_of(api)
    (name,) = [name for name in zipfile.ZipFile(io.BytesIO(data)).namelist() if name.startswith("pictures/")]
    answer = sent(other, with_entry(data, name, png(painted(31, 17))))
    assert "is damaged" in answer.json()["message"]
    nothing_came(other)


def change_all(api: Api, other: Api, change: Any) -> int:
    """Change every step's link in some way, bring it in, and open whatever came; the answer's status."""
    full_shelf(api)

    def changed(entries: Any) -> None:
        for palette in entries["palettes"]:
            for step in palette["revisions"]:
                for link in step["links"]:
                    change(link, step)

    answer = sent(other, rewritten(archive_of(api), changed))
    assert answer.status_code in (200, 422), answer.content
    for card in other.shelf()["palettes"]:
        opened = other.get(f"/palettes/{card['id']}")
        for step in other.get(f"/palettes/{card['id']}/history"):
            other.get(f"/palettes/{card['id']}/document", step=step["number"])
        for link in opened["links"]:
            picture = link["picture"]["id"]
            assert other.client.get(f"/api/palettes/{card['id']}/maps/{link['maps'][0]}").status_code == 200
            for path in ("figures", "curve"):
                assert other.client.get(f"/api/palettes/{card['id']}/pictures/{picture}/{path}").status_code in (200, 422)
    return int(answer.status_code)


@pytest.mark.parametrize(
    "change",
    [
        lambda link, step: link.update(figures={}),
        lambda link, step: link.update(figures={"mean": "x"}),
        lambda link, step: link.update(notes=[1]),
        lambda link, step: link.update(recipe={}),
        lambda link, step: link.update(recipe={"colors": None}),
        lambda link, step: link.update(worst_tiles=[[1e300, -5, 2]]),
        lambda link, step: link.update(worst_tiles=[["a", 1, 2]]),
        lambda link, step: link.update(table=link["table"][:1], frames=[{**f, "counts": f["counts"][:1]} for f in link["frames"]]),
        lambda link, step: link.update(table=[None] * len(link["table"])),
        lambda link, step: link["frames"][0].update(counts=[10**18] * len(link["table"])),
        lambda link, step: link["frames"][0].update(counts=[-1] * len(link["table"])),
        lambda link, step: link["frames"].append(link["frames"][0]),
        lambda link, step: link.update(width=10**9, height=10**9),
        lambda link, step: link.update(width=link["height"], height=link["width"]),
        lambda link, step: link.update(picture="00000000-0000-4000-8000-00000000000f"),
        lambda link, step: step["links"].append(dict(link)) if len(step["links"]) == 1 else None,
        lambda link, step: step["document"].update(variant={}),
        lambda link, step: step["document"].update(columns="abc"),
        lambda link, step: step["document"].update(slots=10**18),
        lambda link, step: step["document"].update(groups=[{"id": "g", "name": "a"}] * 3),
        lambda link, step: step["document"]["swatches"][0]["color"].update(coords=[1e300, 0, 0]),
        lambda link, step: step["document"]["swatches"][0].update(name="a" * 5000),
        lambda link, step: step.update(label="x" * 100_000),
        lambda link, step: step.update(created="yesterday"),
        lambda link, step: step.update(parent=step["number"]),
    ],
)
def test_what_comes_in_can_be_opened_for_ever(api: Api, other: Api, change: Any) -> None:
    change_all(api, other, change)


def test_the_same_archive_at_once_stores_a_picture_once(transactional_db: None) -> None:
    from django.test import Client

    from tests.server.test_limits import in_parallel

    api, other = Api("ada"), Api("ben")
    api.bench()
    data = archive_of(api)

    def bring(number: int) -> int:
        client = Client()
        client.force_login(other.user)
        return client.post("/api/library/archive", {"file": SimpleUploadedFile("a.zip", data)}).status_code

    assert set(in_parallel(bring, 8)) == {200}
    assert Picture.objects.filter(owner=other.user).count() == 1
    assert Palette.objects.filter(owner=other.user).count() == 1


def test_one_file_under_many_names_is_decoded_once(api: Api, other: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    picture = api.upload(png(painted()))

    def many(entries: Any) -> None:
        (entry,) = entries["pictures"]
        entries["pictures"] = [{**entry, "name": f"Plate {number}.png"} for number in range(30)]

    looked: list[str] = []
    look = taking.pictures.look_at
    monkeypatch.setattr(taking.pictures, "look_at", lambda data, name: looked.append(name) or look(data, name))
    assert take(other, rewritten(archive_of(api), many))["pictures"] == 30
    assert looked == ["Plate 0.png"]
    assert StoredBytes.objects.filter(sha256=Picture.objects.get(pk=picture["id"]).original_id).count() == 1


def large_archive(api: Api) -> bytes:
    """More pixels than are decoded while somebody waits."""
    api.upload(flat_png(2600, 1700))
    api.bench()
    return archive_of(api)


def test_a_large_archive_is_a_job_that_brings_everything(api: Api, other: Api) -> None:
    data = large_archive(api)
    answer = sent(other, data)
    assert answer.status_code == 202
    job = answer.json()
    assert (job["kind"], job["state"]) == ("archive", "waiting")
    assert b"".join(bytes(piece.data) for piece in JobFile.objects.all()) == data
    other.shelf()
    jobs.work(Job.objects.get().pk)
    (row,) = other.get("/jobs")
    assert (row["state"], row["step"]) == ("done", "1 palette and 2 pictures brought in")
    assert len(other.shelf()["pictures"]) == 2
    assert not JobFile.objects.exists(), "its file is not kept any longer than it is needed"


def test_a_large_archive_that_is_damaged_brings_nothing(api: Api, other: Api) -> None:
    data = large_archive(api)
    broken = with_entry(data, maps_of(data)[0], b"no gzip")
    assert sent(other, broken).status_code == 202
    jobs.work(Job.objects.get().pk)
    (row,) = other.get("/jobs")
    assert (row["state"], row["step"]) == ("failed", "That archive is damaged, so nothing was brought in.")
    shelf = other.shelf()
    assert (shelf["palettes"], shelf["pictures"]) == ([], [])
    assert Job.objects.get().state == JobState.FAILED


def test_a_called_off_archive_brings_nothing(api: Api, other: Api) -> None:
    sent(other, large_archive(api))
    job = Job.objects.get()
    other.post(f"/jobs/{job.pk}/cancel")
    jobs.work(job.pk)
    assert other.shelf()["pictures"] == []


def kept(api: Api) -> int:
    return int(api.get("/usage")["bytes"]["used"])


def test_an_archive_that_waits_counts_until_it_is_brought_in(api: Api, other: Api) -> None:
    data = large_archive(api)
    assert sent(other, data).status_code == 202
    assert kept(other) == len(data)
    jobs.work(Job.objects.get().pk)
    rows = [*Palette.objects.filter(owner=other.user), *Picture.objects.filter(owner=other.user)]
    assert kept(other) == sum(row.bytes for row in rows) > 0, "what came of it, and no longer the archive"
    assert abs(kept(other) - kept(api)) < 100, "but for the ids, of which some are packed better than others"
    assert Job.objects.get().bytes == 0


@pytest.mark.parametrize("end", ["called off", "damaged", "twice broken off"])
def test_the_file_of_work_that_came_to_nothing_goes_at_once(api: Api, other: Api, end: str) -> None:
    data = large_archive(api)
    if end == "damaged":
        data = with_entry(data, maps_of(data)[0], b"no gzip")
    Picture.objects.all().delete()
    StoredBytes.objects.all().delete()
    sent(other, data)
    job = Job.objects.get()
    if end == "called off":
        other.post(f"/jobs/{job.pk}/cancel")
    elif end == "twice broken off":
        Job.objects.update(state=JobState.WORKING, attempts=jobs.MOST_ATTEMPTS)
    jobs.work(job.pk)
    (row,) = other.get("/jobs")
    assert row["state"] == ("cancelled" if end == "called off" else "failed")
    assert (kept(other), JobFile.objects.count(), StoredBytes.objects.count()) == (0, 0, 0)
    # It cannot be done again without its file, and whoever asks is told.
    assert row["can_again"] is False
    assert "Send it once more" in other.post(f"/jobs/{job.pk}/retry", status=422)["message"]


def test_an_archive_of_half_of_what_one_may_keep_is_brought_in(api: Api, other: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    """Its pictures take the place of the archive; they are not counted beside it."""
    from tests.server.test_limits import quota

    data = large_archive(api)
    quota(monkeypatch, bytes=max(len(data), kept(api)) + 1)
    assert sent(other, data).status_code == 202
    jobs.work(Job.objects.get().pk)
    (row,) = other.get("/jobs")
    assert (row["state"], row["step"]) == ("done", "1 palette and 2 pictures brought in")


def test_files_that_another_shelf_has_stay_when_an_archive_comes_to_nothing(api: Api, other: Api) -> None:
    data = large_archive(api)
    before = set(StoredBytes.objects.values_list("pk", flat=True))
    sent(other, with_entry(data, maps_of(data)[0], b"no gzip"))
    jobs.work(Job.objects.get().pk)
    assert set(StoredBytes.objects.values_list("pk", flat=True)) == before


def test_an_archive_of_before_steps_had_files_of_their_own(api: Api, other: Api) -> None:
    """Version 3 held all steps in its table of contents."""
    full_shelf(api)
    source = zipfile.ZipFile(io.BytesIO(archive_of(api)))
    entries = json.loads(source.read("library.json"))
    for entry in entries["palettes"]:
        entry["revisions"] = [json.loads(line) for line in source.read(f"palettes/{entry['id']}.jsonl").splitlines()]
    entries["version"] = 3
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as target:
        for name in source.namelist():
            if not name.startswith("palettes/"):
                target.writestr(name, json.dumps(entries) if name == "library.json" else source.read(name))
    assert take(other, buffer.getvalue()) == {"palettes": 2, "pictures": 1, "recipes": 1, "known": 0}
    assert IndexMap.objects.filter(picture__owner=other.user).count() >= 1


def test_a_shelf_that_is_full_takes_no_archive(api: Api, other: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    from tests.server.test_limits import quota

    full_shelf(api)
    data = archive_of(api)
    for name in ("palettes", "pictures", "bytes"):
        quota(monkeypatch, **{name: 0})
        assert sent(other, data).status_code == 413
        nothing_came(other)
        quota(monkeypatch, palettes=100, pictures=100, bytes=10**9)
    assert sent(other, data).status_code == 200
    assert archives.Taken(0, 0, 0, 3) == archives.take_archive(other.user, io.BytesIO(data))
