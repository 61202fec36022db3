"""A report for a review: one self-contained HTML file, with every question, its verdict, its sentence and its picture."""

from collections.abc import Mapping, Sequence
from html import escape

from huvren.core.checks.check import CHECKS, SAID, VERDICTS, Report
from huvren.core.checks.svg import drawing_as_svg
from huvren.core.palette.values import Palette

MOST_SHOWN = 1024
STYLE = """
body { margin: 0; background: #f4f4f4; color: #1c1c1c; font: 15px/1.5 system-ui, sans-serif; }
main { max-width: 920px; margin: 0 auto; padding: 32px 24px 64px; }
h1 { font-size: 28px; margin: 0 0 4px; } h2 { font-size: 20px; margin: 0 0 2px; }
.strip { display: flex; height: 44px; margin: 16px 0 8px; } .strip span { flex: 1; }
section { border-top: 1px solid #c9c9c9; padding: 24px 0; } .verdict { font-weight: 600; } .quiet { color: #5c5c5c; }
svg { display: block; width: 100%; height: auto; margin-top: 16px; } ul { padding-left: 20px; } a { color: inherit; }
table { border-collapse: collapse; } td { padding: 2px 16px 2px 0; vertical-align: top; }
"""


def count_of(reports: Sequence[Report], verdict: str) -> int:
    return sum(report.verdict == verdict for report in reports)


def summary(reports: Sequence[Report]) -> str:
    """“2 fail, 3 to look at, 4 hold.”"""
    fails, look, holds = (count_of(reports, verdict) for verdict in ("fails", "look", "holds"))
    return f"{fails} fail{'s' if fails == 1 else ''}, {look} to look at, {holds} hold{'s' if holds == 1 else ''}."


def _section(check_id: str, report: Report) -> str:
    check = CHECKS[check_id]
    picture = drawing_as_svg(report.draw(check.settled({}, views=True)))
    mends = "".join(f"<li>{escape(mend.label)}</li>" for mend in report.mends)
    return (
        f'<section id="{escape(check_id)}"><h2>{escape(check.question)}</h2>'
        f'<p><span class="verdict">{SAID[report.verdict]}</span> · {escape(report.sentence)}</p>'
        f'<p class="quiet">{escape(check.why)}</p>{picture}'
        + (f'<p class="quiet">What would mend it:</p><ul class="quiet">{mends}</ul>' if mends else "")
        + "</section>"
    )


def review(palettes: Sequence[tuple[Palette, Mapping[str, Report]]]) -> bytes:
    """UTF-8 HTML of one or several palettes, nothing of which is fetched from anywhere."""
    pieces = []
    for palette, reports in palettes:
        strip = "".join(
            f'<span style="background:{swatch.color.hex}" title="{escape(swatch.name)}"></span>' for swatch in palette.swatches[:1024]
        )
        worst = sorted(reports, key=lambda check: VERDICTS.index(reports[check].verdict))
        rows = "".join(
            f'<tr><td class="verdict">{SAID[reports[check].verdict]}</td>'
            f'<td><a href="#{escape(check)}">{escape(CHECKS[check].question)}</a></td></tr>'
            for check in worst
        )
        sections = "".join(_section(check, reports[check]) for check in worst)
        pieces.append(
            f"<h1>{escape(palette.name)}</h1><p>{len(palette.swatches):,} swatches. {summary(list(reports.values()))}</p>"
            f'<div class="strip">{strip}</div><table>{rows}</table>{sections}'
        )
    title = escape(palettes[0][0].name if len(palettes) == 1 else f"{len(palettes)} palettes")
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{title}: review</title>'
        f'<meta name="viewport" content="width=device-width"><style>{STYLE}</style></head>'
        f"<body><main>{''.join(pieces)}</main></body></html>\n"
    ).encode()
