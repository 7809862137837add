"""Conditions as a list of simple comparisons that a form can show, and as SQL."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from kalendor.errors import DefinitionError
from kalendor.sentence.condition_words import in_words
from kalendor.sentence.conditions import Condition, normal, sql_of
from kalendor.sentence.labels import TESTS
from kalendor.sentence.spelling import NoWordsError

Kind = Literal["text", "number", "date", "yes_no"]
BLANK = ""
_VALUE_OF: Mapping[Kind, str] = {"text": "text", "number": "number", "date": "day"}
_AMONG: Mapping[str, tuple[str, bool]] = {
    "equal": ("among", False),
    "among": ("among", False),
    "blank or equal": ("among", True),
    "blank or among": ("among", True),
    "not": ("not among", False),
    "not among": ("not among", False),
    "unequal": ("not among", True),
    "filled, not among": ("not among", True),
}
"""How comparisons with texts stand as a list of values, and whether blank is one of them."""
_TESTS_OF_LISTS = {
    (False, False): ("among", "equal"),
    (False, True): ("blank or among", "blank or equal"),
    (True, False): ("not among", "not"),
    (True, True): ("filled, not among", "unequal"),
}
"""How a list of texts is compared: by whether it is denied and whether blank is one of it, for several and for one."""


@dataclass(frozen=True)
class Clause:
    """A comparison: how a column is compared (a key of that kind's tests), and with which values. In a list of texts,
    an empty one means blank; `last` has a number and a unit of time."""

    column: str
    test: str
    values: Sequence[str] = ()
    kind: Kind = "text"


@dataclass(frozen=True)
class Clauses:
    """Comparisons of which all, or `any`, must hold."""

    any: bool
    clauses: Sequence[Clause]


def clauses_of(sql: str) -> Clauses | None:
    """A condition as comparisons; None if a form cannot show it.

    >>> clauses_of("status NOT IN ('void', 'open') AND net > 5").clauses[0]
    Clause(column='status', test='not among', values=['void', 'open', ''], kind='text')
    """
    found = in_words(sql)
    several = next((word for word in ("any", "all") if word in found), None)
    try:
        parts = found[several] if several else [found]
        made = Clauses(several == "any", [_clause(one) for one in parts])
        return made if normal(sql_of_clauses(made)) == normal(sql) else None
    except (NoWordsError, DefinitionError):
        return None


def sql_of_clauses(clauses: Clauses) -> str:
    """Comparisons as SQL.

    Raises DefinitionError for an incomplete clause.
    """
    parts = [_condition(clause) for clause in clauses.clauses]
    whole: Condition = parts[0] if len(parts) == 1 else {"any" if clauses.any else "all": parts}
    return sql_of(whole, str, lambda _: None)


def _clause(found: Condition) -> Clause:
    if "column" not in found:
        raise NoWordsError
    test, values = found["is"], [_plain(value) for value in found.get("values", ())]
    kind = _kind(found)
    if kind == "text" and test in _AMONG:
        test, blank = _AMONG[test]
        values += [BLANK] if blank else []
    elif test == "last":
        values = [str(found["values"][0]["count"]), found["values"][0]["unit"]]
    elif kind == "yes_no":
        test, values = ("yes" if found["values"][0]["yes"] else "no"), []
    if not any(test in tests for tests in TESTS.values()):
        raise NoWordsError
    return Clause(found["column"], test, values, kind)


def _kind(found: Condition) -> Kind:
    value: Mapping[str, Any] = next(iter(found.get("values", ())), {})
    if "count" in value:
        return "date"
    return next((kind for kind, key in (*_VALUE_OF.items(), ("yes_no", "yes")) if key in value), "text")


def _plain(value: Mapping[str, Any]) -> str:
    return str(next(iter(value.values())))


def _condition(clause: Clause) -> Condition:
    column, test = clause.column, clause.test
    if test not in TESTS[clause.kind]:
        raise DefinitionError(f"{column} cannot be compared so: {test!r}")
    if test in ("blank", "filled"):
        return {"column": column, "is": test}
    if test in ("yes", "no"):
        return {"column": column, "is": "equal", "values": [{"yes": test == "yes"}]}
    if test == "last":
        count, unit = (*clause.values, "", "")[:2]
        if not count.isdigit():
            raise DefinitionError(f"{column} lacks how many {unit or 'days'}")
        return {"column": column, "is": test, "values": [{"count": int(count), "unit": unit}]}
    if test in ("among", "not among"):
        return _of_list(clause)
    needed = 2 if test == "between" else 1
    values = [{_VALUE_OF[clause.kind]: value} for value in clause.values[:needed] if value.strip()]
    if len(values) < needed:
        raise DefinitionError(f"{column} lacks a value to be compared with")
    return {"column": column, "is": test, "values": values}


def _of_list(clause: Clause) -> Condition:
    column = clause.column
    values = [{"text": value} for value in clause.values if value != BLANK]
    blank, denied = BLANK in clause.values, clause.test == "not among"
    if not clause.values:
        raise DefinitionError(f"{column} lacks a value to be compared with")
    if not values:
        return {"column": column, "is": "filled" if denied else "blank"}
    one = len(values) == 1
    return {"column": column, "is": _TESTS_OF_LISTS[denied, blank][one], "values": values}
