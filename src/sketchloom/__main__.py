"""`python -m sketchloom`."""

import sys

from sketchloom.cli.main import main

if __name__ == "__main__":
    sys.exit(main())
