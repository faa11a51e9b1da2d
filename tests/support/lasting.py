"""What lasts as long as the process that runs tests: a browser, an application, a database server."""

import atexit
from contextlib import ExitStack

LASTING = ExitStack()
atexit.register(LASTING.close)  # a process of the runner ends without its exit handlers, and closes it itself
