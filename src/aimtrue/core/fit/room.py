"""This module describes the room of sheet 3, Fit, to whatever spans the rooms."""

from __future__ import annotations

from aimtrue.core.fit.answers import COMMANDS
from aimtrue.core.room import Room

FIT = Room(name="fit", commands=COMMANDS)
