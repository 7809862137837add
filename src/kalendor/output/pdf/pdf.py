"""Sheets as a PDF (ISO 32000, tagged as PDF/UA-1), set by Typst from a template of our own and the product's fonts."""

import json
import subprocess
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from tempfile import TemporaryDirectory, TemporaryFile, gettempdir
from typing import Any

from kalendor.core.values.columns import day_number, day_of
from kalendor.core.values.cores import MANY, each
from kalendor.core.values.days import FULL_MONTH_NAMES
from kalendor.core.values.notation import noted_day, written_in
from kalendor.errors import DefinitionError, StoreError
from kalendor.output.charting import chart_of
from kalendor.output.handover import Cover, Handover
from kalendor.output.pdf.pages import INCH, document
from kalendor.output.pdf.parts import parted, share
from kalendor.output.watching import WATCHER

LOOK = 0.2  # seconds between two looks at whether somebody still waits
MOST_CELLS = 40_000  # of a part of a long document
AT_ONCE = 2  # parts that are set beside each other: each takes half a gigabyte
PREVIEWED = 70  # rows that a picture of the first page is made of


def sheet_pdf(given: Handover) -> bytes:
    """The sheet as pages, with its headline, and its chart where one is asked for."""
    return pdf([given])


def pdf(given: Sequence[Handover], cover: Cover | None = None) -> bytes:
    """Sheets one after another; with a cover, a first page that lists them with their headlines and pages.

    Raises DefinitionError where the pages cannot be set, StoreError where there is no room for what they are made of.
    """
    return _set(_data(given, cover, None), picture=False)


def first_page(given: Handover) -> bytes:
    """A picture (PNG) of the first page, made from the first rows alone.

    Raises as `pdf`.
    """
    return _set(_data([given], None, PREVIEWED), picture=True)


def _data(given: Sequence[Handover], cover: Cover | None, most: int | None) -> dict[str, Any]:
    charts: list[str] = []
    reports = []
    for one in given:
        with written_in(one.notation):
            drawn = chart_of(one)
            report = document(one, drawn, len(charts), most)
            reports.append(report)
            if drawn is not None:
                from kalendor.output.picture import picture  # loads Matplotlib

                charts.append(picture(drawn, report["room"] / INCH, report["chart_height"] / INCH).decode())
    title = given[0].sheet.title if cover is None else cover.title
    told = None if cover is None else _cover(cover, given)
    return {"title": title, "cover": told, "reports": reports, "charts": charts}


def _cover(cover: Cover, given: Sequence[Handover]) -> dict[str, Any]:
    moves = [[m.title, m.figure, m.since, m.then, m.now, m.change, m.percent, m.line] for m in cover.moves]
    mark = {"mark": list(cover.mark), "kind": cover.kind} if cover.mark else {"mark": [], "kind": ""}
    return {
        "organisation": cover.organisation,
        "period": _period(given),
        "accent": cover.accent,
        "moves": moves,
        **mark,
    }


def _period(given: Sequence[Handover]) -> str:
    """The month of the sheets' as-of dates, or their days where they are of several."""
    days = sorted({day_of(one.sheet.as_of) for one in given})
    if (days[0].year, days[0].month) == (days[-1].year, days[-1].month):
        return f"{FULL_MONTH_NAMES[days[0].month - 1]} {days[0].year}"
    return f"as of {noted_day(day_number(days[0]))} to {noted_day(day_number(days[-1]))}"


def _set(data: dict[str, Any], picture: bool) -> bytes:
    try:
        return _made(data, picture)
    except OSError as error:
        where, why = gettempdir(), error.strerror or type(error).__name__
        raise StoreError(
            f"{where}: what pages are made of cannot be kept there ({why}); make room and try again"
        ) from error


def _made(data: dict[str, Any], picture: bool) -> bytes:
    def look() -> None:
        WATCHER.get()(sum(done), lines)

    done: list[int] = []  # lines of each part that is set
    lines = sum(_lines(report) for report in data["reports"])
    first = data["reports"][0]
    parts = [] if picture or data["cover"] else parted(first, share(first, MOST_CELLS, AT_ONCE))
    if len(parts) < 2:
        return _process("setter", ["picture"] if picture else [], data, look)
    with TemporaryDirectory(prefix="kalendor-") as folder:

        def set_part(n: int) -> None:
            made = _process("setter", ["part"], {**data, "reports": [parts[n]]}, look)
            (Path(folder) / f"{n}.pdf").write_bytes(made)
            done.append(_lines(parts[n]))

        each(set_part, range(len(parts)), MANY, at_once=AT_ONCE)
        numbers = {"paper": parts[0]["paper"], "across": parts[0]["across"]}
        told = {"again": [part["again"] for part in parts], "reports": [], "charts": [], "numbers": numbers}
        return _process("joining", [folder], {**data, **told}, look)


def _lines(report: dict[str, Any]) -> int:
    return sum(len(item.get("rows", ())) for panel in report["panels"] for part in panel["parts"] for item in part)


def _process(module: str, arguments: list[str], data: dict[str, Any], look: Callable[[], None]) -> bytes:
    """What a process of ours makes of data; meanwhile it is looked whether somebody still waits.

    Raises DefinitionError where it fails.
    """
    command = [sys.executable, "-m", f"kalendor.output.pdf.{module}", *arguments]
    with TemporaryFile() as asked:  # a pipe that is not read at once would be waited for, and nobody looked
        asked.write(json.dumps(data, ensure_ascii=False).encode("utf-8", "replace"))
        asked.seek(0)
        process = subprocess.Popen(command, stdin=asked, stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    with process:
        try:
            while True:
                try:
                    made, fault = process.communicate(timeout=LOOK)
                    break
                except subprocess.TimeoutExpired:
                    look()
        except BaseException:
            process.kill()
            raise
    if process.returncode:
        said = fault.decode("utf-8", "replace").strip()[-300:] or f"the typesetter ended with {process.returncode}"
        raise DefinitionError(f"the pages of {data['title']!r} cannot be set: {said}")
    return made
