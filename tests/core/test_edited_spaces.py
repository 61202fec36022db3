"""How the editor offers spaces: a CSS color that looks like the coordinates, and scales that say what is typed."""

import random
import re

import numpy as np
import pytest
from coloraide import Color as Oracle

from huvren.core.color.spaces import SPACES, Channel, ColorSpace, Editing, convert, edited_spaces


def worked_out(css: str) -> str:
    """A CSS color whose sums are done, as a browser does them."""

    def sums(found: re.Match[str]) -> str:
        text = found.group(1)
        value = eval(text.replace("%", ""), {})
        return f"{value:.6f}{'%' if '%' in text else ''}"

    return re.sub(r"calc\(((?:[^()]|\([^()]*\))*)\)", sums, css)


@pytest.mark.parametrize("space", edited_spaces(), ids=lambda space: space.id)
def test_the_form_in_css_is_the_same_color(space: ColorSpace) -> None:
    dice = random.Random(1)
    assert space.editing
    for _ in range(40):
        coords = convert([dice.random() for _ in range(3)], "srgb", space.id).tolist()
        text = space.editing.css
        for place, value in enumerate(coords):
            text = text.replace(f"{{{place}}}", f"{value:.5f}")
        shown = np.array(Oracle(worked_out(text)).convert("xyz-d65").coords())
        ours = convert(coords, space.id, "xyz-d65")
        if space.id == "lab-d65":
            # CSS has CIELAB under D50 alone; what is adapted from there is another color, near it.
            assert np.linalg.norm(convert(shown, "xyz-d65", "oklab") - convert(ours, "xyz-d65", "oklab")) < 0.06
        else:
            assert shown == pytest.approx(ours, abs=2e-4)


def test_spaces_stand_in_their_order_and_every_channel_has_a_scale() -> None:
    assert [space.id for space in edited_spaces()] == ["srgb", "hsv", "hsl", "oklch", "lab-d65", "cmyk"]
    with pytest.raises(TypeError, match="needs a scale for each channel of odd"):
        ColorSpace("odd", "Odd", (Channel("x", 0, 1),), "D65", None, np.asarray, np.asarray, editing=Editing(9, (), ""))
    assert not any(space.editing for space in SPACES if space not in edited_spaces())
