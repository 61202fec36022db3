"""Color values of style sheets, worked out: variables, calculations, relative colors and mixtures (CSS Color 5 §3 to §5).

Values are token lists of tinycss2. What is written plainly is read by `color/notation.py`, as everywhere.
"""

import math
import re
from collections.abc import Callable, Iterable, Sequence
from typing import Any

import tinycss2

from huvren.core.color.notation import COLOR_SPACES, FUNCTION_SPACES, parse_color
from huvren.core.color.spaces import SPACES
from huvren.core.color.value import Color
from huvren.core.errors import BadColor, HuvrenError, TooLarge
from huvren.core.ramp.stops import Stop
from huvren.core.ramp.values import Ramp
from huvren.core.ramp.ways import HUE_ROUTES, Lane

Tokens = Sequence[Any]
"""Component values of tinycss2, which carries no types."""

MOST_TOKENS = 2_000
"""A value may grow to so many tokens by its variables; what is larger is no color that a person wrote."""
MOST_DEEP = 32
FLAGS = ("important", "default", "global")
"""Words behind a `!`, which change where a value counts and not what it is."""
ANGLES = {"deg": 1.0, "grad": 0.9, "rad": 180 / math.pi, "turn": 360.0}


class Unresolved(BadColor):
    """A value that means a color, or may, and cannot be worked out."""


class Effort:
    """What working out the values of one file may take, in tokens: chains and copies of variables are bounded by it."""

    def __init__(self, most: int = 300_000) -> None:
        self.left = most

    def spend(self, tokens: int) -> None:
        """Raises `Unresolved` where nothing is left; the reader of the file says by `check` that it ended there."""
        self.left -= tokens
        if self.left < 0:
            raise Unresolved("its variables lead too far.")

    def check(self) -> None:
        """Raises `TooLarge`, in words, where it did not suffice."""
        if self.left < 0:
            raise TooLarge(TOO_OFTEN)


CHAINED = re.compile(r"(?<![\w-])(--[\w-]+)\s*:\s*var\(\s*(--[\w-]+)\s*\)")
"""A variable whose value begins with another one that has no fallback."""
MOST_LED_TOO_FAR = 1_000
"""Far more values than `Effort` lets lead too far: a file that has so many is refused before it is taken apart."""


def look_over_chains(text: str) -> None:
    """Raises `TooLarge` where so many variables stand for others, one behind the other, that working them out would end in that.

    Nothing is taken apart for it: one pass over the letters, comments among them. A variable that stands for one here and for
    another there ends a chain, as it depends on the place which is meant.
    """
    leads_to: dict[str, str] = {}
    twice: set[str] = set()
    for found in CHAINED.finditer(text):
        if leads_to.setdefault(found[1], found[2]) != found[2]:
            twice.add(found[1])
    if len(leads_to) <= MOST_LED_TOO_FAR:
        return
    from_it: dict[str, list[str]] = {}
    for name, into in leads_to.items():
        if name not in twice:
            from_it.setdefault(into, []).append(name)
    # From the ends of the chains backwards; what goes round leads nowhere and has no end.
    names, deep = [name for name in from_it if name not in leads_to or name in twice], 0
    for steps in range(1, len(leads_to) + 1):
        names = [other for name in names for other in from_it.get(name, ())]
        deep += len(names) * (steps > MOST_DEEP)
        if deep > MOST_LED_TOO_FAR:
            raise TooLarge(TOO_OFTEN)
        if not names:
            return


TOO_OFTEN = "Its variables stand for each other too often to be worked out. Split it, or put in what they stand for."
BY_VARIABLE = 5
"""Tokens that looking a variable up counts for."""
BY_FAILURE = 1_000
"""Tokens that a value which led too far counts for: a person's sheet has few of them."""
Lookup = Callable[[str], Tokens | None]
"""What a variable stands for, by its name with its mark (`--`, `$` or `@`), or None."""


def plain(tokens: Iterable[Any]) -> list[Any]:
    """Without white space and comments."""
    return [token for token in tokens if token.type not in ("whitespace", "comment")]


def without_flags(tokens: Iterable[Any]) -> list[Any]:
    """A value's tokens without white space, comments, and `!important` or `!default` at its end."""
    found = plain(tokens)
    while len(found) >= 2 and found[-2] == "!" and found[-1].type == "ident" and found[-1].lower_value in FLAGS:
        found = found[:-2]
    return found


