"""Style sheets taken apart: every variable of CSS, SCSS and LESS in the order of the file, with what is said of it.

The tokens are those of tinycss2 (CSS Syntax 3). Statements are found by their marks alone, so that nested rules, maps and
declarations outside of rules, which only SCSS and LESS know, are read by the same few lines.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

import tinycss2

from huvren.core.errors import BadFile
from huvren.core.formats.style_sheets.css_values import Tokens, plain, variable_at

MOST_DEEP = 100
CONDITIONS = ("media", "supports", "container", "starting-style", "scope")


@dataclass(eq=False)
class Block:
    """What stands between two braces, for looking names up: its own, then those of the blocks around it."""

    outer: "Block | None" = None
    """The block around it."""
    is_conditional: bool = False
    """Whether it holds only sometimes."""
    names: dict[str, Tokens] = field(default_factory=dict)
    """What its variables mean."""


@dataclass(frozen=True)
class Variable:
    """One declaration of a variable. name : with its mark; said : the comment behind it; block : where it stands."""

    name: str
    tokens: Tokens
    """Of its value."""
    line: int
    """Counted from 1."""
    block: Block
    said: str = ""


@dataclass(frozen=True)
class GroupMark:
    """A comment `/* group: name */`: what follows is in that group; an empty name ends it."""

    name: str
    """Of the group that begins here."""


Entry = Variable | GroupMark


def with_block_comments(text: str) -> str:
    """The text with the line comments of SCSS and LESS written as block comments, of the same number of lines. One pass."""
    made: list[str] = []
    at, end = 0, len(text)
    marks = {mark: text.find(mark) for mark in ('"', "'", "/*", "//")}
    while True:
        for mark, place in marks.items():
            if 0 <= place < at:
                marks[mark] = text.find(mark, at)
        found = [(place, mark) for mark, place in marks.items() if place >= 0]
        if not found:
            return "".join(made) + text[at:]
        place, mark = min(found)
        if mark == "/*":
            close = text.find("*/", place + 2)
            stop = end if close < 0 else close + 2
            made.append(text[at:stop])
        elif mark == "//":
            line = text.find("\n", place)
            # In an address such as url(//host) the two strokes begin no comment.
            is_address = place > 0 and text[place - 1] in ":("
            stop = place + 2 if is_address else end if line < 0 else line
            said = text[place + 2 : stop].replace("*/", "* /")
            made.append(text[at:stop] if is_address else f"{text[at:place]}/*{said}*/")
        else:
            stop = _end_of_string(text, place)
            made.append(text[at:stop])
        at = stop


def _end_of_string(text: str, begin: int) -> int:
    """Behind the closing mark of a string, or the end of its line where there is none."""
    mark, at = text[begin], begin + 1
    line = text.find("\n", at)
    line = len(text) if line < 0 else line
    while at < line:
        close = text.find(mark, at, line)
        if close < 0:
            return line
        strokes = close
        while text[strokes - 1] == "\\":
            strokes -= 1
        if (close - strokes) % 2 == 0:
            return close + 1
        at = close + 1
    return line


def _statements(tokens: Sequence[Any]) -> Iterator[tuple[list[Any], list[Any], Any]]:
    """(what stands before the end, comments behind it on its line, its block or None) of each statement."""
    begin, at = 0, 0
    while at < len(tokens):
        token = tokens[at]
        if token == ";" or token.type == "{} block":
            is_interpolation = token.type == "{} block" and at > 0 and tokens[at - 1] == "#"
            if is_interpolation:
                at += 1
                continue
            behind = at + 1
            comments: list[Any] = []
            while behind < len(tokens) and (
                tokens[behind].type == "comment" or (tokens[behind].type == "whitespace" and "\n" not in tokens[behind].value)
            ):
                if tokens[behind].type == "comment":
                    # Only what stands right behind a declaration is said of it; group marks never are.
                    if token != ";" or comments or _group_of(tokens[behind]) is not None:
                        break
                    comments.append(tokens[behind])
                behind += 1
            yield list(tokens[begin:at]), comments, None if token == ";" else token
            begin = at = behind if comments else at + 1
        else:
            at += 1
    if begin < len(tokens):
        yield list(tokens[begin:]), [], None


def _group_of(token: Any) -> str | None:
    """The group that a comment opens, or None."""
    if token.type != "comment":
        return None
    word = token.value.strip()
    return word[6:].strip() if word[:6].lower() == "group:" else None


class _Sheet:
    def __init__(self) -> None:
        self.entries: list[Entry] = []
        self.everywhere: dict[str, Tokens] = {}
        self.in_conditions: dict[str, Tokens] = {}

    def walk(self, tokens: Sequence[Any], block: Block, deep: int) -> None:
        if deep > MOST_DEEP:
            raise BadFile(f"Its rules stand more than {MOST_DEEP} deep in each other.")
        for before, behind, inner in _statements(tokens):
            for token in before:
                group = _group_of(token)
                if group is not None:
                    self.entries.append(GroupMark(group))
            if inner is None:
                self._declare(before, behind, block)
            else:
                self._rule(before, inner, block, deep)

    def _declare(self, before: list[Any], behind: list[Any], block: Block) -> None:
        name, value = _declared(before)
        if not name:
            return
        tokens = [token for token in value if _group_of(token) is None]
        said = [token.value.strip() for token in (*behind, *(token for token in tokens if token.type == "comment"))]
        line = next((token.source_line for token in before if token.type not in ("whitespace", "comment")), 0)
        self._keep(Variable(name, tuple(plain(tokens)), line, block, said[0] if said else ""))

    def _keep(self, variable: Variable) -> None:
        self.entries.append(variable)
        block = variable.block
        block.names[variable.name] = variable.tokens
        (self.in_conditions if block.is_conditional else self.everywhere).setdefault(variable.name, variable.tokens)

    def _rule(self, before: list[Any], inner: Any, block: Block, deep: int) -> None:
        heading = plain(before)
        word = heading[0].lower_value if heading and heading[0].type == "at-keyword" else ""
        if word == "property" and len(heading) > 1 and heading[1].type == "ident":
            self._property(heading[1], inner, block)
            return
        is_conditional = block.is_conditional or word in CONDITIONS
        # A variable of LESS may hold a block of declarations, one of CSS may hold any block; neither is a color.
        self.walk(inner.content, Block(block, is_conditional), deep + 1)

    def _property(self, name: Any, inner: Any, block: Block) -> None:
        """`@property --name { initial-value: … }` declares the variable."""
        for before, _, _ in _statements(inner.content):
            words = plain(before)
            if len(words) > 2 and words[0].type == "ident" and words[0].lower_value == "initial-value" and words[1] == ":":
                self._keep(Variable(name.value, tuple(words[2:]), name.source_line, block))


def _declared(tokens: list[Any]) -> tuple[str, list[Any]]:
    """The name of the variable that a statement declares, and its value; an empty name for any other statement."""
    words = [at for at, token in enumerate(tokens) if token.type not in ("whitespace", "comment")]
    if len(words) < 3:
        return "", []
    first = tokens[words[0]]
    if first.type == "ident" and first.value.startswith("--") and len(first.value) > 2:
        name, taken = first.value, 1
    else:
        name, taken = variable_at([tokens[at] for at in words[:2]], 0)
    if not name or len(words) < taken + 2 or tokens[words[taken]] != ":":
        return "", []
    return name, tokens[words[taken] + 1 :]


def variables(text: str) -> tuple[list[Entry], Callable[[Block], Callable[[str], Tokens | None]]]:
    """Every declaration of a variable and every group mark, in order; and what a name stands for within a block.

    A name means what its own block or one around it says; else the first declaration outside of conditions such as `@media`; else
    the first there is. Raises `BadFile` for rules that stand too deep in each other.
    """
    sheet, root = _Sheet(), Block()
    sheet.walk(tinycss2.parse_component_value_list(with_block_comments(text)), root, 0)

    def within(block: Block) -> Callable[[str], Tokens | None]:
        def value_of(name: str) -> Tokens | None:
            around: Block | None = block
            while around is not None:
                if name in around.names:
                    return around.names[name]
                around = around.outer
            return sheet.everywhere.get(name, sheet.in_conditions.get(name))

        return value_of

    return sheet.entries, within
