"""Clients with a session of their own."""

from datetime import datetime
from typing import Any

from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from kalendor.api.workers.pool import Pool
from tests.editions.conftest import Office

PASSWORD = "a long enough password"
NOW = datetime.now()


class Browser:
    """A client with a session of its own."""

    def __init__(self, office: Office, address: str = "http://testserver", workers: Pool | None = None) -> None:
        application = create_app(office.desk, workers=workers)
        self.client = TestClient(application, base_url=address, raise_server_exceptions=False)
        self.token = ""

    def sign_in(self, name: str, password: str = PASSWORD) -> Any:
        answer = self.client.post("/api/session", json={"name": name, "password": password})
        if answer.status_code == 200:
            self.token = answer.json()["token"]
        return answer

    def ask(self, method: str, path: str, body: Any = None, **headers: str) -> Any:
        return self.client.request(
            method,
            path,
            json=body,
            headers={
                "Sec-Fetch-Site": "same-origin",
                "Sec-Fetch-Mode": "cors",
                "X-Kalendor-Token": self.token,
                **headers,
            },
        )
