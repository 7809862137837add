"""Conditions as the sentence has them, and as SQL.

A condition is a dictionary: a column (or figure), how it `is`, and `values`, each of which is `text`, a `number`, a `day` or
`yes`; or `any`/`all` of several; or `sql` that has no words.
"""

from collections.abc import Callable, Mapping, Sequence
from datetime import date
from typing import Any

from sqlglot import exp

from kalendor.core.formulas.expressions import names_in, parsed
from kalendor.errors import DefinitionError
from kalendor.sentence.names import key_of

Condition = dict[str, Any]
COMPARED = {"equal": "=", "unequal": "<>", "over": ">", "least": ">=", "under": "<", "most": "<="}
_TESTS: dict[type[exp.Expression], str] = {
    exp.EQ: "equal",
    exp.NEQ: "unequal",
    exp.GT: "over",
    exp.GTE: "least",
    exp.LT: "under",
    exp.LTE: "most",
}
KEEPING_BLANKS = {
    "not": "unequal",
    "not among": "filled, not among",
    "not contains": "",
    "not begins": "",
    "not ends": "",
}
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
    """A condition as SQL; `name_of` gives the column's name for what stands as its column or figure, `kind_of` its kind."""
    if "sql" in condition:
        return str(condition["sql"])
    for word in ("any", "all"):
        if word in condition:
            parts = [sql_of(one, name_of, kind_of) for one in condition[word]]
            inner = {"any": " OR ", "all": " AND "}[word]
            return inner.join(f"({part})" if _loose(part, word) else part for part in parts)
    column = name_of(condition.get("figure", condition.get("column")))
    values = [_literal(value, kind_of(column)) for value in condition.get("values", ())]
    return _tested(quoted_name(column), condition["is"], values, condition)


def _loose(part: str, word: str) -> bool:
    """Whether a part must be bracketed beside others."""
    return isinstance(parsed(part), exp.Or if word == "all" else exp.And)


def _tested(name: str, test: str, values: Sequence[str], condition: Condition) -> str:
    if test in ("not among", "among") and len(values) == 1:
        test = {"not among": "not", "among": "equal"}[test]
    match test:
        case "blank":
            return f"{name} IS NULL"
        case "filled":
            return f"{name} IS NOT NULL"
        case "among":
            return f"{name} IN ({', '.join(values)})"
        case "filled, not among":
            return f"{name} NOT IN ({', '.join(values)})"
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
        pattern = PATTERNS[test.removeprefix("not ")].format(condition["values"][0]["text"])
        if test.startswith("not "):
            return f"{name} NOT LIKE {quoted_text(pattern)} OR {name} IS NULL"
        return f"{name} LIKE {quoted_text(pattern)}"
    return f"{name} {COMPARED[test]} {values[0]}"


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


def in_words(sql: str, of_lines: bool = False) -> Condition:
    """A condition in SQL as the sentence has it: as it stands where there are no words for it. `of_lines`: its names are
    those of figures."""
    try:
        found = _condition(parsed(sql))
        again = sql_of(found, str, lambda _: None)
        if normal(again) != normal(sql):
            return {"sql": sql}
        return _of_figures(found) if of_lines else found
    except (_NoWordsError, DefinitionError):
        return {"sql": sql}


def _of_figures(condition: Condition) -> Condition:
    several: Condition = {
        word: [_of_figures(one) for one in condition[word]] for word in ("any", "all") if word in condition
    }
    return several or {**condition, "column": {"ref": condition["column"]}}


def normal(sql: str) -> str:
    """SQL as it is compared: parsed, names in quotation marks, brackets that change nothing left out."""
    tree = parsed(sql).copy()
    for name in tree.find_all(exp.Identifier):
        name.set("quoted", True)
    while isinstance(tree, exp.Paren):
        tree = tree.this
    for bracket in list(tree.find_all(exp.Paren)):
        if isinstance(bracket.this, exp.Paren):
            bracket.replace(bracket.this)
    return str(tree.sql())


class _NoWordsError(Exception):
    pass


def _condition(tree: Any) -> Condition:
    match tree:
        case exp.Paren():
            return _condition(tree.this)
        case exp.And() if last := _last_days(tree):
            return last
        case exp.And():
            return {"all": [_clause(side) for side in _sides(tree, exp.And)]}
        case exp.Or() if kept := _keeping_blanks(tree):
            return kept
        case exp.Or():
            return {"any": [_clause(side) for side in _sides(tree, exp.Or)]}
    return _clause(tree)


def _clause(tree: Any) -> Condition:
    tree = tree.unnest()
    match tree:
        case exp.Or() if kept := _keeping_blanks(tree):
            return kept
        case exp.Is(expression=exp.Null()):
            return {"column": _name(tree.this), "is": "blank"}
        case exp.Not(this=exp.Is(expression=exp.Null())):
            return {"column": _name(tree.this.this), "is": "filled"}
        case exp.Not(this=exp.In()):
            return _among(tree.this, "filled, not among")
        case exp.In():
            return _among(tree, "among")
        case exp.Between():
            return {"column": _name(tree.this), "is": "between", "values": [_value(tree.args["low"]), _value(tree.args["high"])]}  # fmt: skip
        case exp.Like():
            return _like(tree)
    test = _TESTS.get(type(tree))
    if test is None:
        raise _NoWordsError
    return {"column": _name(tree.this), "is": test, "values": [_value(tree.expression)]}


