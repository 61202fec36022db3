"""The few error classes of the core. Each has a stable `code`; the message names the bad value,
what was expected and the way out."""


class HuvrenError(Exception):
    """Base of every error that is meant to be read by a person."""

    code = "error"


class BadInput(HuvrenError, ValueError):
    """A value that the caller can correct."""

    code = "bad_input"


class BadColor(BadInput):
    """Text that is no color."""

    code = "bad_color"


class BadFile(BadInput):
    """A file that cannot be read as what it claims to be."""

    code = "bad_file"


class TooLarge(BadInput):
    """A file or picture beyond the limits."""

    code = "too_large"


class Unknown(HuvrenError, LookupError):
    """A name or id that stands for nothing here."""

    code = "unknown"


class Cancelled(HuvrenError):
    """Work that was called off while it went on; nothing came of it."""

    code = "cancelled"
