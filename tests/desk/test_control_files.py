"""Control totals from a file."""

import pytest

from kalendor.desk.control_files import controls_from_file
from kalendor.errors import IntakeError


@pytest.mark.parametrize(
    "text",
    [
        "Figure,Expected\nNet fare,1250.50\nTickets,12\n",
        "name;expected total\nNet fare;1.250,50\nTickets;12,00\n",
        "Checked by the ledger\n\nfigure,amount\nNet fare,\"£1,250.50\"\nTickets,12.00\n",
    ],
)  # fmt: skip
def test_totals_are_read_however_they_are_written(text: str) -> None:
    found = [(c.figure, float(c.expect)) for c in controls_from_file("t.csv", text.encode())]
    assert found == [("Net fare", 1250.5), ("Tickets", 12.0)]


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("a,expected\nx,1\n", "no column 'figure'; it has a, expected"),
        ("figure,b\nx,1\n", "no column 'expected'"),
        ("figure,expected\nx,one\ny,two\n", "no numbers"),
        ("figure,expected\nx,1\n,2\n", "line 3: a total needs a figure and an amount"),
        ("figure,expected\n" + "x,1\n" * 20 + "y,many\n", "line 22: expected: 'many' is not a whole number"),
    ],
)
def test_a_file_of_totals_that_is_not_right_says_where(text: str, word: str) -> None:
    with pytest.raises(IntakeError, match=word):
        controls_from_file("t.csv", text.encode())
