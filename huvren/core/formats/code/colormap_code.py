"""A ramp as a Matplotlib colormap: a module with 256 rows and the three lines that register it."""

from huvren.core.formats.format import FORMATS, Document, Format, Keeps, RampKeeps
from huvren.core.formats.gradients.ramp_table import ROWS, held_ramp
from huvren.core.formats.style_sheets.css_properties import slug
from huvren.core.ramp.baking import sampled


def write(document: Document) -> bytes:
    """Importing the file makes the colormap known under the name that its second line says."""
    name, _, ramp = document.ramp
    known = slug(name, {}).replace("-", "_")
    table = sampled(ramp, ROWS)
    opaque = bool((table.alpha == 1).all())
    rows = zip(table.srgb.tolist(), table.alpha.tolist(), strict=True)
    lines = [f"    ({', '.join(f'{value:.6f}' for value in (*srgb, *([] if opaque else [alpha])))})," for srgb, alpha in rows]
    said = name.replace("\\", "/").replace('"', "'")
    head = f'"""{said}: a colormap of {ROWS} colors, known as "{known}" once this file is imported."""'
    loader = [
        "import matplotlib",
        "from matplotlib.colors import ListedColormap",
        "",
        "matplotlib.colormaps.register(ListedColormap(COLORS, NAME), force=True)",
    ]
    return ("\n".join([head, "", f'NAME = "{known}"', "COLORS = [", *lines, "]", "", *loader]) + "\n").encode()


FORMATS.register(
    Format(
        "colormap-code", (".py",), "colormap", "chart", "text/x-python; charset=utf-8", Keeps(title=True, alpha="all"),
        "For charts drawn in Python: 256 rows and the lines that load them.", contents=frozenset({"ramps"}),
        ramp=RampKeeps("samples", held_ramp), is_text=True, write=write,
    )
)  # fmt: skip
