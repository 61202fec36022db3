"""Where in a text each swatch of a reading stands: for readers that do not say it themselves."""

from dataclasses import replace

from huvren.core.errors import HuvrenError
from huvren.core.formats.readings import Reading
from huvren.core.formats.scan.text_scan import candidates

MOST_SKIPPED = 64
"""Colors of the text that may stand between two swatches, such as those of other columns."""


def marked(reading: Reading, text: str) -> Reading:
    """The reading with `Found.marks` (begin and end in letters of `text`), by its colors in their order.

    What is not found so, such as a color that was worked out, gets an empty mark, (0, 0). A reading that has marks, or is of no text,
    stays as it is.
    """
    if reading.found.marks or reading.format is None or not reading.format.is_text:
        return reading
    try:
        standing = candidates(text)
    except HuvrenError:
        return reading
    colors = [one.color.bytes if one.color is not None else None for one in standing]
    marks, at = [], 0
    for swatch in reading.found.palette.swatches:
        wanted = swatch.color.bytes
        found = next((place for place in range(at, min(at + MOST_SKIPPED, len(colors))) if colors[place] == wanted), None)
        marks.append((standing[found].begin, standing[found].end) if found is not None else (0, 0))
        at = at if found is None else found + 1
    return replace(reading, found=replace(reading.found, marks=tuple(marks)))
