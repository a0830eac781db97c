"""Every reader of files and text, given sound inputs with random damage.

A reader may refuse, in one sentence of its own kinds of errors, or read; nothing else.
"""

import io
import json
import random
import resource
import shutil
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image
from scipy.io import wavfile
from tests.core.notes.stations import evening
from tests.hardness.kills import OLD, Outcome

from yardtoll.bench.errors import BenchError
from yardtoll.bench.profiles.files import load_profile
from yardtoll.core.charge.analysis import ChargeWindow
from yardtoll.core.charge.noted import recharge_of_notes
from yardtoll.core.claims.reading.read import read_claims
from yardtoll.core.conformance.scorecard import ScorePoint
from yardtoll.core.discharge.analysis import Rating, analyse_discharge
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.notes.read import read_notes
from yardtoll.core.notes.trace import trace_of
from yardtoll.core.sound.levels import analyse_recording
from yardtoll.core.waveform.analysis import analyse_wave
from yardtoll.core.waveform.transfer import analyse_transfer
from yardtoll.store.blocks import from_bytes, to_bytes
from yardtoll.store.errors import StoreError
from yardtoll.store.frames import Frame, evidence_of, grey_of, read_frames, rgb_of
from yardtoll.store.integrity import examine
from yardtoll.store.load_file import read_loads
from yardtoll.store.logs.irradiance import read_irradiance
from yardtoll.store.logs.read import read_log
from yardtoll.store.package.reading import read_package
from yardtoll.store.records import ScoreTemplate
from yardtoll.store.scope_files import read_capture, read_sound
from yardtoll.store.score_templates import read_template, write_template
from yardtoll.store.station_library import read_library
from yardtoll.store.yard_file import YardFile

ROOT = Path(__file__).parents[2]
EXAMPLES = ROOT / "examples"
EXPECTED = (StoreError, UnusableDataError, BenchError)
SLOW_S = 5.0
"""Of a processor's time, whatever else the machine is doing."""
STUCK_S = 60.0
RATED = Rating(rated_wh=2048)
_WORDS = (
    b"nan", b"inf", b"-inf", b"1e308", b"9.91E37", b"-1", b"0", b"", b"\xff\xfe", b"\x00", b"'",
    b'"', b"[[", b"{", b"}", b",", b";", b"\t", b"\n\n", b"=1+1", b"<script>", b"../", b"\xc3",
    b"99999999999999999999", b"2026-02-30", b"24:61:61", b"1.000,5", b"\xe2\x88\x92", b"a" * 300,
)  # fmt: skip


def damaged(data: bytes, chance: random.Random, most: int = 8) -> bytes:
    """A few random changes: bytes, words, cuts, repeats."""
    made = bytearray(data)
    for _ in range(chance.randint(1, most)):
        at = chance.randrange(len(made) + 1)
        way = chance.randrange(6)
        if way == 0 and made:
            made[at % len(made)] = chance.randrange(256)
        elif way == 1:
            made[at:at] = chance.choice(_WORDS)
        elif way == 2:
            del made[at : at + chance.randrange(1, 60)]
        elif way == 3:
            made[at:at] = made[max(0, at - chance.randrange(200)) : at]
        elif way == 4:
            end = made.find(b"\n", at)
            made[at : end if end > 0 else at + 5] = chance.choice(_WORDS)
        elif len(made) > 20:
            del made[chance.randrange(len(made)) :]
    return bytes(made)


def _read_notes(path: Path) -> None:
    notes = read_notes(path.read_bytes().decode("utf-8", "replace"))
    analyse_discharge([notes], RATED)
    recharge_of_notes(notes, ChargeWindow(rated_wh=2048))
    trace_of(notes)


def _read_yard(path: Path) -> None:
    examine(path)
    with YardFile.open(path) as yard:
        for run in yard.runs():
            yard.trace(run.id or 0)


PACKAGE = ROOT / "tests" / "store" / "yards" / "package-6"


def _read_in_package(part: str) -> Callable[[Path], None]:
    """A package whose one file is this input."""

    def read(path: Path) -> None:
        with tempfile.TemporaryDirectory(prefix="yardtoll-hardness-") as name:
            folder = Path(name) / "p"
            shutil.copytree(PACKAGE, folder)
            shutil.copy(path, folder / part)
            read_package(folder, Path(name) / "y.yard")

    return read


def _sound_logs() -> list[bytes]:
    logs = [p.read_bytes()[:4000] for p in EXAMPLES.iterdir() if p.suffix in (".csv", ".tsv")]
    return [*logs, b"t;P\n0;1,5\n1;2,5\n", "Zeit,Leistung (W)\n00:00:01,12\n".encode("utf-16")]


def _sound_parquet() -> list[bytes]:
    import polars as pl

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.parquet"
        pl.DataFrame({"time": range(50), "power": [1.5] * 50}).write_parquet(path)
        return [path.read_bytes()]


