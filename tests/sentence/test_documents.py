"""The documentation's examples of sentences are correct."""

import re
from pathlib import Path

import pytest

from kalendor.sentence.dictionary import with_report
from kalendor.sentence.writing import brief
from tests.sentence.build import heard, orders

PAGE = (Path(__file__).parents[2] / "docs" / "reference" / "sentence.md").read_text()
ROWS = re.findall(r"^\| (?!typed|---)(.+?) \| (.+?) \|$", PAGE, re.MULTILINE)


@pytest.mark.parametrize(("typed", "wanted"), ROWS, ids=[typed for typed, _ in ROWS])
def test_a_sentence_of_the_documents_is_read_as_they_say(typed: str, wanted: str) -> None:
    found = heard(typed)
    assert found.whole, (found.unknown, found.why)
    assert found.report is not None
    assert brief(found.report, with_report(orders()[2], found.report)) == wanted


def test_the_documents_have_rows() -> None:
    assert len(ROWS) > 30


def test_the_full_form_of_the_documents_is_understood() -> None:
    (written,) = re.findall(r'^    ("Fare".+)$', PAGE, re.MULTILINE)
    assert heard(written).whole
