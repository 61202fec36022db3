"""Files of a ramp: what each says it keeps is what comes back, by our reader, by independent ones, by the browser's rules."""

import colorsys
import csv
import io
import json
import math
import re
import runpy
from collections.abc import Callable
from pathlib import Path
from xml.etree import ElementTree

import matplotlib as mpl
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from huvren.core.color.difference import delta_eok
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.errors import BadFile, BadInput, HuvrenError
from huvren.core.formats import FORMATS, Document, Format
from huvren.core.formats.gradients.ggr import FIRST_LINE
from huvren.core.formats.readings import read_palette, read_palettes
from huvren.core.formats.report import ramp_report
from huvren.core.formats.style_sheets.gradient_css import gradients_in, plan_in
from huvren.core.palette.values import KeptRamp, Palette, Swatch
from huvren.core.ramp.easings import Easing
from huvren.core.ramp.plan import PlanStop, RampPlan, plain_only, plan_of
from huvren.core.ramp.profile import difference
from huvren.core.ramp.starting import STARTING
from huvren.core.ramp.values import numbers
from tests.counting import Visited, steps_of

RAMP_WRITERS = [entry for entry in FORMATS if entry.ramp and entry.write]
RAMP_READERS = [entry for entry in RAMP_WRITERS if entry.read and "palette" not in entry.keeps.spaces]
NIGHT, LEAF, LAMP = (parse_color(text) for text in ("#262b5c", "#2bb5a0", "#ffd478"))
AT = np.linspace(0, 1, 201)
EMPTY = Palette("Ramp")


def written(entry: Format, plan: RampPlan, name: str = "Night to lamp", **options: str) -> bytes:
    return entry.written(Document(EMPTY, options=options, ramps=((name, plan),)))


def back(entry: Format, data: bytes) -> RampPlan:
    found = read_palettes(data, f"a{entry.endings[0]}")[0]
    return found.found.palette.ramps[0].plan


def worst(first: RampPlan, second: RampPlan) -> float:
    return float(difference(first.ramp(plain_only), second.ramp(plain_only))[1].max())


def said(entry: Format, plan: RampPlan, **options: str) -> dict[str, float | None]:
    return {loss.code: loss.worst for loss in ramp_report(entry, "Night to lamp", plan, plain_only, options)}


plans = st.builds(
    RampPlan,
    st.lists(
        st.builds(
            PlanStop,
            st.tuples(st.floats(0.1, 0.95), st.floats(0, 0.25), st.floats(0, 359)).map(lambda row: Color("oklch", row)),
            st.none(), st.none() | st.floats(0, 1), st.just(0.5) | st.floats(0.1, 0.9),
            st.sampled_from([Easing(), Easing(), Easing("smooth")]),
        ),
        min_size=2, max_size=5,
    ).map(tuple),
    st.sampled_from([None, None, 2, 7, 40]), st.sampled_from(["oklab", "srgb", "oklch", "hsv", "pigment"]), st.just("shorter"),
    st.sampled_from(["straight", "monotone"]), st.sampled_from(["position", "even"]),
)  # fmt: skip


@settings(max_examples=40, deadline=None)
@given(plans, st.sampled_from(["ggr", "css-gradient", "cpt"]))
def test_what_comes_back_differs_by_what_was_said(plan: RampPlan, format_id: str) -> None:
    """Both ways: a change that is there is said, and the one that is said is there."""
    entry = FORMATS[format_id]
    losses = said(entry, plan)
    data = written(entry, plan)
    read = back(entry, data)
    wanted = plan if plan.steps is not None and entry.ramp and entry.ramp.steps else RampPlan(**{**plan.__dict__, "steps": None})
    shares = (np.arange(400) + 0.5) / 400
    if wanted.steps is not None:
        steps = wanted.ramp(plain_only).shares(wanted.steps)
        srgb, _, _ = wanted.ramp(plain_only).shown(steps[np.minimum((shares * wanted.steps).astype(int), wanted.steps - 1)])
    else:
        srgb, _, _ = wanted.ramp(plain_only).shown(shares)
    ramp = read.ramp(plain_only)
    if read.steps is not None:
        got, _, _ = ramp.shown(ramp.shares(read.steps)[np.minimum((shares * read.steps).astype(int), read.steps - 1)])
    else:
        got, _, _ = ramp.shown(shares)
    # A pixel beside a hard edge may lie on either side of it.
    gaps = delta_eok(convert(got, "srgb", "oklab"), convert(srgb, "srgb", "oklab"))
    edges = np.concatenate([[0.0], delta_eok(convert(srgb[1:], "srgb", "oklab"), convert(srgb[:-1], "srgb", "oklab"))]) > 0.5
    beside = edges | np.roll(edges, -1)
    assert gaps[~beside].max(initial=0.0) <= (losses.get("drawn") or 0.0) + 0.9, "8-bit codes alone may add a little"


