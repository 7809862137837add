"""Sources over HTTP: lists, columns, bringing files in."""

from typing import Annotated

from fastapi import APIRouter, File, Form, UploadFile
from starlette.concurrency import run_in_threadpool

from kalendor.api import models
from kalendor.api.desk import AtDesk
from kalendor.core import texts
from kalendor.core.columns import Column
from kalendor.desk import bringing_in
from kalendor.desk.desk import Desk
from kalendor.desk.profile import profiles
from kalendor.errors import DefinitionError, IntakeError
from kalendor.store.sources import Intake, Source, days_spanned

router = APIRouter(prefix="/api", tags=["sources"])
MOST_BYTES = 2 << 30
SHOWN_REFUSED = 50
SHOWN_VALUES = 500


def _line(desk: Desk, source: Source) -> models.SourceLine:
    intakes = [i for i in desk.sources.intakes(source) if i.undone_at is None]
    first = [i.first_day for i in intakes if i.first_day]
    last = [i.last_day for i in intakes if i.last_day]
    return models.SourceLine(
        id=source.id,
        name=source.name,
        records=desk.sources.records(source).count,
        files=len(intakes),
        refused=sum(i.refused for i in intakes),
        first_day=min(first, default=None),
        last_day=max(last, default=None),
    )


def _intake(intake: Intake) -> models.IntakeView:
    return models.IntakeView(
        id=intake.id, file_name=intake.file_name, brought_at=intake.brought_at, joined_by=intake.joined_by,
        records=intake.records, refused=intake.refused, replaced=intake.replaced,
        first_day=intake.first_day, last_day=intake.last_day, undone=intake.undone_at is not None,
    )  # fmt: skip


def _view(desk: Desk, source: Source) -> models.SourceView:
    key = f"profile/{source.id}/{source.revision}"
    found = desk.memory(key, lambda: profiles(desk.sources.records(source)))
    columns = [models.ColumnView(**vars(profile)) for profile in found]
    intakes = [_intake(i) for i in desk.sources.intakes(source)]
    return models.SourceView(**_line(desk, source).model_dump(), columns=columns, intakes=intakes)


@router.get("/sources")
def list_sources(desk: AtDesk) -> list[models.SourceLine]:
    """All sources by name."""
    return [_line(desk, source) for source in desk.sources.all()]


@router.get("/sources/{id}")
def one_source(desk: AtDesk, id: int) -> models.SourceView:
    """A source with its columns and files."""
    return _view(desk, desk.sources.one(id))


@router.delete("/sources/{id}", status_code=204)
def remove_source(desk: AtDesk, id: int) -> None:
    """Take a source away, unless a report rests on it."""
    source = desk.sources.one(id)
    using = [d.name for d in desk.definitions.all("report") if getattr(d.body, "source", None) == source.name]
    if using:
        raise DefinitionError(f"{source.name} is used by the report {using[0]!r}; remove that first")
    desk.sources.remove(source)


@router.get("/sources/{id}/values")
def column_values(desk: AtDesk, id: int, column: str, like: str = "") -> list[models.ValueCount]:
    """A column's different values, the commonest first."""
    records = desk.sources.records(desk.sources.one(id))
    if column not in records.columns:
        raise DefinitionError(f"there is no column {column!r} in the source")
    return _counted(records.columns[column], like)


def _counted(column: Column, like: str) -> list[models.ValueCount]:
    text = texts.as_text(column)
    counts: dict[str | None, int] = {}
    present = text.values if text.blank is None else text.values[text.present]
    for code, n in zip(*_unique_counts(present), strict=True):
        counts[text.words[code]] = int(n)
    found = sorted(counts.items(), key=lambda pair: -pair[1])
    if like:
        found = [pair for pair in found if like.casefold() in (pair[0] or "").casefold()]
    values = [models.ValueCount(value=word, records=n) for word, n in found[:SHOWN_VALUES]]
    blank = len(text) - len(present)
    return [*values, models.ValueCount(value=None, records=blank)] if blank and not like else values


def _unique_counts(codes: object) -> tuple[list[int], list[int]]:
    import numpy as np

    found, counts = np.unique(codes, return_counts=True)  # type: ignore[call-overload]
    return found.tolist(), counts.tolist()


@router.get("/intakes/{id}/refused")
def refused_lines(desk: AtDesk, id: int) -> list[models.RefusedView]:
    """The lines of a file that did not become records."""
    return [models.RefusedView(**vars(line)) for line in desk.sources.refused(id)]


@router.post("/intakes/{id}/undo")
def undo_intake(desk: AtDesk, id: int) -> models.SourceView:
    """Take an intake back as one step."""
    return _view(desk, desk.sources.undo(id, desk.now()))


@router.post("/intakes/{id}/redo")
def redo_intake(desk: AtDesk, id: int) -> models.SourceView:
    """Bring an undone intake back."""
    return _view(desk, desk.sources.redo(id))


def _waiting(desk: Desk, found: bringing_in.Waiting) -> models.WaitingView:
    reading = found.reading
    first, last = days_spanned(reading.records)
    already = found.already
    return models.WaitingView(
        token=found.token,
        file_name=found.file_name,
        source=found.source,
        is_new=desk.sources.named(found.source) is None,
        records=reading.records.count,
        first_day=first,
        last_day=last,
        already=f"{already.file_name}, brought in {already.brought_at[:10]}" if already else None,
        columns=[
            models.ReadColumn(
                name=name, kind=column.kind, reading=reading.recipe.columns[name], rival=reading.rivals.get(name)
            )
            for name, column in reading.records.columns.items()
        ],
        first_records=bringing_in.first_records(reading.records),
        refused=[models.RefusedView(**vars(line)) for line in reading.refused[:SHOWN_REFUSED]],
    )


@router.post("/waiting")
async def look_at_file(
    desk: AtDesk, file: Annotated[UploadFile, File()], source: Annotated[str, Form()] = ""
) -> models.WaitingView:
    """Read a file without keeping anything; it waits under a token."""
    data = await file.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise IntakeError(f"{file.filename}: larger than 2 GiB; bring it in by parts")
    found = await run_in_threadpool(bringing_in.look_at, desk, file.filename or "file", data, source or None)
    return await run_in_threadpool(_waiting, desk, found)


@router.put("/waiting/{token}")
def read_again(desk: AtDesk, token: str, asked: models.Reread) -> models.WaitingView:
    """Read a waiting file in another way."""
    return _waiting(desk, bringing_in.read_again(desk, token, asked.columns, asked.source))


@router.post("/waiting/{token}/keep")
def keep_waiting(desk: AtDesk, token: str, again: bool = False) -> models.Kept:
    """Keep a waiting file's records, whole or not at all."""
    source, intake = bringing_in.keep(desk, token, again)
    return models.Kept(source=_view(desk, source), intake=_intake(intake))
