"""Personal marks on reports; each person sees only their own."""

from collections.abc import Iterable, Mapping

from kalendor.store.workspace import Workspace


class Marks:
    """The marks of a workspace, always those of the current user."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def all(self) -> Mapping[int, list[str]]:
        """The marks of each definition that has some, in alphabetical order."""
        rows = self.workspace.db.execute(
            "SELECT definition_id, name FROM mark WHERE person = ? ORDER BY name", (self.workspace.who,)
        )
        found: dict[int, list[str]] = {}
        for id, name in rows:
            found.setdefault(id, []).append(name)
        return found

    def put(self, id: int, names: Iterable[str]) -> None:
        """Replace the marks of a definition."""
        with self.workspace.change() as db:
            db.execute("DELETE FROM mark WHERE definition_id = ? AND person = ?", (id, self.workspace.who))
            marks = [(id, self.workspace.who, name) for name in dict.fromkeys(names)]
            db.executemany("INSERT INTO mark (definition_id, person, name) VALUES (?, ?, ?)", marks)
