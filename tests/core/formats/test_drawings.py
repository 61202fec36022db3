"""Drawings as programs and people write them: rules, inheritance, opacities, codings, and what is defined and never used."""

import contextlib
import gzip

import pytest

from huvren.core.errors import BadFile, HuvrenError, TooLarge
from huvren.core.formats import FORMATS, Found
from huvren.core.formats.drawings import drawing
from huvren.core.formats.readings import read_palettes
from tests.core.formats.test_sources import named

DRAWING = FORMATS["drawing"]


def svg(body: str, head: str = "") -> bytes:
    return f'{head}<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">{body}</svg>'.encode()


def found(data: bytes) -> Found:
    return DRAWING.taken(data)[""]


def fills(body: str) -> list[str]:
    return named(found(svg(body))).get("Fills", [])


CASCADE = [
    ("<style>.a{fill:#111}</style><path class='a'/>", ["#111111"]),
    ("<style>path{fill:#111}</style><path fill='#222'/>", ["#111111"]),
    ("<style>*{fill:#111}</style><path/><rect/>", ["#111111"]),
    ("<style>g path{fill:#111}</style><g><path/></g><path fill='#222'/>", ["#111111", "#222222"]),
    ("<style>g > path{fill:#111}</style><g><g><path/></g></g>", ["#111111"]),
    ("<style>svg > path{fill:#111}</style><g><path fill='#222'/></g>", ["#222222"]),
    ("<style>[data-ink='dark']{fill:#111}</style><path data-ink='dark'/>", ["#111111"]),
    ("<style>path:nth-child(3){fill:#111}</style><path fill='#222'/><path fill='#222'/>", ["#222222", "#111111"]),
    ("<style>path:not(.b){fill:#111}</style><path/><path class='b' fill='#222'/>", ["#111111", "#222222"]),
    ("<style>#one{fill:#111} .a{fill:#222} path{fill:#333}</style><path id='one' class='a'/>", ["#111111"]),
    ("<style>.a{fill:#111} .b{fill:#222}</style><path class='b a'/>", ["#222222"]),
    ("<style>.a{fill:#111 !important} #one{fill:#222}</style><path id='one' class='a' style='fill:#333'/>", ["#111111"]),
    ("<style>.a{fill:#111 !important}</style><path class='a' style='fill:#333 !important'/>", ["#333333"]),
    ("<style>@media print {.a{fill:#111}} .a{fill:#222}</style><path class='a'/>", ["#222222"]),
    ("<style>.a{fill:#222} @media (prefers-color-scheme: dark) {.a{fill:#111}}</style><path class='a'/>", ["#222222"]),
    ("<style>.a{fill:#222} @media screen {.a{fill:#111}}</style><path class='a'/>", ["#111111"]),
    ("<style>:root{--ink:#111}.a{fill:var(--ink)}</style><path class='a'/>", ["#111111"]),
    ("<style>.a{fill:var(--ink, #444)}</style><path class='a'/>", ["#444444"]),
    ("<g style='--ink:#111'><g style='--ink:#222'><path fill='var(--ink)'/></g><path style='fill:var(--ink)'/></g>",
     ["#222222", "#111111"]),
    ("<g color='#111'><g fill='currentColor'><path/></g></g>", ["#111111"]),
    ("<g color='#111'><path style='color:#222' fill='currentColor'/></g>", ["#222222"]),
    ("<g fill='#111'><path/><path fill='#222'/><path fill='none'/></g>", ["#111111", "#222222"]),
    ("<path fill='#111' opacity='0.5'/>", ["#11111180"]),
    ("<path fill='#111' fill-opacity='50%'/>", ["#11111180"]),
    ("<g opacity='.5'><path fill='#111' fill-opacity='.5'/></g>", ["#11111140"]),
    ("<g fill-opacity='.5'><path fill='#111'/></g>", ["#11111180"]),
    ("<path fill='rgb(17 17 17 / 50%)' opacity='.5'/>", ["#11111140"]),
    ("<path fill='#111' stroke-opacity='.5'/>", ["#111111"]),
    ("<path fill='#abc icc-color(#p, 0.1, 0.2)'/>", ["#aabbcc"]),
    ("<path fill='url(#g) #111'/><path fill='#222'/>", ["#222222"]),
    ("<style><![CDATA[.a > .b{} .a{fill:#111}]]></style><path class='a'/>", ["#111111"]),
    ("<style>.a{fill:#111}</style><style>.a{fill:#222}</style><path class='a'/>", ["#222222"]),
    ("<style>.a:hover{fill:#111} .a::before{fill:#333} .a{fill:#222}</style><path class='a'/>", ["#222222"]),
    ("<style>@font-face{src:url(x)} @import 'x.css'; .a{fill:#111}</style><path class='a'/>", ["#111111"]),
    ("<text fill='#111'>a<tspan fill='#222'>b</tspan><tspan>c</tspan></text>", ["#111111", "#222222"]),
    ("<path fill=' #111 '/><path fill='RED'/><path fill='hsl(0 100% 50%)'/>", ["#111111", "#ff0000", "#ff0000"]),
    ("<path style='FILL:#111;;fill-opacity:;bad'/>", ["#111111"]),
    ("<path style='fill:url(data:image/png;base64,AAAA);stroke:#222'/><path fill='#111'/>", ["#111111"]),
]  # fmt: skip


@pytest.mark.parametrize(("body", "wanted"), CASCADE)
def test_colors_are_what_a_browser_would_paint(body: str, wanted: list[str]) -> None:
    assert fills(body) == wanted


