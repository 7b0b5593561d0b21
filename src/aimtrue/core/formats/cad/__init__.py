"""STEP, IGES and BREP through the CAD kernel: solids with names, colours and the file's length unit.

The kernel works in millimetres; what is handed back is in numbers of the file again, so that the
size chain starts where the file does. BREP carries no unit. The kernel takes seconds to load, so this
package is imported only when such a file comes.

``reading`` goes from the file to shapes, ``facets`` from shapes to triangles, ``fineness`` says what other
finenesses would come to.
"""

from aimtrue.core.formats.cad.fineness import steps as steps
from aimtrue.core.formats.cad.reading import read as read
from aimtrue.core.formats.cad.section import section as section
from aimtrue.core.formats.cad.writing import NamedShape as NamedShape
from aimtrue.core.formats.cad.writing import PlacedSolid as PlacedSolid
from aimtrue.core.formats.cad.writing import write as write
from aimtrue.core.formats.cad.writing import write_shapes as write_shapes
