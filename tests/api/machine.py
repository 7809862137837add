"""State machine of a running server: any sequence of an analyst's actions. After each step, every sheet equals the same
report computed from scratch from the rows alone, and its counts and sums equal those of SQL."""

import csv
import hashlib
import io
import os
import shutil
import tempfile
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient
from hypothesis import strategies as st
from hypothesis.stateful import Bundle, RuleBasedStateMachine, consumes, initialize, invariant, multiple, rule

from kalendor.api.app import create_app
from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.made_columns import with_made
from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import Records
from kalendor.core.values.memory import Memory
from kalendor.definitions.report import LookupColumn, Report
from kalendor.desk.bringing_in import Change, keep, look_at, read_again
from kalendor.desk.desk import Desk
from kalendor.desk.summaries import delimited_as_it_is
from kalendor.errors import DefinitionError, IntakeError, KalendorError
from kalendor.output.delimited import flat_delimited
from kalendor.output.flat import flat
from kalendor.output.handover import Handover
from kalendor.store.locks import holding
from kalendor.store.record_rows import STANDING
from kalendor.store.sources import Source
from tests.api.drawn import KINDS, NAMES, TREE, as_file, conditions, entries, figures, joins, rows
from tests.api.pools import WorkersHere

NOW = datetime(2026, 8, 4, 9, 20)
PASSWORD = "a long enough password"
QUICK = "/dev/shm" if os.access("/dev/shm", os.W_OK) else None


class BeneathError(KalendorError):
    """Something that a report's source depends on is refused."""


