"""The page's own reckoning, run by Node as it runs in the browser, without its screens."""

import json
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

WEB = Path(__file__).parents[2] / "web"
Asked = Callable[..., Any]


@pytest.fixture(scope="session")
def asked(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Asked]:
    """Calls a function of the page: `asked("change.without", report, phrase)`; values go there and back as JSON."""
    out = tmp_path_factory.mktemp("page")
    entry = Path(__file__).with_name("entry.ts")
    build = ["npx", "--no-install", "vite", "build", "--ssr", str(entry), "--outDir", str(out), "--logLevel", "error"]
    subprocess.run(build, cwd=WEB, check=True, timeout=120)
    process = subprocess.Popen(
        ["node", str(out / "entry.js")], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, encoding="utf-8"
    )
    assert process.stdin is not None
    assert process.stdout is not None

    def ask(what: str, *args: Any) -> Any:
        assert process.stdin is not None
        assert process.stdout is not None
        module, name = what.split(".")
        process.stdin.write(json.dumps({"module": module, "name": name, "args": args}) + "\n")
        process.stdin.flush()
        answer = json.loads(process.stdout.readline())
        assert "error" not in answer, answer["error"]
        return answer["value"]

    yield ask
    process.stdin.close()
    process.wait(10)
