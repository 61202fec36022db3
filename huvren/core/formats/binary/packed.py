"""Reading binary files: a cursor that knows its offset and never reads past the end."""

import struct

from huvren.core.errors import BadFile


class Cursor:
    """Bytes taken from the front, with errors that name the offset. `order` is `>` or `<`."""

    def __init__(self, data: bytes, order: str) -> None:
        self.data, self.order, self.offset = data, order, 0

    @property
    def left(self) -> int:
        return len(self.data) - self.offset

    def take(self, count: int, what: str) -> bytes:
        """The next `count` bytes. Raises `BadFile` where the file ends before."""
        if count > len(self.data) - self.offset:
            raise BadFile(
                f"Byte {self.offset}: {what} should take {count:,} bytes, but {self.left:,} are left. The file is cut short."
            )
        self.offset += count
        return self.data[self.offset - count : self.offset]

    def numbers(self, form: str, what: str) -> tuple[int, ...]:
        """Whole numbers by a `struct` form such as `HI`."""
        form = self.order + form
        return struct.unpack(form, self.take(struct.calcsize(form), what))

    def number(self, form: str, what: str) -> int:
        return self.numbers(form, what)[0]

    def floats(self, count: int, what: str) -> tuple[float, ...]:
        form = f"{self.order}{count}f"
        return struct.unpack(form, self.take(4 * count, what))

    def utf16(self, units: int, what: str) -> str:
        """Text of `units` UTF-16 units, the final null among them and left out."""
        raw = self.take(units * 2, what)
        try:
            return raw.decode("utf-16-be" if self.order == ">" else "utf-16-le").rstrip("\0")
        except UnicodeDecodeError as error:
            raise BadFile(f"Byte {self.offset - len(raw)}: {what} is not sound UTF-16 text.") from error


def utf16_units(text: str) -> bytes:
    """Big-endian UTF-16 with the final null."""
    return (text + "\0").encode("utf-16-be")
