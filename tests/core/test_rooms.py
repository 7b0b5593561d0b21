"""What spans the rooms knows of a new one by its one line in the list, and of nothing twice."""

import argparse
import json
from collections import Counter
from pathlib import Path

import pytest
from pydantic import TypeAdapter

from aimtrue.cli.answers import add_commands_of_rooms
from aimtrue.core.actions import apply
from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import Accept
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.value import Value
from aimtrue.core.release.history import changes
from aimtrue.core.room import Room, TaskInputs
from aimtrue.core.rooms import ROOMS, actions_of, kinds_of, tasks_of, told_apart
from aimtrue.core.survey.survey import survey
from aimtrue.core.tasks import do
from tests.core.toy_room.room import PLAIN, TOY, Label, LabelTask
from tests.shapes import bench_of, binary_stl, box, corners_of

WITH_TOY: tuple[Room, ...] = (*ROOMS, TOY)
BODY = BodyId("s1-1")


def test_a_room_is_added_by_one_line() -> None:
    bench = bench_of("rest.stl", binary_stl(corners_of(box(4, 5, 6))))
    before = survey(bench.job, bench, rooms=WITH_TOY)
    (told,) = (finding for finding in before.findings if finding.code == "unlabelled")
    assert told.acceptable
    assert [way.says for way in told.ways] == ["Accept as it is", "Find a label"]
    assert before.rooms["labels"].model_dump() == {"labelled": 0}
    inputs = TaskInputs("m1", bench.job, bench, b"", lambda share, says: None)
    result = do(inputs, LabelTask(body=BODY), WITH_TOY)
    labelled = apply(bench.job, result.action, bench, WITH_TOY)
    after = survey(labelled, bench, rooms=WITH_TOY)
    assert after.rooms["labels"].model_dump() == {"labelled": 1}
    assert "unlabelled" not in {finding.code for finding in after.findings}
    rows = changes(bench.job, labelled, rooms=WITH_TOY)
    assert ("label", "", PLAIN) in {(row.what, row.before, row.after) for row in rows}


def test_its_refusals_and_acceptances_are_as_those_of_any_room() -> None:
    bench = bench_of("rest.stl", binary_stl(corners_of(box(4, 5, 6))))
    with pytest.raises(Refused, match="letter"):
        apply(bench.job, Label(body=BODY, label=" "), bench, WITH_TOY)
    accept = Accept(bodies=(BODY,), code="unlabelled")
    assert apply(bench.job, accept, bench, WITH_TOY).body(BODY).accepted == ("unlabelled",)
    with pytest.raises(Refused, match="not a finding that can be accepted"):
        apply(bench.job, accept, bench)


def test_its_action_is_told_apart_from_all_others() -> None:
    type_adapter = TypeAdapter(told_apart([*actions_of(WITH_TOY)]))
    read = type_adapter.validate_python({"do": "label", "body": BODY, "label": "x"})
    assert read == Label(body=BODY, label="x")


def test_its_command_is_carried(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "rest.stl"
    path.write_bytes(binary_stl(corners_of(box(4, 5, 6))))
    parser = argparse.ArgumentParser()
    add_commands_of_rooms(parser.add_subparsers(), WITH_TOY)
    asked = parser.parse_args(["labels", str(path), "--unit", "mm", "--json"])
    assert asked.run(asked) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["labelled"] == 0
    assert {"findings", "seconds"} < set(told)
    asked.unit = None
    assert asked.run(asked) == 4


def test_no_two_rooms_bring_the_same() -> None:
    for gathered, brought in (
        (actions_of(ROOMS), [_kind(handler.action) for room in ROOMS for handler in room.actions]),
        (tasks_of(ROOMS), [_kind(handler.task) for room in ROOMS for handler in room.tasks]),
        (kinds_of(ROOMS), [kind.code for room in ROOMS for kind in room.kinds]),
    ):
        assert len(gathered) == len(brought)
        assert not [name for name, count in Counter(brought).items() if count > 1]


def _kind(value: type[Value]) -> str:
    return str(value.model_fields["do"].default)
