"""This module says what every process of ours does at its start."""

from __future__ import annotations

import contextlib
import ctypes
import signal

_SET_DEATH_SIGNAL = 1  # This is PR_SET_PDEATHSIG of Linux.
_SET_DUMPABLE = 4  # This is PR_SET_DUMPABLE of Linux.
_NEW_NETWORK, _NEW_USER = 0x4000_0000, 0x1000_0000  # These are CLONE_NEWNET and CLONE_NEWUSER of Linux.


def end_with_parent(how: signal.Signals = signal.SIGTERM) -> None:
    """Have the kernel end this process when its parent is killed without a chance to do it."""
    ctypes.CDLL(None).prctl(_SET_DEATH_SIGNAL, how)


def leave_the_network() -> bool:
    """Go on without any network, not even this machine's own; tell whether the kernel let us.

    A user namespace of its own comes first: in it, even root has no rights over other processes.
    """
    library = ctypes.CDLL(None)
    with contextlib.suppress(AttributeError):
        return any(library.unshare(kind) == 0 for kind in (_NEW_NETWORK | _NEW_USER, _NEW_NETWORK))
    return False


def keep_memory_private() -> None:
    """Keep the memory and the environment of this process from other processes of the same user."""
    ctypes.CDLL(None).prctl(_SET_DUMPABLE, 0)


def give_back_memory() -> None:
    """Have the C library give memory that is free back to the machine, where it is the GNU one."""
    with contextlib.suppress(AttributeError):
        ctypes.CDLL(None).malloc_trim(0)
