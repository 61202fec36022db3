"""The `huvren` command, run in this process with real files."""

import json
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from huvren.cli import main
from huvren.core.formats import FORMATS
from huvren.core.reduction.afar import mean_from_afar
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
    assert set(figures["seconds"]) == {"read", "count", "choose", "map", "write"}
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
        (["reduce", "{picture}", "--out", "o.png", "--palette", "{text}"], "There is no color in that text"),
        (["inspect", "{text}"], "There is no color in that text"),
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


def run(capsys: pytest.CaptureFixture[str], *words: str | Path) -> tuple[int, str, str]:
    status = main([str(word) for word in words])
    said = capsys.readouterr()
    return status, said.out, said.err


def test_ramp_prints_codes_json_and_css(capsys: pytest.CaptureFixture[str]) -> None:
    status, out, _ = run(capsys, "ramp", "#000", "#fff", "--steps", "3", "--space", "srgb")
    assert (status, out.split()) == (0, ["#000000", "#808080", "#ffffff"])
    figures = json.loads(run(capsys, "ramp", "#0b58c4", "#ffa22e", "--steps", "5", "--space", "srgb", "--json")[1])
    assert [color["hex"] for color in figures["colors"]][::4] == ["#0b58c4", "#ffa22e"]
    assert figures["dip"] > 0.03
    css = run(capsys, "ramp", "#0b58c4", "#ffa22e", "--space", "oklch", "--hue", "longer", "--css")[1]
    assert css.splitlines()[-1] == "background: linear-gradient(90deg in oklch longer hue, #0b58c4 0%, #ffa22e 100%);"
    assert run(capsys, "ramp", "#fff")[0] == 1
    assert "A ramp needs two colors or more; one was given" in run(capsys, "ramp", "#fff")[2]
    assert "“#12” is no color" in run(capsys, "ramp", "#fff", "#12")[2]


