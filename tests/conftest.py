"""Desks over workspaces of their own, and how many examples the random tests draw."""

import os
from datetime import datetime
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from kalendor.desk.desk import Desk

SOAKING = any(name in os.environ for name in ("KALENDOR_EXAMPLES", "KALENDOR_RUNS", "KALENDOR_BODIES"))
settings.register_profile(
    "steady",
    derandomize=not SOAKING,  # the same examples at each run of `make test`, new ones at each `make soak`
    max_examples=int(os.environ.get("KALENDOR_EXAMPLES", "120")),
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much],
)
settings.load_profile("steady")
NOW = datetime(2026, 8, 4, 9, 20)


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    return Desk(tmp_path / "workspace", now=lambda: NOW)
