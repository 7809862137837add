"""Reads a sentence: the report, which words produced which part of it, and which words were not understood."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, NamedTuple

from pydantic import ValidationError

from kalendor.definitions.axis import CategoryEntry
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError
from kalendor.sentence.assembling import Assembling
from kalendor.sentence.chart import UNKNOWN, Chart, Mark, Unfit
from kalendor.sentence.grammar import grammar
from kalendor.sentence.lexicon import UNKNOWN_COST, Lexicon
from kalendor.sentence.meanings import functions
from kalendor.sentence.names import Names

PASSED = frozenset(",;.!?:")
JOINING = frozenset(("and", "with", "but", "plus", "also", "then", "&", "showing"))
JOINING_PAIRS = frozenset((("and", "then"), ("and", "also"), ("but", "also"), ("and", "with")))
CLAUSE_COST, JOINING_COST, LEFT_COST, BARE_COST = 0.05, 0.01, UNKNOWN_COST + 1, 0.03
WITH_COST = 0.04  # *with last year* is a clause of its own before it is a window that is joined
KEPT, TRIED = 10, 24
PARTS_OF_A_SENTENCE = ("down", "across", "figures", "only", "keep", "window", "totals", "columns", "lines", "beside", "controls",
                       "silenced", "layout", "records", "out_of_sight")  # fmt: skip
"""The keys of a report that a sentence speaks of; its as-of date stays where none is said."""


@dataclass(frozen=True)
class Heard:
    """Words of the text, by character range, and the tone of what they became: "figure", "tree", "period", "bucket",
    "condition", "unknown"; empty for joining words."""

    start: int
    end: int
    tone: str


@dataclass(frozen=True)
class Read:
    """A reading: the report, its words, and those that were not understood, with a reason if there is more to say."""

    report: Report | None
    heard: Sequence[Heard]
    unknown: Sequence[str]
    why: str = ""

    @property
    def whole(self) -> bool:
        """Whether every word was understood."""
        return self.report is not None and not self.unknown


class _Path(NamedTuple):
    """A path through the text up to a token: its cost, the path before it, and the clause that it took last with its
    marks (none for a skipped word)."""

    cost: float
    before: "_Path | None" = None
    clause: Any = None
    marks: tuple[Mark, ...] = ()

    def steps(self) -> list["_Path"]:
        """The paths that it continues, and itself, without the beginning."""
        found: list[_Path] = []
        step: _Path | None = self
        while step is not None and step.before is not None:
            found.append(step)
            step = step.before
        return found[::-1]


def read(text: str, names: Names, as_of: date, base: Mapping[str, Any] | None = None, add: bool = False) -> Read:
    """The best reading of a text over a dictionary.

    `base` is a report document whose other parts are kept (its title, source, notes, …); with `add`, the text is added
    to its sentence. Words that cannot be used are reported, never ignored.
    """
    lexicon = Lexicon(text, names)
    if not any(word not in PASSED for word in lexicon.words):
        return Read(None, (), (), "the sentence is empty")
    paths = _paths(lexicon, names, as_of)
    best: Read | None = None
    lacking: Read | None = None
    for path in paths:
        found = _read(path, lexicon, names, base or {}, add)
        if found.whole and found.report is not None:
            lacks = not add and _lacks_its_figure(found.report, path, names)
            if not lacks and (lacking is None or _has_its_lines_after(path) or _lists(lacking.report, names, 1)):
                return found
            lacking = lacking or found
        if best is None or (found.report is not None and best.report is None):
            best = found
    return lacking or best or Read(None, (), ())


def _lacks_its_figure(report: Report, path: _Path, names: Names) -> bool:
    """Whether records are counted because no figure was read, although a column of numbers is in a list of lines or
    columns: *a column for each quarter, net by area* is about net, if it can be read so."""
    said = any({"figures", "about"} & step.clause.keys() for step in path.steps() if isinstance(step.clause, Mapping))
    return _lists(report, names, 1) or (not said and _lists(report, names))


def _lists(report: Report | None, names: Names, places: int = 0) -> bool:
    """Whether a column of numbers, of so many decimal places at least, is in a list of lines or columns. With places it is
    an amount: *by area, net and cost* are two of them, by area."""
    lists = [] if report is None else [report.down, report.across]
    entries = [entry for one in lists if len(one) > 1 for entry in one if isinstance(entry, CategoryEntry)]
    columns = [names.columns[e.category] for e in entries if e.category in names.columns]
    return any(column.kind == "number" and column.places >= places for column in columns)


def _has_its_lines_after(path: _Path) -> bool:
    """Whether lines or columns come after a figure, as in *net by area*: one that comes last may not be a figure at
    all."""
    clauses = [step.clause for step in path.steps() if isinstance(step.clause, Mapping)]
    first = next((n for n, clause in enumerate(clauses) if "figures" in clause), len(clauses))
    return any("down" in clause or "across" in clause for clause in clauses[first + 1 :])


def _paths(lexicon: Lexicon, names: Names, as_of: date) -> list[_Path]:
    """The paths through a text, cheapest first."""
    chart = Chart(grammar(), lexicon, functions(names, as_of))
    size = len(lexicon)
    at: list[list[_Path]] = [[] for _ in range(size + 1)]
    at[0] = [_Path(0.0)]
    for i in range(size):
        here = at[i] = sorted(at[i], key=_cost)[:KEPT]
        if not here:
            continue
        word = lexicon.words[i]
        bare = i > 0 and lexicon.words[i - 1] not in PASSED
        clauses = [(r, CLAUSE_COST + (BARE_COST if bare else 0.0)) for r in chart.readings("clause", i)]
        if word in JOINING:
            joined = WITH_COST if word == "with" else JOINING_COST
            last = i + 1 if tuple(lexicon.words[i : i + 2]) in JOINING_PAIRS else i
            clauses += [(r, CLAUSE_COST + joined) for r in chart.readings("clause", last + 1)]
        for path in here:
            for (end, meaning, cost, marks), more in clauses:
                at[end].append(_Path(path.cost + cost + more, path, meaning, marks))
        at[i + 1] += (
            here if word in PASSED else [_Path(p.cost + LEFT_COST, p, None, ((i, i + 1, UNKNOWN),)) for p in here]
        )
    return sorted(at[size], key=_cost)[:TRIED]


def _cost(path: _Path) -> float:
    return path.cost


def _read(path: _Path, lexicon: Lexicon, names: Names, base: Mapping[str, Any], add: bool) -> Read:
    tokens = lexicon.tokens
    steps = path.steps()
    heard = [Heard(tokens[a].start, tokens[b - 1].end, tone) for step in steps for a, b, tone in step.marks]
    unknown = [lexicon.text[h.start : h.end] for h in heard if h.tone == UNKNOWN]
    understood = [s.clause for s in steps if s.clause is not None and not _speaks_of_unknown(s.clause)]
    try:
        making = Assembling(names, base if add else {})
        making.take(understood)
        kept = {k: v for k, v in base.items() if add or k not in PARTS_OF_A_SENTENCE}
        report = Report.model_validate({"kalendor": 1, "title": "Report", "source": "data", **kept, **making.done()})
        return Read(report, heard, unknown)
    except ValidationError as error:
        return Read(None, heard, unknown or [lexicon.text], str(error.errors()[0]["msg"]))
    except (Unfit, DefinitionError) as error:
        return Read(None, heard, unknown or [lexicon.text], str(error))


def _speaks_of_unknown(meaning: Any) -> bool:
    if isinstance(meaning, dict):
        return "unknown" in meaning or any(_speaks_of_unknown(value) for value in meaning.values())
    return isinstance(meaning, (list, tuple)) and any(_speaks_of_unknown(value) for value in meaning)
