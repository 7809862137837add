"""A chart parser: all readings of each category at each position, cheapest first, memoized until the sentence ends."""

from collections.abc import Iterator, Mapping
from typing import Any

from kalendor.sentence.grammar import SEPARATORS, Choice, Element, Grammar, Literal, Node, Phrases, Rule, Slot
from kalendor.sentence.lexicon import Lexicon

Mark = tuple[int, int, str]  # from one token to another, and the tone of the words between
Reading = tuple[int, Any, float, tuple[Mark, ...]]  # the token after it, its meaning, its cost, its marks
State = tuple[int, dict[str, Any], float, tuple[Mark, ...]]
KEPT_PER_END = 4
UNKNOWN = "unknown"


class Unfit(Exception):
    """The meaning of a rule's words is impossible."""


class Chart:
    """All meanings of each category at each position of one text, memoized.

    `functions` are those that rules may call in their meanings.
    """

    def __init__(self, grammar: Grammar, lexicon: Lexicon, functions: Mapping[str, Any]) -> None:
        self.grammar, self.lexicon = grammar, lexicon
        self._functions = {"__builtins__": {}, **functions}
        self._known: dict[tuple[str, int], list[Reading]] = {}
        self._begins: dict[int, set[str]] = {}

    def readings(self, category: str, at: int) -> list[Reading]:
        """All meanings of a category or kind of name from a token on."""
        if category not in self.grammar.categories:
            return self._terminals(category, at)
        key = (category, at)
        found = self._known.get(key)
        if found is None:
            self._known[key] = []  # no left recursion
            found = self._known[key] = self._read(category, at)
        return found

    def _terminals(self, kind: str, at: int) -> list[Reading]:
        unknown = kind in ("UNKNOWN", "UNSURE")
        found = self.lexicon.at(at).get(kind, ())
        return [(end, value, cost, ((at, end, UNKNOWN),) if unknown else ()) for end, value, cost in found]

    def _begin(self, at: int) -> set[str]:
        found = self._begins.get(at)
        if found is None:
            found = self._begins[at] = {"", *self.lexicon.at(at), *self.lexicon.words[at : at + 1]}
        return found

    def _read(self, name: str, at: int) -> list[Reading]:
        category = self.grammar[name]
        found: list[Reading] = []
        self._walk(category.root, [(at, {}, 0.0, ())], found)
        if category.tone:
            found = [
                (end, meaning, cost, ((at, end, category.tone), *(mark for mark in marks if mark[2] == UNKNOWN)))
                for end, meaning, cost, marks in found
            ]
        return cheapest(found)

    def _walk(self, node: Node, states: list[State], found: list[Reading]) -> None:
        """Add the meanings of the rules from a node on."""
        for rule in node.rules:
            found += self._meant(rule, states)
        if node.literals:
            words = self.lexicon.words
            onward: dict[str, list[State]] = {}
            for at, bound, cost, marks in states:
                if at < len(words) and words[at] in node.literals:
                    onward.setdefault(words[at], []).append((at + 1, bound, cost, marks))
            for word, after in onward.items():
                self._walk(node.literals[word], after, found)
        if node.others:
            begins = self._begin(states[0][0])
            if len(states) > 1:
                begins = begins.union(*(self._begin(state[0]) for state in states[1:]))
            for element, next_node, first in node.others:
                if not first.isdisjoint(begins) and (after := self._step(element, states)):
                    self._walk(next_node, after, found)

    def _meant(self, rule: Rule, states: list[State]) -> Iterator[Reading]:
        for end, bound, cost, marks in states:
            try:
                yield end, eval(rule.meaning, self._functions, self._bound(rule, bound)), cost + rule.cost, marks
            except Unfit:
                continue

    def _bound(self, rule: Rule, bound: dict[str, Any]) -> dict[str, Any]:
        return {**dict.fromkeys(rule.slots), **bound} if len(bound) < len(rule.slots) else bound

    def _matched(self, elements: tuple[Element, ...], states: list[State]) -> list[State]:
        for element in elements:
            if not states:
                break
            states = self._step(element, states)
        return states

    def _step(self, element: Element, states: list[State]) -> list[State]:
        words = self.lexicon.words
        if isinstance(element, Literal):
            return [
                (at + 1, bound, cost, marks)
                for at, bound, cost, marks in states
                if at < len(words) and words[at] == element.word
            ]
        if isinstance(element, Phrases):
            return self._phrases(element, states)
        if isinstance(element, Choice):
            onward = list(states) if element.optional else []
            for way in element.ways:
                onward += self._matched(way, states)
            return onward
        if len(states) == 1:
            return self._slot(element, states[0])
        return [after for state in states for after in self._slot(element, state)]

    def _phrases(self, element: Phrases, states: list[State]) -> list[State]:
        words = self.lexicon.words
        onward = list(states) if element.optional else []
        for state in states:
            at = state[0]
            for run in element.by_first.get(words[at], ()) if at < len(words) else ():
                end = at + len(run)
                if len(run) == 1 or tuple(words[at:end]) == run:
                    onward.append((end, *state[1:]))
        return onward

    def _slot(self, slot: Slot, state: State) -> list[State]:
        at, bound, cost, marks = state
        if slot.separator is None:
            found = self.readings(slot.category, at)
        else:
            found = self._list(slot.category, slot.separator, at)
        name = slot.name
        return [(end, {**bound, name: value}, cost + more, marks + own) for end, value, more, own in found]

    def _list(self, category: str, separator: str, at: int) -> list[Reading]:
        key = (f"{category}*{separator}", at)
        if key not in self._known:
            self._known[key] = self._members(category, separator, at)
        return self._known[key]

    def _members(self, category: str, separator: str, at: int) -> list[Reading]:
        """The readings of a list, of every length."""
        latest = [(end, [value], cost, marks) for end, value, cost, marks in self.readings(category, at)]
        found = list(latest)
        words = self.lexicon.words
        while latest:
            longer: list[Reading] = []
            for end, values, cost, marks in latest:
                for way in SEPARATORS[separator]:
                    if tuple(words[end : end + len(way)]) == way:
                        longer += [
                            (after, [*values, value], cost + more, marks + own)
                            for after, value, more, own in self.readings(category, end + len(way))
                        ]
            latest = cheapest(longer)
            found += latest
        return cheapest(found)


def cheapest(readings: list[Reading]) -> list[Reading]:
    """The cheapest few readings that end at each position, cheapest first."""
    if len(readings) < 2:
        return readings
    kept: list[Reading] = []
    ends: dict[int, int] = {}
    for reading in sorted(readings, key=lambda r: r[2]):
        count = ends.get(reading[0], 0)
        if count < KEPT_PER_END and not (count and any(reading[:2] == k[:2] for k in kept)):
            ends[reading[0]] = count + 1
            kept.append(reading)
    return kept
