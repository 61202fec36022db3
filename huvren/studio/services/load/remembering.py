"""Remembering what was worked out: within a number of bytes, what was used least lately goes first."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

Key = TypeVar("Key", bound=Hashable)
Value = TypeVar("Value")

LEAST_BYTES = 512
"""What the smallest thing is counted as, empty ones included: its key and its place take room too."""


class Remembered(Generic[Key, Value]):
    """Values by key. bytes_of : how many bytes a value takes, about; what is larger than all that may be held is not kept.

    Several threads may use it; a value that two of them miss at once is worked out twice and kept once.
    """

    def __init__(self, most_bytes: int, bytes_of: Callable[[Value], int]) -> None:
        self.most_bytes = most_bytes
        self.bytes = 0
        self._bytes_of = bytes_of
        self._known: OrderedDict[Key, tuple[Value, int]] = OrderedDict()
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return len(self._known)

    def put(self, key: Key, value: Value) -> None:
        """Keep a value, and let go of what was used least lately where there is no room."""
        size = max(self._bytes_of(value), LEAST_BYTES)
        with self._lock:
            if (before := self._known.pop(key, None)) is not None:
                self.bytes -= before[1]
            if size > self.most_bytes:
                return
            self._known[key] = (value, size)
            self.bytes += size
            while self.bytes > self.most_bytes:
                self.bytes -= self._known.popitem(last=False)[1][1]

    def get(self, key: Key, make: Callable[[], Value]) -> Value:
        """The value of a key; `make` gives it where it is not known."""
        with self._lock:
            if key in self._known:
                self._known.move_to_end(key)
                return self._known[key][0]
        value = make()
        self.put(key, value)
        return value

    def clear(self) -> None:
        with self._lock:
            self._known.clear()
            self.bytes = 0