def split_at(tokens: Iterable[Any], mark: str) -> list[list[Any]]:
    """Pieces between marks such as a comma; blocks are single tokens, so nothing within them parts."""
    pieces: list[list[Any]] = [[]]
    for token in tokens:
        if token == mark:
            pieces.append([])
        else:
            pieces[-1].append(token)
    return pieces


def variable_at(tokens: Tokens, at: int) -> tuple[str, int]:
    """The name of the variable of SCSS or LESS that is named at a place, and how many tokens it takes; empty for none."""
    token = tokens[at]
    if token.type == "at-keyword":
        return "@" + token.value, 1
    if token == "$" and at + 1 < len(tokens) and tokens[at + 1].type == "ident":
        return "$" + tokens[at + 1].value, 2
    return "", 0


class Values:
    """Works out the color values of one place of a style sheet. current : what `currentColor` means there, if anything."""

    def __init__(self, lookup: Lookup, current: Color | None = None, effort: Effort | None = None) -> None:
        self.lookup, self.current, self.effort = lookup, current, effort or Effort()
        self._left = MOST_TOKENS

    def color(self, tokens: Iterable[Any]) -> Color:
        """The color that a value means. Raises `Unresolved` where it cannot be worked out, `BadColor` where it is no color."""
        self._left = MOST_TOKENS
        try:
            return self._color(self._known(tokens, ()))
        except RecursionError:
            raise Unresolved("its brackets stand too deep in each other.") from None

    def known(self, tokens: Iterable[Any]) -> list[Any]:
        """A value with its variables put in. Raises `Unresolved`."""
        self._left = MOST_TOKENS
        return self._known(tokens, ())

    def _known(self, tokens: Iterable[Any], within: tuple[str, ...]) -> list[Any]:
        found = without_flags(tokens)
        made: list[Any] = []
        at = 0
        while at < len(found):
            token = found[at]
            self._left -= 1
            self.effort.spend(1)
            if self._left < 0:
                self.effort.spend(BY_FAILURE)
                raise Unresolved("its variables make it too long to be worked out.")
            name, taken = variable_at(found, at)
            if name:
                made += self._variable(name, None, within)
            elif token.type == "function" and token.lower_name == "var":
                made += self._var(token, within)
            elif token.type in ("function", "() block"):
                made.append(_with(token, self._known(_arguments(token), within)))
            elif token == "#" and at + 1 < len(found) and found[at + 1].type == "{} block":
                made += self._known(found[at + 1].content, within)
                taken = 2
            else:
                made.append(token)
            at += taken or 1
        return made

    def _var(self, token: Any, within: tuple[str, ...]) -> list[Any]:
        """`var(--name, fallback)`; the fallback is whatever follows the first comma."""
        parts = plain(token.arguments)
        if not parts or parts[0].type != "ident" or not parts[0].value.startswith("--"):
            raise Unresolved("var() names no variable.")
        return self._variable(parts[0].value, parts[2:] if len(parts) > 1 and parts[1] == "," else None, within)

    def _variable(self, name: str, fallback: list[Any] | None, within: tuple[str, ...]) -> list[Any]:
        self.effort.spend(BY_VARIABLE)
        if name in within:
            raise Unresolved(f"{name} refers to itself.")
        if len(within) >= MOST_DEEP:
            self.effort.spend(BY_FAILURE)
            raise Unresolved(f"its variables refer to each other more than {MOST_DEEP} times.")
        value = self.lookup(name)
        if value is not None:
            return self._known(value, (*within, name))
        if fallback is None:
            raise Unresolved(f"{name} is declared nowhere.")
        return self._known(fallback, within)

    def _color(self, tokens: Sequence[Any]) -> Color:
        if len(tokens) != 1:
            raise BadColor("it is no single value.")
        token = tokens[0]
        if token.type == "hash":
            return parse_color("#" + token.value)
        if token.type == "ident":
            if token.lower_value == "currentcolor":
                if self.current is None:
                    raise Unresolved("currentColor means nothing here.")
                return self.current
            # A bare word of hex digits is none in a style sheet; only names are.
            if not token.value.isalpha():
                raise BadColor("it is no color name.")
            return _named(token.value)
        if token.type == "() block":
            return self._color(token.content)
        if token.type != "function":
            raise BadColor("it is neither a code, a function nor a name.")
        return self._function(token)

    def _function(self, token: Any) -> Color:
        name, arguments = token.lower_name, plain(token.arguments)
        if name == "color-mix":
            return self._mixed(arguments)
        if name == "light-dark":
            return self._color(split_at(arguments, ",")[0])
        if name not in FUNCTION_SPACES and name != "color":
            if any(self._is_color(part) for part in split_at(arguments, ",")):
                raise Unresolved(f"{name}() is a function that is not known here.")
            raise BadColor(f"{name}() is no color.")
        if arguments and arguments[0].type == "ident" and arguments[0].lower_value == "from":
            return self._relative(name, arguments[1:])
        parts = split_at(arguments, ",")
        if name in ("rgb", "rgba") and len(parts) == 2 and self._is_color(parts[0]):
            return self._color(parts[0]).with_alpha(_clamped(self._number(parts[1], 1.0, {})))
        if any(one.type == "function" for one in arguments):
            arguments = [_literal(self._number([one], 1.0, {})) if one.type == "function" else one for one in arguments]
        return parse_color(f"{name}({' '.join(tinycss2.serialize([one]) for one in arguments)})".replace(" , ", ", "))

    def _is_color(self, tokens: list[Any]) -> bool:
        try:
            self._color(tokens)
        except HuvrenError:
            return False
        return True

    def _relative(self, name: str, arguments: list[Any]) -> Color:
        """`name(from color …)`: the origin's channels stand as words among the new ones (CSS Color 5 §4)."""
        origin, rest = self._color(arguments[:1]), arguments[1:]
        if name == "color":
            if not rest or rest[0].type != "ident" or rest[0].lower_value not in COLOR_SPACES:
                raise Unresolved("color(from …) names no space that is known.")
            space, rest = COLOR_SPACES[rest[0].lower_value], rest[1:]
            percents: Sequence[float | None] = (1, 1, 1)
            units: Sequence[float] = (1, 1, 1)
            letters = "xyz" if space.startswith("xyz") else "rgb"
        else:
            form = FUNCTION_SPACES[name]
            space, units, letters = form.space, form.divide, name.removesuffix("a").removeprefix("ok")
            percents = tuple(None if share is None else share * unit for share, unit in zip(form.percent, units, strict=True))
        channels = [value * unit for value, unit in zip(origin.to(space), units, strict=True)]
        words = dict(zip(letters, channels, strict=True)) | {"alpha": origin.alpha}
        main, *behind = split_at(rest, "/")
        if len(main) != len(channels) or len(behind) > 1:
            raise Unresolved(f"{name}(from …) takes {len(channels)} channels.")
        numbers = [self._number([one], whole, words) for one, whole in zip(main, percents, strict=True)]
        alpha = self._number(behind[0], 1.0, words) if behind else origin.alpha
        hue = SPACES[space].hue
        coords = [value / unit for value, unit in zip(numbers, units, strict=True)]
        return Color(space, tuple(value % 360 if at == hue else value for at, value in enumerate(coords)), _clamped(alpha))

    def _number(self, tokens: Sequence[Any], whole: float | None, words: dict[str, float]) -> float:
        """A number, a percentage of `whole`, an angle in degrees, a channel's word, or a calculation with them."""
        tokens = plain(tokens)
        if len(tokens) != 1:
            return _calculated(tokens, lambda one: self._number([one], whole, words))
        token = tokens[0]
        if token.type == "number":
            return float(token.value)
        if token.type == "percentage":
            return float(token.value) / 100 * (1.0 if whole is None else whole)
        if token.type == "dimension" and token.lower_unit in ANGLES:
            return float(token.value * ANGLES[token.lower_unit])
        if token.type == "ident" and token.lower_value in words:
            return words[token.lower_value]
        if token.type == "ident" and token.lower_value in ("none", "pi"):
            return math.pi if token.lower_value == "pi" else 0.0
        if token.type == "() block" or (token.type == "function" and token.lower_name == "calc"):
            return _calculated(plain(_arguments(token)), lambda one: self._number([one], whole, words))
        if token.type == "function" and token.lower_name in ("min", "max", "clamp"):
            values = [self._number(part, whole, words) for part in split_at(plain(token.arguments), ",")]
            if token.lower_name == "clamp" and len(values) == 3:
                return max(values[0], min(values[1], values[2]))
            if token.lower_name != "clamp":
                return (min if token.lower_name == "min" else max)(values)
        raise Unresolved(f"“{tinycss2.serialize(tokens)[:40]}” is no number that can be worked out.")

    def _mixed(self, arguments: list[Any]) -> Color:
        """`color-mix(in space, one 30%, other)`: premultiplied; shares of less than all in sum make it clearer."""
        parts = split_at(arguments, ",")
        heading = [token.lower_value for token in parts[0] if token.type == "ident"]
        if heading[:1] != ["in"]:
            parts, heading = [[], *parts], ["in", "oklab"]
        spaces = {space.gradient: space.id for space in SPACES if space.gradient} | {"xyz": "xyz-d65"}
        if len(heading) < 2 or heading[1] not in spaces:
            raise Unresolved(f"color-mix() in “{' '.join(heading[1:2])}” is not known.")
        route = heading[2] if len(heading) == 4 and heading[3] == "hue" and heading[2] in HUE_ROUTES else "shorter"
        if len(parts) != 3:
            raise Unresolved("color-mix() takes two colors.")
        colors, shares = [], []
        for part in parts[1:]:
            given = [token for token in part if token.type == "percentage"]
            colors.append(self._color([token for token in part if token.type != "percentage"]))
            shares.append(given[0].value / 100 if given else None)
        first, second = shares
        if first is None:
            first = 0.5 if second is None else 1 - second
        second = 1 - first if second is None else second
        total = first + second
        if total <= 0 or min(first, second) < 0:
            raise Unresolved("the shares of color-mix() make nothing.")
        ramp = Ramp((Stop(colors[0], 0.0), Stop(colors[1], 1.0)), Lane.of(spaces[heading[1]], route))
        coords, alphas = ramp.at([second / total])
        mixed = Color.of(spaces[heading[1]], coords[0].tolist(), min(max(float(alphas[0]), 0.0), 1.0))
        return mixed.with_alpha(mixed.alpha * total) if total < 1 else mixed


