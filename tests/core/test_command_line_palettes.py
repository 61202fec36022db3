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


def test_a_ramp_is_made_written_checked_and_fitted(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    bar = tmp_path / "bar.png"
    assert run(capsys, "ramp", "#262b5c", "#2bb5a0", "#ffd478", "--at", "0,30,100", "--out", str(bar))[0] == 0
    figures = json.loads(run(capsys, "ramp-fit", str(bar), "--tolerance", "1", "--json")[1])
    assert [stop["hex"] for stop in figures["stops"]][::2] == ["#262b5c", "#ffd478"]
    assert figures["stops"][1]["at"] == pytest.approx(30, abs=1.5)
    assert figures["fewest"]
    assert "stops, largest difference ΔE" in run(capsys, "ramp-fit", str(bar), "--line", "0,32,1023,32")[1]
    assert "leaves the picture" in run(capsys, "ramp-fit", str(bar), "--line", "0,0,5000,0")[2]
    assert "--line takes four numbers" in run(capsys, "ramp-fit", str(bar), "--line", "a,b")[2]
    for ending in ("ggr", "cpt", "css", "svg", "csv", "py", "json", "txt"):
        path = tmp_path / f"sea.{ending}"
        status, _, wrong = run(capsys, "ramp", "#262b5c", "#ffd478", "--even", "--curve", "monotone", "--out", str(path))
        assert (status, wrong) == (0, ""), ending
        if ending in ("ggr", "cpt", "css", "svg", "json"):
            status, out, _ = run(capsys, "ramp-check", str(path), "--purpose", "sequential")
            assert status == 0, (ending, out)
            assert "promised" in out
    assert "No ramp can be written as “.xyz”" in run(capsys, "ramp", "#000", "#fff", "--out", str(tmp_path / "a.xyz"))[2]


def test_ramp_check_ends_with_1_where_a_promise_is_broken(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    status, out, _ = run(capsys, "ramp-check", "#000", "#f00", "#111", "--purpose", "sequential", "--json")
    (found,) = json.loads(out)["ramps"]
    assert (status, found["keeps"]) == (1, False)
    assert {row["id"]: row["verdict"] for row in found["answers"]}["monotone"] == "fails"
    assert run(capsys, "ramp-check", "#000", "#f00", "#111")[0] == 0, "a ramp for nothing in particular promises nothing"
    assert run(capsys, "ramp-check", "#262b5c", "#ffd478", "--purpose", "sequential")[0] == 0
    codes = tmp_path / "codes.hex"
    codes.write_text("010203\nfa1e14\n")
    assert "holds no ramp" in run(capsys, "ramp-check", str(codes))[2]


def test_ramps_for_a_purpose_come_from_the_command_line(capsys: pytest.CaptureFixture[str]) -> None:
    made = json.loads(run(capsys, "ramp", "#262b5c", "#2bb5a0", "#ffd478", "--make", "sequential", "--steps", "9", "--json")[1])
    assert (made["purpose"], len(made["colors"])) == ("sequential", 9)
    assert made["evenness"] <= 1.05
    both = json.loads(run(capsys, "ramp", "#8a5a3c", "#35594a", "--make", "shading", "--set", "turn=0", "--json")[1])["ramps"]
    assert len(both) == 2
    assert run(capsys, "ramp", "#2a5cc4", "--make", "cyclic", "--steps", "6")[1].count("#") == 6
    for words, said in (
        (["--make", "diverging"], "made from 2 colors"), (["--make", "sequential", "--set", "x=1"], "has no number “x”"),
        (["--make", "sequential", "--set", "turn=far"], "NAME=NUMBER"), (["--at", "0,x"], "numbers with commas"),
        (["--at", "0,50,100"], "3 places for 1 colors"), (["--at", "200"], "0 to 100 percent"),
        (["--ease", "bounce"], "no easing “bounce”"),
        (["--ease", "bezier:3,0,0,1"], "x1 = 3"), (["--steps", "2000"], "2,000 were asked for"),
        (["--steps", "1"], "1 were asked for"),
    ):  # fmt: skip
        status, _, wrong = run(capsys, "ramp", "#2a5cc4", *words)
        assert (status, said in wrong) == (1, True), (words, wrong)
    eased = json.loads(run(capsys, "ramp", "#000", "#fff", "--space", "srgb", "--ease", "steps:3", "--steps", "6", "--json")[1])
    assert [row["hex"] for row in eased["colors"]] == ["#000000", "#000000", "#808080", "#808080", "#ffffff", "#ffffff"]
    assert "<linearGradient" in run(capsys, "ramp", "#000", "#fff", "--svg")[1]
    assert "a file holds one" in run(capsys, "ramp", "#8a5a3c", "#35594a", "--make", "shading", "--css")[2]
