"""Sentences of the workspace: a source's dictionary, a report's wording, and what a typed text would change."""

import difflib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np

from kalendor.core.values.keys import key
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.records import complete
from kalendor.desk.sheets import all_groupings
from kalendor.sentence.chart import UNKNOWN
from kalendor.sentence.dictionary import dictionary, with_report
from kalendor.sentence.names import Names, names
from kalendor.sentence.nearest import Named, completions, nearest
from kalendor.sentence.reading import Heard, read
from kalendor.sentence.writer import document
from kalendor.sentence.writing import Piece, say, sentence, title

State = Literal["stays", "comes", "goes"]
Phrase = tuple[str, Piece]  # including the words that join it to the previous one
KINDS = ("figure", "down", "across", "window", "only", "keep")


@dataclass(frozen=True)
class Shown:
    """A report's sentence in pieces as shown on a screen, with the full wording of each phrase."""

    pieces: Sequence[Piece]
    full: Sequence[str]


@dataclass(frozen=True)
class Worded(Shown):
    """The same, with the text that one would type."""

    typed: str


@dataclass(frozen=True)
class Marked:
    """A piece of the proposed sentence, or one that it removes."""

    text: str
    tone: str
    state: State


@dataclass(frozen=True)
class Near:
    """A name similar to a word: what it names, and for a value how many records have it."""

    text: str
    what: str
    records: int | None = None


@dataclass(frozen=True)
class Unknown:
    """Words of the text that were not understood, by character range, with similar names."""

    start: int
    end: int
    text: str
    near: Sequence[Near]


@dataclass(frozen=True)
class Offer:
    """What a text would make of a report, added to it or replacing it. `document` is None if the text means nothing;
    `whole`: every word was understood."""

    way: Literal["add", "replace"]
    whole: bool
    document: Report | None
    pieces: Sequence[Marked]
    heard: Sequence[Heard]
    unknown: Sequence[Unknown]
    why: str


def known_names(desk: Desk, source: str, report: Report | None = None) -> Names:
    """The dictionary of a source; empty if there is no such source."""
    found = desk.sources.named(source)
    if found is None:
        return names([], {})
    with desk.workspace.snapshot():
        whole, groupings = complete(desk, found), all_groupings(desk)
        documents = [*groupings.trees.values(), *groupings.calendars.values(), *groupings.bucket_sets.values()]
        stamp = key("names", whole.stamp, [one.digest for one in documents])
        with desk.naming[found.id]:
            kept = desk.dictionaries.get(found.id)
            if kept is None or kept[0] != stamp:
                kept = stamp, dictionary(whole.records, groupings, found.name)
                desk.dictionaries[found.id] = kept
    return kept[1] if report is None else with_report(kept[1], report)


def shown(desk: Desk, report: Report) -> Shown:
    """A report's sentence as shown on a screen."""
    known = known_names(desk, report.source, report)
    pieces, full = sentence(report, known), sentence(report, known, short=False)
    phrases = iter([piece.text for piece in full if piece.kind])
    return Shown(pieces, [next(phrases) if piece.kind else "" for piece in pieces])


def worded(desk: Desk, report: Report) -> Worded:
    """A report's sentence with the text to type: the shown text if it reads back as the same report."""
    here = shown(desk, report)
    known = known_names(desk, report.source, report)
    words = "".join(piece.text for piece in here.pieces)
    back = read(words, known, desk.today(), document(report))
    return Worded(here.pieces, here.full, words if back.report == report else say(report, known))


def offers(desk: Desk, text: str, source: str, report: Report | None) -> list[Offer]:
    """What a text would make of a report over a source: first added to it, then replacing it."""
    known = known_names(desk, source, report)
    base: dict[str, Any] = {"source": source} if report is None else document(report)
    before = sentence(report, known) if report else []
    placed = _Nearest(desk, source, known)
    found = []
    for way in ("add", "replace") if report else ("replace",):
        reading = read(text, known, desk.today(), base, add=way == "add")
        if report is None and reading.report:
            reading = replace(reading, report=reading.report.model_copy(update={"title": title(reading.report, known)}))
        after = sentence(reading.report, known) if reading.report else []
        found.append(
            Offer(
                way,
                reading.whole,
                reading.report,
                list(_marked(before, after)) if reading.report else [],
                reading.heard,
                [placed(text, heard) for heard in reading.heard if heard.tone == UNKNOWN],
                reading.why,
            )
        )
    return found


def completed(desk: Desk, text: str, source: str, report: Report | None) -> list[str]:
    """Completions of the last word of a text."""
    begun = text.rpartition(" ")[2].rpartition(",")[2]
    return completions(begun, known_names(desk, source, report)) if len(begun) > 1 else []


def _marked(before: Sequence[Piece], after: Sequence[Piece]) -> Iterator[Marked]:
    """The proposed sentence, with removed pieces in place; joining words have the state of the phrase after them."""
    was, will = _phrases(before), _phrases(after)
    kinds = dict.fromkeys([*KINDS, *(piece.kind for _, piece in (*was, *will))])
    for kind in kinds:
        old, new = ([one for one in side if one[1].kind == kind] for side in (was, will))
        yield from _of_one_kind(old, new) if before else _as_it_is(new, "stays")
    yield Marked(".", "", "stays")


def _of_one_kind(old: Sequence[Phrase], new: Sequence[Phrase]) -> Iterator[Marked]:
    texts = [[piece.text.casefold() for _, piece in side] for side in (old, new)]
    for step, a, b, c, d in difflib.SequenceMatcher(None, texts[0], texts[1], autojunk=False).get_opcodes():
        if step != "equal":
            for joint, piece in old[a:b]:
                yield from (Marked(joint, "", "goes"), Marked(piece.text, piece.tone, "goes"))
        yield from _as_it_is(new[c:d], "stays" if step == "equal" else "comes")


def _as_it_is(phrases: Sequence[Phrase], state: State) -> Iterator[Marked]:
    for joint, piece in phrases:
        yield from (Marked(joint, "", "stays"), Marked(piece.text, piece.tone, state))


def _phrases(pieces: Sequence[Piece]) -> list[Phrase]:
    """Each phrase with the words that join it to the previous one."""
    found, joint = [], ""
    for piece in pieces:
        if piece.kind:
            found.append((joint, piece))
            joint = ""
        else:
            joint += piece.text
    return found


class _Nearest:
    """Finds names similar to words that were not understood; each word is searched once."""

    def __init__(self, desk: Desk, source: str, known: Names) -> None:
        found = desk.sources.named(source)
        self._whole = complete(desk, found) if found else None
        self._linked = found is not None and desk.linked.of(found.id) is not None
        self._known = known
        self._found: dict[str, list[Near]] = {}

    def __call__(self, text: str, heard: Heard) -> Unknown:
        word = text[heard.start : heard.end]
        if word not in self._found:
            self._found[word] = [Near(one.text, one.what, self._records(one)) for one in nearest(word, self._known)]
        return Unknown(heard.start, heard.end, word, self._found[word])

    def _records(self, near: Named) -> int | None:
        """How many records have the similar value; None where only a specimen of the records is at hand."""
        if near.value is None or self._whole is None or self._linked:
            return None
        column = self._whole.records.columns[near.value[0]]
        codes = [n for n, word in enumerate(column.words) if word == near.value[1]]
        return int(np.isin(column.values[column.present], codes).sum())
