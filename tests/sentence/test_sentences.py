"""Sentences and the sheets that they ask for, from `cases/`."""

import json
from datetime import date
from functools import cache
from typing import Any

import pytest

from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.definitions.report import Report
from kalendor.output.delimited import flat_delimited
from kalendor.output.handover import Handover
from tests.core.build import report
from tests.sentence.build import CASES, heard, orders

SENTENCES: list[dict[str, Any]] = json.loads((CASES / "sentences.json").read_text())
AS_OF = "2026-07-31"


@cache
def material() -> Material:
    records, found, _ = orders()
    return Material(records, found, {}, 0)


def rows(asked: Report) -> list[bytes]:

    sheet = work_out(asked, material(), date.fromisoformat(AS_OF), date.fromisoformat(AS_OF))
    return flat_delimited(Handover(sheet)).splitlines()[1:]


@pytest.mark.parametrize("case", SENTENCES, ids=lambda case: case["text"])
def test_a_sentence_gives_the_sheet_that_it_means(case: dict[str, Any]) -> None:
    found = heard(case["text"])
    if "names" in case:
        assert case["names"] in found.unknown
        assert not found.whole
        return
    assert found.whole, (found.unknown, found.why)
    assert found.report is not None
    got = rows(found.report)
    assert any(
        rows(report(**{k: v for k, v in one.items() if k not in ("kalendor", "kind")})) == got for one in case["means"]
    )
