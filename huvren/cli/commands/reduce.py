"""`huvren reduce`: pictures to few colors."""

import argparse
import json
import time
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import ValidationError

from huvren.cli.arguments import number_between
from huvren.cli.files import progress_of, read_bytes, read_likeliest, read_picture_file, write_bytes, writer_for
from huvren.core.color.arrays import Bytes
from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput
from huvren.core.formats import Document, Format, writers_of
from huvren.core.palette.naming import suggest_name
from huvren.core.palette.values import Palette, Swatch
from huvren.core.picture_kinds import labels_of_pictures
from huvren.core.pictures import Picture
from huvren.core.progress import part_of
from huvren.core.reduction.adopt import adopt, kept_colors
from huvren.core.reduction.afar import FARTHEST, NEAREST
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.dithers import DITHERS
from huvren.core.reduction.grain import FINEST, FREE, GRAINS
from huvren.core.reduction.metrics import METRICS
from huvren.core.reduction.orders import ORDERS
from huvren.core.reduction.recipe import FEWEST, MOST, ReduceRecipe, say
from huvren.core.reduction.reduce import reduce_picture
from huvren.core.reduction.weighing import mask_of_gray


def grain(text: str) -> int:
    """A grain by its name or as a number."""
    named = {label: number for number, label in GRAINS.items()}
    return named[text] if text in named else int(number_between(FREE, FINEST, int)(text))


DESCRIPTION = "Reduce to N colors chosen by CHOOSER, keeping the colors given, dithered as told."


def arguments(parser: argparse.ArgumentParser) -> None:
    percent, count = number_between(0, 100, int), number_between(FEWEST, MOST, int)
    near, contrast = number_between(0, 50, float), number_between(0, 100, float)
    parser.add_argument("inputs", nargs="+", type=Path, metavar="IN", help=f"pictures: {labels_of_pictures()}")
    parser.add_argument("--recipe", type=Path, metavar="FILE.json", help="settings to begin with; options go over them")
    parser.add_argument("--colors", type=count, metavar="N", help="1 to 256; 24 where it is left out")
    parser.add_argument("--chooser", choices=CHOOSERS.ids())
    parser.add_argument("--accent", type=percent, metavar="0..100", help="protect small saturated areas")
    parser.add_argument("--mask", type=Path, metavar="FILE", help="gray picture: black parts are ignored, white ones count eightfold")
    parser.add_argument("--solid", action="append", choices=("black", "white"), help="a solid color that must be there")
    parser.add_argument("--depth", metavar="BITS", help="bits a channel such as 5-6-5, or levels such as 6x6x6")
    parser.add_argument("--from-list", type=Path, metavar="FILE", help="choose from the colors of this file")
    parser.add_argument("--pick", type=count, metavar="K", help="with --from-list: the best K of them")
    parser.add_argument("--keep", nargs="+", action="extend", default=[], metavar="HEX", help="colors that must stay")
    parser.add_argument("--palette", type=Path, metavar="FILE", help="paint with exactly the colors of this file, in its order")
    parser.add_argument("--order", choices=ORDERS.ids(), help="order of the palette")
    parser.add_argument("--space", choices=METRICS.ids(), help="where the nearest color is found")
    parser.add_argument("--dither", choices=DITHERS.ids())
    parser.add_argument("--strength", type=percent, metavar="0..100")
    parser.add_argument("--working", choices=("linear", "oklab"), help="what is mixed and passed on")
    parser.add_argument("--one-way", action="store_true", help="diffuse from left to right in every row")
    parser.add_argument("--flats", type=near, metavar="ΔE", help="leave colors this near to a swatch undithered")
    parser.add_argument("--pair-limit", type=contrast, metavar="ΔE", help="largest contrast of a dithered pair")
    parser.add_argument("--tile", metavar="WxH:M", help="at most M colors in each tile, such as 8x8:4")
    parser.add_argument(
        "--tune",
        action=argparse.BooleanOptionalAction,
        default=None,
        help="choose the colors for what the dither mixes of them; on where it is left out",
    )
    parser.add_argument(
        "--distance",
        type=number_between(NEAREST, FARTHEST, int),
        metavar="N",
        help="pixels a degree of the view, for the figure from afar and for --tune; 40 where it is left out",
    )
    parser.add_argument(
        "--grain",
        type=grain,
        metavar="N",
        help="how fine tuned colors look close up: free, fine, finest, or 0 to 100; fine where it is left out",
    )
    parser.add_argument("--search-longer", action="store_true", help="look longer for better colors: seconds instead of tenths")
    parser.add_argument("--flatten", metavar="COLOR", help="lay clear pixels over a color")
    parser.add_argument("--out", type=Path, metavar="OUT.png")
    parser.add_argument("--out-dir", type=Path, metavar="DIR", help="for several pictures")
    parser.add_argument("--save-palette", type=Path, metavar="FILE", help="with --out-dir its ending is used for each")
    parser.add_argument("--json", action="store_true", help="print figures as one JSON object")


