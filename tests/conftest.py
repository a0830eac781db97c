"""Every test has user folders of its own; the demo yard is played once for all of them."""

import os
import subprocess
import sys
import tempfile

_HOME = tempfile.mkdtemp(prefix="yardtoll-tests-")
for _name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
    os.environ[_name] = os.path.join(_HOME, _name.lower())
if "PYTEST_XDIST_WORKER" not in os.environ:  # a worker has its parent's, with the demo in it
    os.environ["XDG_CACHE_HOME"] = os.path.join(_HOME, "cache")
if os.environ.get("QT_QPA_PLATFORM", "offscreen") == "offscreen":
    # A screen as large as real ones: windows keep within theirs.
    _SCREEN = os.path.join(os.path.dirname(__file__), "..", "tools", "offscreen.json")
    os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={os.path.abspath(_SCREEN)}"

from hypothesis import settings  # noqa: E402

# A busy machine is no failure: nothing here is timed.
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")

_PLAY = "import sys, pathlib, yardtoll.demo.yard as y; y.fresh_demo(pathlib.Path(sys.argv[1]))"


def pytest_configure(config):
    """The demo is played while the workers begin with other tests, once for both."""
    if "PYTEST_XDIST_WORKER" not in os.environ and getattr(config.option, "numprocesses", None):
        config.demo_play = subprocess.Popen(
            [sys.executable, "-c", _PLAY, _HOME], stdout=subprocess.DEVNULL
        )


def pytest_unconfigure(config):
    if play := getattr(config, "demo_play", None):
        play.wait()
