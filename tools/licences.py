"""Writes docs/reference/licences.md: the packages that Kalendor is made with and their licences, from what is installed."""

import importlib.metadata as metadata
import json
import re
import tomllib
from pathlib import Path

ROOT = Path(__file__).parents[1]
NAME = re.compile(r"[A-Za-z0-9_.-]+")
HEAD = """# Packages and their licences

What Kalendor needs to run, and what these need in turn; made by `make licences`. Fonts: IBM Plex Sans and Source Serif 4, both under
the SIL Open Font License 1.1.
"""


def python_packages() -> list[tuple[str, str, str]]:
    """Those that run on the server: name, version, licence."""
    wanted = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["dependencies"]
    found: dict[str, tuple[str, str, str]] = {}
    while wanted:
        name = re.sub(r"[-_.]+", "-", NAME.match(wanted.pop()).group(0)).lower()  # type: ignore[union-attr]
        try:
            one = metadata.distribution(name)
        except metadata.PackageNotFoundError:
            continue  # not needed on this kind of machine
        if name not in found:
            found[name] = (one.metadata["Name"], one.version, licence(one.metadata))
            wanted += [r for r in one.requires or [] if "extra ==" not in r]
    return [found[name] for name in sorted(found)]


def licence(told: metadata.PackageMetadata) -> str:
    """The licence as the package tells it, in few words."""
    expression = told.get("License-Expression")
    kinds = [k.split(" :: ")[-1] for k in told.get_all("Classifier") or [] if k.startswith("License ::")]
    plain = (told.get("License") or "").splitlines()
    return (
        expression or ", ".join(k for k in kinds if k != "OSI Approved") or (plain[0] if plain else "see the package")
    )


def page_packages() -> list[tuple[str, str, str]]:
    """Those whose code goes into the page."""
    lock = json.loads((ROOT / "web" / "package-lock.json").read_text())["packages"]
    kept = {path: one for path, one in lock.items() if path.startswith("node_modules/") and not one.get("dev")}
    return [
        (p.rpartition("node_modules/")[2], one["version"], one.get("license", "see the package"))
        for p, one in sorted(kept.items())
    ]


def main() -> None:
    parts = [HEAD]
    for title, packages in (("On the server", python_packages()), ("In the page", page_packages())):
        lines = "\n".join(f"| {name} | {version} | {said} |" for name, version, said in packages)
        parts.append(f"## {title}\n\n| package | version | licence |\n|---|---|---|\n{lines}\n")
    (ROOT / "docs" / "reference" / "licences.md").write_text("\n".join(parts))


if __name__ == "__main__":
    main()
