"""Syntax trees are parsed by one thread at a time, since Python 3.11 confuses the recursion depths of two concurrent
parses."""

import gc
import sys
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from importlib.resources import files
from pathlib import Path

import numpy as np
import pytest

from kalendor.intake.column_files import mapped_array, save
from kalendor.sentence.grammar import parsed_grammar


class _Finalized:
    """Garbage whose finalizer runs long enough for a thread switch."""

    def __init__(self) -> None:
        self.itself = self

    def __del__(self) -> None:
        for _ in range(20):
            pass


@pytest.fixture
def busy_collector() -> Iterator[None]:
    """Frequent thread switches and garbage collections, so that two conversions overlap."""
    thresholds, interval = gc.get_threshold(), sys.getswitchinterval()
    gc.set_threshold(50)
    sys.setswitchinterval(1e-6)
    yield
    gc.set_threshold(*thresholds)
    sys.setswitchinterval(interval)


@pytest.mark.usefixtures("busy_collector")
def test_threads_read_the_grammar_and_map_columns_at_the_same_time(tmp_path: Path) -> None:
    save(tmp_path / "0.npy", np.arange(3))
    text = "\n".join(files("kalendor.sentence").joinpath("grammar.txt").read_text("utf-8").splitlines()[:60])

    def grammars() -> int:
        return sum(bool(_Finalized()) and len(parsed_grammar(text).words) > 0 for _ in range(6))

    def arrays() -> int:
        return sum(bool(_Finalized()) and len(mapped_array(tmp_path / "0.npy")) == 3 for _ in range(150))

    with ThreadPoolExecutor(4) as threads:
        found = [threads.submit(ask) for ask in (grammars, arrays, grammars, arrays)]
        assert [future.result() for future in found] == [6, 150, 6, 150]
