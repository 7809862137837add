"""Routes of sources: lists, columns, made columns and intakes."""

from dataclasses import astuple
from datetime import datetime

import numpy as np
from fastapi import APIRouter, Response

from kalendor.api import models
from kalendor.api.desk import AtDesk, AtJobs
from kalendor.api.fed_view import fed_view
from kalendor.api.intake_view import intake_view
from kalendor.api.job_view import SOON, job_view
from kalendor.api.linked_view import linked_view
from kalendor.api.proposal_view import proposal_view
from kalendor.api.workers.marking import in_worker
from kalendor.core.formulas import texts
from kalendor.core.formulas.expressions import names_in
from kalendor.core.values.columns import Column, Records
from kalendor.core.values.keys import key
from kalendor.core.values.notation import NOTATION, grouped
from kalendor.definitions.report import FormulaColumn, MadeColumn
from kalendor.desk.adjusting import check_pair
from kalendor.desk.bringing_in import refused_file
from kalendor.desk.bringing_in import set_joining as set_source_joining
from kalendor.desk.columns import read_column_as, rename_column, set_unit
from kalendor.desk.desk import Desk
from kalendor.desk.dropped_files import Trouble, folder_state, put_aside
from kalendor.desk.jobs import Job
from kalendor.desk.lookup_guess import Match, guessed_match
from kalendor.desk.made import tried
from kalendor.desk.profile import of_specimen, profiles
from kalendor.desk.proposals import proposals
from kalendor.desk.records import MadeNote, complete, note_on, stamp_of
from kalendor.desk.sentences import known_names
from kalendor.desk.summaries import as_far_as_known
from kalendor.desk.uses import used_by
from kalendor.errors import DefinitionError
from kalendor.output.numbers import as_listed
from kalendor.store.column_cache import Kept
from kalendor.store.intakes import days_spanned
from kalendor.store.keys import doubled
from kalendor.store.sources import Source

router = APIRouter(prefix="/api", tags=["sources"])
SHOWN_VALUES = 500
SHOWN_RECORDS = 8


def source_line(desk: Desk, source: Source, stale: str = "") -> models.SourceLine:
    """A source in a list."""
    intakes = [i for i in desk.intakes.of(source) if i.undone_at is None]
    refused, mended, _ = desk.intakes.refused_count(source)
    linked = desk.linked.of(source.id)
    records, spanned = desk.sources.records(source), None if linked is None else linked.facts.spanned
    first, last = days_spanned(records) if spanned is None else spanned
    state = folder_state(desk, source.name) if source.report_id is None else None
    oldest = next(iter([*state.held[::-1], *state.troubles[::-1]]), None) if state else None
    fed = desk.fetches.of(source.id)
    return models.SourceLine(
        id=source.id, name=source.name, records=records.count if linked is None else linked.facts.records,
        files=sum(i.origin != "hand" for i in intakes) if linked is None else len(desk.linked.files(source.id)),
        refused=refused - mended if linked is None else linked.facts.refused, linked=linked is not None, first_day=first, last_day=last, stale=stale,
        held=len(state.held) if state else 0, not_read=len(state.troubles) if state else 0,
        not_fetched=fed.reason if fed is not None and fed.outcome == "failed" else "",
        first_waiting=oldest.file if oldest else "", first_reason=oldest.why.said if oldest else "",
    )  # fmt: skip


def source_view(desk: Desk, source: Source, stale: str = "") -> models.SourceView:
    """A source with its columns, made ones included, and its files."""
    with desk.workspace.snapshot():
        source = desk.sources.one(source.id)
        return _view(desk, source, desk.sources.kept(source), stale)


def _view(desk: Desk, source: Source, kept: Kept, stale: str) -> models.SourceView:
    base = kept.records
    records, made = _made(desk, source, base)
    own = stamp_of(desk, source)
    linked = desk.linked.of(source.id)
    found = desk.memory(key("profile", own, list(records.columns), astuple(NOTATION.get())), lambda: profiles(records))
    found = found if linked is None else of_specimen(found, linked.facts)
    report = desk.definitions.one(source.report_id).name if source.report_id is not None else None
    return models.SourceView(
        **source_line(desk, source, stale).model_dump(),
        columns=list(found),
        made=made,
        intakes=[intake_view(desk, i) for i in desk.intakes.of(source)],
        mended=desk.intakes.refused_count(source)[1],
        doubled=desk.memory(key("doubled", own), lambda: doubled(base)) if linked is None else 0,
        summary_of=report,
        drop_folder=_drop_view(desk, source),
        fed=fed_view(desk, source.id),
        link=linked_view(desk, source, linked),
        join=source.recipe.join,
        join_by=source.recipe.join_by,
        held_over=source.recipe.held_over,
    )


def _drop_view(desk: Desk, source: Source) -> models.DropView | None:
    takes_files = source.report_id is None and desk.linked.of(source.id) is None
    state = folder_state(desk, source.name) if takes_files else None
    if state is None:
        return None
    troubles, held = ([_trouble(one) for one in several] for several in (state.troubles, state.held))
    return models.DropView(path=str(state.path), waiting=state.waiting, troubles=troubles, held=held)


