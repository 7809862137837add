"""Writes a sheet in an open format; one writer for each format and shape."""

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module

from kalendor.core.values.notation import written_in
from kalendor.errors import DefinitionError
from kalendor.output.handover import Handover

Writer = Callable[[Handover], bytes]


@dataclass(frozen=True)
class Form:
    """A format: its extension, its media type, its default shape, its writers by shape (imported lazily, since some
    need large libraries), and whether texts are exported with the sheet."""

    ending: str
    media: str
    shape: str
    writers: dict[str, str]
    worded: bool = False

    @property
    def seen(self) -> str | None:
        """The sheet-like shape of a format; None if there is only the flat one."""
        return "sheet" if "sheet" in self.writers else None

    def writer(self, shape: str) -> Writer:
        """The writer of a shape."""
        module, _, name = self.writers[shape].partition(":")
        found: Writer = getattr(import_module(f"kalendor.output.{module}"), name)
        return found


XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
ODS = "application/vnd.oasis.opendocument.spreadsheet"
FORMS: dict[str, Form] = {
    "csv": Form("csv", "text/csv; charset=utf-8", "flat",
                {"flat": "delimited:flat_delimited", "sheet": "delimited:sheet_delimited"}),
    "json": Form("json", "application/json", "flat", {"flat": "json_files:flat_json", "sheet": "json_files:sheet_json"}),
    "xlsx": Form("xlsx", XLSX, "sheet", {"sheet": "workbook.book:sheet_workbook"}, worded=True),
    "ods": Form("ods", ODS, "sheet", {"sheet": "opendocument:sheet_ods"}, worded=True),
    "pdf": Form("pdf", "application/pdf", "sheet", {"sheet": "pdf.pdf:sheet_pdf"}, worded=True),
    "html": Form("html", "text/html; charset=utf-8", "sheet", {"sheet": "html.document:sheet_html", "print": "html.printed:sheet_print"}, worded=True),
    "parquet": Form("parquet", "application/vnd.apache.parquet", "flat", {"flat": "parquet:flat_parquet"}),
}  # fmt: skip


def form_of(name: str) -> Form:
    """A format by its name. Raises DefinitionError for an unknown one."""
    if name not in FORMS:
        raise DefinitionError(f"--format {name}: there is no such format; there are {', '.join(FORMS)}")
    return FORMS[name]


def write(given: Handover, form: str, shape: str | None = None) -> bytes:
    """The sheet in a format and shape (default: the format's own).

    Raises DefinitionError for an unknown pair.
    """
    found = form_of(form)
    chosen = shape or found.shape
    if chosen not in found.writers:
        raise DefinitionError(f"--shape {chosen}: {form} has {' and '.join(found.writers)}")
    with written_in(given.notation):
        return found.writer(chosen)(given)
