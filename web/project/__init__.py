"""Settings, addresses and everything that is the same for every page."""

import os

# The matrices here have a dozen rows: a second thread of the linear algebra would only spin beside
# the pages. It is read when numpy is first imported.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
