"""`mevrik`, and `python -m mevrik`."""

import gc
import sys

gc.disable()  # imports give nothing up: looking through what they make would take a twentieth of a start
from mevrik.cli import main  # noqa: E402

gc.enable()

if __name__ == "__main__":
    sys.exit(main())
