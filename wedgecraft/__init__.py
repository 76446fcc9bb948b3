"""Wedgecraft: fixture layouts with the most good parts a cycle, held and in tolerance."""

import os

__version__ = "0.1.0"

# Before numpy is loaded: what is solved here is small, so that threads inside a product cost far
# more than they give, and they change the last digit of answers.
for _name in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ[_name] = "1"
