"""The keep report says what a file drops, and nothing else: measured against what reading it back gives."""

from dataclasses import replace

import pytest

from huvren.core.color.difference import delta_eok
from huvren.core.color.notation import parse_color
from huvren.core.formats import FORMATS, Document, Format
from huvren.core.formats.readings import read_palette
from huvren.core.formats.report import Loss, keep_report
from huvren.core.palette.naming import suggest_name, suggest_names
from huvren.core.palette.operations.duplicate import DuplicateSwatches
from huvren.core.palette.values import Palette, Swatch
from tests.core.formats.test_files import MODELS, PRESS, RETURNING


def report(format_id: str, palette: Palette) -> dict[str, Loss]:
    return {loss.code: loss for loss in keep_report(FORMATS[format_id], Document(palette))}


def test_lossless_formats_lose_nothing() -> None:
    for palette in (PRESS, MODELS):
        assert report("json", palette) == {}
        assert set(report("csv", palette)) == {"title"}


def test_names_that_nobody_gave_are_no_loss() -> None:
    colors = [parse_color(code) for code in ("#15dcfa", "#f85226", "#f85226")]
    sky, orange, other = suggest_names(colors)
    palette = Palette("Plate", tuple(Swatch(color, name) for color, name in zip(colors, (sky, orange, other + " 2"), strict=True)))
    palette = DuplicateSwatches(ids=[swatch.id for swatch in palette.swatches]).run(palette).palette
    assert [swatch.name for swatch in palette.swatches if swatch.name.startswith(sky)] == [sky, sky + " copy"]
    assert "names" not in report("hex", palette)
    named = replace(palette.swatches[0], name=sky + " copying"), *palette.swatches[1:]
    assert report("hex", replace(palette, swatches=named))["names"].text == "1 name dropped"


def test_every_loss_is_said_for_the_very_palette() -> None:
    assert report("hex", PRESS)["names"].text == "15 names dropped"
    assert report("hex", PRESS)["groups"].text == "4 group names dropped"
    assert report("gpl", PRESS)["locks"].text == "2 locks dropped"
    assert "names" not in report("gpl", PRESS)
    clear = Palette("C", tuple(Swatch(parse_color(c)) for c in ("#11223300", "#33445500", "#ff000080")))
    assert report("hex", clear)["alpha"].text == "3 swatches made opaque"
    assert report("act", clear)["alpha"].text == "2 swatches made opaque"
    assert "alpha" not in report("strip-png", clear)
    many = Palette("M", tuple(Swatch(parse_color("#123456")) for _ in range(300)))
    assert report("act", many)["count"].text == "44 swatches too many: 256 is the most"


def test_suggested_names_are_not_missed() -> None:
    color = parse_color("#1e5c8c")
    palette = Palette("N", (Swatch(color, suggest_name(color)), Swatch(color, f"{suggest_name(color)} 2")))
    assert "names" not in report("hex", palette)


@pytest.mark.parametrize("entry", [e for e in RETURNING if e.read], ids=lambda entry: entry.id)
def test_color_changes_are_those_of_the_file(entry: Format) -> None:
    assert entry.write
    back = read_palette(entry.written(Document(MODELS)))[1].palette
    changes = [
        float(delta_eok(one.color.to("oklab"), other.color.to("oklab")))
        for one, other in zip(MODELS.swatches, back.swatches, strict=True)
    ]
    losses = keep_report(entry, Document(MODELS))
    worst = max((loss.worst or 0 for loss in losses), default=0)
    assert worst == pytest.approx(max(changes), abs=0.05)


def test_what_a_source_never_had_cannot_be_lost() -> None:
    codes = FORMATS["hex"]
    palette = read_palette(b"112233\naabbcc\n")[1].palette
    assert keep_report(FORMATS["ase"], Document(palette), codes.keeps) == []
    assert [loss.code for loss in keep_report(FORMATS["ase"], Document(palette))] == ["title", "ids"]
