"""Evaluates scalar SQL expressions (ISO/IEC 9075) over columns; parsed by sqlglot."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from sqlglot import exp

from kalendor.core.formulas import conditions, texts, times
from kalendor.core.formulas.expressions import parsed
from kalendor.core.formulas.scope import AS_OF, Scope, written_value
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import NUMERIC, Column, Kind, Mask, as_kind, scalar
from kalendor.errors import DefinitionError

NULL = scalar(Kind.YES_NO, None)


def evaluate(formula: str, scope: Scope) -> Column:
    """The formula's value for each row, shape (scope.count,).

    Over no rows it has the kind that it has for a row of blanks. Raises DefinitionError for unknown names, unknown
    functions and incompatible kinds.
    """
    if scope.count == 0:
        nothing = np.zeros(0, dtype=np.int64)
        return evaluate(formula, _one_blank_row(scope)).take(nothing)
    try:
        return _value(parsed(formula), scope).broadcast(scope.count)
    except DefinitionError as error:
        raise DefinitionError(f"in {formula!r}: {error}") from None
    except RecursionError:
        raise DefinitionError(f"the formula {formula[:60]!r}… is nested too deeply") from None


def _one_blank_row(scope: Scope) -> Scope:
    blank = np.ones(1, dtype=bool)
    columns = {
        name: replace(c, values=np.zeros(1, c.values.dtype), blank=blank, words=tuple(c.words) or ("",))
        for name, c in scope.columns.items()
    }
    return Scope(columns, 1, scope.as_of)


def holds(condition: str, scope: Scope) -> Mask:
    """Shape (scope.count,): True where the condition is true; unknown counts as false."""
    result = evaluate(condition, scope)
    if result.kind is not Kind.YES_NO:
        raise DefinitionError(f"{condition!r} is not a condition: it gives {ar.say(result.kind)}, not yes or no")
    return result.values & result.present


def _value(node: exp.Expression, scope: Scope) -> Column:
    """A node's value; left-leaning chains such as a OR b OR c are evaluated without recursion."""
    spine = []
    while type(node) in _CHAINED:
        spine.append(node)
        node = node.this
    value = _plain(node, scope)
    for link in reversed(spine):
        value = _CHAINED[type(link)](link, value, scope)
    return value


def _plain(node: exp.Expression, scope: Scope) -> Column:
    if type(node) not in _NODES:
        raise DefinitionError(f"{node.sql()!r} is not known here")
    work, known = _NODES[type(node)]
    passed_over = [name for name, given in node.args.items() if given not in (None, False, []) and name not in known]
    if passed_over:
        raise DefinitionError(f"{node.sql()!r}: {passed_over[0].upper()} is not known here")
    return work(node, scope)


def _arg(node: exp.Expression, key: str, scope: Scope) -> Column:
    part = node.args.get(key)
    if part is None:
        raise DefinitionError(f"{node.sql()!r} lacks an argument")
    return _value(part, scope)


def _name(node: exp.Expression, scope: Scope) -> Column:
    if node.args.get("table") is not None:
        raise DefinitionError(f"{node.sql()!r}: write a column name alone, or in double quotes where it holds a point")
    return scope.named(node.name, bool(node.this.args.get("quoted")))


def _numbers(node: exp.Expression, *columns: Column) -> tuple[Column, ...]:
    result = []
    for column in columns:
        if ar.is_null(column):
            column = scalar(Kind.WHOLE, None)
        if column.kind not in NUMERIC:
            raise DefinitionError(f"{node.sql()!r} needs numbers, and one side is {ar.say(column.kind)}")
        result.append(column)
    return tuple(result)


_Link = Callable[[exp.Expression, Column, Scope], Column]


def _arithmetic(op: Callable[[Column, Column], Column]) -> _Link:
    def work(node: exp.Expression, left: Column, scope: Scope) -> Column:
        return op(*_numbers(node, left, _arg(node, "expression", scope)))

    return work


def _plus_minus(op: Callable[[Column, Column], Column], sign: int) -> _Link:
    def work(node: exp.Expression, left: Column, scope: Scope) -> Column:
        interval = node.args["expression"]
        if isinstance(interval, exp.Interval):
            return times.moved(left, interval, sign)
        right = _arg(node, "expression", scope)
        if sign < 0 and (left.kind in times.DATED or right.kind in times.DATED):
            left, right = (as_kind(part, Kind.DATE, *times.DATED) for part in (left, right))
            if left.kind in times.DATED and right.kind in times.DATED:
                return times.days_between(left, right)
        return op(*_numbers(node, left, right))

    return work


def _comparison(op: Callable[..., object]) -> Callable[[exp.Expression, Scope], Column]:
    def work(node: exp.Expression, scope: Scope) -> Column:
        return conditions.compare(op, _arg(node, "this", scope), _arg(node, "expression", scope))

    return work


def _truth(node: exp.Expression, key: str, scope: Scope) -> tuple[Mask, Mask]:
    return conditions.yes_and_no(_arg(node, key, scope), node.args[key])


