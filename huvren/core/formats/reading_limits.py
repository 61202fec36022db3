"""How much a reader takes on: declared by each format, checked before any work is done."""

from dataclasses import dataclass

from huvren.core.errors import TooLarge

MOST_BYTES = 80 * 1024 * 1024


@dataclass(frozen=True)
class Count:
    """A mark that may stand in a file only so often, and what each stands for."""

    mark: bytes
    """Bytes that are counted."""
    most: int
    """How often they may stand there."""
    parts: str
    """What is counted, in words."""


LINES = (Count(b"\n", 250_000, "lines"), Count(b"\r", 250_000, "lines"))
"""For tables of text: more lines than any palette has swatches, with room for comments."""


@dataclass(frozen=True)
class ReadingLimits:
    """What keeps a reader within a second and 256 MB whatever it is given: bytes, and marks that cost time or memory each."""

    most_bytes: int = MOST_BYTES
    """Of the file."""
    counts: tuple[Count, ...] = ()
    """What else is counted."""
    longest_line: int | None = None
    """Bytes that a line may have; None where lines mean nothing."""

    def check(self, data: bytes, label: str) -> None:
        """Raises `TooLarge`, in words, for a file beyond the limits."""
        if len(data) > self.most_bytes:
            raise TooLarge(
                f"It has {len(data) / 1e6:,.1f} MB; {label} is read up to {self.most_bytes / 1e6:,.1f} MB."
                " Split it, or save it smaller."
            )
        for count in self.counts:
            if (found := data.count(count.mark)) > count.most:
                raise TooLarge(f"It has {found:,} {count.parts}; {count.most:,} is the most that is read. Split it first.")
        if self.longest_line is not None and len(data) > self.longest_line:
            _check_lines(data, self.longest_line)


def _check_lines(data: bytes, longest: int) -> None:
    line, begin = 1, 0
    while begin < len(data):
        end = data.find(b"\n", begin)
        end = len(data) if end < 0 else end
        if end - begin > longest:
            raise TooLarge(f"Line {line:,} has {end - begin:,} bytes; {longest:,} is the most that a line is read with.")
        line, begin = line + 1, end + 1
