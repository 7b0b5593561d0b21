"""This module holds the type of what long work reports its progress to."""

from __future__ import annotations

from collections.abc import Callable

Progress = Callable[[float, str], None]
"""Told a share from 0 to 1, and what is being done."""
