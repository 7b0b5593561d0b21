"""How long work tells how far it is."""

from __future__ import annotations

from collections.abc import Callable

Progress = Callable[[float, str], None]
"""Told a share from 0 to 1, and what is being done."""
