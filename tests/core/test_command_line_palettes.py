"""The commands about palettes: every branch of mix, match, merge, sort, convert, inspect and ramp, by files and by JSON."""

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from huvren.cli import main
from huvren.cli.commands import COMMANDS
from huvren.core.color.mixing import MODELS, ladder, mix
from huvren.core.color.notation import parse_color
from huvren.core.formats import FORMATS, Document
from huvren.core.formats.readings import read_palette
from huvren.core.palette.values import Group, Palette, Swatch
from tests.pictures import painted, png

CODES = ["#101820", "#12181f", "#c0392b", "#f1c40f", "#27ae60", "#f2c511"]


def inks() -> list[Swatch]:
    return [Swatch(parse_color(code), f"Ink {number}", str(number)) for number, code in enumerate(CODES)]


@pytest.fixture
def card(tmp_path: Path) -> Path:
    path = tmp_path / "card.gpl"
    path.write_bytes(FORMATS["gpl"].written(Document(Palette("Card", tuple(inks())))))
    return path


@pytest.fixture
def grouped(tmp_path: Path) -> Path:
    """The same card in a form that keeps groups; its last two inks are one."""
    swatches = [replace(swatch, group="g" if place > 3 else None) for place, swatch in enumerate(inks())]
    path = tmp_path / "grouped.json"
    path.write_bytes(FORMATS["json"].written(Document(Palette("Card", tuple(swatches), (Group("Inks", "g"),)))))
    return path


def run(capsys: pytest.CaptureFixture[str], *words: str | Path) -> tuple[int, str, str]:
    status = main([str(word) for word in words])
    said = capsys.readouterr()
    return status, said.out, said.err


def codes_of(path: Path) -> list[str]:
    return [swatch.color.hex for swatch in read_palette(path.read_bytes(), path.name)[1].palette.swatches]


@pytest.mark.parametrize("name", COMMANDS)
def test_every_command_explains_itself(name: str, capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as caught:
        main([name, "--help"])
    assert caught.value.code == 0
    assert f"usage: huvren {name}" in capsys.readouterr().out


def test_help_lists_all_commands_with_what_they_do(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as caught:
        main(["--help"])
    said = capsys.readouterr().out
    assert caught.value.code == 0
    for name, text in COMMANDS.items():
        assert name in said
        assert text in said
    with pytest.raises(SystemExit) as caught:
        main(["paint"])
    assert caught.value.code == 2
    with pytest.raises(SystemExit) as caught:
        main(["--version"])
    assert caught.value.code == 0


@pytest.mark.parametrize("model", MODELS.ids())
def test_mix_gives_what_the_core_mixes(capsys: pytest.CaptureFixture[str], model: str) -> None:
    first, second = parse_color("#fcd200"), parse_color("#0a3fb0")
    status, out, _ = run(capsys, "mix", "#fcd200", "#0a3fb0", "--parts", "3:1", "--model", model)
    assert (status, out.split()[0]) == (0, mix([first, second], [3, 1], model).hex)
    said = json.loads(run(capsys, "mix", "#fcd200", "#0a3fb0", "--model", model, "--steps", "4", "--json")[1])
    assert said["hex"] == mix([first, second], [1, 1], model).hex
    assert said["ladder"] == [color.hex for color in ladder(first, second, 4, model)]
    lines = run(capsys, "mix", "#fcd200", "#0a3fb0", "--model", model, "--steps", "4")[1].splitlines()
    assert [line.split()[0] for line in lines] == said["ladder"]


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["mix", "#fcd200"], "Mixing needs two colors or more"), (["mix", "#fff", "#000", "--parts", "a:b"], "“a:b” are no parts"),
        (["mix", "#fff", "#000", "--parts", "1"], "2 colors were given, but parts for 1"),
        (["mix", "#fff", "#000", "--parts", "0:0"], "All parts are 0"),
        (["mix", "#fff", "#000", "--parts=-1:2"], "Parts are 0 or more"),
        (["mix", "#fff", "#000", "#123", "--steps", "3"], "A ladder goes between two colors; 3 were given"),
        (["ramp", *["#fff"] * 65], "A ramp takes at most 64 colors; 65 were given"), (["ramp", "#fff", "nope"], "“nope” is no color"),
    ],
)  # fmt: skip
def test_bad_colors_and_parts_end_in_one_sentence(capsys: pytest.CaptureFixture[str], words: list[str], said: str) -> None:
    status, out, err = run(capsys, *words)
    assert (status, out) == (1, "")
    assert said in err
    assert err.count("\n") == 1


