"""A report as its sentence, in pieces; short as shown on a screen, or in full so that it reads back."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from kalendor.definitions.report import Report
from kalendor.sentence.backwards import MOST_SHOWN, Json
from kalendor.sentence.names import Names
from kalendor.sentence.naming import capital
from kalendor.sentence.parts import core_of, references
from kalendor.sentence.writer import Writer


@dataclass(frozen=True)
class Piece:
    """Some words of a sentence. A phrase says which part of the report it expresses: `kind`, and `index` in the
    report's list of that kind; joining words have no kind. `tone` is its colour."""

    text: str
    kind: str = ""
    index: int = 0
    tone: str = ""


def say(report: Report, known: Names | None = None) -> str:
    """The report as a sentence in full, which reads back as the same report over the same source."""
    return "".join(piece.text for piece in sentence(report, known, short=False))


def brief(report: Report, known: Names | None = None) -> str:
    """The report as a sentence as shown on a screen."""
    return "".join(piece.text for piece in sentence(report, known))


def title(report: Report, known: Names | None = None) -> str:
    """The default title of a report: its first figure by its outermost lines or columns."""
    writer = Writer(report, known, short=True)
    figure = next(
        (words for words, one in zip(writer.figures(), report.figures, strict=True) if not one.hide), "Records"
    )
    entries = [*writer.report.get("down", ()), *writer.report.get("across", ())]
    plain = core_of(entries[0]) if entries else None
    return capital(figure) + (f" by {writer.entry(plain)}" if plain else "")


def condition_words(sql: str) -> str:
    """A condition in words, as shown on a screen.

    >>> condition_words("status IN ('sailed', 'late') AND net > 0")
    'status is sailed or late and net is over 0'
    """
    return any_writer().condition(sql)


def any_writer() -> "Writer":
    """A writer of the short form without a report."""
    return Writer(ANY_REPORT, short=True)


def sentence(report: Report, known: Names | None = None, short: bool = True) -> list[Piece]:
    """The report's sentence in pieces, in order; joined they are the text."""
    writer = Writer(report, known, short)
    pieces: list[Piece] = []
    for n, words in enumerate(writer.figures()):
        if n:
            pieces.append(Piece(_before_figure(report, n) if short else ", "))
        pieces.append(Piece(capital(words) if short and n == 0 else words, "figure", n, "figure"))
    for way in ("down", "across"):
        entries = writer.report.get(way, ())
        for n, entry in enumerate(entries):
            pieces.append(Piece(" then " if n else f", {way} by "))
            pieces.append(Piece(writer.entry(entry, n == len(entries) - 1), way, n, tone_of(entry)))
            writer.date = entry.get("period", writer.date)
    pieces += _more(writer)
    pieces.append(Piece("."))
    return [piece for piece in pieces if piece.text]


def _before_figure(report: Report, n: int) -> str:
    derived = any(getattr(report.figures[n], key, None) is not None for key in references())
    return " with " if n == 1 and derived else " and " if n == len(report.figures) - 1 else ", "


def tone_of(entry: Json) -> str:
    """The colour of an axis entry's phrase."""
    return "tree" if "category" in entry else "period" if "period" in entry else "bucket"


def _more(writer: Writer) -> Iterator[Piece]:
    """The part of a sentence after its figures, lines and columns."""
    report = writer.report
    if "window" in report:
        words = writer.write("window", report["window"])
        yield Piece(", " if words.startswith(("from ", "until ")) else ", for ")
        yield Piece(words, "window", 0, "period")
    for n, condition in enumerate(report.get("only", ())):
        yield Piece(", and where " if n else ", only where ")
        yield Piece(writer.condition(condition), "only", n, "condition")
    for n, keep in enumerate(report.get("keep", ())):
        yield Piece(", keep ")
        yield Piece(
            f"{writer.level(keep['level'])} where {writer.condition(keep['where'], of_lines=True)}",
            "keep",
            n,
            "condition",
        )
    for kind, index, category, value in _clauses(report, writer.short):
        yield Piece(", ")
        yield Piece(writer.write(category, value) if category else value, kind, index, "condition")


def _clauses(report: Json, short: bool) -> Iterator[tuple[str, int, str, Any]]:
    """The other clauses: their kind and position in the report, and the grammar's text for them."""
    totals = dict(report.get("totals", {}))
    levels = totals.pop("levels", {})
    if all(totals.get(side) == "none" for side in ("down", "across", "grand_down", "grand_across")):
        yield (
            "totals",
            0,
            "totals",
            {side: totals.pop(side) for side in ("down", "across", "grand_down", "grand_across")},
        )
    for key, value in totals.items():
        yield "totals", 0, "totals", {key: value}
    for level, place in levels.items():
        yield "totals", 0, "totals", {"levels": {level: place}}
    for n, beside in enumerate(report.get("beside", ())):
        yield "beside", n, "clause", {"beside": [beside]}
    for n, column in enumerate(report.get("columns", ())):
        yield "columns", n, "clause", {"columns": [column]}
    for n, line in enumerate(report.get("lines", ())):
        yield "lines", n, "clause", {"lines": [line]}
    for n, control in enumerate(report.get("controls", ())):
        yield "controls", n, "clause", {"controls": [control]}
    if report.get("records") is not None:
        yield "records", 0, "clause", {"records": report["records"]}
    if parts := list(_layout(report.get("layout", {}))):
        yield "layout", 0, "clause", {"layout": parts}
    for key, kind in (("hidden_lines", "lines"), ("hidden_columns", "columns")):
        paths = report.get("out_of_sight", {}).get(kind, ())
        if short and len(paths) > MOST_SHOWN:
            yield "sight", 0, "", f"{len(paths)} {kind} out of sight"
            continue
        for path in paths:
            yield "sight", 0, "clause", {key: [path]}
    if "as_of" in report and not short:
        yield "as_of", 0, "clause", {"as_of": report["as_of"]}
    for n, silenced in enumerate(report.get("silenced", ())):
        yield "silenced", n, "clause", {"silenced": [silenced]}


def _layout(layout: Json) -> Iterator[Json]:
    for key in ("lines", "labels", "grand"):
        if key in layout:
            yield {key: layout[key]}
    for level, look in layout.get("levels", {}).items():
        for key, value in look.items():
            yield {"levels": {level: {key: value}}}
        if not look:
            yield {"levels": {level: {}}}
    for name, width in layout.get("widths", {}).items():
        yield {"widths": {name: width}}


ANY_REPORT = Report.model_validate({"title": "any", "source": "any", "figures": [{"name": "n", "take": "count"}]})
