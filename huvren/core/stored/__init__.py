"""Everything that is stored as a document: its kinds, their versions, shapes, readers and upgraders.

The mechanism is `core/versions.py`. The palette's own shape stands with the palette (`palette/document.py`), since formats and
operations read it too; the others have one file each here.
"""

from huvren.core.palette.document import PALETTE
from huvren.core.stored.archive import LIBRARY, REVISION
from huvren.core.stored.job import ARCHIVE, BATCH, REDUCTION
from huvren.core.stored.link import LINK
from huvren.core.stored.recipe import RECIPE
from huvren.core.versions import KINDS

__all__ = ["ARCHIVE", "BATCH", "KINDS", "LIBRARY", "LINK", "PALETTE", "RECIPE", "REDUCTION", "REVISION"]
