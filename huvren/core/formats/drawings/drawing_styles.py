"""Which styles hold for each element of a drawing: rules of style elements by their selectors, attributes, and what is inherited.

CSS Cascade 4, SVG 2 §6: presentation attributes are the weakest, then rules by their weight and order, then the `style`
attribute; `!important` goes before all. Sheets are read by tinycss2 and selectors by cssselect2. What stands in `@media` for
anything but screens of any kind does not hold.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

import cssselect2
import tinycss2

from huvren.core.errors import TooLarge
from huvren.core.formats.style_sheets.css_values import Tokens, plain

PAINTS = ("fill", "stroke", "stop-color", "flood-color", "lighting-color")
OPACITIES = ("fill-opacity", "stroke-opacity", "stop-opacity", "flood-opacity", "opacity")
INHERITED = ("fill", "stroke", "fill-opacity", "stroke-opacity", "color")
WANTED = frozenset((*PAINTS, *OPACITIES, "color"))
EVERYWHERE = ("all", "screen")
PASSED_THROUGH = ("layer", "supports", "scope")
MOST_PLACED = 20_000
"""Elements that rules may be held against which ask where an element stands."""
MOST_HELD = 600_000
"""Such rules, times elements."""
MOST_RULES = 4_000
MOST_IN_SELECTORS = 400
"""Tokens before a rule; what is longer is left out, as it would take longer than all the rest to hold it against every element."""
MOST_LETTERS = 600_000
MOST_VALUES = 12_000
MARKS_OF_SYNTAX = ("(", "/", "!", "\\", '"', "'", "{", "--")

Declarations = dict[str, Tokens]


def declared(tokens: Sequence[Any] | str) -> Iterator[tuple[str, Tokens, bool]]:
    """(name, value, whether it is important) of each declaration that matters here."""
    for entry in tinycss2.parse_blocks_contents(tokens, skip_comments=True, skip_whitespace=True):
        if entry.type == "declaration":
            name = entry.name if entry.name.startswith("--") else entry.lower_name
            if name in WANTED or name.startswith("--"):
                yield name, tuple(plain(entry.value)), entry.important


@dataclass
class Sheet:
    """The rules of all style elements together."""

    matcher: Any = field(default_factory=cssselect2.Matcher)
    """Of compiled selectors."""
    rules: int = 0
    """How many there are."""
    letters: int = 0
    """Of the sheet."""
    left_out: int = 0
    """Rules whose selector cannot be read, or that hold for other media."""
    is_placed: bool = False
    """Whether a selector asks for more than an element's own name, classes and id."""
    asks_ids: bool = False
    """Whether any selector asks for an id."""

    def add(self, text: str) -> None:
        """Raises `TooLarge` for more text than can be read in time."""
        self.letters += len(text)
        if self.letters > MOST_LETTERS:
            raise TooLarge(f"Its rules of style have more than {MOST_LETTERS:,} letters. Bring fewer parts of it at once.")
        self._rules(tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True))

    def _rules(self, rules: Sequence[Any]) -> None:
        for rule in rules:
            if rule.type == "qualified-rule":
                self._rule(rule)
            elif rule.type == "at-rule" and rule.content is not None:
                word = rule.lower_at_keyword
                media = [token.lower_value for token in plain(rule.prelude) if token.type == "ident"]
                is_plain = word == "media" and plain(rule.prelude)[1:] == [] and media[:1] and media[0] in EVERYWHERE
                if word in PASSED_THROUGH or is_plain:
                    self._rules(tinycss2.parse_rule_list(rule.content, skip_comments=True, skip_whitespace=True))
                elif word in ("media", "container"):
                    self.left_out += 1

    def _rule(self, rule: Any) -> None:
        values = list(declared(rule.content))
        if not values:
            return
        try:
            selectors = cssselect2.compile_selector_list(rule.prelude) if len(rule.prelude) <= MOST_IN_SELECTORS else []
        except (cssselect2.SelectorError, RecursionError):
            selectors = []
        if not selectors:
            self.left_out += 1
            return
        self._look_at(rule.prelude)
        for selector in selectors:
            if self.rules >= MOST_RULES:
                raise TooLarge(f"It has more than {MOST_RULES:,} rules of style. Bring fewer parts of it at once.")
            if selector.pseudo_element is None:
                self.matcher.add_selector(selector, values)
                self.rules += 1

    def _look_at(self, prelude: Sequence[Any]) -> None:
        trimmed = list(prelude)
        while trimmed and trimmed[-1].type == "whitespace":
            trimmed.pop()
        while trimmed and trimmed[0].type == "whitespace":
            trimmed.pop(0)
        for before, token in zip([None, *trimmed[:-1]], trimmed, strict=True):
            is_blank = token.type == "whitespace" and before is not None and before != ","
            self.is_placed |= is_blank or token.type in ("[] block", "function") or token in (">", "+", "~", ":", "|")
            self.asks_ids |= token.type == "hash"


