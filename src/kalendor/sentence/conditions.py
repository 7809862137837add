"""Conditions as the sentence has them, and as SQL.

A condition is a dictionary: a column (or figure), how it `is`, and `values`, each of which is `text`, a `number`, a
`day` or `yes`; or `any`/`all` of several; or `sql` that cannot be put into words.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from sqlglot import exp

from kalendor.core.formulas.expressions import names_in, parsed
from kalendor.errors import DefinitionError

Condition = dict[str, Any]
COMPARED = {"equal": "=", "unequal": "<>", "over": ">", "least": ">=", "under": "<", "most": "<="}
KEEPING_BLANKS = {
    "not": "unequal",
    "not among": "filled, not among",
    "not contains": "",
    "not begins": "",
    "not ends": "",
}
ESCAPE = "\\"
PATTERNS = {"contains": "%{}%", "begins": "{}%", "ends": "%{}"}


def quoted_name(name: str) -> str:
    """A column's name in SQL.

    >>> quoted_name("net"), quoted_name("due on"), quoted_name("by")
    ('net', '"due on"', '"by"')
    """
    plain = name.isidentifier() and name.isascii() and name.upper() not in _KEYWORDS
    return name if plain else '"' + name.replace('"', '""') + '"'


_KEYWORDS = frozenset(
    [
        "AND",
        "AS",
        "ASC",
        "AS_OF",
        "BETWEEN",
        "BY",
        "CASE",
        "CAST",
        "CURRENT_DATE",
        "DATE",
        "DAY",
        "DESC",
        "DISTINCT",
        "ELSE",
        "END",
        "EXISTS",
        "EXTRACT",
        "FALSE",
        "FOR",
        "FROM",
        "GROUP",
        "HAVING",
        "HOUR",
        "IF",
        "IN",
        "INTERVAL",
        "INTO",
        "IS",
        "JOIN",
        "LEFT",
        "LIKE",
        "LIMIT",
        "MINUTE",
        "MONTH",
        "NOT",
        "NULL",
        "OFFSET",
        "ON",
        "OR",
        "ORDER",
        "QUARTER",
        "RIGHT",
        "SECOND",
        "SELECT",
        "SET",
        "TABLE",
        "THEN",
        "TIME",
        "TIMESTAMP",
        "TO",
        "TRUE",
        "UNION",
        "USING",
        "VALUES",
        "WEEK",
        "WHEN",
        "WHERE",
        "WITH",
        "YEAR",
        "ALL",
        "ANY",
        "COLUMN",
        "FULL",
        "INNER",
        "OUTER",
        "CROSS",
        "NATURAL",
        "OVER",
        "PARTITION",
        "ROW",
        "ROWS",
        "RANGE",
        "WINDOW",
        "FILTER",
    ]
)


def quoted_text(text: str) -> str:
    """A text in SQL.

    >>> quoted_text("O'Neil")
    "'O''Neil'"
    """
    return "'" + text.replace("'", "''") + "'"


def sql_of(condition: Condition, name_of: Callable[[Any], str], kind_of: Callable[[str], str | None]) -> str:
    """A condition as SQL; `name_of` gives the name for its column or figure, `kind_of` its kind."""
    if "sql" in condition:
        return str(condition["sql"])
    for word in ("any", "all"):
        if word in condition:
            parts = [sql_of(one, name_of, kind_of) for one in condition[word]]
            inner = {"any": " OR ", "all": " AND "}[word]
            loose = (exp.Or, exp.And) if word == "any" else exp.Or
            return inner.join(f"({part})" if isinstance(parsed(part), loose) else part for part in parts)
    column = name_of(condition.get("figure", condition.get("column")))
    values = [_literal(_spelt_in(column, value), kind_of(column)) for value in condition.get("values", ())]
    return _tested(quoted_name(column), condition["is"], values, condition)


def _spelt_in(column: str, value: Mapping[str, Any]) -> Mapping[str, Any]:
    """A value that several columns have, as spelt in this one."""
    texts = value.get("in")
    return value if texts is None else {"text": texts.get(column, next(iter(texts.values())))}


def _tested(name: str, test: str, values: Sequence[str], condition: Condition) -> str:
    if len(values) == 1 and test.endswith("among"):
        test = {"not among": "not", "among": "equal", "blank or among": "blank or equal"}.get(test, test)
    match test:
        case "blank":
            return f"{name} IS NULL"
        case "filled":
            return f"{name} IS NOT NULL"
        case "among":
            return f"{name} IN ({', '.join(values)})"
        case "filled, not among":
            return f"{name} NOT IN ({', '.join(values)})"
        case "blank or among" | "blank or equal":
            return f"{_tested(name, test.removeprefix('blank or '), values, condition)} OR {name} IS NULL"
        case "last":
            count, unit = condition["values"][0]["count"], condition["values"][0]["unit"].upper()
            return f"{name} > AS_OF - INTERVAL '{count}' {unit} AND {name} < AS_OF + INTERVAL '1' DAY"
        case "between":
            return f"{name} BETWEEN {values[0]} AND {values[1]}"
        case "not between":
            return f"{name} < {values[0]} OR {name} > {values[1]} OR {name} IS NULL"
        case "not" | "not among":
            return f"{_tested(name, KEEPING_BLANKS[test], values, condition)} OR {name} IS NULL"
    if test.removeprefix("not ") in PATTERNS:
        pattern = _pattern(PATTERNS[test.removeprefix("not ")], condition["values"][0]["text"])
        if test.startswith("not "):
            return f"{name} NOT LIKE {pattern} OR {name} IS NULL"
        return f"{name} LIKE {pattern}"
    return f"{name} {COMPARED[test]} {values[0]}"


def _pattern(form: str, text: str) -> str:
    """A text in a pattern, with its own % and _ escaped."""
    plain = text
    for special in ESCAPE + "%_":
        plain = plain.replace(special, ESCAPE + special)
    return quoted_text(form.format(plain)) + (f" ESCAPE '{ESCAPE}'" if plain != text else "")


def _literal(value: Mapping[str, Any], kind: str | None) -> str:
    if "count" in value:
        return ""  # a span of time, which the test writes
    if "unknown" in value:
        return quoted_text(str(value["unknown"]))
    if "yes" in value:
        return "TRUE" if value["yes"] else "FALSE"
    if "day" in value:
        return f"DATE '{value['day']}'"
    if "number" in value:
        return quoted_text(str(value["number"])) if kind == "text" else str(value["number"])
    return quoted_text(str(value["text"]))


def normal(sql: str) -> str:
    """SQL in a normal form for comparison: parsed, names quoted, redundant brackets removed."""
    tree = parsed(sql).copy()
    for name in tree.find_all(exp.Identifier):
        name.set("quoted", True)
    while isinstance(tree, exp.Paren):
        tree = tree.this
    for bracket in list(tree.find_all(exp.Paren)):
        if isinstance(bracket.this, exp.Paren):
            bracket.replace(bracket.this)
    return str(tree.sql())


def among(values: Sequence[tuple[str, str]], test: str = "among") -> list[Condition]:
    """Conditions that a record has one of these values of its column: one condition a column.

    >>> among([("area", "north"), ("status", "open"), ("area", "south")])[0]
    {'column': 'area', 'is': 'among', 'values': [{'text': 'north'}, {'text': 'south'}]}
    """
    values = [value for value in values if isinstance(value, tuple)]  # an unknown word is reported elsewhere
    columns = dict.fromkeys(column for column, _ in values)
    return [
        {"column": column, "is": test, "values": [{"text": text} for of, text in values if of == column]}
        for column in columns
    ]


def set_aside_by(condition: str) -> str:
    """The columns by which a condition excludes records.

    >>> set_aside_by("fare_type = 'staff' AND net > 0")
    'fare type and net'
    """
    try:
        found = [name.replace("_", " ") for name in names_in(condition)]
    except DefinitionError:
        found = []
    return " and ".join(found) or condition
