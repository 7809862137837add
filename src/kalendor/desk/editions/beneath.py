"""Whether the files beneath an edition over a linked source are unchanged."""

from kalendor.core.values.notation import grouped
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import Opened
from kalendor.desk.linked.looking import changed_since


def changed_beneath(desk: Desk, edition: Opened) -> str:
    """How the files beneath an edition changed since it was issued, in words; empty if they did not, or were imported."""
    own = edition.ingredients.sources[0]
    link = desk.linked.of(own.id)
    if link is None:
        return ""
    differ = changed_since(desk, link, max(own.intakes))
    gone = len(differ.changed) + len(differ.gone)
    if not gone:
        return ""
    count, _ = desk.linked.counted(max(own.intakes))
    files = f"{grouped(gone)} of its {grouped(count)} files" if count > 1 else "its file"
    return f"{files} in {link.folder} changed or went since; their records can no longer be shown one by one"
