"""Meters read ten times a second in the Run view: share of a core, at the start and after a day.

The meters are sockets in a process of their own.
"""

from rows import Row, at_most, printed, show

SERVER = """
import random, socketserver, sys, threading

class Meter(socketserver.StreamRequestHandler):
    def handle(self):
        self.connection.setsockopt(6, 1, 1)
        for line in self.rfile:
            asked = line.strip()
            if asked == b"*IDN?":
                said = "Bench meter"
            elif asked == b"MEAS:POW?":
                said = f"{400 + random.gauss(0, 1):.1f}"
            else:
                said = "120.1"
            self.wfile.write(said.encode() + b"\\\\n")

class Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = daemon_threads = True

servers = [Server(("127.0.0.1", 0), Meter) for _ in range(int(sys.argv[1]))]
for server in servers:
    threading.Thread(target=server.serve_forever, daemon=True).start()
print(*[server.server_address[1] for server in servers], flush=True)
sys.stdin.read()
"""
WINDOW = (
    f"""
SERVER = '''{SERVER}'''
"""
    + """
import os, subprocess, sys, tempfile, time
from pathlib import Path
count, before, seconds = int(sys.argv[1]), int(sys.argv[2]), float(sys.argv[3])
meters = subprocess.Popen(
    [sys.executable, "-c", SERVER, str(count)],
    stdout=subprocess.PIPE, stdin=subprocess.PIPE, text=True,
)
ports = meters.stdout.readline().split()
folder = Path(tempfile.mkdtemp())
os.environ["XDG_CONFIG_HOME"] = str(folder)
profiles = folder / "yardtoll" / "profiles"
profiles.mkdir(parents=True)
(profiles / "fast.toml").write_text(
    'name = "Fast"\\nprotocol = "scpi"\\ninterval_s = 0.1\\n'
    '[direct.power]\\nquery = "MEAS:POW?"\\n[direct.volts]\\nquery = "MEAS:VOLT?"\\n'
)
import yardtoll.cli
import numpy as np
from PySide6.QtCore import QTimer
from yardtoll.bench.samples import SampleBlock
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.planning.loads import LoadSetting
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.running.plan import plan_for_load
from yardtoll.store.records import Load, Meter, Station
from yardtoll.store.yard_file import YardFile
app = make_app()
window = make_window(UserSettings(folder / "settings.ini"))
window.resize(1280, 800)
window.show()
path, plans = folder / "r.yard", []
with YardFile.create(path, "R") as yard:
    for number, port in enumerate(ports):
        station = yard.put(Station(name=f"S{number}", rated_wh=50_000, rated_w=2000))
        meter = yard.put(
            Meter(name=f"M{number}", profile="fast", address=f"TCPIP::127.0.0.1::{port}::SOCKET",
                  reading_share=0.005, floor_w=0.1)
        )
        load = yard.put(Load(name="Lamp", settings=(LoadSetting(name="on", watts=400.0),)))
        plans.append(plan_for_load(station, meter, load))
window.open_yard(path)
for plan in plans:
    window.bench.start_run(plan)
window.go_to("run")
if before:
    time_s = np.arange(before) * 0.1
    watts = 400 + np.random.default_rng(1).normal(0, 1, before)
    block = SampleBlock(time_s=time_s - time_s[-1] - 1, columns={Quantity.POWER: watts})
    for session in window.bench.sessions:
        session.samples.add(block)
begun = []

def begin():
    begun.append((time.process_time(), time.perf_counter(),
                  sum(len(session.samples) for session in window.bench.sessions)))

def end():
    cpu, wall, samples = begun[0]
    taken = sum(len(session.samples) for session in window.bench.sessions) - samples
    wall = time.perf_counter() - wall
    print(100 * (time.process_time() - cpu) / wall, taken / wall / count, flush=True)
    window.bench.leave_runs()
    meters.kill()
    os._exit(0)

QTimer.singleShot(4000, begin)
QTimer.singleShot(int(4000 + 1000 * seconds), end)
app.exec()
"""
)


def _share(meters: int, before: int, seconds: float = 15.0) -> tuple[float, float]:
    share, rate = printed(WINDOW, str(meters), str(before), str(seconds)).split()[-2:]
    return float(share), float(rate)


def rows() -> list[Row]:
    """Percent of a core."""
    one, eight, later = _share(1, 0), _share(8, 0), _share(8, 864_000)
    return [
        Row("1 meter at 10 Hz in the Run view", f"{one[0]:.1f} % of a core", "–"),
        at_most("8 meters at 10 Hz in the Run view", eight[0], 10, "% of a core", 1),
        Row("the same after 24 h", f"{later[0]:.1f} % of a core", "flat",
            later[0] < 1.2 * eight[0] + 1),
        Row("samples a second and meter, of 10", f"{min(eight[1], later[1]):.1f}", "–"),
    ]  # fmt: skip


if __name__ == "__main__":
    show(rows())
