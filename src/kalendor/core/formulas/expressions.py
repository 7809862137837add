"""Parses scalar SQL expressions: their syntax trees, and the columns that they refer to."""

import logging
import re
import sys
from functools import lru_cache
from typing import Any

import sqlglot
from sqlglot import exp
from sqlglot.errors import SqlglotError

from kalendor.core.values.notation import grouped
from kalendor.errors import DefinitionError

MOST_CHARACTERS, MOST_NESTED = 10_000, 100
# Parsing a nesting of 100 takes some 3,000 nested calls, and the interpreter allows 1,000.
sys.setrecursionlimit(max(sys.getrecursionlimit(), 6_000))
logging.getLogger("sqlglot").setLevel(logging.ERROR)  # syntax errors are raised in our own words

_BRACKETS = re.compile(r"'(?:[^']|'')*'|\"(?:[^\"]|\"\")*\"|[()]|\b(?:CASE|END)\b", re.IGNORECASE)


@lru_cache(maxsize=512)
def parsed(formula: str) -> Any:
    """The syntax tree of a scalar expression.

    Raises DefinitionError with the position of the first error.
    """
    if len(formula) > MOST_CHARACTERS:
        raise DefinitionError(
            f"the formula {formula[:60]!r}… has more than {grouped(MOST_CHARACTERS)} characters; make columns of its parts"
        )
    if _nesting(formula) > MOST_NESTED:
        raise DefinitionError(f"the formula {formula[:60]!r}… is nested more than {MOST_NESTED} deep")
    try:
        tree = sqlglot.parse_one(formula, into=exp.Condition)
    except RecursionError:
        raise DefinitionError(f"the formula {formula[:60]!r}… is nested too deeply") from None
    except SqlglotError as error:
        found = getattr(error, "errors", None)
        detail = found[0] if found else {}
        where = f" at character {detail['col']}" if detail.get("col") else ""
        highlight = detail.get("highlight") or ""
        near = f", near {highlight!r}" if highlight else ""
        if highlight.upper() in sqlglot.Tokenizer.KEYWORDS and highlight.isidentifier():
            near += f'; where it is a column, write it in double quotes, "{highlight}"'
        raise DefinitionError(f"cannot read the formula {formula!r}{where}{near}") from None
    if tree is None or tree.find(exp.Query, exp.Command) is not None:
        raise DefinitionError(f"the formula {formula!r} is not a scalar expression")
    return tree


def _nesting(formula: str) -> int:
    """The nesting depth of parentheses and CASE, ignoring quoted text.

    >>> _nesting("((a)) || ')((('"), _nesting("CASE WHEN CASE WHEN a THEN 1 END = 1 THEN 2 END")
    (2, 2)
    """
    depth = deepest = 0
    for found in _BRACKETS.finditer(formula):
        token = found.group().upper()
        depth += (token in ("(", "CASE")) - (token in (")", "END"))
        deepest = max(deepest, depth)
    return deepest


def names_in(formula: str) -> list[str]:
    """The column names that a formula uses, each once, as written."""
    return list(dict.fromkeys(column.name for column in parsed(formula).find_all(exp.Column, bfs=False)))


def with_column_renamed(formula: str, old: str, new: str) -> str:
    """The formula with a column renamed, in double quotes unless the name is a plain identifier.

    >>> with_column_renamed('gross - COALESCE("Gross", 0)', "gross", "Net amount")
    '"Net amount" - COALESCE("Gross", 0)'
    >>> with_column_renamed("year(year) = 2026", "year", "built")
    'year(built) = 2026'
    """
    names = {column.name for column in parsed(formula).find_all(exp.Column)}
    if not any(name.casefold() == old.casefold() for name in names):
        return formula
    plain = new.isascii() and new.isidentifier() and new.upper() not in sqlglot.Tokenizer.KEYWORDS
    put = new if plain else '"' + new.replace('"', '""') + '"'
    tokens = sqlglot.Tokenizer().tokenize(formula)
    for at in range(len(tokens) - 1, -1, -1):
        token = tokens[at]
        written = formula[token.start : token.end + 1]
        quoted = written.startswith('"')
        called = not quoted and at + 1 < len(tokens) and tokens[at + 1].text == "("
        same = token.text == old if quoted else token.text.casefold() == old.casefold()
        if same and not called and not written.startswith("'"):
            formula = f"{formula[: token.start]}{put}{formula[token.end + 1 :]}"
    return formula


def with_date(formula: str, name: str, day: str) -> str:
    """The formula with a date, written 2026-07-31, replacing an unquoted name and CURRENT_DATE.

    >>> with_date("AS_OF - due > 30 AND note <> 'AS_OF'", "AS_OF", "2026-07-31")
    "DATE '2026-07-31' - due > 30 AND note <> 'AS_OF'"
    """
    for token in reversed(sqlglot.Tokenizer().tokenize(formula)):
        written = formula[token.start : token.end + 1]
        if written.upper() in (name.upper(), "CURRENT_DATE"):
            formula = f"{formula[: token.start]}DATE '{day}'{formula[token.end + 1 :]}"
    return formula


def divides(formula: str) -> bool:
    """Whether a formula divides, or contains a number with an exponent, so that its result is float64 by nature."""
    tree = parsed(formula)
    written = (str(node.this) for node in tree.find_all(exp.Literal) if not node.args["is_string"])
    return tree.find(exp.Div) is not None or any("e" in number.lower() for number in written)


def quoted_in(formula: str) -> set[str]:
    """The column names that a formula has in double quotes, which are matched exactly."""
    return {column.name for column in parsed(formula).find_all(exp.Column) if column.this.args.get("quoted")}


def names_day(formula: str) -> bool:
    """Whether a formula refers to the as-of date.

    >>> names_day("due < as_of"), names_day("due < CURRENT_DATE"), names_day("due < '2026-07-31'")
    (True, True, False)
    """
    tree = parsed(formula)
    return any(column.name.upper() == "AS_OF" for column in tree.find_all(exp.Column)) or bool(
        tree.find(exp.CurrentDate)
    )


def blank_names(condition: str) -> list[str]:
    """The columns that a condition requires to be NULL, as `paid_on IS NULL` does."""
    return [
        node.this.name
        for node in parsed(condition).find_all(exp.Is)
        if isinstance(node.this, exp.Column)
        and isinstance(node.expression, exp.Null)
        and not isinstance(node.parent, exp.Not)
    ]