class Server(RuleBasedStateMachine):
    """One running application over a workspace, and a second process on the same workspace."""

    reports = Bundle("reports")
    intakes = Bundle("intakes")

    def __init__(self) -> None:
        super().__init__()
        self.folder = Path(tempfile.mkdtemp(dir=QUICK))
        self.desk = Desk(self.folder / "w", now=lambda: NOW)
        self.desk.memory = Memory(1 << 18, holding)
        self.other = Desk(self.folder / "w", now=lambda: NOW)
        self.workers = WorkersHere(self.folder / "w", lambda: NOW)
        self.enter()
        self.files = 0

    @initialize(found=rows)
    def begin(self, found: list[Any]) -> None:
        self.bring(found, "Sales", ("add", []))
        self.tree = self.api.post("/api/groupings", json=TREE).json()["id"]

    def bring(self, found: list[Any], source: str, join: tuple[str, list[str]]) -> int | None:
        self.files += 1
        sent = {"file": (f"f{self.files}.csv", as_file(found)), "source": (None, source)}
        job = self.done(self.api.post("/api/waiting", files=sent).json())
        if job["state"] != "done":
            return None
        told = {"join": join[0], "join_by": join[1]}
        assert self.api.put(f"/api/waiting/{job['token']}", json=told).status_code == 200
        kept = self.done(self.api.post(f"/api/waiting/{job['token']}/keep?again=true").json())
        if kept["state"] == "failed":  # more places than the source has: seen and taken
            assert "not like the files before" in kept["message"], kept
            kept = self.done(self.api.post(f"/api/waiting/{job['token']}/keep?again=true&seen=true").json())
        assert kept["state"] == "done", kept
        return int(self.api.get(f"/api/sources/{kept['source']}").json()["intakes"][0]["id"])

    def done(self, job: dict[str, Any]) -> dict[str, Any]:
        while job["state"] == "working":
            job = self.api.get(f"/api/jobs/{job['id']}").json()
        return job

    # -- what analysts do

    @rule(target=intakes, found=rows, source=st.sampled_from(NAMES), join=joins)
    def bring_in(self, found: list[Any], source: str, join: tuple[str, list[str]]) -> Any:
        made = self.bring(found, source, join)
        return multiple() if made is None else made

    @rule(found=rows, source=st.sampled_from(NAMES), join=joins)
    def another_process_brings_in(self, found: list[Any], source: str, join: tuple[str, list[str]]) -> None:
        self.files += 1
        with suppress(IntakeError):
            waiting = look_at(self.other, f"o{self.files}.csv", as_file(found), source)
            change = Change(join=join[0], join_by=join[1])
            keep(self.other, read_again(self.other, waiting.token, change).token, again=True, seen=True)

    @rule(intake=intakes, way=st.sampled_from(["undo", "redo"]))
    def step_an_intake(self, intake: int, way: str) -> None:
        self.api.post(f"/api/intakes/{intake}/{way}")

    @rule(target=reports, source=st.sampled_from(NAMES))
    def new_report(self, source: str) -> Any:
        answer = self.api.post("/api/reports", json={"source": source})
        return answer.json()["id"] if answer.status_code == 201 else multiple()

    @rule(
        report=reports,
        down=st.lists(entries, max_size=2),
        across=st.lists(entries, max_size=1),
        only=st.lists(conditions, max_size=2, unique=True),
        more=st.lists(figures, max_size=2),
        window=st.sampled_from([None, {"of": "day", "show": {"last": 2, "grain": "quarter"}}]),
        compared=st.booleans(),
    )
    def edit(self, report: int, more: list[Any], window: Any, compared: bool, **phrases: Any) -> None:
        got = self.api.get(f"/api/reports/{report}")
        if got.status_code != 200:
            return
        base = [{"name": "n", "take": "count"}, {"name": "sum", "take": "sum", "of": "amount"}]
        named = [{"name": f"f{i}", **figure} for i, figure in enumerate(more)]
        change = [{"name": "change", "compare": "sum", "with": "year_earlier", "as": "difference"}] if compared else []
        document = {
            **got.json()["document"],
            **phrases,
            "figures": [*base, *named, *change],
            "window": window,
            "as_of": "2026-03-20",
        }
        headers = {"If-Match": got.headers["etag"]}
        assert self.api.put(f"/api/reports/{report}", json=document, headers=headers).status_code == 200
        assert self.api.put(
            f"/api/reports/{report}", json={**document, "title": "late"}, headers=headers
        ).status_code in (412, 200)

    @rule(report=reports, way=st.sampled_from(["undo", "redo"]))
    def step_a_report(self, report: int, way: str) -> None:
        assert self.api.post(f"/api/reports/{report}/{way}").status_code in (200, 404, 422)

    @rule(report=consumes(reports))
    def remove_a_report(self, report: int) -> None:
        self.api.delete(f"/api/reports/{report}")

    @rule(under=st.dictionaries(st.sampled_from(KINDS), st.sampled_from(["Up", "Down"])))
    def edit_the_tree(self, under: dict[str, str]) -> None:
        roots = [
            {"label": side, "under": [{"value": v} for v, s in under.items() if s == side]}
            for side in dict.fromkeys(under.values())
        ]
        assert self.api.put(f"/api/groupings/{self.tree}", json={**TREE, "roots": roots}).status_code == 200

    @rule(report=reports, name=st.sampled_from(["Kept", "Kept too"]))
    def keep_a_sheet_as_a_source(self, report: int, name: str) -> None:
        self.api.post(f"/api/reports/{report}/summary", params={"name": name})

    @rule(target=reports, name=st.sampled_from(["Kept", "Kept too"]))
    def report_on_what_was_kept(self, name: str) -> Any:
        answer = self.api.post("/api/reports", json={"source": name})
        return answer.json()["id"] if answer.status_code == 201 else multiple()

    @rule(source=st.sampled_from(NAMES))
    def look_up_from_a_summary(self, source: str) -> None:
        """A made column that looks up another report's sheet by key; circular if that report is over the source."""
        self.api.post("/api/reports", json={"source": "Costs", "title": "By key"})
        named = [line for line in self.api.get("/api/reports").json() if line["title"] == "By key"]
        sources = {line["name"]: line["id"] for line in self.api.get("/api/sources").json()}
        if not named or source not in sources:
            return
        address = f"/api/reports/{named[0]['id']}"
        figures = [{"name": "n", "take": "count"}, {"name": "sum", "take": "sum", "of": "amount"}]
        document = {**self.api.get(address).json()["document"], "down": [{"category": "key"}], "figures": figures}
        if "window" not in document:
            self.api.put(address, json=document)
        self.api.post(f"{address}/summary", params={"name": "By key, kept"})
        lookup = {"source": "By key, kept", "match": {"key": "key"}, "take": "sum"}
        self.api.put(f"/api/sources/{sources[source]}/made", json=[{"name": "of its key", "lookup": lookup}])

    @rule(report=reports)
    def report_on_a_looked_up_column(self, report: int) -> None:
        got = self.api.get(f"/api/reports/{report}")
        if got.status_code == 200:
            figures = [{"name": "looked up", "take": "sum", "of": "of its key"}, {"name": "lines", "take": "count"}]
            self.api.put(f"/api/reports/{report}", json={**got.json()["document"], "figures": figures})

    @rule(name=st.sampled_from([*NAMES, "Kept"]))
    def remove_a_source(self, name: str) -> None:
        for line in self.api.get("/api/sources").json():
            if line["name"] == name:
                self.api.delete(f"/api/sources/{line['id']}")

    @rule(name=st.sampled_from(NAMES), to=st.sampled_from([*NAMES, "Named anew"]))
    def rename_a_source(self, name: str, to: str) -> None:
        for line in self.api.get("/api/sources").json():
            if line["name"] == name:
                self.api.patch(f"/api/sources/{line['id']}", json={"name": to})

    @rule()
    def forget(self) -> None:
        self.desk.memory.clear()
        self.desk.sheets.clear()
        self.desk.plans.clear()

    @rule()
    def lose_the_cache(self) -> None:
        shutil.rmtree(self.desk.workspace.cache)
        self.desk.workspace.cache.mkdir()

    @rule()
    def damage_the_cache(self) -> None:
        for path in self.desk.workspace.cache.glob("*/0.npy"):
            data = bytearray(path.read_bytes())
            data[-1] ^= 255
            path.with_name("new").write_bytes(data)
            path.with_name("new").replace(path)

    @rule()
    def start_again(self) -> None:
        self.desk = Desk(self.folder / "w", now=lambda: NOW)
        self.enter()

    def enter(self) -> None:
        """A new client, signed in if there is an account."""
        self.api = TestClient(create_app(self.desk, workers=self.workers))
        if self.desk.accounts.any():
            said = self.api.post("/api/session", json={"name": "Ada", "password": PASSWORD})
            assert said.status_code == 200, said.text
            self.api.headers["X-Kalendor-Token"] = said.json()["token"]

    @rule(comes=st.booleans())
    def an_account_comes_or_goes(self, comes: bool) -> None:
        if comes == self.desk.accounts.any():
            return
        if comes:
            self.desk.accounts.add("Ada", "analyst", PASSWORD, NOW)
            assert self.api.get("/api/reports").status_code == 401
        else:
            self.desk.accounts.close("Ada", NOW)
        self.enter()

    # -- what holds at every step

    @invariant()
    def every_sheet_is_what_it_is_from_nothing(self) -> None:
        for line in self.api.get("/api/reports").json():
            answer = self.api.get(f"/api/reports/{line['id']}/file", params={"format": "csv", "shape": "flat"})
            assert answer.status_code in (200, 422), answer.text
            report = self.api.get(f"/api/reports/{line['id']}").json()["document"]
            got: Any = answer.content if answer.status_code == 200 else answer.json()["detail"]
            try:
                want: Any = flat_delimited(Handover(self.from_nothing(report)))
            except BeneathError:
                assert answer.status_code == 422, (report, got)
                continue
            except KalendorError as error:
                want = str(error)
            assert got == want, (report, got, want)
            if answer.status_code == 200:
                self.check_by_sql(report, answer.text)
                self.check_the_page(line["id"])

    def from_nothing(self, document: dict[str, Any], under: tuple[str, ...] = ()) -> Sheet:
        """The sheet computed from the rows alone; the rows of a summary only if they are what its report gives from
        scratch."""
        report = Report.model_validate({k: v for k, v in document.items() if v is not None})
        fresh = Desk(self.folder / "w", now=lambda: NOW)
        try:
            source = fresh.sources.named(report.source)
            if source is None:
                known = ", ".join(s.name for s in fresh.sources.all()) or "none yet"
                raise DefinitionError(f"there is no source named {report.source!r} (known: {known})")
            records = self.rows_of(fresh, source, under)
            found = groupings([d.body for d in fresh.definitions.all("tree", "calendar", "buckets")])  # type: ignore[misc]
            refused, mended, _ = fresh.intakes.refused_count(source)
            return work_out(report, Material(records, found, {}, refused, mended), NOW.date())
        finally:
            fresh.workspace.close()

    def rows_of(self, fresh: Desk, source: Source, under: tuple[str, ...]) -> Records:
        """A source's records with its made columns. Raises BeneathError if they depend on something that is refused."""
        if source.name in under:
            raise BeneathError("a circle")
        looked_up = [made.lookup.source for made in source.made if isinstance(made, LookupColumn)]
        others = {name: other for name in looked_up if (other := fresh.sources.named(name)) is not None}
        tables = {name: self.rows_of(fresh, other, (*under, source.name)) for name, other in others.items()}
        if source.report_id is not None:
            document = self.api.get(f"/api/reports/{source.report_id}").json()["document"]
            try:
                given = delimited_as_it_is(flat(self.from_nothing(document, (*under, source.name)), totals=False))
            except KalendorError as error:
                raise BeneathError(str(error)) from error
            assert hashlib.sha256(given).hexdigest() == source.report_digest, (source.name, given)
        return with_made(fresh.sources.rows.from_rows(source).records, source.made, tables)

    def check_by_sql(self, document: dict[str, Any], text: str) -> None:
        """The count and sum of the grand total, and of each kind if kinds are the lines."""
        source = self.desk.sources.named(document["source"])
        names = [f["name"] for f in document["figures"]]
        if source is None or source.report_id is not None or not {"n", "sum"} <= set(names) or document.get("window"):
            return
        if any(
            entry.get("rest") is None and "rest" in entry
            for entry in (*document.get("down", []), *document.get("across", []))
        ):
            return
        where = " AND ".join(f"({c.replace('DATE ', '')})" for c in document.get("only", [])) or "1"
        sql = (
            f"SELECT coalesce(kind, '(blank)'), count(*), sum(amount) FROM {source.table} r"
            f" JOIN intake i ON i.id = r.intake_id WHERE {STANDING} AND {where} GROUP BY kind"
        )
        found = {kind: (n, total) for kind, n, total in self.desk.workspace.db.execute(sql).fetchall()}
        sheet = list(csv.DictReader(io.StringIO(text)))
        total = [
            r for r in sheet if r.get("down_level", "Total") == "Total" and r.get("across_level", "Total") == "Total"
        ]
        n = sum(n for n, _ in found.values())
        assert (int(total[0]["n"]) if total else 0) == n
        if total and n:
            places = next(c.places for c in source.columns if c.name == "amount")
            assert round(float(total[0]["sum"] or 0) * 10**places) == sum(s or 0 for _, s in found.values())
        if document.get("down", [{}])[:1] == [{"category": "kind"}]:
            for row in sheet:
                if row["down_level"] == "kind" and row.get("across_level", "Total") == "Total":
                    assert int(row["n"]) == found.get(row["kind"], (0, 0))[0]

    def check_the_page(self, id: int) -> None:
        """Lines requested by a sheet's key are those of that sheet."""
        sheet = self.api.get(f"/api/reports/{id}/sheet").json()
        asked = list(dict.fromkeys(sheet["rows"]["line"]))
        more = self.api.post(f"/api/reports/{id}/sheets/{sheet['key']}/lines", json={"lines": asked}).json()
        assert more["cells"] == {k: v for k, v in sheet["cells"].items() if int(k) in asked}

    def teardown(self) -> None:
        shutil.rmtree(self.folder, ignore_errors=True)
