"""Mervid prepares recordings for mixing: it hears beats, fits grids and shows where time drifts."""

import os

# one thread for linear algebra: recordings are heard several at once, and each is quicker so, too
for _name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
    os.environ.setdefault(_name, "1")

__version__ = "0.1.0"
