"""Inbetrieb's server: Django apps over the core."""

import os

# The matrices here are small: threads of the linear algebra wait for each other longer than they work,
# and take the processor from whoever else is served. Said before NumPy is loaded.
for _library in ("OPENBLAS", "OMP", "MKL"):
    os.environ.setdefault(f"{_library}_NUM_THREADS", "1")
