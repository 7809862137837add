"""Writes, or with --check compares, generated files: the OpenAPI document, the JSON Schemas and the reference. Run as
`python -m tests.published`."""

import json
import sys
import tempfile
from pathlib import Path

from pydantic import TypeAdapter

from kalendor.api.app import create_app
from kalendor.definitions.kinds import KINDS
from kalendor.desk.desk import Desk
from tests.reference import reference

ROOT = Path(__file__).parent.parent


def published() -> dict[Path, str]:
    """The content of each generated file."""
    with tempfile.TemporaryDirectory() as folder:
        api = create_app(Desk(Path(folder))).openapi()
    files = {ROOT / "web/openapi.json": api}
    for kind, model in KINDS.items():
        files[ROOT / f"docs/schema/{kind}.json"] = TypeAdapter(model).json_schema(by_alias=True)
    found = {
        path: json.dumps(value, indent=1, ensure_ascii=False, sort_keys=True) + "\n" for path, value in files.items()
    }
    return found | reference(api)


def main() -> int:
    stale = [p for p, text in published().items() if not p.exists() or p.read_text("utf-8") != text]
    if "--check" in sys.argv:
        for path in stale:
            print(f"{path.relative_to(ROOT)} is stale; run make types")
        return 1 if stale else 0
    for path, text in published().items():
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text, "utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
