"""`python -m sow COMMAND ...`, which is what `./sow COMMAND ...` and the installed `sow` run."""

import sys

from .commands import main

if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
