"""A report read out as one English sentence, as the page says it."""

from collections.abc import Sequence
from datetime import date
from typing import Any

from sqlglot import exp

from kalendor.core.figures.family import kind_of
from kalendor.core.formulas.expressions import names_in, parsed
from kalendor.core.values.days import short_day
from kalendor.definitions.axis import AgeEntry, AxisEntry, BucketEntry, ByFigure, ByList, CategoryEntry, PeriodEntry
from kalendor.definitions.figure import FigureBase
from kalendor.definitions.report import Report, Totals, Window
from kalendor.errors import DefinitionError

CIVIL = "Civil year"
EPOCH = date(1970, 1, 1).toordinal()
SIGNS = {
    exp.EQ: "is",
    exp.NEQ: "is not",
    exp.GTE: "is at least",
    exp.LTE: "is at most",
    exp.GT: "is more than",
    exp.LT: "is less than",
}
OF_DAYS = {exp.EQ: "is on", exp.GTE: "is on or after", exp.LTE: "is on or before"}
MOST_NAMED = 4


def brief(report: Report) -> str:
    """The report in a sentence."""
    said = [_figures(report.figures)]
    calendars = {
        e.calendar for e in (*report.down, *report.across) if isinstance(e, PeriodEntry) and e.grains[0] == "year"
    }
    for way, entries in (("down", report.down), ("across", report.across)):
        if entries:
            said.append(f"{way} by {' then '.join(entry_words(entry, calendars) for entry in entries)}")
    if report.window:
        said.append(f"for {window_words(report.window, calendars)}")
    if report.only:
        said.append(f"only where {' and '.join(condition_words(c) for c in report.only)}")
    if report.beside:
        said.append(f"beside {' and '.join(other.source for other in report.beside)}")
    if report.keep:
        said.append("keeping " + " and ".join(f"{k.level} where {condition_words(k.where)}" for k in report.keep))
    said += [part for part in (_totals(report.totals),) if part]
    said += [f"a line {line.name}" for line in report.lines]
    return f"{', '.join(said)}."


def _figures(figures: Sequence[FigureBase]) -> str:
    said = ""
    for i, figure in enumerate(figures):
        joined = (
            ""
            if i == 0
            else " with "
            if i == 1 and kind_of(figure).derived
            else " and "
            if i == len(figures) - 1
            else ", "
        )
        said += joined + kind_of(figure).words(figure) + (" (hidden)" if figure.hide else "")
    return said


def entry_words(entry: AxisEntry, calendars: set[str | None]) -> str:
    """What makes lines or columns, in words; a calendar is named unless it was said."""
    words = _entry(entry, calendars)
    if isinstance(entry, PeriodEntry):
        calendars.add(entry.calendar)
    return (f"the top {entry.top} of {words} by {entry.by}" if entry.top else words) + _order(entry)


def _entry(entry: AxisEntry, calendars: set[str | None]) -> str:
    match entry:
        case CategoryEntry():
            if entry.tree:
                return " › ".join(entry.levels or [entry.tree])
            renamed = len(entry.labels)
            said = f" ({renamed} {'value' if renamed == 1 else 'values'} renamed)" if renamed else ""
            return (entry.name or _plain(entry.category)) + said
        case PeriodEntry():
            grains = " › ".join(
                g.replace("_", " ") if isinstance(g, str) else f"{g.days}-day run" for g in entry.grains
            )
            own = entry.calendar if entry.calendar and entry.calendar != CIVIL else None
            if own and entry.grains[0] == "year":
                return grains.replace("year", own, 1)
            return f"{grains} in {own}" if own and own not in calendars else grains
        case BucketEntry():
            return f"{entry.name or entry.set or _plain(entry.bucket)} ranges"
        case AgeEntry():
            return f"{entry.name or entry.set or 'age'} of {_plain(entry.age)}"


def _order(entry: AxisEntry) -> str:
    match entry.order:
        case ByList():
            return ", in an order of its own"
        case ByFigure(by=by, desc=desc, column=column):
            return f", {'largest' if desc else 'smallest'} {by}{f' in {column[-1]}' if column else ''} first"
        case "label" | "label_desc" | "date_desc" | "first_seen" as way:
            return {"label": ", A to Z", "label_desc": ", Z to A", "date_desc": ", latest first",
                    "first_seen": ", as they first appear"}[way]  # fmt: skip
    return ""


