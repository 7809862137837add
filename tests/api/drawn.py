"""Strategies for the state machine of a running server: files, report phrases, and ways to join files."""

from datetime import date
from typing import Any

from hypothesis import strategies as st

NAMES = ("Sales", "Costs", "Third")
KINDS = ("kx", "ky", "kz", "North")
rows = st.lists(
    st.tuples(st.sampled_from([*KINDS, ""]), st.integers(0, 500), st.integers(-999, 9999), st.sampled_from("abcd")),
    min_size=1,
    max_size=8,
)
joins = st.sampled_from([("add", []), ("replace_all", []), ("replace_dates", ["day"]), ("update", ["key"])])
conditions = st.sampled_from(
    ["kind = 'kx'", "kind <> 'ky'", "kind IS NULL", "key IN ('a', 'b')", "\"day\" >= DATE '2025-09-01'"]
)
entries = st.sampled_from(
    [
        {"category": "kind"},
        {"category": "key", "order": {"by": "n", "desc": True}},
        {"category": "kind", "tree": "Kinds"},
        {"period": "day", "grains": ["month"]},
        {"period": "day", "grains": ["year"]},
        {"bucket": "amount", "cut": [0, 20]},
        {"age": "day", "cut": [0, 90]},
        {"category": "key", "top": 2, "by": "sum"},
    ]
)
figures = st.one_of(
    st.builds(lambda where: {"take": "sum", "of": "amount", "where": where}, conditions),
    st.builds(lambda where: {"take": "count", "where": where}, conditions),
    st.sampled_from(
        [
            {"take": "median", "of": "amount"}, {"take": "distinct", "of": "key"}, {"take": "distinct", "of": "at"}, {"take": "last", "of": "amount", "by": "day"},
            {"formula": "sum / n"}, {"share": "sum"}, {"rank": "sum"}, {"take": "stdev", "of": "amount", "where": "kind = 'kx'"},
        ]
    ),
)  # fmt: skip
TREE: dict[str, Any] = {"kalendor": 1, "kind": "tree", "name": "Kinds", "levels": ["Side", "Kind"], "roots": []}


def as_file(found: list[tuple[str, int, int, str]]) -> bytes:
    """An export whose times have fractions of a second; its amounts have none, two or three decimal places, as its
    first key says."""
    places = {"c": 0, "d": 3}.get(found[0][3], 2)
    lines = []
    for kind, day, cents, key in found:
        on = date.fromordinal(date(2025, 1, 1).toordinal() + day)
        lines.append(f"{kind},{on},{cents / 100:.{places}f},{key},{on} 10:00:00.{cents % 4 * 25:02}")
    return ("kind,day,amount,key,at\n" + "\n".join(lines) + "\n").encode()
