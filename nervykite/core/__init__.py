"""The job itself: no web, no database, no global state; arrays in, arrays out."""

import os

# Threads that wait for the next kernel spin in place; left to itself, OpenMP lets them do so for a millisecond and
# more. When two kernels run at once, in two threads or two processes, the waiting ones keep the working ones from
# their core, and small kernels become hundreds of times slower. A short spin costs a kernel that is alone nothing.
os.environ.setdefault("GOMP_SPINCOUNT", "1000")
# For the same reason kernels run on OpenMP wherever it is there: numba takes TBB before it if the machine happens to
# have that library, whatever it came with, and nothing shortens the spinning of its threads.
os.environ.setdefault("NUMBA_THREADING_LAYER_PRIORITY", "omp tbb workqueue")
# Pictures larger than this are refused by their headers, before room is made for them, see `footage/opening.py`.
os.environ.setdefault("OPENCV_IO_MAX_IMAGE_PIXELS", str(8192 * 8192))
os.environ.setdefault("OPENCV_IO_MAX_IMAGE_WIDTH", "8192")
os.environ.setdefault("OPENCV_IO_MAX_IMAGE_HEIGHT", "8192")
