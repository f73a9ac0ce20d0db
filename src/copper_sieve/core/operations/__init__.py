"""Pure functions that compute maps, each declared once with its inputs and parameters.

Importing this package registers every operation in its subpackages; adding an operation means
adding a module there.
"""

import importlib
import pkgutil

from copper_sieve.core.operations.declaration import (
    OPERATIONS,
    Operation,
    OperationInput,
    Parameter,
    SurfaceContext,
    default_operation,
    get_operation,
)

for _module in sorted(one.name for one in pkgutil.walk_packages(__path__, f"{__name__}.")):
    importlib.import_module(_module)

__all__ = [
    "OPERATIONS",
    "Operation",
    "OperationInput",
    "Parameter",
    "SurfaceContext",
    "default_operation",
    "get_operation",
]
