"""What takes long to load in a process that begins with it, where that is asked for."""

import os
import time

from tests.studio.working import Working

time.sleep(float(os.environ.get("LOADS_IN", "0")))


class Slow(Working):
    pass
