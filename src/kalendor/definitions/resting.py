"""Which parts of a report use a grouping."""

from kalendor.definitions.axis import AgeEntry, BucketEntry, CategoryEntry, PeriodEntry
from kalendor.definitions.document import Part
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.report import Report


def entries_on(report: Report, document: Grouping) -> list[Part]:
    """The entries of a report, its window among them, that use a grouping of that kind and name."""
    return [part for part, kind, name in _resting(report) if (kind, name) == (document.kind, document.name)]


def groupings_named(report: Report) -> set[tuple[str, str]]:
    """The kind and name of each grouping that a report uses."""
    return {(kind, name) for _, kind, name in _resting(report)}


def _resting(report: Report) -> list[tuple[Part, str, str]]:
    found: list[tuple[Part, str, str | None]] = []
    for entry in report.entries:
        match entry:
            case CategoryEntry():
                found.append((entry, "tree", entry.tree))
            case PeriodEntry():
                found.append((entry, "calendar", entry.calendar))
            case BucketEntry() | AgeEntry():
                found.append((entry, "buckets", entry.set))
    if report.window is not None:
        found.append((report.window, "calendar", report.window.calendar))
    return [(part, kind, name) for part, kind, name in found if name is not None]
