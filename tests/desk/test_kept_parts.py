"""Cached partials, merged as a tree: one partition more or less changes few nodes, and lost nodes are computed
again."""

import json
import os
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.values.keys import Key, key
from kalendor.desk.kept_parts import MOST_UNDER, Keeping, KeptParts, LostError, Node, tree

keys = st.lists(st.integers(0, 10**6), min_size=1, max_size=300, unique=True)


def keyed(numbers: list[int]) -> list[Key]:
    return [key("n", number) for number in numbers]


def nodes(node: Node) -> list[Node]:
    return [node, *(inner for one in node.under for inner in nodes(one))]


@given(keys)
def test_a_tree_has_its_parts_in_their_order(numbers: list[int]) -> None:
    found = nodes(tree(keyed(numbers)))
    assert [(one.key, one.at) for one in found if not one.under] == [(k, i) for i, k in enumerate(keyed(numbers))]
    assert found[0].size == len(numbers)
    assert all(len(one.under) in range(2, MOST_UNDER + 1) for one in found if one.under)


@given(keys, st.integers(0, 10**9), st.booleans())
def test_a_part_more_or_less_changes_few_nodes(numbers: list[int], at: int, more: bool) -> None:
    at %= len(numbers)
    others = [*numbers[:at], -1, *numbers[at:]] if more else numbers[:at] + numbers[at + 1 :]
    if not others:
        return
    before, after = tree(keyed(numbers)), tree(keyed(others))
    depth = max(len(path) for path in _paths(after))
    known = {one.key for one in nodes(before)}
    fresh = [one for one in nodes(after) if one.under and one.key not in known]
    assert len(fresh) <= 4 * depth


def _paths(node: Node) -> list[list[Key]]:
    return [[node.key, *path] for one in node.under for path in _paths(one)] or [[node.key]]


@given(keys, st.data())
def test_merged_values_are_those_of_all_parts_whatever_was_lost(
    tmp_path_factory: pytest.TempPathFactory, numbers: list[int], data: st.DataObject
) -> None:
    kept = KeptParts(tmp_path_factory.mktemp("kept"))
    merges: list[int] = []

    def merge(parts: list[tuple[list[int], int]]) -> list[int]:
        merges.append(len(parts))
        assert [before for _, before in parts] == [sum(len(v) for v, _ in parts[:k]) for k in range(len(parts))]
        return [n for value, _ in parts for n in value]

    keeping = Keeping(kept, lambda v: json.dumps(v).encode(), json.loads, merge)  # type: ignore[arg-type]
    for own, number in zip(keyed(numbers), numbers, strict=True):
        kept.put(own, json.dumps([number]).encode())
    whole = tree(keyed(numbers))
    assert keeping.value(whole) == numbers
    merges.clear()
    assert keeping.value(whole) == numbers
    assert merges == []
    lost = data.draw(st.lists(st.sampled_from(nodes(whole)), max_size=4))
    for one in lost:
        kept.drop(one.key)
    needed = whole.key if kept.has(whole.key) else None
    if needed is None and any(not one.under and not _covered(kept, whole, one) for one in lost):
        with pytest.raises(LostError):
            keeping.value(whole)
    else:
        assert keeping.value(whole) == numbers


def _covered(kept: KeptParts, node: Node, part: Node) -> bool:
    """Whether a partition's node or one above it is cached."""
    if kept.has(node.key):
        return True
    inner = next((one for one in node.under if one.at <= part.at < one.at + one.size), None)
    return inner is not None and _covered(kept, inner, part)


def test_what_was_not_used_for_the_longest_time_goes_first(tmp_path: Path) -> None:
    kept = KeptParts(tmp_path)
    for own in keyed([1, 2, 3]):
        kept.put(own, b"x" * 100)
    for age, own in enumerate(keyed([2, 3])):
        path = tmp_path / own[:2] / own
        os.utime(path, (age, age))
    kept.shrink(150)
    assert [kept.has(own) for own in keyed([1, 2, 3])] == [True, False, False]
    assert KeptParts(tmp_path, writes=False).get(keyed([1])[0]) == b"x" * 100
