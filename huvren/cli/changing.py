"""Commands that change one palette file by one step."""

import argparse
import json
from collections.abc import Callable

from huvren.cli.files import listed, loss_said, read_likeliest, write_bytes, writer_for
from huvren.core.formats import Document
from huvren.core.formats.report import keep_report
from huvren.core.palette.values import Palette

Step = Callable[[Palette], tuple[str, Palette]]
"""What the step is called, and the palette after it."""


def change(options: argparse.Namespace, step: Step) -> int:
    """Read a palette, take one step, write it, say what happened."""
    target = writer_for(options.out)
    reading = read_likeliest(options.file)
    before = reading.found.palette
    label, after = step(before)
    document = Document(after)
    held = target.palette_as_held(document)
    write_bytes(options.out, target.written(document, held))
    losses = keep_report(target, document, reading.keeps, held)
    if options.json:
        print(json.dumps({
            "step": label, "before": len(before.swatches), "after": len(after.swatches),
            "colors": listed(after), "losses": [loss_said(loss) for loss in losses],
        }, ensure_ascii=False))  # fmt: skip
        return 0
    print(f"{label}: {len(before.swatches):,} swatches in, {len(after.swatches):,} out.")
    for loss in losses:
        print(f"{target.label}: {loss.text}")
    return 0
