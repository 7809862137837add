"""Queries and edits of the parts of a report document, as plain values."""

from collections.abc import Container, Mapping, Sequence
from typing import Any

from pydantic import TypeAdapter

from kalendor.core.formulas.expressions import names_in
from kalendor.definitions.axis import AxisEntry
from kalendor.definitions.figure import KINDS
from kalendor.errors import DefinitionError
from kalendor.sentence.chart import Unfit
from kalendor.sentence.conditions import normal
from kalendor.sentence.names import Names
from kalendor.sentence.spans import back_to

GRAINS = ("year", "half", "quarter", "month", "week", "day", "hour", "minute")
NOT_SAID = "not said"  # the grammar's values for the base of a comparison
NOT_WHAT_IT_IS = ("name", "format", "hide")
NOT_AMOUNTS = ("count", "count_values", "distinct", "variance", "variance_pop")
_ENTRY: TypeAdapter[Any] = TypeAdapter(AxisEntry)


def references() -> list[str]:
    """The keys under which figures refer to another figure."""
    return [key for key in KINDS if key not in ("take", "formula")]


def after_its_figure(clauses: Sequence[Mapping[str, Any]], before: str) -> list[Mapping[str, Any]]:
    """Clauses in which something said of the figure `before` it, if there is none yet, is moved after the next figure."""
    found: list[Mapping[str, Any]] = []
    waiting: list[Mapping[str, Any]] = []
    for clause in clauses:
        figures = clause.get("figures", ())
        said_of = [figure[key] for figure in figures for key in references() if key in figure]
        if before in said_of and not any("figures" in earlier for earlier in found):
            waiting.append(clause)
            continue
        found += [*waiting, clause] if said_of and waiting else [clause, *waiting] if figures else [clause]
        waiting = [] if figures else waiting
    return [*found, *waiting]


def about_their_amounts(clauses: Sequence[Mapping[str, Any]]) -> list[Mapping[str, Any]]:
    """Clauses in which a condition on an amount, as *net over 500*, makes the amount a figure if no other is named."""
    figures = [figure for clause in clauses for figure in clause.get("figures", ())]
    if any(not figure.keys() & set(references()) for figure in figures):
        return list(clauses)
    return [{**clause, "figures": clause["about"]} if "about" in clause else clause for clause in clauses]


def put(entries: list[dict[str, Any]], entry: Mapping[str, Any]) -> None:
    """Add an entry to lines or columns; a top on an existing entry replaces its top."""
    core = {k: v for k, v in entry.items() if k not in ("top", "by")}
    if core in entries:
        entries[entries.index(core)] |= entry
    elif core == entry and any(core_of(old) == core and "name" not in old for old in entries):
        return
    else:
        entries.append(dict(entry))


def set_top(entries: list[dict[str, Any]], said: Mapping[str, Any], by: str) -> None:
    """Apply what is said of a top: entries with one of their own, or the first few of the last level (by `by` unless
    said); levels `outside` are put before the last one; and its rest.

    Raises Unfit without a level.
    """
    for entry in said.get("entries", ()):
        put(entries, entry)
    own = {k: v for k, v in said.items() if k not in ("entries", "outside", "rest")}
    if own or "outside" in said:
        if not entries or entries[-1] in said.get("outside", ()):
            raise Unfit
        last = entries.pop()
        for entry in said.get("outside", ()):
            put(entries, entry)
        entries.append({**last, **({"by": by, **own} if own else {})})
    _set_rest(entries, said)


def check_formula(formula: str, figures: Container[str]) -> None:
    """Raises Unfit for a formula without figures, or with unknown ones: *net (north)* is not a formula."""
    try:
        named = names_in(formula)
    except DefinitionError as error:
        raise Unfit from error
    if not named or not all(name in figures for name in named):
        raise Unfit


def _set_rest(entries: Sequence[dict[str, Any]], said: Mapping[str, Any]) -> None:
    """Set whether the last top shows its rest as Other.

    Raises Unfit without a top.
    """
    if "rest" not in said:
        return
    top = next((entry for entry in reversed(entries) if "top" in entry), None)
    if top is None:
        raise Unfit
    if said["rest"] is None:
        top["rest"] = None


def finest(report: Mapping[str, Any]) -> str | None:
    """The finest period of lines or columns."""
    entries = [e for e in (*report["down"], *report["across"]) if "period" in e]
    return max((g for e in entries for g in e["grains"] if g in GRAINS), key=GRAINS.index, default=None)


def check_dates(entry: Mapping[str, Any], names: Names) -> None:
    """Raises Unfit for periods or ages of a column that is known not to hold dates."""
    if names.kind_of(str(entry.get("period", entry.get("age", "")))) in ("number", "text", "yes_no"):
        raise Unfit


