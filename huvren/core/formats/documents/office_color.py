"""Colors as office documents write them: ISO/IEC 29500-1 §20.1.2.3, with the changes of §20.1.2.3.20 to .35 that themes use."""

import xml.etree.ElementTree as ElementTree
from collections.abc import Callable, Mapping

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.notation import css_names, parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.color.value import Color
from huvren.core.errors import BadColor

WINDOW = {
    "windowText": "#000000", "window": "#ffffff", "btnFace": "#f0f0f0", "btnText": "#000000", "highlight": "#0078d7",
    "highlightText": "#ffffff", "grayText": "#6d6d6d", "captionText": "#000000", "infoText": "#000000", "infoBk": "#ffffe1",
    "menu": "#f0f0f0", "menuText": "#000000", "background": "#000000",
}  # fmt: skip
"""What a system color is where the document does not say what it was last."""
SHORT = (("dk", "dark"), ("lt", "light"), ("med", "medium"))


def local(element: ElementTree.Element) -> str:
    """The name of an element without its namespace."""
    return element.tag.rsplit("}", 1)[-1] if isinstance(element.tag, str) else ""


def _share(text: str | None, usual: float = 0.0) -> float:
    """“50%” or 50000 thousandths of a percent → 0.5. Raises `BadColor` for what is no number."""
    if text is None:
        return usual
    try:
        value = float(text[:-1]) / 100 if text.endswith("%") else float(text) / 100_000
    except ValueError:
        raise BadColor(f"“{text[:20]}” is no share.") from None
    if not abs(value) < 1000:
        raise BadColor(f"“{text[:20]}” is no share.")
    return value


def _preset(name: str) -> Color:
    """CSS names, whose beginnings may be shortened: dkBlue, ltGray, medPurple."""
    word = name
    for short, long in SHORT:
        if word.startswith(short) and word[len(short) : len(short) + 1].isupper():
            word = long + word[len(short) :]
    known = css_names().get(word.lower())
    if known is None:
        raise BadColor(f"there is no preset color “{name[:30]}”.")
    return parse_color(known)


def _plain(element: ElementTree.Element) -> Floats:
    """(3,) sRGB of a color element before its changes. Raises `BadColor`."""
    kind, value = local(element), element.get("val", "")
    if kind == "srgbClr" and len(value) == 6:
        return np.array(parse_color(f"#{value}").srgb)
    if kind == "sysClr":
        last = element.get("lastClr")
        if last is None and value not in WINDOW:
            raise BadColor(f"the system color “{value[:30]}” is not written with what it was.")
        return np.array(parse_color(f"#{last}" if last else WINDOW[value]).srgb)
    if kind == "prstClr":
        return np.array(_preset(value).srgb)
    if kind == "hslClr":
        try:
            hue = float(element.get("hue", "0")) / 60_000 % 360
        except ValueError:
            raise BadColor("its hue is no number.") from None
        return np.clip(convert([hue, _share(element.get("sat")), _share(element.get("lum"))], "hsl", "srgb"), 0, 1)
    if kind == "scrgbClr":
        return np.clip(encode_srgb_array([_share(element.get(channel)) for channel in "rgb"]), 0, 1)
    raise BadColor(f"“{kind[:30]}” is not read as a color.")


def _in_hsl(change: Callable[[Floats], None]) -> Callable[[Floats], Floats]:
    def changed(srgb: Floats) -> Floats:
        hsl = np.array(convert(srgb, "srgb", "hsl"))
        change(hsl)
        hsl[1:] = np.clip(hsl[1:], 0, 1)
        return np.clip(convert(hsl, "hsl", "srgb"), 0, 1)

    return changed


def _scaled(place: int, by: float) -> Callable[[Floats], Floats]:
    def change(hsl: Floats) -> None:
        hsl[place] *= by

    return _in_hsl(change)


def _moved(place: int, by: float) -> Callable[[Floats], Floats]:
    def change(hsl: Floats) -> None:
        hsl[place] += by

    return _in_hsl(change)


CHANGES: Mapping[str, Callable[[float], Callable[[Floats], Floats]]] = {
    "tint": lambda by: lambda srgb: encode_srgb_array(decode_srgb_array(srgb) * by + (1 - by)),
    "shade": lambda by: lambda srgb: encode_srgb_array(decode_srgb_array(srgb) * by),
    "lumMod": lambda by: _scaled(2, by), "lumOff": lambda by: _moved(2, by),
    "satMod": lambda by: _scaled(1, by), "satOff": lambda by: _moved(1, by),
}  # fmt: skip
"""What a child of a color does to it, by a share."""


def office_color(element: ElementTree.Element) -> Color:
    """The color of an element such as `srgbClr`, its changes made in their order. Raises `BadColor` with the reason."""
    srgb, alpha = _plain(element), 1.0
    for child in element:
        kind, share = local(child), _share(child.get("val"), 1.0)
        if kind == "alpha":
            alpha = min(max(share, 0.0), 1.0)
        elif kind in CHANGES:
            srgb = np.clip(CHANGES[kind](share)(srgb), 0, 1)
        else:
            raise BadColor(f"the change “{kind[:30]}” is not known.")
    red, green, blue = to_eight_bits(srgb).tolist()
    return Color.from_bytes(red, green, blue).with_alpha(alpha)
