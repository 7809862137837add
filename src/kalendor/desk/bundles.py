"""Bundles out of a workspace and into another: what clashes, and how each clash is resolved."""

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal, cast

from kalendor.definitions.bundle import Bundle
from kalendor.definitions.document import parse
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.report import Report
from kalendor.definitions.resting import entries_on, groupings_named
from kalendor.desk.columns_named import columns_named, with_made_columns
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import looked_up_by
from kalendor.desk.new_report import free_title
from kalendor.desk.putting_over import Needed, needed, put_over
from kalendor.store.definitions import Stored

Resolved = Literal["keep", "replace", "rename"]
NAMING = {"tree": "tree", "calendar": "calendar", "buckets": "set"}  # the key by which a report names each kind


@dataclass(frozen=True)
class Clash:
    """A grouping of the bundle whose name is taken here by another that differs; `used` by so many reports here."""

    kind: str
    name: str
    used: int


@dataclass(frozen=True)
class Need:
    """Something that a bundle's report rests on and that the bundle does not hold: a source, a column of it, or a grouping,
    in words; `here` says whether this workspace has it."""

    what: Literal["source", "column", "grouping"]
    name: str
    of: str
    here: bool


def bundle_of(desk: Desk, report: Report, with_notes: bool = False, with_delivery: bool = False) -> Bundle:
    """A report with the groupings that it names, the recipe of its source, and, among its own columns, those made columns of
    the source that it uses. Notes and to whom it goes stay here unless they are asked for."""
    report = with_made_columns(desk, report)
    if not with_notes:
        report = report.model_copy(update={"notes": []})
    if not with_delivery:
        report = report.model_copy(update={"delivery": None})
    stored = [cast(Grouping, d.body) for d in desk.definitions.all("tree", "calendar", "buckets")]
    used = [grouping for grouping in stored if entries_on(report, grouping)]
    source = desk.sources.named(report.source)
    recipes = [source.recipe] if source is not None and source.report_id is None else []
    return Bundle(documents=[report, *used, *recipes])


def needs(desk: Desk, bundle: Bundle, source: str | None = None) -> list[Need]:
    """What a bundle's report rests on and the bundle does not hold; `source` is the one that it is to be put over."""
    report = bundle.report()
    over = source or report.source
    found = list(_needs_of_source(desk, over, columns_named(report, report.source), {c.name for c in report.columns}))
    for name in [*looked_up_by(report.columns), *(beside.source for beside in report.beside)]:
        found += _needs_of_source(desk, name, columns_named(report, name), set())
    held = {(grouping.kind, grouping.name) for grouping in bundle.groupings()}
    for kind, name in sorted(groupings_named(report) - held):
        found.append(Need("grouping", name, kind, desk.definitions.named(kind, name) is not None))
    return list(dict.fromkeys(found))


def _needs_of_source(desk: Desk, name: str, columns: Sequence[str], made: set[str]) -> Iterator[Need]:
    source = desk.sources.named(name)
    yield Need("source", name, "", source is not None)
    there = set() if source is None else {c.name for c in (*source.columns, *source.made)}
    yield from (Need("column", column, name, column in there) for column in columns if column not in made)


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


def stand_ins(desk: Desk, bundle: Bundle, source: str | None) -> Sequence[Needed]:
    """The columns that a bundle's report names, each with what most likely stands for it in the source that it is put over;
    none where that is not here, or has all of them."""
    report = bundle.report()
    there = desk.sources.named(source or report.source)
    found = [] if there is None else needed(desk, report, there)
    return found if any(one.found != one.column for one in found) else []


def bring_in(
    desk: Desk,
    bundle: Bundle,
    resolved: dict[str, Resolved],
    source: str | None,
    pairs: Mapping[str, str] | None = None,
) -> Stored:
    """The bundle's report, added with a title of its own over `source` (the one that it names where left out), and its
    groupings. `pairs` says which column of the source stands for each that the report names, where they differ. A grouping that clashes is kept as it is here, replaced, or brought in under another name, as `resolved`
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
        there = desk.sources.named(source or report.source)
        if there is not None:  # those that the source here makes in the same way need not be made twice
            document["columns"] = [
                d for d, c in zip(document.get("columns", []), report.columns, strict=True) if c not in there.made
            ]
        document |= {"kalendor": 1, "kind": "report", "title": free_title(desk, report.title)}
        if source and not pairs:
            document["source"] = source
        made = parse(Report, document, "the bundle's report")
        return desk.definitions.add(put_over(desk, made, there, pairs) if there and pairs else made, at)


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