def test_match_finds_the_nearest_of_the_same_alpha(card: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    other = tmp_path / "other.csv"
    others = [("#c13a2c", "Red"), ("#ffffff80", "Veil"), ("#000000", "Black")]
    swatches = tuple(Swatch(parse_color(code), name, name) for code, name in others)
    other.write_bytes(FORMATS["csv"].written(Document(Palette("Other", swatches))))
    rows = json.loads(run(capsys, "match", card, other, "--json")[1])["matches"]
    assert [row["hex"] for row in rows] == CODES
    assert rows[2] | {"delta": None} == {"hex": "#c0392b", "name": "Ink 2", "nearest": "#c13a2c", "index": 0, "delta": None}
    assert 0 < rows[2]["delta"] < 1
    assert rows[0]["nearest"] == "#000000"
    plain = run(capsys, "match", card, other)[1].splitlines()
    assert len(plain) == len(CODES)
    assert "#c13a2c  Red" in plain[2]
    back = run(capsys, "match", other, card)[1].splitlines()
    assert "nothing of the same alpha" in back[1]


def test_merge_to_a_number_and_within_a_tolerance(grouped: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "short.hex"
    status, said, _ = run(capsys, "merge", grouped, "--tolerance", "2", "--out", out)
    assert status == 0
    assert "6 swatches in, 4 out" in said
    assert "names dropped" in said
    assert codes_of(out) == ["#101820", "#c0392b", "#f1c40f", "#27ae60"]
    run(capsys, "merge", grouped, "--tolerance", "2", "--keep", "lightest", "--out", out)
    assert codes_of(out)[-1] == "#f2c511"
    figures = json.loads(run(capsys, "merge", grouped, "--to", "3", "--out", out, "--json")[1])
    assert (figures["before"], figures["after"]) == (6, 3)
    assert [color["hex"] for color in figures["colors"]] == codes_of(out)
    assert {loss["code"] for loss in figures["losses"]} >= {"names", "ids"}


def test_sort_by_keys_down_and_along_a_path(grouped: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "sorted.gpl"
    run(capsys, "sort", grouped, "--by", "lightness", "--out", out)
    assert set(codes_of(out)[4:]) == {"#27ae60", "#f2c511"}
    lightness = [parse_color(code).oklab[0] for code in codes_of(out)]
    assert lightness[:4] == sorted(lightness[:4])
    assert lightness[4:] == sorted(lightness[4:]), "each group by itself"
    run(capsys, "sort", grouped, "--by", "lightness", "--descending", "--out", out)
    lightness = [parse_color(code).oklab[0] for code in codes_of(out)]
    assert lightness[:4] == sorted(lightness[:4], reverse=True)
    status, said, _ = run(capsys, "sort", grouped, "--smooth", "--out", out)
    assert status == 0
    assert "along the smoothest path" in said
    status, _, err = run(capsys, "sort", grouped, "--by", "lightness,shine", "--out", out)
    assert status == 1
    assert "There is no sort key “shine”" in err
    status, _, err = run(capsys, "sort", grouped, "--by", "hue", "--out", tmp_path / "x.nothing")
    assert status == 1
    assert "No palette can be written as “.nothing”" in err


def test_convert_by_id_ending_or_option(card: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    for name in ("css", ".css", "CSS"):
        assert run(capsys, "convert", card, "--to", name, "--out", tmp_path / "a.css")[0] == 0
    assert "#101820" in (tmp_path / "a.css").read_text()
    run(capsys, "convert", card, "--to", "css", "--set", "notation=oklch", "--out", tmp_path / "a.css")
    assert "oklch(" in (tmp_path / "a.css").read_text()
    for words, said in (
        (["--to", "nothing"], "There is no format “nothing” to write"),
        (["--to", "css", "--set", "shine=1"], "has no option “shine”"),
        (["--to", "css", "--set", "notation=x"], "“x” is no choice"), (["--to", "gpl"], "would be written over itself"),
        (["--to", "ase", "--out-dir", str(tmp_path / "none")], "is no folder"),
    ):  # fmt: skip
        status, _, err = run(capsys, "convert", card, *words)
        assert status == 1, words
        assert said in err
    twin = tmp_path / "twin" / "card.gpl"
    twin.parent.mkdir()
    twin.write_bytes(card.read_bytes())
    status, _, err = run(capsys, "convert", card, twin, "--to", "ase", "--out-dir", tmp_path)
    assert "would both be written" in err
    status, _, err = run(capsys, "convert", card, twin, "--to", "ase", "--out", tmp_path / "b.ase")
    assert "--out takes one file, but 2 were given" in err


def test_convert_reduces_a_picture_only_where_it_is_asked_to(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    picture, few = tmp_path / "glow.png", tmp_path / "few.png"
    picture.write_bytes(png(painted(40, 60)))
    few.write_bytes(png(np.array([[[1, 2, 3, 255], [200, 100, 50, 255]]], np.uint8)))
    status, _, err = run(capsys, "convert", picture, "--to", "gpl", "--out", tmp_path / "a.gpl")
    assert status == 1
    assert "has too many colors of its own to be a palette. Reduce it with --colors N" in err
    figures = json.loads(run(capsys, "convert", picture, "--to", "gpl", "--colors", "5", "--out", tmp_path / "a.gpl", "--json")[1])
    (row,) = figures["files"]
    assert (row["colors"], row["read_as"], row["written_as"]) == (5, "reduction", "gpl")
    assert len(codes_of(tmp_path / "a.gpl")) == 5
    assert run(capsys, "convert", few, "--to", "gpl", "--out", tmp_path / "b.gpl")[0] == 0
    assert codes_of(tmp_path / "b.gpl") == ["#010203", "#c86432"]
    broken = tmp_path / "broken.png"
    broken.write_bytes(png(painted(40, 60))[:200])
    status, _, err = run(capsys, "convert", broken, "--to", "gpl", "--out", tmp_path / "c.gpl")
    assert status == 1
    assert "Reduce it with" not in err
    assert not (tmp_path / "c.gpl").exists()


def test_inspect_says_what_a_palette_or_a_picture_holds(card: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert run(capsys, "inspect", card)[1] == "card.gpl: .gpl text palette, 6 colors\n"
    found = json.loads(run(capsys, "inspect", card, "--json")[1])
    assert (found["kind"], found["name"], [row["hex"] for row in found["palette"]]) == ("palette", "Card", CODES)
    picture = tmp_path / "a.png"
    picture.write_bytes(png(painted(20, 30)))
    found = json.loads(run(capsys, "inspect", picture, "--json")[1])
    assert (found["kind"], found["width"], found["height"]) == ("picture", 30, 20)
    assert "PNG picture, 30 × 20" in run(capsys, "inspect", picture)[1]
    for name, said in (("missing.gpl", "cannot be read"), (".", "is a folder")):
        status, _, err = run(capsys, "inspect", tmp_path / name)
        assert status == 1
        assert said in err


def test_ramp_says_its_sentence_and_where_it_leaves_the_gamut(capsys: pytest.CaptureFixture[str]) -> None:
    words = ["ramp", "oklch(0.7 0.3 150)", "oklch(0.7 0.3 330)", "--steps", "3", "--space", "oklch", "--hue", "decreasing", "--json"]
    said = json.loads(run(capsys, *words)[1])
    assert said["sentence"] == "Ramp from oklch(0.7 0.3 150) to oklch(0.7 0.3 330) in 3 steps, in OKLCh, falling hue."
    assert said["outside"] > 0.5
    assert [color["in_srgb"] for color in said["colors"]] == [False, False, True]
    assert said["colors"][1]["coords"][2] == pytest.approx(60)