@pytest.mark.parametrize("entry", RAMP_WRITERS, ids=lambda entry: entry.id)
def test_every_ramp_format_writes_every_starting_ramp_and_says_what_it_drops(entry: Format) -> None:
    for start in STARTING:
        losses = said(entry, start.plan)
        assert written(entry, start.plan)
        if start.plan.steps is not None:
            assert ("steps" in losses) == (not entry.ramp.steps)  # type: ignore[union-attr]
        clear = any(stop.color is not None and stop.color.alpha < 1 for stop in start.plan.stops)
        assert ("alpha" in losses) == (clear and not entry.ramp.alpha)  # type: ignore[union-attr]
        assert ("names" in losses) == (not entry.ramp.name)  # type: ignore[union-attr]


def test_a_ramp_that_segments_can_say_comes_back_as_it_was() -> None:
    plan = RampPlan(
        (PlanStop(NIGHT, position=0, midpoint=0.3), PlanStop(LEAF, position=0.4), PlanStop(LAMP, position=1)), None, "srgb"
    )
    entry = FORMATS["ggr"]
    assert said(entry, plan) == {}
    read = back(entry, written(entry, plan))
    assert [round(stop.position or 0, 5) for stop in read.stops] == [0, 0.4, 1]
    assert read.stops[0].midpoint == pytest.approx(0.3)
    assert worst(plan, read) < 0.01
    assert read_palette(written(entry, plan))[1].palette.name == "Night to lamp"


def ggr(*rows: str, name: str = "Name: x\n", count: int | None = None) -> bytes:
    return f"{FIRST_LINE}\n{name}{count if count is not None else len(rows)}\n{chr(10).join(rows)}\n".encode()


RED_TO_BLUE = "0 0.5 1 1 0 0 1 0 0 1 1 {} {}"


def segment_at(t: float, middle: float, blend: int) -> float:
    """The share of a segment at t, written down from the format's description."""
    linear = 0.5 * t / middle if t <= middle else 0.5 + 0.5 * (t - middle) / (1 - middle)
    return {
        0: linear, 1: t ** (math.log(0.5) / math.log(middle)), 2: (math.sin(-math.pi / 2 + math.pi * linear) + 1) / 2,
        3: math.sqrt(1 - (linear - 1) ** 2), 4: 1 - math.sqrt(1 - linear**2), 5: float(linear >= 0.5),
    }[blend]  # fmt: skip


@pytest.mark.parametrize("blend", range(6))
@pytest.mark.parametrize("middle", [0.5, 0.25])
def test_segments_blend_as_their_numbers_say(blend: int, middle: float) -> None:
    plan = back(FORMATS["ggr"], ggr(f"0 {middle} 1 1 0 0 1 0 0 1 1 {blend} 0"))
    at = np.array([0.03, 0.2, 0.4, 0.6, 0.8, 0.97])
    got = numbers(plan.ramp(plain_only).at(at)[0])[:, 2]
    slack = 0.015
    assert got == pytest.approx([segment_at(t, middle, blend) for t in at], abs=slack)


