"""Any sequence of steps: undo to the start gives the first document back, identities never double, pictures keep their look."""

import random
from typing import Any

import numpy as np
import pytest

from tests.server.conftest import Api
from tests.server.test_palettes import shown

LOOK_STAYS = {
    "reverse_swatches", "swap_swatches", "smooth_order", "sort_swatches", "move_swatches", "make_group", "name_series",
    "set_slots", "lock_swatches", "suggest_names", "tag_palette", "duplicate_swatches", "merge_near_twins", "set_columns",
}  # fmt: skip


def any_step(palette: Any, dice: random.Random) -> dict[str, Any]:
    """One operation that this palette allows, as the interface would send it."""
    ids = [swatch["id"] for swatch in palette["swatches"]]
    some = dice.sample(ids, min(len(ids), dice.randint(2, 4)))
    free = [swatch["id"] for swatch in palette["swatches"] if not swatch["locked"]]
    slots = palette["slots"]
    steps: list[dict[str, Any]] = [
        {"kind": "reverse_swatches"},
        {"kind": "reverse_swatches", "ids": some},
        {"kind": "swap_swatches", "ids": some[:2]},
        {"kind": "smooth_order"},
        {"kind": "sort_swatches", "keys": dice.sample(["hue", "lightness", "chroma", "family", "coverage", "name"], 2)},
        {"kind": "move_swatches", "ids": some[:1], "to": dice.randrange(slots or len(ids))},
        {"kind": "make_group", "ids": some, "name": f"Group {dice.randrange(10**6)}"},
        {"kind": "name_series", "ids": some, "stem": "Part"},
        {"kind": "suggest_names"},
        {"kind": "lock_swatches", "ids": some[:1], "locked": dice.random() < 0.5},
        {"kind": "tag_palette", "tags": [f"tag {dice.randrange(9)}"]},
        {"kind": "set_columns", "columns": dice.randint(1, 12)},
        {"kind": "adjust_swatches", "ids": free[:3], "hue_turn": dice.randint(1, 90)} if free else {"kind": "suggest_names"},
        {"kind": "add_swatches", "text": f"#{dice.randrange(16**6):06x}"},
        {"kind": "derive_swatches", "derivation": {"kind": "grays", "count": 3}},
        {"kind": "merge_near_twins", "tolerance": 0},
        {"kind": "recolor_swatch", "id": some[0], "text": f"#{dice.randrange(16**6):06x}"},
    ]
    if len(free) > 4:
        steps.append({"kind": "delete_swatches", "ids": free[:1]})
        steps.append({"kind": "merge_swatches", "ids": free[:2], "keep": "average"})
    if len(ids) < 40:
        steps.append({"kind": "duplicate_swatches", "ids": some[:1]})
        steps.append({"kind": "set_slots", "slots": 60 if slots is None else None})
    return dice.choice(steps)


@pytest.mark.parametrize("seed", range(6))
def test_any_sequence_of_steps_can_be_undone_to_the_start(api: Api, seed: int) -> None:
    dice = random.Random(seed)
    palette = api.bench(colors=9)
    first, first_look = api.get(f"/palettes/{palette['id']}/document")["document"], shown(api, palette)
    seen: dict[str, str] = {}
    look = first_look
    for _ in range(16):
        step = any_step(palette, dice)
        before = {swatch["id"]: swatch["hex"] for swatch in palette["swatches"]}
        palette = api.operate(palette, **step)
        ids = [swatch["id"] for swatch in palette["swatches"]]
        assert len(set(ids)) == len(ids), f"an identity doubled after {step}"
        gone = set(seen) - set(before)
        assert not gone & (set(ids) - set(before)), f"an identity came back for another swatch after {step}"
        seen |= before
        now = shown(api, palette)
        if step["kind"] in LOOK_STAYS:
            assert np.array_equal(now, look), f"the picture changed after {step}"
        look = now
    while palette["can_undo"] and palette["revision"] > 1:
        palette = api.post(f"/palettes/{palette['id']}/undo", {"base": palette["revision"]})
    assert api.get(f"/palettes/{palette['id']}/document")["document"] == first
    assert np.array_equal(shown(api, palette), first_look)
    while palette["can_redo"]:
        palette = api.post(f"/palettes/{palette['id']}/redo", {"base": palette["revision"]})
    assert np.array_equal(shown(api, palette), look)
