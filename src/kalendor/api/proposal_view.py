"""Builds the small preview of a proposed report: its first lines, and how many more there are."""

import numpy as np

from kalendor.api import models
from kalendor.core.sheet.arrange import GRAND
from kalendor.desk.proposals import Proposal
from kalendor.output.shown import shown_cells
from kalendor.sentence.names import Names
from kalendor.sentence.writing import sentence

LINES, COLUMNS = 4, 4


def proposal_view(found: Proposal, known: Names) -> models.ProposalView:
    """The first few lines of the outermost level and the total, in the last few columns."""
    sheet = found.sheet
    shown = list(zip(sheet.lines.shown.lines.tolist(), sheet.lines.shown.roles, sheet.lines.row_labels(), strict=True))
    outer = list(dict.fromkeys(line for line, _, _ in shown if sheet.lines.depth[line] == 1))
    leaves = [(line, sheet.lines.heading(line)) for line in outer]
    lines = [*leaves[:LINES], *((line, label) for line, role, label in shown if role == GRAND)]
    places = [(h, f) for h in sheet.heads() for f in range(len(sheet.figures))][-COLUMNS:]
    width = sheet.columns.count
    cells = [
        [shown_cells(sheet.figures[f], np.array([line * width + head.at]))[0] for head, f in places]
        for line, _ in lines
    ]
    alone = len(sheet.figures) == 1
    figures = ["" if alone and head.labels else sheet.figures[f].name for head, f in places]
    headings = [" ".join([*head.labels[-1:], name]).strip() for (head, _), name in zip(places, figures, strict=True)]
    return models.ProposalView(
        document=found.report,
        sentence=sentence(found.report, known),
        headings=headings,
        labels=[label for _, label in lines],
        cells=cells,
        more=max(0, len(leaves) - LINES),
    )
