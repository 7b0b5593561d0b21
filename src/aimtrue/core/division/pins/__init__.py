"""Pins at the cuts of a division.

``placing`` chooses where they go, ``clearance`` tells whether there is room, ``solids`` makes them.
"""

from aimtrue.core.division.pins.clearance import have_room as have_room
from aimtrue.core.division.pins.clearance import refuse_in_the_way as refuse_in_the_way
from aimtrue.core.division.pins.placing import WALL_MM as WALL_MM
from aimtrue.core.division.pins.placing import on_plane as on_plane
from aimtrue.core.division.pins.placing import placed as placed
from aimtrue.core.division.pins.placing import refuse_odd as refuse_odd
from aimtrue.core.division.pins.placing import said as said
from aimtrue.core.division.pins.solids import dowel as dowel
from aimtrue.core.division.pins.solids import measured_clearance as measured_clearance
from aimtrue.core.division.pins.solids import pinned as pinned
from aimtrue.core.division.pins.solids import standing_out as standing_out
