"""`huvren check` and `huvren lens`, by files, by JSON and as a page."""

import io
import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from huvren.core.checks import CHECKS
from huvren.core.formats import FORMATS, Document
from huvren.core.lenses import LENSES
from huvren.core.palette.values import Palette
from tests.core.test_checks import CODES, palette_of
from tests.core.test_command_line_palettes import codes_of, run
from tests.pictures import opaque, painted, png

MUDDY = ("#8a8f6a", "#a39a78", "#7d8a92", "#b0a58c")


def written(path: Path, palette: Palette) -> Path:
    path.write_bytes(FORMATS["json"].written(Document(palette)))
    return path


@pytest.fixture
def muddy(tmp_path: Path) -> Path:
    return written(tmp_path / "muddy.json", palette_of(*MUDDY))


def test_a_check_that_fails_ends_with_one_and_its_sentence(muddy: Path, capsys: pytest.CaptureFixture[str]) -> None:
    status, out, _ = run(capsys, "check", muddy)
    assert status == 1
    for check in CHECKS:
        assert check.label in out
    assert "No pair carries text" in out
    status, out, _ = run(capsys, "check", muddy, "--only", "order,balance")
    assert status == 0
    assert "text" not in out
    status, out, _ = run(capsys, "check", muddy, "--only", "text", "--json")
    answer = json.loads(out)
    assert (status, answer["passed"]) == (1, False)
    (found,) = answer["files"][0]["checks"]
    assert (found["id"], found["verdict"]) == ("text", "fails")
    assert found["mends"][0].startswith("Make ")


def test_limits_come_from_a_file_from_the_palette_and_from_a_reference(
    muddy: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    limits = tmp_path / "limits.json"
    limits.write_text(json.dumps({"text": {"low": 1.2}}))
    assert run(capsys, "check", muddy, "--only", "text", "--limits", limits)[0] == 0
    own = Palette("P", palette_of(*MUDDY).swatches, limits=(("text", (("low", 1.2),)), ("tone", (("loud", 1.0),))))
    kept = written(tmp_path / "kept.json", own)
    status, out, _ = run(capsys, "check", kept, "--only", "text", "--json")
    assert status == 0
    assert "There is no check “tone”" in json.loads(out)["files"][0]["notes"][0]
    assert "There is no check “tone”" in run(capsys, "check", kept, "--only", "text")[1], "and in plain words too"
    assert run(capsys, "check", muddy, "--only", "text", "--limits", kept)[0] == 1, "the file's own unknown check is refused"
    reference = written(tmp_path / "reference.json", palette_of("#8a8f6a", "#000000"))
    status, out, _ = run(capsys, "check", muddy, "--only", "rules", "--against", reference)
    assert status == 1
    assert "1 of 2 colors of “P” are there" in out
    assert run(capsys, "check", reference, "--only", "rules", "--against", reference)[0] == 0
    for text, words in (
        ("{", "is no JSON"),
        ("[]", "holds no limits"),
        ('{"text": {"low": 99}}', "is 1 to 21"),
        ('{"tone": {}}', "no check"),
    ):
        limits.write_text(text)
        status, _, error = run(capsys, "check", muddy, "--limits", limits)
        assert status == 1
        assert words in error
    assert "There is no check “tone”" in run(capsys, "check", muddy, "--only", "tone")[2]


def test_a_picture_says_what_touches_and_what_is_used(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    palette = written(tmp_path / "p.json", palette_of("#b0483a", "#3f7f4a", "#f4ead6", "#000080"))
    rgb = np.zeros((6, 9, 3), np.uint8)
    rgb[:, :3], rgb[:, 3:6], rgb[:, 6:] = (176, 72, 58), (63, 127, 74), (244, 234, 214)
    picture = tmp_path / "plate.png"
    picture.write_bytes(png(opaque(rgb)))
    status, out, _ = run(capsys, "check", palette, "--picture", picture, "--only", "value,order,mixtures")
    assert status == 0
    assert "50 % of the borders in the picture" in out
    assert "1 paint nothing in the picture" in out
    assert "The picture comes from ΔE" in out


def test_the_report_is_one_page_for_all_files(muddy: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    second, page = written(tmp_path / "b.json", palette_of(*CODES)), tmp_path / "review.html"
    status, out, _ = run(capsys, "check", muddy, second, "--report", page)
    assert status == 1
    assert out.count("swatches.") == 2
    text = page.read_text(encoding="utf-8")
    assert text.count("<h1>") == 2
    assert text.count("<svg") == 2 * len(CHECKS)
    assert "http://" not in text.replace("http://www.w3.org/2000/svg", "")


def test_a_lens_writes_palettes_and_pictures_as_they_are_seen(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    palette, out = written(tmp_path / "p.json", palette_of(*CODES)), tmp_path / "seen.gpl"
    status, said, _ = run(capsys, "lens", palette, "--lens", "deutan:80", "--out", out)
    assert (status, "12 colors" in said) == (0, True)
    rgb = np.array([[int(code[at : at + 2], 16) for at in (1, 3, 5)] for code in CODES], np.uint8)
    wanted = LENSES["deutan"].through_bytes(rgb, 80)
    assert codes_of(out) == ["#{:02x}{:02x}{:02x}".format(*row) for row in wanted.tolist()]
    indexed = Image.fromarray(np.arange(64, dtype=np.uint8).reshape(8, 8) % 4, "P")
    indexed.putpalette([*rgb[:4].ravel().tolist()])
    held = io.BytesIO()
    indexed.save(held, "PNG", transparency=2)
    source, seen = tmp_path / "i.png", tmp_path / "o.png"
    source.write_bytes(held.getvalue())
    assert run(capsys, "lens", source, "--lens", "deutan:80", "--out", seen)[0] == 0
    after = Image.open(seen)
    assert after.mode == "P"
    assert (np.asarray(after) == np.asarray(indexed)).all(), "indices stay as they are"
    assert (after.getpalette() or [])[:12] == wanted[:4].ravel().tolist()
    assert after.info["transparency"] == 2
    source.write_bytes(png(painted()))
    assert run(capsys, "lens", source, "--lens", "lightness", "--out", seen)[0] == 0
    gray = np.asarray(Image.open(seen).convert("RGBA"))
    assert (gray[..., 0] == gray[..., 2]).all()
    for words, said_of in (
        (("--lens", "sepia", "--out", seen), "There is no lens"), (("--lens", "glare:50", "--out", seen), "1 to 10"),
        (("--lens", "565", "--out", tmp_path / "x.gpl"), "written as .png"),
    ):  # fmt: skip
        status, _, error = run(capsys, "lens", source, *words)
        assert status == 1
        assert said_of in error
    assert "No palette can be written" in run(capsys, "lens", palette, "--lens", "565", "--out", tmp_path / "x.zzz")[2]
