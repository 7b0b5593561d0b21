"""Results that are not worked out again while what they come from is the same.

Jobs, bodies and decisions never change, and what an action leaves alone stays the same object. So whether
the inputs of a result changed is told by which objects they are, without looking into them.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from threading import Lock
from time import monotonic
from typing import Any, Generic, TypeVar
from weakref import WeakSet

K = TypeVar("K", bound=Hashable)
R = TypeVar("R")


@dataclass(slots=True)
class _Kept(Generic[R]):
    """A result, with what it comes from and when it was last asked for."""

    things: tuple[object, ...]
    result: R
    used: float


class Memo(Generic[R]):
    """The last results of one function, by its inputs.

    Args:
        most: how many results are kept.

    Example:
        ``memo.get((body, decisions), (scale,), lambda: work_out(body, decisions, scale))``: known again for
            the very same body and decisions, and an equal scale.
    """

    def __init__(self, most: int) -> None:
        self._most = most
        # Ordered, because the oldest is found at once in it.
        self._kept: OrderedDict[Hashable, _Kept[R]] = OrderedDict()
        self._lock = Lock()
        _EVERY.add(self)

    def get(self, things: tuple[object, ...], plain: tuple[Hashable, ...], work_out: Callable[[], R]) -> R:
        """Return the result for these inputs, worked out unless it is known.

        Args:
            things: immutable values, told apart by which objects they are.
            plain: numbers and words, told apart by what they are.
            work_out: makes the result.
        """
        key = (tuple(map(id, things)), plain)
        kept = self._kept.get(key)
        if kept is not None:
            kept.used = monotonic()
            return kept.result
        return self._keep(key, things, work_out()).result

    def get_all(
        self,
        each: Sequence[tuple[object, ...]],
        plain: tuple[Hashable, ...],
        work_out: Callable[[list[int]], list[R]],
    ) -> list[R]:
        """Return the results for several inputs, those not known worked out together.

        Args:
            each: the immutable values of each; see :meth:`get`.
            plain: numbers and words that are the same for all.
            work_out: makes the results of those whose numbers it is given, in that order.
        """
        keys = [(tuple(map(id, things)), plain) for things in each]
        kept_values = [self._kept.get(key) for key in keys]
        missing = [i for i, kept in enumerate(kept_values) if kept is None]
        for i, result in zip(missing, work_out(missing) if missing else (), strict=True):
            kept_values[i] = self._keep(keys[i], each[i], result)
        now = monotonic()
        for kept in kept_values:
            if kept is not None:
                kept.used = now
        return [kept.result for kept in kept_values if kept is not None]

    def forget(self, before: float) -> None:
        """Let go of results that were last asked for before a time of :func:`time.monotonic`."""
        with self._lock:
            for key in [key for key, kept in self._kept.items() if kept.used < before]:
                del self._kept[key]

    def _keep(self, key: Hashable, things: tuple[object, ...], result: R) -> _Kept[R]:
        # The things are held with the result, so that no other object gets their ids meanwhile.
        kept = _Kept(things, result, monotonic())
        with self._lock:
            self._kept[key] = kept
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return kept


class RecentValues(Generic[K, R]):
    """The last values by their keys; of more than so many the one goes that was not asked for the longest.

    Args:
        most: how many values are kept.
    """

    def __init__(self, most: int) -> None:
        self._most = most
        self._kept: OrderedDict[K, tuple[R, float]] = OrderedDict()
        self._lock = Lock()
        _EVERY.add(self)

    def get(self, key: K) -> R | None:
        """Return a value, None where it is not kept any more."""
        with self._lock:
            kept = self._kept.pop(key, None)
            if kept is None:
                return None
            self._kept[key] = kept[0], monotonic()
            return kept[0]

    def keep(self, key: K, value: R) -> R:
        """Keep a value and return it."""
        with self._lock:
            self._kept.pop(key, None)
            self._kept[key] = value, monotonic()
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return value

    def forget(self, before: float) -> None:
        """Let go of values that were last asked for before a time of :func:`time.monotonic`."""
        with self._lock:
            while self._kept and next(iter(self._kept.values()))[1] < before:
                self._kept.popitem(last=False)


_EVERY: WeakSet[Memo[Any] | RecentValues[Any, Any]] = WeakSet()


def forget_unused(seconds: float) -> None:
    """Let go of every result and value, of whatever function, that nobody asked for so long.

    Whoever works on something asks for it all the time; what is held for a job that nobody has open is not
    worth its memory.
    """
    before = monotonic() - seconds
    for kept in list(_EVERY):
        kept.forget(before)
