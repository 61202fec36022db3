"""`huvren ramp`, `merge`, `sort`, `mix`, `match` and `convert`: palettes in, palettes out."""

import argparse
import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from huvren.cli.files import listed, number_between, palette_writers, read_bytes, read_likeliest, write_bytes, writer_for
from huvren.core.color.mixing import MODELS, ladder, mix
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput
from huvren.core.formats import FORMATS, Document, Format, Found
from huvren.core.formats.readings import Reading, is_picture, read_palettes
from huvren.core.formats.report import Loss, keep_report
from huvren.core.palette.clusters import MOST_CLUSTERED
from huvren.core.palette.matching import match
from huvren.core.palette.merging import SURVIVORS
from huvren.core.palette.naming import suggest_name
from huvren.core.palette.operations import Operation
from huvren.core.palette.operations.merge import MergeNearTwins, MergeToCount
from huvren.core.palette.operations.sort import SmoothOrder, SortSwatches
from huvren.core.palette.sorting import SORT_KEYS
from huvren.core.palette.values import Palette
from huvren.core.pictures import read_picture
from huvren.core.ramp.css import write_css
from huvren.core.ramp.profile import profile
from huvren.core.ramp.recipe import FEWEST_STEPS, MOST_STEPS, RampRecipe, RampStop, bake, say, stops_of
from huvren.core.ramp.ways import HUE_ROUTES, WAYS
from huvren.core.reduction.adopt import adopt
from huvren.core.reduction.recipe import FEWEST, MOST, ReduceRecipe
from huvren.core.reduction.reduce import reduce_picture


def _ramp(options: argparse.Namespace) -> int:
    recipe = RampRecipe(
        stops=[RampStop(text=text[:200]) for text in options.colors[:64]], steps=options.steps, space=options.space, hue=options.hue
    )
    if len(options.colors) > 64:
        raise BadInput(f"A ramp takes at most 64 colors; {len(options.colors)} were given.")
    stops = stops_of(recipe, lambda name: stops[0].color)
    colors = bake(recipe, stops)
    if options.css:
        print(write_css(recipe, stops), end="")
        return 0
    drawn = profile(stops, recipe.space, recipe.hue)
    if options.json:
        print(json.dumps({
            "sentence": say(recipe, options.colors),
            "recipe": recipe.model_dump(),
            "colors": [
                {"hex": c.hex, "space": c.space, "coords": [round(v, 6) for v in c.coords], "alpha": c.alpha, "in_srgb": c.in_srgb}
                for c in colors
            ],
            "dip": round(drawn.dip, 4), "rise": round(drawn.rise, 4), "outside": round(drawn.outside, 4),
        }, ensure_ascii=False))  # fmt: skip
        return 0
    for color in colors:
        print(color.hex)
    return 0


def _change(options: argparse.Namespace, operation: Operation) -> int:
    """Read a palette, apply one operation, write it, say what happened."""
    target = writer_for(options.out)
    reading = read_likeliest(options.file)
    before = reading.found.palette
    after = operation.apply(before).palette
    document = Document(after)
    assert target.write is not None
    write_bytes(options.out, target.write(target.placed(document)))
    losses = keep_report(target, document, reading.format.keeps)
    if options.json:
        print(json.dumps({
            "step": operation.label(before), "before": len(before.swatches), "after": len(after.swatches),
            "colors": listed(after), "losses": [_loss(loss) for loss in losses],
        }, ensure_ascii=False))  # fmt: skip
        return 0
    print(f"{operation.label(before)}: {len(before.swatches):,} swatches in, {len(after.swatches):,} out.")
    for loss in losses:
        print(f"{target.label}: {loss.text}")
    return 0


def _merge(options: argparse.Namespace) -> int:
    if options.to is not None:
        return _change(options, MergeToCount(count=options.to, keep=options.keep))
    return _change(options, MergeNearTwins(tolerance=options.tolerance, keep=options.keep))


def _sort(options: argparse.Namespace) -> int:
    if options.smooth:
        return _change(options, SmoothOrder())
    keys = [key.strip() for key in options.by.split(",")]
    for key in keys:
        SORT_KEYS[key]
    return _change(options, SortSwatches(keys=keys, descending=options.descending))


def _mix(options: argparse.Namespace) -> int:
    colors = [parse_color(text) for text in options.colors]
    if len(colors) < 2:
        raise BadInput("Mixing needs two colors or more. Name another one.")
    try:
        parts = [float(part) for part in options.parts.split(":")] if options.parts else [1.0] * len(colors)
    except ValueError:
        raise BadInput(f"“{options.parts[:40]}” are no parts. Write numbers with colons between, such as 3:1.") from None
    mixed = mix(colors, parts, options.model)
    steps = ladder(colors[0], colors[1], options.steps, options.model) if options.steps else []
    if options.steps and len(colors) != 2:
        raise BadInput(f"A ladder goes between two colors; {len(colors)} were given.")
    if options.json:
        said = {"hex": mixed.hex, "name": suggest_name(mixed), "ladder": [color.hex for color in steps]}
        print(json.dumps(said, ensure_ascii=False))
        return 0
    for color in steps or [mixed]:
        print(f"{color.hex}  {suggest_name(color)}")
    return 0