def _named(word: str) -> Color:
    """A color name; what could only be a bare hex code is none."""
    from huvren.core.color.notation import css_names

    lower = word.lower()
    if lower in css_names() or lower == "transparent":
        return parse_color(lower)
    raise BadColor("it is no color name.")


def _arguments(token: Any) -> list[Any]:
    return list(token.arguments if token.type == "function" else token.content)


def _with(token: Any, tokens: list[Any]) -> Any:
    """The same function or brackets about other tokens."""
    if token.type == "function":
        return tinycss2.ast.FunctionBlock(token.source_line, token.source_column, token.name, tokens)
    return tinycss2.ast.ParenthesesBlock(token.source_line, token.source_column, tokens)


def _literal(value: float) -> Any:
    return tinycss2.ast.NumberToken(0, 0, value, None, f"{value:.12g}")


def _clamped(alpha: float) -> float:
    return min(max(alpha, 0.0), 1.0)


def _calculated(tokens: list[Any], value_of: Callable[[Any], float]) -> float:
    """Sums and products, products first. Signs of their own belong to the number behind them."""
    if not tokens:
        raise Unresolved("a calculation is empty.")
    terms: list[list[float | str]] = [[]]
    signs = [1.0]
    for token in tokens:
        if token in ("+", "-") and terms[-1] and not isinstance(terms[-1][-1], str):
            terms.append([])
            signs.append(1.0 if token == "+" else -1.0)
        elif token in ("*", "/"):
            terms[-1].append(token.value)
        elif token.type == "number" and terms[-1] and not isinstance(terms[-1][-1], str) and token.representation[:1] in "+-":
            # “l -0.1” is read as two numbers; the second carries its sign.
            terms.append([float(token.value)])
            signs.append(1.0)
        else:
            terms[-1].append(value_of(token))
    return sum(sign * _product(term) for sign, term in zip(signs, terms, strict=True))


def _product(term: list[float | str]) -> float:
    if len(term) % 2 == 0 or isinstance(term[0], str):
        raise Unresolved("a calculation does not add up.")
    made = float(term[0])
    for mark, value in zip(term[1::2], term[2::2], strict=True):
        if isinstance(value, str) or not isinstance(mark, str) or (mark == "/" and value == 0):
            raise Unresolved("a calculation does not add up.")
        made = made * value if mark == "*" else made / value
    return made
