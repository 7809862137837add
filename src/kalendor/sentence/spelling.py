"""How names, numbers and SQL are written in a sentence: bare, or in quotation marks if they are ambiguous."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from kalendor.errors import DefinitionError
from kalendor.sentence.conditions import normal
from kalendor.sentence.grammar import grammar
from kalendor.sentence.lexicon import looks_like_a_number
from kalendor.sentence.naming import number_text, ordinal
from kalendor.sentence.tokens import closing, folded

JOINING = frozenset([
    "a", "and", "as", "at", "across", "beneath", "blank", "by", "down", "each", "except", "excluding", "for", "from",
    "in", "is", "keep", "no", "nor", "not", "of", "on", "only", "or", "other", "over", "than", "the", "then", "to",
    "until", "where", "with", "within", "without", "yes",
])  # fmt: skip
"""Words that join others, and so are never taken for a name."""
TIGHT = frozenset(",;:)-")


class NoWordsError(Exception):
    """No rule of the grammar writes a value."""


def plain_name(name: str) -> bool:
    """Whether a name needs no quotation marks: none of its words are the grammar's.

    >>> plain_name("sold_on"), plain_name("Net fare"), plain_name("by"), plain_name("Top 5"), plain_name("in 2025")
    (True, True, False, False, False)
    """
    words = name.split(" ")
    return all(
        word.isidentifier()
        and folded(word) == word.replace("_", " ").casefold()
        and word.casefold() not in grammar().words
        and not looks_like_a_number(word)
        for word in words
    )


def quoted(name: str) -> str:
    """A name in quotation marks.

    >>> quoted('the "big" one')
    '"the ""big"" one"'
    """
    if not isinstance(name, str):
        raise NoWordsError
    return '"' + name.replace('"', '""') + '"'


def bracketed(sql: str) -> str:
    if closing(f"({sql})", 0) == len(sql) + 2:
        return f"({sql})"
    try:
        return f"({normal(sql)})"  # without comments, which may contain a bracket
    except DefinitionError:
        raise NoWordsError from None


def text_of(value: Any) -> str:
    if not isinstance(value, str):
        raise NoWordsError
    return value


TERMINALS: Mapping[str, Callable[[Any], str]] = {
    "REF": quoted,
    "LABEL": quoted,
    "NEWNAME": quoted,
    "SQL": bracketed,
    "DAY": text_of,
    "INT": str,
    "NUMBER": number_text,
    "NUMBERTEXT": str,
    "ORDINAL": ordinal,
    "COUNTED": ordinal,
}


def joined(words: Sequence[str]) -> str:
    """Words with blanks between them, except beside marks.

    >>> joined(["x", "(", "a", ";", "b", ")", "3", "-", "period"])
    'x (a; b) 3-period'
    """
    text = ""
    for word in words:
        tight = not text or word in TIGHT or text.endswith(("(", "-"))
        text += word if tight else f" {word}"
    return text
