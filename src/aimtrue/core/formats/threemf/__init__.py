"""3MF core specification: a ZIP package with an XML model part that declares its unit.

Read here: objects, components, transforms, build items, base materials and colours, unit,
and the production extension's further model parts. Written here: objects with
their names and colours, copies as build items, a thumbnail, in the unit asked for. The XML is read with
expat and nothing in it is ever
fetched or expanded: a document type declaration is refused. The long lists of vertices and
triangles are lifted out first and read as tables of numbers where they are written plainly.
"""

from aimtrue.core.formats.threemf.package import read as read
from aimtrue.core.formats.threemf.writing import BuildItem as BuildItem
from aimtrue.core.formats.threemf.writing import BuildObject as BuildObject
from aimtrue.core.formats.threemf.writing import MaterialColour as MaterialColour
from aimtrue.core.formats.threemf.writing import write as write
