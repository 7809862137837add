"""Years of monthly files with what goes wrong in them: nothing is lost or counted twice unsaid."""

from collections import Counter
from pathlib import Path
from random import Random

import pytest

from kalendor.desk.desk import Desk
from tests.year.exports import DRIFTS
from tests.year.played import Year


@pytest.mark.parametrize("seed", range(4))
def test_a_year_of_files_that_change(tmp_path: Path, seed: int) -> None:
    told = played(tmp_path, range(seed * 5, seed * 5 + 5))
    assert not told["plain held"] + told["plain refused"] + told["plain asked"], told
    changed = sum(n for key, n in told.items() if key.split()[0] in DRIFTS)
    stopped = sum(told[f"{kind} {how}"] for kind in DRIFTS for how in ("held", "refused"))
    assert changed > 10
    assert stopped * 10 <= changed, told


def played(folder: Path, seeds: range) -> Counter[str]:
    """What became of the files of some years."""
    told: Counter[str] = Counter()
    for seed in seeds:
        desk = Desk(folder / str(seed))
        year = Year(desk, Random(seed))
        year.play()
        told += year.told
        desk.workspace.close()
    return told