def _sound_workbook() -> list[bytes]:
    import polars as pl

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.xlsx"
        pl.DataFrame({"time": [0, 1], "power": [1.5, 2.5]}).write_excel(path)
        return [path.read_bytes()]


def _sound_video() -> list[bytes]:
    import av

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "v.mp4"
        with av.open(str(path), "w") as container:
            stream = container.add_stream("mpeg4", rate=10)
            stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
            for grey in (200, 180, 10):
                pixels = np.full((48, 64, 3), grey, dtype=np.uint8)
                for packet in stream.encode(av.VideoFrame.from_ndarray(pixels, format="rgb24")):
                    container.mux(packet)
            for packet in stream.encode():
                container.mux(packet)
        return [path.read_bytes()]


def _sound_picture() -> list[bytes]:
    made = []
    for kind in ("JPEG", "PNG", "WEBP", "BMP"):
        data = io.BytesIO()
        Image.new("RGB", (64, 48), (40, 90, 160)).save(data, kind)
        made.append(data.getvalue())
    return made


def _read_video(path: Path) -> None:
    frames = read_frames(path)
    for frame in (frames[0], frames[-1]):
        rgb_of(frame)


def _sound_scope() -> list[bytes]:
    t = np.arange(400) / 4000
    rows = [f"{a:.6f},{b:.3f}" for a, b in zip(t, 170 * np.sin(377 * t), strict=True)]
    counted = [f"{n};{row.split(',')[1]}".replace(".", ",") for n, row in enumerate(rows)]
    heads = ("time,volts", "Sample Interval,2.5e-4,s\nTIME,CH1", "x-axis,1\nsecond,Volt")
    tables = ["\n".join([head, *rows]) for head in heads]
    tables.append("\n".join(["Nr;Spannung (mV)", "Interval (us);250", *counted]))
    return [table.encode() for table in tables]


def _sound_wav() -> list[bytes]:
    made = []
    tone = np.sin(377 * np.arange(2000) / 8000)
    for kind in (np.int16, np.int32, np.float32):
        data = io.BytesIO()
        most = 1.0 if kind is np.float32 else np.iinfo(kind).max
        wavfile.write(data, 8000, (tone * most).astype(kind))
        made.append(data.getvalue())
    return made


def _read_scope(path: Path) -> None:
    capture = read_capture(path)
    if capture.volts.size < 100_000:
        analyse_wave(capture, 120, 60)
        analyse_transfer(capture, 120, 60)
    if path.suffix == ".wav":
        analyse_recording(read_sound(path), calibration=(94, 0.1))


def _read_picture(path: Path) -> None:
    frame = Frame(path, 0.0)
    grey_of(frame, (0.2, 0.2, 0.8, 0.8))
    evidence_of(frame)


def _sound_yard() -> list[bytes]:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "y.yard"
        shutil.copy(OLD, path)
        YardFile.open(path).close()
        return [path.read_bytes()]


def _sound_library() -> list[bytes]:
    station = {
        "name": "Sorrel", "rated_wh": 300, "rated_w": 300, "chemistry": "NMC",
        "claims": [{"kind": "ac_w", "value": 300, "source": "label"}],
        "received": {"price": 200, "accessories": [{"name": "cord", "present": True}]},
    }  # fmt: skip
    return [
        json.dumps({"format": "yardtoll-stations", "version": 1, "stations": [station]}).encode()
    ]


_BLOCK_ROWS = 1000


def _sound_block() -> list[bytes]:
    watts = np.round(400 + np.random.default_rng(1).normal(0, 5, _BLOCK_ROWS), 1)
    return [to_bytes(np.stack([np.arange(_BLOCK_ROWS) * 0.1, watts]))]


def _read_block(path: Path) -> None:
    try:
        from_bytes(path.read_bytes(), _BLOCK_ROWS, 2)
    except ValueError as error:
        raise StoreError(str(error)) from None


def _sound_scorecard() -> list[bytes]:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "card.json"
        points = (ScorePoint(title="Quiet", quantity="sound", sign="<=", limit=45.0),)
        write_template(ScoreTemplate(name="Nights", version=1, points=points), path)
        return [path.read_bytes()]


def _sound_profiles() -> list[bytes]:
    folder = ROOT / "src" / "yardtoll" / "bench" / "profiles"
    return [path.read_bytes() for path in folder.glob("*.toml")]


