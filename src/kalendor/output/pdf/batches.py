"""Groups reports of a pack, or cuts a long one, into batches that are typeset separately, so that memory grows with a batch
and not with the pack."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any

from kalendor.core.values.notation import written_in
from kalendor.output.charting import chart_of
from kalendor.output.handover import Handover
from kalendor.output.pdf.pages import INCH, document
from kalendor.output.pdf.parts import cells_of, parted, share


@dataclass
class Batch:
    """Documents (see `pages.document`) and the charts that they refer to by number. `again` is the number of bookmarks
    at the beginning that belong to groups which began in the batch before; None if a report begins."""

    reports: list[dict[str, Any]] = field(default_factory=list)
    charts: list[str] = field(default_factory=list)
    again: int | None = None

    @property
    def lines(self) -> int:
        """The number of lines."""
        panels = (panel for report in self.reports for panel in report["panels"])
        return sum(len(item.get("rows", ())) for panel in panels for part in panel["parts"] for item in part)

    @property
    def size(self) -> float:
        """The type size of page numbers, in points."""
        return float(max(report["least"] for report in self.reports))

    def add(self, given: Handover, most: int | None = None) -> None:
        """Add a report, at most `most` rows of it."""
        with written_in(given.notation):
            drawn = chart_of(given)
            report = document(given, drawn, len(self.charts), most)
            self.reports.append(report)
            if drawn is not None:
                from kalendor.output.picture import picture  # imports Matplotlib

                self.charts.append(picture(drawn, report["room"] / INCH, report["chart_height"] / INCH).decode())


def batches(given: Iterable[Handover], most: int, beside: int, tables: int) -> Iterator[Batch]:
    """Batches of about `most` cells each, `beside` of which are typeset at the same time, generated lazily: reports
    together as long as they fit, a longer one in parts. `tables` come before the first."""
    batch, cells = Batch(), 0
    for one in given:
        alone = Batch()
        alone.add(one)
        own = sum(cells_of(items, panel) for panel in alone.reports[0]["panels"] for items in panel["parts"])
        if batch.reports and cells + own > most:
            yield _numbered(batch, tables)
            tables, batch, cells = tables + _tables(batch), Batch(), 0
        if own <= most:
            _join(batch, alone)
            cells += own
            continue
        for part in parted(alone.reports[0], share(alone.reports[0], most, beside)):
            found = Batch([part], alone.charts, None if part["begins"] else part["again"])
            yield _numbered(found, tables)
            tables += _tables(found)
    if batch.reports:
        yield _numbered(batch, tables)


def _join(batch: Batch, other: Batch) -> None:
    for report in other.reports:
        own = report["chart"]
        batch.reports.append(report if own < 0 else {**report, "chart": own + len(batch.charts)})
    batch.charts += other.charts


def _tables(batch: Batch) -> int:
    return sum(len(panel["parts"]) for report in batch.reports for panel in report["panels"])


def _numbered(batch: Batch, tables: int) -> Batch:
    """A batch whose tables are numbered after those before it."""
    first, *rest = batch.reports
    return Batch([{**first, "tables": tables}, *rest], batch.charts, batch.again)
