"""What readers gather: swatches, groups and ramps in the order of the file."""

from collections import Counter

from huvren.core.color.value import Color
from huvren.core.errors import BadFile, TooLarge
from huvren.core.palette.naming import Namer, suggest_names
from huvren.core.palette.values import LONGEST_NAME, MOST_RAMPS, MOST_SWATCHES, Group, KeptRamp, Palette, Swatch, clean_name, new_id
from huvren.core.progress import look_up
from huvren.core.ramp.plan import RampPlan


class SwatchList:
    """Gathers swatches while a file is read, in the order of the file: every swatch gets a name, too many are refused."""

    def __init__(self) -> None:
        self.groups: list[Group] = []
        self.ramps: list[tuple[str, RampPlan]] = []
        # Color, name, id, lock, group, tags and note; made into swatches once their names are known.
        self._rows: list[tuple[Color, str, str | None, bool, str | None, tuple[str, ...], str]] = []
        self._group: str | None = None
        self._name = ""

    def __len__(self) -> int:
        return len(self._rows)

    def open_group(self, name: str | None) -> None:
        """A group of this name begins here, another one of that name if there was one before; None for no group."""
        cleaned = clean_name(name[:LONGEST_NAME]) if name else ""
        self._name = cleaned
        self._group = None
        if cleaned:
            if len(self.groups) >= MOST_SWATCHES:
                raise TooLarge(f"The file holds more than {MOST_SWATCHES:,} groups. Split it first.")
            self.groups.append(Group(cleaned))
            self._group = self.groups[-1].id

    def in_group(self, name: str | None) -> None:
        """For files that say of every swatch which group it is in: a run of one name is one group."""
        if (clean_name(name[:LONGEST_NAME]) if name else "") != self._name:
            self.open_group(name)

    def doubled_names(self) -> tuple[str, ...]:
        """A sentence for every name that several groups have, so that nobody wonders why they were not joined."""
        used = {row[4] for row in self._rows}
        counts = Counter(group.name for group in self.groups if group.id in used)
        return tuple(
            f"“{name}” stands in {count} places of the file: each is a group of its own, so that nothing moves."
            for name, count in counts.items()
            if count > 1
        )

    def add(
        self,
        color: Color,
        name: str = "",
        tags: tuple[str, ...] = (),
        swatch_id: str | None = None,
        locked: bool = False,
        note: str = "",
    ) -> None:
        """One more swatch; without a name it gets the suggested one."""
        look_up()
        if len(self._rows) >= MOST_SWATCHES:
            raise TooLarge(f"The file holds more than {MOST_SWATCHES:,} colors, the most that a palette takes. Split it first.")
        self._rows.append((color, clean_name(name[:LONGEST_NAME]) if name else "", swatch_id, locked, self._group, tags, note))

    def add_ramp(self, plan: RampPlan, name: str) -> None:
        """A ramp that was found, by the name it has there or a suggested one."""
        self.ramps.append((clean_name(name[:LONGEST_NAME]), plan))

    def palette(self, title: str = "", columns: int | None = None, example: str = "") -> Palette:
        """What was gathered. Raises `BadFile` where there is no swatch; `example` says what a file should hold."""
        if not self._rows and not self.ramps:
            raise BadFile(f"The file holds no color. {example}".strip())
        made = Palette(clean_name(title[:200]) or "Untitled", (), tuple(self.groups), columns).with_swatches(self._swatches())
        if not self.ramps:
            return made
        names = Namer(())
        return made.with_ramps(KeptRamp(names.give(name or "Ramp"), plan) for name, plan in self.ramps[:MOST_RAMPS])

    def _swatches(self) -> list[Swatch]:
        """Everything that was added, the nameless with suggested names that nobody else has."""
        nameless = [row[0] for row in self._rows if not row[1]]
        words = iter(suggest_names(nameless))
        namer = Namer(row[1] for row in self._rows) if nameless else Namer()
        return [
            Swatch(color, name or namer.give(next(words)), swatch_id or new_id(), locked, group, note, tags)
            for color, name, swatch_id, locked, group, tags, note in self._rows
        ]
