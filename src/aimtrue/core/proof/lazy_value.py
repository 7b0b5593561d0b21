"""A value of an object that is worked out once, at whatever time it is first asked for.

What the standard library has for this holds, up to Python 3.11, one lock for all objects of a class: bodies
that are proven at the same time would wait for each other.
"""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    once = cached_property
else:

    class Once(cached_property):
        """The same without the lock; two that ask at the very same time may both work it out."""

        def __get__(self, instance: Any, owner: Any = None) -> Any:  # noqa: ANN401 - of any type, or of none that is known
            """Return the value, kept with its object."""
            if instance is None:
                return self
            kept = instance.__dict__
            if self.attrname not in kept:
                kept.setdefault(self.attrname, self.func(instance))
            return kept[self.attrname]

    once = Once
