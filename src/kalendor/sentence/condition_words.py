"""SQL conditions in the words of the sentence."""

from collections.abc import Iterator, Sequence
from datetime import date
from typing import Any

from sqlglot import exp

from kalendor.core.formulas.expressions import parsed
from kalendor.errors import DefinitionError
from kalendor.sentence.conditions import PATTERNS, Condition, normal, sql_of

_OR_BLANK = {
    "unequal": "not", "filled, not among": "not among", "equal": "blank or equal", "among": "blank or among",
}  # fmt: skip
_TESTS: dict[type[exp.Expression], str] = {
    exp.EQ: "equal",
    exp.NEQ: "unequal",
    exp.GT: "over",
    exp.GTE: "least",
    exp.LT: "under",
    exp.LTE: "most",
}


def in_words(sql: str, of_lines: bool = False) -> Condition:
    """An SQL condition in the words of the sentence, or unchanged if there are none for it. `of_lines`: its names are
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


class _NoWordsError(Exception):
    pass


def _condition(tree: Any) -> Condition:
    match tree:
        case exp.Paren():
            return _condition(tree.this)
        case exp.And():
            parts = list(_all(_sides(tree, exp.And)))
            return {"all": parts} if len(parts) > 1 else parts[0]
        case exp.Or() if kept := _keeping_blanks(tree):
            return kept
        case exp.Or():
            return {"any": [_clause(side) for side in _sides(tree, exp.Or)]}
    return _clause(tree)


def _all(sides: Sequence[Any]) -> Iterator[Condition]:
    """The terms of a conjunction; two comparisons that together mean *in the last months* are one."""
    at = 0
    while at < len(sides):
        last = _last_days(sides[at], sides[at + 1]) if at + 1 < len(sides) else None
        yield last or _clause(sides[at])
        at += 2 if last else 1


def _clause(tree: Any) -> Condition:
    tree = tree.unnest()
    match tree:
        case exp.And() if last := _last_days(tree.left, tree.right):
            return last
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
        case exp.Escape(this=exp.Like() as like):
            return _like(like, str(tree.expression.this))
    test = _TESTS.get(type(tree))
    if test is None:
        raise _NoWordsError
    return {"column": _name(tree.this), "is": test, "values": [_value(tree.expression)]}


def _last_days(after: Any, until: Any) -> Condition | None:
    """`on > AS_OF - INTERVAL '3' MONTH AND on < AS_OF + INTERVAL '1' DAY` as one condition; None if it has another
    form."""
    if not isinstance(until, exp.LT) or not isinstance(until.expression, exp.Add):
        return None
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
    """`x <> 'a' OR x IS NULL` as one condition; None if it has another form."""
    blank = tree.right
    if not (isinstance(blank, exp.Is) and isinstance(blank.expression, exp.Null)):
        return None
    try:
        denied = _clause(tree.left)
    except _NoWordsError:
        return None
    if denied.get("column") != _name(blank.this):
        return None
    test = _OR_BLANK.get(denied["is"])
    if denied["is"] in PATTERNS and denied.pop("denied", False):
        test = f"not {denied['is']}"
    return {**denied, "is": test} if test else None


def _among(tree: exp.In, test: str) -> Condition:
    if not tree.expressions or len(tree.expressions) == 1:
        raise _NoWordsError
    return {"column": _name(tree.this), "is": test, "values": [_value(one) for one in tree.expressions]}


def _like(tree: exp.Like, escape: str = "") -> Condition:
    """A pattern as one of the comparisons that it expresses: % and _ within the text must be escaped."""
    parts = list(_unescaped(_value(tree.expression).get("text", ""), escape))
    open_ends = ("%", True) in parts[:1], ("%", True) in parts[-1:]
    test = {(True, True): "contains", (False, True): "begins", (True, False): "ends"}.get(open_ends)
    inner = parts[open_ends[0] : len(parts) - open_ends[1]]
    if test is None or not inner or any(special for _, special in inner) or len(parts) < 2:
        raise _NoWordsError
    text = "".join(plain for plain, _ in inner)
    denied = {"denied": True} if tree.args.get("negate") else {}
    if denied and not isinstance(tree.find_ancestor(exp.Or, exp.And, exp.Not), exp.Or):
        raise _NoWordsError
    return {"column": _name(tree.this), "is": test, "values": [{"text": text}], **denied}


def _unescaped(pattern: str, escape: str) -> Iterator[tuple[str, bool]]:
    """Each character of a pattern, and whether it is a wildcard."""
    at = 0
    while at < len(pattern):
        own = pattern[at] == escape
        at += own
        yield pattern[at : at + 1], not own and pattern[at] in "%_"
        at += 1


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
