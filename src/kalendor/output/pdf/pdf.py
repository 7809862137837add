"""Sheets as a PDF (ISO 32000, tagged as PDF/UA-1), typeset by Typst from a template of our own and the product's fonts."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import chain
from pathlib import Path
from tempfile import TemporaryDirectory, gettempdir
from typing import Any

from kalendor.core.values.columns import day_number, day_of
from kalendor.core.values.cores import MANY, each
from kalendor.core.values.days import FULL_MONTH_NAMES
from kalendor.core.values.notation import noted_day, written_in
from kalendor.errors import StoreError
from kalendor.output.handover import Cover, Handover
from kalendor.output.paging.planner import PAPERS
from kalendor.output.pdf.batches import Batch, batches
from kalendor.output.pdf.process import as_bytes, set_from, set_from_file
from kalendor.output.told import under_title
from kalendor.output.watching import WATCHER

MOST_CELLS = 40_000  # of a batch
AT_ONCE = 2  # batches that are typeset in parallel: each takes half a gigabyte
PREVIEWED = 70  # rows used for a picture of the first page


def sheet_pdf(given: Handover) -> bytes:
    """The sheet as pages, with its headline, and its chart if one is requested."""
    return pdf([given])


def pdf(given: Sequence[Handover], cover: Cover | None = None) -> bytes:
    """Sheets one after another; with a cover, a first page that lists them with their headlines and pages.

    Raises DefinitionError if the pages cannot be typeset, StoreError if there is no room for temporary files.
    """
    title = given[0].sheet.title if cover is None else cover.title
    around = {"title": title, "cover": None if cover is None else _cover(cover, given)}
    made = batches(given, MOST_CELLS, AT_ONCE, 0 if cover is None or not cover.moves else 1)
    try:
        first = next(made)
        second = next(made, None)
        if second is None:
            return _at_once(first, around)
        return _in_parts(chain((first, second), made), around)
    except OSError as error:
        where, why = gettempdir(), error.strerror or type(error).__name__
        raise StoreError(
            f"{where}: what pages are made of cannot be kept there ({why}); make room and try again"
        ) from error


def first_page(given: Handover) -> bytes:
    """A picture (PNG) of the first page, made from the first rows only.

    Raises as `pdf`.
    """
    batch = Batch()
    batch.add(given, PREVIEWED)
    return set_from(_data(batch, {"title": given.sheet.title, "cover": None}, "all"), "setter", ["picture"], _nobody)


def _data(batch: Batch, around: dict[str, Any], only: str) -> dict[str, Any]:
    return {**around, "only": only, "reports": batch.reports, "charts": batch.charts}


def _at_once(batch: Batch, around: dict[str, Any]) -> bytes:
    whole = Batch([{**report, "tables": 0} for report in batch.reports], batch.charts)
    return set_from(_data(whole, around, "all"), "setter", [], lambda: WATCHER.get()(0, batch.lines))


@dataclass(frozen=True)
class _Part:
    """A batch in a folder, and what joining needs to know about it."""

    name: str
    lines: int
    again: int | None
    size: float


def _in_parts(made: Iterator[Batch], around: dict[str, Any]) -> bytes:
    done: list[int] = []  # lines of each part that is set
    with TemporaryDirectory(prefix="kalendor-") as name:
        folder = Path(name)
        parts = [_kept(folder / f"{n}.json", batch, around) for n, batch in enumerate(made)]

        def look() -> None:
            WATCHER.get()(sum(done), sum(part.lines for part in parts))

        def set_part(part: _Part) -> None:
            data = folder / part.name
            set_ = set_from_file(data, "setter", ["part"], around["title"], look)
            data.with_suffix(".pdf").write_bytes(set_)
            data.unlink()
            done.append(part.lines)

        each(set_part, parts, MANY, at_once=AT_ONCE)
        told = {"again": [part.again for part in parts], "sizes": [part.size for part in parts]}
        return set_from({**around, **told, "reports": [], "charts": []}, "joining", [name], look)


def _kept(path: Path, batch: Batch, around: dict[str, Any]) -> _Part:
    path.write_bytes(as_bytes(_data(batch, around, "part")))
    return _Part(path.name, batch.lines, batch.again, batch.size)


def _nobody() -> None:
    """Progress callback that does nothing: a picture is made at once."""


def _cover(cover: Cover, given: Sequence[Handover]) -> dict[str, Any]:
    moves = [[m.title, m.figure, m.since, m.then, m.now, m.change, m.percent, m.line] for m in cover.moves]
    mark = {"mark": list(cover.mark), "kind": cover.kind} if cover.mark else {"mark": [], "kind": ""}
    return {
        "contents": [_entry(one) for one in given],
        "paper": PAPERS[given[0].export.paper][0],
        "organisation": cover.organisation,
        "period": _period(given),
        "accent": cover.accent,
        "moves": moves,
        **mark,
    }


def _entry(given: Handover) -> dict[str, str]:
    """An entry of the contents: a report's title, and its one-line headline."""
    with written_in(given.notation):
        return {"title": given.sheet.title, "said": given.short or under_title(given.sheet)}


def _period(given: Sequence[Handover]) -> str:
    """The month of the sheets' as-of dates, or their days if they differ in month."""
    days = sorted({day_of(one.sheet.as_of) for one in given})
    if (days[0].year, days[0].month) == (days[-1].year, days[-1].month):
        return f"{FULL_MONTH_NAMES[days[0].month - 1]} {days[0].year}"
    return f"as of {noted_day(day_number(days[0]))} to {noted_day(day_number(days[-1]))}"
