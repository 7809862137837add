"""The input of a writer: a sheet with its texts, and the export options."""

from collections.abc import Callable
from dataclasses import dataclass, field

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.trail import Trail
from kalendor.core.values.notation import NOTATION, Notation
from kalendor.definitions.export import Export
from kalendor.definitions.report import Report
from kalendor.errors import KalendorError
from kalendor.output.headline.headline import Headline, headline
from kalendor.output.moves import Moved
from kalendor.output.told import sentences
from kalendor.sentence.writing import brief


@dataclass(frozen=True)
class Cover:
    """The first page of several reports exported as one: their title, the organisation (name, mark, accent colour), and
    what changed since their previous editions."""

    title: str
    organisation: str = ""
    accent: str = ""
    mark: bytes = b""
    kind: str = ""
    moves: tuple[Moved, ...] = ()


@dataclass(frozen=True, eq=False)
class Handover:
    """A sheet to be written: `brief` is its definition in words, `headline` the sentences above it and `short` their
    one-line form, `told` the explanation of each figure's grand total, by the figure's name; `edition` describes the
    edition, if it is one; `report` is the definition, None if only the sheet is known; `notation` is used for words and
    numbers; `organisation` is printed at the head of each page."""

    sheet: Sheet
    export: Export = field(default_factory=Export)
    brief: str = ""
    headline: tuple[str, ...] = ()
    told: tuple[tuple[str, tuple[str, ...]], ...] = ()
    edition: str = ""
    report: Report | None = None
    short: str = ""
    notation: Notation = field(default_factory=NOTATION.get)
    organisation: str = ""


def handed(report: Report, sheet: Sheet, trace: Callable[[Cell], Trail]) -> Handover:
    """A report's sheet with all its texts; `trace` finds the trail of a cell."""
    over = heading_of(report, sheet, trace) if report.export.headline else Headline()
    told = tuple((figure.name, tuple(_told(figure.name, trace))) for figure in sheet.figures)
    return Handover(sheet, report.export, brief(report), over.sentences, told, report=report, short=over.short)


def heading_of(report: Report, sheet: Sheet, trace: Callable[[Cell], Trail]) -> Headline:
    """The texts above a sheet: the analyst's own sentences if there are any, the first of which is the short form, else
    the generated ones."""
    if report.headline is not None:
        own = report.headline.sentences
        return Headline(tuple(own), own[0] if own else "")
    return headline(report, sheet, trace)


def _told(figure: str, trace: Callable[[Cell], Trail]) -> list[str]:
    try:
        return sentences(trace(Cell(figure, 0, 0)))
    except KalendorError:
        return []
