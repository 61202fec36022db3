"""Tables: what their columns mean, guessed by heading, language, place and range, and chosen otherwise."""

import contextlib

import pytest

from huvren.core.color.value import Color
from huvren.core.errors import BadFile, HuvrenError, TooLarge, Unknown
from huvren.core.formats import FORMATS
from huvren.core.formats.readings import by_columns, read_palettes
from huvren.core.formats.text_lists.csv_table import read, read_by, sniff, table_of
from huvren.core.formats.text_lists.table_columns import MEANINGS, guess
from tests.counting import steps_of

CSV = FORMATS["csv"]


def guessed(text: str) -> list[str]:
    return list(guess(table_of(text.encode())))


def colors(text: str, coding: str = "utf-8") -> list[str]:
    return [swatch.color.hex for swatch in read(text.encode(coding)).palette.swatches]


def names(text: str) -> list[str]:
    return [swatch.name for swatch in read(text.encode()).palette.swatches]


@pytest.mark.parametrize(
    "head",
    [
        "Farbe;Bezeichnung;Menge;Rot;Grün;Blau",
        "Couleur;Nom;Quantité;Rouge;Vert;Bleu",
        "Color;Nombre;Cantidad;Rojo;Verde;Azul",
        "Colore;Nome;Quantità;Rosso;Verde;Blu",
        "Cor;Nome;Quantidade;Vermelho;Verde;Azul",
        "Kleur;Naam;Aantal;Rood;Groen;Blauw",
        "Kolor;Nazwa;Ilość;Czerwony;Zielony;Niebieski",
        "Цвет;Название;Количество;Красный;Зелёный;Синий",
        "色;名前;数;赤;緑;青",
        "FARBE;BEZEICHNUNG;MENGE;ROT;GRÜN;BLAU",
        '"Farbe";"Bezeichnung";"Menge";"Rot (0–255)";"Grün (0–255)";"Blau (0–255)"',
    ],
)
def test_headings_in_several_languages(head: str) -> None:
    text = f"{head}\nSiena;Umbra gebrannt;3;180;74;52\nMoos;Moosgrün;12;90;110;60\n"
    assert colors(text) == ["#b44a34", "#5a6e3c"]
    assert names(text) == ["Umbra gebrannt", "Moosgrün"], "a name counts before a color that is a word"
    assert guessed(text)[3:] == ["srgb.1", "srgb.2", "srgb.3"]
    assert guessed(text)[2] == "", "an amount is nothing of a color"


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("name,L,C,H\nA,0.6,0.15,40\nB,0.3,0.05,280\n", Color("oklch", (0.6, 0.15, 40))),
        ("name,L,C,H\nA,60,45,40\nB,30,5,280\n", Color("lch", (60, 45, 40))),
        ("name,l,a,b\nA,0.62,0.1,-0.05\nB,0.3,0,0.1\n", Color("oklab", (0.62, 0.1, -0.05))),
        ("name,l,a,b\nA,62,10,-5\nB,30,0,10\n", Color("lab", (62, 10, -5))),
        ("name,Lightness,Chroma,Hue\nA,0.6,0.15,40\n", Color("oklch", (0.6, 0.15, 40))),
        ("Name;Helligkeit;Buntheit;Farbton\nA;0,6;0,15;40\n", Color("oklch", (0.6, 0.15, 40))),
        ("name,L,C,H\nA,0.9,60,40\nB,50,5,280\n", Color("lch", (0.9, 60, 40))),
    ],
)
def test_the_range_of_the_numbers_tells_the_space(text: str, wanted: Color) -> None:
    first = read(text.encode()).palette.swatches[0].color
    assert first.space == wanted.space
    assert first.coords == pytest.approx(wanted.coords)


def test_whole_numbers_are_colors_of_24_bits_or_refused() -> None:
    text = "name,color\nRed,16711680\nGreen,65280\nBlue,255\nBlack,0\nWhite,16777215\n"
    assert colors(text) == ["#ff0000", "#00ff00", "#0000ff", "#000000", "#ffffff"]
    found = read((text + "More,16777216\nLess,-1\n").encode())
    assert len(found.palette.swatches) == 5
    assert "no whole number from 0 to 16777215" in found.notes[0]
    # Six digits each are codes as they always were.
    assert colors("name,hex\nA,102030\nB,405060\n") == ["#102030", "#405060"]