@pytest.mark.parametrize("coloring", [1, 2])
def test_segments_run_round_the_hues(coloring: int) -> None:
    plan = back(FORMATS["ggr"], ggr(f"0 0.5 1 1 0 0 1 0 0 1 1 0 {coloring}"))
    srgb = plan.ramp(plain_only).shown([0.25])[0][0]
    hue = 60 if coloring == 1 else 330
    assert srgb == pytest.approx(colorsys.hsv_to_rgb(hue / 360, 1, 1), abs=1e-6)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (ggr(RED_TO_BLUE.format(0, 0), count=3), "3 segments are announced, and 1 are there"),
        (ggr(RED_TO_BLUE.format(0, 0), count=0), "announces 0 segments"),
        (ggr("0 0.5 1 1 0 0"), "Line 4 is no segment: 13 numbers"),
        (ggr("0 0.9 0.5 1 0 0 1 0 0 1 1 0 0"), "do not follow each other"),
        (ggr("0 nan 1 1 0 0 1 0 0 1 1 0 0"), "a number that is none"),
        (ggr("0.5 0.5 0.5 1 0 0 1 0 0 1 1 0 0"), "has no length"),
        (f"{FIRST_LINE}\nName: x\n".encode(), "the number of segments is missing"),
    ],
)  # fmt: skip
def test_gradients_that_are_none_are_refused_in_words(data: bytes, words: str) -> None:
    with pytest.raises(BadFile, match=words):
        read_palettes(data, "x.ggr")


@pytest.mark.parametrize(
    ("data", "stops"),
    [
        (ggr(RED_TO_BLUE.format(0, 0), name=""), 2),  # the name is optional
        (ggr(RED_TO_BLUE.format(0, 0)).replace(b"\n", b"\r\n"), 2),
        (b"\xef\xbb\xbf" + ggr(RED_TO_BLUE.format(0, 0)), 2),
        (ggr("0 0.25 0.5 1 0 0 1 0 1 0 1 0 0", "0.5 0.75 1 0 1 0 1 0 0 1 1 0 0"), 3),
        (ggr("0 0.25 0.5 1 0 0 1 0 1 0 1 0 0", "0.5 0.75 1 1 1 1 1 0 0 1 1 0 0"), 4),  # a hard edge
        (ggr("0 0.5 1 1 0 0 1 0 0 1 1 0 0 0 0"), 2),  # 15 numbers of newer files
        (ggr("0.2 0.5 0.8 1 0 0 1 0 0 1 1 0 0"), 2),  # not from 0 to 1
        (ggr(*(f"{n / 200} {(n + 0.5) / 200} {(n + 1) / 200} {n % 2} 0 0 1 {(n + 1) % 2} 0 0 1 0 0" for n in range(200))), 64),
    ],
)  # fmt: skip
def test_awkward_but_sound_gradients_come_in(data: bytes, stops: int) -> None:
    reading = read_palettes(data, "x.ggr")[0]
    assert len(reading.found.palette.ramps[0].plan.stops) == stops


CPT = "# Sea\n# COLOR_MODEL = RGB\n{}\nB\tblack\nF\twhite\nN\t128/128/128\n"


@pytest.mark.parametrize(
    ("body", "stops", "steps", "colors"),
    [
        ("0\t0/0/0\t1\t255/0/0\n1 255/0/0 2 255/255/0", 3, None, 3),
        ("0 0 0 0 1 255 0 0\n1 255 0 0 2 255 255 0", 3, None, 3),  # blanks between the channels
        ("-5 black -2 red\n-2 red 1 white", 3, None, 3),  # names
        ("0 #000000 1 #ff0000 ;deep\n1 #ff0000 2 #ffff00 ;shallow", 3, None, 3),
        ("0 10/10/10 1 10/10/10\n1 90/90/90 2 90/90/90\n2 200/0/0 3 200/0/0", 3, 3, 3),  # flat slices: steps
        ("0 0 1 255", 2, None, 2),  # one number is a gray
        ("0 0/0/0 1 255/0/0 L", 2, None, 2),  # an annotation flag
        ("0 0/0/0 1 255/0/0\n4 0/0/255 5 255/255/255", 4, None, 4),  # a gap
        ("2 255/255/0 1 255/0/0\n1 255/0/0 0 0/0/0", 3, None, 3),  # falling
    ],
)  # fmt: skip
def test_color_tables_of_others_come_in(body: str, stops: int, steps: int | None, colors: int) -> None:
    found = read_palettes(CPT.format(body).encode(), "sea.cpt")[0].found
    (ramp,) = found.palette.ramps
    assert (len(ramp.plan.stops), ramp.plan.steps, len(found.palette.swatches)) == (stops, steps, colors)
    assert ramp.name == "Sea"


