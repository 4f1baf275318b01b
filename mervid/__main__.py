"""`python -m mervid`: the same as the `mervid` command."""

import sys

from .cli import main

if __name__ == "__main__":
    sys.exit(main())
