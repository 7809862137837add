"""Export settings of a report, stored with it."""

from typing import Annotated, Literal

from pydantic import Field

from kalendor.definitions.document import Part

Separator = Literal[",", ";", "\t", "|"]
Encoding = Literal["utf-8", "utf-8-bom", "utf-16", "windows-1252"]


class Headline(Part):
    """The analyst's own headline, and the generated one at the time it was written: if that differs now, the numbers
    have changed."""

    sentences: list[Annotated[str, Field(min_length=1, max_length=1000)]] = Field(default_factory=list, max_length=12)
    given: list[str] = Field(default_factory=list)


class Export(Part):
    """The settings of a report's files; no number depends on them.

    Delimited text: `separator`, `encoding`, `labels` (as on the sheet, or in one column a level, once or on each line),
    `raw` (texts unchanged, else guarded against execution as formulas). Workbooks: `subtotals` as live formulas or as
    values. Pages: `paper`, `way` (automatic, portrait or landscape), `type` (8 to 9 points, or 10 to 11 for a board).
    `chart` is included on request; `headline` is printed above the sheet unless it is left out.
    """

    separator: Separator = ","
    encoding: Encoding = "utf-8"
    labels: Literal["sheet", "once", "each"] = "sheet"
    raw: bool = False
    subtotals: Literal["live", "values"] = "live"
    paper: Literal["a4", "letter"] = "a4"
    way: Literal["fits", "upright", "across"] = "fits"
    type: Literal["plain", "board"] = "plain"
    chart: bool = False
    headline: bool = True
