"""Names that a 3MF package uses: of its parts, its types and its units."""

from __future__ import annotations

from aimtrue.core.model.lengths import Unit

MODEL_TYPE = "http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"
THUMBNAIL_TYPE = "http://schemas.openxmlformats.org/package/2006/relationships/metadata/thumbnail"
CORE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
USUAL_MODEL = "3D/3dmodel.model"
UNITS = {
    "micron": Unit.UM,
    "millimeter": Unit.MM,
    "centimeter": Unit.CM,
    "inch": Unit.IN,
    "foot": Unit.FT,
    "meter": Unit.M,
}
UNIT_WORDS = {unit: word for word, unit in UNITS.items()}
