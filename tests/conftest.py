"""Every test has user folders of its own; the demo yard is played once for all of them."""

import os
import tempfile

_HOME = tempfile.mkdtemp(prefix="yardtoll-tests-")
for _name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
    os.environ[_name] = os.path.join(_HOME, _name.lower())
if "PYTEST_XDIST_WORKER" not in os.environ:  # a worker has its parent's, with the demo in it
    os.environ["XDG_CACHE_HOME"] = os.path.join(_HOME, "cache")
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from hypothesis import settings  # noqa: E402

# A busy machine is no failure: nothing here is timed.
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")
