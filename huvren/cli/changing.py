"""Commands that change one palette file by one operation."""

import argparse
import json

from huvren.cli.files import listed, loss_said, read_likeliest, write_bytes, writer_for
from huvren.core.formats import Document
from huvren.core.formats.report import keep_report
from huvren.core.palette.operations import Operation


def change(options: argparse.Namespace, operation: Operation) -> int:
    """Read a palette, apply one operation, write it, say what happened."""
    target = writer_for(options.out)
    reading = read_likeliest(options.file)
    before = reading.found.palette
    after = operation.apply(before).palette
    document = Document(after)
    write_bytes(options.out, target.written(target.placed(document)))
    losses = keep_report(target, document, reading.kept)
    if options.json:
        print(json.dumps({
            "step": operation.label(before), "before": len(before.swatches), "after": len(after.swatches),
            "colors": listed(after), "losses": [loss_said(loss) for loss in losses],
        }, ensure_ascii=False))  # fmt: skip
        return 0
    print(f"{operation.label(before)}: {len(before.swatches):,} swatches in, {len(after.swatches):,} out.")
    for loss in losses:
        print(f"{target.label}: {loss.text}")
    return 0