def with_their_bases(clauses: Sequence[Mapping[str, Any]]) -> Sequence[Mapping[str, Any]]:
    """Clauses in which each comparison has a base: *the difference in net* takes that of *against last year* beside it,
    else the year earlier; an explicit year, or other days, are counted back from what is shown.

    Raises Unfit for a year that is not before the one shown, and for days that are none of its kind.
    """
    shown: Mapping[str, Any] = next((clause["window"]["show"] for clause in clauses if "window" in clause), {})
    found: list[dict[str, Any]] = [dict(clause) for clause in clauses]
    for clause in found:
        base = clause.get("compare", {}).get("with")
        if isinstance(base, dict) and "year" in base:
            clause["compare"] = {**clause["compare"], "with": _years_back(shown, base["year"])}
        if isinstance(base, dict) and "days" in base:
            clause["compare"] = {**clause["compare"], "with": back_to(shown, base["days"])}
    alone = next((clause for clause in found if clause.get("compare", {}).keys() == {"with"}), None)
    for clause in found:
        for n, figure in enumerate(clause.get("figures", ())):
            if figure.get("with") != NOT_SAID:
                continue
            own = "year_earlier" if alone is None else alone["compare"]["with"]
            clause["figures"] = [*clause["figures"][:n], {**figure, "with": own}, *clause["figures"][n + 1 :]]
            if alone is not None:
                found = [one for one in found if one is not alone]
                alone = None
    return found


def _years_back(shown: Mapping[str, Any], year: int) -> Any:
    first, last = str(shown.get("from", "")), str(shown.get("to", ""))
    if not first or first[:4] != last[:4] or int(first[:4]) <= year:
        raise Unfit
    back = int(first[:4]) - year
    return "year_earlier" if back == 1 else {"back": back, "grain": "year"}


def same_figure(one: Mapping[str, Any], other: Mapping[str, Any]) -> bool:
    """Whether two figures are the same except for name and format."""
    return {k: v for k, v in one.items() if k not in NOT_WHAT_IT_IS} == {k: v for k, v in other.items() if k not in NOT_WHAT_IT_IS}  # fmt: skip


def is_amount(name: str, figures: Sequence[Mapping[str, Any]]) -> bool:
    """Whether a figure is in the unit of a column, unlike counts, ranks, shares, percentages and quotients."""
    figure = next(f for f in figures if f["name"] == name)
    base = next((figure[key] for key in ("compare", "running", "moving") if key in figure), None)
    if base is not None:
        return figure.get("as", "difference") in ("base", "difference") and is_amount(base, figures)
    if "formula" in figure:
        return not {"/", "*"} & set(figure["formula"])
    return "of" in figure and figure.get("take") not in NOT_AMOUNTS


def amounts_in(form: Mapping[str, Any], figures: Sequence[dict[str, Any]]) -> bool:
    """Give a format to all amounts of a report, or decimal places to its other figures; returns whether there is one."""
    shown = [figure for figure in figures if not figure.get("hide")]
    amounts = [figure for figure in shown if is_amount(figure["name"], figures)]
    if "places" in form and not amounts:
        amounts = [figure for figure in shown if "rank" not in figure and figure.get("take") not in NOT_AMOUNTS]
    for figure in amounts:
        figure["format"] = {**figure.get("format", {}), **form}
    return bool(amounts)


def level_names(report: Mapping[str, Any], names: Names) -> list[str]:
    """The names of the levels of a report, lines and columns."""
    found: list[str] = []
    for entry in (*report.get("down", ()), *report.get("across", ())):
        own = {k: v for k, v in entry.items() if k in ("category", "tree", "levels", "period", "grains", "bucket", "age", "name", "set", "cut")}  # fmt: skip
        model = _ENTRY.validate_python(own)
        found += model.default_names() or list(names.trees.get(entry.get("tree"), (None, ()))[1])
    return found


def take_away(entries: list[Mapping[str, Any]], entry: Mapping[str, Any]) -> None:
    """Remove an entry from one side, since it moves to the other."""
    entries[:] = [old for old in entries if core_of(old) != core_of(entry)]


def core_of(entry: Mapping[str, Any]) -> dict[str, Any]:
    """The part of an axis entry that determines its levels, without names, sorting and tops."""
    core = ("category", "tree", "period", "calendar", "grains", "bucket", "age", "set", "cut", "opened", "closed")
    return {k: v for k, v in entry.items() if k in core or (k == "levels" and "tree" in entry)}


def alike(one: Any, other: Any) -> bool:
    """Whether two conditions, or two of a level, are the same."""
    if isinstance(one, str):
        return normal(one) == normal(other)
    return bool(one["level"] == other["level"]) and normal(one["where"]) == normal(other["where"])
