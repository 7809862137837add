"""The grammar of the sentence, parsed from `grammar.txt`: categories of rules that pair words with their meaning.

A rule reads `words => meaning`. Words are literals, `[optional words]`, `(one | or another)` and slots
`<name:CATEGORY>`; `<name:CATEGORY*and>` is a list. The meaning is a Python expression over the slots' names. If it
consists of plain values, the rule works in both directions, and the text written is the first of its alternatives,
without optional words; `~` marks a rule that is only read, `^` one that is written in the short form only.
"""

import ast
import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from importlib.resources import files
from types import CodeType
from typing import Union

from kalendor.core.figures.family import FAMILY
from kalendor.core.values.syntax_trees import CONVERSION

SEPARATORS: dict[str, tuple[tuple[str, ...], ...]] = {
    "and": ((",", "and"), (",",), ("and",), ("&",), ("+",)),
    "or": ((",", "or"), (",", "and"), (",", "nor"), (",",), ("or",), ("nor",), ("and",), ("&",)),
    "then": ((",", "then"), ("and", "then"), ("then",), (">",), ("›",), (",", "and"), (",",), ("and",), ("&",), ("/",)),
    ">": ((">",), ("›",)),
    ",": ((",",), (",", "and"), ("and",)),
    ";": ((";",),),
    "both": (("and",), ("but",)),
    "either": (("or",),),
}
"""What may stand between the members of a list."""
WRITTEN_BETWEEN = {"and": " and ", "or": " or ", "then": " then ", ">": " › ", ",": ", ", ";": "; ", "both": " and ", "either": " or "}  # fmt: skip
_PIECE = re.compile(
    r"\s+|<(?:(?P<name>\w+):)?(?P<category>\w+)(?:\*(?P<list>[^>\s]+|>))?>|(?P<word>\\\S+?(?=[\s)\]|]|$)|[^\s\[\]()|<>]+)|(?P<mark>[\[\]()|])"
)


@dataclass(frozen=True)
class Literal:
    """A word or mark, matched exactly."""

    word: str


@dataclass(frozen=True)
class Slot:
    """A place for a value of a category, or for a list of values with a separator."""

    name: str
    category: str
    separator: str | None = None


@dataclass(frozen=True)
class Choice:
    """One of several runs of elements; with `optional`, or none."""

    ways: tuple[tuple["Element", ...], ...]
    optional: bool = False


@dataclass(frozen=True)
class Phrases:
    """One of several runs of words, by their first words; with `optional`, or none. The first is the one written."""

    by_first: Mapping[str, tuple[tuple[str, ...], ...]]
    written: tuple[str, ...]
    optional: bool = False


Element = Union[Literal, Slot, Choice, Phrases]


@dataclass(frozen=True, eq=False)
class Rule:
    """One way to say something. `meaning` is the expression, compiled for reading and parsed for writing."""

    category: str
    elements: tuple[Element, ...]
    meaning: CodeType
    template: ast.expr
    read_only: bool
    short: bool
    cost: float
    line: int
    slots: tuple[str, ...]
    first: set[str] = field(default_factory=set)


@dataclass(eq=False)
class Node:
    """A node in the prefix tree of a category's rules: the possible next words, the other next elements with the words
    that they and what follows can begin with, and the rules that end here."""

    literals: dict[str, "Node"] = field(default_factory=dict)
    others: list[tuple[Element, "Node", set[str]]] = field(default_factory=list)
    rules: list[Rule] = field(default_factory=list)

    def along(self, element: Element) -> "Node":
        """The node after an element, created if necessary."""
        if isinstance(element, Literal):
            return self.literals.setdefault(element.word, Node())
        for known, node, _ in self.others:
            if known == element:
                return node
        self.others.append((element, Node(), set()))
        return self.others[-1][1]


@dataclass(frozen=True, eq=False)
class Category:
    """What can be said in one place, and the tone of its words; `root` is the root of its rules' prefix tree."""

    name: str
    tone: str
    rules: tuple[Rule, ...]
    root: Node = field(default_factory=Node)


@dataclass(frozen=True, eq=False)
class Grammar:
    """All categories, and every word that occurs in a rule."""

    categories: Mapping[str, Category]
    words: frozenset[str]

    def __getitem__(self, name: str) -> Category:
        return self.categories[name]


@lru_cache(1)
def grammar() -> Grammar:
    """The grammar as shipped, extended by the kinds of figures."""
    own = [f"  {phrase}" for kind in FAMILY.values() for phrase in kind.phrases]
    text = files("kalendor.sentence").joinpath("grammar.txt").read_text("utf-8")
    return parsed_grammar("\n".join([text, "figure_core:", *own]))


def parsed_grammar(text: str) -> Grammar:
    """A grammar file's text as a grammar.

    Raises ValueError with the line that cannot be read.
    """
    made: dict[str, list[Rule]] = {}
    tones: dict[str, str] = {}
    name = ""
    for number, line in enumerate(text.splitlines(), 1):
        bare = line.partition(" #")[0].rstrip() if not line.startswith("#") else ""
        if not bare.strip():
            continue
        if head := re.fullmatch(r"(\w+)(?: @(\w+))?:", bare):
            name = head[1]
            made.setdefault(name, [])
            tones.setdefault(name, head[2] or "")
        else:
            made[name].append(_rule(name, bare.strip(), number))
    categories = {name: Category(name, tones[name], tuple(rules)) for name, rules in made.items()}
    _find_firsts(categories)
    words = {w for c in categories.values() for r in c.rules for w in _literals(r.elements)}
    return Grammar(categories, frozenset(words | {w for ways in SEPARATORS.values() for way in ways for w in way}))


