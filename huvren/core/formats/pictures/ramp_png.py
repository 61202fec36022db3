"""A ramp as pixels: a strip to look at, or 256 × 1 for a shader to look colors up in."""

import io
from collections.abc import Mapping

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.formats.format import FORMATS, Document, Format, Keeps, Option, RampKeeps
from huvren.core.ramp.baking import Baked, sampled, stepped
from huvren.core.ramp.plan import RampPlan, plain_only
from huvren.core.ramp.profile import rgba_bytes

SIZE = Option("size", "as large as", (("strip", "1024 × 64 pixels"), ("lookup", "256 × 1 pixels, for shaders")))


def held_ramp(plan: RampPlan, options: Mapping[str, str]) -> Baked:
    ramp = plan.ramp(plain_only)
    width = 256 if options.get("size") == "lookup" else 1024
    return sampled(ramp, width) if plan.steps is None else stepped(ramp, plan.steps)


def write(document: Document) -> bytes:
    """sRGB with alpha where the ramp has any; the first and last columns are its very ends."""
    from PIL import Image

    _, plan, ramp = document.ramp
    lookup = WRITER.option(document, "size") == "lookup"
    width, height = (256, 1) if lookup else (1024, 64)
    shares: Floats
    if plan.steps is None:
        shares = np.linspace(0, 1, width)
    else:
        shares = ramp.shares(plan.steps)[np.minimum(np.arange(width) * plan.steps // width, plan.steps - 1)]
    row = rgba_bytes(*ramp.shown(shares)[:2])
    shown = row if (row[:, 3] < 255).any() else row[:, :3]
    image = Image.fromarray(np.ascontiguousarray(np.repeat(shown[None], height, axis=0)))
    buffer = io.BytesIO()
    image.save(buffer, "PNG", compress_level=9)
    return buffer.getvalue()


WRITER = FORMATS.register(
    Format(
        "ramp-png", (".png",), "strip of a ramp", "picture", "image/png", Keeps(alpha="all"),
        "The ramp as pixels: to paste into a picture, or for a shader to look colors up in.", contents=frozenset({"ramps"}),
        ramp=RampKeeps("samples", held_ramp, name=False, steps=True), options=(SIZE,), write=write,
    )
)  # fmt: skip
