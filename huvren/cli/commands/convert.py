"""`huvren convert`: palette files into another format, with what is lost on the way."""

import argparse
import json
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from huvren.cli.arguments import number_between
from huvren.cli.files import loss_said, palette_writers, read_bytes, write_bytes
from huvren.core.errors import BadInput
from huvren.core.formats import Document, Format, Found, TooManyColors, is_picture
from huvren.core.formats.readings import Reading, read_palettes
from huvren.core.formats.report import Loss, keep_report
from huvren.core.palette.values import Palette

DESCRIPTION = "Deliver every file as FORMAT, in order, and say what each keeps."


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("inputs", type=Path, nargs="+", metavar="IN", help="palettes, pictures of few colors, or any text")
    parser.add_argument("--to", required=True, metavar="FORMAT", help=", ".join(f.id for f in palette_writers()))
    parser.add_argument("--set", action="append", default=[], metavar="OPTION=CHOICE", help="an option of the format")
    parser.add_argument("--alpha", choices=("first", "last"), help="where codes of eight digits have their alpha; else the likelier")
    parser.add_argument("--doubtful", action="store_true", help="take finds in a text as well that may be no colors")
    parser.add_argument("--colors", type=number_between(1, 256, int), metavar="N", help="reduce pictures to N colors first")
    where = parser.add_mutually_exclusive_group()
    where.add_argument("--out", type=Path, metavar="PATH")
    where.add_argument("--out-dir", type=Path, metavar="DIR")
    parser.add_argument("--json", action="store_true", help="print the keep report as one JSON object")
    parser.add_argument("--strict", action="store_true", help="fail, and write nothing, if anything would be lost")


def _reading(path: Path, colors: int | None, alpha: str | None, doubtful: bool) -> Reading:
    """What a file holds; a picture of many colors is reduced to `colors` where that is given."""
    data = read_bytes(path)
    if colors is None or not is_picture(data):
        try:
            readings = read_palettes(data, path.name)
            chosen = next((reading for reading in readings if alpha and reading.way == f"alpha {alpha}"), readings[0])
            return chosen if doubtful else replace(chosen, found=chosen.found.without_doubtful())
        except TooManyColors as error:
            raise BadInput(f"“{path.name}” has too many colors of its own to be a palette. Reduce it with --colors N.") from error
    from huvren.core.pictures import read_picture
    from huvren.core.reduction.adopt import adopt
    from huvren.core.reduction.recipe import ReduceRecipe
    from huvren.core.reduction.reduce import reduce_picture

    recipe = ReduceRecipe(colors=colors)
    reduction = reduce_picture(read_picture(data, path.name).rgba, recipe)
    return Reading(None, Found(adopt(Palette(path.stem), reduction, recipe, path.name).palette))


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


def run(options: argparse.Namespace) -> int:
    target = _target(options.to)
    chosen = _options(options.set, target)
    places = _places(options, target)
    # Everything is read and written to memory first: one bad file, or one loss with --strict, and no file is written.
    made: list[tuple[Path, Path, Reading, bytes, list[Loss]]] = []
    for path, place in zip(options.inputs, places, strict=True):
        reading = _reading(path, options.colors, options.alpha, options.doubtful)
        document = Document(reading.found.palette, options=chosen)
        held = target.palette_as_held(document)
        losses = keep_report(target, document, reading.keeps, held)
        if options.strict and losses:
            raise BadInput(f"“{path.name}” as {target.label}: {'; '.join(loss.text for loss in losses)}. Nothing was written.")
        made.append((path, place, reading, target.written(document, held), losses))
    for _, place, _, data, _ in made:
        write_bytes(place, data)
    if options.json:
        print(json.dumps({"files": [
            {
                "in": str(path), "out": str(place), "read_as": reading.format.id if reading.format else "reduction",
                "written_as": target.id,
                "colors": len(reading.found.palette.swatches), "bytes": len(data), "losses": [loss_said(loss) for loss in losses],
                "notes": list(reading.found.notes),
            }
            for path, place, reading, data, losses in made
        ]}, ensure_ascii=False))  # fmt: skip
        return 0
    for path, place, reading, _, losses in made:
        said = "; ".join(loss.text for loss in losses) or "nothing is lost"
        print(f"{path.name} ({reading.label}) → {place}: {len(reading.found.palette.swatches):,} colors; {said}.")
    return 0
