"""What a sheet is based on, as a worksheet: its definition in words, the tie-out, and how its totals were computed."""

from collections.abc import Iterator, Sequence

from xlsxwriter.worksheet import Worksheet

from kalendor.core.values.notation import noted_day
from kalendor.output.handover import Cover, Handover
from kalendor.output.shown import shown_total
from kalendor.output.workbook.styles import QUIET, Styles, quoted
from kalendor.output.workbook.values import DIGITS, too_long

Line = tuple[str, str | int]
NUMBERS = range(3, 7)  # columns of the table of changes


def write_about(sheet: Worksheet, styles: Styles, given: Handover) -> None:
    """The sheet's definition, tie-out and explanations, a line each."""
    sheet.set_column(0, 0, 34)
    sheet.set_column(1, 1, 100)
    sheet.hide_gridlines(2)
    sheet.set_landscape()
    sheet.fit_to_pages(1, 0)
    sheet.write_string(0, 0, given.sheet.title, styles.of(font_size=16, bold=True, **quoted(given.sheet.title)))
    row = 2
    for title, lines in _parts(given):
        if not lines:
            continue
        sheet.write_string(row, 0, title, styles.of(bold=True, font_size=11))
        row += 1
        for name, value in lines:
            sheet.write_string(row, 0, name, styles.of(font_color=QUIET, valign="top", **quoted(name)))
            if isinstance(value, int):
                sheet.write_number(row, 1, value, styles.of(num_format="#,##0", align="left"))
            else:
                sheet.write_string(row, 1, value, styles.of(text_wrap=True, valign="top", **quoted(value)))
            row += 1
        row += 1


def write_contents(sheet: Worksheet, styles: Styles, cover: Cover, pages: Sequence[tuple[Handover, str]]) -> None:
    """A first sheet: the organisation, and each report with a link to its own sheet and its headline."""
    sheet.set_column(0, 0, 40)
    sheet.set_column(1, 2, 20)
    sheet.set_column(3, 3, 70)
    sheet.hide_gridlines(2)
    sheet.write_string(0, 0, cover.title, styles.of(font_size=16, bold=True, **quoted(cover.title)))
    if cover.organisation:
        sheet.write_string(1, 0, cover.organisation, styles.of(font_color=QUIET, **quoted(cover.organisation)))
    for k, head in enumerate(("Report", "Source", "As of", "In a sentence")):
        sheet.write_string(3, k, head, styles.of(font_color=QUIET, bottom=1))
    for row, (given, name) in enumerate(pages, 4):
        link = "internal:'" + name.replace("'", "''") + "'!A1"
        lines = max(1, -(-len(given.short) // 76))
        sheet.set_row(row, 15 * lines)
        sheet.write_url(row, 0, link, styles.of(underline=1, font_color="#0D5A6A", valign="top"), given.sheet.title)
        sheet.write_string(
            row, 1, given.sheet.tie_out.source, styles.of(valign="top", **quoted(given.sheet.tie_out.source))
        )
        sheet.write_string(row, 2, noted_day(given.sheet.as_of), styles.of(valign="top"))
        sheet.write_string(row, 3, given.short, styles.of(text_wrap=True, valign="top", **quoted(given.short)))


def write_moves(sheet: Worksheet, styles: Styles, cover: Cover) -> None:
    """A sheet of the changes since the previous editions, a line a report."""
    sheet.hide_gridlines(2)
    for column, wide in enumerate((34, 30, 20, 16, 16, 16, 10, 34)):
        sheet.set_column(column, column, wide)
    sheet.write_string(0, 0, "What moved", styles.of(font_size=16, bold=True))
    heads = ("Report", "Figure", "Since", "Before", "Now", "Change", "In percent", "Moved most")
    for k, head in enumerate(heads):
        sheet.write_string(2, k, head, styles.of(font_color=QUIET, bottom=1, align="right" if k in NUMBERS else "left"))
    for row, one in enumerate(cover.moves, 3):
        texts = (one.title, one.figure, one.since, one.then, one.now, one.change, one.percent, one.line)
        for k, text in enumerate(texts):
            sheet.write_string(row, k, text, styles.of(align="right" if k in NUMBERS else "left", **quoted(text)))


def _parts(given: Handover) -> Iterator[tuple[str, list[Line]]]:
    sheet = given.sheet
    yield (
        "The report",
        [
            ("Source", sheet.tie_out.source),
            ("As of", noted_day(sheet.as_of)),
            ("What it shows", given.brief or sheet.title),
            *([("Edition", given.edition)] if given.edition else []),
        ],
    )
    yield "In short", [("", sentence) for sentence in given.headline]
    if not sheet.part_of:
        yield from _tied_out(given)
    yield "How the totals were come by", [(figure, " ".join(words)) for figure, words in given.told]
    yield "Notes", [("", note) for note in [*(n.text for n in sheet.footnotes), *sheet.notes, *_too_long(given)]]


def _tied_out(given: Handover) -> Iterator[tuple[str, list[Line]]]:
    sheet, tie = given.sheet, given.sheet.tie_out
    steps: list[Line] = [(f"Set aside: {step.why}", step.records) for step in tie.steps]
    yield "Where each record went", [
        ("Records read", tie.read - tie.by_hand), *([("Entered by hand", tie.by_hand)] if tie.by_hand else []), *steps, ("On the sheet", tie.on_sheet), ("of these not placed", tie.not_placed),
        ("of these with a blank key", tie.blank), ("Refused when imported", tie.refused),
        *([("Lines of separators alone", tie.empty)] if tie.empty else []),
    ]  # fmt: skip
    foots: list[Line] = [
        (f.figure, f"{shown_total(sheet, f)}: lines add up to subtotals and to this") for f in tie.footings
    ]
    controls: list[Line] = [
        (
            f"{c.figure}, expected total",
            f"{c.expected}: {'agrees' if c.agrees else f'does not agree, the sheet has {c.found}'}",
        )
        for c in tie.controls
    ]
    yield "Totals", [*foots, *controls]


def _too_long(given: Handover) -> list[str]:
    found = sum(too_long(figure.cells) for figure in given.sheet.figures)
    if not found:
        return []
    return [f"Numbers of more than {DIGITS} digits stand as text, for a workbook's numbers keep no more."]
