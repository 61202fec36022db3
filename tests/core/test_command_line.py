"""The `huvren` command, run in this process with real files."""

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from huvren.cli import main
from huvren.core.formats import FORMATS
from tests.pictures import painted, png


@pytest.fixture
def picture(tmp_path: Path) -> Path:
    path = tmp_path / "plate.png"
    path.write_bytes(png(painted()))
    return path


def test_reduce_writes_picture_palette_and_figures(picture: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out, gpl = picture.with_name("out.png"), picture.with_name("out.gpl")
    status = main(["reduce", str(picture), "--colors", "9", "--dither", "ordered", "--strength", "60", "--keep", "#ff00ff", "tomato",
                   "--out", str(out), "--save-palette", str(gpl), "--json"])  # fmt: skip
    assert status == 0
    figures = json.loads(capsys.readouterr().out)
    image = Image.open(out)
    assert image.mode == "P"
    assert len(figures["colors"]) == 9
    assert {"#ff00ff", "#ff6347"} <= {color["hex"] for color in figures["colors"]}
    assert sum(color["coverage"] for color in figures["colors"]) == pytest.approx(1, abs=1e-4)
    raw = image.getpalette() or []
    assert [f"#{r:02x}{g:02x}{b:02x}" for r, g, b in zip(raw[0::3], raw[1::3], raw[2::3], strict=True)][:9] == [
        color["hex"] for color in figures["colors"]
    ]
    assert figures["bytes"] == out.stat().st_size
    assert 0 < figures["mean"] <= figures["p95"] <= figures["max"]
    assert set(figures["seconds"]) == {"read", "count", "choose", "map", "measure", "write"}
    assert main(["inspect", str(gpl), "--json"]) == 0
    inspected = json.loads(capsys.readouterr().out)
    assert [c["hex"] for c in inspected["palette"]] == [color["hex"] for color in figures["colors"]]


def test_reduce_with_a_given_palette(picture: Path, capsys: pytest.CaptureFixture[str]) -> None:
    codes, out = picture.with_name("p.hex"), picture.with_name("o.png")
    codes.write_text("000000\nffffff\nc06030\n")  # not in order of lightness
    assert main(["reduce", str(picture), "--palette", str(codes), "--out", str(out)]) == 0
    shown = {tuple(c) for c in np.asarray(Image.open(out).convert("RGB")).reshape(-1, 3).tolist()}
    assert shown <= {(0, 0, 0), (255, 255, 255), (0xC0, 0x60, 0x30)}
    raw = Image.open(out).getpalette() or []
    assert raw[:9] == [0, 0, 0, 255, 255, 255, 0xC0, 0x60, 0x30], "the order of the given palette is kept"
    assert "Painted with the 3 colors of p.hex." in capsys.readouterr().out


def test_plain_output_is_the_recipe_sentence(picture: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["reduce", str(picture), "--colors", "4", "--out", str(picture.with_name("o.png"))]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert lines[0] == "Reduce to 4 colors chosen by perceptual split, dithered not at all."
    assert "colors in the picture · 4 used · mean ΔE" in lines[1]


def test_inspect_a_picture(picture: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["inspect", str(picture), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert (found["kind"], found["format"], found["width"], found["height"]) == ("picture", "PNG", 128, 96)
    assert found["colors"] == len(np.unique(painted()[..., :3].reshape(-1, 3), axis=0))


def test_formats_lists_the_registry(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["formats", "--json"]) == 0
    assert [row["id"] for row in json.loads(capsys.readouterr().out)["formats"]] == list(FORMATS.ids())


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["reduce", "nowhere.png", "--out", "o.png"], "“nowhere.png” cannot be read: No such file or directory."),
        (["reduce", "{text}", "--out", "o.png"], "is not a picture that can be read"),
        (["reduce", "{picture}", "--out", "o.jpg"], "“o.jpg” does not end in .png"),
        (["reduce", "{picture}", "--out", "o.png", "--keep", "#12"], "“#12” is no color"),
        (["reduce", "{picture}", "--out", "o.png", "--colors", "2", "--keep", "red", "lime", "blue"], "3 colors are locked"),
        (["reduce", "{picture}", "--out", "/nowhere/o.png"], "cannot be written"),
        (["reduce", "{picture}", "--out", "o.png", "--save-palette", "o.xyz"], "No palette can be written as “.xyz”"),
        (["reduce", "{picture}", "--out", "o.png", "--palette", "{text}"], "is not a palette that can be read"),
        (["inspect", "{text}"], "is not a palette that can be read"),
        (["inspect", "{folder}"], "is a folder"),
    ],
)
def test_bad_input_ends_with_one_sentence(
    words: list[str], said: str, picture: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(picture.parent)
    text = picture.with_name("notes.txt")
    text.write_text("only words in here, nothing else\n")
    places = {"picture": picture, "text": text, "folder": picture.parent}
    before = sorted(picture.parent.iterdir())
    assert main([word.format(**places) for word in words]) == 1
    captured = capsys.readouterr()
    assert said in captured.err
    assert captured.err.count("\n") == 1
    assert sorted(picture.parent.iterdir()) == before


@pytest.mark.parametrize(
    "words",
    [[], ["reduce"], ["reduce", "a.png", "--out", "b.png", "--colors", "257"], ["reduce", "a", "--out", "b", "--dither", "x"]],
)
def test_wrong_use_exits_with_two(words: list[str]) -> None:
    with pytest.raises(SystemExit) as caught:
        main(words)
    assert caught.value.code == 2
