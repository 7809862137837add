"""Changes of the workspace's definitions in words: for reports the sentence before and after, for trees the values that
moved."""

from collections.abc import Iterator
from itertools import islice

from kalendor.definitions.kinds import Definition
from kalendor.definitions.report import Report
from kalendor.definitions.tree import Node, Tree
from kalendor.sentence.writing import brief
from kalendor.store.definitions import Revision, name_of

SHOWN = 6
ASIDE = {
    "export": "how it is exported", "headline": "its headline", "notes": "its notes", "cadence": "when it is issued",
    "delivery": "who gets it", "layout": "how it is set", "out_of_sight": "what is out of sight", "totals": "its totals",
    "controls": "its expected totals", "as_of": "its as-of date", "columns": "its made columns", "lines": "its worked lines",
    "silenced": "its silenced phrases", "records": "its listed records", "figures": "its figures", "keep": "what it keeps",
    "down": "its lines", "across": "its columns", "window": "its window", "only": "its conditions", "beside": "what is beside it",
}  # fmt: skip


def change_words(revision: Revision) -> list[str]:
    """The changes of a revision in words, a few lines."""
    body, before = revision.body, revision.before
    if before is None:
        said = _said(body)
        return [f"made new: {said}" if said else "made new"]
    found = list(islice(_changes(before, body), SHOWN + 1))
    return [*found[:SHOWN], *(["and more"] if len(found) > SHOWN else [])] or ["the same in all that can be read out"]


def _said(body: Definition) -> str:
    if isinstance(body, Report):
        return brief(body)
    return (
        f"{len(list(_placed(body.roots, ())))} values in {len(body.levels)} levels"
        if isinstance(body, Tree)
        else body.kind
    )


def _changes(before: Definition, after: Definition) -> Iterator[str]:
    if name_of(before) != name_of(after):
        yield f"called {name_of(after)} instead of {name_of(before)}"
    if isinstance(before, Report) and isinstance(after, Report):
        yield from _of_report(before, after)
    elif isinstance(before, Tree) and isinstance(after, Tree):
        yield from _of_tree(before, after)
    else:
        was, now = before.model_dump(mode="json", by_alias=True), after.model_dump(mode="json", by_alias=True)
        yield from (
            f"another {key.replace('_', ' ')}" for key in now if key not in ("name",) and was.get(key) != now[key]
        )


def _of_report(before: Report, after: Report) -> Iterator[str]:
    was, now = brief(before), brief(after)
    if was != now:
        yield f"{was} → {now}"
        return
    for key, words in ASIDE.items():
        if getattr(before, key) != getattr(after, key):
            yield f"changed {words}"


def _of_tree(before: Tree, after: Tree) -> Iterator[str]:
    was, now = dict(_placed(before.roots, ())), dict(_placed(after.roots, ()))
    for value, path in now.items():
        if value not in was:
            yield f"{value} placed {_under(path)}"
        elif was[value] != path:
            yield f"{value} moved from {_under(was[value])} to {_under(path)}"
    yield from (f"{value} no longer placed" for value in was if value not in now)
    rules, other = set(_rules(before.roots)), set(_rules(after.roots))
    yield from (f"the rule {rule} added" for rule in sorted(other - rules))
    yield from (f"the rule {rule} removed" for rule in sorted(rules - other))
    if was == now and rules == other and before.roots != after.roots:
        yield "other labels, or another order"


def _under(path: tuple[str, ...]) -> str:
    return f"under {' › '.join(path)}" if path else "at the top"


def _placed(nodes: list[Node], path: tuple[str, ...]) -> Iterator[tuple[str, tuple[str, ...]]]:
    for node in nodes:
        if node.value is not None:
            yield node.value, path
        yield from _placed(node.under, (*path, node.label or ""))


def _rules(nodes: list[Node]) -> Iterator[str]:
    for node in nodes:
        if node.rule is not None:
            yield node.rule
        yield from _rules(node.under)