def _rule(category: str, line: str, number: int) -> Rule:
    pattern, found, meaning = line.partition(" => ")
    if not found:
        raise ValueError(f"grammar, line {number}: no meaning")
    read_only, short = pattern.startswith("~"), pattern.startswith("^")
    priced = re.fullmatch(r"(.*?)\s+!([\d.]+)", meaning)
    if priced:
        meaning = priced[1]
    elements, rest = _elements(_pieces(pattern.lstrip("~^ "), number), number)
    if rest:
        raise ValueError(f"grammar, line {number}: {rest[0]} is out of place")
    with CONVERSION:
        template = ast.parse(meaning.strip(), mode="eval")
        code = compile(template, f"grammar line {number}", "eval")
    return Rule(
        category,
        elements,
        code,
        template.body,
        read_only,
        short,
        float(priced[2]) if priced else 0.0,
        number,
        tuple(dict.fromkeys(slot.name for slot in _slots(elements))),
    )


def _slots(elements: tuple[Element, ...]) -> Iterator[Slot]:
    for element in elements:
        if isinstance(element, Slot):
            yield element
        elif isinstance(element, Choice):
            for way in element.ways:
                yield from _slots(way)


def _pieces(pattern: str, number: int) -> list[re.Match[str]]:
    found: list[re.Match[str]] = []
    at = 0
    while at < len(pattern):
        piece = _PIECE.match(pattern, at)
        if piece is None:
            raise ValueError(f"grammar, line {number}: {pattern[at:]!r}")
        if not piece.group().isspace():
            found.append(piece)
        at = piece.end()
    return found


def _elements(pieces: list[re.Match[str]], number: int) -> tuple[tuple[Element, ...], list[re.Match[str]]]:
    """Elements up to a closing bracket or bar, and the remaining pieces."""
    elements: list[Element] = []
    while pieces:
        piece, mark = pieces[0], pieces[0]["mark"]
        if mark in (")", "]", "|"):
            break
        pieces = pieces[1:]
        if piece["category"]:
            elements.append(Slot(piece["name"] or "_", piece["category"], piece["list"]))
        elif mark in ("(", "["):
            ways: list[tuple[Element, ...]] = []
            while True:
                way, pieces = _elements(pieces, number)
                ways.append(way)
                if not pieces:
                    raise ValueError(f"grammar, line {number}: a bracket is open")
                closing, pieces = pieces[0]["mark"], pieces[1:]
                if closing != "|":
                    break
            elements.append(_choice(tuple(ways), mark == "["))
        else:
            elements.append(Literal(piece.group().removeprefix("\\")))
    return tuple(elements), pieces


def _choice(ways: tuple[tuple[Element, ...], ...], optional: bool) -> Element:
    runs = [tuple(element.word for element in way if isinstance(element, Literal)) for way in ways]
    if any(len(run) < max(1, len(way)) for run, way in zip(runs, ways, strict=True)):
        return Choice(ways, optional)
    firsts = {run[0]: tuple(other for other in runs if other[0] == run[0]) for run in runs}
    return Phrases(firsts, runs[0], optional)


def _literals(elements: tuple[Element, ...]) -> Iterator[str]:
    for element in elements:
        if isinstance(element, Literal):
            yield element.word
        elif isinstance(element, Phrases):
            yield from (word for runs in element.by_first.values() for run in runs for word in run)
        elif isinstance(element, Choice):
            for way in element.ways:
                yield from _literals(way)


def _find_firsts(categories: Mapping[str, Category]) -> None:
    """Computes the words, or kinds of names, with which each rule may begin, to a fixed point."""
    grown = True
    while grown:
        grown = False
        for category in categories.values():
            for rule in category.rules:
                known_before = len(rule.first)
                _begin(rule.elements, categories, rule.first.update)
                grown |= len(rule.first) > known_before
    for category in categories.values():
        for rule in category.rules:
            node = category.root
            for n, element in enumerate(rule.elements):
                before, node = node, node.along(element)
                for known, _, first in before.others:
                    if known == element:
                        first |= _firsts(rule.elements[n:], categories)
            node.rules.append(rule)


def _firsts(elements: tuple[Element, ...], categories: Mapping[str, Category]) -> set[str]:
    found: set[str] = set()
    return {""} if _begin(elements, categories, found.update) else found


def _begin(elements: tuple[Element, ...], categories: Mapping[str, Category], add: Callable[[set[str]], None]) -> bool:
    """Propagates what a run of elements may begin with; returns whether it may be empty."""
    for element in elements:
        if isinstance(element, Literal):
            add({element.word})
            return False
        if isinstance(element, Slot):
            if element.category in categories:
                for rule in categories[element.category].rules:
                    add(rule.first)
            else:
                add({element.category})
            return False
        if isinstance(element, Phrases):
            add(set(element.by_first))
            if not element.optional:
                return False
            continue
        empty = [_begin(way, categories, add) for way in element.ways]
        if not (element.optional or any(empty)):
            return False
    return True
