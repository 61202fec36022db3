"""What follows the colors of swatches by itself: names that nobody gave, and ramps with what was baked from them."""

from dataclasses import replace

from huvren.core.palette.baking import baked_again, follows
from huvren.core.palette.naming import Namer, says_no_more, suggest_names
from huvren.core.palette.values import Palette, Swatch
from huvren.core.ramp.makers import remade


def _recolored(before: Palette, after: Palette) -> list[tuple[Swatch, Swatch]]:
    """The swatches that are in both and have another color, as they were and as they are."""
    known = {swatch.id: swatch for swatch in before.swatches}
    pairs = ((known.get(swatch.id), swatch) for swatch in after.swatches)
    return [(old, new) for old, new in pairs if old is not None and old.color is not new.color and old.color != new.color]


def with_fitting_names(before: Palette, after: Palette) -> Palette:
    """`after` with names that still say the color of `before` said anew: those that are the suggested words for it, copies and
    numbers included. A name that says anything else was given by somebody and stays."""
    pairs = [(old, new) for old, new in _recolored(before, after) if old.name == new.name]
    if not pairs:
        return after
    said = suggest_names([old.color for old, _ in pairs])
    words = suggest_names([new.color for _, new in pairs])
    wrong = {
        new.id: word for (old, new), was, word in zip(pairs, said, words, strict=True) if was != word and says_no_more(old.name, was)
    }
    if not wrong:
        return after
    namer = Namer(swatch.name for swatch in after.swatches if swatch.id not in wrong)
    return after.change_all({s.id: replace(s, name=namer.give(wrong[s.id])) for s in after.swatches if s.id in wrong})


def with_followed_ramps(before: Palette, after: Palette) -> tuple[Palette, tuple[str, ...]]:
    """`after` with ramps made anew whose one swatch has another color, and with what was baked from following ramps as they are now.

    Only what followed before and has as many steps follows: a ramp that was changed itself is baked again by hand.
    """
    known = {ramp.id: ramp for ramp in before.ramps}
    notes: list[str] = []
    done: set[str] = set()
    # One that hangs on the swatches of another comes after it, wherever it stands.
    while True:
        changed = {new.id for _, new in _recolored(before, after)}
        ramp = next((ramp for ramp in after.ramps if ramp.id not in done and ramp.plan.tied() & changed), None) if changed else None
        if ramp is None:
            return after, tuple(notes)
        done.add(ramp.id)
        was = known.get(ramp.id)
        if was is None or not was.following or not ramp.following:
            continue
        anew = replace(ramp, plan=remade(ramp.plan, after.color_of))
        after = after.with_ramps(anew if other.id == ramp.id else other for other in after.ramps)
        if ramp.baked and ramp.plan.steps == len(ramp.baked) and follows(was, before):
            after, said = baked_again(anew, after)
            notes.extend(said)


def followed(before: Palette, after: Palette) -> tuple[Palette, tuple[str, ...]]:
    """Both, ramps first, and what is to be said."""
    after, notes = with_followed_ramps(before, after)
    return with_fitting_names(before, after), notes
