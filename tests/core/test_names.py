"""Names of released files: safe everywhere, told apart everywhere, short enough for a display."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.machine import Machine
from aimtrue.core.release import names
from aimtrue.core.release.filing import filed
from aimtrue.core.release.naming import named
from aimtrue.core.release.order import Order
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

DEVICES = {"CON", "PRN", "AUX", "NUL", *(f"{port}{n}" for port in ("COM", "LPT") for n in range(10))}
FORBIDDEN = set('<>:"/\\|?*') | {chr(n) for n in range(32)}


def settled(name: str = "part") -> Bench:
    bench = bench_of(f"{name}.stl", binary_stl(corners_of(box(20, 30, 5))))
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    bench.job = bench.job.model_copy(update={"name": name})
    return bench


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("Eyepiece rack", "Eyepiece-rack"),
        ("a/b\\c:*?", "a-b-c"),
        ("Träger №5", "Träger-No5"),
        ("Tra\u0308ger", "Träger"),
        ("目镜架", "目镜架"),
        ("con", "con-part"),
        ("Con.x", "Con-part.x"),
        ("  ..knob. ", "knob"),
        ("knob 🔭 left", "knob-left"),
        ("x" * 300, "x" * 80),
    ],
)
def test_names_are_safe(text: str, name: str) -> None:
    assert names.safe(text) == name


@pytest.mark.parametrize("text", ["", "...", "🔭", "- _ -", "\0", "\ud800"])
def test_a_name_without_anything_is_refused(text: str) -> None:
    with pytest.raises(Refused) as refused:
        names.safe(text)
    assert refused.value.code == "name-empty"


@given(st.text(max_size=400))
def test_whatever_is_typed_every_system_takes_the_name(text: str) -> None:
    try:
        name = names.safe(text)
    except Refused:
        return
    assert not FORBIDDEN & set(name)
    assert name == name.strip(" .")
    assert name.split(".")[0].upper() not in DEVICES
    assert len(name.encode()) <= 240
    assert unicodedata.normalize("NFC", name) == name
    assert names.safe(name) == name


@given(st.lists(st.text("aAbBäÄ0-", min_size=1, max_size=6), max_size=12))
def test_names_are_told_apart_without_case(texts: list[str]) -> None:
    taken: set[str] = set()
    for text in texts:
        name = names.unique(text, taken)
        assert names.key_of(name) not in taken
        taken.add(names.key_of(name))
    assert len({one.lower() for one in taken}) == len(texts)


@given(
    st.lists(
        st.from_regex(r"[a-z]{1,20}([-_][a-z]{1,12}){0,3}_r\d{1,3}", fullmatch=True), min_size=1, max_size=20
    ),
    st.integers(6, 40),
)
def test_shortened_names_fit_and_stay_distinct(texts: list[str], longest: int) -> None:
    full: list[str] = []
    for text in texts:
        full.append(names.unique(text, set(map(names.key_of, full))))
    short = names.shortened(full, longest)
    assert all(0 < len(one) <= longest for one in short)
    assert len(set(map(names.key_of, short))) == len(full)
    assert [one for one in full if len(one) <= longest] == [
        a for a, b in zip(short, full, strict=True) if len(b) <= longest
    ]


def test_shortening_keeps_numbers_and_abbreviates_words() -> None:
    assert names.shortened(["setting-dial-marks_r12"], 30) == ["setting-dial-marks_r12"]
    assert names.shortened(["setting-dial-marks_r12"], 20) == ["sttng-dial-marks_r12"]
    assert names.shortened(["setting-dial-marks_r12"], 14) == ["sttdia-mrk_r12"]
    both = names.shortened(["focus-knob-front-left_r1", "focus-knob-front-lower_r1"], 10)
    assert len(set(both)) == 2
    assert all(one[-1] in "0123456789" for one in both)
    with pytest.raises(Refused):
        names.shortened(["focus-knob"], 2)


def test_patterns() -> None:
    assert names.filled("{job}_r{revision}", {"job": "Rack", "revision": "3"}) == "Rack_r3"
    for pattern, code in (
        ("{owner}", "pattern-field"),
        ("{job", "pattern-brace"),
        ("x" * 301, "pattern-long"),
    ):
        with pytest.raises(Refused) as refused:
            names.filled(pattern, {"job": "Rack"})
        assert refused.value.code == code


def _names(bench: Bench, order: Order, earlier: tuple[str, ...] = ()) -> list[str]:
    return [name.name for name in named(bench.job, filed(bench.job, bench, order), order, earlier)]


def test_every_field_says_what_it_is_for() -> None:
    bench = settled("Knob")
    order = Order(number=4, day="2026-11-27", time="0915", format="stl", unit=Unit.CM)
    told = {
        field: _names(bench, order.model_copy(update={"pattern": f"x{{{field}}}"}))[0][1:-4]
        for field in names.FIELDS
    }
    assert told == {
        "job": "Knob",
        "body": "Knob",
        "file": "Knob",
        "number": "1",
        "of": "1",
        "count": "1",
        "plate": "1",
        "machine": "Garden-bench-M",
        "takes": "11m",
        "material": "PLA",
        "size": "20x30x5",
        "factor": "1",
        "unit": "cm",
        "revision": "4",
        "date": "2026-11-27",
        "time": "0915",
    }


def test_a_name_released_before_gets_the_revision_and_never_the_same_again() -> None:
    bench = settled("Knob")
    order = Order(pattern="{body}", number=2)
    assert _names(bench, order) == ["Knob.3mf"]
    assert _names(bench, order, ("KNOB.stl",)) == ["Knob_r2.3mf"]
    assert _names(bench, order, ("knob.3mf", "knob_r2.3mf")) == ["Knob_r2-2.3mf"]


def test_names_are_shortened_to_the_display_of_the_machine_and_kept_in_full() -> None:
    bench = settled("Counterweight of the reflector")
    plate = bench.job.plates[0].model_copy(update={"machine": Machine(display=16)})
    bench.job = bench.job.model_copy(update={"plates": (plate,)})
    order = Order(short=True, number=12)
    (name,) = named(bench.job, filed(bench.job, bench, order), order)
    assert len(name.name) <= 16
    assert name.name.endswith("r12.3mf")
    assert name.full == "Counterweight-of-the-reflector_r12.3mf"