def _trouble(one: Trouble) -> models.TroubleView:
    at = datetime.fromtimestamp(one.at).isoformat(timespec="minutes")
    return models.TroubleView(file=one.file, at=at, reason=one.why.said, sure=one.why.sure, months=list(one.why.months))


def _made(desk: Desk, source: Source, base: Records) -> tuple[Records, list[models.MadeView]]:
    """The records with those made columns that can be computed, and each with its remarks."""
    if not source.made:
        return base, []
    try:
        records = complete(desk, source).records
    except DefinitionError as error:
        return base, [models.MadeView(column=made, problem=str(error), note="") for made in source.made]
    return records, [models.MadeView(column=m, problem="", note=_noted(desk, source, records, m)) for m in source.made]


def _noted(desk: Desk, source: Source, records: Records, made: MadeColumn) -> str:
    """The remarks on a made column; nothing is counted on a specimen."""
    return "" if desk.linked.of(source.id) is not None else said(note_on(desk, records, made))


def said(note: MadeNote) -> str:
    """A made column's note in words."""
    parts = []
    if note.unmatched:
        parts.append(f"{grouped(note.unmatched)} {'record finds' if note.unmatched == 1 else 'records find'} no match")
    if note.repeated:
        parts.append(
            f"{grouped(note.repeated)} {'key stands' if note.repeated == 1 else 'keys stand'} more than once, the first counts"
        )
    if note.blank_amounts:
        parts.append(
            f"blank in {grouped(note.blank_amounts)} records where an amount is not; COALESCE(column, 0) reads a blank as nothing"
        )
    return "; ".join(parts)


@router.get("/sources")
def list_sources(desk: AtDesk) -> list[models.SourceLine]:
    """List all sources by name."""
    return [source_line(desk, *as_far_as_known(desk, source)) for source in desk.sources.all()]


@router.get("/sources/{id}")
def one_source(desk: AtDesk, id: int) -> models.SourceView:
    """Return a source with its columns and files."""
    return source_view(desk, *as_far_as_known(desk, desk.sources.one(id)))


@router.delete("/sources/{id}", status_code=204)
def remove_source(desk: AtDesk, id: int) -> None:
    """Delete a source that no report uses."""
    source = desk.sources.one(id)
    used = used_by(desk, source)
    if used:
        raise DefinitionError(f"{source.name} is used by {used}; change that first")
    editions = desk.editions.resting_on(id)
    if editions:
        which = "an edition was" if editions == 1 else f"{grouped(editions)} editions were"
        raise DefinitionError(
            f"{which} issued from {source.name}, and their numbers could no longer be explained; rename it instead"
        )
    desk.sources.remove(source)


@router.patch("/sources/{id}")
def rename_source(desk: AtDesk, id: int, asked: models.NewName) -> models.SourceView:
    """Rename a source that nothing refers to by name."""
    source = desk.sources.one(id)
    used = used_by(desk, source)
    if used and asked.name != source.name:
        raise DefinitionError(f"{source.name} is used by {used} under that name; change that first")
    return source_view(desk, desk.sources.rename(source, asked.name.strip()))


@router.get("/sources/{id}/values")
@in_worker
def column_values(desk: AtDesk, id: int, column: str) -> list[models.ValueCount]:
    """List a column's distinct values, most common first."""
    records = complete(desk, desk.sources.one(id)).records
    if column not in records.columns:
        raise DefinitionError(f"there is no column {column!r} in the source")
    counted = _counted(records.columns[column])
    if desk.linked.of(id) is None:
        return counted
    return [models.ValueCount(value=one.value, records=None) for one in counted]


def _counted(column: Column) -> list[models.ValueCount]:
    text = texts.as_text(column)
    present = text.values if text.blank is None else text.values[text.present]
    codes, counts = np.unique(present, return_counts=True)
    order = np.argsort(-counts, kind="stable")[:SHOWN_VALUES].tolist()
    values = [models.ValueCount(value=text.words[codes[i]], records=int(counts[i])) for i in order]
    blank = len(text) - len(present)
    return [*values, models.ValueCount(value=None, records=blank)] if blank else values


@router.put("/sources/{id}/joining")
def set_joining(desk: AtDesk, id: int, asked: models.Joining) -> models.SourceView:
    """Set how the next files join a source's records."""
    source = desk.sources.one(id)
    set_source_joining(desk, source, asked.join, asked.join_by, asked.held_over)
    return source_view(desk, source)


@router.patch("/sources/{id}/columns")
def rename_a_column(desk: AtDesk, id: int, asked: models.ColumnRenaming) -> models.SourceView:
    """Rename a column of a source; reports, made columns and look-ups follow."""
    return source_view(desk, rename_column(desk, desk.sources.one(id), asked.column, asked.name))