def test_codings_and_gzip_make_no_difference() -> None:
    plain = "<svg xmlns='http://www.w3.org/2000/svg'><title>Größe</title><path fill='#112233'/></svg>"
    for data in (
        plain.encode(), b"\xef\xbb\xbf" + plain.encode(), plain.encode("utf-16"), b"\xfe\xff" + plain.encode("utf-16-be"),
        ('<?xml version="1.0" encoding="ISO-8859-1"?>' + plain).encode("latin-1"),
        ('<?xml version="1.0" encoding="UTF-16"?>' + plain).encode("utf-16"), gzip.compress(plain.encode()),
        gzip.compress(plain.encode("utf-16")),
    ):  # fmt: skip
        (reading,) = [one for one in read_palettes(data, "a.svg") if one.format is DRAWING]
        assert named(reading.found) == {"Fills": ["#112233"]}


def test_wide_colors_stay_wide() -> None:
    (swatch,) = found(svg("<path fill='color(display-p3 1 0 0)'/>")).palette.swatches
    assert (swatch.color.space, swatch.color.coords) == ("display-p3", (1, 0, 0))


def test_what_nothing_is_painted_with_is_a_source_of_its_own() -> None:
    body = """<defs><linearGradient id="swatch1"><stop stop-color="#e85421"/></linearGradient>
      <linearGradient id="base"><stop stop-color="#1b1a1d"/><stop offset="1" stop-color="#8a6a52" stop-opacity=".5"/></linearGradient>
      <linearGradient id="used" xlink:href="#base"/>
      <pattern id="dots"><circle fill="#1e5c8c"/></pattern><pattern id="lines"><path fill="#ffd478"/></pattern></defs>
      <g fill="#010203"><path fill="url(#used)" stroke="#040506"/></g><path style="fill:url('#lines')"/>"""
    reading = found(svg(body))
    assert named(reading) == {
        "Fills": ["#ffd478"], "Strokes": ["#040506"], "Gradient stops": ["#1b1a1d", "#8a6a5280"],
        "Defined but unused": ["#e85421", "#1e5c8c", "#010203"],
    }  # fmt: skip
    assert reading.notes[-1] == "Defined but unused: 3 colors."
    (ramp,) = reading.palette.ramps
    assert [stop.color.hex for stop in ramp.plan.stops if stop.color] == ["#1b1a1d", "#8a6a5280"]


def test_what_cannot_be_read_is_said() -> None:
    notes = found(svg("<style>@media print{.b{fill:red}} a:::{fill:red}</style><path fill='#111'/><path fill='currentColor'/>"
                      "<path fill='var(--gone)'/><path fill='var(--gone)'/>")).notes  # fmt: skip
    assert "Left out: --gone is declared nowhere, in 2 places." in notes
    assert "Left out: currentColor means nothing here, in 1 place." in notes
    assert "2 rules that hold only for other media, or cannot be read, left out." in notes


ENTITIES = "".join(f'<!ENTITY a{n + 1} "&a{n};&a{n};&a{n};&a{n};&a{n};&a{n};&a{n};&a{n};&a{n};&a{n};">' for n in range(12))


@pytest.mark.parametrize(
    "data",
    [
        svg("<path fill='&a12;'/>", f'<!DOCTYPE svg [<!ENTITY a0 "x">{ENTITIES}]>'),
        svg("<path fill='&a12;'/>", f'<!DOCTYPE svg [<!ENTITY a0 "x">{ENTITIES}]>').decode().encode("utf-16"),
        svg("<path fill='&x;'/>", '<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>'),
        svg("<path/>", '<?xml version="1.0" encoding="foo"?>'), svg("<path/>", '<?xml version="1.0" encoding="utf-7"?>'),
        svg("<g>" * 700_000 + "</g>" * 700_000), svg("<g>" * 20_000), svg("<path fill='#111'/>" * 700_000),
        gzip.compress(svg("<path fill='#111'/>" * 3_000_000), 1), gzip.compress(b"\0" * 300_000_000, 1)[:-9],
        svg("<style>" + "a{" * 100_000 + "</style>"), svg("<style>" + "a " * 100_000 + "{fill:red}</style><path/>"),
        svg("<style>" + ":not(" * 20_000 + "</style><path/>"), svg("<path style='" + "fill:red;" * 200_000 + "'/>"),
        svg("<path fill='" + "(" * 200_000 + "'/>"), svg("".join(f"<path fill='#{n:06x}'/>" for n in range(100_000))),
        b"<svg" + b" a" * 300_000, b"<svg><style>" + b"x" * 3_000_000, b"<svg>" + b"&amp;" * 900_000 + b"</svg>",
    ],
    ids=range(19),
)  # fmt: skip
def test_drawings_made_to_hurt_are_answered(data: bytes) -> None:
    with contextlib.suppress(HuvrenError):
        if DRAWING.sniff(data):
            assert DRAWING.taken(data)


def test_gzip_that_never_ends_is_refused_before_it_is_unpacked() -> None:
    with pytest.raises(TooLarge, match="MB"):
        DRAWING.taken(gzip.compress(b"<svg>" + b" " * 90_000_000, 1))
    with pytest.raises(BadFile, match="cut short"):
        DRAWING.taken(gzip.compress(svg("<path fill='#111'/>"))[:-12])


def test_what_variables_stand_for_is_followed_only_so_far_in_a_drawing(monkeypatch: pytest.MonkeyPatch) -> None:
    chain = ";".join(f"--v{n}:var(--v{n + 1})" for n in range(20)) + ";--v20:#e85421"
    shapes = "".join(f'<rect fill="var(--v0)" opacity="0.{n}"/>' for n in range(1, 60))
    data = svg(f'<g style="{chain}">{shapes}</g>')
    assert len(found(data).palette.swatches) > 10
    monkeypatch.setattr(drawing, "MOST_EFFORT", 2_000)
    with pytest.raises(TooLarge, match="stand for each other too often"):
        found(data)
