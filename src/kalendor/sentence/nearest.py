"""Suggestions for words that were not understood."""

import difflib
import heapq
from collections.abc import Iterable
from dataclasses import dataclass

from kalendor.sentence.grammar import grammar
from kalendor.sentence.names import Names, key_of
from kalendor.sentence.naming import said
from kalendor.sentence.spelling import plain_name, quoted

KINDS = {"column": "a column", "level": "a level", "tree": "a category tree", "calendar": "a calendar", "set": "ranges", "figure": "a figure"}  # fmt: skip
MOST, ALIKE, WORDS_ALIKE = 3, 0.6, 0.8
MOST_COMPARED = 400
A_WORD = "a word"


@dataclass(frozen=True)
class Named:
    """A similar name or word: its kind, and for a value its column and text."""

    text: str
    what: str
    value: tuple[str, str] | None = None


def nearest(word: str, names: Names) -> list[Named]:
    """Up to three names or words with the most similar spelling; a value of several columns once for each column."""
    own = [named.value for named, _ in names.exactly(word) if named.kind == "value"]
    if len({column for column, _ in own}) > 1:
        return [Named(f"{_called(column)} {text}", f"a value of {column}", (column, text)) for column, text in own]
    if key_of(word) in grammar().words:
        return []  # it is spelt well, but said of nothing
    known: dict[str, Named] = {}
    for key, named in names.everything():
        if named.kind in KINDS:
            known.setdefault(key, Named(named.spelling, KINDS[named.kind]))
        elif named.kind == "value":
            known.setdefault(key, Named(named.spelling, f"a value of {named.value[0]}", named.value))
    for written in grammar().words:
        if written.isalpha() and len(written) > 3:
            known.setdefault(written, Named(written, A_WORD))
    key = key_of(word)
    spelt = difflib.get_close_matches(key, _of_same_letters(key, known), n=MOST * 2, cutoff=ALIKE)
    alike = [one for one in spelt if known[one].what != A_WORD or _ratio(key, one) >= WORDS_ALIKE]
    return list(dict.fromkeys(known[one] for one in alike))[:MOST]


def _called(column: str) -> str:
    return said(column) if all(map(plain_name, said(column).split(" "))) else quoted(column)


def _ratio(one: str, other: str) -> float:
    return difflib.SequenceMatcher(None, one, other).ratio()


def _of_same_letters(key: str, known: Iterable[str]) -> list[str]:
    """Those of about the same length that share most letters: few enough to compare them one by one."""
    letters, apart = frozenset(key), max(2, len(key) // 2)
    found = []
    for one in known:
        if abs(len(one) - len(key)) <= apart:
            own = set(one)
            found.append((len(letters & own) / (len(letters) + len(own)), one))
    return [one for _, one in heapq.nlargest(MOST_COMPARED, found)]


def completions(begun: str, names: Names) -> list[str]:
    """Up to five names that begin as a half-typed word does, columns and groupings before values, short ones first."""
    key = key_of(begun)
    found = [
        (named.kind == "value", len(other), named.spelling)
        for other, named in names.everything()
        if other.startswith(key) and other != key and named.kind != "records"
    ]
    return list(dict.fromkeys(spelling for *_, spelling in sorted(found)[: MOST * 5]))[:5] if key else []
