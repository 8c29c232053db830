"""`python -m mevrik`."""

import sys

from mevrik.cli import main

sys.exit(main())
