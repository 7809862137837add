"""A headline in English, in two lengths.

The long one is several sentences with exact numbers, the short one a line or two with spoken numbers. Both are made
from the same facts by the rules below, so that they cannot contradict each other.
"""

from collections.abc import Callable, Sequence

from kalendor.output.headline.facts import Change, Facts, Move, Said, Total
from kalendor.output.told import listed

MOST_NAMED = 3
Number = Callable[[Said], str]


def long(facts: Facts) -> tuple[str, ...]:
    """The sentences with exact numbers."""
    return tuple(s for s in (_total(facts, _exact), _behind(facts), _others(facts.others), _not_placed(facts)) if s)


def short(facts: Facts) -> str:
    """The total and its change in spoken numbers, and who changed most, without amounts."""
    moves = "; ".join(f"{_members(move)} {_went(move)}" for move in facts.moves)
    return f"{_total(facts, _spoken)}{f' {moves}.' if moves else ''}"


def change_words(change: Change, number: Number) -> str:
    """A change in words, as `7.4% more than a year earlier`."""
    if change.lacking or change.size is None:
        return change.lacking
    if not change.way:
        return f"the same as {change.base}" if change.beside else f"as much as {change.base}"
    if change.beside:
        return f"{number(change.size)} {'above' if change.way > 0 else 'below'} {change.base}"
    return f"{number(change.size)} {'more' if change.way > 0 else 'less'} than {change.base}"


def _exact(said: Said) -> str:
    return said.exact


def _spoken(said: Said) -> str:
    return said.spoken


def _total(facts: Facts, number: Number) -> str:
    when = f" {facts.when}" if facts.when else ""
    return _capital(f"{facts.total.name}{when} {_came_to(facts.total, number)}.")


def _capital(sentence: str) -> str:
    return sentence[:1].upper() + sentence[1:]


def _came_to(total: Total, number: Number) -> str:
    amount = "nothing" if total.nothing and total.adds else number(total.amount)
    change = change_words(total.change, number) if total.change else ""
    if total.change and total.change.upto and not total.change.lacking:
        return f"{'came to' if total.adds else 'was'} {amount}; {total.change.upto}, it was {change}"
    return f"{'came to' if total.adds else 'was'} {amount}{f', {change}' if change else ''}"


def _behind(facts: Facts) -> str:
    """What drove the change; if nothing is compared, or nothing changed, the largest line."""
    if facts.moves:
        return f"{'; '.join(_moved(move) for move in facts.moves)}."
    if not facts.largest or facts.largest_amount is None:
        return ""
    several = len(facts.largest) > 1
    with_ = f"with {facts.largest_amount.exact}{' each' if several else ''}"
    return f"{_named(facts.largest)} {'are' if several else 'is'} largest, {with_}."


def _moved(move: Move) -> str:
    part = f" ({move.part})" if move.part else ""
    each = " each" if len(move.members) > 1 else ""
    size = f", by {move.size.exact}{part}{each}" if move.size else ""
    return f"{_members(move)} {_went(move)}{size}"


def _members(move: Move) -> str:
    return _named(move.members)


def _went(move: Move) -> str:
    several = len(move.members) > 1
    most = "most " if move.most else ""
    match move.way:
        case "came":
            return "came new"
        case "went":
            return "are gone" if several else "is gone"
        case "above" | "below":
            return f"{'are' if several else 'is'} {most}{move.way} {move.base}"
        case _:
            return f"{move.way} {most}".rstrip()


def _named(members: Sequence[str]) -> str:
    """A list of names in words, the first few of many.

    >>> _named(["a", "b", "c", "d", "e"])
    'a, b and 3 others'
    """
    if len(members) <= MOST_NAMED:
        return listed(members)
    return f"{', '.join(members[: MOST_NAMED - 1])} and {len(members) - MOST_NAMED + 1} others"


def _others(totals: Sequence[Total]) -> str:
    return _capital(f"{'; '.join(f'{total.name} {_came_to(total, _exact)}' for total in totals)}.") if totals else ""


def _not_placed(facts: Facts) -> str:
    return f"{facts.not_placed.exact} of it has no {facts.not_placed_level} yet." if facts.not_placed else ""
