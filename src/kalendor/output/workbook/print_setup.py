"""How a worksheet prints: the page planner's paper, scale and cuts, with headings and labels repeated."""

from dataclasses import replace

import numpy as np
from xlsxwriter.worksheet import Worksheet

from kalendor.core.values.notation import noted_day
from kalendor.output.handover import Handover
from kalendor.output.paging.choices import paper_of
from kalendor.output.paging.needs import Needs, needs_of
from kalendor.output.paging.planner import PagePlan, planned
from kalendor.output.typeset import Typeset

PAPERS = {"a4": 9, "letter": 1}
MOST_LABEL = 34  # characters
TYPE = 10.0  # points of the cells' type before scaling
LETTER, BESIDE = 5.25, 3.75  # points: a character of a column's width, and a column's padding


def set_up(sheet: Worksheet, set_: Typeset, given: Handover, heads: int, top: int, left: int) -> None:
    """Set up the pages of a worksheet whose headings begin in row `heads`, its lines in row `top`, its figures in
    column `left`."""
    plan = plan_of(set_, given)
    if plan.across:
        sheet.set_landscape()
    sheet.set_paper(PAPERS[given.export.paper])
    sheet.set_print_scale(round(100 * plan.size / TYPE))
    sheet.set_v_pagebreaks([left + panel[0] for panel in plan.panels[1:]])
    sheet.repeat_rows(heads, top - 1)
    sheet.repeat_columns(0, max(0, left - 1))
    sheet.set_margins(left=0.5, right=0.5, top=0.6, bottom=0.7)
    safe = (given.sheet.title[:60] + (f", {given.edition}" if given.edition else "")).replace("&", "&&")[:160]
    sheet.set_footer(f"&L&8{safe}, as of {noted_day(given.sheet.as_of)}&R&8page &P of &N")
    if given.organisation:
        sheet.set_header("&L&8" + given.organisation.replace("&", "&&")[:160])
    breaks = [top + i for i, row in enumerate(set_.rows) if row.page]
    if breaks:
        sheet.set_h_pagebreaks(breaks)


def label_widths(set_: Typeset) -> list[int]:
    """The width of each column of labels in characters: longer labels wrap, so that they take at most a third of a
    page."""
    most = MOST_LABEL if len(set_.label_widths) == 1 else MOST_LABEL * 3 // 4
    return [min(most, width + 2) for width in set_.label_widths]


def plan_of(set_: Typeset, given: Handover) -> PagePlan:
    """The plan of a worksheet's pages, by the widths of its columns."""
    own = needs_of(set_, [set_.shown(column) for column in set_.columns])
    columns = tuple(
        replace(need, em=_em(column.width + 3), opens=False, empty=False, wraps=False)
        for need, column in zip(own.columns, set_.columns, strict=True)
    )
    needs = Needs(
        tuple(np.zeros((own.rows, 2)) for _ in own.labels), tuple(map(_em, label_widths(set_))), tuple(_em(width + 2) for width in set_.listed_widths),
        columns, own.names, own.spaced, own.begins, own.headings,
    )  # fmt: skip
    return planned(needs, paper_of(given.export), stacks=False)


def _em(letters: float) -> float:
    """The width of so many characters, in em."""
    return (letters * LETTER + BESIDE) / TYPE
