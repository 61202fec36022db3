"""Chart style: a Matplotlib style sheet whose line colors are the palette."""

from huvren.core.formats import FORMATS, Document, Format, Keeps


def write(document: Document) -> bytes:
    """`axes.prop_cycle` with hex codes without `#`, which would begin a comment; the names stand above as comments."""
    swatches = document.palette.swatches
    lines = [f"# {document.palette.name}"]
    lines += [f"# {swatch.color.hex[1:7]}  {swatch.name}" for swatch in swatches]
    codes = ", ".join(f"'{swatch.color.hex[1:7]}'" for swatch in swatches)
    return ("\n".join([*lines, f"axes.prop_cycle: cycler('color', [{codes}])"]) + "\n").encode()


FORMATS.register(
    Format(
        "chart-style", (".mplstyle",), "chart style", "chart", "text/plain; charset=utf-8",
        Keeps(title=True, names=True), "Series colors for charts drawn in Python.", is_text=True, write=write,
    )
)  # fmt: skip
