"""Lists and drawings: read, shown row by row, put right, and taken in only when the person says so."""

import shutil
from pathlib import Path
from typing import Any, Final, cast

from fastapi import APIRouter, Request, UploadFile, status
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool

from keeve.catalogue.trying import outlook
from keeve.core.message.errors import Code, Fault, TakeoffError
from keeve.core.message.said import Amount, Said, mark
from keeve.core.takeoff.flat import UNIT_MM, MapUnit
from keeve.formats.reading.bounded import read_now
from keeve.formats.reading.dxf_outlines import Outlines, row_of
from keeve.formats.reading.kept_files import new_file
from keeve.formats.reading.shape_list import (
    COLUMNS,
    MODELS,
    MOST_ROWS,
    ListRow,
    check_row,
    rows_of,
    shape_of,
    write_csv,
    write_xlsx,
)
from keeve.store.tables import JobRow
from keeve.web.asking.deps import At, AtDesk, SheetedJob, Store, get_reader
from keeve.web.drawings.shapes import loops_plan
from keeve.web.drawings.sketches import Drawn
from keeve.web.edge.answers import GOES_OR_SHOWS, PAGE, REFUSALS, file_of
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.render import page
from keeve.web.pages.typed import typed

router = APIRouter(responses=REFUSALS)
MOST_DRAWN: Final = 40
ALWAYS: Final = ("kind", "note", "count")
MOST_FIELDS: Final = 20_000
WORKBOOK: Final = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@router.post("/jobs/{job_id}/import", name="import_file", dependencies=[OwnPage], **PAGE)
def import_file(request: Request, job: SheetedJob, file: UploadFile) -> Response:
    """Read a list or a drawing and show what is in it; nothing is taken in yet."""
    name = (file.filename or "").lower()
    if name.endswith((".stl", ".obj", ".ply")):
        raise TakeoffError(Fault(Code.UNKNOWN, "This is a model, not a list.", "Read it in under “Read a model”."))
    begin = file.file.read(2)
    file.file.seek(0)
    kind = "dxf" if name.endswith(".dxf") else "xlsx" if name.endswith(".xlsx") or begin == b"PK" else "csv"
    with new_file(kind) as kept:
        try:
            shutil.copyfileobj(file.file, kept)
            kept.flush()
            found = read_now(kind, Path(kept.name))
        finally:
            Path(kept.name).unlink()
    if kind == "dxf":
        return _drawing(request, job, Outlines.model_validate(found))
    return _preview(request, job, found)


def _drawing(request: Request, job: JobRow, outlines: Outlines, **more: Any) -> Response:
    return page(
        request,
        "imports/drawing.html",
        job=job,
        station="measure",
        outlines=outlines,
        holes_in=[len(outlines.holes_of(i)) for i in range(len(outlines.loops))],
        plan_lines=loops_plan(outlines),
        per_m2=(UNIT_MM[outlines.unit] / 1000) ** 2 if outlines.unit else 1.0,
        as_json=outlines.model_dump_json(),
        **({"unit": outlines.unit or "", "depth": "", "chosen": None} | more | {"faults": typed(more.get("faults"))}),
    )


@router.post("/jobs/{job_id}/import/drawing", name="import_drawing", dependencies=[OwnPage], **PAGE)
async def import_drawing(request: Request, job: SheetedJob) -> Response:
    """Turn the chosen outlines of a drawing into rows of a list."""
    form = await request.form(max_fields=MOST_FIELDS)
    try:
        outlines = Outlines.model_validate_json(str(form.get("outlines", "")))
    except ValidationError:
        raise TakeoffError(
            Fault(Code.UNREADABLE, "The drawing was lost on the way.", "Read the file in again.")
        ) from None
    unit, depth = str(form.get("unit", "")), str(form.get("depth", "")).strip()
    chosen = [int(v) for v in map(str, form.getlist("take")) if v.isdigit() and int(v) < len(outlines.loops)]
    said = {}
    if unit not in ("mm", "cm", "m", "in", "ft"):
        said["unit"] = mark("The drawing does not say in which unit it is drawn: choose one.")
    if not chosen:
        said["take"] = mark("Choose at least one outline.")
    if said:
        return _drawing(request, job, outlines, unit=unit, depth=depth, chosen=chosen, faults=said)
    rows = [row_of(outlines, i, cast("MapUnit", unit), depth) for i in chosen]
    return await run_in_threadpool(_preview, request, job, rows)


