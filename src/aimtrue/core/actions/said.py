"""Actions in words, for history and for the undo button."""

from __future__ import annotations

from aimtrue.core.actions.models import (
    Accept,
    Action,
    AddReading,
    AdjustReading,
    BringHome,
    ChooseMaterial,
    CorrectAlone,
    Delete,
    Duplicate,
    FitMachine,
    FreeAxis,
    HoldAxis,
    ImportReadings,
    KeepAsDrawn,
    KeepBores,
    LeaveKit,
    LookOver,
    MakeKit,
    MoveReading,
    NameReading,
    Paint,
    RelaxReading,
    Remake,
    RemoveReading,
    Rename,
    ResetCorrection,
    ResetSeat,
    ScaleTogether,
    SetAllowance,
    SetFactor,
    SetLeastWall,
    SetReading,
    SettleUnit,
    SetUp,
    SizeAxis,
    SizeLongest,
    SolveReadings,
    StretchAlong,
    TakeIn,
    TakeProposal,
    TurnSeat,
)
from aimtrue.core.lengths import UNIT_NAMES


def describe(action: Action) -> str:
    """Say an action in a few words, for history and for the undo button."""
    match action:
        case TakeIn(sources=sources):
            return f"take in {sources[0].packed_in or sources[0].name}"
        case Remake(says=says):
            return says
        case LookOver(found=found):
            return f"look over {_bodies(tuple(found))}"
        case SettleUnit(unit=unit):
            return f"settle unit: {UNIT_NAMES[unit]}"
        case BringHome(home=home):
            return "bring home" if home else "leave where the file has it"
        case Paint():
            return "colour"
        case Delete(bodies=bodies):
            return f"delete {_bodies(bodies)}"
        case Duplicate(bodies=bodies):
            return f"duplicate {_bodies(bodies)}"
        case MakeKit(name=name):
            return f"make kit {name}"
        case LeaveKit():
            return "leave the kit"
        case SetUp(up=up):
            return f"up is {up.upper()}"
        case Rename(name=name):
            return f"rename to {name}"
        case Accept(code=code, accepted=accepted):
            return f"{'accept' if accepted else 'no longer accept'} {code}"
        case SizeAxis(axis=axis, typed=typed):
            return f"size {axis.upper()} {typed}"
        case SetFactor(typed=typed):
            return f"factor {typed}"
        case FreeAxis(axis=axis, free=free):
            return f"{'free' if free else 'link'} {axis.upper()}"
        case ResetCorrection():
            return "back to the size in the file"
        case HoldAxis(axis=axis, held=held):
            return f"{'hold' if held else 'let go'} {axis.upper()}"
        case ScaleTogether(typed=typed):
            return f"factor {typed}"
        case FitMachine():
            return "fit into the machine"
        case SizeLongest(typed=typed):
            return f"longest side {typed}"
        case AddReading(kind=kind):
            return f"add reading, {kind}"
        case MoveReading():
            return "move gauge"
        case RelaxReading():
            return "relax a band"
        case AdjustReading():
            return "change reading"
        case ImportReadings():
            return "import readings"
        case SolveReadings():
            return "true to the readings"
        case StretchAlong():
            return "stretch along a gauge"
        case TakeProposal(key=key):
            return f"take {key}"
        case KeepAsDrawn(on=on):
            return "keep as drawn" if on else "no longer as drawn"
        case CorrectAlone(on=on):
            return "correct alone" if on else "follow the kit"
        case KeepBores(on=on):
            return "keep bores" if on else "let bores scale"
        case SetLeastWall(typed=typed):
            return f"least wall {typed}"
        case ChooseMaterial(material=material):
            return f"material {material.name}"
        case SetAllowance():
            return "allowance"
        case SetReading(typed=typed):
            return f"reading {typed}"
        case NameReading(name=name):
            return f"name reading {name}"
        case RemoveReading():
            return "remove reading"
        case TurnSeat(axis=axis, typed=typed):
            return f"turn {typed} about {axis.upper()}"
        case ResetSeat():
            return "seat as it came"


def _bodies(keys: tuple[str, ...]) -> str:
    return "a body" if len(keys) == 1 else f"{len(keys)} bodies"
