"""The same months played over HTTP, and by a user on the page."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient
from selenium.webdriver.common.by import By

from kalendor.desk.bringing_in import Change
from kalendor.errors import ConflictError
from tests.browser.conftest import Page
from tests.year.exports import COLUMNS
from tests.year.played import Year


@dataclass
class YearOverHttp(Year):
    """Uploads files to a running application, reviews and keeps them."""

    api: TestClient = field(kw_only=True)

    def undo(self, intake: int) -> None:
        assert self.api.post(f"/api/intakes/{intake}/undo").status_code == 200

    def redo(self, intake: int) -> None:
        assert self.api.post(f"/api/intakes/{intake}/redo").status_code == 200

    def adjust(self, lines: list[dict[str, str]], reason: str) -> int:
        url = f"/api/sources/{self.source.id}/adjustments"
        assert self.api.post(f"{url}/try", json={"lines": lines}).json()["lines"]
        answer = self.api.post(url, json={"lines": lines, "reason": reason})
        assert answer.status_code == 201, answer.text
        return int(answer.json()["id"])

    def reverse(self, intake: int) -> int:
        answer = self.api.post(f"/api/intakes/{intake}/reverse")
        if answer.status_code in (409, 422):
            raise ConflictError(answer.text)
        assert answer.status_code == 201, answer.text
        return int(answer.json()["id"])

    def brought(self, name: str, data: bytes, change: Change | None) -> str:
        sent = {"file": (name, data), "source": (None, "Sales")}
        job = self._done(self.api.post("/api/waiting", files=sent).json())
        if job["state"] == "failed":
            return "refused"
        url = f"/api/waiting/{job['token']}"
        if change is not None:
            self._put(url, {"join": change.join, "join_by": change.join_by})
        kept = self._done(self.api.post(f"{url}/keep").json())
        if kept["state"] == "done":
            return "in"
        if "not like the files before" in kept["message"]:
            return self._looked_at(url)
        self.api.delete(url)
        return "held" if "held, nothing" in kept["message"] else "refused"

    def _looked_at(self, url: str) -> str:
        seen = self.api.get(url).json()
        now = {column["name"]: column["heading"] for column in seen["columns"]}
        truth = {c: self.export.heading(c) if c in self.export.columns else "" for c in COLUMNS}
        wrong = {c: h or None for c, h in truth.items() if now.get(c) != h}
        if wrong:
            assert not seen["sure"], (wrong, seen["changes"])
            seen = self._put(url, {"pairs": wrong})
        reading = next(c["reading"] for c in seen["columns"] if c["name"] == "sold on")
        if reading["format"] != self.export.date_format:
            seen = self._put(url, {"columns": {"sold on": {"type": "date", "format": self.export.date_format}}})
        if seen["outcome"]["held"] or seen["outcome"]["problem"]:
            self.api.delete(url)
            return "held"
        assert self._done(self.api.post(f"{url}/keep?seen=true").json())["state"] == "done"
        return "asked"

    def _put(self, url: str, told: Mapping[str, Any]) -> Any:
        answer = self.api.put(url, json=told)
        assert answer.status_code == 200, answer.text
        return answer.json()

    def _done(self, job: Any) -> Any:
        while job["state"] == "working":
            job = self.api.get(f"/api/jobs/{job['id']}").json()
        return job


@dataclass
class YearOnThePage(Year):
    """Imports files on the source's screen; questions are read there and answered by clicks."""

    page: Page = field(kw_only=True)
    folder: Path = field(kw_only=True)

    def brought(self, name: str, data: bytes, change: Change | None) -> str:
        (self.folder / name).write_bytes(data)
        before = self.desk.sources.named("Sales")
        known = len(self.desk.intakes.of(before)) if before else 0
        self.page.find(".say", "Every new file" if before else "Named tables")
        self.page.driver.find_element(By.CSS_SELECTOR, "input[type=file][aria-label=File]").send_keys(
            str(self.folder / name)
        )
        self.page.find("aside h2", "Import")
        if before is None:
            self.page.write("Name of the source", "Sales")
        if change is not None:
            self.page.click(".way", "Replace records with the same key")
            self.page.find(".way.on", "By ticket")
        changed = "is not like" in self.page.find("h1", name).text
        if changed:
            self._said_otherwise()
        button = self.page.find(".margin .MuiButton-contained").text
        if button == "Import" and self.page.find(".margin .MuiButton-contained", "Import").is_enabled():
            self.page.click(".margin .MuiButton-contained", "Import")
            self.page.find(".file", name)
            assert len(self.desk.intakes.of(self.source)) == known + 1
            return "asked" if changed else "in"
        self.page.click(".margin button", "Cancel")
        self.page.find(".say", "Every new file")
        return "refused" if button == "Import it again" else "held"

    def _said_otherwise(self) -> None:
        """Overrules each wrong match of a column in its row."""
        for column in COLUMNS:
            heading = self.export.heading(column) if column in self.export.columns else ""
            for row in self.page.driver.find_elements(By.CSS_SELECTOR, ".changed tr.odd"):
                cells = [cell.text.split("\n")[0] for cell in row.find_elements(By.CSS_SELECTOR, "td")]
                if cells[0] == column and cells[1] != (heading or "nothing"):
                    row.find_element(By.CSS_SELECTOR, "[role=combobox]").click()
                    self.page.click("li[role=option]", f"it is called {heading}" if heading else "blank from now on")
                    self.page.find(".changed tr", heading or "nothing")
                    break
