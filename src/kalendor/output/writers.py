"""A sheet written in an open format; one writer a format and shape."""

from collections.abc import Callable
from dataclasses import dataclass

from kalendor.errors import DefinitionError
from kalendor.output.delimited import flat_delimited, sheet_delimited
from kalendor.output.handover import Handover
from kalendor.output.html.document import sheet_html
from kalendor.output.json_files import flat_json, sheet_json
from kalendor.output.opendocument import MIME, sheet_ods
from kalendor.output.parquet import flat_parquet
from kalendor.output.pdf.pdf import sheet_pdf
from kalendor.output.workbook.book import sheet_workbook

Writer = Callable[[Handover], bytes]


@dataclass(frozen=True)
class Form:
    """A format: its ending, its media type, the shape that it has unless another is asked for, its writers,
    and whether words go along with the sheet."""

    ending: str
    media: str
    shape: str
    writers: dict[str, Writer]
    worded: bool = False


XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
FORMS: dict[str, Form] = {
    "csv": Form("csv", "text/csv; charset=utf-8", "flat", {"flat": flat_delimited, "sheet": sheet_delimited}),
    "json": Form("json", "application/json", "flat", {"flat": flat_json, "sheet": sheet_json}),
    "xlsx": Form("xlsx", XLSX, "sheet", {"sheet": sheet_workbook}, worded=True),
    "ods": Form("ods", MIME, "sheet", {"sheet": sheet_ods}, worded=True),
    "pdf": Form("pdf", "application/pdf", "sheet", {"sheet": sheet_pdf}, worded=True),
    "html": Form("html", "text/html; charset=utf-8", "sheet", {"sheet": sheet_html}, worded=True),
    "parquet": Form("parquet", "application/vnd.apache.parquet", "flat", {"flat": flat_parquet}),
}


def form_of(name: str) -> Form:
    """A format by its name. Raises DefinitionError for one that is not known."""
    if name not in FORMS:
        raise DefinitionError(f"--format {name}: there is no such format; there are {', '.join(FORMS)}")
    return FORMS[name]


def write(given: Handover, form: str, shape: str | None = None) -> bytes:
    """The sheet in a format and shape (the format's own where none is given).

    Raises DefinitionError for a pair that there is not.
    """
    found = form_of(form)
    chosen = shape or found.shape
    if chosen not in found.writers:
        raise DefinitionError(f"--shape {chosen}: {form} has {' and '.join(found.writers)}")
    return found.writers[chosen](given)
