"""`huvren check`: the questions a palette answers before it leaves."""

import argparse
import json
from pathlib import Path
from typing import Any

from huvren.cli.files import read_bytes, read_likeliest, read_picture_file, write_bytes
from huvren.core.errors import BadInput

DESCRIPTION = "Examine palettes. Exit status 1 where a check fails, with its sentence."
REFERENCE = "reference"


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("files", type=Path, nargs="+", metavar="FILE", help="palette files")
    parser.add_argument("--only", metavar="CHECK,…", help="these checks alone, by their ids")
    parser.add_argument("--limits", type=Path, metavar="LIMITS.json", help="limits by check and name, as an object of objects")
    parser.add_argument(
        "--against", type=Path, metavar="REFERENCE", help="a palette whose colors have to be there (the check “rules”)"
    )
    parser.add_argument(
        "--picture", type=Path, metavar="PNG", help="a picture that each palette paints: what touches and what is used"
    )
    form = parser.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help="print one JSON object")
    form.add_argument("--report", type=Path, metavar="OUT.html", help="write a self-contained page with every picture")


def _limits(path: Path | None) -> dict[str, dict[str, Any]]:
    if path is None:
        return {}
    try:
        document = json.loads(read_bytes(path))
    except (ValueError, RecursionError) as error:
        raise BadInput(f"“{path.name}” is no JSON.") from error
    # A palette written as JSON holds its limits as well.
    held = document.get("limits", document) if isinstance(document, dict) else None
    if not isinstance(held, dict):
        raise BadInput(f'“{path.name}” holds no limits. An object is expected, such as {{"text": {{"low": 7}}}}.')
    return held


def run(options: argparse.Namespace) -> int:
    from huvren.core.checks import CHECKS, SAID, clean_limits, examine_all, known_limits
    from huvren.core.checks.pictures import painted_with, sample_of
    from huvren.core.checks.review import review, summary
    from huvren.core.checks.subject import Subject
    from huvren.core.palette.check_limits import as_mapping

    only = [CHECKS[name.strip()].id for name in options.only.split(",")] if options.only else None
    given = clean_limits(_limits(options.limits))
    others = {}
    if options.against:
        others[REFERENCE] = read_likeliest(options.against).found.palette
        given.setdefault("rules", {})[REFERENCE] = REFERENCE
    rgba = read_picture_file(options.picture).rgba if options.picture else None
    failed, made, said = False, [], []
    for path in options.files:
        palette = read_likeliest(path).found.palette
        own, notes = known_limits(as_mapping(palette.limits))
        limits = {check: own.get(check, {}) | given.get(check, {}) for check in {*own, *given}}
        usage, touching, plate = painted_with(palette, rgba) if rgba is not None else (None, None, None)
        subject = Subject(palette, usage, touching, None if rgba is None else sample_of(rgba), plate, others)
        reports = examine_all(subject, limits, only)
        failed = failed or any(report.verdict == "fails" for report in reports.values())
        made.append((palette, reports))
        said.append({
            "file": str(path), "swatches": len(palette.swatches), "notes": notes,
            "checks": [
                {
                    "id": check, "question": CHECKS[check].question, "verdict": report.verdict, "sentence": report.sentence,
                    "mends": [mend.label for mend in report.mends],
                }
                for check, report in reports.items()
            ],
        })  # fmt: skip
        if options.json:
            continue
        for note in notes:
            print(f"{path.name}: {note} It is as usual instead.")
        print(f"{path.name}: {len(palette.swatches):,} swatches. {summary(list(reports.values()))}")
        if options.report is None:
            for check, report in reports.items():
                print(f"  {SAID[report.verdict]:<15} {CHECKS[check].label:<18} {report.sentence}")
    if options.json:
        print(json.dumps({"passed": not failed, "files": said}, ensure_ascii=False))
    if options.report is not None:
        write_bytes(options.report, review(made))
    return 1 if failed else 0
