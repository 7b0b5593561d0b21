"""This module says what is decided of bodies and kits: correction, allowance, seat, kept bores, material."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from aimtrue.core.model.ids import BodyId, ReadingId
from aimtrue.core.model.print_lines import PrintLine
from aimtrue.core.model.source import Up
from aimtrue.core.model.value import Axis, Value, Vec3


class DirectionalStretch(Value):
    """A stretch in one direction, a unit vector in the axes of the job, before the factors."""

    direction: Vec3
    factor: float


class StretchedBounds(Value):
    """The bounds of a body under a stretch, in numbers of the file and axes of the job; kept because
    only its whole mesh tells them. ``along``, ``up`` and ``geometry`` say what they were worked out for.
    """

    along: DirectionalStretch
    up: Up
    geometry: str
    low: Vec3
    high: Vec3


class TypedSize(Value):
    """A size or a factor as it was typed, while it is in force: the proof holds the file to it.

    ``axis`` is the one it was typed for; None for a factor of all linked axes. ``bodies`` are those whose
    overall size it is; none for a factor.
    """

    axis: Axis | None
    text: str
    bodies: tuple[BodyId, ...] = ()


class Correction(Value):
    """The factors that bring a body true, one per axis.

    Axes are linked unless they are ``free``: a linked axis follows the others, a free one
    is set alone. A ``held`` axis keeps its factor whatever the readings say. ``set_by`` says in words
    what the factors come from, ``readings`` which readings they meet or come nearest to. ``absolute``
    tells that they come from a real size, which stays when the unit is settled anew; a typed factor
    stays a factor. ``along`` is a stretch in one direction, before the factors. ``typed`` are the sizes and
    factors that were typed and still hold.
    """

    factors: Vec3 = (1.0, 1.0, 1.0)
    free: tuple[bool, bool, bool] = (False, False, False)
    held: tuple[bool, bool, bool] = (False, False, False)
    set_by: str = ""
    readings: tuple[ReadingId, ...] = ()
    absolute: bool = False
    along: DirectionalStretch | None = None
    typed: tuple[TypedSize, ...] = ()


class KeptBore(Value):
    """A bore that keeps the diameter it has in the file, in the unit of the file, whatever the correction.

    Where it is (middle of its axis, axis, diameter and depth) is in numbers and axes of the file.
    """

    point: Vec3
    direction: Vec3
    diameter: float
    depth: float


class PickedFace(Value):
    """A picked face: one of its triangles, and a place on it in numbers and axes of the file."""

    face: int
    point: Vec3


class ShownFace(PickedFace):
    """A face that is to show."""


class Shrinkage(Value):
    """The share per axis by which the material shrinks, so a body is made larger by as much.

    It is that of the job's material, and follows it, where ``of_material`` says so. What was typed stands
    beside it; ``says`` tells where it comes from. Of a calibration there are the ``uncertainty`` of each
    share, and ``lines`` that tell more of the machine where parts of it were measured.
    """

    shares: Vec3 = (0.0, 0.0, 0.0)
    typed: tuple[str, str, str] = ("", "", "")
    of_material: bool = False
    says: str = ""
    uncertainty: Vec3 = (0.0, 0.0, 0.0)
    lines: tuple[PrintLine, ...] = ()

    @property
    def calibrated(self) -> bool:
        """Whether it was measured, so that it tells what will be printed."""
        return any(self.uncertainty) or bool(self.lines)


class Clearance(Value):
    """What is added to the size per axis (negative: taken off), in mm, about the body's own middle."""

    mm: Vec3 = (0.0, 0.0, 0.0)
    typed: tuple[str, str, str] = ("", "", "")


class Decisions(Value):
    """What bodies of a kit share, or one on its own decides for itself: its correction and shrinkage."""

    correction: Correction = Correction()
    shrinkage: Shrinkage = Shrinkage()

    def followed(self, follows: Mapping[BodyId, BodyId], gone: Collection[BodyId]) -> Decisions:
        """Return them after bodies were made anew: a size typed of old ones is that of those that follow.

        Args:
            follows: the id of the body that takes over, by the id of the old one.
            gone: ids of the old ones; a size of one that nobody follows is no longer claimed.
        """
        typed = tuple(
            typed.model_copy(update={"bodies": tuple(follows.get(key, key) for key in typed.bodies)})
            for typed in self.correction.typed
            if all(key not in gone or key in follows for key in typed.bodies)
        )
        if typed == self.correction.typed:
            return self
        return self.model_copy(update={"correction": self.correction.model_copy(update={"typed": typed})})

    def for_one(self, old: str, new: str, readings: Collection[str] = ()) -> Decisions:
        """Return them for a body that goes its own way.

        Sizes that were typed of several bodies together, or of another, do not hold for it; those typed of
        itself do, under its new id. Of the readings that they come from only its own go on being met by it.

        Args:
            old, new: its id, before and from now on.
            readings: ids of the readings that are on it.
        """
        typed = tuple(
            typed.model_copy(update={"bodies": (new,)}) if typed.bodies else typed
            for typed in self.correction.typed
            if typed.bodies in ((), (old,))
        )
        mine = tuple(key for key in self.correction.readings if key in readings)
        correction = self.correction.model_copy(update={"typed": typed, "readings": mine})
        return self.model_copy(update={"correction": correction})
