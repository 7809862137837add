"""Integrity check, backup and restore of a workspace."""

import hashlib
import json
import shutil
import sqlite3
import tarfile
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from kalendor.core.values.columns import Column, Kind
from kalendor.core.values.notation import grouped
from kalendor.errors import DamagedError, DefinitionError, KalendorError, StoreError
from kalendor.store.column_cache import Kept, kept_records
from kalendor.store.definitions import Definitions
from kalendor.store.digests import digest_of
from kalendor.store.editions import Editions
from kalendor.store.rows import from_sql
from kalendor.store.sources import Source, Sources
from kalendor.store.workspace import Workspace, quoted

DATABASE, FILES = "kalendor.sqlite", "files"
PART, ROWS_AT_ONCE = 1 << 20, 100_000
MEND = "bring a backup back with kalendor restore"


def faults(folder: Path) -> list[str]:
    """Find damage in a workspace, in words with what to do; nothing if it is intact. Writes only to the cache.

    Raises DefinitionError if there is no workspace.
    """
    if not (folder / DATABASE).is_file():
        raise DefinitionError(f"{folder}: there is no workspace there")
    broken = database_faults(folder / DATABASE)
    if broken:
        return broken
    try:
        workspace = Workspace(folder)
    except KalendorError as error:
        return [str(error)]
    try:
        with workspace.snapshot():
            missing = list(_record_faults(workspace))
            return [
                *(missing or _value_faults(workspace)),
                *_file_faults(workspace),
                *_definition_faults(workspace),
                *_edition_faults(workspace),
            ]
    except (sqlite3.Error, KalendorError) as error:
        return [f"the database cannot be read to its end ({error}); {MEND}"]
    finally:
        workspace.close()


def database_faults(path: Path) -> list[str]:
    """Faults that SQLite finds in a database file."""
    try:
        db = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
        try:
            found = [row[0] for row in db.execute("PRAGMA integrity_check(5)")]
            lost = db.execute("PRAGMA foreign_key_check").fetchall()
        finally:
            db.close()
    except sqlite3.DatabaseError as error:
        return [f"{path.name} is no sound database ({error}); {MEND}"]
    wrong = [f"{path.name}: {line}; {MEND}" for line in found if line != "ok"]
    return wrong + ([f"{path.name}: {len(lost)} rows refer to what is not there; {MEND}"] if lost else [])


def _record_faults(workspace: Workspace) -> Iterator[str]:
    """Intakes with missing records, and missing columns of tables."""
    for source in Sources(workspace).all():
        here = {row["name"] for row in workspace.db.execute(f"PRAGMA table_info({source.table})")}
        lacks = [c.name for c in source.columns if c.sql_name not in here]
        if not here or lacks:
            what = f"its column {lacks[0]!r} is" if here else "its records are"
            yield f"source {source.name!r}: {what} missing; {MEND}"
            continue
        counts = dict(
            workspace.db.execute(f"SELECT intake_id, count(*) FROM {source.table} GROUP BY intake_id").fetchall()
        )
        for row in workspace.db.execute("SELECT id, file_name, records FROM intake WHERE source_id = ?", (source.id,)):
            found = counts.get(row["id"], 0)
            if found != row["records"]:
                yield (
                    f"source {source.name!r}: {row['file_name']} was {grouped(row['records'])} records, and {grouped(found)} are there;"
                    f" {MEND}, or undo that file and bring it in again"
                )


def _value_faults(workspace: Workspace) -> Iterator[str]:
    """Values that differ from those imported, in the records table or the column cache."""
    sources = Sources(workspace)
    for source in sources.all():
        for row in workspace.db.execute(
            "SELECT id, file_name, digests FROM intake WHERE source_id = ? AND digests IS NOT NULL", (source.id,)
        ).fetchall():
            for sql_name, kind, places, digest in json.loads(row["digests"]):
                if _digest_in_rows(workspace, source, row["id"], sql_name, Kind(kind), places) != digest:
                    yield (
                        f"source {source.name!r}: values of {row['file_name']} in its column {sql_name!r} are no longer"
                        f" what the file brought; {MEND}, or undo that file and bring it in again"
                    )
        kept = kept_records(sources.folder(source), source.revision)
        if kept is not None and not _as_the_rows_are(sources, source, kept):
            yield f"source {source.name!r}: the column cache has other values than the records; delete {workspace.cache}"


def _digest_in_rows(
    workspace: Workspace, source: Source, intake: int, sql_name: str, kind: Kind, places: int
) -> str | None:
    """The digest of an intake's values in a column of the records table; None if they cannot be read as its kind."""
    cursor = workspace.db.cursor()
    cursor.row_factory = None
    cursor.execute(f"SELECT {quoted(sql_name)} FROM {source.table} WHERE intake_id = ? ORDER BY row_id", (intake,))

    def parts() -> Iterator[Column]:
        while rows := cursor.fetchmany(ROWS_AT_ONCE):
            yield from_sql([row[0] for row in rows], kind, places)

    try:
        return digest_of(parts())
    except (ValueError, TypeError, OverflowError):
        return None


