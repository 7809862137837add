"""Sheets as a PDF (ISO 32000, tagged as PDF/UA-1), set by Typst from a template of our own and the product's fonts."""

import json
import subprocess
import sys
from collections.abc import Sequence
from typing import Any

from kalendor.errors import DefinitionError
from kalendor.output.charting import chart
from kalendor.output.handover import Handover
from kalendor.output.pdf.pages import document
from kalendor.output.watching import WATCHER

LOOK = 0.2  # seconds between two looks at whether somebody still waits
PREVIEWED = 70  # rows that a picture of the first page is made of


def sheet_pdf(given: Handover) -> bytes:
    """The sheet as pages, with its headline, and its chart where one is asked for."""
    return pdf([given])


def pdf(given: Sequence[Handover], contents: str = "") -> bytes:
    """Sheets one after another; with `contents`, a first page of that title that lists them.

    Raises DefinitionError where the pages cannot be set.
    """
    return _set(_data(given, contents, None), picture=False)


def first_page(given: Handover) -> bytes:
    """A picture (PNG) of the first page, made from the first rows alone."""
    return _set(_data([given], "", PREVIEWED), picture=True)


def _data(given: Sequence[Handover], contents: str, most: int | None) -> dict[str, Any]:
    charts: list[str] = []
    reports = []
    for one in given:
        drawn = chart(one.sheet) if one.export.chart else None
        if drawn is not None:
            from kalendor.output.picture import picture  # loads Matplotlib

            charts.append(picture(drawn).decode())
        reports.append(document(one, len(charts) - 1 if drawn else -1, drawn.alternative if drawn else "", most))
    title = contents or given[0].sheet.title
    return {"title": title, "contents": bool(contents), "reports": reports, "charts": charts}


def _set(data: dict[str, Any], picture: bool) -> bytes:
    asked = json.dumps(data, ensure_ascii=False).encode("utf-8", "replace")
    lines = sum(len(part) for report in data["reports"] for panel in report["panels"] for part in panel["parts"])
    command = [sys.executable, "-m", "kalendor.output.pdf.setter", *(["picture"] if picture else [])]
    with subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as setter:
        waiting: bytes | None = asked
        try:
            while True:
                try:
                    made, fault = setter.communicate(waiting, timeout=LOOK)
                    break
                except subprocess.TimeoutExpired:
                    waiting = None
                    WATCHER.get()(0, lines)
        except BaseException:
            setter.kill()
            raise
    if setter.returncode:
        said = fault.decode("utf-8", "replace").strip()[-300:] or f"the typesetter ended with {setter.returncode}"
        raise DefinitionError(f"the pages of {data['title']!r} cannot be set: {said}")
    return made
