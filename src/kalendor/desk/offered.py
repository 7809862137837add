"""The phrases that could be added to a report over a source, given its current columns."""

import re
from collections.abc import Iterator

import numpy as np

from kalendor.core.values.columns import Kind, Records
from kalendor.core.values.keys import key
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.profile import Profile, profiles
from kalendor.desk.records import complete
from kalendor.desk.sentences import known_names
from kalendor.sentence.offers.every import matching, phrases
from kalendor.sentence.offers.phrase import Phrase, Subject
from kalendor.sentence.writer import document

FEW_VALUES, FEW_NUMBERS = 16, 50
_TELLS_WHICH = re.compile(r"\d+|top|fis|\b(?:mon|tue|wed|thu|fri|sat|sun)", re.IGNORECASE)


def offered(desk: Desk, report: Report, typed: str) -> list[Phrase]:
    """The phrases that match a typed text, the best first; all of them for an empty text. None if there is no such
    source."""
    found = desk.sources.named(report.source)
    if found is None:
        return []
    with desk.workspace.snapshot():
        whole = complete(desk, found)
        known = known_names(desk, report.source, report)
        sources = [source.name for source in desk.sources.all()]
    columns = desk.memory(key("subjects", whole.stamp), lambda: list(_subjects(whole.records)))
    which = " ".join(_TELLS_WHICH.findall(typed))
    under = key("phrases", whole.stamp, known.calendars, list(known.trees), document(report), sources, which)
    return matching(desk.memory(under, lambda: phrases(known, report, columns, sources, which)), typed)


def _subjects(records: Records) -> Iterator[Subject]:
    for profile in profiles(records):
        values = _few(records, profile) if profile.role == "category" and profile.kind == Kind.TEXT else []
        clock, blank = profile.kind == Kind.DATETIME, profile.blank > 0
        yield Subject(profile.name, profile.role, profile.summary, clock, _groups(profile), blank, values, profile.cut)


def _groups(profile: Profile) -> bool:
    """Whether a column as it is gives few enough lines to be read; of numbers only whole ones with few values do."""
    if profile.role == "number":
        return profile.kind == Kind.WHOLE and profile.different <= FEW_NUMBERS
    return not profile.warning.startswith("a code")


def _few(records: Records, profile: Profile) -> list[str]:
    """The values of a column, if it has few."""
    if profile.different > FEW_VALUES:
        return []
    column = records.columns[profile.name]
    return [str(column.words[n]) for n in np.unique(column.values[column.present]).tolist()]