@router.put("/sources/{id}/columns/unit")
def set_a_unit(desk: AtDesk, id: int, asked: models.ColumnUnit) -> models.SourceView:
    """Set the column that holds the unit of another column's amounts, such as a currency."""
    return source_view(desk, set_unit(desk, desk.sources.one(id), asked.column, asked.unit))


@router.post("/sources/{id}/columns")
def read_a_column_as(desk: AtDesk, jobs: AtJobs, id: int, asked: models.ColumnTold) -> models.JobView:
    """Read a column in another way from the stored files, as a job that can be cancelled."""
    source = desk.sources.one(id)

    def work(job: Job) -> int:
        return read_column_as(desk, source, asked.column, asked.reading, asked.blank_unread, job.read_so_far).id

    job = jobs.start(0, work, desk.workspace.close)
    job.finished.wait(SOON)
    return job_view(job)


@router.delete("/sources/{id}/dropped/{name}", status_code=204)
def put_dropped_aside(desk: AtDesk, id: int, name: str) -> None:
    """Discard a file that is held or was refused in a source's drop folder."""
    put_aside(desk, desk.sources.one(id).name, name)


@router.put("/sources/{id}/made")
def save_made(desk: AtDesk, id: int, made: list[MadeColumn]) -> models.SourceView:
    """Save a source's made columns after validating each."""
    source = desk.sources.one(id)
    names = [m.name for m in made]
    taken = next((n for n in names if names.count(n) > 1 or n in {c.name for c in source.columns}), None)
    if taken is not None:
        raise DefinitionError(f"there is already a column named {taken!r}; choose another name")
    for i, column in enumerate(made):
        tried(desk, source, made[:i], column)
    return source_view(desk, desk.sources.save_made(source, made))


@router.get("/sources/{id}/match/{other}")
@in_worker
def match_by(desk: AtDesk, id: int, other: int) -> Match:
    """Propose the columns by which two sources match."""
    return guessed_match(desk, desk.sources.one(id), desk.sources.one(other))


@router.post("/sources/{id}/made/try")
@in_worker
def try_made(desk: AtDesk, id: int, made: MadeColumn) -> models.MadeTried:
    """Try a made column on the source's records. Saves nothing."""
    source = desk.sources.one(id)
    others = [m for m in source.made if m.name != made.name]
    try:
        records, column = tried(desk, source, others, made)
    except DefinitionError as error:
        return models.MadeTried(kind="", problem=str(error), note="", headings=[], rows=[])
    shown = names_in(made.formula) if isinstance(made, FormulaColumn) else made.lookup.own
    names = [n for n in shown if n in records.columns]
    first = np.arange(min(SHOWN_RECORDS, records.count))
    picked = [as_listed(c.take(first)) for c in (*(records.columns[n] for n in names), column)]
    return models.MadeTried(
        kind=column.kind, problem="", note=_noted(desk, source, records, made), headings=[*names, made.name],
        rows=[list(row) for row in zip(*picked, strict=True)],
    )  # fmt: skip


@router.get("/intakes/{id}/refused")
def refused_lines(desk: AtDesk, id: int) -> list[models.RefusedView]:
    """List the lines of a file that were refused."""
    return [
        models.RefusedView(line=r.line, column=r.column, text=r.text, reason=r.reason, mended=r.mended_by is not None)
        for r in desk.intakes.refused(id)
    ]


@router.get("/intakes/{id}/refused.csv", response_class=Response)
def refused_as_file(desk: AtDesk, id: int) -> Response:
    """Export the refused lines that are not corrected yet, as a file to correct."""
    headers = {"Content-Disposition": f'attachment; filename="refused-{id}.csv"'}
    return Response(refused_file(desk, id), media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/intakes/{id}/undo")
def undo_intake(desk: AtDesk, id: int) -> models.SourceView:
    """Undo an intake."""
    _check_not_summary(desk, id)
    check_pair(desk, desk.intakes.one(id), undo=True)
    return source_view(desk, desk.intakes.undo(id, desk.now()))


@router.post("/intakes/{id}/redo")
def redo_intake(desk: AtDesk, id: int) -> models.SourceView:
    """Redo an undone intake."""
    _check_not_summary(desk, id)
    check_pair(desk, desk.intakes.one(id), undo=False)
    return source_view(desk, desk.intakes.redo(id))


def _check_not_summary(desk: Desk, intake_id: int) -> None:
    source = desk.sources.one(desk.intakes.one(intake_id).source_id)
    if source.report_id is not None:
        raise DefinitionError(f"{source.name} is a report's summary, and is always what the report is now")


@router.get("/sources/{id}/proposals")
def source_proposals(desk: AtDesk, id: int) -> list[models.ProposalView]:
    """Propose reports that fit a source's records. Saves nothing."""
    with desk.workspace.snapshot():
        source = desk.sources.one(id)
        return [proposal_view(found, known_names(desk, source.name, found.report)) for found in proposals(desk, source)]
