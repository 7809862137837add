"""The columns of a source that definitions refer to, and how definitions are updated when one is renamed."""

from collections.abc import Callable, Mapping
from functools import cache
from typing import Annotated, Any, get_args, get_origin, get_type_hints

from kalendor.definitions.axis import BucketEntry, CategoryEntry, Entry
from kalendor.definitions.document import OF_COLUMNS, Part, RecordFormula
from kalendor.definitions.figure import Taken
from kalendor.definitions.report import Beside, LookupColumn, MadeColumn, Report

InFormula = Callable[[str, str, str], str]


class ColumnRenamed:
    """The renaming of a column of the source `source` from `old` to `new`; `in_formula` renames it in a formula."""

    def __init__(self, source: str, old: str, new: str, in_formula: InFormula) -> None:
        self.source, self.old, self.new, self.in_formula = source.casefold(), old, new, in_formula

    def report(self, report: Report) -> Report:
        """The updated report; a level named after the column keeps its name if the report uses it."""
        after: Report = self._part(report, self._is(report.source))
        if after == report:
            return report
        levels = _levels_named(report, self.old)
        if not levels:
            return after
        axes = {side: [self._with_name(one) for one in getattr(after, side)] for side in ("down", "across")}
        return after.model_copy(update=axes)

    def made(self, columns: list[MadeColumn], source: str) -> list[MadeColumn]:
        """The updated made columns of a source."""
        return [self._part(column, self._is(source)) for column in columns]

    def _is(self, source: str | None) -> bool:
        return source is not None and source.casefold() == self.source

    def _with_name(self, entry: Entry) -> Entry:
        column = (
            entry.category
            if isinstance(entry, CategoryEntry)
            else entry.bucket
            if isinstance(entry, BucketEntry)
            else ""
        )
        named = entry.name is not None or (isinstance(entry, CategoryEntry) and entry.tree is not None)
        return entry.model_copy(update={"name": self.old}) if column == self.new and not named else entry

    def _part(self, part: Any, own: bool) -> Any:
        """A part of a document; `own`: its columns are those of the source."""
        if isinstance(part, Taken) and part.source is not None:
            own = self._is(part.source)
        hints = _hints(type(part))  # type: ignore[arg-type]
        changed = {name: self._value(hints[name], getattr(part, name), own) for name in type(part).model_fields}
        if isinstance(part, Beside) and self._is(part.source):
            changed["match"] = self._values_renamed(changed["match"])
        if isinstance(part, LookupColumn) and self._is(part.lookup.source):
            lookup = changed["lookup"]
            match, as_at = self._values_renamed(lookup.match), self._values_renamed(lookup.as_at)
            take = self._name(lookup.take)
            changed["lookup"] = lookup.model_copy(update={"match": match, "as_at": as_at, "take": take})
        different = {name: value for name, value in changed.items() if value != getattr(part, name)}
        return part.model_copy(update=different) if different else part

    def _value(self, hint: Any, value: Any, own: bool) -> Any:
        if isinstance(value, Part):
            return self._part(value, own)
        inner = [arg for arg in get_args(hint) if arg is not type(None)]
        if isinstance(value, list):
            return [self._value(_within(hint, list, 0), one, own) for one in value]
        if isinstance(value, dict):
            return {
                self._value(_within(hint, dict, 0), k, own): self._value(_within(hint, dict, 1), v, own)
                for k, v in value.items()
            }
        if isinstance(value, str) and own and _marked(hint):
            formula = any(arg == RecordFormula for arg in (hint, *inner))
            return self.in_formula(value, self.old, self.new) if formula else self._name(value)
        return value

    def _name(self, name: str) -> str:
        return self.new if name == self.old else name

    def _values_renamed(self, match: Mapping[str, str]) -> dict[str, str]:
        return {k: self._name(v) for k, v in match.items()}


class ColumnsNamed(ColumnRenamed):
    """Walks through definitions as a renaming does, without changing anything: `found` are the source's columns in
    order of appearance; `names_in` gives those of a formula."""

    def __init__(self, source: str, names_in: Callable[[str], list[str]]) -> None:
        super().__init__(source, "", "", self._formula)
        self.found: dict[str, None] = {}
        self._names_in = names_in

    def _formula(self, formula: str, old: str, new: str) -> str:
        self.found |= dict.fromkeys(self._names_in(formula))
        return formula

    def _name(self, name: str) -> str:
        self.found[name] = None
        return name


@cache
def _hints(kind: type[Part]) -> Mapping[str, Any]:
    """The types of a part's keys; resolving them takes longer than going through the part."""
    return get_type_hints(kind, include_extras=True)


def _within(hint: Any, kind: type, place: int) -> Any:
    """The type of a list's items, or of a dictionary's keys (0) or values (1)."""
    for one in (hint, *get_args(hint)):
        if get_origin(one) is Annotated:
            one = get_args(one)[0]
        if get_origin(one) is kind:
            return get_args(one)[place]
    return Any


def _marked(hint: Any) -> bool:
    """Whether a type, or one of its alternatives, is a column's name or a formula over columns."""
    return any(OF_COLUMNS in getattr(one, "__metadata__", ()) for one in (hint, *get_args(hint)))


def _levels_named(report: Report, name: str) -> bool:
    """Whether a report refers to a level by a name that may be that of a column."""
    places = [
        *(k.level for k in report.keep),
        *report.totals.levels,
        *report.layout.levels,
        *(w.level for w in report.lines),
    ]
    entries = [*report.down, *report.across]
    places += [level for entry in entries if (level := getattr(entry.order, "level", None))]
    places += [figure.restart for figure in report.figures if hasattr(figure, "restart")]
    if report.delivery is not None:
        places += [level for level in (report.delivery.level, report.delivery.each) if level]
    return name in places
