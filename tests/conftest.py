"""Fixtures for desks, and the settings of property-based tests: the same examples in each `make test`, new ones in
`make soak`."""

import importlib
import os
import pkgutil
from datetime import datetime
from pathlib import Path

import pytest
from argon2 import PasswordHasher
from hypothesis import HealthCheck, settings

import kalendor
from kalendor.desk import spreading
from kalendor.desk.desk import Desk
from kalendor.store import accounts
from tests.command import FORKS

# Constants of the modules that are loaded are among the values drawn: load them all, so that each run draws the same.
for _, name, _ in pkgutil.walk_packages(kalendor.__path__, "kalendor."):
    if not name.endswith("__main__"):
        importlib.import_module(name)

# A password's hash is meant to cost a third of a second; tests sign in hundreds of times.
HASHER_AS_SHIPPED = accounts.HASHER
accounts.HASHER = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)

settings.register_profile(
    "steady",
    max_examples=int(os.environ.get("KALENDOR_EXAMPLES", "10")),
    deadline=None,
    derandomize="KALENDOR_EXAMPLES" not in os.environ,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much],
)
settings.load_profile("steady")
NOW = datetime(2026, 8, 4, 9, 20)


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    return Desk(tmp_path / "workspace", now=lambda: NOW)


@pytest.fixture
def forked(monkeypatch: pytest.MonkeyPatch) -> None:
    """Worker processes of partitions are forked from one that has the program loaded."""
    assert FORKS.get_start_method() == "forkserver"
    monkeypatch.setattr(spreading, "START", "forkserver")
