"""This module says what is held from below: the columns under what stands out over the layer beneath it."""

from __future__ import annotations

from aimtrue.core.cost.paths.regions import Region, grown, nothing

_LEAST_MM2 = 0.05
"""Less than this hanging over is the step of a layer at a facet, and holds itself."""


def support_regions(
    layers: list[Region],
    reach: float,
    gap: float,
    *,
    lifted: bool,
    beneath: list[Region] | None = None,
) -> list[Region]:
    """Return the region of support in each layer of a body.

    From the top down: what a layer has that stands out over the one below by more than the reach is held by
    all layers down to the plate, or to what is under it.

    Args:
        layers: the regions of the body.
        reach: how far a layer may stand out over the one below, in mm.
        gap: to keep between a support and a wall, in mm.
        lifted: whether the lowest layer of a body above the plate needs support, too; not where it is printed
            on an earlier pass.
        beneath: the regions of all bodies of its seat, where there are others: they hold it, too.
    """
    solid = beneath or layers
    supports = [nothing()] * len(layers)
    held = nothing()
    for number in range(len(layers) - 1, 0, -1):
        layer, under = layers[number], solid[number - 1]
        if layer is not under and not layer.is_empty() and (lifted or not layers[number - 1].is_empty()):
            hangs = layer if under.is_empty() else layer - grown(under, reach)
            if hangs.area() > _LEAST_MM2:
                held = held + hangs
        if not held.is_empty():
            if not under.is_empty():
                held = held - grown(under, gap)
            supports[number - 1] = held
    return supports


def together(bodies: list[list[Region]]) -> list[Region]:
    """Return what several bodies cover in each layer."""
    layers = []
    for regions in zip(*bodies, strict=True):
        covered = nothing()
        for region in regions:
            covered = region if covered.is_empty() else covered if region.is_empty() else covered + region
        layers.append(covered)
    return layers


def supports_of_seats(
    bodies: list[list[Region]], seats: list[int], lifted: list[bool], reach: float, gap: float
) -> list[list[Region]]:
    """Return the supports of each body of a plate, as :func:`support_regions` has them.

    Args:
        bodies: the regions of the layers of each.
        seats: by a number, which of them stand in one seat, and so may stand on each other.
        lifted: of each, whether its lowest layer needs support where it is above the plate.
        reach: how far a layer may stand out over the one below, in mm.
        gap: to keep between a support and a wall, in mm.
    """
    by_seat: dict[int, list[list[Region]]] = {}
    for regions, seat in zip(bodies, seats, strict=True):
        by_seat.setdefault(seat, []).append(regions)
    all_of_seat = {seat: together(each) for seat, each in by_seat.items() if len(each) > 1}
    return [
        support_regions(regions, reach, gap, lifted=lift, beneath=all_of_seat.get(seat))
        for regions, seat, lift in zip(bodies, seats, lifted, strict=True)
    ]
