"""Optimistic concurrency (RFC 9110): a definition's revision is its ETag, and a change may name the revision it was made to."""

from typing import Annotated

from fastapi import Depends, Header, Response

from kalendor.errors import RevisionError


def tagged(response: Response, revision: int) -> None:
    """Set a definition's revision as the ETag of its answer."""
    response.headers["ETag"] = f'"{revision}"'


async def _expected(if_match: Annotated[str | None, Header()] = None) -> int | None:
    """The revision that a change was made to; None if not given.

    Raises RevisionError for a tag that is not one of a revision.
    """
    if if_match is None or if_match.strip() == "*":
        return None
    tags = [tag.strip() for tag in if_match.split(",")]
    numbers = [tag[1:-1] for tag in tags if len(tag) > 2 and tag[0] == tag[-1] == '"']
    if len(numbers) != 1 or not numbers[0].isdecimal() or len(numbers[0]) > 18:
        raise RevisionError(f"If-Match {if_match[:60]!r} names no revision of this; ask for it again")
    return int(numbers[0])


Expected = Annotated[int | None, Depends(_expected)]
