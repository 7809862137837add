"""Bundles out of a workspace and into another: what clashes, and how each clash is resolved."""

import json
from dataclasses import dataclass
from typing import Any, Literal, cast

from kalendor.definitions.bundle import Bundle
from kalendor.definitions.document import parse
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.report import Report
from kalendor.definitions.resting import entries_on
from kalendor.desk.desk import Desk
from kalendor.desk.new_report import free_title
from kalendor.store.definitions import Stored

Resolved = Literal["keep", "replace", "rename"]
NAMING = {"tree": "tree", "calendar": "calendar", "buckets": "set"}  # the key by which a report names each kind


@dataclass(frozen=True)
class Clash:
    """A grouping of the bundle whose name is taken here by another that differs; `used` by so many reports here."""

    kind: str
    name: str
    used: int


def bundle_of(desk: Desk, report: Report) -> Bundle:
    """A report with the groupings that it names and the recipe of its source."""
    stored = [cast(Grouping, d.body) for d in desk.definitions.all("tree", "calendar", "buckets")]
    used = [grouping for grouping in stored if entries_on(report, grouping)]
    source = desk.sources.named(report.source)
    recipes = [source.recipe] if source is not None and source.report_id is None else []
    return Bundle(documents=[report, *used, *recipes])


def as_file(bundle: Bundle) -> str:
    """A bundle as text that reads well in a diff: a key a line, nothing said that goes without saying."""
    documents = [
        {"kalendor": 1, "kind": d.kind, **d.model_dump(mode="json", by_alias=True, exclude_defaults=True)}
        for d in bundle.documents
    ]
    return json.dumps({"kalendor": 1, "kind": "bundle", "documents": documents}, ensure_ascii=False, indent=1) + "\n"


def clashes(desk: Desk, bundle: Bundle) -> list[Clash]:
    """What of a bundle stands here under the same name, and is not the same."""
    reports = [cast(Report, d.body) for d in desk.definitions.all("report")]
    found = []
    for grouping in bundle.groupings():
        here = desk.definitions.named(grouping.kind, grouping.name)
        if here is not None and here.body != grouping:
            found.append(Clash(grouping.kind, grouping.name, sum(bool(entries_on(r, grouping)) for r in reports)))
    return found


def bring_in(desk: Desk, bundle: Bundle, resolved: dict[str, Resolved], source: str | None) -> Stored:
    """The bundle's report, added with a title of its own over `source` (the one that it names where left out), and its
    groupings. A grouping that clashes is kept as it is here, replaced, or brought in under another name, as `resolved`
    says by its name; kept where nothing is said. All of it, or nothing."""
    report = bundle.report()
    document: dict[str, Any] = report.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    at = desk.now()
    with desk.workspace.change():
        for grouping in bundle.groupings():
            here = desk.definitions.named(grouping.kind, grouping.name)
            if here is None:
                desk.definitions.add(grouping, at)
            elif here.body != grouping and resolved.get(grouping.name) == "replace":
                desk.definitions.save(here.id, grouping, at)
            elif here.body != grouping and resolved.get(grouping.name) == "rename":
                name = _free(desk, grouping)
                desk.definitions.add(grouping.model_copy(update={"name": name}), at)
                document = renamed(document, NAMING[grouping.kind], grouping.name, name)
        document |= {"kalendor": 1, "kind": "report", "title": free_title(desk, report.title)}
        if source:
            document["source"] = source
        return desk.definitions.add(parse(Report, document, "the bundle's report"), at)


def _free(desk: Desk, grouping: Grouping) -> str:
    n = 2
    while desk.definitions.named(grouping.kind, f"{grouping.name} ({n})") is not None:
        n += 1
    return f"{grouping.name} ({n})"


def renamed(document: Any, key: str, old: str, new: str) -> Any:
    """A document in which every `key` that names `old` names `new`.

    >>> renamed({"down": [{"category": "a", "tree": "T"}]}, "tree", "T", "T (2)")
    {'down': [{'category': 'a', 'tree': 'T (2)'}]}
    """
    if isinstance(document, dict):
        return {k: new if k == key and v == old else renamed(v, key, old, new) for k, v in document.items()}
    return [renamed(one, key, old, new) for one in document] if isinstance(document, list) else document
