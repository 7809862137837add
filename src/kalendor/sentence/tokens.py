"""Splits a text into tokens with their positions."""

import re
import unicodedata
from dataclasses import dataclass
from typing import Any

QUOTES = {'"': '"', "“": "”", "„": "“", "«": "»", "‘": "’"}
_PARTS = re.compile(
    r"""(?:[$£€¥]\s?)?(?P<number>[-−]?(?:[1-9]\d{0,2}(?:,\d{3})+(?:\.\d+)?|\d+\.\d+|\.\d+|\d+)(?:[eE][-+]?\d+)?)(?P<unit>th|st|nd|rd|k|m|%)?(?!\w|\.\d)
    |(?P<word>[^\W\d]\w*(?:['’]\w+)?|\w+(?:-\w+)*)
    |(?P<mark>>=|<=|<>|!=|[^\w\s])""",
    re.VERBOSE,
)
_DAY = re.compile(r"\d{4}-\d{2}-\d{2}(?![\w-])")
_SQL_QUOTED = re.compile(r"'(?:[^']|'')*'|\"(?:[^\"]|\"\")*\"|[()]")
_SINGLY_QUOTED = re.compile(r"(?<!\w)'([^']+)'(?!\w)")
_SCALES = {"k": 3, "m": 6, "%": -2}


@dataclass(frozen=True)
class Token:
    """A word, a number, a quoted name, a day or a mark, at `start` to `end` of the text.

    `word` is its lookup key: lower case, composed; empty for quoted text. `value` is the value of a number, a day or a
    quotation. `close` is the position just after the bracket that closes this one.
    """

    kind: str
    text: str
    word: str
    start: int
    end: int
    value: Any = None
    close: int = 0


def folded(text: str) -> str:
    """A text in the form in which names are compared: composed, lower case, `_` as a blank, single blanks.

    >>> folded("  Gross_PAY ")
    'gross pay'
    """
    return " ".join(unicodedata.normalize("NFC", text).casefold().replace("_", " ").split())


def tokens(text: str) -> list[Token]:
    """The tokens of a text, in order.

    >>> [t.word for t in tokens("Net, by due_on since 1 Jan")]
    ['net', ',', 'by', 'due_on', 'since', '1', 'jan']
    """
    found: list[Token] = []
    at = 0
    while at < len(text):
        if text[at].isspace():
            at += 1
            continue
        token = _at(text, at)
        found.append(token)
        at = token.end
    return found


def _at(text: str, at: int) -> Token:
    if text[at] in QUOTES and (end := _quoted_end(text, at)):
        mark = QUOTES[text[at]]
        inner = text[at + 1 : end - 1].replace(mark * 2, mark)
        return Token("quoted", text[at:end], "", at, end, inner)
    if text[at] == "'" and (inside := _SINGLY_QUOTED.match(text, at)):
        return Token("quoted", inside.group(), "", at, inside.end(), inside[1])
    if day := _DAY.match(text, at):
        return Token("day", day.group(), day.group(), at, day.end(), day.group())
    part = _PARTS.match(text, at)
    if part is None:
        return Token("mark", text[at], text[at], at, at + 1)
    if part.lastgroup in ("number", "unit"):
        return _number(part)
    word = unicodedata.normalize("NFC", part.group()).casefold()
    close = closing(text, at) if part.group() == "(" else 0
    return Token(str(part.lastgroup), part.group(), word, at, part.end(), close=close)


def _number(part: re.Match[str]) -> Token:
    number, unit = part["number"].replace(",", "").replace("−", "-"), part["unit"] or ""
    if unit in _SCALES:
        number = scaled(number, _SCALES[unit])
    kind = "ordinal" if unit in ("th", "st", "nd", "rd") else "percentage" if unit == "%" else "number"
    return Token(kind, part.group(), part.group().casefold(), part.start(), part.end(), number)


def scaled(number: str, places: int) -> str:
    """A decimal number as text, times ten to the power of `places`.

    >>> scaled("1.5", 6), scaled("-12", -2), scaled("40", 3)
    ('1500000', '-0.12', '40000')
    """
    sign, digits = ("-", number[1:]) if number.startswith("-") else ("", number)
    whole, _, part = digits.partition(".")
    if places >= 0:
        part = part.ljust(places, "0")
        whole, part = whole + part[:places], part[places:]
    else:
        whole = whole.rjust(-places + 1, "0")
        whole, part = whole[:places], whole[places:] + part
    whole, part = whole.lstrip("0") or "0", part.rstrip("0")
    return sign + whole + (f".{part}" if part else "")


def _quoted_end(text: str, at: int) -> int:
    """The position just after the quotation mark that closes the one at `at`, doubled ones skipped; 0 if there is none."""
    mark = QUOTES[text[at]]
    end = text.find(mark, at + 1)
    while end >= 0 and text[end + 1 : end + 2] == mark:
        end = text.find(mark, end + 2)
    return end + 1


def closing(text: str, at: int) -> int:
    """The position just after the bracket that closes the one at `at`, ignoring quoted SQL; 0 if there is none.

    >>> closing("(a = ')')", 0), closing("(a", 0)
    (9, 0)
    """
    depth = 0
    for found in _SQL_QUOTED.finditer(text, at):
        depth += {"(": 1, ")": -1}.get(found.group(), 0)
        if depth == 0:
            return found.end()
    return 0