def test_categories_are_swatches_with_their_labels_and_hsv_tables_run_round() -> None:
    found = read_palettes(CPT.format("0\t10/20/30\t;Mud\n1\t200/100/50\t;Sand").encode(), "sea.cpt")[0].found
    assert [swatch.name for swatch in found.palette.swatches] == ["Mud", "Sand"]
    assert found.palette.ramps == ()
    hsv = read_palettes(b"# COLOR_MODEL = HSV\n0 0-1-1 1 120-1-1\nB 0-1-1\nF 0-1-1\n", "x.cpt")[0].found.palette
    assert hsv.ramps[0].plan.ramp(plain_only).shown([0.5])[0][0] == pytest.approx([1, 1, 0], abs=1e-6)
    for text, words in (
        (CPT.format("0 0/0/0 1"), "a slice is “low color high color”"), (CPT.format("0 300/0/0 1 0/0/0"), "not from 0 to 255"),
        (CPT.format("0 rad 1 blue"), "“rad” is no color"),
        ("# COLOR_MODEL = LAB\n0 1 2 3 4 5 6 7\n", "the color model “LAB” is not known"),
        (CPT.format("# nothing"), "neither slices nor categories"),
    ):  # fmt: skip
        with pytest.raises(BadFile, match=re.escape(words)):
            read_palettes(text.encode(), "x.cpt")


@pytest.mark.parametrize("steps", [None, 5])
def test_a_color_table_of_ours_comes_back(steps: int | None) -> None:
    plan = plan_of([NIGHT, LEAF, LAMP], steps=steps)
    entry = FORMATS["cpt"]
    read = back(entry, written(entry, plan))
    assert read.steps == steps
    if steps:
        assert [c.bytes for c in read.ramp(plain_only).baked(5)] == [c.bytes for c in plan.ramp(plain_only).baked(5)]
    else:
        assert worst(plan, read) < 1


GRADIENTS = [
    ("linear-gradient(red, blue)", "srgb", [0, 1]),
    ("linear-gradient(45deg,#f00 10%,#00f 90%)", "srgb", [0.1, 0.9]),
    ("linear-gradient(to right, red 0%, 30%, blue)", "srgb", [0, 1]),
    ("linear-gradient(in oklch longer hue, oklch(0.7 0.1 20), oklch(0.5 0.2 300))", "oklch", [0, 1]),
    ("linear-gradient(90deg in oklab, red, blue 40% 60%, lime)", "oklab", [0, 0.4, 0.6, 1]),
    ("radial-gradient(circle at 30% 30%, rgb(0 0 0 / 0.5), #fff)", "srgb", [0, 1]),
    ("conic-gradient(from 45deg, red 0deg, lime 180deg, red 1turn)", "srgb", [0, 0.5, 1]),
    ("repeating-linear-gradient(red 0%, blue 20%)", "srgb", [0, 0.2]),
    ("linear-gradient(oklch(0.7 0.1 20), oklch(0.5 0.2 300))", "oklab", [0, 1]),
    ("-webkit-linear-gradient(left, rgba(0,0,0,.5), hsl(120deg,50%,50%))", "srgb", [0, 1]),
    ("linear-gradient(/* glow */ 90deg, red, /* mid */ blue)", "srgb", [0, 1]),
    ("linear-gradient(90deg in hsl,red 0,lime 50%,blue 100%)", "hsl", [0, 0.5, 1]),
]


@pytest.mark.parametrize(("text", "space", "places"), GRADIENTS, ids=[row[0][:40] for row in GRADIENTS])
def test_gradients_in_style_sheets_are_ramps(text: str, space: str, places: list[float]) -> None:
    for sheet in (f"a{{background:{text}}}", f"  .b {{\n  background-image:\n {text} ;\n}}\n"):
        found, notes = gradients_in(sheet)
        ((_, plan),) = found
        assert plan.space == space
        assert [stop.position for stop in plan.stops] == pytest.approx(places)
        assert notes == []


