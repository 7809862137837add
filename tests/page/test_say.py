"""A sentence being typed: its words in the tones of what they became."""

from typing import Any

import pytest

from tests.page.conftest import Asked

FIGURE, UNKNOWN = {"start": 0, "end": 3, "tone": "figure"}, {"start": 7, "end": 14, "tone": "unknown"}


@pytest.mark.parametrize(
    ("heard", "want"),
    [
        ([], [["net by refunds, x", ""]]),
        ([FIGURE, UNKNOWN], [["net", "figure"], [" by ", ""], ["refunds", "unknown"], [", x", ""]]),
        ([UNKNOWN, {"start": 4, "end": 17, "tone": "condition"}], [["net ", ""], ["by ", "condition"], ["refunds", "unknown"], [", x", "condition"]]),
        ([{"start": 15, "end": 40, "tone": "tree"}], [["net by refunds,", ""], [" x", "tree"]]),
    ],
)  # fmt: skip
def test_words_take_the_tone_of_what_they_became(
    asked: Asked, heard: list[dict[str, Any]], want: list[list[str]]
) -> None:
    assert asked("toned.toned", "net by refunds, x", heard) == want


def test_columns_of_a_condition_are_named_for_short(asked: Asked) -> None:
    assert (
        asked("sql.columnsOf", "fare = 'a by b' AND \"sold on\" IS NOT NULL OR UPPER(fare) = 'X'") == "fare and sold on"
    )
    assert asked("sql.quotedName", "order") == '"order"'
    assert asked("sql.quotedText", "it's") == "'it''s'"