def _match(options: argparse.Namespace) -> int:
    first, second = (read_likeliest(path).found.palette for path in (options.first, options.second))
    found = match(first.swatches, second.swatches)
    if options.json:
        rows = [
            {
                "hex": m.swatch.color.hex, "name": m.swatch.name,
                "nearest": None if m.place is None else second.swatches[m.place].color.hex,
                "index": m.place, "delta": None if m.place is None else round(m.delta, 4),
            }
            for m in found
        ]  # fmt: skip
        print(json.dumps({"matches": rows}, ensure_ascii=False))
        return 0
    for m in found:
        partner = None if m.place is None else second.swatches[m.place]
        said = f"{partner.color.hex}  {partner.name:<24} ΔE {m.delta:.2f}" if partner else "nothing of the same alpha"
        print(f"{m.swatch.color.hex}  {m.swatch.name:<24} {said}")
    return 0


def _loss(loss: Loss) -> dict[str, Any]:
    return {"code": loss.code, "text": loss.text, "count": loss.count, "worst": None if loss.worst is None else round(loss.worst, 4)}


def _reading(path: Path, colors: int | None) -> Reading:
    """What a file holds; a picture of many colors is reduced to `colors` where that is given."""
    data = read_bytes(path)
    if colors is None or not is_picture(data):
        try:
            return read_palettes(data, path.name)[0]
        except BadInput as error:
            if not is_picture(data) or "too many colors" not in str(error):
                raise
            raise BadInput(f"“{path.name}” has too many colors of its own to be a palette. Reduce it with --colors N.") from error
    recipe = ReduceRecipe(colors=colors)
    reduction = reduce_picture(read_picture(data, path.name).rgba, recipe)
    return Reading(FORMATS["own-colors"], Found(adopt(Palette(path.stem), reduction, recipe, path.name).palette), is_reduction=True)


def _target(name: str) -> Format:
    """A format by its id, or by an ending with or without its dot."""
    writers = palette_writers()
    ending = "." + name.lower().lstrip(".")
    found = next((f for f in writers if f.id == name), None) or next((f for f in writers if ending in f.endings), None)
    if found is None:
        raise BadInput(f"There is no format “{name}” to write. Choose one of: {', '.join(f.id for f in writers)}.")
    return found


def _options(pairs: Sequence[str], target: Format) -> dict[str, str]:
    chosen = {}
    for pair in pairs:
        name, _, value = pair.partition("=")
        if name not in {option.id for option in target.options}:
            raise BadInput(f"{target.label} has no option “{name}”.")
        chosen[name] = value
    return chosen


def _places(options: argparse.Namespace, target: Format) -> list[Path]:
    """Where each input goes. Raises `BadInput` where two would be written to one place, or an input over."""
    if options.out is not None:
        if len(options.inputs) > 1:
            raise BadInput(f"--out takes one file, but {len(options.inputs)} were given. Use --out-dir for several.")
        return [options.out]
    folder = options.out_dir
    if folder is not None and not folder.is_dir():
        raise BadInput(f"“{folder}” is no folder. Make it first.")
    places = [(folder or path.parent) / f"{path.stem}{target.endings[0]}" for path in options.inputs]
    for path, place in zip(options.inputs, places, strict=True):
        if place.resolve() == path.resolve():
            raise BadInput(f"“{place}” would be written over itself. Name another place with --out or --out-dir.")
        if places.count(place) > 1:
            raise BadInput(f"Two of the files would both be written to “{place}”. Convert them one by one with --out.")
    return places


def _convert(options: argparse.Namespace) -> int:
    target = _target(options.to)
    chosen = _options(options.set, target)
    places = _places(options, target)
    # Everything is read and written to memory first: one bad file, or one loss with --strict, and no file is written.
    made: list[tuple[Path, Path, Reading, bytes, list[Loss]]] = []
    for path, place in zip(options.inputs, places, strict=True):
        reading = _reading(path, options.colors)
        document = Document(reading.found.palette, options=chosen)
        assert target.write is not None
        losses = keep_report(target, document, reading.format.keeps)
        if options.strict and losses:
            raise BadInput(f"“{path.name}” as {target.label}: {'; '.join(loss.text for loss in losses)}. Nothing was written.")
        made.append((path, place, reading, target.write(target.placed(document)), losses))
    for _, place, _, data, _ in made:
        write_bytes(place, data)
    if options.json:
        print(json.dumps({"files": [
            {
                "in": str(path), "out": str(place), "read_as": reading.format.id, "written_as": target.id,
                "colors": len(reading.found.palette.swatches), "bytes": len(data), "losses": [_loss(loss) for loss in losses],
                "notes": list(reading.found.notes),
            }
            for path, place, reading, data, losses in made
        ]}, ensure_ascii=False))  # fmt: skip
        return 0
    for path, place, reading, _, losses in made:
        said = "; ".join(loss.text for loss in losses) or "nothing is lost"
        print(f"{path.name} ({reading.label}) → {place}: {len(reading.found.palette.swatches):,} colors; {said}.")
    return 0


