"""Two people's changes to one report: both are kept, or both changed the same phrase and one is chosen."""

import copy
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.page.conftest import Asked

Doc = dict[str, Any]
LISTS = {"only": ["a > 1", "b > 2", "c > 3", "d > 4"], "figures": ["Net", "Gross", "Records", "Share"]}
SINGLE = {"title": ["One", "Two", "Three"], "as_of": [None, "2026-07-31", "2026-08-31"]}
CHANGE = st.lists(
    st.one_of(
        st.tuples(st.just("set"), st.sampled_from(sorted(SINGLE)), st.integers(0, 2)),
        st.tuples(st.just("add"), st.sampled_from(sorted(LISTS)), st.integers(0, 3)),
        st.tuples(st.just("drop"), st.sampled_from(sorted(LISTS)), st.integers(0, 3)),
    ),
    max_size=4,
)


def phrase(key: str, n: int) -> Any:
    return {"name": LISTS[key][n], "take": "count"} if key == "figures" else LISTS[key][n]


def changed(document: Doc, steps: list[tuple[str, str, int]]) -> Doc:
    made = copy.deepcopy(document)
    for step, key, n in steps:
        if step == "set":
            made[key] = SINGLE[key][n]
        elif step == "add" and phrase(key, n) not in made[key]:
            made[key].insert(n % (len(made[key]) + 1), phrase(key, n))
        elif step == "drop" and phrase(key, n) in made[key]:
            made[key].remove(phrase(key, n))
    return made


@settings(deadline=None, suppress_health_check=list(HealthCheck))
@given(CHANGE, CHANGE, CHANGE)
def test_no_change_is_lost_and_none_is_taken_for_another(
    asked: Asked, first: list[Any], mine: list[Any], theirs: list[Any]
) -> None:
    base = changed({"title": "One", "as_of": None, "only": [], "figures": [phrase("figures", 0)]}, first)
    one, other = changed(base, mine), changed(base, theirs)
    both = asked("merging.merged", base, one, other)
    assert asked("merging.merged", base, base, other) == {k: v for k, v in other.items() if v is not None or k in other}
    if both is None:
        assert any(one[key] != base[key] and other[key] != base[key] for key in base)
        return
    for key in SINGLE:
        assert both.get(key) in (one[key], other[key])
        assert both.get(key) != base[key] or (one[key] == base[key] and other[key] == base[key])
    for key in LISTS:
        stays = [p for p in base[key] if p in one[key] and p in other[key]]
        came = [p for p in one[key] + other[key] if p not in base[key]]
        assert sorted(map(str, both[key])) == sorted({str(p) for p in stays + came})


def test_what_both_took_away_for_something_else_is_one_persons_choice(asked: Asked) -> None:
    base = {"down": [{"category": "area"}], "figures": []}
    one = {**base, "down": [{"category": "area", "order": "label"}]}
    other = {**base, "down": [{"category": "area", "order": "label_desc"}]}
    assert asked("merging.merged", base, one, other) is None
    assert asked("merging.merged", base, one, one) == one
    more = {**base, "down": [{"category": "area"}, {"category": "route"}]}
    assert asked("merging.merged", base, one, more)["down"] == [one["down"][0], {"category": "route"}]
