"""`python -m mervid`: the same as the `mervid` command."""

import sys

from mervid.cli import main

if __name__ == "__main__":
    sys.exit(main())
