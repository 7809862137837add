"""Installs a wheel into a clean environment, starts the demo with it, with no Node at hand, and asks for the page, the board and a
file. Run by `make dist`."""

import json
import os
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
import venv
from pathlib import Path


def free_port() -> int:
    """A port that nobody listens on, so that no other server answers instead."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


PORT = free_port()


def main(wheel: Path, constraints: Path) -> None:
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        venv.create(home / "env", with_pip=True)
        python = home / "env/bin/python"
        quiet = ["-m", "pip", "install", "-q", "--disable-pip-version-check", "-c", str(constraints)]
        subprocess.run([python, *quiet, str(wheel.resolve())], check=True, cwd=home)
        command = [home / "env/bin/kalendor", "demo", "--workspace", home / "demo", "--port", str(PORT)]
        server = subprocess.Popen(command, cwd=home, env={**os.environ, "PATH": ""})
        try:
            for path, there in (
                ("/board", "<title>"),
                ("/api/board", "Net fare by sea area"),
                ("/api/editions/1/file?format=html", "<table>"),
            ):
                assert there in asked(path), f"{path} lacks {there}"
            script = asked("/board").partition('src="')[2].partition('"')[0]
            assert len(asked(script)) > 10_000, "the page's script is missing"
            print(f"{wheel.name}: {json.loads(asked('/api/workspace'))['version']} installed clean and ran the demo")
        finally:
            server.terminate()
            server.wait(10)


def asked(path: str) -> str:
    """What the server answers, once it is there."""
    for _ in range(600):
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{PORT}{path}", timeout=30) as answer:
                return str(answer.read().decode("utf-8", "replace"))
        except urllib.error.HTTPError:
            raise
        except OSError:
            time.sleep(0.2)
    raise SystemExit(f"{path}: the server did not answer")


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]).resolve())
