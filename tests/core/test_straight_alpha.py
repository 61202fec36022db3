"""Gradients of programs that mix colors apart from their alpha, and mixtures of what is clear."""

import re
import xml.etree.ElementTree as ElementTree

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.arrays import Floats
from huvren.core.color.difference import delta_eok
from huvren.core.color.mixing import MODELS, mix
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.formats import FORMATS, Document
from huvren.core.formats.gradients.ggr import FIRST_LINE
from huvren.core.formats.readings import read_palettes
from huvren.core.palette.values import Palette
from huvren.core.ramp.baking import MIXED_APART, bake
from huvren.core.ramp.plan import plain_only, plan_of

SHARES = (np.arange(400) + 0.5) / 400


def straight(places: Floats, stops: Floats) -> Floats:
    """(n, 4) as SVG 2 §14 draws it: each of red, green, blue and alpha by itself."""
    return np.column_stack([np.interp(SHARES, places, stops[:, channel]) for channel in range(4)])


def of_svg(data: bytes) -> tuple[Floats, Floats]:
    stops = [each for each in ElementTree.fromstring(data).iter() if each.tag.endswith("stop")]
    colors = [[int(stop.attrib["stop-color"][at : at + 2], 16) / 255 for at in (1, 3, 5)] for stop in stops]
    alphas = [float(stop.get("stop-opacity", "1")) for stop in stops]
    return np.array([float(stop.attrib["offset"]) for stop in stops]), np.column_stack([colors, alphas])


def of_ggr(data: bytes) -> tuple[Floats, Floats]:
    rows = np.array([[float(word) for word in line.split()] for line in data.decode().splitlines()[3:]])
    places = np.column_stack([rows[:, 0], rows[:, 2]]).ravel()
    return places, np.stack([rows[:, 3:7], rows[:, 7:11]], axis=1).reshape(-1, 4)


def off(shown: Floats, wanted: Floats, alpha: Floats) -> float:
    """ΔEOK×100 at the worst place; what is half clear counts half."""
    gaps = delta_eok(convert(shown[:, :3], "srgb", "oklab"), convert(wanted, "srgb", "oklab")) * np.minimum(alpha, shown[:, 3])
    return float(max(gaps.max(), np.abs(shown[:, 3] - alpha).max() * 100))


# Not near black, where the rounding of a file to 8 bits is ΔE 3 by itself.
colors = st.tuples(*[st.floats(0.2, 1)] * 3, st.sampled_from([0.0, 0.2, 0.7, 1.0]))


@settings(max_examples=60, deadline=None)
@given(st.lists(colors, min_size=2, max_size=4), st.sampled_from(["oklab", "srgb", "oklch"]))
def test_files_are_drawn_as_the_ramp_where_alpha_is_mixed_apart(rows: list[tuple[float, float, float, float]], space: str) -> None:
    plan = plan_of([Color("srgb", row[:3], row[3]) for row in rows], steps=None, space=space)
    srgb, alpha, _ = plan.ramp(plain_only).shown(SHARES)
    document = Document(Palette("Glow"), ramps=(("Glow", plan),))
    for entry, read in (("svg-gradient", of_svg), ("ggr", of_ggr)):
        write = FORMATS[entry].write
        assert write
        assert off(straight(*read(write(document))), srgb, alpha) <= 1.3, entry


def test_what_fades_keeps_its_color_whatever_it_fades_to() -> None:
    plan = plan_of([parse_color("#ffb020"), parse_color("#00000000")], steps=None, space="srgb")
    baked = bake(plan.ramp(plain_only), 0.5, is_straight=True)
    assert len(baked.places) == 2
    assert baked.srgb[-1] == pytest.approx(baked.srgb[0], abs=1e-6)
    assert baked.alpha.tolist() == [1, 0]
    premultiplied = bake(plan.ramp(plain_only), 0.5)
    assert premultiplied.at(np.array([0.9]))[0] == pytest.approx(baked.at(np.array([0.9]))[0], abs=0.01)


def test_what_is_read_and_drawn_otherwise_is_said() -> None:
    def notes(*stops: str) -> list[str]:
        rows = "".join(f'<stop offset="{place}" {stop}/>' for place, stop in enumerate(stops))
        svg = f'<svg xmlns="http://www.w3.org/2000/svg"><linearGradient id="g">{rows}</linearGradient><rect fill="url(#g)"/></svg>'
        return [note for note in read_palettes(svg.encode(), "a.svg")[0].found.notes if note == MIXED_APART]

    assert notes('stop-color="#f00"', 'stop-color="#00f" stop-opacity="0.2"') == [MIXED_APART]
    assert notes('stop-color="#f00"', 'stop-color="#f00" stop-opacity="0.2"') == []
    assert notes('stop-color="#f00"', 'stop-color="#00f"') == []
    rows = [FIRST_LINE, "Name: Glow", "1", "0 0.5 1 1 0 0 1 0 0 1 0.2 0 0"]
    assert MIXED_APART in read_palettes("\n".join(rows).encode(), "a.ggr")[0].found.notes


@pytest.mark.parametrize("model", MODELS.ids())
def test_a_wholly_clear_color_adds_no_tint_to_a_mixture(model: str) -> None:
    red, clear = parse_color("#d03020"), parse_color("#0000ff00")
    thinned = mix([red, clear], [1, 3], model)
    assert thinned.bytes[:3] == red.bytes[:3]
    assert thinned.alpha == pytest.approx(0.25)
    blue = parse_color("#2040c0")
    with_clear, without = mix([red, clear, blue], [1, 2, 1], model), mix([red, blue], [1, 1], model)
    assert with_clear.bytes[:3] == without.bytes[:3]
    assert with_clear.alpha == pytest.approx(0.5)
    half = mix([red, Color("srgb", blue.srgb, 0.5)], [1, 2], model)
    assert half.bytes[:3] == without.bytes[:3], "two parts of half of it are one part"
    both_clear = mix([clear, parse_color("#00ff0000")], [1, 1], model)
    assert both_clear.alpha == 0
    assert mix([red, blue], [0, 2], model) == blue
    assert re.fullmatch("#[0-9a-f]{6}", mix([red, blue], [1, 2], model).hex)
