"""The dictionary of a source: every name a sentence may use, indexed by its words."""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from kalendor.sentence.grammar import grammar
from kalendor.sentence.tokens import folded, tokens

AS_WRITTEN, FOLDED, PLURAL, ONE_WORD = 0.0, 0.02, 0.05, 1.0
OF_THE_GRAMMAR = 0.4
_PLAIN = re.compile(r"[^\W\d_]+(?:[ _][^\W\d_]+)*")
_SHORTEST = 3
_ALSO_NAMES = frozenset(("start", "end", "high", "low"))
"""Words of the grammar that never stand alone in it, and so may stand for a longer name."""


@dataclass(frozen=True)
class Column:
    """A column as the sentence knows it; `kind` is "number", "date", "text", "yes_no" or "time", `different` the number
    of distinct values of a text column, `places` the decimal places of numbers."""

    name: str
    kind: str
    different: int = 0
    places: int = 0


@dataclass(frozen=True)
class Named:
    """A name: the kind of thing it names, its meaning, and its own spelling."""

    kind: str
    value: Any
    spelling: str


def key_of(name: str) -> str:
    """The lookup key of a name: its tokens in lower case.

    >>> key_of("due_on"), key_of("Fuel (diesel)"), key_of("O'Neil")
    ('due on', 'fuel ( diesel )', "o'neil")
    """
    if _PLAIN.fullmatch(name):
        return folded(name)
    return " ".join(folded(token.text) for token in tokens(name))


def singular(word: str) -> Iterator[str]:
    """The possible singulars of a word.

    >>> list(singular("categories")), list(singular("branches")), list(singular("status"))
    (['category', 'categorie'], ['branch', 'branche'], ['statu'])
    """
    if word.endswith("ies") and len(word) > 4:
        yield word[:-3] + "y"
    if word.endswith(("ses", "xes", "zes", "ches", "shes")):
        yield word[:-2]
    if word.endswith("s") and not word.endswith("ss") and len(word) >= _SHORTEST:
        yield word[:-1]
    if word == "people":
        yield "person"
    if word.endswith("men"):
        yield word[:-3] + "man"


def _forms(key: str) -> Iterator[str]:
    """A key, and its possible singulars."""
    yield key
    head, _, last = key.rpartition(" ")
    for one in singular(last):
        yield f"{head} {one}" if head else one


@dataclass(eq=False)
class Names:
    """All names by their keys. `columns` tells kinds, `trees` the column and levels of each, `figures` those of the
    current report, in full; `first_date` is the source's."""

    columns: Mapping[str, Column]
    trees: Mapping[str, tuple[str | None, Sequence[str]]] = field(default_factory=dict)
    calendars: Sequence[str] = ()
    sets: Mapping[str, str | None] = field(default_factory=dict)
    figures: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    sources: Sequence[str] = ()
    first_date: str | None = None
    found: dict[str, list[tuple[Named, float]]] = field(default_factory=dict)
    longest: dict[str, int] = field(default_factory=dict)
    beneath: "Names | None" = None
    """A dictionary that this one adds to."""

    def add(self, kind: str, name: str, value: Any = None, cost: float = 0.0) -> None:
        """Have a name stand for `value` (itself where left out)."""
        named = Named(kind, name if value is None else value, name)
        for n, form in enumerate(_forms(key_of(name))):
            self._put(form, named, cost + (PLURAL if n else 0.0))

    def add_word(self, word: str, kind: str, name: str, value: Any) -> None:
        """Have one word of a name stand for it."""
        for form in _forms(word):
            self._put(form, Named(kind, value, name), ONE_WORD)

    def _put(self, key: str, named: Named, cost: float) -> None:
        self.found.setdefault(key, []).append((named, cost))
        first, size = key.partition(" ")[0], key.count(" ") + 1
        self.longest[first] = max(size, self.longest.get(first, 0))

    def at(self, words: Sequence[str]) -> Iterator[tuple[int, Named, float]]:
        """The names that a run of words begins with: how many words each takes, and what it costs to take it for that."""
        if not words:
            return
        most = max(self._longest(form.partition(" ")[0]) for form in _forms(words[0]))
        for size in range(1, min(most, len(words)) + 1):
            key = " ".join(words[:size])
            for n, form in enumerate(_forms(key)):
                for named, cost in self._called(form):
                    yield size, named, cost + (PLURAL if n else 0.0)

    def _longest(self, word: str) -> int:
        own = self.longest.get(word, 0)
        return own if self.beneath is None else max(own, self.beneath.longest.get(word, 0))

    def _called(self, key: str) -> Iterable[tuple[Named, float]]:
        own = self.found.get(key, ())
        return own if self.beneath is None else (*own, *self.beneath.found.get(key, ()))

    def everything(self) -> Iterator[tuple[str, Named]]:
        """Everything that has a name, by its key."""
        for names_of in (self, self.beneath):
            for key, found in names_of.found.items() if names_of else ():
                yield key, found[0][0]

    def over(self, figures: Mapping[str, Mapping[str, Any]], values: Mapping[str, Iterable[str]]) -> "Names":
        """This dictionary with the figures of a report, and values that it refers to."""
        made = replace(self, figures=figures, found={}, longest={}, beneath=self)
        for name in figures:
            made.add("figure", name)
        for column, texts in values.items():
            for text in texts:
                if text and not any(named.value == (column, text) for named, _ in self.exactly(text)):
                    made.add("value", text, (column, text))
        return made

    def exactly(self, name: str) -> Iterator[tuple[Named, float]]:
        """Everything with exactly this name, ignoring case."""
        for named, cost in self._called(key_of(name)):
            if cost < ONE_WORD and key_of(named.spelling) == key_of(name):
                yield named, AS_WRITTEN if named.spelling == name else FOLDED

    def kind_of(self, column: str) -> str | None:
        """The kind of a column's values; None if unknown."""
        known = self.columns.get(column)
        return known.kind if known else None


