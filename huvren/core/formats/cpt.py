"""`.cpt` color table for maps and grids: slices `z0 r/g/b z1 r/g/b`, then B, F and N lines."""

from huvren.core.errors import BadFile
from huvren.core.formats import FORMATS, Document, Format, Keeps, Option

FORM = Option("form", "laid out as", (("steps", "even steps"), ("continuous", "one continuous ramp"), ("categories", "categories")))
NO_DATA = "128/128/128"


def write(document: Document) -> bytes:
    """Slices over 0..1, or category rows with labels. Below, above and no data: first color, last color, gray."""
    swatches = document.palette.swatches
    if not swatches:
        raise BadFile("There is no swatch to write. Add one first.")
    codes = ["{}/{}/{}".format(*swatch.color.bytes[:3]) for swatch in swatches]
    form = WRITER.option(document, "form")
    lines = [f"# {document.palette.name}", "# COLOR_MODEL = RGB"]
    if form == "categories":
        lines += [f"{place}\t{code}\t;{s.name}" for place, (code, s) in enumerate(zip(codes, swatches, strict=True))]
        return ("\n".join([*lines, f"N\t{NO_DATA}"]) + "\n").encode()
    if form == "continuous":
        if len(codes) < 2:
            raise BadFile("A continuous table needs two colors or more.")
        slices, ends = list(zip(codes[:-1], codes[1:], strict=True)), len(codes) - 1
    else:
        slices, ends = [(code, code) for code in codes], len(codes)
    for place, (low, high) in enumerate(slices):
        label = f"\t;{swatches[place].name}" if form == "steps" else ""
        lines.append(f"{place / ends:.6g}\t{low}\t{(place + 1) / ends:.6g}\t{high}{label}")
    lines += [f"B\t{codes[0]}", f"F\t{codes[-1]}", f"N\t{NO_DATA}"]
    return ("\n".join(lines) + "\n").encode()


WRITER = FORMATS.register(
    Format(
        "cpt", (".cpt",), "map color table", "chart", "text/plain; charset=utf-8", Keeps(title=True, names=True),
        "Colors by value for maps and grids.", is_text=True, options=(FORM,), write=write,
    )
)  # fmt: skip
