"""Fields declare themselves once; document, API, archive, files and report follow."""

import dataclasses
import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.formats import FORMATS, Keeps
from huvren.core.palette.document import PALETTE, palette_from_document, palette_to_document, understand_palette
from huvren.core.palette.fields import BY_NAME, Declared, Words, declared, fields_of, losable_fields_of
from huvren.core.palette.merging import merge
from huvren.core.palette.operations.bring_in import BringIn
from huvren.core.palette.operations.compare import SnapTo
from huvren.core.palette.operations.duplicate import DuplicateSwatches
from huvren.core.palette.values import Group, Palette, Swatch

ROOT = Path(__file__).resolve().parent.parent.parent
INK, LAMP = Color("srgb", (0.1, 0.1, 0.1)), Color("srgb", (1.0, 0.8, 0.4))


def whole() -> Palette:
    """A palette that has every field, and swatches and groups that have every field."""

    def every(owner: type) -> dict[str, object]:
        return {field.name: field.declared.examples[0] for field in losable_fields_of(owner)}

    groups = (Group(name="Inks", id="g1", **every(Group)), Group(name="Lamps", id="g2", **every(Group)))
    swatches = (
        Swatch(color=INK, name="Ink", id="s1", group="g1", **every(Swatch)),
        Swatch(color=LAMP, name="Lamp", id="s2", group="g2", **every(Swatch)),
    )
    palette = Palette(name="Whole", swatches=swatches, groups=groups, **every(Palette))
    return dataclasses.replace(palette, variant=palette.variants[0].id)


def test_every_field_of_every_class_is_declared() -> None:
    for owner in (Swatch, Group, Palette):
        assert [field.name for field in fields_of(owner)] == [field.name for field in dataclasses.fields(owner)]
    by_name = {field.key for owner in (Swatch, Group, Palette) for field in fields_of(owner) if field.declared.lost == BY_NAME}
    assert by_name == {
        "swatch.color", "swatch.name", "swatch.id", "swatch.group", "swatch.slot", "group.name", "group.id",
        "palette.name", "palette.swatches", "palette.groups", "palette.slots", "palette.variant",
    }, "what holding and report treat by its name; anything else declares how it is lost"  # fmt: skip


def test_a_field_that_is_not_declared_whole_is_refused() -> None:
    @dataclasses.dataclass
    class Loose:
        name: str = ""

    with pytest.raises(TypeError, match="name of Loose is not declared"):
        fields_of(Loose)
    with pytest.raises(TypeError, match="needs examples"):
        Declared(Words("x", str), shape=str)
    with pytest.raises(TypeError, match="needs the shape"):
        Declared(BY_NAME)
    with pytest.raises(TypeError, match="Variants store colors alone"):
        Declared(BY_NAME, shape=str, by_variant=True)
    with pytest.raises(TypeError, match=r"No such field: swatch\.noted"):
        Keeps(fields=frozenset({"swatch.noted"}))
    with pytest.raises(TypeError, match="lost"):
        declared("", shape=str)


def test_the_document_holds_every_field_and_gives_it_back() -> None:
    palette = whole()
    document = palette_to_document(palette)
    assert palette_from_document(document) == palette
    assert document["version"] == PALETTE.version == 6
    plain = palette_to_document(Palette("Plain", (Swatch(INK, "Ink", "s1"),)))
    assert set(plain) == {"version", "name", "columns", "groups", "swatches"}, "what few palettes have is left out"
    assert list(plain["swatches"][0]) == ["id", "name", "color", "locked", "group"]


def test_what_cannot_be_read_is_said_and_stood_in_for() -> None:
    document = palette_to_document(whole())
    document["swatches"][0]["note"] = "n" * 3_000
    document["swatches"][1]["tags"] = ["t" * 50]
    document["columns"] = -3
    document["groups"][0]["columns"] = 10**9
    with pytest.raises(BadInput, match="has 1000000000 columns"):
        palette_from_document(document)
    understood = understand_palette(document)
    palette = understood.value
    assert [len(swatch.note) for swatch in palette.swatches] == [2_000, len("a note")]
    assert (palette.swatches[1].tags, palette.columns, palette.groups[0].columns) == ((), None, None)
    assert [problem[:24] for problem in understood.problems] == [
        "The document has 1000000", "That note has 3,000 char", "The tag “ttttttttttttttt", "The document has -3 colu",
    ]  # fmt: skip


