"""Names of files that every system takes."""

NOT_IN_NAMES = '/\\:*?"<>|'
"""Letters that some system gives a meaning of its own."""


def free_file_name(name: str, ending: str, taken: set[str]) -> str:
    """The name with its ending, as every system takes it; a number stands behind one that is taken, whatever its case.

    taken : names in small letters, with their endings; this one is among them afterwards.
    """
    plain = "".join("-" if letter in NOT_IN_NAMES or not letter.isprintable() else letter for letter in name).strip(" .") or "file"
    number = 1
    while (full := f"{plain}{'' if number == 1 else f' ({number})'}{ending}").lower() in taken:
        number += 1
    taken.add(full.lower())
    return full