def _and(node: exp.Expression, left: Column, scope: Scope) -> Column:
    (a_yes, a_no), (b_yes, b_no) = conditions.yes_and_no(left, node.this), _truth(node, "expression", scope)
    return conditions.three_valued(a_yes & b_yes, a_no | b_no)


def _or(node: exp.Expression, left: Column, scope: Scope) -> Column:
    (a_yes, a_no), (b_yes, b_no) = conditions.yes_and_no(left, node.this), _truth(node, "expression", scope)
    return conditions.three_valued(a_yes | b_yes, a_no & b_no)


def _not(node: exp.Expression, scope: Scope) -> Column:
    yes, no = _truth(node, "this", scope)
    return conditions.three_valued(no, yes)


def _is(node: exp.Expression, scope: Scope) -> Column:
    column = _arg(node, "this", scope)
    wanted = node.expression
    if isinstance(wanted, exp.Null):
        return Column(Kind.YES_NO, column.blanks.copy())
    if isinstance(wanted, exp.Boolean):
        return Column(Kind.YES_NO, column.present & (column.values == bool(wanted.this)))
    raise DefinitionError(f"{node.sql()!r}: IS takes NULL, TRUE or FALSE")


def _in(node: exp.Expression, scope: Scope) -> Column:
    if not node.expressions:
        raise DefinitionError(f"{node.sql()!r}: IN needs a list of values")
    column = _arg(node, "this", scope)
    items = [_value(item, scope) for item in node.expressions]
    listed = conditions.listed(column, items)
    if listed is not None:
        return Column(Kind.YES_NO, listed, column.blank)
    found = None
    for item in items:
        equal = conditions.compare(np.equal, column, item)
        yes, no = equal.values & equal.present, ~equal.values & equal.present
        found = (yes, no) if found is None else (found[0] | yes, found[1] & no)
    assert found is not None
    return conditions.three_valued(*found)


def _between(node: exp.Expression, scope: Scope) -> Column:
    column = _arg(node, "this", scope)
    low = conditions.compare(np.greater_equal, column, _arg(node, "low", scope))
    high = conditions.compare(np.less_equal, column, _arg(node, "high", scope))
    yes = low.values & low.present & high.values & high.present
    no = (~low.values & low.present) | (~high.values & high.present)
    return conditions.three_valued(yes, no)


def _case(node: exp.Expression, scope: Scope) -> Column:
    subject = node.args.get("this")
    base = _value(subject, scope) if subject is not None else None
    default = node.args.get("default")
    result = _value(default, scope) if default is not None else NULL
    for branch in reversed(node.args["ifs"]):
        if base is None:
            yes, _ = _truth(branch, "this", scope)
        else:
            equal = conditions.compare(np.equal, base, _arg(branch, "this", scope))
            yes = equal.values & equal.present
        result = ar.chosen(yes, _arg(branch, "true", scope), result)
    return result


def _coalesce(node: exp.Expression, scope: Scope) -> Column:
    parts = [_arg(node, "this", scope), *(_value(e, scope) for e in node.expressions)]
    result = parts[-1]
    for part in reversed(parts[:-1]):
        result = ar.chosen(part.present, part, result)
    return result


def _nullif(node: exp.Expression, scope: Scope) -> Column:
    column = _arg(node, "this", scope)
    equal = conditions.compare(np.equal, column, _arg(node, "expression", scope))
    n = len(equal)
    column = column.broadcast(n)
    return Column(
        column.kind, column.values, column.blanks | (equal.values & equal.present), column.places, column.words
    )


def _extreme(op: Callable[..., object]) -> Callable[[exp.Expression, Scope], Column]:
    """LEAST and GREATEST: blank if any argument is (ISO/IEC 9075:2023)."""

    def work(node: exp.Expression, scope: Scope) -> Column:
        result = _arg(node, "this", scope)
        for item in node.expressions:
            other = _value(item, scope)
            better = conditions.compare(op, result, other)
            result = ar.chosen(better.values & better.present, result, other)
            if better.blank is not None:
                blank = better.blank | result.blanks
                result = Column(result.kind, result.values, blank, result.places, result.words)
        return result

    return work


def _negative(node: exp.Expression, scope: Scope) -> Column:
    return ar.negate(*_numbers(node, _arg(node, "this", scope)))


def _absolute(node: exp.Expression, scope: Scope) -> Column:
    (column,) = _numbers(node, _arg(node, "this", scope))
    return Column(column.kind, np.abs(column.values), column.blank, column.places)


def _round(node: exp.Expression, scope: Scope) -> Column:
    (column,) = _numbers(node, _arg(node, "this", scope))
    decimals = node.args.get("decimals")
    told = _value(decimals, scope) if decimals is not None else scalar(Kind.WHOLE, 0)
    if len(told) != 1 or told.kind is not Kind.WHOLE or told.blank is not None or not -18 <= int(told.values[0]) <= 9:
        raise DefinitionError("ROUND takes one whole number of places, from -18 to 9")
    return ar.rounded(column, int(told.values[0]))


