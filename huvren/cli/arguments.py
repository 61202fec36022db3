"""Readers of arguments. Nothing else is imported here, so that a command about colors does not wait for formats."""

import argparse
from collections.abc import Callable
from typing import Any


def number_between(low: float, high: float, kind: type) -> Callable[[str], Any]:
    """A reader of numbers for argparse, with a sentence for those out of range."""

    def number(text: str) -> Any:
        value = kind(text)
        if not low <= value <= high:
            raise argparse.ArgumentTypeError(f"{text} is not between {low:g} and {high:g}")
        return value

    return number
