"""A few runs of the state machine of issuing; `make soak` takes thousands of steps."""

import os

from hypothesis import settings

from tests.editions.machine import Issuing

EXAMPLES = int(os.environ.get("KALENDOR_RUNS", "5"))
Issuing.TestCase.settings = settings(
    max_examples=EXAMPLES, stateful_step_count=25, deadline=None, report_multiple_bugs=False
)
TestIssuing = Issuing.TestCase
