"""Every definition has a sentence that reads back as the same definition."""

import os
from contextlib import suppress
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.errors import KalendorError
from kalendor.sentence.dictionary import dictionary, with_report
from kalendor.sentence.reading import read
from kalendor.sentence.writer import document as whole
from kalendor.sentence.writing import brief, say
from tests.core.build import TODAY
from tests.core.test_any_report import DATA, GROUPINGS
from tests.sentence.any_definition import definitions, hostile, renamed
from tests.sentence.build import compared

EXAMPLES = int(os.environ.get("KALENDOR_SENTENCES", "25"))
ORDINARY, HOSTILE = dictionary(DATA, GROUPINGS, "data"), dictionary(*hostile(), "data")
QUIET = [HealthCheck.too_slow, HealthCheck.data_too_large, HealthCheck.filter_too_much]
ADDED = [
    "median heads", "by kind", "across by year", "with a line \"Both\" of \"area\" = (1)", "laid out with a column for each level", "laid out with \"area\" in bold",
    "subtotals on top", "without a grand total", "expecting 12 for \"Records\"", "listing the records", "without the line \"North\"", "where heads is over 5",
    "with column \"twice\" = (heads * 2)", "disabled (only where heads is over 5)", "keep \"area\" where \"heads\" is over 2",
]  # fmt: skip


def drawn(document: dict[str, Any]) -> Report | None:
    with suppress(KalendorError):
        found = definition(document, "drawn")
        assert isinstance(found, Report)
        return found
    return None


@pytest.mark.parametrize("names", ["ordinary", "hostile"])
@settings(max_examples=EXAMPLES, deadline=None, suppress_health_check=QUIET)
@given(document=definitions())
def test_what_is_written_reads_back_as_the_same_definition(names: str, document: dict[str, Any]) -> None:
    source = ORDINARY if names == "ordinary" else HOSTILE
    report = drawn(document if names == "ordinary" else renamed(document))
    if report is None:
        return
    for known in (source, with_report(source, report)):
        written = say(report, known)
        back = read(written, known, TODAY)
        assert not back.unknown, (written, back.unknown, back.why)
        assert back.report is not None
        assert compared(back.report) == compared(report), written
        assert brief(report, known)


@settings(max_examples=EXAMPLES // 2, deadline=None, suppress_health_check=QUIET)
@given(document=definitions(), phrase=st.sampled_from(ADDED))
def test_what_is_added_changes_nothing_else(document: dict[str, Any], phrase: str) -> None:
    report = drawn(document)
    if report is None:
        return
    base, known = whole(report), with_report(ORDINARY, report)
    again = read(say(report, known), known, TODAY, base, add=True)
    assert again.report is not None
    assert compared(again.report) == compared(report)
    more = read(phrase, known, TODAY, base, add=True)
    if not more.whole:
        return  # it does not fit: a calendar that cannot cut so, an order of no lines
    assert more.report is not None
    assert _without_what_came(compared(more.report), compared(report)) == compared(report), phrase


def _without_what_came(new: Any, old: Any) -> Any:
    """A document without keys that older ones lack, at any depth; one position of totals may differ."""
    if isinstance(new, dict) and isinstance(old, dict):
        places = {"down", "grand_down"} if isinstance(old.get("down", ""), str) else set()
        return {
            key: old[key] if key in places else _without_what_came(value, old[key])
            for key, value in new.items()
            if key in old
        }
    if isinstance(new, list) and isinstance(old, list):
        return [_without_what_came(one, was) for one, was in zip(new, old, strict=False)]
    return new
