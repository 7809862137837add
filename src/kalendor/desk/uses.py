"""What uses a source: reports, look-ups of other sources, and plans set beside."""

from typing import cast

from kalendor.definitions.report import LookupColumn, MadeColumn, Report
from kalendor.desk.desk import Desk
from kalendor.store.sources import Source

SHOWN = 3


def used_by(desk: Desk, source: Source) -> str:
    """What knows a source by its name, in words; nothing where nothing does."""
    reports = [d.name for d in desk.definitions.all("report") if _names(cast(Report, d.body), source.name)]
    sources = [s.name for s in desk.sources.all() if s.id != source.id and _looks_up(s.made, source.name)]
    parts = [_said("report", reports), _said("source", sources)]
    return " and ".join(part for part in parts if part)


def _names(report: Report, name: str) -> bool:
    names = [report.source, *(other.source for other in report.beside)]
    return _same(name, names) or _looks_up(report.columns, name)


def _looks_up(made: list[MadeColumn] | tuple[MadeColumn, ...], name: str) -> bool:
    return _same(name, [column.lookup.source for column in made if isinstance(column, LookupColumn)])


def _same(name: str, names: list[str]) -> bool:
    return name.casefold() in {one.casefold() for one in names}


def _said(kind: str, names: list[str]) -> str:
    if not names:
        return ""
    more = f" and {len(names) - SHOWN} more" if len(names) > SHOWN else ""
    return f"the {kind}{'s' if len(names) > 1 else ''} {', '.join(map(repr, names[:SHOWN]))}{more}"
