"""How long a sentence of 30 words is read for, over 200 columns and 20,000 values; and how long the same is written for."""

import random
import time
from datetime import date

from kalendor.sentence.names import Column, Names, names
from kalendor.sentence.reading import read
from kalendor.sentence.writing import brief

SENTENCE = (
    "net and average cost by area then the top 5 clinics, across by fiscal year then quarter, this fiscal year against last,"
    " only completed, excluding north, where net is over 500"
)
SYLLABLES = ["ka", "lo", "mi", "ter", "va", "sen", "dor", "pel", "gri", "nu", "hol", "fi"]
COLUMNS, VALUES, TIMES = 200, 20_000, 40
TODAY = date(2026, 8, 4)


def dictionary() -> Names:
    """A dictionary of so many columns and values."""
    draw = random.Random(3)

    def word(syllables: int) -> str:
        return "".join(draw.choice(SYLLABLES) for _ in range(syllables))

    own = [
        Column(*pair.split(":"))
        for pair in ["net:number", "cost:number", "area:text", "clinic:text", "status:text", "sold_on:date"]
    ]
    more = [Column(f"{word(2)}_{word(3)}", draw.choice(["number", "text", "date"])) for _ in range(COLUMNS - len(own))]
    values = {
        "area": ["north", "south", "west"],
        "status": ["completed", "cancelled"],
        "clinic": [f"{word(3)} {word(2)}" for _ in range(VALUES)],
    }
    return names([*own, *more], values, calendars=["Fiscal year"])


def main() -> None:
    """Print the medians in milliseconds, beside a loop that does nothing but count, for the machine's speed."""
    started = time.perf_counter()
    known = dictionary()
    made = time.perf_counter() - started
    found = read(SENTENCE, known, TODAY)
    assert found.report is not None
    assert found.whole, found.unknown
    reading = sorted(_timed(lambda: read(SENTENCE, known, TODAY)) for _ in range(TIMES))
    writing = sorted(_timed(lambda: brief(found.report, known)) for _ in range(TIMES))  # type: ignore[arg-type]
    counting = sorted(_timed(lambda: sum(range(100_000))) for _ in range(TIMES))
    print(
        f"a sentence of {len(SENTENCE.split())} words over {COLUMNS} columns and {VALUES:,} values, medians of {TIMES}:"
    )
    print(f"  read {reading[TIMES // 2]:.1f} ms, at best {reading[0]:.1f}; written {writing[TIMES // 2]:.1f} ms")
    print(
        f"  the dictionary made once in {made * 1000:.0f} ms; counting to 100,000 takes {counting[TIMES // 2]:.2f} ms here"
    )


def _timed(work: object) -> float:
    started = time.perf_counter()
    work()  # type: ignore[operator]
    return (time.perf_counter() - started) * 1000


if __name__ == "__main__":
    main()
