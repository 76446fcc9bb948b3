"""What of the CAD kernel is loaded when its process starts; it takes some seconds, so nothing else
imports this.
"""

import OCP.BRepCheck
import OCP.BRepClass3d
import OCP.BRepGProp
import OCP.BRepMesh
import OCP.STEPControl  # noqa: F401
