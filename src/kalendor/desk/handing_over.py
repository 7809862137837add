"""Exports reports as files: sheets with their wording, and file names."""

from dataclasses import dataclass, field, replace

from kalendor.core.values.days import day_label
from kalendor.core.values.interruption import go_on
from kalendor.core.values.notation import grouped
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import now
from kalendor.desk.organisation import organisation
from kalendor.desk.sheets import sheet_from, trail_from
from kalendor.desk.summaries import fresh_sheet
from kalendor.output.charting import chart_of
from kalendor.output.delimited import CODECS
from kalendor.output.flat import flat
from kalendor.output.handover import Handover, handed
from kalendor.output.live_totals import live, spans
from kalendor.output.names import file_stem
from kalendor.output.paging.choices import PageChoice, page_choices
from kalendor.output.pdf.pages import around_of
from kalendor.output.typeset import typeset
from kalendor.output.watching import WATCHER, unwatched
from kalendor.output.writers import form_of, write

SHOWN_LINES = 40
PAGED = ("pdf", "html")  # formats laid out by the page planner


@dataclass(frozen=True)
class TakenAway:
    """An exported file: its name, such as `Net fare by sea area 2026-07.xlsx`, media type and bytes."""

    name: str
    media: str
    content: bytes


def handover(desk: Desk, report: Report, worded: bool) -> Handover:
    """A report's current sheet, with its wording if requested, from one snapshot."""
    fresh_sheet(desk, report)
    with desk.workspace.snapshot():
        found = now(desk, report)
        sheet = sheet_from(desk, found)
        if not worded:
            return Handover(sheet, report.export, report=report)
        given = handed(report, sheet, lambda cell: trail_from(desk, found, sheet, cell))
        return replace(given, organisation=organisation(desk).name)


def taken_away(desk: Desk, report: Report, form: str, shape: str | None) -> TakenAway:
    """Export a report in a format and shape.

    Raises DefinitionError for an unknown format, and whatever computing the report raises.
    """
    found = form_of(form)
    given = handover(desk, report, found.worded)
    name = f"{report.title} {day_label(given.sheet.as_of)[:7]}.{found.ending}"
    if WATCHER.get() is unwatched:
        WATCHER.set(lambda done, total: go_on())  # a cancelled request also stops the writer
    return TakenAway(name, found.media, write(given, form, shape))


@dataclass(frozen=True)
class Preview:
    """A description of an export and, for text formats, its first lines; `picture` if its first page can be drawn,
    `choices` the resulting pages for each choice of paper and type size."""

    name: str
    facts: list[str]
    text: str
    picture: bool
    choices: list[PageChoice] = field(default_factory=list)


def previewed(desk: Desk, report: Report, form: str, shape: str | None) -> Preview:
    """Preview a report's file in a format and shape.

    Raises DefinitionError for an unknown format, and whatever computing the report raises.
    """
    found = form_of(form)
    given = handover(desk, report, form in PAGED)
    month = day_label(given.sheet.as_of)[:7]
    name = f"{file_stem(f'{report.title} {month}')}.{found.ending}"
    chosen = shape or found.shape
    if found.worded:
        set_ = typeset(given.sheet)
        choices = page_choices(set_, given, around_of(given, set_, chart_of(given))) if form in PAGED else []
        return Preview(name, _facts(given, form), "", True, choices)
    if form == "parquet":
        table = flat(given.sheet)
        rows = len(table.fields[0]) if table.fields else 0
        return Preview(name, [f"{grouped(rows)} rows, {len(table.headings)} columns"], "\n".join(table.headings), False)
    lines = write(given, form, chosen).decode(
        CODECS[report.export.encoding][0] if form == "csv" else "utf-8", "replace"
    )
    first = lines.removeprefix("\ufeff").split("\n")
    return Preview(name, [f"{grouped(len(first) - 1)} lines of text"], "\n".join(first[:SHOWN_LINES]), False)


def _facts(given: Handover, form: str) -> list[str]:
    set_ = typeset(given.sheet)
    said = [f"{grouped(len(set_.rows))} lines, {grouped(len(set_.columns))} columns of figures"]
    levels = [level.name for level in given.sheet.lines.levels]
    if form in ("xlsx", "ods", "html") and len(levels) > 1:
        said.append(f"groups of {' and '.join(levels[:-1])} open and close")
    if form in ("xlsx", "ods"):
        over = spans(set_)
        alive = sum(int(live(set_, over, column).sum()) for column in set_.columns)
        said.append(f"{grouped(alive)} live totals" if given.export.subtotals == "live" else "totals are values")
    if form == "xlsx":
        said.append("a second sheet says what it rests on")
    return said


def given_headline(desk: Desk, report: Report) -> list[str]:
    """The generated headline of a report's current sheet."""
    plain = report.model_copy(update={"headline": None, "export": report.export.model_copy(update={"headline": True})})
    return list(handover(desk, plain, True).headline)
