"""Scalar SQL expressions read: their syntax trees, and the columns that they name."""

import logging
from functools import lru_cache
from typing import Any

import sqlglot
from sqlglot import exp
from sqlglot.errors import SqlglotError

from kalendor.errors import DefinitionError

logging.getLogger("sqlglot").setLevel(logging.ERROR)  # what cannot be read is said by an error of our own


@lru_cache(maxsize=512)
def parsed(formula: str) -> Any:
    """The syntax tree of a scalar expression.

    Raises DefinitionError with the place of the first fault.
    """
    try:
        tree = sqlglot.parse_one(formula, into=exp.Condition)
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


def names_in(formula: str) -> list[str]:
    """The column names that a formula uses, each once, as written."""
    return list(dict.fromkeys(column.name for column in parsed(formula).find_all(exp.Column)))


def quoted_in(formula: str) -> set[str]:
    """The column names that a formula has in double quotes, which are to be taken to the letter."""
    return {column.name for column in parsed(formula).find_all(exp.Column) if column.this.args.get("quoted")}


def blank_names(condition: str) -> list[str]:
    """The columns that a condition asks to be NULL, as `paid_on IS NULL` does."""
    return [
        node.this.name
        for node in parsed(condition).find_all(exp.Is)
        if isinstance(node.this, exp.Column)
        and isinstance(node.expression, exp.Null)
        and not isinstance(node.parent, exp.Not)
    ]