def window_words(window: Window, calendars: set[str | None]) -> str:
    """A window in words."""
    show, to_date = window.show, ", each to date" if window.each_to_date else ""
    own = window.calendar if window.calendar and window.calendar not in (CIVIL, *calendars) else None
    within = f" in {own}" if own else ""
    if show.last:
        return f"the last {'' if show.last == 1 else f'{show.last} '}{show.grain}{'' if show.last == 1 else 's'}{to_date}{within}"
    if show.this:
        return f"this {show.this}{to_date}{within}"
    if show.to_date:
        return f"the {show.to_date} to date{within}"
    if show.previous:
        return f"the previous {show.previous}{to_date}{within}"
    first, last = (None if day is None else short_day(day.toordinal() - EPOCH) for day in (show.from_, show.to))
    if first and last:
        return f"{first} to {last}{to_date}"
    return f"from {first} on" if first else f"until {last}"


def _totals(totals: Totals) -> str:
    places = {totals.down, totals.grand_down, totals.across, totals.grand_across}
    if places == {"none"}:
        return "without totals"
    named = {
        "down": "subtotals",
        "grand_down": "a grand total",
        "across": "subtotal columns",
        "grand_across": "a total column",
    }
    said = [f"without {words}" for key, words in named.items() if getattr(totals, key) == "none"]
    said += [f"{words.removeprefix('a ')} first" for key, words in named.items() if getattr(totals, key) == "before"]
    said += [f"no {level} totals" for level, place in totals.levels.items() if place == "none"]
    return " and ".join([*said, *(["totals of these lines alone"] if totals.totals == "kept" else [])])


def condition_words(condition: str) -> str:
    """A condition in words; as it stands where it is of another form."""
    try:
        return _condition(parsed(condition))
    except (DefinitionError, _OtherFormError):
        return condition


def set_aside_by(condition: str) -> str:
    """The columns by which a condition sets records aside."""
    try:
        names = [_plain(name) for name in names_in(condition)]
    except DefinitionError:
        names = []
    return " and ".join(names) or condition


class _OtherFormError(Exception):
    pass


def _condition(tree: Any) -> str:
    match tree:
        case exp.Paren():
            return _condition(tree.this)
        case exp.And():
            return f"{_side(tree.left)} and {_side(tree.right)}"
        case exp.Or():
            return f"{_condition(tree.left)} or {_condition(tree.right)}"
        case exp.Is() if isinstance(tree.expression, exp.Null):
            return f"{_name(tree.this)} is blank"
        case exp.Not(this=exp.Is(expression=exp.Null())):
            return f"{_name(tree.this.this)} is not blank"
        case exp.Not(this=exp.In()):
            return _among(tree.this, "is not")
        case exp.In():
            return _among(tree, "is")
        case exp.Between():
            return f"{_name(tree.this)} is between {_value(tree.args['low'])} and {_value(tree.args['high'])}"
        case exp.EQ() | exp.NEQ() | exp.GTE() | exp.LTE() | exp.GT() | exp.LT():
            words = SIGNS[type(tree)]
            if isinstance(tree.expression, (exp.Cast, exp.DateStrToDate)):
                words = OF_DAYS.get(type(tree), words)
            return f"{_name(tree.this)} {words} {_value(tree.expression)}"
        case exp.Like():
            return _like(tree)
    raise _OtherFormError


def _side(tree: Any) -> str:
    """One side of an AND; alternatives within it are bracketed."""
    return f"({_condition(tree)})" if isinstance(tree.unnest(), exp.Or) else _condition(tree)


def _among(tree: exp.In, words: str) -> str:
    values = [_value(one) for one in tree.expressions]
    if len(values) > MOST_NAMED:
        values = [*values[: MOST_NAMED - 1], f"{len(values) - MOST_NAMED + 1} more"]
    return f"{_name(tree.this)} {words} {', '.join(values[:-1])}{' or ' if len(values) > 1 else ''}{values[-1]}"


def _like(tree: exp.Like) -> str:
    pattern = _value(tree.expression)
    inner = pattern.strip("%")
    if not inner or "%" in inner or "_" in inner or "\\" in inner:
        raise _OtherFormError
    words = {
        (True, True): ("contains", "does not contain"),
        (False, True): ("begins with", "does not begin with"),
        (True, False): ("ends with", "does not end with"),
        (False, False): ("is", "is not"),
    }[pattern.startswith("%"), pattern.endswith("%")]
    return f"{_name(tree.this)} {words[bool(tree.args.get('negate'))]} {inner}"


def _name(tree: exp.Expression) -> str:
    if not isinstance(tree, exp.Column):
        raise _OtherFormError
    return _plain(tree.name)


def _value(tree: exp.Expression) -> str:
    match tree:
        case exp.Literal():
            return str(tree.this)
        case exp.Neg(this=exp.Literal()):
            return f"-{tree.this.this}"
        case exp.Boolean():
            return "yes" if tree.this else "no"
        case exp.Cast(this=exp.Literal()) | exp.DateStrToDate(this=exp.Literal()):
            return str(tree.this.this)
        case exp.Column():
            return _plain(tree.name)
    raise _OtherFormError


def _plain(column: str) -> str:
    return column.replace("_", " ")
