"""`python -m huvren.cli`."""

import sys

from huvren.cli import main

sys.exit(main())