def test_gradients_that_cannot_be_read_are_said_and_the_last_of_a_property_wins() -> None:
    sheet = """
    .a { background: linear-gradient(red, blue); background: linear-gradient(in oklab, red, blue); }
    .b { background: linear-gradient(var(--x), blue), linear-gradient(lime, red 10px, blue); }
    .c { background: linear-gradient(red, blue) }
    .d { background: linear-gradient(in rainbow, red, blue) }
    """
    found, notes = gradients_in(sheet)
    assert [plan.space for _, plan in found] == ["oklab", "srgb"]
    assert len(notes) == 3
    assert any("var(--x)" in note for note in notes)
    assert any("stands at no percentage" in note for note in notes)
    assert any("“rainbow”" in note for note in notes)
    assert plan_in("red, blue")[0].stops[0].midpoint == 0.5
    assert plan_in("red, 30%, blue")[0].stops[0].midpoint == pytest.approx(0.3)
    with pytest.raises(BadFile, match="fewer than two stops"):
        plan_in("90deg, red")
    with pytest.raises(BadFile, match="There is no gradient"):
        FORMATS["css-gradient"].read(b"a { color: red }")  # type: ignore[misc]


@pytest.mark.parametrize(
    "make",
    [
        lambda n: "linear-gradient(" * n, lambda n: "linear-gradient(red," + "(" * n, lambda n: "-" * n + "-gradient(red,blue)",
        lambda n: "/*" * n,
    ],
)  # fmt: skip
def test_hostile_style_sheets_take_steps_in_proportion(make: Callable[[int], str]) -> None:
    once, twice = (steps_of(lambda n=n: gradients_in(Visited(make(n)))) for n in (2_000, 4_000))
    assert twice <= 2.1 * once + 500


def test_a_drawing_holds_its_gradients_as_ramps() -> None:
    plan = plan_of([NIGHT, LEAF, Color("srgb", LAMP.coords, 0.4)], steps=None)
    for form in ("linear", "radial"):
        data = written(FORMATS["svg-gradient"], plan, form=form)
        root = ElementTree.fromstring(data)
        gradient = next(iter(root.iter("{http://www.w3.org/2000/svg}" + f"{form}Gradient")))
        offsets = [float(stop.attrib["offset"]) for stop in gradient]
        assert offsets == sorted(offsets)
        assert offsets[-1] == 1
        assert gradient[-1].attrib["stop-opacity"] == "0.4"
        reading = read_palettes(data, "a.svg")[0]
        assert reading.found.palette.ramps[0].name in ("ramp", "Ramp")
        assert worst(plan, reading.found.palette.ramps[0].plan) < 1.5


def test_a_table_of_a_ramp_is_read_by_others_and_by_us() -> None:
    plan = plan_of([NIGHT, LAMP], steps=None)
    data = written(FORMATS["ramp-csv"], plan)
    rows = list(csv.DictReader(io.StringIO(data.decode())))
    assert len(rows) == 256
    assert tuple(int(rows[0][name]) for name in ("red", "green", "blue")) == NIGHT.bytes[:3]
    assert rows[-1]["hex"] == LAMP.hex
    assert float(rows[128]["place"]) == pytest.approx(128 / 255, abs=1e-6)
    assert len(read_palettes(data, "a.csv")[0].found.palette.swatches) == 256


def test_a_colormap_is_known_once_its_file_is_imported(tmp_path: Path) -> None:
    plan = plan_of([NIGHT, LEAF, LAMP], steps=None)
    path = tmp_path / "ramp.py"
    path.write_bytes(written(FORMATS["colormap-code"], plan, "Night “to” lamp \\ 1"))
    names = runpy.run_path(str(path))
    theirs = mpl.colormaps[names["NAME"]](np.linspace(0, 1, 256))[:, :3]
    ours = plan.ramp(plain_only).shown(np.linspace(0, 1, 256))[0]
    assert np.abs(theirs - ours).max() <= 0.5 / 255 + 1e-6


