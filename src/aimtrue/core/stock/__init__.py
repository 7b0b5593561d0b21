"""Stock: standard hardware and simple parts, made to the dimensions of their standards.

``tables`` has the standards, ``parts`` goes from what was typed to a part with its dimensions and shapes,
``solids``
from shapes to exact solids by the CAD kernel. A part that is made is a source like any other: a STEP file
that the same words make again to the last bit.
"""
