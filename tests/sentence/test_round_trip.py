"""Every definition has a sentence, and it reads back as that definition."""

import os
from contextlib import suppress
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings

from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.errors import KalendorError
from kalendor.sentence.dictionary import dictionary
from kalendor.sentence.reading import read
from kalendor.sentence.writing import brief, say
from tests.core.build import TODAY
from tests.core.test_any_report import DATA, GROUPINGS
from tests.sentence.any_definition import definitions, hostile, renamed
from tests.sentence.build import compared

EXAMPLES = int(os.environ.get("KALENDOR_SENTENCES", "250"))
ORDINARY, HOSTILE = dictionary(DATA, GROUPINGS, "data"), dictionary(*hostile(), "data")
QUIET = [HealthCheck.too_slow, HealthCheck.data_too_large, HealthCheck.filter_too_much]


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
    known = ORDINARY if names == "ordinary" else HOSTILE
    report = drawn(document if names == "ordinary" else renamed(document))
    if report is None:
        return
    written = say(report, known)
    back = read(written, known, TODAY)
    assert not back.unknown, (written, back.unknown, back.why)
    assert back.report is not None
    assert compared(back.report) == compared(report), written
    assert brief(report, known)
