"""`huvren formats`: what can be read and written."""

import argparse
import json
from typing import Any

from huvren.core.formats import FORMATS
from huvren.core.palette.fields import losable_fields_of
from huvren.core.palette.values import Group, Palette, Swatch

DESCRIPTION = "List the formats that can be read and written, and what each keeps."


FIELD_KEYS = [field.key for owner in (Swatch, Group, Palette) for field in losable_fields_of(owner)]


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--json", action="store_true")


def run(options: argparse.Namespace) -> int:
    rows: list[dict[str, Any]] = [
        {
            "id": entry.id, "endings": list(entry.endings), "kind": entry.kind, "media_type": entry.media_type,
            "reads": entry.read is not None, "writes": entry.write is not None, "use": entry.use,
            "keeps": {
                "title": entry.keeps.title, "names": entry.keeps.names, "groups": entry.keeps.groups,
                "alpha": entry.keeps.alpha, "ids": entry.keeps.ids,
                "fields": [key for key in FIELD_KEYS if entry.keeps.holds(key)], "spaces": list(entry.keeps.spaces),
                "depth_bits": entry.keeps.depth_bits,
                "most": entry.keeps.most,
            },
        }
        for entry in FORMATS
    ]  # fmt: skip
    if options.json:
        print(json.dumps({"formats": rows}))
    else:
        for row in rows:
            print(f"{row['id']:<13} {'/'.join(row['endings'][:3]):<16} {row['kind']:<22} {row['use']}")
    return 0
