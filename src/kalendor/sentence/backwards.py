"""Generates text from a value by the grammar's rules."""

import ast
import re
from collections.abc import Callable, Mapping, Sequence
from datetime import date
from typing import Any

from kalendor.core.values.days import short_day
from kalendor.sentence.grammar import WRITTEN_BETWEEN, Choice, Element, Literal, Phrases, Rule, Slot, grammar
from kalendor.sentence.meanings import INVERSES
from kalendor.sentence.names import Names
from kalendor.sentence.naming import plural
from kalendor.sentence.spelling import JOINING, TERMINALS, NoWordsError, joined, plain_name, quoted, text_of
from kalendor.sentence.tokens import folded

Json = Mapping[str, Any]
NAMES = frozenset([
    "COLUMN", "LEVELNAME", "TREE", "CALENDAR", "SET", "SOURCE", "NUMBERS", "DATES", "TEXTS", "COLUMNS", "TEXT",
    "LINES", "SHOWN",
])  # fmt: skip
OF_A_KIND = {"NUMBERS": "number", "DATES": "date", "TEXTS": "text"}
_WITHOUT_MARKS = re.compile(r"[^\W_][\w .&/’–-]*")
MOST_SHOWN = 6
WITH_SEPARATORS = 10_000
EPOCH = date(1970, 1, 1).toordinal()


