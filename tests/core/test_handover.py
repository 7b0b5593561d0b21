"""Files put down whole or not at all; a card that is full, locked or pulled; a program that takes releases
once.
"""

import io
import zipfile
from pathlib import Path

import pytest

from aimtrue.core.errors import Refused
from aimtrue.handover.folders import Folder, put_down
from aimtrue.handover.targets import SendFailed, Target, parsed, refuse_far, send
from aimtrue.standins.card import Card, CardSettings

FILES = [("ring_r1.3mf", b"ring" * 700_000), ("marks_r1.3mf", b"marks" * 300_000)]


def test_files_are_down_whole_and_nothing_else_is(tmp_path: Path) -> None:
    report = put_down(FILES, Folder(tmp_path))
    assert report.whole
    assert [file.state for file in report.files] == ["down", "down"]
    assert {path.name: path.read_bytes() for path in tmp_path.iterdir()} == dict(FILES)


def test_nothing_is_overwritten_unless_it_is_said(tmp_path: Path) -> None:
    (tmp_path / "marks_r1.3mf").write_bytes(b"old")
    with pytest.raises(Refused) as refused:
        put_down(FILES, Folder(tmp_path))
    assert refused.value.code == "drive-taken"
    assert [path.name for path in tmp_path.iterdir()] == ["marks_r1.3mf"]
    assert put_down(FILES, Folder(tmp_path), replace=True).whole
    assert (tmp_path / "marks_r1.3mf").read_bytes() == FILES[1][1]


def test_a_folder_that_is_not_there_is_said(tmp_path: Path) -> None:
    with pytest.raises(Refused) as refused:
        put_down(FILES, Folder(tmp_path / "gone"))
    assert refused.value.code == "drive-gone"


def test_what_is_read_back_otherwise_is_not_down(tmp_path: Path) -> None:
    class Lying(Folder):
        def read(self, path: Path) -> bytes:
            return path.read_bytes()[:-1] + b"?"

    report = put_down(FILES, Lying(tmp_path))
    assert not report.whole
    assert "something else" in report.says
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize(
    ("settings", "code"),
    [
        ({"capacity": 3_000_000}, "drive-full"),
        ({"longest_name": 11}, "drive-name"),
        ({"largest_file": 2_000_000}, "drive-file"),
        ({"protected": True}, "drive-protected"),
        ({"out": True}, "drive-gone"),
    ],
)
def test_a_card_that_cannot_take_it_is_told_before_anything_is_written(
    tmp_path: Path, settings: dict[str, int], code: str
) -> None:
    card = Card(tmp_path)
    card.set(CardSettings.model_validate(settings))
    with pytest.raises(Refused) as refused:
        put_down(FILES, card)
    assert refused.value.code == code
    assert card.files() == []


@pytest.mark.parametrize("after", [0, 1, 1_500_000, 2_800_000, 3_500_000])
def test_a_pulled_card_is_told_with_what_arrived_and_what_did_not(tmp_path: Path, after: int) -> None:
    card = Card(tmp_path)
    card.set(CardSettings(pull_after=after))
    report = put_down(FILES, card)
    assert not report.whole
    arrived = 1 if after >= 2_800_000 else 0
    assert [file.state for file in report.files] == ["down"] * arrived + ["not"] * (2 - arrived)
    assert "pulled out" in report.says
    again = Card(tmp_path)
    again.put_in()
    assert again.files() == [(name, len(data)) for name, data in FILES[:arrived]]
    assert put_down(FILES, again, replace=True).whole
    again.eject()
    with pytest.raises(Refused):
        put_down(FILES, Card(tmp_path))


def test_a_card_is_not_ejected_while_it_is_written(tmp_path: Path) -> None:
    card = Card(tmp_path)
    seen: list[str] = []

    class Eager(Card):
        def read(self, path: Path) -> bytes:
            with pytest.raises(Refused) as refused:
                self.eject()
            seen.append(refused.value.code)
            return path.read_bytes()

    assert put_down(FILES, Eager(tmp_path)).whole
    assert seen == ["drive-busy"] * 2
    card.eject()
    assert Card(tmp_path).settings.out


def release(comment: bytes = b"") -> io.BytesIO:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as package:
        # Of one fixed day: else two that are made a second apart differ.
        package.writestr(zipfile.ZipInfo("ring_r1.3mf"), b"ring")
        package.comment = comment
    return out


def test_a_release_is_taken_once_however_often_it_is_sent(program: str) -> None:
    import httpx

    target, waits = Target("next", f"{program}/take"), list[float]()
    assert send(release(), "dial_r1.zip", target).says == "taken"
    assert send(release(), "dial_r1.zip", target).already
    for mood in ("cuts-off", "rubbish", "silent"):
        httpx.post(f"{program}/mood/{mood}?times=2")
        sent = send(release(mood.encode()), "dial_r1.zip", target, wait=waits.append, seconds=0.3)
        assert sent.tries == 3
        # One that was silent may have taken it while it was given up on.
        assert mood == "silent" or sent.already == (mood == "cuts-off")
    taken = httpx.get(program).json()["taken"]
    assert len({one["key"] for one in taken}) == len(taken) == 4
    assert waits[:2] == [0.5, 1.0]


def test_a_program_that_refuses_is_asked_once_and_one_that_is_silent_five_times(program: str) -> None:
    import httpx

    target = Target("next", f"{program}/take")
    httpx.post(f"{program}/mood/refuses")
    with pytest.raises(Refused) as refused:
        send(release(), "dial_r1.zip", target)
    assert "no room for it" in refused.value.says
    assert httpx.get(program).json()["asked"] == 1
    with pytest.raises(SendFailed) as unsent:
        send(release(), "dial_r1.zip", Target("gone", "http://127.0.0.1:9/take"), wait=lambda seconds: None)
    assert "5 tries" in unsent.value.says


def test_releases_stay_in_private_networks_unless_it_is_allowed() -> None:
    for near in ("http://127.0.0.1:1/x", "http://10.1.2.3/x", "http://[::1]:9/x", "http://192.168.0.4/"):
        refuse_far(near)
    for far, code in (("http://93.184.215.14/x", "target-far"), ("ftp://10.0.0.1/x", "target-address")):
        with pytest.raises(Refused) as refused:
            refuse_far(far)
        assert refused.value.code == code
    refuse_far("http://93.184.215.14/x", anywhere=True)
    assert [target.name for target in parsed("bench=http://10.0.0.2/take, shelf=http://10.0.0.3/")] == [
        "bench",
        "shelf",
    ]
    with pytest.raises(Refused):
        parsed("bench")