def test_merge_and_sort_write_what_they_say(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    source, merged, ordered = tmp_path / "a.hex", tmp_path / "b.gpl", tmp_path / "c.hex"
    source.write_text("ffffff\n000000\nfefefe\n")
    said = json.loads(run(capsys, "merge", source, "--tolerance", "5", "--out", merged, "--json")[1])
    assert (said["before"], said["after"], [c["hex"] for c in said["colors"]]) == (3, 2, ["#ffffff", "#000000"])
    assert run(capsys, "sort", merged, "--by", "lightness", "--out", ordered)[0] == 0
    assert ordered.read_text() == "000000\nffffff\n"
    assert "There is no sort key “taste”. Choose one of: hue, lightness, chroma, family, coverage, name." in run(
        capsys, "sort", source, "--by", "taste", "--out", ordered)[2]  # fmt: skip
    assert "No palette can be written as “.doc”" in run(capsys, "merge", source, "--tolerance", "1", "--out", "x.doc")[2]


def test_convert_reports_what_is_kept_and_strict_writes_nothing(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    sheet = tmp_path / "press.css"
    sheet.write_text(":root { /* group: Inks */ --bole: oklch(0.42 0.06 50); /* Bole */ --soot: #1b1a1d; }")
    status, out, _ = run(capsys, "convert", sheet, "--to", "ase", "--json")
    entry = json.loads(out)["files"][0]
    assert (status, entry["read_as"], entry["written_as"], entry["colors"]) == (0, "css", "ase", 2)
    assert [loss["code"] for loss in entry["losses"]] == ["space"]
    status, out, error = run(capsys, "convert", tmp_path / "press.ase", "--to", "hex", "--strict")
    assert status == 1
    assert "2 names dropped; 1 group name dropped" in error
    assert "Nothing was written." in error
    assert not (tmp_path / "press.hex").exists()
    assert run(capsys, "convert", tmp_path / "press.ase", "--to", "json", "--strict")[0] == 0
    assert run(capsys, "convert", sheet, "--to", "css", "--set", "notation=oklch", "--out", tmp_path / "o.css")[0] == 0
    assert "--bole: oklch(" in (tmp_path / "o.css").read_text()


def test_convert_takes_many_and_stops_before_writing_where_one_is_bad(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "out").mkdir()
    good, bad, plate = tmp_path / "a.hex", tmp_path / "b.ase", tmp_path / "p.png"
    good.write_text("112233\n")
    bad.write_bytes(b"ASEF\0\1\0\0\0\0\0\1\0\1")
    plate.write_bytes(png(painted()))
    status, _, error = run(capsys, "convert", good, bad, "--to", "gpl", "--out-dir", tmp_path / "out")
    assert status == 1
    assert "“b.ase” cannot be read as .ase swatch exchange. Byte 12:" in error
    assert list((tmp_path / "out").iterdir()) == []
    assert "Reduce it with --colors N." in run(capsys, "convert", plate, "--to", "gpl")[2]
    assert run(capsys, "convert", good, plate, "--to", "gpl", "--colors", "7", "--out-dir", tmp_path / "out")[0] == 0
    assert (tmp_path / "out" / "p.gpl").read_text().count("\n") == 11
    for words, said in (
        (["convert", good, "--to", "hex"], "would be written over itself"),
        (["convert", good, good, "--to", "gpl"], "would both be written to"),
        (["convert", good, plate, "--to", "gpl", "--out", tmp_path / "x.gpl"], "--out takes one file, but 2 were given"),
        (["convert", good, "--to", "mud"], "There is no format “mud” to write. Choose one of: gpl, json, ase"),
        (["convert", good, "--to", "css", "--set", "mood=blue"], "has no option “mood”"),
        (["convert", good, "--to", "gpl", "--out-dir", tmp_path / "nowhere"], "is no folder. Make it first."),
    ):
        status, _, error = run(capsys, *words)
        assert status == 1
        assert said in error


def test_reduce_takes_every_option_and_a_recipe(picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out, recipe, listed = tmp_path / "o.png", tmp_path / "r.json", tmp_path / "display.hex"
    recipe.write_text(json.dumps({"colors": 9, "accent": 40, "dither": "stucki"}))
    status, text, _ = run(capsys, "reduce", picture, "--recipe", recipe, "--dither", "atkinson", "--one-way", "--flats", "1.5",
                          "--pair-limit", "30", "--tile", "8x8:3", "--space", "ciede2000", "--solid", "white", "--order", "use",
                          "--working", "oklab", "--flatten", "#fff", "--out", out)  # fmt: skip
    assert status == 0
    assert text.splitlines()[0] == (
        "Reduce to 9 colors chosen by perceptual split, accents protected 40 %, with solid white, matched in CIELAB, CIEDE2000, "
        "dithered Atkinson in OKLab one way, flats clean within 1.5, pairs within 30, colors tuned to it, "
        "at most 3 in each 8×8 tile, "
        "laid over #ffffff, ordered by use."
    )
    indices = np.asarray(Image.open(out))
    assert all(len(np.unique(indices[y : y + 8, x : x + 8])) <= 3 for y in range(0, 96, 8) for x in range(0, 128, 8))
    listed.write_text("000000\nffffff\nc06030\n203040\n8090a0\n")
    figures = json.loads(run(capsys, "reduce", picture, "--from-list", listed, "--pick", "3", "--out", out, "--json")[1])
    assert {color["hex"] for color in figures["colors"]} < {f"#{code}" for code in listed.read_text().split()}
    assert len(figures["colors"]) == 3
    figures = json.loads(run(capsys, "reduce", picture, "--depth", "3-3-2", "--colors", "12", "--out", out, "--json")[1])
    assert figures["recipe"]["chooser"] == "channel-depth"


def test_reduce_takes_several_pictures(picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    second, folder = tmp_path / "second.png", tmp_path / "out"
    second.write_bytes(png(painted(seed=9)))
    folder.mkdir()
    made = json.loads(
        run(capsys, "reduce", picture, second, "--colors", "5", "--out-dir", folder, "--save-palette", "x.gpl", "--json")[1]
    )
    assert [entry["used"] for entry in made["files"]] == [5, 5]
    assert sorted(path.name for path in folder.iterdir()) == ["plate.gpl", "plate.png", "second.gpl", "second.png"]


def test_curve_prints_the_error_of_each_count(picture: Path, capsys: pytest.CaptureFixture[str]) -> None:
    found = json.loads(run(capsys, "curve", picture, "--json")[1])
    assert found["distinct"] > 256
    assert [row["colors"] for row in found["curve"]][:3] == [2, 3, 4]
    assert found["knee"] in [row["colors"] for row in found["curve"]]
    assert "the knee is at" in run(capsys, "curve", picture)[1]


def test_contradictions_are_told(picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out, empty = tmp_path / "o.png", tmp_path / "bad.json"
    empty.write_text("[1]")
    short = tmp_path / "short.hex"
    short.write_text("112233\n")
    for words, said in (
        (["--tile", "8by8"], "“8by8” is no tile limit. Write width x height : colors, such as 8x8:4."),
        (["--tile", "0x8:2"], "The recipe cannot be used: tile › width: Input should be greater than or equal to 1."),
        (["--recipe", empty], "holds no recipe"),
        (["--depth", "9-9-9"], "is no channel depth"),
        (["--from-list", short, "--pick", "4"], "The list has 1 colors, but 4 are to be picked from it"),
        (["--colors", "2", "--keep", "#111", "#222", "#333"], "3 colors are locked, but 2 colors leave room for 2"),
        (["--chooser", "own"], "colors of its own, and an indexed picture holds 256"),
        (["--flatten", "mud"], "“mud” is no color"),
    ):
        status, _, error = run(capsys, "reduce", picture, *words, "--out", out)
        assert (status, said in error) == (1, True), error
        assert not out.exists()
    assert "Say where the result goes" in run(capsys, "reduce", picture)[2]


def test_a_mask_weighs_parts_and_must_fit(picture: Path, capsys: pytest.CaptureFixture[str]) -> None:
    halves = np.zeros((96, 128), np.uint8)
    halves[:, 64:] = 128
    mask, out = picture.with_name("mask.png"), picture.with_name("o.png")
    Image.fromarray(halves, "L").save(mask)
    assert main(["reduce", str(picture), "--colors", "6", "--mask", str(mask), "--out", str(out), "--json"]) == 0
    masked = json.loads(capsys.readouterr().out)
    right = picture.with_name("right.png")
    Image.open(picture).crop((64, 0, 128, 96)).save(right)
    assert main(["reduce", str(right), "--colors", "6", "--out", str(out), "--json"]) == 0
    alone = json.loads(capsys.readouterr().out)
    assert [c["hex"] for c in masked["colors"]] == [c["hex"] for c in alone["colors"]], "as if the ignored half were not there"
    Image.fromarray(halves[:50], "L").save(mask)
    assert main(["reduce", str(picture), "--mask", str(mask), "--out", str(out)]) == 1
    assert "The mask has 128 × 50 pixels, but the picture has 128 × 96." in capsys.readouterr().err


def test_progress_is_shown_on_a_terminal_only(
    picture: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    assert main(["reduce", str(picture), "--out", str(picture.with_name("o.png"))]) == 0
    assert capsys.readouterr().err == ""
    monkeypatch.setattr("sys.stderr.isatty", lambda: True)
    assert main(["reduce", str(picture), "--out", str(picture.with_name("o.png"))]) == 0
    shown = capsys.readouterr().err
    assert "plate.png: choosing colors  26%" in shown
    assert shown.endswith("100%\r\033[K")


def test_a_reader_that_has_seen_enough_is_no_error(tmp_path: Path) -> None:
    """As in `huvren curve … | head -1`: the pipe is closed before all lines are written."""
    Image.fromarray(painted(64, 64)).save(tmp_path / "plate.png")
    reading, writing = os.pipe()
    os.close(reading)
    ended = subprocess.run(
        [sys.executable, "-m", "huvren.cli", "curve", str(tmp_path / "plate.png")], stdout=writing, stderr=subprocess.PIPE
    )
    os.close(writing)
    assert (ended.returncode, ended.stderr) == (0, b"")


def test_files_are_meant_where_the_command_is_called(tmp_path: Path) -> None:
    Image.fromarray(painted(24, 32)).save(tmp_path / "plate.png")
    script = Path(__file__).resolve().parents[2] / "run"
    ended = subprocess.run(
        [script, "huvren", "reduce", "plate.png", "--colors", "4", "--out", "short.png"], cwd=tmp_path, capture_output=True
    )
    assert ended.returncode == 0, ended.stderr
    with Image.open(tmp_path / "short.png") as image:
        assert image.size == (32, 24)


def test_a_palette_paints_a_picture_as_it_is(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    Image.fromarray(painted(24, 32)).save(tmp_path / "plate.png")
    (tmp_path / "inks.hex").write_text("202020\nf0f0e0\nb06030\n")
    status, said, _ = run(
        capsys, "reduce", tmp_path / "plate.png", "--palette", tmp_path / "inks.hex", "--out", tmp_path / "o.png", "--json"
    )
    assert status == 0
    assert [color["hex"] for color in json.loads(said)["colors"]] == ["#202020", "#f0f0e0", "#b06030"]
    status, _, problem = run(capsys, "reduce", tmp_path / "plate.png", "--chooser", "as-it-is", "--out", tmp_path / "o.png")
    assert (status, problem) == (1, "huvren: There is no palette with a color to take as it is. Choose colors another way.\n")


def test_reduce_tunes_to_the_dither_unless_told_not_to(picture: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = picture.with_name("few.png")
    said = {}
    for option in ("--tune", "--no-tune", "--search-longer"):
        options = ["--colors", "6", "--dither", "floyd-steinberg", option, "--json", "--out", str(out)]
        assert main(["reduce", str(picture), *options]) == 0
        said[option] = json.loads(capsys.readouterr().out)
        image = Image.open(out)
        rgb = np.array(image.getpalette(), dtype=np.uint8).reshape(-1, 3)
        assert said[option]["afar"] == pytest.approx(mean_from_afar(painted(), np.asarray(image), rgb, 128, 1.5), rel=1e-3)
    assert said["--search-longer"]["afar"] <= said["--tune"]["afar"] < said["--no-tune"]["afar"]
    assert said["--tune"]["recipe"]["tune"] is True
    assert "tuned" not in said["--no-tune"]["sentence"]
    assert main(["reduce", str(picture), "--colors", "6", "--distance", "80", "--out", str(out)]) == 0
    text = capsys.readouterr().out
    assert "seen from two steps back." in text
    assert "from afar" in text
