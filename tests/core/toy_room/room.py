"""An action, a background task, a finding with a remedy, a value of the survey, and a command."""

from typing import Literal

from aimtrue.core.command import Command, Question
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.finding import Finding, FindingKind
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.remedy import Remedy
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

PLAIN = "plain"
UNLABELLED = FindingKind(
    "unlabelled", "look", "intake", "on-sight", lambda _, __, n: f"{n} bodies have no label", by_body=True
)


class Label(ActionValue):
    """A body gets a label, which is its material."""

    do: Literal["label"] = "label"
    body: BodyId
    label: str

    def words(self) -> str:
        """Say it for history and the undo button."""
        return "label a body"


class LabelTask(Value):
    """Find a label for a body."""

    do: Literal["find-label"] = "find-label"
    body: BodyId


class Labels(Value):
    """How many bodies have a label."""

    labelled: int


def _label(job: Job, action: Label, store: GeometryStore) -> Job:
    if not action.label.strip():
        raise Refused("label-empty", "a label has a letter at least", remedy="type one")
    return job.with_body(job.body(action.body).model_copy(update={"material": action.label}))


def _find_label(inputs: TaskInputs, task: LabelTask) -> TaskResult:
    return TaskResult(Label(body=task.body, label=PLAIN), {})


def _findings(inquiry: Inquiry) -> list[Finding]:
    return [
        UNLABELLED.found(body=body.name, body_id=body.id, says=f"{body.name} has no label", remedy="label")
        for body in inquiry.job.bodies
        if not body.material
    ]


def _remedies(finding: Finding) -> list[Remedy]:
    if finding.code != UNLABELLED.code or finding.body_id is None:
        return []
    return [Remedy("Find a label", LabelTask(body=finding.body_id))]


def _labels(inquiry: Inquiry) -> Labels:
    return Labels(labelled=sum(bool(body.material) for body in inquiry.job.bodies))


def _answer(question: Question) -> Labels:
    return _labels(Inquiry(question.job, question.store))


def _differences(change: BodyChange) -> list[Difference]:
    return [("label", change.old.material, change.new.material)]


TOY = Room(
    name="toy",
    actions=(ActionHandler(Label, _label),),
    tasks=(TaskHandler(LabelTask, _find_label),),
    kinds=(UNLABELLED,),
    findings=_findings,
    remedies=_remedies,
    survey={"labels": _labels},
    differences=_differences,
    commands=(Command("labels", "count labels", _answer, lambda labels: f"{labels.labelled} labels"),),
)
