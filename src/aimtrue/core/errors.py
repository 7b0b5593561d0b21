"""This module says what can go wrong, in words a person at the desk can act on.

Every error says *what* is wrong, *where*, and *what to do*. The command line
and the interface print these three and nothing else; a stack trace is a defect.
"""

from __future__ import annotations


class AimTrueError(Exception):
    """Something the user can understand and act on.

    Attributes:
        code: stable kebab-case name of the problem.
        says: what is wrong, one sentence without a full stop.
        where: the place in the file or the field typed into; may be empty.
        remedy: what to do about it; may be empty.
    """

    def __init__(self, code: str, says: str, *, where: str = "", remedy: str = "") -> None:
        super().__init__(says)
        self.code = code
        self.says = says
        self.where = where
        self.remedy = remedy

    def line(self) -> str:
        """Return the whole message as one line."""
        text = self.says + (f", {self.where}" if self.where else "")
        return f"{text}; {self.remedy}" if self.remedy else text

    def __reduce__(self) -> tuple[object, ...]:
        # Keyword-only fields do not survive Exception's default pickling, and errors
        # travel from the isolated reading process to the worker.
        return _rebuild, (type(self), self.code, self.says, self.where, self.remedy)


class UnreadableFile(AimTrueError):
    """The bytes are not a usable model file."""


class Refused(AimTrueError):
    """An action or a typed value cannot be taken; the old state stays."""


class UnitUnsettled(Refused):
    """The unit of a source is not settled, so no size can be worked with."""


def _rebuild(kind: type[AimTrueError], code: str, says: str, where: str, remedy: str) -> AimTrueError:
    return kind(code, says, where=where, remedy=remedy)
