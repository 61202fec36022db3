"""`huvren ramp-check`: whether a ramp keeps what its kind promises."""

import argparse
import json
from dataclasses import replace

from huvren.cli.ramps import add_purpose, named_plans
from huvren.core.ramp.plan import plain_only

DESCRIPTION = "Examine the ramps of a file, or one of colors. Exit status 1 where a promise of its kind is broken."
MARKS = {"holds": "holds", "look": "look ", "fails": "fails"}


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("what", nargs="+", metavar="FILE|COLOR", help="one file that holds ramps, or two colors or more")
    add_purpose(parser)
    parser.add_argument("--steps", type=int, metavar="N", help="examine so many steps; else the ramp's own")
    parser.add_argument("--json", action="store_true")


def run(options: argparse.Namespace) -> int:
    from huvren.core.ramp.promises import broken, examine

    status, said = 0, []
    for name, plan in named_plans(options.what):
        plan = replace(plan, purpose=options.purpose or plan.purpose, steps=options.steps or plan.steps)
        answers = examine(plan, plain_only)
        status = 1 if broken(answers) else status
        if options.json:
            said.append({
                "name": name, "purpose": plan.purpose, "keeps": not broken(answers),
                "answers": [
                    {
                        "id": a.promise.id, "verdict": a.finding.verdict, "sentence": a.finding.sentence, "promised": a.given,
                        "places": [round(place, 4) for place in a.finding.places],
                    }
                    for a in answers
                ],
            })  # fmt: skip
            continue
        print(f"{name}, {plan.purpose}:")
        for answer in answers:
            mark = "promised" if answer.given else ""
            print(f"  {MARKS[answer.finding.verdict]}  {answer.promise.label:<20} {answer.finding.sentence}  {mark}".rstrip())
    if options.json:
        print(json.dumps({"ramps": said}, ensure_ascii=False))
    return status
