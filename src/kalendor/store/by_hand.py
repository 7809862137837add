"""Records entered by hand; files never replace them."""

from dataclasses import dataclass

import numpy as np

from kalendor.core.values.columns import Records
from kalendor.store.column_cache import Kept
from kalendor.store.joining import Index
from kalendor.store.record_rows import Held
from kalendor.store.workspace import Workspace


@dataclass(frozen=True, eq=False)
class Filed:
    """The records of a source that came in files; `at`, shape (n,), are their positions among all records."""

    records: Records
    at: Index


def hand_rows(workspace: Workspace, source: Held) -> Index:
    """The ids of a source's rows that were entered by hand, rising."""
    intakes = workspace.db.execute(
        "SELECT id FROM intake WHERE source_id = ? AND origin = 'hand'", (source.id,)
    ).fetchall()
    found = [
        row[0]
        for (intake,) in intakes
        for row in workspace.db.execute(f"SELECT row_id FROM {source.table} WHERE intake_id = ?", (intake,))
    ]
    return np.array(sorted(found), dtype=np.int64)


def filed(workspace: Workspace, source: Held, kept: Kept) -> Filed:
    """Those of the given records of a source that came in files."""
    by_hand = hand_rows(workspace, source)
    if not len(by_hand):
        return Filed(kept.records, np.arange(len(kept.rows)))
    at = np.flatnonzero(~np.isin(kept.rows, by_hand))
    return Filed(kept.records.take(at), at)
