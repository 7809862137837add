"""Where a source is used: reports, look-ups of other sources, and plans set beside."""

from typing import cast

from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import looked_up_by, sources_of
from kalendor.store.sources import Source

SHOWN = 3


def used_by(desk: Desk, source: Source) -> str:
    """What refers to a source by name, in words; empty if nothing does."""
    reports = [d.name for d in desk.definitions.all("report") if _names(cast(Report, d.body), source.name)]
    sources = [s.name for s in desk.sources.all() if s.id != source.id and _same(source.name, looked_up_by(s.made))]
    parts = [_said("report", reports), _said("source", sources)]
    return " and ".join(part for part in parts if part)


def _names(report: Report, name: str) -> bool:
    return _same(name, sources_of(report))


def _same(name: str, names: list[str]) -> bool:
    return name.casefold() in {one.casefold() for one in names}


def _said(kind: str, names: list[str]) -> str:
    if not names:
        return ""
    more = f" and {len(names) - SHOWN} more" if len(names) > SHOWN else ""
    return f"the {kind}{'s' if len(names) > 1 else ''} {', '.join(map(repr, names[:SHOWN]))}{more}"
