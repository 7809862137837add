"""The columns by which a look-up matches are guessed from values, not from their order."""

import pytest

from kalendor.desk.bringing_in import keep, look_at
from kalendor.desk.desk import Desk
from kalendor.desk.lookup_guess import Match, guessed_match

SALES = "id,day,route,amount\n" + "".join(f"{n},2026-05-{n % 28 + 1:02},R{n % 3},{n}.50\n" for n in range(1, 60))


@pytest.mark.parametrize(
    ("other", "match", "as_at"),
    [
        ("name,code\nAlpha,R0\nBeta,R1\nGamma,R2\n", {"route": "code"}, {}),
        ("id,code,name\n1,R0,Alpha\n2,R1,Beta\n3,R2,Gamma\n", {"route": "code"}, {}),
        ("code,valid\nR0,2026-05-01\nR0,2026-06-01\nR1,2026-05-01\n", {"route": "code"}, {"day": "valid"}),
        ("Route,team\nR0,x\nR0,y\nR1,x\n", {"route": "Route"}, {}),
        ("code,valid\nR0,2026-05-01\nR0,2026-05-01\nR1,2026-05-01\n", {}, {}),
        ("ticket,team\n" + "".join(f"{n},T{n % 4}\n" for n in range(1, 80)), {"id": "ticket"}, {}),
        ("colour,hex\nred,1a\nblue,2b\n", {}, {}),
    ],
)
def test_the_key_is_found_by_its_values(desk: Desk, other: str, match: dict[str, str], as_at: dict[str, str]) -> None:
    keep(desk, look_at(desk, "s.csv", SALES.encode(), "Sales").token)
    keep(desk, look_at(desk, "o.csv", other.encode(), "Other").token)
    source, looked_up = desk.sources.named("Sales"), desk.sources.named("Other")
    assert source is not None
    assert looked_up is not None
    assert guessed_match(desk, source, looked_up) == Match(match, as_at)
