"""A whole with a thread on the wall of a bore or a boss: where it is, and where it ends.

Places are told about the axis: height, distance, and how far along one pitch of the profile they are. The
profile
is that of ISO 68-1, by its own formulas: H = P cos 30°, crest P/8 wide, flanks of 30°; an internal thread
is 5 H/8 deep, an external one 17 H/24 (ISO 965-1).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from aimtrue.core.model.shaping import ThreadCut
from aimtrue.core.proof.regions.region import ROUND, Bools, Region
from aimtrue.core.proof.surface import Points

_PAST = 3e-4
"""What fills a bore, or pares a boss, may go past its wall by this share of the radius."""
_SLOPE = np.tan(np.radians(30.0))


@dataclass(frozen=True, eq=False)
class ThreadedRegion(Region):
    """What a whole bounds once a thread was cut into a wall of it, or added to it."""

    whole: Region
    shaping: ThreadCut

    @property
    def _crest(self) -> float:
        """Radius of the outermost of the thread."""
        play = self.shaping.play if self.shaping.internal else -self.shaping.play
        return (self.shaping.diameter + play) / 2

    @property
    def _depth(self) -> float:
        share = 5.0 / 8.0 if self.shaping.internal else 17.0 / 24.0
        return float(share * np.cos(np.radians(30.0)) * self.shaping.pitch)

    def _about(self, points: Points) -> tuple[Points, Points, Points]:
        """Height, distance from the axis, and the distance along it from the middle of the nearest crest."""
        cut = self.shaping
        way, start = np.asarray(cut.way), np.asarray(cut.start)
        away = points - np.asarray(cut.point)
        height = away @ way
        x, y = away @ start, away @ np.cross(way, start)
        turned = np.arctan2(y, x) / (2 * np.pi) * (-1 if cut.left else 1)
        along = (height / cut.pitch - turned) % 1.0
        return height, np.hypot(x, y), np.minimum(along, 1.0 - along) * cut.pitch

    def _radius(self, from_crest: Points) -> Points:
        """Radius of the thread so far along its axis from the middle of a crest."""
        down = (from_crest - self.shaping.pitch / 16) / _SLOPE
        return np.asarray(self._crest - np.clip(down, 0.0, self._depth))

    def inside(self, points: Points) -> Bools:
        """As the whole, less or more what the thread takes or adds."""
        cut = self.shaping
        height, aside, from_crest = self._about(points)
        between = (height > cut.low) & (height < cut.high)
        within = between & (aside < self._radius(from_crest))
        whole = self.whole.inside(points)
        wall = between & (aside < cut.wall / 2)
        if cut.internal:
            return np.asarray((whole | wall if cut.add else whole) & ~within)
        return np.asarray(whole | within if cut.add else whole & ~(wall & ~within))

    def ends(self, points: Points) -> Points:
        """To the whole's surface, to a flank, crest or root, or to the ends of the thread."""
        cut = self.shaping
        height, aside, from_crest = self._about(points)
        beyond = np.maximum(np.maximum(cut.low - height, height - cut.high), 0.0)
        flank = np.hypot(self._from_profile(aside, from_crest), beyond)
        level = np.minimum(abs(height - cut.low), abs(height - cut.high))
        far = np.maximum(aside - max(self._crest, cut.wall / 2 * (1 + _PAST)), 0.0)
        wall = np.hypot(np.maximum(abs(aside - cut.wall / 2) - _PAST * cut.wall / 2, 0.0), beyond)
        near = [self.whole.ends(points), flank, np.hypot(level, far), wall]
        return np.asarray(np.min(near, axis=0))

    def _from_profile(self, aside: Points, from_crest: Points) -> Points:
        """The distance from the profile in a half-plane through the axis, by its three straight pieces."""
        cut = self.shaping
        a, b = cut.pitch / 16, cut.pitch / 16 + self._depth * _SLOPE
        crest = np.hypot(aside - self._crest, np.maximum(from_crest - a, 0.0))
        root = np.hypot(aside - (self._crest - self._depth), np.maximum(b - from_crest, 0.0))
        # The flank as a segment from (a, crest) to (b, root).
        run = np.array([b - a, -self._depth])
        share = ((from_crest - a) * run[0] + (aside - self._crest) * run[1]) / (run @ run)
        share = np.clip(share, 0.0, 1.0)
        flank = np.hypot(from_crest - a - share * run[0], aside - self._crest - share * run[1])
        return np.asarray(np.min([crest, root, flank], axis=0))

    def loose(self, points: Points) -> Points:
        """As the whole, and what facets lose of a circle where the thread is near."""
        height, aside, _ = self._about(points)
        cut = self.shaping
        reach = self._crest + cut.pitch
        near = (aside < reach) & (height > cut.low - cut.pitch) & (height < cut.high + cut.pitch)
        return np.asarray(self.whole.loose(points) + np.where(near, ROUND * reach, 0.0))

    def telling(self) -> Points:
        """Places in the middle of ridges and grooves, all along the thread."""
        cut = self.shaping
        count = int(np.clip(12 * (cut.high - cut.low) / cut.pitch, 24, 4000))
        turns = np.linspace(cut.low / cut.pitch, cut.high / cut.pitch, count)
        angle = 2 * np.pi * turns * (-1 if cut.left else 1)
        way, start = np.asarray(cut.way), np.asarray(cut.start)
        out = np.cos(angle)[:, None] * start + np.sin(angle)[:, None] * np.cross(way, start)
        middle = self._crest - self._depth / 2
        places = [
            np.asarray(cut.point) + middle * out + (cut.pitch * (turns + half))[:, None] * way
            for half in (0.0, 0.5)
        ]
        return np.concatenate(places)