def add_commands(commands: Any) -> None:
    """The commands of this file."""
    ramp = commands.add_parser(
        "ramp", help="colors between colors",
        description="Ramp from the first COLOR through the others to the last in N steps, in SPACE.",
    )  # fmt: skip
    ramp.add_argument("colors", nargs="+", metavar="COLOR", help="any notation, for example '#262b5c' or 'oklch(0.8 0.1 85)'")
    ramp.add_argument("--steps", type=number_between(FEWEST_STEPS, MOST_STEPS, int), default=9, metavar="N", help="2 to 64, else 9")
    ramp.add_argument("--space", choices=WAYS.ids(), default="oklab")
    ramp.add_argument("--hue", choices=HUE_ROUTES.ids(), default="shorter", help="the way round the hue circle, for oklch")
    form = ramp.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help="print colors and figures as one JSON object")
    form.add_argument("--css", action="store_true", help="print a CSS gradient with an sRGB stand-in")
    ramp.set_defaults(run=_ramp)

    merge = commands.add_parser(
        "merge", help="merge near twins", description="Merge swatches within TOLERANCE ΔE of each other, keeping RULE."
    )
    merge.add_argument("file", type=Path, metavar="FILE")
    tolerance = number_between(0, 100, float)
    how_far = merge.add_mutually_exclusive_group(required=True)
    how_far.add_argument("--tolerance", type=tolerance, metavar="T", help="ΔE in OKLab × 100; 2 is hard to see, 0 for exact twins")
    how_far.add_argument("--to", type=number_between(1, MOST_CLUSTERED, int), metavar="N", help="until N swatches are left")
    merge.add_argument("--keep", choices=SURVIVORS.ids(), default="first", help="who stays of each cluster")
    merge.add_argument("--out", type=Path, required=True, metavar="FILE")
    merge.add_argument("--json", action="store_true")
    merge.set_defaults(run=_merge)

    sort = commands.add_parser("sort", help="sort a palette", description="Sort all swatches, each group by itself, by KEYS.")
    sort.add_argument("file", type=Path, metavar="FILE")
    how = sort.add_mutually_exclusive_group(required=True)
    how.add_argument("--smooth", action="store_true", help="along a short path through OKLab, so that neighbors differ little")
    how.add_argument("--by", metavar="KEYS", help=f"some of {','.join(SORT_KEYS.ids())}; all but the last are coarse")
    sort.add_argument("--descending", action="store_true")
    sort.add_argument("--out", type=Path, required=True, metavar="FILE")
    sort.add_argument("--json", action="store_true")
    sort.set_defaults(run=_sort)

    mixing = commands.add_parser("mix", help="mix colors by parts", description="Mix COLORS by PARTS as paint or as light.")
    mixing.add_argument("colors", nargs="+", metavar="COLOR")
    mixing.add_argument("--parts", metavar="P:P", help="such as 3:1; equal parts where left out")
    mixing.add_argument("--model", choices=tuple(MODELS), default="pigment")
    mixing.add_argument("--steps", type=number_between(1, 64, int), metavar="N", help="the ladder between two colors instead")
    mixing.add_argument("--json", action="store_true")
    mixing.set_defaults(run=_mix)

    matching = commands.add_parser(
        "match", help="each swatch and its nearest in another palette", description="For each swatch of FIRST, its nearest in SECOND."
    )
    matching.add_argument("first", type=Path, metavar="FIRST")
    matching.add_argument("second", type=Path, metavar="SECOND")
    matching.add_argument("--json", action="store_true")
    matching.set_defaults(run=_match)

    convert = commands.add_parser(
        "convert", help="palette files into another format",
        description="Deliver every file as FORMAT, in order, and say what each keeps.",
    )  # fmt: skip
    convert.add_argument("inputs", type=Path, nargs="+", metavar="IN", help="palettes, pictures of few colors, or any text")
    convert.add_argument("--to", required=True, metavar="FORMAT", help=", ".join(f.id for f in palette_writers()))
    convert.add_argument("--set", action="append", default=[], metavar="OPTION=CHOICE", help="an option of the format")
    convert.add_argument("--colors", type=number_between(FEWEST, MOST, int), metavar="N", help="reduce pictures to N colors first")
    where = convert.add_mutually_exclusive_group()
    where.add_argument("--out", type=Path, metavar="PATH")
    where.add_argument("--out-dir", type=Path, metavar="DIR")
    convert.add_argument("--json", action="store_true", help="print the keep report as one JSON object")
    convert.add_argument("--strict", action="store_true", help="fail, and write nothing, if anything would be lost")
    convert.set_defaults(run=_convert)
