"""However the trade states a mix, here it becomes proportions; after this line nothing asks how.

A way of stating a mix is one module in `bases/`: its figures, what it asks for, and how it becomes proportions.
"""

import pkgutil
from importlib import import_module

from keeve.core.proportions import bases

# A module that lies there enters itself into BASES.
for _found in pkgutil.iter_modules(bases.__path__, f"{bases.__name__}."):
    import_module(_found.name)
