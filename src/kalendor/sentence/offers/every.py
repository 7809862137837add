"""Every phrase that could be added to a report, and those that match a typed text."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from kalendor.definitions.report import Report
from kalendor.sentence.names import Names
from kalendor.sentence.offers.of_columns import conditions, of_category, of_date, of_number, weighted
from kalendor.sentence.offers.of_report import from_figures, of_lines
from kalendor.sentence.offers.phrase import On, Phrase, Says, Subject
from kalendor.sentence.parts import level_names
from kalendor.sentence.writer import document

MOST, A_WORD = 60, 40


def phrases(
    known: Names, report: Report, columns: Sequence[Subject], sources: Sequence[str] = (), typed: str = ""
) -> list[Phrase]:
    """The phrases that could be added to a report, the best fit first; `sources` are those that could be set beside its
    own, and `typed` gives the numbers, weekdays and tops that are meant."""
    whole = document(report)
    found = [*_of_source(known, whole, columns, typed), *_beside(known, whole, sources)]
    return sorted(found, key=lambda phrase: -phrase.weight)


def _of_source(known: Names, report: Mapping[str, Any], columns: Sequence[Subject], typed: str) -> Iterator[Phrase]:
    says = Says(known, report)
    entries = [*report.get("down", ()), *report.get("across", ())]
    period = next((entry for entry in entries if "period" in entry), None)
    own = (period or report.get("window", {})).get("calendar")
    measure = report["figures"][0]["name"] if report["figures"] else ""
    if report["figures"]:
        yield from from_figures(says, report)
    yield from says.figure({"take": "count"}, "number how many rows", 54)
    for column in columns:
        if column.role == "period":
            yield from of_date(says, column, known.calendars, own, typed)
        elif column.role == "number":
            yield from of_number(says, column, typed)
        else:
            yield from _by_trees(says, column)
            yield from of_category(says, column, typed, measure)
        yield from conditions(says, column)
    yield from weighted(says, [column for column in columns if column.role == "number"])
    yield from of_lines(says, report, level_names({"down": report.get("down", ())}, known))


def _beside(known: Names, report: Mapping[str, Any], sources: Sequence[str]) -> Iterator[Phrase]:
    says = Says(known, report)
    there = {report["source"], *(beside["source"] for beside in report.get("beside", ()))}
    for source in sources:
        if source not in there:
            text = f"beside {says.name(source)} …"
            yield Phrase(text, "another source", "condition", "plan budget compare second", 8, begin={"beside": source})


def _by_trees(says: Says, column: Subject) -> Iterator[Phrase]:
    for tree, (_, levels) in says.known.trees.items():
        if column.groups:
            entry = {"category": column.name, "tree": tree}
            also = f"group hierarchy {' '.join(levels)}"
            yield from says.entry(entry, ("down",), also, 62, " › ".join(levels), On("tree", column.name, tree))


def matching(phrases_: Sequence[Phrase], typed: str) -> list[Phrase]:
    """The phrases that match every typed word, the best first."""
    words = typed.casefold().replace(",", " ").split()
    if not words:
        return list(phrases_[:MOST])
    found = []
    for phrase in phrases_:
        own, also = f" {phrase.text.casefold()}", f" {phrase.also.casefold()} {phrase.hint.casefold()}"
        answers = [_answers(own, also, word) for word in words]
        if all(answers):
            found.append((A_WORD * sum(answers) / len(answers) + phrase.weight, phrase))
    return [phrase for _, phrase in sorted(found, key=lambda pair: -pair[0])[:MOST]]


def _answers(own: str, also: str, word: str) -> int:
    """How well a phrase matches a word: as one of its own best, then of its everyday words; 0 not at all."""
    if f" {word} " in own or own.endswith(f" {word}"):
        return 4
    if f" {word}" in own:
        return 3
    return 2 if f" {word}" in also else int(word in own)
