"""The `huvren` command: a thin shell over the core.

Exit status: 0 done, 1 bad input (one sentence on standard error), 2 wrong use.
"""

import argparse
import gc
import os
import sys
from collections.abc import Sequence
from importlib import import_module

from huvren import __version__
from huvren.cli.commands import COMMANDS
from huvren.core.errors import HuvrenError


def build_parser(called: str | None) -> argparse.ArgumentParser:
    """The command line: every command by name, and the one that is called with its arguments."""
    parser = argparse.ArgumentParser(prog="huvren", description="Palettes, reductions and ramps from the command line.")
    parser.add_argument("--version", action="version", version=f"huvren {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for name, text in COMMANDS.items():
        command = commands.add_parser(name, help=text)
        if name == called:
            module = import_module(f"huvren.cli.commands.{name.replace('-', '_')}")
            command.description = module.DESCRIPTION
            module.arguments(command)
            command.set_defaults(run=module.run)
    return parser


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit status."""
    words = sys.argv[1:] if arguments is None else list(arguments)
    options = build_parser(next((word for word in words if not word.startswith("-")), None)).parse_args(words)
    gc.enable()
    try:
        status = int(options.run(options))
        sys.stdout.flush()
        return status
    except HuvrenError as error:
        print(f"huvren: {error}", file=sys.stderr)
        return 1
    except BrokenPipeError:
        # Whoever reads the lines has seen enough. What Python flushes when it ends goes nowhere then.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