class Cascade:
    """Works out the styles of the elements of one tree. Raises `TooLarge` for more than can be held against placed rules."""

    def __init__(self, sheet: Sheet, root: Any, count: int) -> None:
        self.sheet = sheet
        self._known: dict[tuple[Any, ...], list[tuple[tuple[int, ...], list[Any]]]] = {}
        self._inline: dict[str, list[tuple[str, Tokens, bool]]] = {}
        self._values: dict[str, Tokens] = {}
        self._wrapped: dict[Any, Any] = {}
        if sheet.rules and sheet.is_placed:
            if count > MOST_PLACED or count * sheet.rules > MOST_HELD:
                raise TooLarge(f"Its rules ask where each of its {count:,} parts stands; {MOST_PLACED:,} are the most.")
            wrapper = cssselect2.ElementWrapper.from_xml_root(root)
            self._wrapped = {one.etree_element: one for one in wrapper.iter_subtree()}

    @property
    def is_placed(self) -> bool:
        return bool(self._wrapped)

    def own(self, element: Any, attributes: Sequence[tuple[str, str]]) -> Declarations:
        """What an element declares itself, by attributes, rules and style."""
        found: Declarations = {}
        inline = ""
        for name, text in attributes:
            if name in WANTED:
                found[name] = self.value(text)
            elif name == "style":
                inline = text
        important: Declarations = {}
        if self.sheet.rules:
            for _, values in self._matched(element):
                for name, value, is_important in values:
                    (important if is_important else found)[name] = value
        if inline:
            for name, value, is_important in self._of_style(inline):
                if is_important or name not in important:
                    found[name] = value
                    important.pop(name, None)
        return found | important if important else found

    def value(self, text: str) -> Tokens:
        """The tokens of a value; the same object for the same text. Raises `TooLarge` for too many different ones."""
        tokens = self._values.get(text)
        if tokens is None:
            if len(self._values) >= MOST_VALUES:
                raise TooLarge(f"It has more than {MOST_VALUES:,} different colors and opacities. Bring fewer parts of it at once.")
            tokens = self._values[text] = tuple(plain(tinycss2.parse_component_value_list(text)))
        return tokens

    def _of_style(self, text: str) -> Sequence[tuple[str, Tokens, bool]]:
        if not any(mark in text for mark in MARKS_OF_SYNTAX):
            # Plain pairs, as nearly all of them are: nothing that a parser would see in another way.
            pairs = [part.partition(":") for part in text.split(";")]
            return [
                (name, self.value(value.strip()), False)
                for key, _, value in pairs
                if (name := key.strip().lower()) in WANTED and value.strip()
            ]
        if text not in self._inline:
            if len(self._inline) >= MOST_VALUES:
                raise TooLarge(f"It has more than {MOST_VALUES:,} different styles. Bring fewer parts of it at once.")
            self._inline[text] = list(declared(text))
        return self._inline[text]

    def _matched(self, element: Any) -> list[tuple[tuple[int, ...], list[Any]]]:
        if self._wrapped:
            return self._held(self._wrapped[element])
        key = (element.tag, element.get("class", ""), element.get("id", "") if self.sheet.asks_ids else "")
        if key not in self._known:
            alone = element.makeelement(element.tag, {"class": key[1], "id": key[2]} if key[2] else {"class": key[1]})
            self._known[key] = self._held(cssselect2.ElementWrapper.from_xml_root(alone))
        return self._known[key]

    def _held(self, wrapped: Any) -> list[tuple[tuple[int, ...], list[Any]]]:
        """The rules that hold for an element, the weakest first."""
        return [(specificity, values) for specificity, _, _, values in self.sheet.matcher.match(wrapped)]
