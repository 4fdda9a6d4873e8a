"""Lets every Python process of the tests believe that it is another moment (`./run test --at`).

Python reads this file by its name when it starts, where this folder is on its path.
"""

import os
import time

ahead_ms = int(os.environ.get("HAZERIDGE_TEST_AHEAD_MS", "0"))
if ahead_ms:
    import time_machine

    time_machine.travel(time.time() + ahead_ms / 1000, tick=True).start()