@pytest.mark.parametrize("first", ["sep=;", "SEP=;", '"sep=;"', "sep=;\r"])
def test_a_first_line_says_the_separator(first: str) -> None:
    text = f"{first}\nname;r;g;b\nUmber, burnt;138;51;36\n"
    assert colors(text) == ["#8a3324"]
    assert names(text) == ["Umber, burnt"]
    assert sniff(text.encode()) > 0.8
    bad = read(f"{first}\nname;r;g;b\nA;1;2;3\nB;x;2;3\n".encode())
    assert bad.notes[0].startswith("Line 4:"), "lines are counted as they stand in the file"


@pytest.mark.parametrize(
    ("text", "hexes", "words"),
    [
        ("Ivory black;35;31;32\nGold size;201;162;39\n", ["#231f20", "#c9a227"], ["Ivory black", "Gold size"]),
        ("1,Ivory black,35,31,32\n2,Gold size,201,162,39\n", ["#231f20", "#c9a227"], ["Ivory black", "Gold size"]),
        ("Ivory black\t#231f20\nGold size\t#c9a227\n", ["#231f20", "#c9a227"], ["Ivory black", "Gold size"]),
        ("35|31|32|Ivory black\n201|162|39|Gold size\n", ["#231f20", "#c9a227"], ["Ivory black", "Gold size"]),
        ("sep=|\n35|31|32|Ivory black\n201|162|39|Gold size\n", ["#231f20", "#c9a227"], ["Ivory black", "Gold size"]),
    ],
)
def test_a_table_without_headings_is_read_by_place_and_range(text: str, hexes: list[str], words: list[str]) -> None:
    found = read_palettes(text.encode(), "colors.csv")[0].found.palette
    assert [swatch.color.hex for swatch in found.swatches] == hexes
    assert [swatch.name for swatch in found.swatches] == words


@pytest.mark.parametrize(
    "text",
    [
        "35,31,32,255\n201,162,39,128\n",
        "Ivory black,35,31,32,255\nGold size,201,162,39,128\n",
        "1,2,3\n4,5,6\n",
        "a;1;2;3;4;5;6\nb;1;2;3;4;5;6\n",
        "a,#112233,#445566\nb,#778899,#aabbcc\n",
        "a,#112233,1,2,3\nb,#778899,4,5,6\n",
        "a,b,c\nd,e,f\n",
        "1,2\n3,4\n",
        "900,901,902\n903,904,905\n",
        "x\ny\n",
        "1;2;3\n4;5\n",
        "one, two, three\nfour, five\n",
    ],
)
def test_what_is_no_table_of_colors_is_none(text: str) -> None:
    assert sniff(text.encode()) == 0


def test_a_table_is_known_by_its_whole_lines() -> None:
    # The 4,000 bytes that are looked at end within the third line, which has fewer columns there.
    row = "{};35;31;32\n"
    text = "".join(row.format(name * 1500) for name in "abcd")
    assert sniff(text.encode()) > 0
    assert len(read_palettes(text.encode(), "long.csv")[0].found.palette.swatches) == 4


def test_columns_are_chosen_otherwise() -> None:
    data = b"id,what,p,q,r,s\n1,Umber,7,138,51,36\n2,Moss,9,90,110,60\n"
    with pytest.raises(BadFile):
        table_of(data)
    first = read_palettes(b"name,r,g,b,note\nUmber,138,51,36,warm\n", "a.csv")[0].found
    assert first.columns is not None
    assert first.columns.meanings == ("name", "srgb.1", "srgb.2", "srgb.3", "note")
    assert first.columns.rows == (("Umber", "138", "51", "36", "warm"),)
    assert first.palette.swatches[0].note == "warm"
    turned = by_columns(b"name,r,g,b,note\nUmber,138,51,36,warm\n", "a.csv", ["note", "srgb.3", "srgb.2", "srgb.1", "name"])
    swatch = turned[0].found.palette.swatches[0]
    assert (swatch.name, swatch.note, swatch.color.hex) == ("warm", "Umber", "#24338a")
    assert turned[0].format is FORMATS["csv"]