def _tile(text: str) -> dict[str, int]:
    """`8x8:4` → width, height and colors of a tile limit."""
    try:
        size, _, colors = text.partition(":")
        width, height = (int(part) for part in size.lower().replace("×", "x").split("x"))
        return {"width": width, "height": height, "colors": int(colors)}
    except ValueError:
        raise BadInput(f"“{text[:20]}” is no tile limit. Write width x height : colors, such as 8x8:4.") from None


def _overrides(options: argparse.Namespace) -> dict[str, Any]:
    """The settings given as options, by the recipe's names."""
    given = {
        "colors": options.colors, "chooser": options.chooser, "dither": options.dither, "strength": options.strength,
        "accent": options.accent, "space": options.space, "depth": options.depth, "order": options.order,
        "working": options.working, "flats": options.flats, "pair_limit": options.pair_limit, "flatten": options.flatten,
        "solid": options.solid or None, "tile": _tile(options.tile) if options.tile else None,
        "tune": options.tune, "distance": options.distance, "grain": options.grain,
        "search": "longer" if options.search_longer else None,
        "serpentine": False if options.one_way else None,
    }  # fmt: skip
    if options.depth and not options.chooser:
        given["chooser"] = "channel-depth"
    if options.from_list:
        listed = read_likeliest(options.from_list).found.palette
        given |= {"listed": [s.color.hex for s in listed.swatches if s.color.alpha > 0], "list_name": listed.name}
        if not options.chooser:
            given["chooser"] = "best-of-list" if options.pick else "fixed-list"
        if options.pick:
            given["colors"] = options.pick
    return {name: value for name, value in given.items() if value is not None}


def recipe_of(options: argparse.Namespace) -> ReduceRecipe:
    """The recipe of `--recipe`, if any, with the options over it. Raises `BadInput` in words."""
    document: Any = {}
    if options.recipe:
        try:
            document = json.loads(read_bytes(options.recipe))
        except ValueError as error:
            raise BadInput(f"“{options.recipe.name}” is not sound JSON: {error}.") from error
        if not isinstance(document, dict):
            raise BadInput(f'“{options.recipe.name}” holds no recipe; an object such as {{"colors": 16}} was expected.')
    try:
        return ReduceRecipe.model_validate({**document, **_overrides(options)})
    except ValidationError as error:
        first = error.errors()[0]
        place = " › ".join(str(part) for part in first["loc"])
        raise BadInput(f"The recipe cannot be used: {place}: {first['msg'].removeprefix('Value error, ').rstrip('.')}.") from error


def _places(options: argparse.Namespace) -> list[Path]:
    if options.out is not None:
        if len(options.inputs) > 1:
            raise BadInput(f"--out takes one file, but {len(options.inputs)} were given. Use --out-dir for several.")
        if options.out.suffix.lower() != ".png":
            raise BadInput(f"“{options.out}” does not end in .png; reduced pictures are written as indexed PNG.")
        return [options.out]
    if options.out_dir is None:
        raise BadInput("Say where the result goes, with --out OUT.png or --out-dir DIR.")
    if not options.out_dir.is_dir():
        raise BadInput(f"“{options.out_dir}” is no folder. Make it first.")
    places = [options.out_dir / f"{path.stem}.png" for path in options.inputs]
    for place in places:
        if places.count(place) > 1:
            raise BadInput(f"Two of the pictures would both be written to “{place}”. Reduce them one by one with --out.")
        if place.resolve() in {path.resolve() for path in options.inputs}:
            raise BadInput(f"“{place}” would be written over itself. Choose another folder.")
    return places