def test_copies_merges_and_matches_go_by_the_declarations() -> None:
    palette = whole()
    copy = DuplicateSwatches(ids=["s1"]).apply(palette).palette.swatches[1]
    assert (copy.note, copy.tags) == (palette.swatches[0].note, palette.swatches[0].tags)
    assert (copy.locked, copy.pinned) == (False, False)
    brought = BringIn(document=palette_to_document(palette), source="x").apply(Palette("Bench")).palette
    rows = [(swatch.note, swatch.tags, swatch.locked, swatch.pinned) for swatch in brought.swatches]
    assert rows == [(swatch.note, swatch.tags, swatch.locked, False) for swatch in palette.swatches]
    loose = tuple(dataclasses.replace(swatch, locked=False, group=None) for swatch in palette.swatches)
    merged, _ = merge(Palette("x", loose), [loose], "first", {})
    assert merged.swatches == (loose[0],), "the survivor stays as it is"
    other = palette_to_document(Palette("Other", (Swatch(LAMP, "Other lamp", note="theirs"),)))
    snapped = SnapTo(document=other, source="x").apply(Palette("x", loose)).palette.swatches
    assert [(swatch.color, swatch.note, swatch.name) for swatch in snapped] == [
        (LAMP, loose[0].note, "Ink"), (LAMP, loose[1].note, "Lamp"),
    ]  # fmt: skip


MADE_UP = """
    temper: str = declared(
        "", lost=Words("temper", lambda count: f"{count} tempers dropped"), shape=str, since=6, sent=str, examples=("warm",),
        describes="how warm it feels", merged=lambda mine, all_of_them: " ".join(filter(None, all_of_them)),
    )
"""
SEEN = """
import json
from dataclasses import replace
import django
django.setup()
from huvren.core.color.value import Color
from huvren.core.formats import FORMATS, Document
from huvren.core.formats.readings import read_palettes
from huvren.core.formats.report import keep_report
from huvren.core.palette.document import PALETTE, palette_from_document, palette_to_document
from huvren.core.palette.merging import merge
from huvren.core.palette.operations.bring_in import BringIn
from huvren.core.palette.values import Palette, Swatch
from huvren.core.stored.archive import REVISION
from huvren.studio.api import api
from huvren.studio.api.parts.palette_out import swatches_out

palette = Palette("Moods", (
    Swatch(Color("srgb", (1, 0, 0)), "Red", "r", temper="warm"), Swatch(Color("srgb", (0, 0, 1)), "Blue", "b"),
))
document = palette_to_document(palette)
step = REVISION.read({"number": 1, "parent": None, "label": "x", "created": "", "document": document, "links": []})
schema = api.get_openapi_schema(path_prefix="/api/")["components"]["schemas"]
data = FORMATS["json"].written(Document(palette))
old = {**document, "version": 5, "swatches": [{k: v for k, v in s.items() if k != "temper"} for s in document["swatches"]]}
tempered = [replace(swatch, temper=swatch.temper or "cool") for swatch in palette.swatches]
print(json.dumps({
    "version": [PALETTE.version, document["version"]],
    "archive": [swatch.temper for swatch in palette_from_document(step["document"]).swatches],
    "old": [swatch.temper for swatch in palette_from_document(old).swatches],
    "json": [swatch.temper for swatch in read_palettes(data, "a.json")[0].found.palette.swatches],
    "schema": schema["SwatchOut"]["properties"]["temper"]["description"],
    "sent": [swatch["temper"] for swatch in swatches_out(palette, None)],
    "brought": [swatch.temper for swatch in BringIn(document=document, source="x").apply(Palette("Bench")).palette.swatches],
    "merged": merge(palette, [tempered], "first", {})[0].swatches[0].temper,
    "said": {entry.id: [loss.text for loss in keep_report(entry, Document(palette)) if loss.code == "temper"]
             for entry in FORMATS if entry.is_of_palettes},
}))
"""


def test_a_made_up_field_is_in_api_and_archive_and_reported_lost_with_one_file_changed(tmp_path: Path) -> None:
    shutil.copytree(ROOT / "huvren", tmp_path / "huvren")
    values = tmp_path / "huvren" / "core" / "palette" / "values.py"
    text, mark = values.read_text(), "    pinned: bool = declared("
    assert text.count(mark) == 1
    values.write_text(text.replace(mark, MADE_UP + mark))
    env = {**os.environ, "PYTHONPATH": str(tmp_path)}
    run = subprocess.run([sys.executable, "-c", SEEN], cwd=tmp_path, env=env, capture_output=True, text=True)
    assert run.returncode == 0, run.stderr[-3_000:]
    seen = json.loads(run.stdout.splitlines()[-1])
    assert seen.pop("said") == {
        entry.id: [] if entry.keeps.everything else ["1 tempers dropped"] for entry in FORMATS if entry.is_of_palettes
    }
    assert seen == {
        "version": [6, 6], "archive": ["warm", ""], "old": ["", ""], "json": ["warm", ""], "schema": "how warm it feels",
        "sent": ["warm", ""], "brought": ["warm", ""], "merged": "warm cool",
    }  # fmt: skip
