"""What a partial depends on: partials are cached by it, and shared by reports that differ only elsewhere."""

from kalendor.core.figures.family import kind_of
from kalendor.core.formulas.expressions import blank_names, names_day
from kalendor.core.values.keys import Key, key
from kalendor.definitions.axis import AgeEntry, CategoryEntry
from kalendor.definitions.figure import Format, Taken
from kalendor.definitions.report import Report


def partial_key(report: Report) -> Key:
    """The key of everything in a report that its partials depend on, apart from records, groupings and the as-of date:
    what is taken of which records, and what distinguishes them; not titles, formats, totals, order or the window's
    length."""
    bare = {"name": "-", "format": Format(), "hide": False}
    taken = {key("taken", f.model_copy(update=bare)) for f in report.figures if isinstance(f, Taken)}
    return key(
        "partials of",
        report.source,
        list(report.columns),
        list(report.only),
        report.window and report.window.of,
        list(report.down),
        list(report.across),
        sorted(taken),
        any(kind_of(figure).counts_days(figure) for figure in report.figures),
        list(report.beside),
        report.records,
    )


def rests_on_day(report: Report) -> bool:
    """Whether a report's partials depend on the as-of date."""
    conditions = [*report.only, *(f.where for f in report.figures if isinstance(f, Taken) and f.where is not None)]
    return (
        bool(report.entries_of(AgeEntry))
        or any(entry.placed is not None for entry in report.entries_of(CategoryEntry))
        or any(names_day(condition) for condition in conditions)
        or any(blank_names(condition) for condition in report.only)
    )
