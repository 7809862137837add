"""Sheets as a PDF (ISO 32000, tagged as PDF/UA-1), set by Typst from a template of our own and the product's fonts."""

import json
from collections.abc import Sequence
from pathlib import Path

import typst

from kalendor.errors import DefinitionError
from kalendor.output.charting import chart
from kalendor.output.handover import Handover
from kalendor.output.measuring import FONTS
from kalendor.output.pdf.pages import document
from kalendor.output.picture import picture

TEMPLATE = Path(__file__).parent / "page.typ"


def sheet_pdf(given: Handover) -> bytes:
    """The sheet as pages, with its headline, and its chart where one is asked for."""
    return pdf([given])


def pdf(given: Sequence[Handover], contents: str = "") -> bytes:
    """Sheets one after another; with `contents`, a first page of that title that lists them.

    Raises DefinitionError where the pages cannot be set.
    """
    charts: list[str] = []
    reports = []
    for one in given:
        drawn = chart(one.sheet) if one.export.chart else None
        if drawn is not None:
            charts.append(picture(drawn).decode())
        reports.append(document(one, len(charts) - 1 if drawn else -1, drawn.alternative if drawn else ""))
    title = contents or given[0].sheet.title
    data = {"title": title, "contents": bool(contents), "reports": reports, "charts": charts}
    try:
        made = typst.compile(
            str(TEMPLATE), None, str(TEMPLATE.parent), [str(FONTS)], True,
            sys_inputs={"data": json.dumps(data, ensure_ascii=False)}, pdf_standards="ua-1",
        )  # fmt: skip
    except (RuntimeError, ValueError, typst.TypstError) as error:
        raise DefinitionError(f"the pages of {title!r} cannot be set: {error}") from error
    return made
