"""The `huvren` command: a thin shell over the core, one file for each family of commands."""

from huvren.cli.main import main

__all__ = ["main"]
