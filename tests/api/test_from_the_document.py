"""Requests generated from the OpenAPI document alone: no response is an internal error, has an undocumented status or
type, or a body that its schema does not allow."""

import os
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from kalendor.api.app import create_app
from tests.editions.conftest import Office

EXAMPLES = int(os.environ.get("KALENDOR_CASES", "2"))
CHECKS: list[Any] = [
    not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance,
]  # fmt: skip


@pytest.fixture(scope="module")
def operations(tmp_path_factory: pytest.TempPathFactory) -> list[Any]:
    office = Office(tmp_path_factory.mktemp("document") / "workspace")
    office.issue("2026-06")
    described = schemathesis.openapi.from_asgi("/api/openapi.json", create_app(office.desk))
    described = described.exclude(path=["/api/demo", "/api/reports/{id}/events"])  # events go on for ever
    return [found.ok() for found in described.get_all_operations()]


@pytest.mark.parametrize("method", ["get", "post", "put", "patch", "delete"])
def test_every_answer_is_as_the_document_says(operations: list[Any], method: str) -> None:
    asked = [one for one in operations if one.method == method]
    assert asked
    for operation in asked:

        @settings(
            max_examples=EXAMPLES, deadline=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck)
        )
        @given(case=operation.as_strategy())
        def answered(case: Any) -> None:
            case.call_and_validate(checks=CHECKS)

        answered()
