"""Years of monthly files with typical mistakes: nothing is lost or counted twice without a message. `make soak` plays
2,000."""

import os
from collections import Counter
from pathlib import Path
from random import Random

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.desk.desk import Desk
from tests.year.exports import DRIFTS
from tests.year.over_http import YearOverHttp
from tests.year.played import Year

PARTS = 4
YEARS = int(os.environ.get("KALENDOR_YEARS", "4"))
SEED = 0 if "KALENDOR_YEARS" not in os.environ else Random().randrange(1 << 40)


@pytest.mark.parametrize("part", range(PARTS))
def test_years_of_files_that_change(tmp_path: Path, part: int) -> None:
    told: Counter[str] = Counter()
    for seed in range(SEED + part, SEED + YEARS, PARTS):
        desk = Desk(tmp_path / str(seed))
        year = Year(desk, Random(seed))
        try:
            year.play()
        except AssertionError as error:
            raise AssertionError(f"in the year drawn by {seed}, file {year.files}: {error}") from error
        told += year.told
    assert not told["plain held"] + told["plain refused"] + told["plain asked"], told
    changed = sum(n for key, n in told.items() if key.split()[0] in DRIFTS)
    stopped = sum(told[f"{kind} {how}"] for kind in DRIFTS for how in ("held", "refused"))
    assert changed > YEARS // PARTS
    assert stopped * 10 <= changed, told


@pytest.mark.parametrize("seed", [2365])
def test_a_year_over_http(tmp_path: Path, seed: int) -> None:
    desk = Desk(tmp_path / "w")
    year = YearOverHttp(desk, Random(seed), api=TestClient(create_app(desk)))
    year.play()
    assert not year.told["plain held"] + year.told["plain refused"] + year.told["plain asked"], year.told
