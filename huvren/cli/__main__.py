"""`python -m huvren.cli`. Nothing that is imported is garbage: collecting waits until the command runs."""

import gc
import sys

gc.disable()

from huvren.cli import main  # noqa: E402

sys.exit(main())