class Backwards:
    """Writes values by the rules of the grammar. In the short form, as shown on a screen, known names are unquoted,
    long lists are cut, and defaults of the report are left out: `unsaid` tells whether a date is one, `before` is the
    figure before this one. `made` are names defined by the report itself."""

    def __init__(self, known: Names, short: bool, made: Sequence[str] = ()) -> None:
        self.known, self.short, self.made = known, short, made
        self.before: str | None = None
        self.inverses: dict[str, Callable[[Any], Any]] = dict(INVERSES)

    def unsaid(self, name: str) -> bool:
        """Whether a date need not be named."""
        return False

    def write(self, category: str, value: Any) -> str:
        """The text of a value in a category.

        Raises NoWordsError if no rule writes it.
        """
        for rule in grammar()[category].rules:
            if rule.read_only or (rule.short and not self.short):
                continue
            bound = self._bound(rule, value)
            if bound is None:
                continue
            try:
                return self._emit(rule.elements, bound)
            except NoWordsError:
                continue
        raise NoWordsError(f"no words for {value!r} as {category}")

    def _bound(self, rule: Rule, value: Any) -> dict[str, Any] | None:
        bound: dict[str, Any] = {}
        return bound if self._unify(rule.template, value, bound) else None

    def _unify(self, template: ast.expr, value: Any, bound: dict[str, Any]) -> bool:
        match template:
            case ast.Constant(value=constant):
                return bool(constant == value) and isinstance(value, bool) == isinstance(constant, bool)
            case ast.Name(id="date"):
                return isinstance(value, str) and self.unsaid(value)
            case ast.Name(id="before"):
                return self.short and value is not None and value == self.before
            case ast.Name(id=name):
                bound[name] = value
                return True
            case ast.Dict():
                return isinstance(value, dict) and self._unify_dict(template, value, bound)
            case ast.List(elts=elements):
                if not isinstance(value, list):
                    return False
                if elements and isinstance(elements[-1], ast.Starred):
                    bound[elements[-1].value.id], value = value[len(elements) - 1 :], value[: len(elements) - 1]  # type: ignore[attr-defined]
                    elements = elements[:-1]
                if len(value) != len(elements):
                    return False
                return all(self._unify(e, v, bound) for e, v in zip(elements, value, strict=True))
            case ast.Call(func=ast.Name(id=function), args=[ast.Name(id=name)]) if function in self.inverses:
                bound[name] = self.inverses[function](value)
                return bound[name] is not None
        return False

    def _unify_dict(self, template: ast.Dict, value: Json, bound: dict[str, Any]) -> bool:
        left = dict(value)
        rest: str | None = None
        for key, part in zip(template.keys, template.values, strict=True):
            if key is None:
                rest = _rest_of(part)
                if rest is None:
                    return False
            elif isinstance(key, ast.Constant):
                if key.value not in left or not self._unify(part, left.pop(key.value), bound):
                    return False
            elif isinstance(key, ast.Name):
                if len(left) != 1:
                    return False
                (bound[key.id], only), *_ = left.items()
                left = {}
                if not self._unify(part, only, bound):
                    return False
        if rest is not None:
            name, _, function = rest.partition(" ")
            bound[name] = self.inverses[function](left) if function else left
            return bound[name] is not None
        return not left

    def _emit(self, elements: Sequence[Element], bound: Mapping[str, Any]) -> str:
        words: list[str] = []
        for element in elements:
            if isinstance(element, Literal):
                words.append(element.word)
            elif isinstance(element, Phrases):
                words += () if element.optional else element.written
            elif isinstance(element, Choice):
                if not element.optional:
                    words.append(self._emit(element.ways[0], bound))
            else:
                words.append(self._slot(element, bound[element.name]))
        return joined(words)

    def _slot(self, slot: Slot, value: Any) -> str:
        if slot.separator is None:
            return self.said(slot.category, value)
        if not isinstance(value, list) or not value:
            raise NoWordsError
        members = [self.said(slot.category, one) for one in value]
        between = WRITTEN_BETWEEN[slot.separator]
        if self.short and len(members) > MOST_SHOWN:
            members = [*members[: MOST_SHOWN - 2], f"{len(members) - MOST_SHOWN + 2} more"]
        if slot.separator in ("and", "or") and len(members) > 2:
            return f"{', '.join(members[:-1])}{between}{members[-1]}"
        return between.join(members)

    def said(self, category: str, value: Any) -> str:
        """The text of a value in a category or kind of name."""
        return self.write(category, value) if category in grammar().categories else self.terminal(category, value)

    # -- names and numbers

    def terminal(self, kind: str, value: Any) -> str:
        """A name, number or day as written in the sentence."""
        written = TERMINALS.get(kind)
        if kind in ("YEAR", "LEVELS"):
            return text_of(value)
        if kind == "NUMBERTEXT" and self.short and str(value).isdigit() and int(value) >= WITH_SEPARATORS:
            return f"{int(value):,}"
        if kind == "LINES" and not self.short:
            return quoted(value)
        if kind in NAMES or (kind == "REF" and self.short):
            return self._column(kind, value)
        if kind == "DAY" and self.short and isinstance(value, str):
            return short_day(date.fromisoformat(value).toordinal() - EPOCH)
        if written is None:
            raise NoWordsError
        return written(value)

    def _column(self, kind: str, value: Any) -> str:
        if not isinstance(value, str):
            raise NoWordsError
        if kind in OF_A_KIND and self.known.columns and self.known.kind_of(value) != OF_A_KIND[kind]:
            raise NoWordsError
        return plural(self.name(value)) if kind == "COLUMNS" else self.name(value)

    def name(self, name: str) -> str:
        """A name as written in the sentence: in quotation marks if it could be read as something else."""
        if self.short:
            words = folded(name).split(" ")
            clear = any(word not in grammar().words for word in words) and all(word.isidentifier() for word in words)
            clear = clear or (self._is_known(name, words) and bool(_WITHOUT_MARKS.fullmatch(name)))
            return name.replace("_", " ") if clear else quoted(name)
        return name if plain_name(name) and name not in self.made else quoted(name)

    def _is_known(self, name: str, words: Sequence[str]) -> bool:
        """Whether a name made of the grammar's words is in the dictionary, if there is one, and is not a joining word."""
        if len(words) == 1 and words[0] in JOINING:
            return False
        return not self.known.columns or any(True for _ in self.known.exactly(name))


def _rest_of(part: ast.expr) -> str | None:
    """The name that the rest of a dictionary is bound to, and the function that made it."""
    match part:
        case ast.Name(id=name):
            return name
        case ast.Call(func=ast.Name(id=function), args=[ast.Name(id=name)]) if function in INVERSES:
            return f"{name} {function}"
    return None
