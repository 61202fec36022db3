"""Colors with where they are used: drawings and document themes."""

import io
import zipfile

import pytest
from coloraide import Color as Reference

from huvren.core.errors import BadFile
from huvren.core.formats import FORMATS, Found
from huvren.core.formats.readings import read_palettes

DRAWING = b"""<?xml version="1.0"?>
<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9">
  <style>/* inks */ .wing, .tail { fill: #8a6a52; stroke: none }
    #rim { stroke: rgb(30 92 140) !important } a > b { fill: red }</style>
  <defs><linearGradient id="glow"><stop stop-color="#ffd478"/>
    <stop offset="1" style="stop-color:oklch(0.3 0.05 280)"/></linearGradient></defs>
  <path class="wing" fill="#000000"/><path class="tail"/><path class="wing odd" style="fill: #e85421"/>
  <circle id="rim" fill="url(#glow)" stroke="#123"/><text fill="currentColor" stroke="none">moth</text>
  <g fill="#8a6a52"/><rect fill="nonsense"/>
</svg>"""


def named(found: Found) -> dict[str, list[str]]:
    palette = found.palette
    groups: dict[str, list[str]] = {}
    for swatch in palette.swatches:
        groups.setdefault(palette.group_name(swatch.group), []).append(swatch.color.hex)
    return groups


def test_a_drawing_is_read_by_what_its_colors_paint() -> None:
    reading = read_palettes(DRAWING, "moth.svg")[0]
    assert reading.format.id == "drawing"
    dusk = Reference("oklch(0.3 0.05 280)").convert("srgb").to_string(hex=True)
    assert named(reading.found) == {
        "Fills": ["#8a6a52", "#e85421"], "Strokes": ["#1e5c8c"], "Gradient stops": ["#ffd478", dusk],
    }  # fmt: skip
    assert reading.found.notes[0] == "Fills: 2 colors in 3 places, #8a6a52 in 2 of them."


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (DRAWING[:-20], "Line 9, column"),
        (b"<svg><path fill='none'/></svg>", "No shape of the drawing has a color"),
        (b"<!DOCTYPE svg [<!ENTITY a 'b'>]><svg>&a;</svg>", "declares entities"),
    ],
)
def test_drawings_that_cannot_be_read_say_why(data: bytes, words: str) -> None:
    with pytest.raises(BadFile, match=words):
        FORMATS["drawing"].read(data)  # type: ignore[misc]


def office(*parts: tuple[str, str]) -> bytes:
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w") as archive:
        for name, text in parts:
            archive.writestr(name, text)
    return target.getvalue()


SPACE = 'xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main"'
THEME = f"""<a:theme {SPACE}><a:themeElements><a:clrScheme name="Night press">
<a:dk1><a:sysClr val="windowText" lastClr="1B1A1D"/></a:dk1><a:lt1><a:sysClr val="window" lastClr="F3EAD6"/></a:lt1>
<a:accent1><a:srgbClr val="E85421"/></a:accent1><a:folHlink><a:srgbClr val="1E5C8C"/></a:folHlink>
</a:clrScheme></a:themeElements></a:theme>"""
INDEXED = "".join(f'<rgbColor rgb="00{n:06X}"/>' for n in range(64))
STYLES = f"<styleSheet><colors><indexedColors>{INDEXED}</indexedColors></colors></styleSheet>"


def test_a_workbook_gives_its_theme_and_its_indexed_colors_apart() -> None:
    reading = read_palettes(office(("xl/theme/theme1.xml", THEME), ("xl/styles.xml", STYLES)), "counts.xlsx")[0]
    assert reading.format.id == "document-theme"
    palette = reading.found.palette
    assert palette.name == "Night press"
    groups = named(reading.found)
    assert groups["Theme"] == ["#1b1a1d", "#f3ead6", "#e85421", "#1e5c8c"]
    assert [swatch.name for swatch in palette.swatches[:4]] == ["Dark 1", "Light 1", "Accent 1", "Followed link"]
    assert len(groups["Indexed"]) == 56, "0 to 7 repeat what follows"
    assert groups["Indexed"][0] == "#000008"


def test_documents_without_colors_or_damaged_ones_say_so() -> None:
    with pytest.raises(BadFile, match="no theme and no colors"):
        FORMATS["document-theme"].read(office(("word/theme/theme1.xml", "<a/>")))  # type: ignore[misc]
    with pytest.raises(BadFile, match="not sound XML"):
        FORMATS["document-theme"].read(office(("word/theme/theme1.xml", "<a>")))  # type: ignore[misc]
    with pytest.raises(BadFile, match="declares a document type"):
        FORMATS["document-theme"].read(office(("ppt/theme/theme1.xml", "<!DOCTYPE a><a/>")))  # type: ignore[misc]
    whole = office(("word/theme/theme1.xml", THEME))
    for cut in range(0, len(whole), 7):
        with pytest.raises(BadFile):
            FORMATS["document-theme"].read(whole[:cut])  # type: ignore[misc]


