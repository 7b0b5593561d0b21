"""Writing 3MF: objects with names and colours, alone or as components, build items that place them, a
thumbnail.

Source: 3MF Core Specification 1.3.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from html import escape

import numpy as np

from aimtrue.core.formats.columns import rows_of_floats, rows_of_whole
from aimtrue.core.formats.packing import packed
from aimtrue.core.formats.threemf.names import CORE, MODEL_TYPE, THUMBNAIL_TYPE, UNIT_WORDS, USUAL_MODEL
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.lengths import Unit

_THUMBNAIL = "Metadata/thumbnail.png"


@dataclass(frozen=True)
class MaterialColour:
    """A colour, ``#rrggbb``, by the name of its material."""

    name: str
    colour: str


@dataclass(frozen=True, eq=False)
class BuildObject:
    """One object to write, in the numbers of the file.

    Attributes:
        name, mesh: of it.
        colour, material: of all of it.
        looks: of pieces of it, each a look or None and how many triangles, where they differ.
    """

    name: str
    mesh: Mesh
    colour: str | None = None
    material: str = ""
    looks: tuple[tuple[MaterialColour | None, int], ...] = ()

    @property
    def pieces(self) -> tuple[tuple[MaterialColour | None, int], ...]:
        """Looks of runs of triangles, in order."""
        own = MaterialColour(self.material or self.name, self.colour) if self.colour else None
        return self.looks or ((own, self.mesh.triangles),)


@dataclass(frozen=True, eq=False)
class BuildItem:
    """A build item: objects by their numbers, moved by (3,), or where they are.

    Several are the components of one object that has the ``name``: they stay together wherever it is opened.
    """

    items: tuple[int, ...]
    move: Floats | None
    name: str = ""


def write(  # noqa: PLR0913 - told apart by their names
    items: Sequence[BuildObject],
    unit: Unit,
    title: str,
    description: str,
    *,
    placed: Sequence[BuildItem] | None = None,
    more: Mapping[str, str] | None = None,
    thumbnail: Callable[[], bytes] | None = None,
) -> bytes:
    """Write a 3MF package, the same bytes for the same input.

    Args:
        items: bodies in their common place, coordinates in ``unit``, stored with the
            digits that bring every float32 back exactly.
        unit: declared in the file.
        title: shown by programs that open it.
        description: where the size comes from.
        placed: which objects stand where, in order; each once where it is, unless told.
        more: further metadata, by the names that the core specification has.
        thumbnail: gives a picture, PNG, once the rest is written.
    """
    looks = list(dict.fromkeys(look for item in items for look, _ in item.pieces if look))
    first = 2 if looks else 1
    metadata = {"Title": title, "Description": description, "Application": "Aim True", **(more or {})}
    head = (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<model unit="{UNIT_WORDS[unit]}" xml:lang="en-US" xmlns="{CORE}">'
        + "".join(f'<metadata name="{name}">{_escaped(text)}</metadata>' for name, text in metadata.items())
        + f"<resources>{_looks_xml(looks)}"
    )
    objects = b"".join(_object_xml(number, item, looks) for number, item in enumerate(items, first))
    end = _build_xml(
        placed or [BuildItem((number,), None) for number in range(len(items))], first, len(items)
    )
    model = head.encode() + objects + end.encode()
    drawn = thumbnail() if thumbnail else None
    parts = [("[Content_Types].xml", _types(drawn)), ("_rels/.rels", _relations(drawn))]
    parts.append((USUAL_MODEL, model))
    if drawn is not None:
        parts.append((_THUMBNAIL, drawn))
    return packed(parts)


def _build_xml(build: Sequence[BuildItem], first: int, objects: int) -> str:
    """Return what ends a model: objects put together of others, and which of all stand where."""
    together = list(dict.fromkeys(item.items for item in build if len(item.items) > 1))
    names = {item.items: item.name for item in reversed(build)}
    number_of: dict[tuple[int, ...], int] = {(at,): first + at for at in range(objects)}
    number_of |= {items: first + objects + number for number, items in enumerate(together)}
    assemblies = "".join(_components_xml(number_of[items], names[items], items, first) for items in together)
    lines = "".join(_item_xml(number_of[item.items], item.move) for item in build)
    return f"{assemblies}</resources><build>{lines}</build></model>"


def _looks_xml(looks: Sequence[MaterialColour]) -> str:
    """One base material per look, as resource 1."""
    if not looks:
        return ""
    rows = "".join(
        f'<base name="{_escaped(look.name)}" displaycolor="{look.colour.upper()}FF"/>' for look in looks
    )
    return f'<basematerials id="1">{rows}</basematerials>'


def _object_xml(number: int, item: BuildObject, looks: Sequence[MaterialColour]) -> bytes:
    vertices = rows_of_floats(item.mesh.vertices, start='<vertex x="', between=('" y="', '" z="'), end='"/>')
    pieces = item.pieces
    alike = len({look for look, _ in pieces}) == 1
    worn = f' pid="1" pindex="{looks.index(pieces[0][0])}"' if alike and pieces[0][0] else ""
    triangles, start = [], 0
    for look, count in pieces:
        own = "" if alike or look is None else f' pid="1" p1="{looks.index(look)}'
        faces = item.mesh.faces[start : start + count]
        end = f'"{own}"/>' if own else '"/>'
        triangles.append(rows_of_whole(faces, start='<triangle v1="', between=('" v2="', '" v3="'), end=end))
        start += count
    return b"".join(
        (
            f'<object id="{number}" name="{_escaped(item.name)}" type="model"{worn}>'.encode(),
            b"<mesh><vertices>",
            vertices,
            b"</vertices><triangles>",
            *triangles,
            b"</triangles></mesh></object>",
        )
    )


def _components_xml(number: int, name: str, items: tuple[int, ...], first: int) -> str:
    """An object that others are put together to, each where it is."""
    rows = "".join(f'<component objectid="{first + item}"/>' for item in items)
    name_attribute = f' name="{_escaped(name)}"' if name else ""
    return f'<object id="{number}"{name_attribute} type="model"><components>{rows}</components></object>'


def _item_xml(number: int, move: Floats | None) -> str:
    if move is None:
        return f'<item objectid="{number}"/>'
    x, y, z = move.astype(np.float32)
    return f'<item objectid="{number}" transform="1 0 0 0 1 0 0 0 1 {x!s} {y!s} {z!s}"/>'


def _escaped(text: str) -> str:
    """Return text as an element or the value of an attribute can hold it.

    Escapes by number, as one is usual for the apostrophe, are not known to every reader; it needs none.
    """
    seen = "".join(char for char in text if char.isprintable())
    return escape(seen, quote=False).replace('"', "&quot;")


def _types(thumbnail: bytes | None) -> bytes:
    png = '<Default Extension="png" ContentType="image/png"/>' if thumbnail is not None else ""
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
        '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
        '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/>'
        f"{png}</Types>"
    ).encode()


def _relations(thumbnail: bytes | None) -> bytes:
    picture = f'<Relationship Target="/{_THUMBNAIL}" Id="rel1" Type="{THUMBNAIL_TYPE}"/>'
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
        f'<Relationship Target="/{USUAL_MODEL}" Id="rel0" Type="{MODEL_TYPE}"/>'
        f"{picture if thumbnail is not None else ''}</Relationships>"
    ).encode()
