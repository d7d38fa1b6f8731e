"""Tests. They keep their settings and state in a folder of their own and need no screen and no sound card."""

import atexit
import os
import shutil
import tempfile
from pathlib import Path

from hypothesis import HealthCheck, settings

# No test asserts a time, and a busy machine is no fault of the code: neither do the property tests.
settings.register_profile("any machine", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("any machine")

_HOME = Path(tempfile.mkdtemp(prefix="eager-owl-tests-"))
atexit.register(shutil.rmtree, _HOME, ignore_errors=True)
os.environ["QT_QPA_PLATFORM"] = "offscreen"
for _name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME"):
    os.environ[_name] = str(_HOME / _name)

from eager_owl.log import start_log  # noqa: E402 - it asks where the state is kept

start_log()
