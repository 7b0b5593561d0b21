"""This module describes usual settings, a room of sheet 1, to whatever spans the rooms."""

from __future__ import annotations

from aimtrue.core.room import Room
from aimtrue.core.usual.handlers import ACTIONS

USUAL = Room(name="usual", on="intake", actions=ACTIONS)