def names(
    columns: Sequence[Column],
    values: Mapping[str, Iterable[str]],
    *,
    trees: Mapping[str, tuple[str | None, Sequence[str]]] | None = None,
    calendars: Sequence[str] = (),
    sets: Mapping[str, str | None] | None = None,
    sources: Sequence[str] = (),
) -> Names:
    """The dictionary of these columns, the values of each, and everything else that has a name.

    `trees` are by name the column that each belongs to and its levels; `sets` the column of each, if known.
    """
    first_date = next((c.name for c in columns if c.kind == "date"), None)
    made = Names({c.name: c for c in columns}, trees or {}, calendars, sets or {}, {}, sources, first_date)
    whole: list[tuple[str, str, Any]] = [("column", c.name, c.name) for c in columns]
    for tree, (_, levels) in made.trees.items():
        whole.append(("tree", tree, tree))
        whole += [("level", level, (tree, level)) for level in levels]
    whole += [("calendar", name, name) for name in calendars]
    whole += [("set", name, name) for name in made.sets]
    whole += [("source", name, name) for name in sources]
    for kind, name, value in whole:
        made.add(kind, name, value)
    _add_words(made, [part for part in whole if part[0] != "source"])
    _add_fiscal(made)
    of_columns = {form for column in columns for form in _forms(key_of(column.name))}
    of_records = [
        name for name in sources if not of_columns & set(_forms(key_of(name)))
    ]  # a column takes precedence over its source
    for name in (*of_records, "records", "rows", "lines", "transactions", "entries"):
        made.add("records", name, "records")
        for one in singular(key_of(name)):
            made.add("record", one, "records")
    for column, texts in values.items():
        for text in texts:
            if text:
                made.add("value", text, (column, text))
    return made


def _add_words(made: Names, whole: Sequence[tuple[str, str, Any]]) -> None:
    """Let each single word of a longer name stand for it if no other has the word: columns take precedence."""
    owners: dict[str, set[tuple[bool, str]]] = {}
    for kind, name, _ in whole:
        for word in key_of(name).split(" "):
            for form in _forms(word):
                owners.setdefault(form, set()).add((kind != "column", key_of(name)))
    for kind, name, value in whole:
        words = key_of(name).split(" ")
        for word in words if len(words) > 1 else ():
            rivals = {own for form in _forms(word) for own in owners[form] if kind != "column" or not own[0]}
            if len(rivals) == 1 and len(word) >= _SHORTEST and (word in _ALSO_NAMES or word not in grammar().words):
                made.add_word(word, kind, name, value)


def _add_fiscal(made: Names) -> None:
    """Let `fiscal` stand for the one calendar that it can mean."""
    for word in ("fiscal", "financial", "fy"):
        own = [name for name in made.calendars if word in key_of(name)]
        if len(own) == 1 or (not own and len(made.calendars) == 1):
            made.add("calendar", word, (own or list(made.calendars))[0], FOLDED)
