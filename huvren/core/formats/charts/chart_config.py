"""Chart config: the `range` of a Vega-Lite view config as JSON, to be merged into a chart's specification."""

import json

from huvren.core.formats.format import FORMATS, Document, Format, Keeps, Option

USE = Option("use", "used for", (("categories", "categories"), ("ramp", "a ramp of values")))
RANGES = {"categories": ("category",), "ramp": ("ordinal", "ramp", "heatmap", "diverging")}


def write(document: Document) -> bytes:
    """Opaque hex codes in palette order, under the ranges that the chosen use fills."""
    codes = [swatch.color.hex[:7] for swatch in document.palette.swatches]
    ranges = dict.fromkeys(RANGES[WRITER.option(document, "use")], codes)
    return (json.dumps({"config": {"range": ranges}}, indent=2) + "\n").encode()


WRITER = FORMATS.register(
    Format(
        "chart-config", (".json",), "chart config", "chart", "application/json", Keeps(),
        "Color ranges for charts drawn from a JSON specification.", is_text=True, options=(USE,), write=write,
    )
)  # fmt: skip
