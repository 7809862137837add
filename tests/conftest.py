"""Desks over workspaces of their own."""

from datetime import datetime
from pathlib import Path

import pytest

from kalendor.desk.desk import Desk

NOW = datetime(2026, 8, 4, 9, 20)


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    return Desk(tmp_path / "workspace", now=lambda: NOW)