def _mask(path: Path, picture: Picture) -> Bytes:
    gray = read_picture_file(path).rgba[..., :3].mean(axis=2)
    return mask_of_gray(np.rint(gray).astype(np.uint8), picture.width, picture.height)


def _reduce_one(options: argparse.Namespace, path: Path, out: Path, recipe: ReduceRecipe, target: Format | None) -> dict[str, Any]:
    clock = time.perf_counter()
    watch = progress_of(path.name)
    watch("reading", 0.0)
    picture = read_picture_file(path)
    seconds = {"read": time.perf_counter() - clock}
    locked = [Swatch(c, suggest_name(c), locked=True) for c in (parse_color(text) for text in options.keep)]
    palette = Palette(path.stem, tuple(locked))
    if options.palette:
        found = read_likeliest(options.palette).found.palette
        recipe = recipe.model_copy(update={"chooser": "as-it-is"})
        palette = Palette(found.name, (*locked, *found.swatches), found.groups)
        if len(palette.swatches) > MOST:
            raise BadInput(f"“{options.palette.name}” makes {len(palette.swatches)} colors; an indexed picture holds {MOST}.")
    mask = _mask(options.mask, picture) if options.mask else None
    keep = kept_colors(palette, recipe)
    reduction = reduce_picture(picture.rgba, recipe, keep, watch=part_of(watch, 0.2, 0.8), mask=mask)
    watch("writing", 0.8)
    adopted = adopt(palette, reduction, recipe, path.name)
    place = {swatch.id: index for index, swatch in enumerate(adopted.palette.swatches)}
    order = np.array([place[swatch_id] for swatch_id in adopted.table] or [0], dtype=np.uint8)
    clock = time.perf_counter()
    data = writers_of("picture")[0].written(Document(adopted.palette, (order[reduction.indices],)))
    write_bytes(out, data)
    if target is not None:
        where = options.save_palette if options.out else out.with_suffix(target.endings[0])
        write_bytes(where, target.written(Document(adopted.palette)))
    watch("done", 1.0)
    seconds |= {**reduction.seconds, "write": time.perf_counter() - clock}
    counts: dict[str, int] = {}
    for index, swatch_id in enumerate(adopted.table):
        counts[swatch_id] = counts.get(swatch_id, 0) + int(reduction.figures.counts[index])
    figures, pixels = reduction.figures, picture.width * picture.height
    said = f"Painted with the {len(keep)} colors of {options.palette.name}." if options.palette else say(recipe, len(keep))
    return {
        "in": str(path), "out": str(out), "sentence": said, "recipe": recipe.model_dump(),
        "distinct": figures.distinct, "used": figures.used,
        "mean": round(figures.mean, 4), "p95": round(figures.p95, 4), "max": round(figures.max, 4),
        "afar": round(figures.afar, 4), "bytes": len(data),
        "colors": [
            {"hex": s.color.hex, "name": s.name, "coverage": round(counts.get(s.id, 0) / pixels, 6)} for s in adopted.palette.swatches
        ],
        "notes": [*picture.notes, *reduction.notes],
        "seconds": {step: round(value, 4) for step, value in seconds.items()},
    }  # fmt: skip


def run(options: argparse.Namespace) -> int:
    target = writer_for(options.save_palette) if options.save_palette else None
    places = _places(options)
    recipe = recipe_of(options)
    made = []
    for path, out in zip(options.inputs, places, strict=True):
        figures = _reduce_one(options, path, out, recipe, target)
        made.append(figures)
        if options.json:
            continue
        if len(places) > 1:
            print(f"{path.name} → {out}")
        print(figures["sentence"])
        print(f"{figures['distinct']:,} colors in the picture · {figures['used']} used · mean ΔE {figures['mean']:.2f} · "
              f"95 % under {figures['p95']:.2f} · from afar {figures['afar']:.2f} · "
              f"file {figures['bytes'] / 1024:,.0f} KB")  # fmt: skip
        for note in figures["notes"]:
            print(note)
    if options.json:
        print(json.dumps(made[0] if len(made) == 1 else {"files": made}, ensure_ascii=False))
    return 0