def test_the_polynomial_makes_the_error_that_it_says() -> None:
    plan = plan_of([NIGHT, LEAF, LAMP], steps=None, curve="natural")
    for degree in ("3", "6", "8"):
        text = written(FORMATS["polynomial-code"], plan, language="python", degree=degree).decode()
        said_error = float(re.search(r"ΔE (\d+\.\d+)", text).group(1))  # type: ignore[union-attr]
        names: dict[str, object] = {}
        exec(text, names)  # the file itself
        drawn = np.array([names["night_to_lamp"](t) for t in AT])  # type: ignore[operator]
        gaps = delta_eok(convert(drawn, "srgb", "oklab"), convert(plan.ramp(plain_only).shown(AT)[0], "srgb", "oklab"))
        assert gaps.max() == pytest.approx(said_error, abs=0.15)
    shader = written(FORMATS["polynomial-code"], plan, language="shader").decode()
    assert shader.count("vec3(") == 8 - 1
    assert shader.count("(") == shader.count(")")


@pytest.mark.parametrize(("size", "shape"), [("strip", (1024, 64)), ("lookup", (256, 1))])
def test_pixels_of_a_ramp_end_in_its_ends(size: str, shape: tuple[int, int]) -> None:
    image = Image.open(io.BytesIO(written(FORMATS["ramp-png"], plan_of([NIGHT, LAMP], steps=None), size=size)))
    assert image.size == shape
    assert image.mode == "RGB"
    assert image.getpixel((0, 0)) == NIGHT.bytes[:3]
    assert image.getpixel((shape[0] - 1, 0)) == LAMP.bytes[:3]
    clear = Image.open(
        io.BytesIO(written(FORMATS["ramp-png"], plan_of([NIGHT, Color("srgb", NIGHT.coords, 0.0)], steps=3), size=size))
    )
    assert clear.mode == "RGBA"
    assert len(set(clear.get_flattened_data() if hasattr(clear, "get_flattened_data") else clear.getdata())) == 3


def test_the_lossless_form_keeps_ramps_and_others_say_that_they_drop_them() -> None:
    palette = Palette("P", (Swatch(NIGHT, "Night", "n"), Swatch(LAMP, "Lamp", "l")))
    tied = RampPlan((PlanStop(swatch="n"), PlanStop(LEAF, position=0.3, midpoint=0.2), PlanStop(swatch="l")), 5, "oklch", "longer")
    palette = palette.with_ramps([KeptRamp("Glow", tied, "r", ("a", "b"))])
    (reading,) = read_palettes(FORMATS["json"].written(Document(palette)), "p.json")
    assert reading.found.palette == palette
    from huvren.core.formats.report import keep_report

    for entry in FORMATS:
        if entry.is_of_palettes:
            dropped = [loss.text for loss in keep_report(entry, Document(palette)) if loss.code == "ramps"]
            assert dropped == ([] if entry.keeps.holds("palette.ramps") else ["1 kept ramp dropped"]), entry.id
    only = Palette("Only ramps", ramps=(KeptRamp("Glow", plan_of([NIGHT, LAMP])),))
    assert read_palettes(FORMATS["json"].written(Document(only)), "p.json")[0].found.palette == only
    assert json.loads(FORMATS["json"].written(Document(only)))["swatches"] == []


@pytest.mark.parametrize("format_id", ["ggr", "cpt", "css-gradient", "svg-gradient"])
def test_a_ramp_file_cut_anywhere_is_read_or_refused_in_words(format_id: str) -> None:
    data = written(FORMATS[format_id], plan_of([NIGHT, LEAF, LAMP], steps=None, spacing="even"))
    for cut in range(0, len(data), 7):
        try:
            found = read_palettes(data[:cut], f"a{FORMATS[format_id].endings[0]}")
        except HuvrenError:
            continue
        assert any(reading.found.palette.ramps or reading.found.palette.swatches for reading in found)


def test_options_and_formats_that_are_none_are_refused() -> None:
    plan = plan_of([NIGHT, LAMP])
    with pytest.raises(BadFile, match="is no choice for as large as"):
        written(FORMATS["ramp-png"], plan, size="huge")
    with pytest.raises(BadInput, match="no palette to look it up in"):
        FORMATS["ggr"].ramp.held(RampPlan((PlanStop(swatch="a"), PlanStop(swatch="b"))), {})  # type: ignore[union-attr]
