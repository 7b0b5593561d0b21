"""What every process of ours does at its start."""

from __future__ import annotations

import ctypes
import signal

_SET_DEATH_SIGNAL = 1  # PR_SET_PDEATHSIG of Linux


def end_with_parent(how: signal.Signals = signal.SIGTERM) -> None:
    """Have the kernel end this process when its parent is killed without a chance to do it."""
    ctypes.CDLL(None).prctl(_SET_DEATH_SIGNAL, how)
