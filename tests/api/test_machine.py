"""A few runs of the state machine; `make soak` takes thousands of steps."""

import os

from hypothesis import Phase, settings

from tests.api.machine import Server

EXAMPLES = int(os.environ.get("KALENDOR_RUNS", "3"))
PHASES = (Phase.explicit, Phase.generate) if EXAMPLES > 10 else tuple(Phase)
Server.TestCase.settings = settings(
    max_examples=EXAMPLES, stateful_step_count=25, deadline=None, report_multiple_bugs=False, phases=PHASES
)
TestServer = Server.TestCase
