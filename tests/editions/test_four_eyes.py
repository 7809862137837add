"""The four-eyes rule: prepared by one account, approved by another, and again after any change in between."""

from random import Random

import pytest
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.definitions.report import Report
from kalendor.desk.editions.four_eyes import approve, prepare
from kalendor.desk.editions.issuing import Issued, for_period, issue, opened
from kalendor.desk.editions.owed import Recurs, named_periods
from kalendor.desk.editions.restating import restate
from kalendor.desk.editions.schedule import run_due
from kalendor.errors import ConflictError, DefinitionError
from kalendor.store.workspace import WHO
from tests.editions.conftest import REPORT, TREE, Office
from tests.editions.test_board import checks, one
from tests.editions.test_restating import late

CADENCE = {**REPORT["cadence"], "four_eyes": True, "accept": ["not_placed", "repeated"]}


class Approved(Office):
    """An office whose report requires four eyes."""

    @classmethod
    def of(cls, office: Office) -> "Approved":
        office.report(cadence=CADENCE)
        office.__class__ = cls
        return office  # type: ignore[return-value]

    def by(self, who: str, step: str, month: str = "2026-06") -> Issued | None:
        """Prepare, approve or issue a month as a user; returns what was issued."""
        known: Recurs = one(self)
        (period,) = named_periods(self.desk, self.stored, month)[1]
        token = WHO.set(who)
        try:
            report: Report = for_period(known.report, period)
            if step == "prepare":
                prepare(self.desk, known, period, report)
            elif step == "approve":
                approve(self.desk, known, period, report)
            else:
                return issue(self.desk, known.id, period)
        finally:
            WHO.reset(token)
        return None


@pytest.fixture
def asked(office: Office) -> Approved:
    return Approved.of(office)


def test_it_is_issued_once_another_account_has_approved_it_and_says_both(asked: Approved) -> None:
    for step in ("issue", "approve"):
        with pytest.raises(DefinitionError, match="prepared"):
            asked.by("ola", step)
    asked.by("ola", "prepare")
    with pytest.raises(DefinitionError, match="prepared by ola, and waits for another's approval"):
        asked.by("mia", "issue")
    with pytest.raises(DefinitionError, match="another account is to approve"):
        asked.by("OLA", "approve")
    asked.by("mia", "approve")
    assert checks(asked, "2026-06")["approval"] == ("ok", "Prepared by ola, approved by mia")
    asked.by("ola", "issue")
    (edition,) = asked.desk.editions.all()
    document = opened(asked.desk, edition.id).document
    assert (document["prepared_by"], document["approved_by"]) == ("ola", "mia")


@pytest.mark.parametrize("seed", range(6))
def test_whatever_changes_in_between_asks_again(asked: Approved, seed: int) -> None:
    """State machine: actions of three accounts and changes of every kind, beside a simple model of who prepared and
    approved the current state."""
    rng = Random(seed)
    prepared: str | None = None
    approved: str | None = None
    for step in range(16):
        who = rng.choice(["ola", "mia", "jon"])
        match rng.choice(["prepare", "approve", "approve", "issue", "records", "tree", "report", "cadence"]):
            case "prepare":
                asked.by(who, "prepare")
                prepared, approved = who, None
            case "approve" if prepared is not None and prepared != who:
                asked.by(who, "approve")
                approved = who
            case "approve":
                with pytest.raises((DefinitionError, ConflictError)):
                    asked.by(who, "approve")
            case "issue" if approved is not None:
                done = asked.by(who, "issue")
                assert done is not None
                if done.fresh:
                    last = opened(asked.desk, done.edition.id).document
                    assert (last["prepared_by"], last["approved_by"]) == (prepared, approved)
            case "issue":
                with pytest.raises(DefinitionError, match="prepared"):
                    asked.by(who, "issue")
            case "records":
                late(asked, "2026-06", f"{1 + seed % 3}.{step:02}")
                prepared = approved = None
            case "tree":
                asked.define({**TREE, "roots": [{"label": f"North {step}", "under": [{"value": "kx"}]}]})
                prepared = approved = None
            case "report":
                asked.report(cadence=CADENCE, notes=[{"text": f"step {step}"}])
                prepared = approved = None
            case "cadence":
                kept = asked.stored.body
                assert isinstance(kept, Report)
                due = {**CADENCE, "due": {"days": step}}
                asked.define({**kept.model_dump(mode="json", by_alias=True, exclude_defaults=True), "kind": "report",
                              "cadence": due})  # fmt: skip


def test_schedules_and_restating_wait_for_it(asked: Approved) -> None:
    asked.report(cadence={**CADENCE, "issue": "when_ready"})
    left = run_due(asked.desk)
    assert {one.reason for one in left if one.edition is None} >= {
        "It is to be prepared by one account and approved by another"
    }
    asked.by("ola", "prepare")
    asked.by("mia", "approve")
    done = [one.period.label for one in run_due(asked.desk) if one.edition is not None]
    assert done == ["Jun 2026"]
    late(asked, "2026-06", "1.00")
    (dealt,) = restate(asked.desk, [asked.desk.editions.all()[-1].id], "late")
    assert "to be prepared by one account" in dealt.reason


def test_a_report_that_does_not_ask_takes_none(asked: Approved) -> None:
    asked.report()
    with pytest.raises(DefinitionError, match="asks for no approval"):
        asked.by("ola", "prepare")


def test_over_http(asked: Approved) -> None:
    api = TestClient(create_app(asked.desk))
    url = f"/api/reports/{asked.stored.id}/periods/2026-06-30"
    assert api.get(url).json()["four_eyes"] == "prepare"
    assert api.post(f"{url}/approve").status_code == 422
    assert api.post(f"{url}/prepare").json()["four_eyes"] == "approve"
    assert "another account" in api.post(f"{url}/approve").json()["detail"]
    assert api.post(f"{url}/issue").status_code == 422
    asked.by("mia", "approve")
    assert api.get(url).json()["four_eyes"] == "approved"
    made = api.post(f"{url}/issue").json()["edition"]
    view = api.get(f"/api/editions/{made['id']}").json()
    assert (bool(view["prepared_by"]), view["approved_by"]) == (True, "mia")
