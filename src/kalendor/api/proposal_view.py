"""A proposed report drawn small: its first lines, and how many more there are."""

import numpy as np

from kalendor.api import models
from kalendor.core.sheet.arrange import GRAND, LEAF
from kalendor.desk.proposals import Proposal
from kalendor.output.shown import shown_cells

LINES, COLUMNS = 4, 4


def proposal_view(found: Proposal) -> models.ProposalView:
    """The first few lines and the total, in the last few columns."""
    sheet = found.sheet
    shown = list(zip(sheet.lines.shown.lines.tolist(), sheet.lines.shown.roles, sheet.lines.row_labels(), strict=True))
    leaves = [(line, label) for line, role, label in shown if role == LEAF]
    lines = [*leaves[:LINES], *((line, label) for line, role, label in shown if role == GRAND)]
    places = [(h, f) for h in sheet.heads() for f in range(len(sheet.figures))][-COLUMNS:]
    width = sheet.columns.count
    cells = [
        [shown_cells(sheet.figures[f], np.array([line * width + head.at]))[0] for head, f in places]
        for line, _ in lines
    ]
    alone = len(sheet.figures) == 1
    headings = [(head.labels[-1] if alone and head.labels else sheet.figures[f].name) for head, f in places]
    return models.ProposalView(
        document=found.report,
        headings=headings,
        labels=[label for _, label in lines],
        cells=cells,
        more=max(0, len(leaves) - LINES),
    )
