"""What an analyst can do about a number that mixes several units: add a level by unit, or convert amounts by the rates
of another source."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from kalendor.core.figures.family import kind_of
from kalendor.core.plan import Plan
from kalendor.core.values.columns import DATED, NUMERIC, Column, Kind, Records
from kalendor.core.values.notation import noted
from kalendor.definitions.axis import CategoryEntry, PeriodEntry
from kalendor.definitions.figure import Figure, Taken
from kalendor.definitions.report import FormulaColumn, Lookup, LookupColumn, MadeColumn, Report
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import now
from kalendor.desk.records import complete
from kalendor.desk.sheets import plan_of
from kalendor.errors import DefinitionError
from kalendor.store.sources import Source

MOST_UNITS = 1_000


@dataclass(frozen=True)
class WayOut:
    """A solution in words, and the report that applies it. `example` shows what a rate makes of an amount."""

    said: str
    example: str
    report: Report


@dataclass(frozen=True)
class _Rates:
    """Where rates are stored: the column that matches the unit, the date from which each is valid (empty: one rate a
    unit), and the rate; `first` is one that is not 1, if there is one, with its unit."""

    source: str
    unit: str
    since: str
    rate: str
    first: tuple[str, float]

    def example(self, sign: str) -> str:
        """What 100 of a unit become."""
        unit, rate = self.first
        made = 0.0 if not rate else 100 * rate if sign == "*" else 100 / rate
        return f"100 {unit} → {noted(f'{made:,.2f}')}" if rate else ""


def ways_out(desk: Desk, report: Report, figure: str) -> list[WayOut]:
    """The ways to get numbers of a single unit for a figure; none if it is not over amounts of several units.

    Raises DefinitionError if the report cannot be computed, or has no such figure.
    """
    with desk.workspace.snapshot():
        plan = plan_of(desk, now(desk, report))
        amounts = _amounts(plan, figure)
        held_in = list(dict.fromkeys(unit for name in amounts for unit in plan.ground.records.columns[name].unit))
        ways = [way for unit in held_in if (way := _level(report, unit)) is not None]
        if len(held_in) == 1:
            labels = {label for name in amounts for label in plan.ground.units[name].labels if label}
            for other in desk.sources.all():
                if other.name.casefold() != report.source.casefold():
                    ways += _converted(report, plan, held_in[0], amounts, _rates_of(desk, other, labels))
        return ways


def _amounts(plan: Plan, figure: str) -> list[str]:
    """The columns of several units that a figure depends on."""
    found = plan.reckoner.figures.get(figure)
    if found is None:
        return []
    needed = [name for one in kind_of(found).needs(found) if (name := plan.reckoner.known(one)) is not None]
    own = [found.of] if isinstance(found, Taken) and found.of is not None and found.of in plan.ground.units else []
    return list(dict.fromkeys([*own, *(name for one in needed for name in _amounts(plan, one))]))


def _level(report: Report, unit: str) -> WayOut | None:
    """A report grouped by unit above all other lines; None if it is already."""
    there = [entry.category for entry in report.entries_of(CategoryEntry)]
    if unit in there:
        return None
    after = report.model_copy(update={"down": [CategoryEntry(category=unit), *report.down]})
    return WayOut(f"A group for each {unit}", "", after)


def _rates_of(desk: Desk, source: Source, labels: set[str]) -> Iterator[_Rates]:
    """The columns of a source that may be rates: numbers on lines that are unique by unit, or by unit and date."""
    try:
        records = complete(desk, source).records
    except DefinitionError:  # made columns of another source are out of this report's scope
        return
    dates = ["", *(name for name, column in records.columns.items() if column.kind in DATED)]
    for unit, column in records.columns.items():
        if column.kind is not Kind.TEXT or not labels <= _words(column):
            continue
        since = next((name for name in dates if _one_each(records, [unit, *([name] if name else [])])), None)
        if since is None:
            continue
        for rate, numbers in records.columns.items():
            if numbers.kind in NUMERIC and not numbers.unit and not numbers.percent:
                yield _Rates(source.name, unit, since, rate, _example(column, numbers, labels))


def _words(column: Column) -> set[str]:
    used = np.unique(column.values[column.present])
    return {column.words[code] for code in used.tolist()} if len(used) <= MOST_UNITS else set()


def _example(units: Column, rates: Column, labels: set[str]) -> tuple[str, float]:
    """The last rate of one of the units that is not 1, else the last rate."""
    codes = [code for code in np.unique(units.values).tolist() if units.words[code] in labels]
    there = np.flatnonzero(np.isin(units.values, codes) & units.present & rates.present)
    if not len(there):
        return "", 0.0
    changed = there[rates.floats()[there] != 1]
    last = int((changed if len(changed) else there)[-1])
    return units.item(last), float(rates.floats()[last])


def _one_each(records: Records, names: Sequence[str]) -> bool:
    """Whether no two lines agree in the given columns."""
    parts = [np.where(c.blanks, -1, c.values.astype(np.int64)) for c in (records.columns[name] for name in names)]
    return len(np.unique(np.column_stack(parts), axis=0)) == records.count


def _converted(
    report: Report, plan: Plan, unit: str, amounts: Sequence[str], several: Iterator[_Rates]
) -> Iterator[WayOut]:
    """A report with amounts converted, once multiplied and once divided by each rate column."""
    day = _day(report, plan)
    taken = set(plan.ground.records.columns)
    for rates in several:
        if rates.since and day is None:
            continue
        fetched = _free(rates.rate, taken)
        as_at = {day: rates.since} if rates.since and day is not None else {}
        lookup = Lookup(source=rates.source, match={unit: rates.unit}, as_at=as_at, take=rates.rate)
        for sign, way in (("*", "times"), ("/", "divided by")):
            made: list[MadeColumn] = [LookupColumn(name=fetched, lookup=lookup)]
            names = {name: _free(f"{name} converted", taken) for name in amounts}
            by = f"NULLIF({_quoted(fetched)}, 0)" if sign == "/" else _quoted(fetched)
            made += [FormulaColumn(name=new, formula=f"{_quoted(old)} {sign} {by}") for old, new in names.items()]
            amount = " and ".join(amounts)
            said = f"Convert {amount} by {rates.source}: {way} {rates.rate}{f', as at {day}' * bool(rates.since)}"
            yield WayOut(said, rates.example(sign), _of(report, plan, made, names))


def _of(report: Report, plan: Plan, made: Sequence[MadeColumn], names: dict[str, str]) -> Report:
    """The report with its figures taken from converted amounts, shown with the original decimal places."""

    def converted(figure: Figure) -> Figure:
        if not isinstance(figure, Taken) or figure.of not in names or figure.source is not None:
            return figure
        form, places = figure.format, plan.ground.records.columns[figure.of].places
        form = form if form.places is not None else form.model_copy(update={"places": places})
        return figure.model_copy(update={"of": names[figure.of], "format": form})

    figures = [converted(figure) for figure in report.figures]
    return report.model_copy(update={"columns": [*report.columns, *made], "figures": figures})


def _day(report: Report, plan: Plan) -> str | None:
    """The date as at which a rate is looked up: that of the report's periods, else the first date column."""
    if report.window is not None:
        return report.window.of
    periods = [entry.period for entry in report.entries_of(PeriodEntry)]
    dated = [name for name, column in plan.ground.records.columns.items() if column.kind in DATED]
    return next(iter([*periods, *dated]), None)


def _free(name: str, taken: set[str]) -> str:
    found, number = name, 2
    while found in taken:
        found, number = f"{name} {number}", number + 1
    return found


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'