def themed(*entries: str, more: str = "") -> bytes:
    names = ("dk1", "lt1", "accent1", "accent2", "accent3", "accent4", "accent5", "accent6", "hlink")
    inside = "".join(f"<a:{name}>{entry}</a:{name}>" for name, entry in zip(names, entries, strict=False))
    scheme = f'<a:clrScheme name="S">{inside}</a:clrScheme>'
    return office(("ppt/theme/other name.xml", f"<a:theme {SPACE}>{scheme}{more}</a:theme>"))


def test_every_kind_of_color_of_a_theme_is_read() -> None:
    """Values worked out by hand from ISO/IEC 29500-1 §20.1.2.3."""
    reading = read_palettes(
        themed(
            '<a:sysClr val="windowText"/>',
            '<a:sysClr val="window"/>',
            '<a:prstClr val="dkOliveGreen"/>',
            '<a:prstClr val="tomato"/>',
            '<a:hslClr hue="7200000" sat="100%" lum="25%"/>',
            '<a:hslClr hue="0" sat="0" lum="50000"/>',
            '<a:scrgbClr r="100000" g="50000" b="0"/>',
            '<a:scrgbClr r="21.4%" g="21.4%" b="21.4%"/>',
            '<a:srgbClr val="808080"><a:alpha val="50%"/></a:srgbClr>',
        ),
        "a.pptx",
    )[0]
    assert [swatch.color.hex for swatch in reading.found.palette.swatches] == [
        "#000000", "#ffffff", "#556b2f", "#ff6347", "#008000", "#808080", "#ffbc00", "#7f7f7f", "#80808080",
    ]  # fmt: skip
    assert reading.found.notes == ()


def test_changes_of_a_theme_color_are_made_in_their_order() -> None:
    reading = read_palettes(
        themed(
            '<a:srgbClr val="000000"><a:tint val="50000"/></a:srgbClr>',
            '<a:srgbClr val="FFFFFF"><a:shade val="50%"/></a:srgbClr>',
            '<a:srgbClr val="FF0000"><a:lumMod val="50%"/></a:srgbClr>',
            '<a:srgbClr val="FF0000"><a:lumMod val="40%"/><a:lumOff val="60%"/></a:srgbClr>',
            '<a:srgbClr val="FF0000"><a:satMod val="0"/></a:srgbClr>',
            '<a:srgbClr val="123456"><a:sparkle val="1"/></a:srgbClr>',
            '<a:sysClr val="unheardOf"/>',
            '<a:prstClr val="octarine"/>',
            "",
        ),
        "a.pptx",
    )[0]
    assert [swatch.color.hex for swatch in reading.found.palette.swatches] == ["#bcbcbc", "#bcbcbc", "#800000", "#ff9999", "#808080"]
    assert len(reading.found.notes) == 4, "what is not understood is said by name"
    for name, words in (("Accent 4", "sparkle"), ("Accent 5", "unheardOf"), ("Accent 6", "octarine"), ("Link", "no color")):
        assert any(note.startswith(f"{name} was left out") and words in note for note in reading.found.notes)


def test_several_themes_and_custom_colors_stand_apart() -> None:
    custom = '<a:custClr name="House red"><a:srgbClr val="C8102E"/></a:custClr><a:custClr><a:srgbClr val="010203"/></a:custClr>'
    more = f"<a:custClrLst>{custom}</a:custClrLst>"
    found = read_palettes(themed('<a:srgbClr val="111111"/>', more=more), "a.pptx")[0].found
    assert named(found) == {"Theme": ["#111111"], "Theme, custom": ["#c8102e", "#010203"]}
    assert [swatch.name for swatch in found.palette.swatches][1:] == ["House red", "Custom 2"]
    both = office(("ppt/theme/theme1.xml", THEME), ("ppt/theme/theme2.xml", THEME))
    assert list(named(read_palettes(both, "b.pptx")[0].found)) == ["Theme 1", "Theme 2"]


def test_a_document_type_hidden_in_utf_16_is_refused() -> None:
    entity = '<?xml version="1.0" encoding="utf-16"?><!DOCTYPE a [<!ENTITY x "y">]><a>&x;</a>'
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        archive.writestr("word/theme/theme1.xml", entity.encode("utf-16"))
        archive.writestr("word/theme/theme2.xml", '<?xml version="1.0" encoding="foo"?><a/>')
    with pytest.raises(BadFile, match="declares a document type"):
        FORMATS["document-theme"].read(held.getvalue())  # type: ignore[misc]
    with pytest.raises(BadFile, match="not sound XML"):
        FORMATS["document-theme"].read(office(("word/theme/theme1.xml", '<?xml version="1.0" encoding="foo"?><a/>')))  # type: ignore[misc]
