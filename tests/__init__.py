"""The tests. One thread for each worker: as many workers run as there are cores, and each keeps to its own."""

import os

# Before anything is loaded that counts them; servers that tests start inherit it.
for counted in ("NUMBA_NUM_THREADS", "OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "OPENCV_FOR_THREADS_NUM"):
    os.environ[counted] = "1"
