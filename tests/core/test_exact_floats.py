"""Sums of float64 numbers equal the rounded exact sum, in any order and by any steps."""

from fractions import Fraction

import numpy as np
from hypothesis import example, given
from hypothesis import strategies as st

from kalendor.core.takes.exact_floats import as_float, float_sums, squared
from kalendor.core.takes.groups import Groups
from kalendor.core.takes.sums import summed, sums
from kalendor.core.values.columns import Column, Kind

finite = st.one_of(
    st.floats(allow_nan=False, allow_infinity=False, max_value=1e305, min_value=-1e305),
    st.sampled_from([0.1, 0.2, -0.3, 1e300, -1e300, 5e-324, -0.0, 1e-300, 2.0**53, 1.0]),
    st.integers(-(10**8), 10**8).map(lambda n: n / 100),
)


def column(values: list[float]) -> Column:
    return Column(Kind.APPROXIMATE, np.array(values, dtype=np.float64))


@given(st.lists(st.tuples(st.integers(0, 3), finite), max_size=40), st.randoms(), st.integers(1, 5))
@example([(0, 1.2e308), (0, 1e-300), (0, -1e308)], None, 2)
def test_sums_are_those_of_exact_fractions(terms: list[tuple[int, float]], order: object, parts: int) -> None:
    ids, values = np.array([i for i, _ in terms], dtype=np.int64), [v for _, v in terms]
    exact = [sum((Fraction(v) for i, v in terms if i == g), Fraction(0)) for g in range(4)]
    want = list(map(as_float, exact))
    found = float_sums(ids, [np.array(values, dtype=np.float64)], 4)
    assert found.rounded().tolist() == want
    assert found.exact() == exact
    pieces = [np.flatnonzero(np.arange(len(terms)) % parts == k) for k in range(parts)]
    by_piece = [summed(Groups(ids[p], 4, None), column([values[i] for i in p.tolist()])) for p in pieces]
    depth = max(len(c.rest) for c in by_piece)
    rest = [np.concatenate([c.rest[k] if k < len(c.rest) else np.zeros(4) for c in by_piece]) for k in range(depth)]
    whole = Column(Kind.APPROXIMATE, np.concatenate([c.values for c in by_piece]), rest=tuple(rest))
    assert sums(Groups(np.tile(np.arange(4), parts), 4, None), whole).tolist() == want


def test_infinite_terms_and_those_that_are_no_number_are_seen() -> None:
    ids = np.array([0, 0, 1, 1, 2])
    found = float_sums(ids, [np.array([1.0, np.inf, np.inf, -np.inf, 2.5])], 3).rounded()
    assert found[0] == np.inf
    assert np.isnan(found[1])
    assert found[2] == 2.5


@given(st.floats(-1e140, 1e140).filter(lambda v: v == 0 or abs(v) > 1e-140))
def test_a_square_and_what_it_leaves_off_are_the_exact_square(value: float) -> None:
    product, rest = squared(np.array([value]))
    assert Fraction(float(product[0])) + Fraction(float(rest[0])) == Fraction(value) ** 2
