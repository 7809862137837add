"""Many texts in two arrays behave as a tuple of strings."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kalendor.core.values.columns import Column, Kind, concat
from kalendor.core.values.words import BLOCK, LONG, Words, hashes_of, merged, quick_hashes_of

Hashed = Callable[[Sequence[str]], Any]
TEXTS = st.lists(st.text(max_size=12), unique=True, max_size=60)


@given(TEXTS)
def test_words_are_read_as_the_tuple_of_them(texts: list[str]) -> None:
    words = Words.of(texts)
    assert list(words) == texts
    assert len(words) == len(texts)
    assert [words[i] for i in range(len(texts))] == texts
    assert words[1:4] == tuple(texts[1:4])
    assert words[::-2] == tuple(texts[::-2])
    assert list(words.take(np.arange(len(texts))[::-1])) == texts[::-1]


def test_words_are_counted_from_the_end_and_end() -> None:
    words = Words.of(("a", "é", "", "long " * 30))
    assert words[-3] == "é"
    assert "é" in words
    try:
        words[4]
    except IndexError:
        return
    raise AssertionError("there is no fifth")


def test_more_words_than_are_decoded_at_once() -> None:
    texts = [f"T-{i}" for i in range(BLOCK + 3)]
    assert list(Words.of(texts)) == texts


@pytest.mark.parametrize("hashed", [hashes_of, quick_hashes_of])
@given(texts=TEXTS)
def test_equal_texts_have_equal_numbers_and_others_do_not(hashed: Hashed, texts: list[str]) -> None:
    numbers = hashed(texts)
    assert len(set(numbers.tolist())) == len(texts)
    assert np.array_equal(hashed(texts[::-1])[::-1], numbers)


@pytest.mark.parametrize("hashed", [hashes_of, quick_hashes_of])
def test_texts_that_differ_only_far_behind_have_other_numbers(hashed: Hashed) -> None:
    assert len(set(hashed(["x" * LONG + "a", "x" * LONG + "b", "x" * LONG]).tolist())) == 3


def test_many_texts_have_the_numbers_that_each_has_alone() -> None:
    texts = ["é" * (i % 40) + str(i) for i in range(2 * BLOCK + 7)]
    numbers = quick_hashes_of(texts)
    assert len(set(numbers.tolist())) == len(texts)
    for at in (0, 1, BLOCK - 1, BLOCK, 2 * BLOCK + 6):
        assert quick_hashes_of([texts[at]])[0] == numbers[at]


@given(TEXTS, TEXTS)
def test_two_dictionaries_become_one(first: list[str], second: list[str]) -> None:
    both = merged(Words.of(first), Words.of(second))
    assert both is not None
    words, numbers = both
    assert list(words)[: len(first)] == first
    assert sorted(words) == sorted({*first, *second})
    assert [words[n] for n in numbers] == second


def test_long_columns_are_joined_as_short_ones_are() -> None:
    first = Words.of([f"a{i}" for i in range(20_000)])
    second = ("new", "a7", "a19999")
    joined = concat(
        [
            Column(Kind.TEXT, np.arange(20_000, dtype=np.int32), words=first),
            Column(Kind.TEXT, np.array([2, 0, 1, 0], dtype=np.int32), words=second),
        ]
    )
    assert [joined.item(i) for i in (0, 20_000, 20_001, 20_002, 20_003)] == ["a0", "a19999", "new", "a7", "new"]
    assert len(joined.words) == 20_001
