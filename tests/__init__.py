"""Tests. They keep their settings and state in a folder of their own and need no screen and no sound card."""

import atexit
import os
import shutil
import tempfile
from pathlib import Path

_HOME = Path(tempfile.mkdtemp(prefix="eager-owl-tests-"))
atexit.register(shutil.rmtree, _HOME, ignore_errors=True)
os.environ["QT_QPA_PLATFORM"] = "offscreen"
for _name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME"):
    os.environ[_name] = str(_HOME / _name)
