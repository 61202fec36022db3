"""Moving swatches: the cases that the interface foresees are those of the rule, and groups stay in one piece."""

import json
from random import Random

from huvren.core.color.notation import parse_color
from huvren.core.palette.operations.move import MoveSwatches
from huvren.core.palette.values import Group, Palette, Swatch
from tools.steps import ROOT

TABLE = ROOT / "tests" / "moves.json"
NONE = "."


def palette_of(groups: str) -> Palette:
    """Swatches named by their places, a letter for the group of each, and a point for none."""
    color = parse_color("#336699")
    swatches = tuple(
        Swatch(color, str(place), str(place), group=None if group == NONE else group) for place, group in enumerate(groups)
    )
    return Palette("P", swatches, tuple(Group(group, group) for group in sorted(set(groups) - {NONE})))


def moved(case: dict[str, str | int]) -> dict[str, str | int]:
    after = MoveSwatches(ids=list(str(case["ids"])), to=int(case["to"])).apply(palette_of(str(case["groups"]))).palette
    return case | {
        "order": "".join(swatch.id for swatch in after.swatches),
        "grouped": "".join(swatch.group or NONE for swatch in after.swatches),
    }


def cases() -> list[dict[str, str | int]]:
    pick = Random(20)
    # Several groups at once, beside what is left of one of them.
    made = [
        moved({"groups": groups, "ids": ids, "to": to})
        for groups, ids, to in (("..aabb", "24", 2), ("aabb..", "03", 3), ("bbaa", "13", 1))
    ]
    for _ in range(200):
        size = pick.randint(1, 6)
        groups = "".join(sorted(pick.choices("ab.", k=size), key="b.a".index if pick.random() < 0.5 else "a.b".index))
        ids = "".join(sorted(pick.sample([str(place) for place in range(size)], pick.randint(1, min(3, size)))))
        made.append(moved({"groups": groups, "ids": ids, "to": pick.randint(0, size)}))
    return made


def test_the_interface_is_held_to_the_rule() -> None:
    # Where the rule has changed, write it anew: json.dumps(cases()), a line for each.
    assert json.loads(TABLE.read_text()) == cases()


def test_no_group_is_torn_by_a_move() -> None:
    for case in cases():
        kept = [group for place, group in enumerate(str(case["grouped"])) if str(case["grouped"])[place - 1 : place] != group]
        assert len(set(kept) - {NONE}) == len([group for group in kept if group != NONE]), case
