"""Answers of isolated processes as data: nothing that they send is called here.

What a reader of strangers' files sends back is not to be trusted, should the file have taken it over. It
travels by pickle, whose reader calls whatever the bytes name. Ours knows a few names only: the values of
our own core, which are made of what they hold and do nothing, and arrays.
"""

from __future__ import annotations

import dataclasses
import enum
import importlib
import io
import pickle
from typing import Any

from pydantic import BaseModel

from aimtrue.core.errors import AimTrueError

_OURS = ("aimtrue.core.", "aimtrue.work.sandboxed", "aimtrue.standins.receiving")
_KNOWN = {
    ("aimtrue.core.errors", "_rebuild"),
    ("builtins", "complex"),
    ("builtins", "frozenset"),
    ("builtins", "set"),
    ("builtins", "slice"),
    ("collections", "OrderedDict"),
    ("copyreg", "_reconstructor"),
    ("builtins", "object"),
    ("numpy", "dtype"),
    ("numpy", "ndarray"),
    ("numpy._core.multiarray", "_reconstruct"),
    ("numpy._core.multiarray", "scalar"),
    ("numpy._core.numeric", "_frombuffer"),
    ("pathlib", "PosixPath"),
    ("pathlib", "Path"),
}
_VALUES = (BaseModel, enum.Enum, AimTrueError)


class UntrustedAnswer(Exception):
    """An answer names what is no value of ours."""


def packed(value: Any) -> bytes:  # noqa: ANN401 - of any type, or of none that is known
    """Return an answer as bytes."""
    return pickle.dumps(value, protocol=5)


def unpacked(data: bytes) -> Any:  # noqa: ANN401 - of any type, or of none that is known
    """Return the answer that bytes hold.

    Raises:
        UntrustedAnswer: they name anything that is not a value of ours or an array, or are no answer at all.
    """
    try:
        return _Reader(io.BytesIO(data)).load()
    except UntrustedAnswer:
        raise
    except Exception as error:  # noqa: BLE001 - whatever it is, it is told
        raise UntrustedAnswer(f"the answer is not understood: {type(error).__name__}") from None


class _Reader(pickle.Unpickler):
    """Finds what is known by name, and nothing else."""

    def find_class(self, module: str, name: str) -> Any:  # noqa: ANN401 - of any type, or of none that is known
        """Return what an answer names."""
        if (module, name) in _KNOWN:
            return super().find_class(module, name)
        if module.startswith(_OURS) and "." not in name:
            model = getattr(importlib.import_module(module), name, None)
            if isinstance(model, type) and (dataclasses.is_dataclass(model) or issubclass(model, _VALUES)):
                return model
        raise UntrustedAnswer(f"an answer names {module}.{name}"[:200])