def _preview(request: Request, job: JobRow, rows: list[ListRow], taken: set[int] | None = None) -> Response:
    used = [name for name in COLUMNS if name in ALWAYS or any(name in row for row in rows)]
    wanted = [name for row in rows for name in _wants(row.get("kind", "")) if name not in used]
    names = used + [name for name in COLUMNS if name in wanted]
    faults = [fault_rows(check_row(row), get_reader(request)) for row in rows]
    bad = [i for i, said in enumerate(faults) if said and (taken is None or i in taken)]
    drawn = [
        Drawn() if faults[i] or i >= MOST_DRAWN else Drawn(shape_of(row)) for i, row in enumerate(rows)
    ]  # a long list is not drawn to its end: the page would be
    return page(
        request,
        "imports/preview.html",
        job=job,
        station="measure",
        names=names,
        rows=[typed(row) for row in rows],
        faults=[typed({f["field"]: f"{f['sentence']} {f['hint']}".strip() for f in said}) for said in faults],
        drawn=drawn,
        taken=taken if taken is not None else set(range(len(rows))),
        bad=bad,
        kinds=list(MODELS),
    )


def _wants(kind: str) -> list[str]:
    """Name the measures a kind cannot do without, so that a missing one has a cell to be written into."""
    model = MODELS.get(kind)
    return [n for n, f in model.model_fields.items() if f.is_required() and n in COLUMNS] if model else []


@router.post("/jobs/{job_id}/import/take", name="import_take", dependencies=[OwnPage], **GOES_OR_SHOWS)
async def import_take(request: Request, job: SheetedJob, desk: AtDesk) -> Response:
    """Check the rows as put right; take them in where the person says so and nothing is wrong."""
    form = await request.form(max_fields=MOST_FIELDS)
    many = min(int(str(form.get("many", "0")) or 0) if str(form.get("many", "0")).isdigit() else 0, MOST_ROWS)
    rows: list[ListRow] = [
        {name: text for name in COLUMNS if (text := str(form.get(f"{i}.{name}", "")).strip())} for i in range(many)
    ]
    taken = {int(v) for v in map(str, form.getlist("take")) if v.isdigit() and int(v) < many}
    return await run_in_threadpool(_take, request, job, desk, rows, taken, str(form.get("do", "")))


def _take(request: Request, job: JobRow, desk: At, rows: list[ListRow], taken: set[int], wanted: str) -> Response:
    wrong = any(check_row(rows[i]) for i in taken)
    if wanted != "take" or wrong or not taken:
        return _preview(request, job, rows, taken)
    _append(str(job.id), desk, [_typed(rows[i]) for i in sorted(taken)])
    return RedirectResponse(request.url_for("measure", job_id=job.id), status.HTTP_303_SEE_OTHER)


def _typed(row: ListRow) -> dict[str, str]:
    """Write a row as the form of its shape would have been typed."""
    return {n: v for n, v in row.items() if v} | {"kind": row["kind"].strip().lower().replace(" ", "_")}


def _append(job_id: str, desk: At, fresh: list[dict[str, str]]) -> None:
    with desk() as at:
        job = at.job(job_id)  # others may be writing the same list
        sheet = at.store.sheet(job)
        before = [s for s in sheet.get("shapes", []) if isinstance(s, dict)]
        if len(before) + len(fresh) > MOST_ROWS:
            raise TakeoffError(
                Fault(
                    Code.TOO_MANY,
                    Said(
                        "A job holds {most} shapes; {n} are on its list.",
                        most=Amount(MOST_ROWS, "whole"),
                        n=Amount(len(before), "whole"),
                    ),
                    "Take in fewer.",
                )
            )
        sheet = sheet | {"shapes": [*before, *fresh]}
        at.store.save_sheet(job, sheet, outlook(sheet, at.shelf()))


@router.get("/jobs/{job_id}/list.csv", name="list_csv", **file_of("text/csv"))
def list_csv(job: SheetedJob, store: Store) -> Response:
    """Hand the list on as CSV."""
    return _download(write_csv(rows_of(store.sheet(job).get("shapes", []))).encode(), "list.csv", "text/csv")


@router.get("/jobs/{job_id}/list.xlsx", name="list_xlsx", **file_of(WORKBOOK))
def list_xlsx(job: SheetedJob, store: Store) -> Response:
    """Hand the list on as a workbook."""
    return _download(write_xlsx(rows_of(store.sheet(job).get("shapes", []))), "list.xlsx", WORKBOOK)


def _download(data: bytes, name: str, kind: str) -> Response:
    return Response(data, media_type=kind, headers={"content-disposition": f'attachment; filename="{name}"'})