def _as_the_rows_are(sources: Sources, source: Source, kept: Kept) -> bool:
    own = sources.rows.from_rows(source)
    return np.array_equal(own.rows, kept.rows) and all(
        digest_of([column]) == digest_of([kept.records.columns[name]]) for name, column in own.records.columns.items()
    )


def _file_faults(workspace: Workspace) -> Iterator[str]:
    """Imported files that are missing or changed."""
    rows = workspace.db.execute("SELECT DISTINCT stored_as, sha256, file_name FROM intake")
    for row in rows:
        path = workspace.files / row["stored_as"]
        if not path.is_file():
            yield f"the file {row['file_name']} as it came is missing; put it at {path}, or {MEND}"
        elif _digest(path) != row["sha256"]:
            yield f"the file {row['file_name']} is no longer what it was; put it at {path} again, or {MEND}"


def _definition_faults(workspace: Workspace) -> Iterator[str]:
    try:
        Definitions(workspace).all("report", "tree", "calendar", "buckets")
    except KalendorError as error:
        yield f"a definition cannot be read: {error}; {MEND}"


def _edition_faults(workspace: Workspace) -> Iterator[str]:
    """Editions that were changed, or whose chain is broken."""
    for fault in Editions(workspace).faults():
        yield f"{fault}; {MEND}"


def _digest(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def back_up(folder: Path, to: Path) -> int:
    """Write a snapshot of a workspace with the imported files as one tar file; returns its size.

    Raises DamagedError if the database is damaged, StoreError if the copy cannot be written; nothing is left then.
    """
    if to.exists():
        raise DefinitionError(f"{to}: there is a file already; choose another name")
    if not (folder / DATABASE).is_file():
        raise DefinitionError(f"{folder}: there is no workspace there")
    broken = database_faults(folder / DATABASE)
    if broken:
        raise DamagedError(f"{folder}: not backed up, for it is damaged: {broken[0]}")
    part = to.with_name(f".{to.name}.part")
    try:
        with tempfile.TemporaryDirectory(dir=to.parent) as scratch:
            copy = Path(scratch) / DATABASE
            workspace = Workspace(folder)
            workspace.copy_to(copy)
            workspace.close()
            broken = database_faults(copy)
            if broken:
                raise DamagedError(f"{folder}: not backed up, for its copy is damaged: {broken[0]}")
            with tarfile.open(part, "w") as archive:
                archive.add(copy, DATABASE)
                for name in _stored(copy):
                    archive.add(folder / FILES / name, f"{FILES}/{name}")
        part.replace(to)
    except FileNotFoundError as error:
        part.unlink(missing_ok=True)
        raise DamagedError(f"{folder}: not backed up, for a file as it came is missing ({error.filename})") from None
    except (OSError, tarfile.TarError) as error:
        part.unlink(missing_ok=True)
        raise StoreError(f"{to}: the copy cannot be written ({error})") from None
    except KalendorError:
        part.unlink(missing_ok=True)
        raise
    return to.stat().st_size


def _stored(database: Path) -> list[str]:
    db = sqlite3.connect(database)
    try:
        return [row[0] for row in db.execute("SELECT DISTINCT stored_as FROM intake ORDER BY stored_as")]
    finally:
        db.close()


def restore(backup: Path, folder: Path) -> None:
    """Restore a backup into a folder that is empty or missing, completely or not at all.

    Raises DefinitionError if the folder is not empty, DamagedError if the backup is incomplete.
    """
    if folder.exists() and any(folder.iterdir()):
        raise DefinitionError(f"{folder}: it is not empty; restore into a new folder")
    part = folder.with_name(f".{folder.name}.part")
    shutil.rmtree(part, ignore_errors=True)
    try:
        part.mkdir(parents=True)
        with tarfile.open(backup, "r:") as archive:
            for member in archive:
                plain = member.isreg() and (member.name == DATABASE or _is_stored(member.name))
                if not plain:
                    raise DamagedError(
                        f"{backup}: it holds {member.name!r}, which no backup does; nothing was restored"
                    )
                archive.extract(member, part, filter="data")
        (part / FILES).mkdir(exist_ok=True)
        broken = faults(part) if (part / DATABASE).is_file() else [f"it holds no {DATABASE}"]
        if broken:
            raise DamagedError(f"{backup}: it is not whole, and nothing was restored: {broken[0]}")
        shutil.rmtree(part / "cache", ignore_errors=True)
        if folder.exists():
            folder.rmdir()
        part.rename(folder)
    except (OSError, tarfile.TarError) as error:
        raise DamagedError(f"{backup}: it cannot be restored ({error}); nothing was changed") from None
    finally:
        shutil.rmtree(part, ignore_errors=True)


def _is_stored(name: str) -> bool:
    folder, _, digest = name.partition("/")
    return folder == FILES and len(digest) == 64 and all(c in "0123456789abcdef" for c in digest)