@dataclass(frozen=True)
class Reader:
    """One way in.

    Attributes:
        name: what the file is called.
        read: what is under attack.
        sound: inputs it reads well, to be damaged.
        times: damaged inputs in a round of some seconds.
    """

    name: str
    read: Callable[[Path], object]
    sound: Callable[[], list[bytes]]
    times: int = 20_000

    def wrong_with(self, data: bytes, folder: Path) -> str:
        """What is wrong with how it takes such an input; empty if nothing is."""
        path = folder / self.name
        path.write_bytes(data)
        begun_s, spent_s = time.monotonic(), _processor_s()
        try:
            self.read(path)
        except EXPECTED as error:
            if "\n" in str(error) or len(str(error)) > 400:
                return f"a long sentence: {str(error)[:200]!r}"
        except BaseException as error:  # panics of extension modules are no exceptions
            if isinstance(error, KeyboardInterrupt):
                raise
            return f"{type(error).__name__}: {error}"[:200]
        took_s, spent_s = time.monotonic() - begun_s, _processor_s() - spent_s
        if spent_s > SLOW_S or took_s > STUCK_S:
            return f"{spent_s:.0f} s of work in {took_s:.0f} s"
        return ""


def _processor_s() -> float:
    """What this program and the children it waited for have used."""
    used = (resource.getrusage(who) for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN))
    return sum(u.ru_utime + u.ru_stime for u in used)


READERS = {
    "claims text": Reader(
        "listing.txt",
        lambda path: read_claims(path.read_bytes().decode("utf-8", "replace")),
        lambda: [(EXAMPLES / "listing.txt").read_bytes()],
    ),
    "notes": Reader(
        "evening.txt",
        lambda path: analyse_discharge(
            [read_notes(path.read_bytes().decode("utf-8", "replace"))], RATED
        ),
        lambda: [
            (EXAMPLES / "notes.txt").read_bytes(),
            *(evening(n).notes.encode() for n in range(9)),
        ],
    ),
    "profile (TOML)": Reader("profile.toml", load_profile, _sound_profiles),
    "library (JSON)": Reader("stations.json", read_library, _sound_library),
    "loads (JSON)": Reader(
        "loads.json", read_loads, lambda: [(EXAMPLES / "loads.json").read_bytes()]
    ),
    "scorecard (JSON)": Reader("card.json", read_template, _sound_scorecard),
    "log (CSV)": Reader("log.csv", read_log, _sound_logs, 500),
    "irradiance (CSV)": Reader("sun.csv", read_irradiance, _sound_logs, 500),
    "yard": Reader("y.yard", _read_yard, _sound_yard, 300),
    "samples, packed": Reader("block.bin", _read_block, _sound_block, 5_000),
    "package, descriptor (JSON)": Reader(
        "datapackage.json",
        _read_in_package("datapackage.json"),
        lambda: [(PACKAGE / "datapackage.json").read_bytes()],
        100,
    ),
    "package, table (CSV)": Reader(
        "run.csv",
        _read_in_package("tables/run.csv"),
        lambda: [(PACKAGE / "tables" / "run.csv").read_bytes()],
        100,
    ),
    "scope (CSV)": Reader("scope.csv", _read_scope, _sound_scope, 500),
    "sound (WAV)": Reader("sound.wav", _read_scope, _sound_wav, 2_000),
    "frame (picture)": Reader("frame.jpg", _read_picture, _sound_picture, 2_000),
    "frames (video)": Reader("frames.mp4", _read_video, _sound_video, 25),
    "log (Parquet)": Reader("log.parquet", read_log, _sound_parquet, 25),
    "log (spreadsheet)": Reader("log.xlsx", read_log, _sound_workbook, 25),
}


def fuzz(reader: str, times: int, seed: int) -> Outcome:
    """Read so many damaged inputs."""
    attacked = READERS[reader]
    corpus = attacked.sound()
    chance = random.Random(f"{reader} {seed}")
    outcome = Outcome()
    with tempfile.TemporaryDirectory(prefix="yardtoll-hardness-") as folder:
        for _ in range(times):
            data = damaged(chance.choice(corpus), chance)
            wrong = attacked.wrong_with(data, Path(folder))
            outcome.add(wrong and f"{wrong} of {data[:80]!r}")
    return outcome


def fuzz_packages(times: int, seed: int) -> Outcome:
    """Packages of a demo-like yard with one file damaged, or replaced by a link."""
    chance = random.Random(f"package {seed}")
    outcome = Outcome()
    source = PACKAGE
    for _ in range(times):
        with tempfile.TemporaryDirectory(prefix="yardtoll-hardness-") as name:
            folder = Path(name) / "p"
            shutil.copytree(source, folder)
            path = chance.choice([p for p in sorted(folder.rglob("*")) if p.is_file()])
            if chance.random() < 0.1:
                path.unlink()
                path.symlink_to("/etc/hostname")
            else:
                path.write_bytes(damaged(path.read_bytes(), chance))
            target = Path(name) / "y.yard"
            wrong = ""
            try:
                read_package(folder, target)
                YardFile.open(target).close()
            except EXPECTED as error:
                if target.exists() and not examine(target).is_sound:
                    wrong = f"{path.name}: {error}"
            except Exception as error:  # anything else is a finding
                wrong = f"{path.name}: {type(error).__name__} {error}"
            outcome.add(wrong[:200])
    return outcome