def _step(up: bool) -> Callable[[exp.Expression, Scope], Column]:
    def work(node: exp.Expression, scope: Scope) -> Column:
        (column,) = _numbers(node, _arg(node, "this", scope))
        return ar.stepped(column, up)

    return work


def _cast(node: exp.Expression, scope: Scope) -> Column:
    return texts.cast(_arg(node, "this", scope), node.args["to"])


def _extract(node: exp.Expression, scope: Scope) -> Column:
    return times.extracted(_arg(node, "expression", scope), node.name.upper())


def _text(work: Callable[..., Column], *keys: str) -> Callable[[exp.Expression, Scope], Column]:
    """A text function: its arguments by key, those not given as None."""

    def call(node: exp.Expression, scope: Scope) -> Column:
        parts = [None if node.args.get(key) is None else _arg(node, key, scope) for key in keys]
        return work(*parts)

    return call


def _trim(node: exp.Expression, scope: Scope) -> Column:
    part = _arg(node, "expression", scope) if node.args.get("expression") is not None else None
    return texts.trimmed(_arg(node, "this", scope), (node.args.get("position") or "BOTH").upper(), part)


def _escape(node: exp.Expression, scope: Scope) -> Column:
    """LIKE with an escape character."""
    if not isinstance(node.this, exp.Like):
        raise DefinitionError(f"{node.sql()!r}: ESCAPE follows LIKE")
    like = node.this
    found = texts.like(_arg(like, "this", scope), _arg(like, "expression", scope), _arg(node, "expression", scope))
    return conditions.negated(found) if like.args.get("negate") else found


def _like(node: exp.Expression, scope: Scope) -> Column:
    found = texts.like(_arg(node, "this", scope), _arg(node, "expression", scope))
    return conditions.negated(found) if node.args.get("negate") else found


_Work = Callable[[exp.Expression, Scope], Column]
_CHAINED: dict[type, _Link] = {
    exp.Add: _plus_minus(ar.add, 1),
    exp.Sub: _plus_minus(ar.subtract, -1),
    exp.Mul: _arithmetic(ar.multiply),
    exp.Div: _arithmetic(ar.divide),
    exp.Mod: _arithmetic(ar.modulo),
    exp.And: _and,
    exp.Or: _or,
    exp.DPipe: lambda node, left, scope: texts.joined(left, _arg(node, "expression", scope)),
}
_TWO, _MORE = {"this", "expression"}, {"this", "expressions"}
# The evaluator of each node type, and its supported arguments; a node with any other argument is refused.
_NODES: dict[type, tuple[_Work, set[str]]] = {
    exp.Literal: (lambda node, scope: written_value(node.name, node.args["is_string"]), {"this", "is_string"}),
    exp.Column: (_name, {"this", "table", "db", "catalog"}),
    exp.Null: (lambda node, scope: NULL, set()),
    exp.Boolean: (lambda node, scope: scalar(Kind.YES_NO, bool(node.this)), {"this"}),
    exp.Paren: (lambda node, scope: _arg(node, "this", scope), {"this"}),
    exp.Neg: (_negative, {"this"}),
    exp.EQ: (_comparison(np.equal), _TWO),
    exp.NEQ: (_comparison(np.not_equal), _TWO),
    exp.LT: (_comparison(np.less), _TWO),
    exp.LTE: (_comparison(np.less_equal), _TWO),
    exp.GT: (_comparison(np.greater), _TWO),
    exp.GTE: (_comparison(np.greater_equal), _TWO),
    exp.Not: (_not, {"this"}),
    exp.Is: (_is, _TWO),
    exp.In: (_in, _MORE),
    exp.Between: (_between, {"this", "low", "high"}),
    exp.Case: (_case, {"this", "ifs", "default"}),
    exp.Coalesce: (_coalesce, _MORE),
    exp.Nullif: (_nullif, _TWO),
    exp.Least: (_extreme(np.less), {*_MORE, "ignore_nulls"}),
    exp.Greatest: (_extreme(np.greater), {*_MORE, "ignore_nulls"}),
    exp.Abs: (_absolute, {"this"}),
    exp.Round: (_round, {"this", "decimals"}),
    exp.Floor: (_step(up=False), {"this"}),
    exp.Ceil: (_step(up=True), {"this"}),
    exp.Cast: (_cast, {"this", "to"}),
    exp.Extract: (_extract, _TWO),
    exp.CurrentDate: (lambda node, scope: scope.named(AS_OF, False), set()),
    exp.Escape: (_escape, _TWO),
    exp.Like: (_like, {*_TWO, "negate"}),
    exp.Upper: (_text(texts.upper, "this"), {"this"}),
    exp.Lower: (_text(texts.lower, "this"), {"this"}),
    exp.Trim: (_trim, {*_TWO, "position"}),
    exp.Substring: (_text(texts.substring, "this", "start", "length"), {"this", "start", "length"}),
    exp.StrPosition: (_text(texts.position, "this", "substr"), {"this", "substr"}),
    exp.Length: (_text(texts.length, "this"), {"this"}),
    exp.Replace: (_text(texts.replaced, "this", "expression", "replacement"), {*_TWO, "replacement"}),
}
