"""Writing 3MF: one object per body with its colour, in the unit asked for."""

from __future__ import annotations

import io
import zipfile
from dataclasses import dataclass
from xml.sax.saxutils import quoteattr

import numpy as np

from aimtrue.core.formats.threemf.names import CORE, MODEL_TYPE, UNIT_WORDS, USUAL_MODEL
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.lengths import Unit


@dataclass(frozen=True, eq=False)
class Item:
    """One object to write, in the numbers of the file."""

    name: str
    mesh: Mesh
    colour: str | None = None
    material: str = ""


def write(items: list[Item], unit: Unit, title: str, description: str) -> bytes:
    """Write a 3MF package, the same bytes for the same input.

    Args:
        items: bodies in their common place, coordinates in ``unit``, stored with the
            9 digits that bring every float32 back exactly.
        unit: declared in the file.
        title: shown by programs that open it.
        description: where the size comes from.
    """
    looks = [item for item in items if item.colour]
    first = 2 if looks else 1
    objects = _looks_xml(looks) + "".join(
        _object_xml(number, item, looks.index(item) if item.colour else None)
        for number, item in enumerate(items, first)
    )
    build = "".join(f'<item objectid="{number}"/>' for number in range(first, len(items) + first))
    model = (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<model unit="{UNIT_WORDS[unit]}" xml:lang="en-US" xmlns="{CORE}">'
        f'<metadata name="Title">{_escaped(title)}</metadata>'
        f'<metadata name="Description">{_escaped(description)}</metadata>'
        '<metadata name="Application">Aim True</metadata>'
        f"<resources>{objects}</resources><build>{build}</build></model>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as package:
        for name, text in (("[Content_Types].xml", _TYPES), ("_rels/.rels", _RELS), (USUAL_MODEL, model)):
            entry = zipfile.ZipInfo(name, date_time=(1980, 1, 1, 0, 0, 0))  # no clock: same input, same bytes
            entry.compress_type = zipfile.ZIP_DEFLATED
            package.writestr(entry, text.encode())
    return out.getvalue()


def _looks_xml(items: list[Item]) -> str:
    """One base material per coloured body, as resource 1."""
    if not items:
        return ""
    rows = "".join(
        f"<base name={quoteattr(_printable(item.material or item.name))}"
        f' displaycolor="{(item.colour or "").upper()}FF"/>'
        for item in items
    )
    return f'<basematerials id="1">{rows}</basematerials>'


def _object_xml(number: int, item: Item, look: int | None) -> str:
    points = item.mesh.vertices.astype(np.float32).tolist()
    vertices = "".join('<vertex x="%.9g" y="%.9g" z="%.9g"/>' % tuple(point) for point in points)
    triangles = "".join('<triangle v1="%d" v2="%d" v3="%d"/>' % tuple(f) for f in item.mesh.faces.tolist())
    worn = "" if look is None else f' pid="1" pindex="{look}"'
    return (
        f'<object id="{number}" name={quoteattr(_printable(item.name))} type="model"{worn}><mesh>'
        f"<vertices>{vertices}</vertices><triangles>{triangles}</triangles></mesh></object>"
    )


def _printable(text: str) -> str:
    return "".join(char for char in text if char.isprintable())


def _escaped(text: str) -> str:
    return _printable(text).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


_TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/>'
    "</Types>"
)
_RELS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    f'<Relationship Target="/{USUAL_MODEL}" Id="rel0" Type="{MODEL_TYPE}"/></Relationships>'
)
