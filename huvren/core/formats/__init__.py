"""File formats: the registry, and one file a format, in rooms by family with what their readers are made of.

A codec declares its id, endings, kind, media type, what it keeps and its limits, then `read` and `write` where it
has them. Nothing else lists formats: menus, accepted endings, the command line and the tests derive from here.
"""

from huvren.core.formats.format import (
    DIGITS,
    FORMATS,
    SURE_ENOUGH,
    UTF16_MARKS,
    Columns,
    Content,
    Document,
    Family,
    Format,
    Found,
    Keeps,
    NoColor,
    Option,
    RampKeeps,
    SwatchList,
    TooManyColors,
    collector_at_rest,
    decode_text,
    is_picture,
    is_probably_text,
    sections,
    whole_number,
    writers_of,
)

# In menu order.
# isort: off
from huvren.core.formats.text_lists import gpl, json_palette  # noqa: F401
from huvren.core.formats.binary import ase, aco, act  # noqa: F401
from huvren.core.formats.text_lists import pal_text  # noqa: F401
from huvren.core.formats.binary import pal_riff  # noqa: F401
from huvren.core.formats.text_lists import hex_list, csv_table  # noqa: F401
from huvren.core.formats.style_sheets import css_properties  # noqa: F401
from huvren.core.formats.drawings import drawing  # noqa: F401
from huvren.core.formats.documents import document_theme  # noqa: F401
from huvren.core.formats.pictures import indexed_png, strip_png  # noqa: F401
from huvren.core.formats.charts import chart_config, chart_style  # noqa: F401
from huvren.core.formats.gradients import cpt, ggr  # noqa: F401
from huvren.core.formats.style_sheets import gradient_css  # noqa: F401
from huvren.core.formats.drawings import gradient_svg  # noqa: F401
from huvren.core.formats.pictures import ramp_png  # noqa: F401
from huvren.core.formats.gradients import ramp_table  # noqa: F401
from huvren.core.formats.code import colormap_code, polynomial_code  # noqa: F401
from huvren.core.formats.pictures import color_table, own_colors  # noqa: F401
from huvren.core.formats.scan import text_scan  # noqa: F401
# isort: on

__all__ = [
    "DIGITS",
    "FORMATS",
    "SURE_ENOUGH",
    "UTF16_MARKS",
    "Columns",
    "Content",
    "Document",
    "Family",
    "Format",
    "Found",
    "Keeps",
    "NoColor",
    "Option",
    "RampKeeps",
    "SwatchList",
    "TooManyColors",
    "collector_at_rest",
    "decode_text",
    "is_picture",
    "is_probably_text",
    "sections",
    "whole_number",
    "writers_of",
]