def _last_days(tree: exp.And) -> Condition | None:
    """`on > AS_OF - INTERVAL '3' MONTH AND …` as one condition; None where it is of another form."""
    after = tree.left
    back = after.expression if isinstance(after, exp.GT) else None
    span = back.expression if isinstance(back, exp.Sub) else None
    if not isinstance(span, exp.Interval) or not isinstance(after.this, exp.Column):
        return None
    count, unit = str(span.this.this), str(span.args.get("unit")).lower()
    if not count.isdigit() or unit not in ("day", "week", "month", "quarter", "year"):
        return None
    return {"column": after.this.name, "is": "last", "values": [{"count": int(count), "unit": unit}]}


def _sides(tree: Any, kind: type[Any]) -> list[Any]:
    return [*_sides(tree.left, kind), tree.right] if isinstance(tree, kind) else [tree]


def _keeping_blanks(tree: exp.Or) -> Condition | None:
    """`x <> 'a' OR x IS NULL` as one condition; None where it is of another form."""
    blank = tree.right
    if not (isinstance(blank, exp.Is) and isinstance(blank.expression, exp.Null)):
        return None
    try:
        denied = _clause(tree.left)
    except _NoWordsError:
        return None
    if denied.get("column") != _name(blank.this):
        return None
    test = {"unequal": "not", "filled, not among": "not among"}.get(denied["is"])
    if denied["is"] in PATTERNS and denied.pop("denied", False):
        test = f"not {denied['is']}"
    return {**denied, "is": test} if test else None


def _among(tree: exp.In, test: str) -> Condition:
    if not tree.expressions or len(tree.expressions) == 1:
        raise _NoWordsError
    return {"column": _name(tree.this), "is": test, "values": [_value(one) for one in tree.expressions]}


def _like(tree: exp.Like) -> Condition:
    pattern = _value(tree.expression).get("text", "")
    found = next(
        (
            (test, pattern[form.index("{") : len(pattern) - (len(form) - form.index("}") - 1)])
            for test, form in PATTERNS.items()
            if pattern.startswith(form[: form.index("{")]) and pattern.endswith(form[form.index("}") + 1 :])
        ),
        None,
    )
    if found is None or not found[1] or set(found[1]) & set("%_\\"):
        raise _NoWordsError
    denied = {"denied": True} if tree.args.get("negate") else {}
    if denied and not (isinstance(tree.parent, exp.Or)):
        raise _NoWordsError
    return {"column": _name(tree.this), "is": found[0], "values": [{"text": found[1]}], **denied}


def _name(tree: Any) -> str:
    if not isinstance(tree, exp.Column):
        raise _NoWordsError
    return tree.name


def _value(tree: Any) -> dict[str, Any]:
    match tree:
        case exp.Literal(is_string=True):
            return {"text": str(tree.this)}
        case exp.Literal():
            return {"number": _plain_number(str(tree.this))}
        case exp.Neg(this=exp.Literal(is_string=False)):
            return {"number": _plain_number(f"-{tree.this.this}")}
        case exp.Boolean():
            return {"yes": bool(tree.this)}
        case exp.Cast(this=exp.Literal()) | exp.DateStrToDate(this=exp.Literal()):
            return {"day": _day(str(tree.this.this))}
    raise _NoWordsError


def _plain_number(text: str) -> str:
    if not text.lstrip("-").replace(".", "", 1).isdigit() or text.endswith(".") or text.lstrip("-").startswith("."):
        raise _NoWordsError
    return text


def _day(text: str) -> str:
    try:
        return date.fromisoformat(text).isoformat() if len(text) == 10 else _refuse()
    except ValueError:
        return _refuse()


def _refuse() -> str:
    raise _NoWordsError


def among(values: Sequence[tuple[str, str]], test: str = "among") -> list[Condition]:
    """Conditions that a record has one of these values of its column: one condition a column.

    >>> among([("area", "north"), ("status", "open"), ("area", "south")])[0]
    {'column': 'area', 'is': 'among', 'values': [{'text': 'north'}, {'text': 'south'}]}
    """
    values = [
        value for value in values if isinstance(value, tuple)
    ]  # a word that was not understood is named elsewhere
    columns = dict.fromkeys(column for column, _ in values)
    return [
        {"column": column, "is": test, "values": [{"text": text} for of, text in values if of == column]}
        for column in columns
    ]


def same_name(one: str, other: str) -> bool:
    """Whether two names are the same but for their letters' case and `_`."""
    return key_of(one) == key_of(other)


def values_named(conditions: Sequence[str]) -> dict[str, list[str]]:
    """The texts that conditions compare columns with, by column."""
    found: dict[str, list[str]] = {}

    def gather(condition: Condition) -> None:
        for one in (*condition.get("any", ()), *condition.get("all", ())):
            gather(one)
        for value in condition.get("values", ()):
            if "text" in value:
                found.setdefault(condition["column"], []).append(value["text"])

    for sql in conditions:
        gather(in_words(sql))
    return found


def set_aside_by(condition: str) -> str:
    """The columns by which a condition sets records aside.

    >>> set_aside_by("fare_type = 'staff' AND net > 0")
    'fare type and net'
    """
    try:
        found = [name.replace("_", " ") for name in names_in(condition)]
    except DefinitionError:
        found = []
    return " and ".join(found) or condition
