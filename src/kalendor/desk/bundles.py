"""Exports bundles from a workspace and imports them into another: name clashes, and how each is resolved."""

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
NAMING = {"tree": "tree", "calendar": "calendar", "buckets": "set"}  # the key under which a report refers to each kind


@dataclass(frozen=True)
class Clash:
    """A grouping of the bundle whose name is taken by a different one here, which is used by `used` reports."""

    kind: str
    name: str
    used: int


@dataclass(frozen=True)
class Need:
    """Something that a bundle's report depends on and the bundle does not contain: a source, a column of it, or a
    grouping, in words; `here` says whether this workspace has it."""

    what: Literal["source", "column", "grouping"]
    name: str
    of: str
    here: bool


def bundle_of(desk: Desk, report: Report, with_notes: bool = False, with_delivery: bool = False) -> Bundle:
    """A report with the groupings it refers to, the recipe of its source and, as columns of its own, the source's made
    columns that it uses. Notes and distribution are left out unless requested."""
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
    """What a bundle's report depends on and the bundle does not contain, if it is put over `source`."""
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
    """A bundle as text that diffs well: one key a line, defaults left out."""
    documents = [
        {"kalendor": 1, "kind": d.kind, **d.model_dump(mode="json", by_alias=True, exclude_defaults=True)}
        for d in bundle.documents
    ]
    return json.dumps({"kalendor": 1, "kind": "bundle", "documents": documents}, ensure_ascii=False, indent=1) + "\n"


def clashes(desk: Desk, bundle: Bundle) -> list[Clash]:
    """The groupings of a bundle for which a different one of the same name exists here."""
    reports = [cast(Report, d.body) for d in desk.definitions.all("report")]
    found = []
    for grouping in bundle.groupings():
        here = desk.definitions.named(grouping.kind, grouping.name)
        if here is not None and here.body != grouping:
            found.append(Clash(grouping.kind, grouping.name, sum(bool(entries_on(r, grouping)) for r in reports)))
    return found


def stand_ins(desk: Desk, bundle: Bundle, source: str | None) -> Sequence[Needed]:
    """The columns that a bundle's report refers to, each with its most likely counterpart in the source it is put over;
    empty if that source does not exist here or has all of them."""
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
    """Add the bundle's report, under a unique title, over `source` (default: the one it refers to), and its groupings.
    `pairs` maps the columns that the report refers to to columns of the source, where they differ. `resolved` says by
    the name of each clashing grouping whether the existing one is used (the default), replaced, or the bundle's
    imported under another name. All of it is done, or nothing."""
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
        if there is not None:  # skip those that the source here defines in the same way
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
    """A document in which every `key` with the value `old` has the value `new`.

    >>> renamed({"down": [{"category": "a", "tree": "T"}]}, "tree", "T", "T (2)")
    {'down': [{'category': 'a', 'tree': 'T (2)'}]}
    """
    if isinstance(document, dict):
        return {k: new if k == key and v == old else renamed(v, key, old, new) for k, v in document.items()}
    return [renamed(one, key, old, new) for one in document] if isinstance(document, list) else document
