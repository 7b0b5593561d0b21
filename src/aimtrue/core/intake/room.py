"""This module describes the room of sheet 1, Intake, to whatever spans the rooms."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TypeVar

from aimtrue.core.intake.actions import (
    Accept,
    BringHome,
    Delete,
    Duplicate,
    LeaveKit,
    LookOver,
    MakeKit,
    Paint,
    Remake,
    Rename,
    RenameAll,
    RenameJob,
    SettleUnit,
    SetUp,
    TakeIn,
)
from aimtrue.core.intake.finding_kinds import KINDS
from aimtrue.core.intake.findings import intake_findings
from aimtrue.core.intake.handlers import (
    accept,
    delete,
    duplicate,
    look_over,
    paint,
    rename,
    rename_all,
    rename_job,
)
from aimtrue.core.intake.joining import join_files
from aimtrue.core.intake.kits import leave_kit, make_kit
from aimtrue.core.intake.mending.inspection import list_faces, look
from aimtrue.core.intake.mending.mend import mend
from aimtrue.core.intake.mending.regroup import join, separate_body, take_as_one
from aimtrue.core.intake.mending.reread import refine, revise
from aimtrue.core.intake.mending.results import MendingResult, with_overlaps
from aimtrue.core.intake.remedies import ways_of
from aimtrue.core.intake.replacements import replace_bodies
from aimtrue.core.intake.tasks import (
    JoinTask,
    ListFacesTask,
    LookOverTask,
    MendTask,
    RefineTask,
    ReviseTask,
    SeparateTask,
    TakeAsOneTask,
    fineness_asked,
    tolerance_asked,
)
from aimtrue.core.intake.units.inference import verdicts_of
from aimtrue.core.intake.units.settling import bring_home, set_up, settle_unit
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import UNIT_NAMES
from aimtrue.core.model.value import Value
from aimtrue.core.room import (
    ActionHandler,
    BodyChange,
    Difference,
    Inquiry,
    Room,
    TaskHandler,
    TaskInputs,
    TaskResult,
)

TaskT = TypeVar("TaskT", bound=Value)


def _overlaps_told(
    run: Callable[[TaskInputs, TaskT], MendingResult],
) -> Callable[[TaskInputs, TaskT], TaskResult]:
    """Have a task that makes new bodies tell which of them fill the same place as others."""

    def told(inputs: TaskInputs, task: TaskT) -> TaskResult:
        return _plain(with_overlaps(inputs.job, run(inputs, task), inputs.store))

    return told


def _plain(result: MendingResult) -> TaskResult:
    return TaskResult(result.action, result.blobs)


def _findings(inquiry: Inquiry) -> list[Finding]:
    return intake_findings(inquiry.job, inquiry.of(verdicts_of))


def _refuse_tolerance(job: Job, task: MendTask) -> None:
    tolerance_asked(task)


def _refuse_fineness(job: Job, task: RefineTask) -> None:
    fineness_asked(job.source(task.source), task)


def _unit(job: Job, body: Body) -> str:
    unit = job.source_of(body).unit
    return UNIT_NAMES[unit] if unit else "not settled"


def _accepted(body: Body) -> str:
    said = (f"{code} ({body.reason(code)})" if body.reason(code) else code for code in body.accepted)
    return ", ".join(said) or "nothing"


def _differences(change: BodyChange) -> Iterator[Difference]:
    old, new = change.old, change.new
    yield "name", old.name, new.name
    yield "colour", old.colour or "none", new.colour or "none"
    yield "material", old.material or "the job's", new.material or "the job's"
    yield "unit of the file", _unit(change.before, old), _unit(change.after, new)
    yield "geometry", "as it was", "as it was" if old.geometry == new.geometry else "made anew"
    yield "let pass on purpose", _accepted(old), _accepted(new)


INTAKE = Room(
    name="intake",
    actions=(
        ActionHandler(TakeIn, join_files, by_user=False),
        ActionHandler(Remake, replace_bodies, by_user=False),
        ActionHandler(LookOver, look_over, by_user=False),
        ActionHandler(SettleUnit, settle_unit),
        ActionHandler(SetUp, set_up),
        ActionHandler(BringHome, bring_home),
        ActionHandler(Paint, paint),
        ActionHandler(Delete, delete),
        ActionHandler(Duplicate, duplicate),
        ActionHandler(MakeKit, make_kit),
        ActionHandler(LeaveKit, leave_kit),
        ActionHandler(Rename, rename),
        ActionHandler(RenameAll, rename_all),
        ActionHandler(RenameJob, rename_job),
        ActionHandler(Accept, accept),
    ),
    tasks=(
        TaskHandler(
            MendTask,
            _overlaps_told(lambda by, task: mend(by.key, by.job, task, by.store, by.progress)),
            _refuse_tolerance,
        ),
        TaskHandler(LookOverTask, lambda by, task: _plain(look(by.job, task, by.store, by.progress))),
        TaskHandler(
            ListFacesTask,
            lambda by, task: _plain(list_faces(by.job, task, by.store, by.progress)),
            by_user=False,
        ),
        TaskHandler(
            SeparateTask, _overlaps_told(lambda by, task: separate_body(by.key, by.job, task, by.store))
        ),
        TaskHandler(
            JoinTask, _overlaps_told(lambda by, task: join(by.key, by.job, task, by.store, by.progress))
        ),
        TaskHandler(
            TakeAsOneTask, _overlaps_told(lambda by, task: take_as_one(by.key, by.job, task, by.store))
        ),
        TaskHandler(
            RefineTask,
            lambda by, task: _plain(refine(by.key, by.job, task, by.data, by.store, by.progress)),
            _refuse_fineness,
        ),
        TaskHandler(
            ReviseTask,
            lambda by, task: _plain(revise(by.key, by.job, task, by.data, by.progress)),
            by_user=False,
        ),
    ),
    kinds=KINDS,
    findings=_findings,
    remedies=ways_of,
    differences=_differences,
    sheet=lambda job, body: [
        ("mended", "; ".join(f"{step.remedy}, moved {step.moved:.3g}" for step in body.mended))
    ],
)