def test_a_choice_that_makes_no_color_is_said_and_can_be_made_again() -> None:
    data = b"name,r,g,b\nUmber,138,51,36\n"
    for meanings, why in (
        (["name", "", "", ""], "No column is chosen for the color"),
        (["name", "srgb.1", "srgb.2", ""], "No column is chosen for RGB blue"),
        (["name", "srgb.1", "lab.2", "srgb.3"], "Columns of RGB and of CIELAB"),
        (["code", "", "", ""], "Line 2"),
    ):
        found = read_by(data, meanings)
        assert found.palette.swatches == ()
        assert why in found.notes[0]
        assert found.columns is not None
        assert list(found.columns.meanings) == meanings
    with pytest.raises(Unknown):
        read_by(data, ["nothing", "", "", ""])
    assert len(read_by(data, ["name", "srgb.1", "srgb.2", "srgb.3", "alpha", "alpha"]).palette.swatches) == 1, "more than there are"
    assert len(read_by(data, ["", "hsl.1", "hsl.2", "hsl.3"]).palette.swatches) == 1


def test_huvrens_own_columns_are_read_exactly_and_not_asked_about() -> None:
    own = b"index,id,name,group,locked,hex,space,c1,c2,c3,c4,alpha\n0,x,Ink,,yes,#000000,oklch,0.5,0.1,30,,0.5\n"
    found = read(own)
    assert found.columns is None
    swatch = found.palette.swatches[0]
    assert (swatch.id, swatch.locked, swatch.color) == ("x", True, Color("oklch", (0.5, 0.1, 30.0), 0.5))


def test_every_meaning_has_a_label_of_its_own() -> None:
    assert len({meaning.label for meaning in MEANINGS}) == len(list(MEANINGS))


def test_channels_beside_a_code_are_not_taken_for_anything_else() -> None:
    text = "name,hex,L,a,b\nx,#e85421,62,51,50\ny,#102030,12,-2,-14\n"
    assert guessed(text) == ["name", "code", "", "", ""]
    found = read(text.encode())
    assert [swatch.color.hex for swatch in found.palette.swatches] == ["#e85421", "#102030"]
    assert found.notes == ()
    assert guessed("name,hex,alpha\nx,#e85421,0.5\n") == ["name", "code", "alpha"]


def test_a_name_counts_before_a_title_wherever_they_stand() -> None:
    assert names("Title,Name,hex\nPlate one,Umber,#8a3324\nPlate two,,#c9a227\n") == ["Umber", "Plate two"]


def test_no_color_of_a_table_without_headings_is_left_behind() -> None:
    (reading,) = read_palettes(b"Sunset,#112233,#445566\nDawn,#778899,#aabbcc\n", "a.csv")[:1]
    assert [swatch.color.hex for swatch in reading.found.palette.swatches] == ["#112233", "#445566", "#778899", "#aabbcc"]


def test_a_long_table_is_known_by_its_first_whole_lines() -> None:
    rows = [f"Swatch {place};{'x' * 260};{place};31;32" for place in range(200)]
    assert len(read_palettes("\n".join(rows).encode(), "a.csv")[0].found.palette.swatches) == 200
    # What stands beyond the columns of the first row has no meaning, however much it is.
    wide = "\n".join([*(f"Swatch {place};{place};31;32" for place in range(30)), "Wide;1;2;3" + ";9" * 100_000])
    found = read(wide.encode())
    assert len(found.palette.swatches) == 31
    assert found.columns is not None
    assert len(found.columns.meanings) == 4


def test_amounts_are_no_colors() -> None:
    with pytest.raises(BadFile, match="is no color"):
        read(b"name,value\nA,12\nB,7\n")
    assert colors("name,value\nA,12\nB,16711680\n") == ["#00000c", "#ff0000"]


@pytest.mark.parametrize("mark", [",", ";", "\t", "|"])
def test_a_line_of_millions_of_cells_is_refused_before_it_is_taken_apart(mark: str) -> None:
    head, row = f"name{mark}hex", f"A{mark}#e85421"
    most = f"{head}\n{row}" + mark * (1_000_000 - len(row))
    assert [swatch.color.hex for swatch in CSV.taken(most.encode())[""].palette.swatches] == ["#e85421"]
    for text in (most + mark, f"{head}{mark * 1_000_000}\n{row}\n"):
        with pytest.raises(TooLarge, match=r"Line [12] has 1,0.* bytes"):
            CSV.taken(text.encode())
        assert steps_of(lambda text=text: _answered(text)) < 2_000


def _answered(text: str) -> None:
    with contextlib.suppress(HuvrenError):
        CSV.taken(text.encode())
